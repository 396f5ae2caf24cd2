package engine

import (
	"maps"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reflex"
)

// Hear has the engine take in reports as if the link of a device had brought them.
func (e *Engine) Hear(device string, reports []device.Report) {
	_ = e.call(func() error {
		rt := e.devices[device]
		e.reported(rt, reported{gen: rt.gen, device: device, at: time.Now(), reports: reports})
		return nil
	})
}

// Alive gives the zones, profiles and turns that live.
func (e *Engine) Alive() (zones map[string]bool, profiles, turns map[string]string) {
	zones = map[string]bool{}
	_ = e.call(func() error {
		for k := range e.zones {
			zones[k.controller+"/"+k.zone+"/"+k.profile] = true
		}
		profiles, turns = maps.Clone(e.profiles), maps.Clone(e.branches)
		return nil
	})
	return zones, profiles, turns
}

// Refresh has a device asked for its whole state.
func (e *Engine) Refresh(device string) {
	_ = e.call(func() error {
		e.devices[device].link.Refresh()
		return nil
	})
}

// Remembered is how many responses' needs are remembered as met.
func (e *Engine) Remembered() (n int) {
	_ = e.call(func() error {
		n = len(e.met)
		return nil
	})
	return n
}

// Occupy keeps the engine busy until the function is called that it gives.
func (e *Engine) Occupy() (free func()) {
	begun, end := make(chan struct{}), make(chan struct{})
	go func() {
		_ = e.call(func() error {
			close(begun)
			<-end
			return nil
		})
	}()
	<-begun
	return func() { close(end) }
}

// Jump has the clock on the wall have jumped by so much since it was looked at last.
func (e *Engine) Jump(by time.Duration) {
	_ = e.call(func() error {
		now := time.Now()
		e.clock = reflex.Clock{}
		e.clock.See(now.Add(-by).Round(0), now.Sub(e.began))
		return nil
	})
}
