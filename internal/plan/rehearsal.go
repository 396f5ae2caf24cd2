package plan

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// Rehearsed is a rehearsal in words.
type Rehearsed struct {
	Seed     uint64          `json:"seed"`
	State    string          `json:"state"`
	Reason   string          `json:"reason,omitempty"`
	LengthMs float64         `json:"lengthMs"`
	Steps    []RehearsedStep `json:"steps"`
	Changes  []RehearsedRow  `json:"changes"`
	Outputs  []OutputRow     `json:"outputs"`
	Branches []TakenBranch   `json:"branches"`
	Together []RehearsedSkew `json:"together"`
	Findings []macro.Finding `json:"findings"`
}

// RehearsedStep is a step that was dispatched.
type RehearsedStep struct {
	AtMs float64 `json:"atMs"`
	Step string  `json:"step"`
	Kind string  `json:"kind"`
}

// RehearsedRow is a reading that changes.
type RehearsedRow struct {
	AtMs  float64 `json:"atMs"`
	Key   string  `json:"key"`
	Title string  `json:"title"`
	From  string  `json:"from"`
	To    string  `json:"to"`
	Step  string  `json:"step"`
}

// OutputRow is what the audience sees on one output.
type OutputRow struct {
	Key   string     `json:"key"`
	Title string     `json:"title"`
	Seen  []SeenSpan `json:"seen"`
}

// SeenSpan is a picture on an output for a time.
type SeenSpan struct {
	FromMs float64 `json:"fromMs"`
	ToMs   float64 `json:"toMs"`
	Word   string  `json:"word"`
	Step   string  `json:"step,omitempty"` // empty: it was there before
}

// TakenBranch is the branch that a turns or a one of took.
type TakenBranch struct {
	Step   string `json:"step"`
	Branch string `json:"branch"`
	Name   string `json:"name"`
}

// RehearsedSkew is how far apart the effects of a together may start.
type RehearsedSkew struct {
	Step string  `json:"step"`
	AtMs float64 `json:"atMs"`
	Skew float64 `json:"skewMs"`
}

// Rehearse runs the macro of the facts on a virtual clock. The same facts and seed give
// the same rehearsal. It fails with the *macro.Error that keeps the macro from running,
// or with the context's error when that ends before it is worked out.
func Rehearse(ctx context.Context, f Facts, seed uint64) (*Rehearsed, error) {
	mac := f.Macro
	if mac.Tree == nil {
		return nil, mac.Err
	}
	r := macro.Rehearse(mac.Tree, f, seed)
	out := &Rehearsed{Seed: seed, State: r.State, Reason: r.Reason, LengthMs: macro.Millis(r.Length), Steps: []RehearsedStep{}, Changes: []RehearsedRow{},
		Outputs: []OutputRow{}, Branches: []TakenBranch{}, Together: []RehearsedSkew{}}
	p := macro.Compile(mac.Tree, f)
	out.Findings = append([]macro.Finding{}, macro.Look(mac.Tree, p, r, f)...)
	for _, s := range r.Steps {
		out.Steps = append(out.Steps, RehearsedStep{macro.Millis(s.At), s.Step, s.Kind})
	}
	out.addChanges(f, r)
	mac.EachStep(func(n *macro.Node, _ *program.Response) {
		if i, took := r.Took[n.ID]; took && i < len(n.Children) {
			b := n.Children[i]
			out.Branches = append(out.Branches, TakenBranch{n.ID, b.ID, cmp.Or(b.Name, fmt.Sprintf("branch %d", i+1))})
		}
	})
	for _, g := range p.Groups {
		out.Together = append(out.Together, RehearsedSkew{g.Step, macro.Millis(g.Starts), macro.Millis(g.Skew)})
	}
	return out, ctx.Err()
}

// addChanges puts what changes, and what is seen of it, into words.
func (out *Rehearsed) addChanges(f Facts, r *macro.Rehearsal) {
	now := map[reading.Key]reading.Value{}
	words, titles := f.words(), map[reading.Key]string{}
	called := func(k reading.Key) string {
		if titles[k] == "" {
			titles[k] = f.Called(k)
		}
		return titles[k]
	}
	out.Changes = slices.Grow(out.Changes, len(r.Changes))
	for _, c := range r.Changes {
		f.work.stopped() // it rests here too
		was, changed := now[c.Key]
		if !changed {
			was = f.Reading(c.Key).Value
		}
		now[c.Key] = c.Value
		out.Changes = append(out.Changes, RehearsedRow{macro.Millis(c.At), c.Key.String(), called(c.Key), words(c.Key, was), words(c.Key, c.Value), c.Step})
	}
	for _, o := range r.Pictures(f.IsPicture, func(k reading.Key) reading.Value { return f.Reading(k).Value }) {
		row := OutputRow{Key: o.Key.String(), Title: called(o.Key), Seen: []SeenSpan{}}
		for _, s := range o.Seen {
			row.Seen = append(row.Seen, SeenSpan{macro.Millis(s.From), macro.Millis(s.To), words(o.Key, s.Value), s.Step})
		}
		out.Outputs = append(out.Outputs, row)
	}
}

// Assumed are the readings, latencies and turns that a rehearsal away from the devices
// rests on.
type Assumed struct {
	Values map[reading.Key]reading.Value
	Median map[string]time.Duration // by device
	P95    map[string]time.Duration
	Turns  map[string]string
	paths  map[string][]string
}

// Reading implements expr.World.
func (a Assumed) Reading(k reading.Key) reading.Reading {
	v, known := a.Values[k]
	if !known {
		return reading.Reading{Quality: reading.Unknown}
	}
	return reading.Reading{Value: v, Quality: reading.Confirmed}
}

// Paths implements device.Known.
func (a Assumed) Paths(device string) []string { return a.paths[device] }

// RehearseAway rehearses a macro of a show on assumptions alone, with no device and no
// engine. The same show, sheets, assumptions and seed give the same result.
func RehearseAway(p *program.Program, id string, a Assumed, seed uint64) (*Rehearsed, error) {
	mac := p.Macros[id]
	if mac == nil {
		return nil, &macro.Error{Text: "There is no such macro in this archive."}
	}
	a.paths = map[string][]string{}
	for k, v := range a.Values {
		if d := p.Devices[k.Device]; d != nil && d.Type != nil {
			if typed, err := d.Type.Value(k.Path, v); err == nil {
				a.Values[k] = typed
			}
		}
		a.paths[k.Device] = append(a.paths[k.Device], k.Path)
	}
	for _, paths := range a.paths {
		slices.Sort(paths)
	}
	stats := func(device, action string) reading.Stats {
		if m, known := a.Median[device]; known && action == "" {
			return reading.Stats{Count: 1, Median: m, Lately: m, P95: a.P95[device]}
		}
		return reading.Stats{}
	}
	ctx := context.Background()
	return Rehearse(ctx, NewFacts(ctx, p, mac, a, func(step string) string { return a.Turns[step] }, stats), seed)
}

// words gives values in words, each of which is worked out once.
func (f Facts) words() func(reading.Key, reading.Value) string {
	type valueOf struct {
		key   reading.Key
		value reading.Value
	}
	known := map[valueOf]string{}
	return func(k reading.Key, v reading.Value) string {
		word, ok := known[valueOf{k, v}]
		if !ok {
			word = f.Program.Word(k, v, f)
			known[valueOf{k, v}] = word
		}
		return word
	}
}
