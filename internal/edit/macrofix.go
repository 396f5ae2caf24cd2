package edit

import (
	"context"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/mirror"
)

// Fix is a finding of a macro that is to be put right.
type Fix struct {
	Finding string `json:"finding"`
	Step    string `json:"step"`
	Other   string `json:"other,omitempty"`
	// Value is which of the two states a toggle is to bring; missing: the one that it
	// would bring now.
	Value *bool `json:"value,omitempty"`
}

// FixMacro puts a finding right with one edit. It fails where the finding is not there
// any more.
func (s *Service) FixMacro(who Who, id string, f Fix) error {
	v := s.mirror.Current()
	var found []macro.Finding
	if mac := v.Program.Macros[id]; mac != nil {
		ctx, cancel := context.WithTimeout(context.Background(), mirror.FindLimit)
		defer cancel()
		var err error
		if found, err = v.Findings(ctx, mac); err != nil {
			return FieldErrors{{Field: "finding", Text: "It takes too long to look this macro through."}}
		}
	}
	toggled := v.Toggled(id, f.Step, f.Value)
	i := slices.IndexFunc(found, func(o macro.Finding) bool {
		return o.ID == f.Finding && o.Step == f.Step && (f.Other == "" || o.Other == f.Other) && o.Fix != ""
	})
	if i < 0 {
		return FieldErrors{{Field: "finding", Text: "This is not so any more, or nothing can be done about it in one step."}}
	}
	fix := found[i]
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		st, _ := sh.Get(show.Ref{Kind: show.KindStep, ID: fix.Step}).(*show.Step)
		if st == nil {
			return "", notFound("step")
		}
		steps := sh.StepsOf(st.Macro)
		switch fix.Fix {
		case "set":
			return s.fixToggle(d, sh, st, toggled)
		case "together":
			return fixApart(d, sh, m, steps, fix)
		case "wait":
			return fixWait(d, sh, m, steps, fix)
		}
		return "", notFound("fix")
	})
}

// fixToggle says which state is meant.
func (s *Service) fixToggle(d *show.Draft, sh *show.Show, st *show.Step, action string) (string, error) {
	if action == "" {
		return "", FieldErrors{{Field: "value", Text: "Nobody knows which state this would bring; say which is meant."}}
	}
	c := *st
	call := *st.Action
	call.Action = action
	c.Action = &call
	title, _, err := s.bind(sh, Action{Device: call.Device, Action: call.Action, Params: call.Params})
	d.Put(&c)
	return title + " instead of a toggle", err
}

// fixApart puts a step and the one before it into a together.
func fixApart(d *show.Draft, sh *show.Show, m *show.Macro, steps []*show.Step, fix macro.Finding) (string, error) {
	at, first := macro.Where(steps, fix.Other)
	if first == nil {
		return "", notFound("step")
	}
	in := &show.Step{ID: newID(), Macro: first.Macro, Kind: macro.Together, Parent: at.Parent, Position: first.Position}
	d.Put(in)
	for i, id := range []string{fix.Other, fix.Step} {
		_, st := macro.Where(steps, id)
		c := *st
		c.Parent, c.Position = in.ID, i+1
		d.Put(&c)
	}
	return "Together in " + m.Name, nil
}

// waitUnit is what the waits that fixes put in are rounded up to.
const waitUnit = 100 * time.Millisecond

// fixWait has the later of two steps wait longer.
func fixWait(d *show.Draft, sh *show.Show, m *show.Macro, steps []*show.Step, fix macro.Finding) (string, error) {
	later := fix.Step
	if fix.ID == macro.Overwrites {
		later = fix.Other
	}
	ms := int((fix.Wait + waitUnit - 1) / waitUnit * waitUnit / time.Millisecond)
	if err := shift(d, steps, later, ms); err != nil {
		return "", err
	}
	return fmt.Sprintf("Wait %.1f s in %s", float64(ms)/1000, m.Name), nil
}

// shift has a step come so many milliseconds later, by a wait before it.
func shift(d *show.Draft, steps []*show.Step, id string, by int) error {
	wait, at, ms, ok := macro.Shift(steps, id, by)
	switch {
	case !ok:
		return FieldErrors{{Field: "byMs", Text: "It cannot come any earlier: there is no wait before it."}}
	case wait != nil && ms == 0:
		d.Delete(wait.Ref())
		return nil
	case wait != nil:
		c := *wait
		c.Ms = ms
		d.Put(&c)
		return nil
	}
	putStep(d, steps, &show.Step{ID: newID(), Macro: steps[0].Macro, Kind: macro.Wait, Ms: ms}, at)
	return nil
}

// putStep puts a new step at a spot.
func putStep(d *show.Draft, steps []*show.Step, st *show.Step, at macro.Spot) {
	d.Put(st)
	for _, c := range macro.Place(append(slices.Clone(steps), &show.Step{ID: st.ID, Macro: st.Macro, Parent: "new"}), []string{st.ID}, at) {
		if c.ID == st.ID {
			st.Parent, st.Position = c.Parent, c.Position
			c = st
		}
		d.Put(c)
	}
}

// ShiftStep has a step come later, or earlier where by, in milliseconds, is negative.
func (s *Service) ShiftStep(who Who, id, step string, by int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil || len(sh.StepsOf(id)) == 0 {
			return "", notFound("macro")
		}
		return fmt.Sprintf("Shift a step of %s by %.1f s", m.Name, float64(by)/1000), shift(d, sh.StepsOf(id), step, by)
	})
}
