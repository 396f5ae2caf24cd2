package mirror

import (
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/engine"
)

// History takes in what has been.
type History interface {
	Was(at time.Time, k reading.Key, v reading.Value)
	Happened(engine.Happened)
}

// What is kept in memory of what has been, for the timeline.
const (
	//limit:count events and firings of reflexes in the timeline | nowhere; older ones are in the history
	maxPast = 500
	// numbersEvery is how often a number is recorded at most that keeps changing.
	numbersEvery = 50 * time.Millisecond
)

// TimelineRow is an event, or what became of one for a reflex, as the live feed shows it: one of the two is there.
type TimelineRow struct {
	Happened *engine.Happened `json:"happened,omitempty"`
	Judged   *engine.Judged   `json:"judged,omitempty"`
}

func (m *Mirror) happened(ev engine.Happened) {
	m.past = append(m.past, ev)
	if len(m.past) >= 2*maxPast {
		m.past = append([]engine.Happened(nil), m.past[maxPast:]...)
	}
	if m.cfg.History != nil && ev.On.Kind != reflex.OnReading { // those are recorded as what readings became
		m.cfg.History.Happened(ev)
	}
	m.cfg.Hub.Announce("timeline", []string{"timeline"}, TimelineRow{Happened: &ev})
}

func (m *Mirror) judged(ev engine.Judged) {
	m.verdict = append(m.verdict, ev)
	if len(m.verdict) >= 2*maxPast {
		m.verdict = append([]engine.Judged(nil), m.verdict[maxPast:]...)
	}
	m.cfg.Hub.Announce("timeline", []string{"timeline"}, TimelineRow{Judged: &ev})
}

// Timeline is what has happened since a time, and what became of it, the oldest first.
func (m *Mirror) Timeline(since time.Time) (past []engine.Happened, verdicts []engine.Judged) {
	past, verdicts = []engine.Happened{}, []engine.Judged{}
	m.do(func() {
		for _, h := range m.past {
			if h.At.After(since) {
				past = append(past, h)
			}
		}
		for _, j := range m.verdict {
			if j.At.After(since) {
				verdicts = append(verdicts, j)
			}
		}
	})
	return past[max(0, len(past)-maxPast):], verdicts[max(0, len(verdicts)-maxPast):]
}

// recordReading hands on what a reading has become, where somebody may want to know that later. Numbers on their way are thinned out.
func (m *Mirror) recordReading(ev engine.ReadingChanged) {
	if m.cfg.History == nil || ev.Now.Quality == reading.Unknown || ev.Now.Value == nil {
		return
	}
	if m.watched == nil {
		m.watched = m.now.Program.Recorded()
	}
	if !m.watched[ev.Key] && !m.status.uses(ev.Key) || reading.Equal(m.replica.Reading(ev.Key).Value, ev.Now.Value, 0) {
		return
	}
	at := time.Now()
	if _, is := reading.Number(ev.Now.Value); is {
		n := m.numbers[ev.Key]
		if at.Sub(n.told) < numbersEvery {
			n.next, n.at = ev.Now.Value, at
			m.numbers[ev.Key] = n
			return
		}
		m.numbers[ev.Key] = number{told: at}
	}
	m.cfg.History.Was(at, ev.Key, ev.Now.Value)
}

// number is a number that keeps changing.
type number struct {
	told time.Time     // when it was last recorded
	next reading.Value // what it has become since; nil: nothing
	at   time.Time     // when
}

// recordNumbers records where the numbers are that were thinned out, and forgets those that rest.
func (m *Mirror) recordNumbers(now time.Time) {
	for k, n := range m.numbers {
		if now.Sub(n.told) < numbersEvery {
			continue
		}
		if n.next == nil {
			delete(m.numbers, k)
			continue
		}
		m.cfg.History.Was(n.at, k, n.next)
		m.numbers[k] = number{told: n.at}
	}
}
