// Package bench runs the simulated devices that ship with Synaptor: real
// servers on loopback, with a real protocol and an honest simulation each, so
// that everything can be tried with nothing plugged in.
package bench

import (
	"fmt"
	"net"
	"strconv"

	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/switcher"
)

// Bench is the set of running stand-ins.
type Bench struct {
	Switcher *switcher.Server
	Mixer    *mixer.Server
}

// Start runs every stand-in on loopback, from a base port on: the switcher has
// the base plus one, the sound desk the base plus two; 0 takes free ports.
// changed is called after a change with the stand-in's id; it may be nil.
func Start(base int, changed func(id string)) (*Bench, error) {
	if changed == nil {
		changed = func(string) {}
	}
	addr := func(offset int) string {
		if base == 0 {
			return "127.0.0.1:0"
		}
		return net.JoinHostPort("127.0.0.1", strconv.Itoa(base+offset))
	}
	b := &Bench{}
	var err error
	if b.Switcher, err = switcher.Start(addr(1), func() { changed("switcher") }); err != nil {
		return nil, fmt.Errorf("start the bench (is another Synaptor running?): %w", err)
	}
	if b.Mixer, err = mixer.Start(addr(2), func() { changed("mixer") }); err != nil {
		b.Switcher.Close()
		return nil, fmt.Errorf("start the bench (is another Synaptor running?): %w", err)
	}
	return b, nil
}

// StandIns lists the stand-ins in the order of their ports.
func (b *Bench) StandIns() []panel.StandIn { return []panel.StandIn{b.Switcher, b.Mixer} }

// StandIn finds a stand-in by id, or nil.
func (b *Bench) StandIn(id string) panel.StandIn {
	for _, s := range b.StandIns() {
		if s.ID() == id {
			return s
		}
	}
	return nil
}

// Close ends every stand-in.
func (b *Bench) Close() {
	for _, s := range b.StandIns() {
		s.Close()
	}
}
