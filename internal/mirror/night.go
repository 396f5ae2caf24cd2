package mirror

import (
	"context"
	"errors"
	"sync"
	"time"

	"synaptor/internal/background"
	"synaptor/internal/core/preflight"
	"synaptor/internal/incident"
	"synaptor/internal/inspect"
	"synaptor/internal/program"
)

// NightRow is how far the rehearsal of the night is, as the live feed shows it.
type NightRow struct {
	Running bool      `json:"running"`
	Done    int       `json:"done"`
	Of      int       `json:"of"`
	At      time.Time `json:"at"`      // when the last one ended
	Problem string    `json:"problem"` // why it did not end; empty: it did
}

// NightDone is the last rehearsal of the night.
type NightDone struct {
	*inspect.Night
	Program *program.Program // that was rehearsed
	At      time.Time
	TookMs  float64
	// Moves are the keys that would be better placed, Risks those that are where a hand slips; from the journal.
	Moves []preflight.Advice
	Risks []preflight.Finding
}

// all are the findings of a rehearsal.
func (n *NightDone) all() []preflight.Finding {
	out := append([]preflight.Finding{}, n.Findings...)
	for _, a := range n.Moves {
		out = append(out, a.Finding)
	}
	return append(out, n.Risks...)
}

// rehearsing is the rehearsal of the night: one at a time.
type rehearsing struct {
	work sync.WaitGroup
	mu   sync.Mutex
	row  NightRow
	last *NightDone
}

// nightLimit is how long the night may take to be rehearsed.
//
//limit:count time in which the night is rehearsed | in Preflight
const nightLimit = time.Minute

// Night gives the last rehearsal of the night, or nil.
func (m *Mirror) Night() *NightDone {
	m.night.mu.Lock()
	defer m.night.mu.Unlock()
	return m.night.last
}

// RehearseTheNight begins to rehearse every macro and every key of the pages in use, in the background; one that is under way goes on.
func (m *Mirror) RehearseTheNight() {
	m.night.mu.Lock()
	defer m.night.mu.Unlock()
	if m.night.row.Running {
		return
	}
	m.tellNight(NightRow{Running: true, At: m.night.row.At})
	m.night.work.Go(func() {
		problem := "It did not come to its end."
		defer func() {
			m.night.mu.Lock()
			defer m.night.mu.Unlock()
			row := m.night.row
			row.Running, row.Problem = false, problem
			if problem == "" {
				row.At = m.night.last.At
			}
			m.tellNight(row)
		}()
		incident.Contain("rehearsal of the night", "", func() { background.Do(func() { problem = m.rehearseNight() }) })
	})
}

// tellNight publishes how far it is; the lock is held.
func (m *Mirror) tellNight(row NightRow) {
	m.night.row = row
	m.cfg.Hub.Publish("night", []string{"night"}, row)
}

// rehearseNight rehearses the night, and says why it could not.
func (m *Mirror) rehearseNight() (problem string) {
	ctx, cancel := context.WithTimeout(m.inspect.ctx, nightLimit)
	defer cancel()
	began, v := time.Now(), m.Current()
	m.inspect.look(v)
	m.inspect.looking.Lock()
	judged := m.inspect.judged
	m.inspect.looking.Unlock()
	profileOf := func(controller string) string { return v.Pages(controller).Profile }
	n, err := judged.Night(ctx, v, profileOf, func(done, of int) {
		m.night.mu.Lock()
		defer m.night.mu.Unlock()
		m.tellNight(NightRow{Running: true, Done: done, Of: of, At: m.night.row.At})
	})
	if errors.Is(err, context.DeadlineExceeded) {
		return "It took longer than a minute."
	}
	if err != nil {
		return "It was ended."
	}
	done := &NightDone{Night: n, Program: v.Program, At: time.Now(), TookMs: float64(time.Since(began).Microseconds()) / 1000}
	if m.cfg.Used != nil {
		if used, err := m.cfg.Used(); err == nil {
			done.Moves, done.Risks = judged.Advice(used)
		}
	}
	m.night.mu.Lock()
	defer m.night.mu.Unlock()
	m.night.last = done
	return ""
}
