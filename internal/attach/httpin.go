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
// entry. value is what came with it: see Valued.
func HTTP(a Address, at time.Time, value any, from Sender, shows Programs, e *engine.Engine, j Announcer) (string, error) {
	p := shows.Program()
	in, err := a.Resolve(p)
	if err == nil {
		in, err = By(in, from, p)
	}
	if err == nil {
		in, err = Valued(in, value)
	}
	if err != nil {
		return "", err
	}
	in = Stamp(in, at, "http", "http "+from.String(), from.String())
	in.Announced = true
	j.Announce(in.Entry, at)
	e.Input(in)
	return in.Entry, nil
}
