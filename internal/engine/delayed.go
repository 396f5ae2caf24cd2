package engine

import (
	"slices"
	"time"

	"synaptor/internal/core/macro"
)

// delayedSend is something that is sent at a time.
type delayedSend struct {
	at     time.Time
	run    *run
	device string
	do     func()
}

func (e *Engine) dueDelayed(now time.Time) {
	for _, l := range e.takeDelayed(func(l delayedSend) bool {
		if l.at.After(now) {
			e.armStep(l.at)
			return false
		}
		return true
	}) {
		e.takeHalts()
		l.send()
	}
}

// sendBefore sends at once what a put back keeps for a device, before a later command to it: a device is told
// everything in the order of the steps, and the later one is worked out from what the put back brings about.
func (e *Engine) sendBefore(device string) {
	if len(e.delayed) == 0 {
		return
	}
	for _, l := range e.takeDelayed(func(l delayedSend) bool { return l.device == device }) {
		l.send()
	}
}

// takeDelayed takes those out that are chosen, in the order of their times.
func (e *Engine) takeDelayed(choose func(delayedSend) bool) (due []delayedSend) {
	e.delayed = slices.DeleteFunc(e.delayed, func(l delayedSend) bool {
		chosen := choose(l)
		if chosen {
			due = append(due, l)
		}
		return chosen
	})
	slices.SortStableFunc(due, func(a, b delayedSend) int { return a.at.Compare(b.at) })
	return due
}

func (l delayedSend) send() {
	if l.run == nil || l.run.State != macro.Halted {
		l.do()
	}
}

func (e *Engine) hasDelayed(r *run) bool {
	return slices.ContainsFunc(e.delayed, func(l delayedSend) bool { return l.run == r })
}
