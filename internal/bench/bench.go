// Package bench runs the simulated devices that ship with Synaptor: real
// servers on loopback, with a real protocol and an honest simulation each, so
// that everything can be tried with nothing plugged in.
package bench

import (
	"fmt"
	"net"
	"strconv"

	"synaptor/internal/bench/switcher"
)

// Bench is the set of running stand-ins.
type Bench struct {
	Switcher *switcher.Server
}

// Start runs every stand-in on loopback, from a base port on: the switcher has
// the base plus one. changed is called after a change with the stand-in's
// name; it may be nil.
func Start(base int, changed func(standIn string)) (*Bench, error) {
	if changed == nil {
		changed = func(string) {}
	}
	addr := "127.0.0.1:0"
	if base > 0 {
		addr = net.JoinHostPort("127.0.0.1", strconv.Itoa(base+1))
	}
	sw, err := switcher.Start(addr, func() { changed("switcher") })
	if err != nil {
		return nil, fmt.Errorf("start the bench (is another Synaptor running?): %w", err)
	}
	return &Bench{Switcher: sw}, nil
}

// Close ends every stand-in.
func (b *Bench) Close() { b.Switcher.Close() }
