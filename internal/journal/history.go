package journal

import (
	"encoding/json"
	"sync"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/incident"
)

// Was is what a reading became at a time.
type Was struct {
	At    time.Time
	Key   reading.Key
	Value reading.Value
}

// Happened is something that happened, as JSON.
type Happened struct {
	At   time.Time
	Body json.RawMessage
}

// HistoryStore keeps what has been for good.
type HistoryStore interface {
	SavePast([]Was, []Happened) error
	// Past gives what readings became in a time, the oldest first, and what each was before that; those beyond the limit are the newest, and then it begins
	// with the first of them.
	Past(keys []reading.Key, from, to time.Time, limit int) (before, then []Was, err error)
	// PastEvents gives what happened in a time, the oldest first; those beyond the limit are the newest.
	PastEvents(from, to time.Time, limit int) ([]Happened, error)
}

// maxPastUnwritten is how much waits for the disk.
//
//limit:count readings and events that wait to be recorded | nowhere; those beyond are not recorded
const maxPastUnwritten = 50_000

// historyEvery is how often what has been is written.
const historyEvery = time.Second

// History writes down what readings became and what happened, behind those who tell it.
type History struct {
	HistoryStore
	quit, done chan struct{}

	mu     sync.Mutex
	was    []Was
	events []Happened
}

// OpenHistory starts writing.
func OpenHistory(store HistoryStore) *History {
	h := &History{HistoryStore: store, quit: make(chan struct{}), done: make(chan struct{})}
	go h.run()
	return h
}

// Close writes what is left.
func (h *History) Close() {
	close(h.quit)
	<-h.done
}

// Add notes what a reading became.
func (h *History) Add(w Was) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if len(h.was) < maxPastUnwritten {
		h.was = append(h.was, w)
	}
}

// AddEvent notes what happened.
func (h *History) AddEvent(at time.Time, what any) {
	body, err := json.Marshal(what)
	if err != nil {
		return // it is made of what JSON can say
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if len(h.events) < maxPastUnwritten {
		h.events = append(h.events, Happened{at, body})
	}
}

// Flush writes what waits. What the disk does not take is tried again.
func (h *History) Flush() error {
	h.mu.Lock()
	was, events := h.was, h.events
	h.was, h.events = nil, nil
	h.mu.Unlock()
	if len(was)+len(events) == 0 {
		return nil
	}
	err := h.SavePast(was, events)
	if err != nil {
		h.mu.Lock()
		defer h.mu.Unlock()
		if len(h.was)+len(was) < maxPastUnwritten && len(h.events)+len(events) < maxPastUnwritten {
			h.was, h.events = append(was, h.was...), append(events, h.events...)
		}
	}
	return err
}

func (h *History) run() {
	defer close(h.done)
	tick := time.NewTicker(historyEvery)
	defer tick.Stop()
	for {
		select {
		case <-tick.C:
			incident.Contain("history", "", func() { _ = h.Flush() }) // a disk that takes nothing is told of by the journal
		case <-h.quit:
			_ = h.Flush()
			return
		}
	}
}
