package edit

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
)

// MacroFields are what can be changed of a macro as a whole.
type MacroFields struct {
	Name      string `json:"name"`
	Group     string `json:"group"`
	SpacingMs int    `json:"spacingMs"`
	Again     string `json:"again"`
	OnError   string `json:"onError"`
	LimitMs   int    `json:"limitMs"`
	Partly    bool   `json:"partly"`
}

// set gives a macro its settings.
func (f MacroFields) set(m *show.Macro) {
	m.Name, m.Group = strings.TrimSpace(f.Name), strings.TrimSpace(f.Group)
	m.SpacingMs, m.LimitMs = f.SpacingMs, f.LimitMs
	m.Again, m.OnError, m.Partly = f.Again, f.OnError, f.Partly
}

// What a macro can be told to do.
var (
	secondPresses = []string{"", "finish", "restart", "stop", "queue", "both"}
	onError       = []string{"", "stop", "go-on", "put-back"}
)

// longest is the longest time of a setting or a wait, in milliseconds: a day.
const longest = 24 * 60 * 60 * 1000

// checkMacro says what is wrong with a macro.
func checkMacro(sh *show.Show, m *show.Macro) error {
	var errs FieldErrors
	add := func(field, text string) { errs = append(errs, &show.FieldError{Field: field, Text: text}) }
	if text := show.CheckName(m.Name); text != "" {
		add("name", text)
	}
	for _, o := range sh.Macros() {
		if o.ID != m.ID && strings.EqualFold(o.Name, m.Name) {
			add("name", "There is a macro "+o.Name+" already.")
		}
	}
	if m.Group != "" {
		if text := show.CheckName(m.Group); text != "" {
			add("group", text)
		}
	}
	if !slices.Contains(secondPresses, m.Again) {
		add("again", "Choose what a second press does.")
	}
	if !slices.Contains(onError, m.OnError) {
		add("onError", "Choose what an error does.")
	}
	if m.SpacingMs < 0 || m.SpacingMs > 60_000 {
		add("spacingMs", "The spacing is from 0 to 60000 ms.")
	}
	if m.LimitMs < 0 || m.LimitMs > longest {
		add("limitMs", "The limit is at most a day; 0 is none.")
	}
	if len(errs) > 0 {
		return errs
	}
	return nil
}

// AddMacro adds a macro with no steps, and returns its id.
func (s *Service) AddMacro(who Who, f MacroFields) (string, error) {
	id := newID()
	return id, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := s.newMacro(sh, id, f.Name)
		f.set(m)
		d.Put(m)
		return "Add the macro " + m.Name, checkMacro(sh, m)
	})
}

func (s *Service) newMacro(sh *show.Show, id, name string) *show.Macro {
	m := &show.Macro{ID: id, Name: strings.TrimSpace(name), Position: len(sh.Macros())}
	m.Slug = show.Slug(m.Name, func(t string) bool {
		return slices.ContainsFunc(sh.Macros(), func(o *show.Macro) bool { return o.Slug == t })
	})
	return m
}

// freeName is a name that no macro has.
func freeName(sh *show.Show, name string) string {
	for n := 1; ; n++ {
		with := name
		if n > 1 {
			with = fmt.Sprintf("%s %d", name, n)
		}
		if !slices.ContainsFunc(sh.Macros(), func(o *show.Macro) bool { return strings.EqualFold(o.Name, with) }) {
			return with
		}
	}
}

// EditMacro changes the settings of a macro that was read at a revision.
func (s *Service) EditMacro(who Who, id string, rev int64, f MacroFields) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Macro(id)
		if old == nil {
			return "", notFound("macro")
		}
		if err := s.check(sh, old.Ref(), rev); err != nil {
			return "", err
		}
		m := *old
		f.set(&m)
		d.Put(&m)
		name := "Change the settings of " + m.Name
		if m.Name != old.Name {
			name = fmt.Sprintf("Rename the macro %s to %s", old.Name, m.Name)
		}
		return name, checkMacro(sh, &m)
	})
}

// ProgressFrom sets how long a macro has to take, in milliseconds, for keys to show how
// it goes on.
func (s *Service) ProgressFrom(who Who, ms int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		if ms < 0 || ms > 60_000 {
			return "", FieldErrors{{Field: "progressFromMs", Text: "This is from 0 to 60000 ms."}}
		}
		c := *sh.Settings()
		c.ProgressFromMs = ms
		d.Put(&c)
		return fmt.Sprintf("Keys show the progress of macros from %.1f s on", float64(ms)/1000), nil
	})
}

// MoveMacro puts a macro at a place in the list, from 0.
func (s *Service) MoveMacro(who Who, id string, to int) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		all := slices.DeleteFunc(sh.Macros(), func(o *show.Macro) bool { return o.ID == id })
		for i, o := range slices.Insert(all, min(max(to, 0), len(all)), m) {
			moved := *o
			moved.Position = i
			d.Put(&moved)
		}
		return "Move the macro " + m.Name, nil
	})
}

// DuplicateMacro adds a copy of a macro and returns its id.
func (s *Service) DuplicateMacro(who Who, id string) (string, error) {
	made := newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		old := sh.Macro(id)
		if old == nil {
			return "", notFound("macro")
		}
		m := *old
		m.ID, m.Name, m.Position = made, freeName(sh, old.Name), len(sh.Macros())
		m.Slug = s.newMacro(sh, made, m.Name).Slug
		d.Put(&m)
		copySteps(d, sh.StepsOf(id), macro.Within(sh.StepsOf(id), ""), made, macro.Spot{}, nil)
		return "Duplicate the macro " + old.Name, nil
	})
}

// DeleteMacro removes a macro with its steps. Keys that run it stay and say that it is
// gone; a macro that another one runs stays.
func (s *Service) DeleteMacro(who Who, id string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := sh.Macro(id)
		if m == nil {
			return "", notFound("macro")
		}
		for _, o := range sh.Macros() {
			for _, st := range sh.StepsOf(o.ID) {
				if st.Run == id && o.ID != id {
					return "", FieldErrors{{Field: "macro", Text: fmt.Sprintf("%s runs it. Take that step out first.", o.Name)}}
				}
			}
		}
		for _, st := range sh.StepsOf(id) {
			d.Delete(st.Ref())
		}
		d.Delete(m.Ref())
		return "Delete the macro " + m.Name, nil
	})
}

// usualWait, usualFade and usualPatience are the times of new steps in milliseconds.
const (
	usualWait     = 1000
	usualFade     = 2000
	usualPatience = 10_000
)
