package engine

import (
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// sink brings what a link says to the engine; gen tells links of one device
// apart after it was moved.
type sink struct {
	e   *Engine
	gen int
}

type linkChanged struct {
	gen   int
	state link.State
}

type reported struct {
	gen     int
	device  string
	at      time.Time
	reports []device.Report
	taken   chan struct{} // closed when the engine has it; nil: nobody waits for that
}

type listed struct {
	gen    int
	device string
	at     time.Time
	lists  []device.List
}

type askedAll struct {
	device string
	at     time.Time
}

type leaving struct {
	command uint64
	at      time.Time
}

type written struct {
	command uint64
	at      time.Time
}

type dropped struct {
	command uint64
	at      time.Time
	reason  string
}

type answered struct {
	device string
	at     time.Time
	answer link.Answer
}

type raised struct {
	gen    int
	device string
	at     time.Time
	events []device.Event
	taken  chan struct{} // as of reported
}

type replied struct {
	device string
	at     time.Time
	reply  device.Reply
}

// LinkChanged implements link.Sink.
func (s sink) LinkChanged(st link.State) { s.e.post(linkChanged{s.gen, st}) }

// Reported implements link.Sink.
func (s sink) Reported(id string, at time.Time, reports []device.Report) {
	taken := large(len(reports))
	s.e.post(reported{s.gen, id, at, reports, taken})
	s.e.await(taken)
}

// largeReport is how many readings or events one message of a device may bring without its link
// waiting until the engine has them. Those that wait would be as many as there are events that wait.
const largeReport = 200

func large(n int) chan struct{} {
	if n <= largeReport {
		return nil
	}
	return make(chan struct{})
}

// await waits until the engine has taken something in; nil is not waited for.
func (e *Engine) await(taken chan struct{}) {
	if taken == nil {
		return
	}
	select {
	case <-taken:
	case <-e.quit:
	}
}

// takenIn tells whoever waits that something is.
func takenIn(taken chan struct{}) {
	if taken != nil {
		close(taken)
	}
}

// Listed implements link.Sink.
func (s sink) Listed(id string, at time.Time, lists []device.List) {
	s.e.post(listed{s.gen, id, at, lists})
}

// Asked implements link.Sink.
func (s sink) Asked(device string, at time.Time) { s.e.post(askedAll{device, at}) }

// Leaving implements link.Sink.
func (s sink) Leaving(_ string, command uint64, at time.Time) { s.e.post(leaving{command, at}) }

// Written implements link.Sink.
func (s sink) Written(_ string, command uint64, at time.Time) { s.e.post(written{command, at}) }

// Dropped implements link.Sink.
func (s sink) Dropped(_ string, command uint64, at time.Time, reason string) {
	s.e.post(dropped{command, at, reason})
}

// Answered implements link.Sink.
func (s sink) Answered(device string, at time.Time, a link.Answer) { s.e.post(answered{device, at, a}) }

// Raised implements link.Sink.
func (s sink) Raised(id string, at time.Time, events []device.Event) {
	taken := large(len(events))
	s.e.post(raised{s.gen, id, at, events, taken})
	s.e.await(taken)
}

// Replied implements link.Sink.
func (s sink) Replied(id string, at time.Time, r device.Reply) { s.e.post(replied{id, at, r}) }
