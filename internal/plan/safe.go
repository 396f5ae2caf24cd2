package plan

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// SafeLanding is what Safe would do to an output.
type SafeLanding struct {
	Of *program.SafePicture
	// Problem says why it cannot take its safe picture as things stand; empty: nothing does.
	Problem string
	// Wait is how long its command is held back, so that all land together; At when its picture is there by what is usual, Worst by when 95 of 100 are.
	Wait, At, Worst time.Duration
	// To is what it shows then; nil: nobody knows.
	To reading.Value
}

// RehearseSafe works out what Safe would do as things stand: when each output is safe, counted from the press. refusal says why an action cannot be sent.
func RehearseSafe(f Facts, all []*program.SafePicture, refusal func(*program.Response) string) []SafeLanding {
	out := make([]SafeLanding, len(all))
	slowest := time.Duration(0)
	for i, p := range all {
		out[i] = SafeLanding{Of: p, Problem: p.Problem}
		if out[i].Problem == "" {
			out[i].Problem = refusal(p.Then)
		}
		if out[i].Problem == "" {
			lag, _ := f.Latency(f.Program.Devices[p.Then.Device], p.Then.Call.Action)
			slowest = max(slowest, lag)
		}
	}
	for i, p := range all {
		l := &out[i]
		if l.Problem != "" {
			continue
		}
		lag, worst := f.Latency(f.Program.Devices[p.Then.Device], p.Then.Call.Action)
		l.Wait = slowest - lag
		l.At, l.Worst = l.Wait+lag, l.Wait+worst
		for _, e := range p.Then.Bound.Effects(f) {
			if e.Key == p.Key {
				l.To = e.Value
				l.At, l.Worst = l.At+e.After, l.Worst+e.After
			}
		}
	}
	return out
}
