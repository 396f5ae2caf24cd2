package engine

import (
	"time"

	"synaptor/internal/core/reading"
)

// statsEvery is how often the statistics of an action are worked out at most.
const statsEvery = 50 * time.Millisecond

// sample takes in how long a command took. A few in a row that are each clearly beside what is usual for
// their own action show that the device or its network has changed: what all actions took before counts no
// more, and these stand for all of them until each has one of its own.
func (rt *deviceState) sample(action string, d time.Duration) (l *latency, changed bool) {
	l = rt.actions[action]
	if l == nil {
		l = &latency{}
		rt.actions[action] = l
	}
	changed = rt.shift.Take(l.Side(d))
	rt.all.Add(d)
	if changed {
		rt.shift = 0
		rt.all.Forget(reading.ChangedAfter)
		for _, o := range rt.actions {
			o.Forget(0)
		}
	}
	l.Follow(d)
	return l, changed
}

// shownSamples is how many samples of a device are drawn.
const shownSamples = 30

// addSample takes in how long a command took to be confirmed.
func (e *Engine) addSample(rt *deviceState, c *command, d time.Duration) {
	l, changed := rt.sample(c.action, d)
	now := time.Now()
	if changed {
		for action, o := range rt.actions {
			e.publishStats(c.device, action, rt, o, now)
		}
		return
	}
	if wait := statsEvery - now.Sub(l.at); wait > 0 {
		l.stale = true
		e.arm(now.Add(wait))
		return
	}
	e.publishStats(c.device, c.action, rt, l, now)
}

// publishStats works out the statistics of an action anew.
func (e *Engine) publishStats(device, action string, rt *deviceState, l *latency, now time.Time) {
	l.at, l.stale, l.stats, rt.stats = now, false, l.Stats(), rt.all.Stats()
	e.stream.push(LatencyChanged{device, action, rt.stats, l.stats, rt.all.Recent(shownSamples)})
}

// dueStats works out the statistics that wait.
func (e *Engine) dueStats(now time.Time) {
	for id, rt := range e.devices {
		for action, l := range rt.actions {
			if !l.stale {
				continue
			}
			if wait := statsEvery - now.Sub(l.at); wait > 0 {
				e.arm(now.Add(wait))
				continue
			}
			e.publishStats(id, action, rt, l, now)
		}
	}
}
