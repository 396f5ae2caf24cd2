package attach

import (
	"time"

	"synaptor/internal/engine"
)

// Announcer makes an entry's id known before the engine has seen its input.
type Announcer interface {
	Announce(id string, at time.Time)
}

// HTTP takes one gesture, or an edge, from an HTTP request and returns the id of its journal
// entry.
func HTTP(a Address, at time.Time, amount float64, actor string, shows Programs, e *engine.Engine, j Announcer) (string, error) {
	in, err := a.Resolve(shows.Program())
	if err != nil {
		return "", err
	}
	in = Stamp(in, at, "http", "http "+actor, actor)
	in.Amount, in.Announced = amount, true
	j.Announce(in.Entry, at)
	e.Input(in)
	return in.Entry, nil
}
