package macro

import (
	"math"
	"slices"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// Used is something that was done while it was recorded: by a press, or by hand on a
// device's own front panel.
type Used struct {
	At   time.Duration // from the start of the recording
	Call show.Call
	// Before and After are the readings that it changed.
	Before, After map[reading.Key]reading.Value
}

// slip is how soon something has to be taken back to count as a slip.
const slip = 2 * time.Second

// atOnce is how close two things are that were meant for the same moment.
const atOnce = 80 * time.Millisecond

// FromUse makes steps of what was done, with waits between them as they were, rounded.
// What was taken back within two seconds is left out with what took it back, and of
// several values of the same thing on its way (a fader that is moved) only the last one
// is kept. The first step comes at once. The steps have no ids.
func FromUse(list []Used) (out []show.Step) {
	list = last(withoutSlips(list))
	var at time.Duration
	for i, u := range list {
		if i > 0 {
			if wait := rounded(u.At - at); wait > 0 {
				out = append(out, show.Step{Kind: Wait, Ms: int(wait.Milliseconds())})
			}
		}
		at = u.At
		call := u.Call
		out = append(out, show.Step{Kind: Do, Action: &call})
	}
	return out
}

// withoutSlips leaves out what was taken back at once.
func withoutSlips(list []Used) []Used {
	gone := map[int]bool{}
	for i, u := range list {
		for j := i + 1; j < len(list) && list[j].At-u.At < slip && !gone[i]; j++ {
			switch {
			case gone[j]:
			case undoes(u, list[j]):
				gone[i], gone[j] = true, true
			case touches(u, list[j]):
				j = len(list) // something else happened to it between
			}
		}
	}
	var out []Used
	for i, u := range list {
		if !gone[i] {
			out = append(out, u)
		}
	}
	return out
}

// undoes tells whether a thing puts all back that another one has changed.
func undoes(a, b Used) bool {
	if len(a.After) == 0 || len(a.After) != len(b.After) {
		return false
	}
	for k := range a.After {
		after, same := b.After[k]
		if !same || !reading.Equal(after, a.Before[k], 0) {
			return false
		}
	}
	return true
}

func touches(a, b Used) bool {
	for k := range a.After {
		if _, too := b.After[k]; too {
			return true
		}
	}
	return false
}

// last keeps of values that follow each other closely on the same reading only the
// last one.
func last(list []Used) []Used {
	var out []Used
	for i, u := range list {
		again := slices.ContainsFunc(list[i+1:], func(v Used) bool {
			return v.At-u.At < time.Second/4 && v.Call.Device == u.Call.Device && v.Call.Action == u.Call.Action && len(u.After) > 0 && sameKeys(u, v)
		})
		if !again {
			out = append(out, u)
		}
	}
	return out
}

func sameKeys(a, b Used) bool {
	for k := range a.After {
		if _, too := b.After[k]; !too {
			return false
		}
	}
	return len(a.After) == len(b.After)
}

// rounded is a wait as a person would write it: to a tenth of a second below two, to
// half a second below ten, else to a second. What is shorter than 80 ms was meant for
// the same moment.
func rounded(d time.Duration) time.Duration {
	if d < atOnce {
		return 0
	}
	unit := time.Second
	switch {
	case d < 2*time.Second:
		unit = time.Second / 10
	case d < 10*time.Second:
		unit = time.Second / 2
	}
	return time.Duration(math.Round(float64(d)/float64(unit))) * unit
}
