package edit

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// copySteps puts copies of some steps, with what is in them, at a spot of a macro,
// before the steps that stand there from that place on. It returns their new ids.
func copySteps(d *show.Draft, from, roots []*show.Step, to string, at macro.Spot, there []*show.Step) (made []string) {
	ids := map[string]string{}
	var all []*show.Step
	for _, root := range roots {
		for _, st := range macro.Under(from, root.ID) {
			c := *st
			c.ID, c.Macro = newID(), to
			ids[st.ID] = c.ID
			if st.ID == root.ID {
				c.Parent = at.Parent
				made = append(made, c.ID)
			} else {
				c.Parent = ids[st.Parent]
			}
			all = append(all, &c)
			d.Put(&c)
		}
	}
	for _, st := range macro.Place(append(slices.Clone(there), all...), made, at) {
		d.Put(st)
	}
	return made
}

// StepFields are what can be said of a step.
type StepFields struct {
	Kind   string  `json:"kind"`
	Name   string  `json:"name,omitempty"`
	Note   string  `json:"note,omitempty"`
	Off    bool    `json:"off,omitempty"`
	Action *Action `json:"action,omitempty"`
	Ms     int     `json:"ms,omitempty"`
	GapMs  int     `json:"gapMs,omitempty"`
	Frames float64 `json:"frames,omitempty"`
	When   string  `json:"when,omitempty"`
	// Sentences say the condition, in place of When.
	Sentences []expr.Sentence `json:"sentences,omitempty"`
	LimitMs   int             `json:"limitMs,omitempty"`
	Else      string          `json:"else,omitempty"`
	Curve     string          `json:"curve,omitempty"`
	Weight    int             `json:"weight,omitempty"`
	Count     int             `json:"count,omitempty"`
	Run       string          `json:"run,omitempty"`
}

// fillStep makes a step of what was entered. title is what it is called in the name of an
// edit.
func (s *Service) fillStep(sh *show.Show, st *show.Step, f StepFields) (title string, err error) {
	var errs FieldErrors
	add := func(field, format string, args ...any) {
		errs = append(errs, &show.FieldError{Field: field, Text: fmt.Sprintf(format, args...)})
	}
	st.Kind, st.Name, st.Note, st.Off = f.Kind, strings.TrimSpace(f.Name), strings.TrimSpace(f.Note), f.Off
	st.GapMs = f.GapMs
	st.Ms, st.Frames, st.LimitMs, st.Else, st.Curve, st.Weight, st.Count, st.Run = f.Ms, f.Frames, f.LimitMs, f.Else, f.Curve, f.Weight, f.Count, f.Run
	if len([]rune(st.Name)) > show.MaxName || len([]rune(st.Note)) > 500 {
		add("name", "A name has at most %d characters, a note 500.", show.MaxName)
	}
	if st.Ms < 0 || st.Ms > longest || st.Frames < 0 || st.Frames > 100_000 || st.LimitMs < 0 || st.LimitMs > longest {
		add("ms", "A time is from 0 to a day.")
	}
	switch {
	case st.GapMs < 0 || st.GapMs > 60_000:
		add("gapMs", "A gap is from 0 to 60000 ms.")
	case st.GapMs > 0 && f.Kind != macro.Do && f.Kind != macro.Fade:
		add("gapMs", "Only an action and a fade have a gap after them; elsewhere add a wait.")
	}
	if st.Count < 0 || st.Count > macro.MaxCount || f.Kind == macro.Repeat && st.Count < 1 {
		add("count", "A repeat repeats 1 to %d times.", macro.MaxCount)
	}
	if st.Weight < 0 || st.Weight > 1000 {
		add("weight", "A weight is from 0 to 1000.")
	}
	title = cmp.Or(st.Name, strings.ReplaceAll(f.Kind, "-", " "))
	if f.Action != nil && (f.Kind == macro.Do || f.Kind == macro.Fade) {
		t, call, err := s.bind(sh, *f.Action)
		if err != nil {
			return "", err
		}
		title = cmp.Or(st.Name, t)
		if call.Device == program.SelfID && call.Action == "run" && f.Kind == macro.Do {
			st.Kind, st.Run, st.Action = macro.Run, call.Params["macro"], nil
		} else {
			st.Action = &call
		}
	} else {
		st.Action = nil
	}
	if st.Kind == macro.Run && sh.Macro(st.Run) == nil {
		add("run", "Choose the macro that this runs.")
	}
	if st.When = f.When; len(f.Sentences) > 0 {
		when, err := expr.Condition(f.Sentences)
		if err != nil {
			add("when", "This sentence is not complete: %v.", err)
		}
		st.When = when
	}
	if _, err := expr.Compile(st.When, expr.Scope{}); st.When != "" && err != nil {
		add("when", "This condition cannot be worked out: %v.", err)
	}
	if len(errs) > 0 {
		return "", errs
	}
	return title, nil
}

// usualTimes gives a new step the times that it has unless others are said.
func (s *Service) usualTimes(f *StepFields) {
	switch f.Kind {
	case macro.Wait:
		if f.Ms == 0 && f.Frames == 0 {
			f.Ms = usualWait
		}
	case macro.Fade:
		f.Ms = cmp.Or(f.Ms, usualFade)
	case macro.WaitFor:
		f.LimitMs = cmp.Or(f.LimitMs, usualPatience)
	case macro.Repeat:
		f.Count = cmp.Or(f.Count, 2)
	}
}

// Place says where steps go: to a spot; or, where After is set, to where they belong
// while that step ("": none) is selected.
type Place struct {
	macro.Spot
	After   *string `json:"after,omitempty"`
	Outside bool    `json:"outside,omitempty"` // of what that step is in
}

