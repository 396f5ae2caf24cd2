package mirror

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"synaptor/internal/engine"
	"synaptor/internal/program"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/macro"
	"synaptor/internal/link"
)

// RunFace is what a key shows of the run of its macro: a bar along the top that
// empties while it goes on, and how it ended for a moment.
type RunFace struct {
	State    string    `json:"state"` // running, done, failed, halted
	ID       string    `json:"id"`
	LengthMs int64     `json:"lengthMs"`
	Started  time.Time `json:"started"`
	Open     bool      `json:"open,omitempty"` // nobody knows how long it takes
}

// How long what a run came to is shown, and how long runs are listed.
const (
	markShown = 3 * time.Second
	runListed = engine.RestorableFor
)

// updateRun takes in how a run stands.
func (m *Mirror) updateRun(row engine.RunRow) {
	i := slices.IndexFunc(m.runs, func(r engine.RunRow) bool { return r.ID == row.ID })
	if i < 0 {
		m.runs = append(m.runs, row)
	} else {
		m.runs[i] = row
	}
	m.hub.Publish("run/"+row.ID, []string{"runs"}, row)
}

// forgetRuns takes away what has been shown long enough.
func (m *Mirror) forgetRuns(now time.Time) {
	m.runs = slices.DeleteFunc(m.runs, func(r engine.RunRow) bool {
		if !r.Ended {
			return false
		}
		if since := now.Sub(r.EndedAt()); since > markShown && since < markShown+time.Second {
			for _, c := range m.runners[r.Macro] {
				m.refreshFace(c, nil)
			}
		}
		if now.Sub(r.EndedAt()) < runListed {
			return false
		}
		m.hub.Remove("run/" + r.ID)
		return true
	})
}

// runOf gives the macro that the press of a mapping runs, else the one that another
// gesture does; nil where none does.
func (m *Mirror) runOf(c *program.Mapping) *program.Macro {
	if mac := m.program.RunsMacro(c.Responses["press"]); mac != nil {
		return mac
	}
	for _, r := range c.Source.Responses {
		if mac := m.program.RunsMacro(c.Responses[r.Gesture]); mac != nil {
			return mac
		}
	}
	return nil
}

// runFace works out what a key shows of its macro's run.
func (m *Mirror) runFace(c *program.Mapping, mac *program.Macro) *RunFace {
	if c.Source.Quiet {
		return nil
	}
	from := time.Duration(m.program.Show.Settings().ProgressFromMs) * time.Millisecond
	for _, r := range slices.Backward(m.runs) {
		if r.Macro != mac.Source.ID || !r.Open && time.Duration(r.LengthMs)*time.Millisecond < from {
			continue
		}
		f := &RunFace{ID: r.ID, LengthMs: r.LengthMs, Open: r.Open, State: "running", Started: r.Started}
		if r.State == macro.Going && !r.Ended {
			return f
		}
		f.LengthMs = 0
		if f.State = r.State; r.State == macro.Ended {
			f.State = "done"
		}
		if !r.Ended || time.Since(r.EndedAt()) < markShown {
			return f
		}
		return nil
	}
	return nil
}

// unsent counts the steps of a macro whose device is away.
func (m *Mirror) unsent(mac *program.Macro) (n int) {
	mac.EachStep(func(_ *macro.Node, r *program.Response) {
		if r != nil && (r.Problem != "" || r.Device != program.SelfID && m.links[r.Device].Phase != link.Up) {
			n++
		}
	})
	return n
}

// unsentOn counts the steps of a macro that cannot be sent because one device is away.
func (m *Mirror) unsentOn(mac *program.Macro, device string) (n int) {
	if m.links[device].Phase == link.Up {
		return 0
	}
	mac.EachStep(func(_ *macro.Node, r *program.Response) {
		if r != nil && r.Problem == "" && r.Device == device {
			n++
		}
	})
	return n
}

// branchOf gives the branch of a macro's turns that is in force, or where next is set
// the one that a press takes; nil where there is none or nobody knows.
func (m *Mirror) branchOf(mac *program.Macro, next bool, w expr.World) *macro.Node {
	if mac.Turns == nil {
		return nil
	}
	last := slices.IndexFunc(mac.Turns.Children, func(b *macro.Node) bool { return b.ID == m.live.Turns[mac.Turns.ID] })
	holds := macro.InWorld(face.Expected(w))
	i, ok := macro.InForce(mac.Turns, last, holds)
	if next {
		i, _, ok = macro.NextBranch(mac.Turns, last, holds)
	}
	if !ok || i < 0 || i >= len(mac.Turns.Children) {
		return nil
	}
	return mac.Turns.Children[i]
}

// branchFace has a key look as the branch of its turns that it shows. A lamp that holds
// goes before; what a branch does not set is as the mapping has it, and its name is its
// label.
func (m *Mirror) branchFace(c *program.Mapping, mac *program.Macro, w expr.World, look *device.Look) *macro.Node {
	if mac == nil {
		return nil
	}
	branch := m.branchOf(mac, c.Source.Next, w)
	if branch == nil {
		return nil
	}
	own := c.Source.Branches[branch.ID]
	if own.Label == "" && branch.Name != "" && c.Source.Face.Label == "" {
		own.Label = strings.NewReplacer("{", "{{", "}", "}}").Replace(branch.Name)
	}
	if look.Label == nil && own.Label != "" {
		if t, err := expr.CompileTemplate(own.Label, program.FaceScope(c.Source)); err == nil {
			look.Label = t
		}
	}
	look.Glyph, look.Background = cmp.Or(look.Glyph, own.Glyph), cmp.Or(look.Background, own.Background)
	look.Text, look.Picture = cmp.Or(look.Text, own.Text), cmp.Or(look.Picture, own.Picture)
	return branch
}
