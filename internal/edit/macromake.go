package edit

import (
	"cmp"
	"fmt"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// MakeMacro makes a macro of what controls of a page do on a press: of one its action
// as the first step, of several their actions as a together. The first control runs
// the macro then. It returns the macro's id.
func (s *Service) MakeMacro(who Who, page string, controls []string, name string) (string, error) {
	made := newID()
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		p := sh.Page(page)
		if p == nil || len(controls) == 0 {
			return "", notFound("page or control")
		}
		snap := s.Program()
		var calls []show.Call
		var first *show.Mapping
		for _, c := range controls {
			m := snap.On(p, c)
			if m == nil || m.Source.Response(input.Press) == nil {
				return "", FieldErrors{{Field: "controls", Text: c + " does nothing on a press."}}
			}
			call := m.Source.Response(input.Press).Action
			if call.Device == program.SelfID && call.Action == "run" {
				return "", FieldErrors{{Field: "controls", Text: c + " runs a macro already."}}
			}
			if first == nil {
				first = m.Source
			}
			calls = append(calls, call)
		}
		m := s.newMacro(sh, made, freeName(sh, cmp.Or(strings.TrimSpace(name), s.called(first))))
		d.Put(m)
		parent := ""
		if len(calls) > 1 {
			in := &show.Step{ID: newID(), Macro: made, Kind: macro.Together, Position: 1}
			d.Put(in)
			parent = in.ID
		}
		for i, call := range calls {
			d.Put(&show.Step{ID: newID(), Macro: made, Parent: parent, Position: i + 1, Kind: macro.Do, Action: &call})
		}
		c := first.Clone()
		c.Response(input.Press).Action = runs(made)
		d.Put(c)
		return "Make the macro " + m.Name, checkMacro(sh, m)
	})
}

// runs is the action that runs a macro.
func runs(id string) show.Call {
	return show.Call{Device: program.SelfID, DeviceName: "Synaptor", Action: "run", Params: map[string]string{"macro": id}}
}

// MacroFromUse makes a macro of what was done while it was recorded, and returns its
// id.
func (s *Service) MacroFromUse(who Who, name string, list []macro.Used) (string, error) {
	made := newID()
	steps := macro.FromUse(list)
	if len(steps) == 0 {
		return "", FieldErrors{{Field: "name", Text: "Nothing was done that could be a step."}}
	}
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		m := s.newMacro(sh, made, freeName(sh, cmp.Or(strings.TrimSpace(name), "From use")))
		d.Put(m)
		for i, st := range steps {
			st.ID, st.Macro, st.Position = newID(), made, i+1
			if st.Action.IsRun() {
				st.Kind, st.Run, st.Action = macro.Run, st.Action.Params["macro"], nil
			}
			d.Put(&st)
		}
		return fmt.Sprintf("Make the macro %s from use", m.Name), checkMacro(sh, m)
	})
}

// Capture makes a macro that sets readings of a device to what they are now.
func (s *Service) Capture(who Who, device string, paths []string, name string) (string, error) {
	made := newID()
	var calls []show.Call
	var lost []string
	v := s.mirror.Current()
	for _, path := range paths {
		k := reading.Key{Device: device, Path: path}
		if call, ok := v.Setter(k); ok {
			calls = append(calls, call)
		} else {
			lost = append(lost, v.Called(k))
		}
	}
	if len(lost) > 0 {
		return "", FieldErrors{{Field: "paths", Text: "This cannot be set, so it cannot be recalled: " + strings.Join(lost, ", ") + "."}}
	}
	if len(calls) == 0 {
		return "", FieldErrors{{Field: "paths", Text: "Choose what is captured."}}
	}
	return made, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		dev := sh.Device(device)
		if dev == nil {
			return "", notFound("device")
		}
		m := s.newMacro(sh, made, freeName(sh, cmp.Or(strings.TrimSpace(name), "Recall "+dev.Name)))
		m.Group = "Recall"
		d.Put(m)
		for i, call := range calls {
			d.Put(&show.Step{ID: newID(), Macro: made, Position: i + 1, Kind: macro.Do, Action: &call})
		}
		return "Capture " + m.Name, checkMacro(sh, m)
	})
}

// checkBranches says what is wrong with the looks of branches.
func checkBranches(m *show.Mapping) (errs FieldErrors) {
	scope := program.FaceScope(m)
	for id, look := range m.Branches {
		if _, err := expr.CompileTemplate(look.Label, scope); err != nil {
			errs = append(errs, &show.FieldError{Field: "branches." + id, Text: fmt.Sprintf("This label cannot be worked out: %v.", err)})
		}
	}
	return errs
}
