package macro

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// What is found in a macro.
const (
	Cycle      = "macro-cycle"
	Empty      = "macro-empty"
	Never      = "branch-never"
	Unsent     = "step-unsent"
	Gone       = "option-gone"
	Toggle     = "toggle-in-macro"
	Apart      = "lands-apart"
	Overwrites = "overwritten-before-seen"
	TooShort   = "wait-shorter-than-transition"
	Incomplete = "put-back-incomplete"
	Unheard    = "fade-unheard"
)

// How bad a finding is.
const (
	Stops   = "stops the show"
	Caution = "caution"
	Hint    = "note"
)

// Finding is something about a macro that its owner should know before air.
type Finding struct {
	ID       string `json:"id"`
	Severity string `json:"severity"`
	Step     string `json:"step,omitempty"`  // the step it is about; empty: the macro
	Other    string `json:"other,omitempty"` // the step that it has to do with
	Text     string `json:"text"`
	// Fix is what one edit could do about it: set, together, wait; empty: nothing.
	Fix string `json:"fix,omitempty"`
	// Wait is how long the wait would have to be, for the fix wait.
	Wait time.Duration `json:"-"`
}

// seen is how long a picture has to be on an output to be seen.
const seen = 500 * time.Millisecond

// Facts answer what findings need to know of devices.
type Facts interface {
	Assumptions
	// Gone names what the action of a step was given and its device does not have any more; "".
	Gone(*show.Step) string
	// IsToggle reports whether the action of a step changes to the other state where there are
	// actions that say which.
	IsToggle(*show.Step) bool
	// Silent names the channel that a step fades while it is muted; "".
	Silent(*show.Step) string
	// IsPicture reports whether a reading is what an output shows.
	IsPicture(reading.Key) bool
	// CanSet reports whether a reading can be put back.
	CanSet(reading.Key) bool
	// Called is what a reading is called.
	Called(reading.Key) string
}

// Find looks a macro through, the worst first. A macro that cannot be built has that
// as its only finding.
func Find(s *show.Show, id string, f Facts, seed uint64) []Finding {
	tree, err := Build(s, id)
	if tree == nil {
		return []Finding{unbuilt(err)}
	}
	return Look(tree, Compile(tree, f), Rehearse(tree, f, seed), f)
}

// unbuilt is the finding of a macro that cannot be built.
func unbuilt(err error) Finding {
	out := Finding{ID: Unsent, Severity: Stops, Text: err.Error()}
	var e *Error
	if errors.As(err, &e) {
		out.Step = e.Step
		if e.Circle {
			out.ID = Cycle
		}
	}
	return out
}

// Look is Find for a macro that was built, planned and rehearsed.
func Look(tree *Tree, plan *Plan, r *Rehearsal, f Facts) []Finding {
	out := steps(tree, plan, f)
	for _, p := range tree.Problems {
		out = append(out, Finding{ID: Unsent, Severity: Stops, Step: p.Step, Text: p.Text})
	}
	out = append(out, apart(tree.Steps, f)...)
	out = append(out, pictures(r, plan, f)...)
	slices.SortStableFunc(out, func(a, b Finding) int { return cmp.Compare(rank(a.Severity), rank(b.Severity)) })
	return out
}

func rank(severity string) int { return slices.Index([]string{Stops, Caution, Hint}, severity) }

// steps finds what is wrong with single steps.
func steps(t *Tree, plan *Plan, f Facts) (out []Finding) {
	if len(plan.Bars) == 0 && len(t.Problems) == 0 {
		out = append(out, Finding{ID: Empty, Severity: Caution, Text: "This macro does nothing yet."})
	}
	for _, b := range plan.Bars {
		if b.Problem != "" {
			out = append(out, Finding{ID: Unsent, Severity: Stops, Step: b.Step, Text: "This step cannot be sent: " + b.Problem})
		}
	}
	t.Each(func(n *Node) {
		if n.Action != nil {
			if what := f.Gone(n.Step); what != "" {
				out = append(out, Finding{ID: Gone, Severity: Stops, Step: n.ID, Text: what + " is not there any more."})
			}
			if f.IsToggle(n.Step) {
				out = append(out, Finding{ID: Toggle, Severity: Caution, Step: n.ID, Fix: "set",
					Text: "This changes to the other state, whichever that is. After a press by hand it goes the wrong way; say which state is meant."})
			}
		}
		if n.Kind == Fade && n.Action != nil {
			if name := f.Silent(n.Step); name != "" {
				out = append(out, Finding{ID: Unheard, Severity: Hint, Step: n.ID,
					Text: name + " is muted now: the level moves, and nobody hears it until it is opened."})
			}
		}
		if n.Kind == If {
			for i, b := range n.Children {
				if b.When == "" && i < len(n.Children)-1 {
					out = append(out, Finding{ID: Never, Severity: Caution, Step: n.Children[i+1].ID, Other: b.ID,
						Text: "This branch is never taken: the one before it has no condition, so it always is."})
					break
				}
			}
		}
	})
	return out
}

