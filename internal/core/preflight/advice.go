package preflight

import (
	"cmp"
	"fmt"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reach"
	"synaptor/internal/core/show"
)

// ReachMap is the page graph of one zone.
type ReachMap = reach.Map

// Used is a key of a page with how often it was used, and how many presses lead to its page.
type Used struct {
	Key     Key
	Page    *show.Page
	Control device.Control
	Presses int
	Count   int
}

// Advice is a key that would be better placed.
type Advice struct {
	Finding
	// Gain is how many presses it would have saved, of those in the record.
	Gain int `json:"gain"`
	// MeanBefore and MeanAfter are the presses from the first page for a key that was used, over the zone.
	MeanBefore float64 `json:"meanBefore"`
	MeanAfter  float64 `json:"meanAfter"`
}

// What makes a move worth its while: how often the key was used, and how many moves are proposed for a zone.
const (
	worthMoving = 10
	mostMoves   = 3
)

// Placement proposes which keys of a zone to move to its first page: those that would save the most presses, as long as it has room. Risky ones stay
// where they are: that a page comes before them is a guard.
func Placement(z Zone, used []Used) (out []Advice) {
	total, presses := 0, 0
	for _, u := range used {
		if u.Presses >= 0 {
			total += u.Count
			presses += u.Count * u.Presses
		}
	}
	slices.SortStableFunc(used, func(a, b Used) int { return cmp.Compare(b.Count*b.Presses, a.Count*a.Presses) })
	free := z.Free(z.Home)
	for _, u := range used {
		if len(out) == mostMoves || len(free) == 0 || u.Presses < 1 || u.Count < worthMoving {
			break
		}
		if u.Key.Risky() || !slices.Contains(u.Control.Gestures, gestureOf(u.Key)) {
			continue
		}
		gain := u.Count * u.Presses
		presses -= gain
		home := ""
		for _, p := range z.Pages {
			if p.ID == z.Home {
				home = p.Name
			}
		}
		f := finder{subject: u.Key.Ref()}
		g := f.add("placement", Note, u.Page.ID+" "+u.Control.ID, "%s was used %d times, %s away from %s. On %s there it would have saved %d presses.", u.Key.Called(), u.Count, times(u.Presses), home, free[0], gain)
		g.Sure, g.Fix = Measured, Risk{Key: u.Key, Control: u.Control, Page: u.Page}.moveTo(z.Home, free[0])
		out = append(out, Advice{*g, gain, float64(presses+gain) / float64(total), float64(presses) / float64(total)})
		free = free[1:]
	}
	return out
}

func gestureOf(k Key) string {
	if len(k.Does) == 0 {
		return ""
	}
	return k.Does[0].Gesture
}

func times(n int) string {
	if n == 1 {
		return "one press"
	}
	return fmt.Sprintf("%d presses", n)
}

// SortAdvice puts what saves most first.
func SortAdvice(all []Advice) {
	slices.SortStableFunc(all, func(a, b Advice) int {
		return cmp.Or(cmp.Compare(b.Gain, a.Gain), cmp.Compare(a.Subject.ID, b.Subject.ID))
	})
}
