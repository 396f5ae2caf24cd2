package engine

import "time"

// statsEvery is how often the statistics of an action are worked out at most.
const statsEvery = 50 * time.Millisecond

func (rt *deviceState) sample(action string, d time.Duration) *latency {
	l := rt.actions[action]
	if l == nil {
		l = &latency{}
		rt.actions[action] = l
	}
	l.Add(d)
	rt.all.Add(d)
	return l
}

// shownSamples is how many samples of a device are drawn.
const shownSamples = 30

// addSample takes in how long a command took to be confirmed.
func (e *Engine) addSample(rt *deviceState, c *command, d time.Duration) {
	l, now := rt.sample(c.action, d), time.Now()
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
