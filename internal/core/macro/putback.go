package macro

import (
	"math"
	"slices"

	"synaptor/internal/core/reading"
)

// Baseline is what a run found before it changed anything, and what it has made of
// it since. One belongs to each root run, also when it starts over; a run within it
// has one of its own, for what it changes itself. The zero value is a run that has
// changed nothing.
type Baseline struct {
	order []reading.Key
	kept  map[reading.Key]*kept
}

type kept struct {
	was   reading.Reading // before the run changed it
	gave  reading.Value   // what the run gave it last
	given bool
	// before is what it gave before that, where a kill may have come between: then either is its own.
	before reading.Value
	// tolerance is how far apart two values may be that are the same to the device.
	tolerance float64
}

// Capture keeps readings as they are, before the run can change them; those that are
// kept already stay as they were.
func (b *Baseline) Capture(keys []reading.Key, now func(reading.Key) reading.Reading) {
	if b.kept == nil {
		b.kept = map[reading.Key]*kept{}
	}
	for _, k := range keys {
		if b.kept[k] == nil {
			b.kept[k] = &kept{was: now(k)}
			b.order = append(b.order, k)
		}
	}
}

// Gave notes the value that the run gives a reading, and how far apart two values may
// be that are the same to its device. A reading that was not captured is not put back.
func (b *Baseline) Gave(k reading.Key, v reading.Value, tolerance float64) {
	if r := b.kept[k]; r != nil {
		r.gave, r.given, r.tolerance = v, true, tolerance
	}
}

// Kept is a reading of a baseline as it can be stored.
type Kept struct {
	Device    string          `json:"device"`
	Path      string          `json:"path"`
	Was       any             `json:"was"`
	Quality   reading.Quality `json:"quality"` // of what it was
	Gave      any             `json:"gave"`
	Before    any             `json:"before,omitempty"` // what it gave before that, where the last may not have been sent
	Tolerance float64         `json:"tolerance,omitempty"`
}

// Kept lists what the run has changed, for a put back after a restart.
func (b *Baseline) Kept() (out []Kept) {
	for _, k := range b.Changed() {
		r := b.kept[k]
		out = append(out, Kept{k.Device, k.Path, stored(r.was.Value), r.was.Quality, stored(r.gave), nil, r.tolerance})
	}
	return out
}

// KeptAs is a captured reading as it can be stored before the run gives it a value.
func (b *Baseline) KeptAs(k reading.Key, gives reading.Value, tolerance float64) Kept {
	r := b.kept[k]
	return Kept{k.Device, k.Path, stored(r.was.Value), r.was.Quality, stored(gives), stored(r.gave), tolerance}
}

// Restored makes a baseline of what was stored.
func Restored(list []Kept) *Baseline {
	b := &Baseline{}
	for _, k := range list {
		key := reading.Key{Device: k.Device, Path: k.Path}
		b.Capture([]reading.Key{key}, func(reading.Key) reading.Reading {
			return reading.Reading{Value: restored(k.Was), Quality: k.Quality}
		})
		b.Gave(key, restored(k.Gave), k.Tolerance)
		b.kept[key].before = restored(k.Before)
	}
	return b
}

// noLevel stands for minus infinity, which JSON cannot say.
const noLevel = "-inf"

func stored(v reading.Value) any {
	if f, ok := v.(float64); ok && math.IsInf(f, -1) {
		return noLevel
	}
	return v
}

func restored(v any) reading.Value {
	if v == noLevel {
		return math.Inf(-1)
	}
	return v
}

// Return is a reading that goes back to what it was.
type Return struct {
	Key      reading.Key
	From, To reading.Value
}

// Why a reading is left as it is.
const (
	ByHand   = "somebody has changed it since"
	NotKnown = "nobody knows what it is now"
	WasOpen  = "nobody knew what it was before"
	NoSetter = "its device has no way to set it"
)

// Left is a reading that is not put back.
type Left struct {
	Key reading.Key
	Why string
}

// Back works out what a put back does: each reading that still has the value the run
// gave it, or is about to, returns to what it was; what somebody has changed in the
// meantime, what is not known and what cannot be set is left alone, with the reason.
// What is as it was already is in neither list, unless a fade of the run is moving it; moving may be nil.
func (b *Baseline) Back(now func(reading.Key) reading.Reading, canSet, moving func(reading.Key) bool) (back []Return, left []Left) {
	for _, k := range b.order {
		r := b.kept[k]
		if !r.given {
			continue
		}
		is := now(k)
		switch {
		case is.Quality == reading.Unknown:
			left = append(left, Left{k, NotKnown})
		case !r.ours(is):
			if !reading.Equal(is.Value, r.was.Value, r.tolerance) {
				left = append(left, Left{k, ByHand})
			}
		case reading.Equal(r.was.Value, r.gave, r.tolerance) && reading.Equal(r.was.Value, is.Value, r.tolerance) && (moving == nil || !moving(k)):
		case r.was.Quality == reading.Unknown:
			left = append(left, Left{k, WasOpen})
		case !canSet(k):
			left = append(left, Left{k, NoSetter})
		default:
			back = append(back, Return{k, r.gave, r.was.Value})
		}
	}
	return back, left
}

// Original is what a reading was before this run gave it a value, where it still has
// that; ok is false where it has not. A run that starts meanwhile keeps that as what
// it found, and never what another run has made of it.
func (b *Baseline) Original(k reading.Key, now reading.Reading) (was reading.Reading, ok bool) {
	r := b.kept[k]
	if r == nil || !r.given || !r.ours(now) {
		return was, false
	}
	return r.was, true
}

// ours tells whether a reading still has the value that the run gave it, or is about
// to.
func (r *kept) ours(now reading.Reading) bool {
	return reading.Equal(now.Value, r.gave, r.tolerance) || r.before != nil && reading.Equal(now.Value, r.before, r.tolerance) || now.Quality == reading.Pending && reading.Equal(now.Expected, r.gave, r.tolerance)
}

// Baselines are those of a root run and of the runs within it, by the numbers that
// Order.Runs counts.
type Baselines map[int]*Baseline

// Capture keeps readings for all of some runs, for what a run within changes its outer runs change too. Those
// that an outer one keeps already stay as it found them.
func (b Baselines) Capture(runs []int, keys []reading.Key, now func(reading.Key) reading.Reading) {
	for _, run := range runs {
		b.of(run).Capture(keys, now)
	}
}

// Gave notes a value for all of some runs.
func (b Baselines) Gave(runs []int, k reading.Key, v reading.Value, tolerance float64) {
	for _, run := range runs {
		b.of(run).Gave(k, v, tolerance)
	}
}

func (b Baselines) of(run int) *Baseline {
	if b[run] == nil {
		b[run] = &Baseline{}
	}
	return b[run]
}

// Back is Baseline.Back for one of the runs.
func (b Baselines) Back(run int, now func(reading.Key) reading.Reading, canSet, moving func(reading.Key) bool) ([]Return, []Left) {
	return b.of(run).Back(now, canSet, moving)
}

// Changed lists the readings that the run has given a value, in the order in which
// they were captured.
func (b *Baseline) Changed() []reading.Key {
	return slices.DeleteFunc(slices.Clone(b.order), func(k reading.Key) bool { return !b.kept[k].given })
}
