package reflex

import (
	"cmp"
	"slices"

	"synaptor/internal/core/reading"
)

// Holding is what a reading is held at while reflexes follow their conditions, and what it was before. Of several that hold a number the one that asks for the
// least counts, of others the last; the original returns with the last of them, unless a hand has moved it meanwhile.
type Holding struct {
	Original reading.Value `json:"original"`
	// Given is what it was last brought to.
	Given reading.Value `json:"given"`
	// By are the reflexes that hold it, the oldest first.
	By []Hold `json:"by"`
}

// Hold is what one reflex holds a reading at.
type Hold struct {
	Reflex string        `json:"reflex"`
	At     reading.Value `json:"at"`
}

// Begin has a reflex hold a reading that is now something. by takes a number down from its original, and counts instead of at where it is not 0. It returns
// what the reading is to be brought to; changes is false where it is that already, or where a hand has moved it while others hold it.
func (h *Holding) Begin(reflex string, at reading.Value, by float64, now reading.Value, tolerance float64) (to reading.Value, changes bool) {
	moved := len(h.By) > 0 && !reading.Equal(now, h.Given, tolerance)
	if len(h.By) == 0 {
		h.Original, h.Given = now, now
	}
	if n, is := reading.Number(h.Original); by != 0 && is {
		at = n - by
	} else if by != 0 {
		at = h.Original // there is nothing to take down
	}
	h.By = append(slices.DeleteFunc(h.By, func(o Hold) bool { return o.Reflex == reflex }), Hold{reflex, at})
	if moved {
		return now, false
	}
	return h.bring(h.wanted())
}

// End lets a reflex go of a reading that is now something. moved says that a hand has moved it meanwhile, so that it stays as it is.
func (h *Holding) End(reflex string, now reading.Value, tolerance float64) (to reading.Value, changes, moved bool) {
	if !h.Holds(reflex) {
		return nil, false, false
	}
	h.By = slices.DeleteFunc(h.By, func(o Hold) bool { return o.Reflex == reflex })
	if !reading.Equal(now, h.Given, tolerance) {
		return nil, false, true
	}
	to, changes = h.bring(h.wanted())
	return to, changes, false
}

// Holds tells whether a reflex holds it.
func (h *Holding) Holds(reflex string) bool {
	return slices.ContainsFunc(h.By, func(o Hold) bool { return o.Reflex == reflex })
}

func (h *Holding) bring(to reading.Value) (reading.Value, bool) {
	changes := !reading.Equal(h.Given, to, 0)
	h.Given = to
	return to, changes
}

// wanted is what those that hold it want it to be.
func (h *Holding) wanted() reading.Value {
	if len(h.By) == 0 {
		return h.Original
	}
	least := slices.MinFunc(h.By, func(a, b Hold) int {
		n, isA := reading.Number(a.At)
		m, isB := reading.Number(b.At)
		if !isA || !isB {
			return 0
		}
		return cmp.Compare(n, m)
	})
	if _, is := reading.Number(least.At); is {
		return least.At
	}
	return h.By[len(h.By)-1].At
}