// Each calls f for every step, those of nested macros too.
func (t *Tree) Each(f func(*Node)) {
	var walk func([]*Node)
	walk = func(list []*Node) {
		for _, n := range list {
			f(n)
			walk(n.Children)
			if n.Nested != nil {
				walk(n.Nested.Steps)
			}
		}
	}
	walk(t.Steps)
}

// apart finds neighbours that are meant for the same moment, on devices that do not
// answer equally fast.
func apart(list []*Node, f Facts) (out []Finding) {
	frame := time.Second / 25
	if rate := f.FrameRate(); rate > 0 {
		frame = time.Duration(float64(time.Second) / rate)
	}
	for i, n := range list {
		if n.Kind != Together {
			out = append(out, apart(n.Children, f)...)
		}
		if i == 0 || n.Kind != Do || list[i-1].Kind != Do || n.Action.Device == list[i-1].Action.Device {
			continue
		}
		a, err1 := f.Timing(list[i-1].Step)
		b, err2 := f.Timing(n.Step)
		if skew := max(a.Median, b.Median) - min(a.Median, b.Median); err1 == nil && err2 == nil && skew > frame {
			out = append(out, Finding{ID: Apart, Severity: Caution, Step: n.ID, Other: list[i-1].ID, Fix: "together",
				Text: fmt.Sprintf("This and the step before it land %d ms apart, because %s and %s do not answer equally fast. Together they land at once.",
					skew.Milliseconds(), cmp.Or(a.Name, a.Device), cmp.Or(b.Name, b.Device))})
		}
	}
	return out
}

// pictures finds, in a rehearsal, what is overwritten before it was seen, transitions
// that are cut short, and what cannot be put back.
func pictures(r *Rehearsal, plan *Plan, f Facts) (out []Finding) {
	own := make(map[string]time.Duration, len(plan.Bars))
	for _, b := range plan.Bars {
		own[b.Step] = b.Own
	}
	started := make(map[string]time.Duration, len(r.Steps))
	order := make(map[string]int, len(r.Steps))
	for i, d := range r.Steps {
		started[d.Step], order[d.Step] = d.At, i
	}
	last := map[reading.Key]Change{}
	told := map[string]bool{}
	for _, c := range r.Changes {
		before, was := last[c.Key]
		last[c.Key] = c
		if !was || before.Step == c.Step || told[before.Step+c.Step] {
			continue
		}
		// A transition that takes long may end after what was started later.
		earlier, later := before, c
		if order[c.Step] < order[before.Step] {
			earlier, later = c, before
		}
		if own[earlier.Step] > 0 && started[later.Step] < earlier.At {
			told[before.Step+c.Step] = true
			short := earlier.At - started[later.Step]
			out = append(out, Finding{ID: TooShort, Severity: Caution, Step: later.Step, Other: earlier.Step, Fix: "wait", Wait: short,
				Text: fmt.Sprintf("This starts %d ms before the transition of an earlier step has ended.", short.Milliseconds())})
		} else if f.IsPicture(c.Key) && c.At-before.At < seen {
			told[before.Step+c.Step] = true
			out = append(out, Finding{ID: Overwrites, Severity: Caution, Step: before.Step, Other: c.Step, Fix: "wait", Wait: seen - (c.At - before.At),
				Text: fmt.Sprintf("What this puts on %s is replaced after %d ms, before anybody has seen it.", f.Called(c.Key), (c.At - before.At).Milliseconds())})
		}
	}
	back := slices.IndexFunc(plan.Bars, func(b Bar) bool { return b.Kind == PutBack })
	if back < 0 {
		return out
	}
	var lost []string
	for _, c := range r.Changes {
		if name := f.Called(c.Key); !f.CanSet(c.Key) && !slices.Contains(lost, name) {
			lost = append(lost, name)
		}
	}
	if len(lost) > 0 {
		out = append(out, Finding{ID: Incomplete, Severity: Caution, Step: plan.Bars[back].Step, Text: "This cannot be put back: " + strings.Join(lost, ", ") + "."})
	}
	return out
}
