package preflight

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
)

// Macro turns what is found in a macro (macro.Find, whose rehearsal brings it) into findings with their fixes. outright gives the action that says which
// state a toggle is to bring; empty: nobody knows. measured says that its latencies were.
func Macro(m *show.Macro, all []macro.Finding, outright func(step string) string, measured bool) (out []Finding) {
	f := finder{subject: m.Ref()}
	for _, o := range all {
		severity := map[string]string{macro.Stops: Stops, macro.Caution: Caution, macro.Hint: Note}[o.Severity]
		g := f.add(o.ID, severity, at(o), "%s: %s", m.Name, o.Text)
		if slices.Contains([]string{macro.Apart, macro.Overwrites, macro.TooShort}, o.ID) {
			g.Sure = Guessed
			if measured {
				g.Sure = Measured
			}
		}
		g.Fix = MacroFix(m, o, outright)
	}
	return f.out
}

// at is which part of its macro a finding is about.
func at(o macro.Finding) string {
	if o.Other != "" {
		return o.Step + " " + o.Other
	}
	return o.Step
}

// MacroFix is what one edit does about what is found in a macro; nil: nothing.
func MacroFix(m *show.Macro, o macro.Finding, outright func(step string) string) *Fix {
	switch o.Fix {
	case "set":
		action := outright(o.Step)
		if action == "" {
			return nil
		}
		return &Fix{"Say which state is meant in " + m.Name, func(d *show.Draft, _ func() string) error { return sayState(d, o.Step, action) }}
	case "together":
		return &Fix{"Together in " + m.Name, func(d *show.Draft, newID func() string) error { return together(d, newID, o) }}
	case "wait":
		ms := int((o.Wait + waitUnit - 1) / waitUnit * waitUnit / time.Millisecond)
		later := o.Step
		if o.ID == macro.Overwrites {
			later = o.Other
		}
		return &Fix{fmt.Sprintf("Wait %.1f s in %s", float64(ms)/1000, m.Name), func(d *show.Draft, newID func() string) error {
			ok, err := Later(d, newID, later, ms)
			if err == nil && !ok {
				err = ErrChanged
			}
			return err
		}}
	}
	return nil
}

// waitUnit is what the waits that fixes put in are rounded up to.
const waitUnit = 100 * time.Millisecond

// step finds a step as a draft stands, with the steps of its macro.
func step(d *show.Draft, id string) (*show.Step, []*show.Step, error) {
	now := d.Now()
	st, _ := now.Get(show.Ref{Kind: show.KindStep, ID: id}).(*show.Step)
	if st == nil {
		return nil, nil, ErrChanged
	}
	return st, now.StepsOf(st.Macro), nil
}

// sayState has a toggle say which state is meant.
func sayState(d *show.Draft, id, action string) error {
	st, _, err := step(d, id)
	if err != nil || st.Action == nil {
		return cmp.Or(err, ErrChanged)
	}
	c, call := *st, *st.Action
	call.Action = action
	c.Action = &call
	d.Put(&c)
	return nil
}

// together puts a step and the one before it into a together.
func together(d *show.Draft, newID func() string, o macro.Finding) error {
	_, steps, err := step(d, o.Step)
	if err != nil {
		return err
	}
	at, first := macro.Where(steps, o.Other)
	_, second := macro.Where(steps, o.Step)
	if first == nil || second == nil || first.Parent != second.Parent {
		return ErrChanged
	}
	in := &show.Step{ID: newID(), Macro: first.Macro, Kind: macro.Together, Parent: at.Parent, Position: first.Position}
	d.Put(in)
	for i, st := range []*show.Step{first, second} {
		c := *st
		c.Parent, c.Position = in.ID, i+1
		d.Put(&c)
	}
	return nil
}

// Later has a step come so many milliseconds later, by a wait before it; ok is false where it would come earlier than it can.
func Later(d *show.Draft, newID func() string, id string, by int) (ok bool, err error) {
	_, steps, err := step(d, id)
	if err != nil {
		return false, err
	}
	wait, at, ms, ok := macro.Shift(steps, id, by)
	switch {
	case !ok:
		return false, nil
	case wait != nil && ms == 0:
		d.Delete(wait.Ref())
	case wait != nil:
		c := *wait
		c.Ms = ms
		d.Put(&c)
	default:
		PutStep(d, steps, &show.Step{ID: newID(), Macro: steps[0].Macro, Kind: macro.Wait, Ms: ms}, at)
	}
	return true, nil
}

// PutStep puts a new step at a spot among the steps of its macro.
func PutStep(d *show.Draft, steps []*show.Step, st *show.Step, at macro.Spot) {
	d.Put(st)
	for _, c := range macro.Place(append(slices.Clone(steps), &show.Step{ID: st.ID, Macro: st.Macro, Parent: "new"}), []string{st.ID}, at) {
		if c.ID == st.ID {
			st.Parent, st.Position = c.Parent, c.Position
			c = st
		}
		d.Put(c)
	}
}

// StopsAs says that a macro would not come to its end as things stand.
func StopsAs(m *show.Macro, reason string) Finding {
	f := finder{subject: m.Ref()}
	g := f.add("macro-stops", Caution, "", "%s would not come to its end as things stand: %s", m.Name, reason)
	g.Sure = Measured
	return *g
}
