package layout

import (
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
)

// Way is a gesture of a control by which one goes through pages.
type Way struct {
	Control string `json:"control"`
	Gesture string `json:"gesture"`
}

// Use says what is on a control of a page.
type Use struct {
	Gestures []string // that respond
	Guarded  bool     // a guard waits for how long it is held
	Standing bool     // it is there on every page
}

// Through proposes how one goes to the next page and to the one before by gestures, so that no key is lost to it: by holding a control
// whose hold does nothing on any of the pages, since a press there only waits until it is let go; else by a double. Controls with nothing
// on them come first, then those of which fewest presses wait. back is without a control where only one has room; ok is false where
// none has.
func Through(controls []device.Control, pages []map[string]Use) (next, back Way, ok bool) {
	for _, gesture := range []string{input.Hold, input.Double} {
		type free struct {
			control string
			waits   int
		}
		var can []free
		for _, c := range controls {
			if waits, fits := room(c, gesture, pages); fits {
				can = append(can, free{c.ID, waits})
			}
		}
		slices.SortStableFunc(can, func(a, b free) int { return a.waits - b.waits })
		switch best := slices.DeleteFunc(slices.Clone(can), func(f free) bool { return f.waits > can[0].waits }); {
		case len(can) == 0:
			continue
		case len(best) > 1: // the first of them goes back, the last one on, as one reads
			return Way{best[len(best)-1].control, gesture}, Way{best[0].control, gesture}, true
		case len(can) > 1:
			return Way{can[0].control, gesture}, Way{can[1].control, gesture}, true
		default:
			return Way{can[0].control, gesture}, Way{}, true
		}
	}
	return Way{}, Way{}, false
}

// room tells whether a control can make a gesture that does nothing on any page, and on how many a press would wait for it.
func room(c device.Control, gesture string, pages []map[string]Use) (waits int, fits bool) {
	if !slices.Contains(c.Gestures, gesture) {
		return 0, false
	}
	for _, p := range pages {
		u, used := p[c.ID]
		if !used {
			continue
		}
		if u.Standing || u.Guarded || slices.ContainsFunc(u.Gestures, func(g string) bool {
			return g == gesture || g == input.Repeat || g == input.Talk || g == input.PushTurn
		}) {
			return 0, false
		}
		if slices.Contains(u.Gestures, input.Press) {
			waits++
		}
	}
	return waits, true
}
