package macro

import (
	"time"

	"synaptor/internal/core/reading"
)

// Shown is a picture on an output for a time.
type Shown struct {
	From, To time.Duration
	Value    reading.Value
	Step     string // that brought it; empty: it was there before
}

// Output is what the audience sees on one output during a rehearsal, in order.
type Output struct {
	Key  reading.Key
	Seen []Shown
}

// Pictures tells what the audience sees: for every reading that is what an output
// shows and that the rehearsal changes, what is there and for how long. before gives
// what was there at first.
func (r *Rehearsal) Pictures(isPicture func(reading.Key) bool, before func(reading.Key) reading.Value) []Output {
	var out []Output
	at := map[reading.Key]int{}
	for _, c := range r.Changes {
		if !isPicture(c.Key) {
			continue
		}
		i, known := at[c.Key]
		if !known {
			i = len(out)
			at[c.Key] = i
			out = append(out, Output{Key: c.Key, Seen: []Shown{{Value: before(c.Key)}}})
		}
		seen := out[i].Seen
		last := &seen[len(seen)-1]
		if reading.Equal(last.Value, c.Value, 0) {
			continue
		}
		last.To = c.At
		out[i].Seen = append(seen, Shown{From: c.At, Value: c.Value, Step: c.Step})
	}
	for i := range out {
		out[i].Seen[len(out[i].Seen)-1].To = r.Length
	}
	return out
}