func (p Place) spot(steps []*show.Step, kind string) macro.Spot {
	if p.After == nil {
		return p.Spot
	}
	return macro.After(steps, *p.After, kind, p.Outside)
}

// AddStep adds a step to a macro, and returns its id. What has branches begins with
// two.
func (s *Service) AddStep(who Who, id string, where Place, f StepFields) (string, error) {
	made := newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		steps := sh.StepsOf(id)
		s.usualTimes(&f)
		st := &show.Step{ID: made, Macro: id}
		title, err := s.fillStep(sh, st, f)
		if err != nil {
			return "", err
		}
		at := where.spot(steps, st.Kind)
		if err := mayHold(steps, at.Parent, st.Kind); err != nil {
			return "", err
		}
		preflight.PutStep(d, steps, st, at)
		switch st.Kind {
		case macro.If, macro.Turns, macro.OneOf:
			for i := range 2 {
				d.Put(&show.Step{ID: newID(), Macro: id, Parent: made, Position: i + 1, Kind: macro.Branch})
			}
		}
		return fmt.Sprintf("Add %s to %s", title, m.Name), nil
	})
}

// mayHold says why a kind of step cannot stand in a parent.
func mayHold(steps []*show.Step, parent, kind string) error {
	in := ""
	if parent != "" {
		_, p := macro.Where(steps, parent)
		if p == nil {
			return notFound("the step it would be in")
		}
		in = p.Kind
	}
	if !macro.MayHold(in, kind) {
		return FieldErrors{{Field: "parent", Text: fmt.Sprintf("A %s cannot stand in a %s.", strings.ReplaceAll(kind, "-", " "), strings.ReplaceAll(cmp.Or(in, "macro"), "-", " "))}}
	}
	return nil
}

// EditStep changes a step that was read at a revision, and returns the revision it has
// then.
func (s *Service) EditStep(who Who, id string, rev int64, f StepFields) (int64, error) {
	err := s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old, _ := sh.Get(show.Ref{Kind: show.KindStep, ID: id}).(*show.Step)
		if old == nil {
			return "", notFound("step")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		st := *old
		title, err := s.fillStep(sh, &st, f)
		if err != nil {
			return "", err
		}
		if st.Kind != old.Kind {
			if err := mayHold(sh.StepsOf(old.Macro), old.Parent, st.Kind); err != nil {
				return "", err
			}
			if len(macro.Within(sh.StepsOf(old.Macro), id)) > 0 && macro.Holds(old.Kind) != macro.Holds(st.Kind) {
				return "", FieldErrors{{Field: "kind", Text: "There are steps in it. Move them out first."}}
			}
		}
		d.Put(&st)
		return fmt.Sprintf("Change %s in %s", title, sh.Macro(old.Macro).Name), nil
	})
	return s.Program().Show.Rev(show.Ref{Kind: show.KindStep, ID: id}), err
}

// StepMove moves steps: by one in a way (up, down, in, out), or all to a spot.
type StepMove struct {
	Steps []string    `json:"steps"`
	Way   string      `json:"way,omitempty"`
	To    *macro.Spot `json:"to,omitempty"`
}

// MoveSteps moves steps of a macro.
func (s *Service) MoveSteps(who Who, id string, mv StepMove) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil || len(mv.Steps) == 0 {
			return "", notFound("macro or step")
		}
		steps := sh.StepsOf(id)
		to := mv.To
		if to == nil {
			spot, ok := macro.Next(steps, mv.Steps[0], mv.Way)
			if !ok {
				return "", FieldErrors{{Field: "way", Text: "It cannot go further " + mv.Way + "."}}
			}
			to = &spot
		}
		for _, one := range mv.Steps {
			_, st := macro.Where(steps, one)
			if st == nil {
				return "", notFound("step")
			}
			if slices.ContainsFunc(macro.Under(steps, one), func(o *show.Step) bool { return o.ID == to.Parent }) {
				return "", FieldErrors{{Field: "to", Text: "A step cannot go into itself."}}
			}
			if err := mayHold(steps, to.Parent, st.Kind); err != nil {
				return "", err
			}
		}
		for _, c := range macro.Place(steps, mv.Steps, *to) {
			d.Put(c)
		}
		return "Move steps of " + m.Name, nil
	})
}

// DeleteSteps takes steps out of a macro, with what is in them.
func (s *Service) DeleteSteps(who Who, id string, ids []string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		n := 0
		for _, one := range ids {
			for _, st := range macro.Under(sh.StepsOf(id), one) {
				d.Delete(st.Ref())
				n++
			}
		}
		if n == 0 {
			return "", notFound("step")
		}
		if n == 1 {
			return "Take a step out of " + m.Name, nil
		}
		return fmt.Sprintf("Take %d steps out of %s", n, m.Name), nil
	})
}

// PasteSteps puts copies of steps, of this macro or another one, where they belong,
// and returns their ids.
func (s *Service) PasteSteps(who Who, id string, from []string, where Place) (made []string, err error) {
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		var all, roots []*show.Step
		var at macro.Spot
		for _, one := range from {
			st, _ := sh.Get(show.Ref{Kind: show.KindStep, ID: one}).(*show.Step)
			if st == nil {
				return "", notFound("step")
			}
			if len(roots) == 0 {
				at = where.spot(sh.StepsOf(id), st.Kind)
			}
			if err := mayHold(sh.StepsOf(id), at.Parent, st.Kind); err != nil {
				return "", err
			}
			if !slices.ContainsFunc(roots, func(o *show.Step) bool { return o.Macro == st.Macro }) {
				all = append(all, sh.StepsOf(st.Macro)...)
			}
			roots = append(roots, st)
		}
		made = copySteps(d, all, roots, id, at, sh.StepsOf(id))
		return "Paste steps into " + m.Name, nil
	})
}
