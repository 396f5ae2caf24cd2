package device

import (
	"math"
	"strconv"

	"synaptor/internal/core/reading"
)

// The curves of a fade.
const (
	SlowStart = "slow-start"
	SlowEnd   = "slow-end"
)

// silence is the level in decibels that a fade of a level without a taper starts from
// or ends at where that is minus infinity.
const silence = -60

// Ramp is the way of a number from where it is to where it shall be. A level goes
// evenly along its fader, by its taper.
type Ramp struct {
	from, to float64
	taper    TaperSpec
	curve    string
}

// Ramp gives the way of a reading from its value, or the one it is about to have, to a
// value as a parameter has it; nil where the value is not known or is no number.
func (t *Type) Ramp(path string, now reading.Reading, to, curve string) *Ramp {
	def := t.Reading(path)
	v := now.Value
	if now.Quality == reading.Pending {
		v = now.Expected
	}
	var from float64
	switch n := v.(type) {
	case float64:
		from = n
	case int:
		from = float64(n)
	default:
		return nil
	}
	end, err := strconv.ParseFloat(to, 64)
	if to == "-inf" {
		end, err = math.Inf(-1), nil
	}
	if err != nil || def == nil || now.Quality == reading.Unknown {
		return nil
	}
	r := &Ramp{from: from, to: end, taper: def.taper, curve: curve}
	if r.taper != nil {
		r.from, r.to = r.taper.Number(from), r.taper.Number(end)
	} else if def.Type == "db" {
		r.from, r.to = math.Max(from, silence), math.Max(end, silence)
	}
	return r
}

// At is where the number is after a share of the time, from 0 to 1.
func (r *Ramp) At(share float64) float64 {
	switch r.curve {
	case SlowStart:
		share *= share
	case SlowEnd:
		share = 1 - (1-share)*(1-share)
	}
	v := r.from + share*(r.to-r.from)
	if r.taper != nil {
		return r.taper.Decibels(v)
	}
	return v
}
