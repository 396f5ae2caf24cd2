package engine

import (
	"errors"
	"time"

	"synaptor/internal/link"
)

// Reconnect has the link of a device try again at once.
func (e *Engine) Reconnect(device string) { e.post(linkRequest{device, (*link.Link).Reconnect}) }

// Probe has the link of a device ask whether it is there.
func (e *Engine) Probe(device string) { e.post(linkRequest{device, (*link.Link).Probe}) }

// Ping has the link of a device ask whether it is there, and returns how long
// it took to say anything. It fails when that takes longer than the limit.
func (e *Engine) Ping(device string, limit time.Duration) (time.Duration, error) {
	answered := make(chan time.Time, 1)
	start := time.Now()
	e.post(ping{device, answered})
	select {
	case at := <-answered:
		return at.Sub(start), nil
	case <-time.After(limit):
		return 0, errSilent
	case <-e.quit:
		return 0, errSilent
	}
}

var errSilent = errors.New("the device did not answer in time")

// ping is somebody who waits for the next word of a device.
type ping struct {
	device string
	heard  chan time.Time
}

// ping asks a device; its next report answers.
func (e *Engine) ping(p ping) {
	rt := e.devices[p.device]
	if rt == nil || rt.link == nil {
		return
	}
	rt.pings = append(rt.pings, p.heard)
	rt.link.Probe()
}

// heardFrom tells those who wait for a device that it is there.
func (rt *deviceState) heardFrom(at time.Time) {
	for _, c := range rt.pings {
		c <- at // each has room for one
	}
	rt.pings = nil
}

type linkRequest struct {
	device string
	do     func(*link.Link)
}
