package journal

import (
	"cmp"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/incident"
)

const (
	ringSize   = 2000
	bufferSize = 8192
	flushEvery = 200 * time.Millisecond
	// writtenSteps bounds the trace of one entry.
	writtenSteps = 64
)

// Store keeps entries for good. Save may be given an entry again, with more in
// it.
type Store interface {
	Save(entries []Entry) error
	Load(before string, limit int) ([]Entry, error) // newest first; before "" is the newest
	One(id string) (*Entry, error)                  // nil when there is none
}

// Journal is the record of a running Synaptor.
type Journal struct {
	store   Store
	events  chan Event
	dropped atomic.Int64
	notify  func(Entry)
	quit    chan struct{}
	done    chan struct{}

	mu      sync.Mutex
	byID    map[string]*Entry
	order   []string
	dirty   map[string]bool
	problem string // why the last write failed
}

// Open starts the journal. notify is called with a copy of every entry that
// changed; it may be nil.
func Open(store Store, notify func(Entry)) (*Journal, error) {
	if notify == nil {
		notify = func(Entry) {}
	}
	j := &Journal{store: store, events: make(chan Event, bufferSize), notify: notify, quit: make(chan struct{}), done: make(chan struct{}),
		byID: map[string]*Entry{}, dirty: map[string]bool{}}
	old, err := store.Load("", ringSize)
	if err != nil {
		return nil, err
	}
	for _, e := range slices.Backward(old) {
		j.byID[e.ID] = &e
		j.order = append(j.order, e.ID)
	}
	go j.run()
	return j, nil
}

// Record takes in an event without blocking. When the buffer is full the event
// is dropped and counted.
func (j *Journal) Record(ev Event) {
	select {
	case j.events <- ev:
	default:
		j.dropped.Add(1)
	}
}

// Announce makes an entry known before its first event, so that whoever was
// given its id finds it at once.
func (j *Journal) Announce(id string, at time.Time) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.byID[id] == nil {
		j.insert(&Entry{ID: id, At: at, Outcome: UnderWay, Steps: []Step{}})
	}
}

// Health says what the journal had to drop and why it cannot write, if so.
func (j *Journal) Health() (dropped int64, problem string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.dropped.Load(), j.problem
}

// Close writes what is left and ends the journal.
func (j *Journal) Close() {
	close(j.quit)
	<-j.done
}

func (j *Journal) run() {
	defer close(j.done)
	t := time.NewTicker(flushEvery)
	defer t.Stop()
	for goOn := true; goOn; {
		incident.Contain("journal", "", func() { goOn = j.turn(t.C) })
	}
}

// turn does one thing; false when the journal is to end.
func (j *Journal) turn(flush <-chan time.Time) bool {
	select {
	case ev := <-j.events:
		j.take(ev)
	case <-flush:
		j.flush()
	case <-j.quit:
		for len(j.events) > 0 {
			j.take(<-j.events)
		}
		j.flush()
		return false
	}
	return true
}

func (j *Journal) take(ev Event) { j.notify(j.applied(ev)) }

// applied takes an event in and gives the entry as it is then.
func (j *Journal) applied(ev Event) Entry {
	j.mu.Lock()
	defer j.mu.Unlock()
	e := j.byID[ev.Entry]
	if e == nil {
		e = &Entry{ID: ev.Entry, At: ev.At, Outcome: UnderWay, Steps: []Step{}}
		j.insert(e)
	}
	if len(e.Steps) < writtenSteps {
		e.apply(ev)
	}
	j.dirty[e.ID] = true
	return e.copy()
}

func (e *Entry) copy() Entry {
	c := *e
	c.Steps = slices.Clone(e.Steps)
	slices.SortStableFunc(c.Steps, func(a, b Step) int { return cmp.Compare(a.OffsetUs, b.OffsetUs) })
	return c
}

// insert adds an entry to the ring; the lock is held.
func (j *Journal) insert(e *Entry) {
	j.byID[e.ID] = e
	j.order = append(j.order, e.ID)
	if len(j.order) > ringSize {
		// An entry that is not written yet stays until it is.
		if old := j.order[0]; !j.dirty[old] {
			delete(j.byID, old)
			j.order = j.order[1:]
		}
	}
}

// unwritten takes the entries that have changed since they were written.
func (j *Journal) unwritten() []Entry {
	j.mu.Lock()
	defer j.mu.Unlock()
	batch := make([]Entry, 0, len(j.dirty))
	for id := range j.dirty {
		if e := j.byID[id]; e != nil {
			batch = append(batch, e.copy())
		}
	}
	clear(j.dirty)
	return batch
}

func (j *Journal) flush() {
	batch := j.unwritten()
	if len(batch) == 0 {
		return
	}
	slices.SortFunc(batch, func(a, b Entry) int { return cmp.Compare(a.ID, b.ID) })
	err := j.store.Save(batch)
	j.mu.Lock()
	defer j.mu.Unlock()
	j.problem = ""
	if err != nil {
		j.problem = err.Error()
		j.dropped.Add(int64(len(batch)))
	}
}

// List returns entries, newest first, older than before ("" for the newest).
func (j *Journal) List(before string, limit int) ([]Entry, error) {
	j.mu.Lock()
	var out []Entry
	for _, id := range slices.Backward(j.order) {
		if before != "" && cmp.Compare(id, before) >= 0 {
			continue
		}
		if len(out) == limit {
			break
		}
		out = append(out, j.byID[id].copy())
	}
	j.mu.Unlock()
	if len(out) == limit {
		return out, nil
	}
	if n := len(out); n > 0 {
		before = out[n-1].ID
	}
	older, err := j.store.Load(before, limit-len(out))
	return append(out, older...), err
}

// Get returns one entry, or nil.
func (j *Journal) Get(id string) (*Entry, error) {
	j.mu.Lock()
	if e := j.byID[id]; e != nil {
		c := e.copy()
		j.mu.Unlock()
		return &c, nil
	}
	j.mu.Unlock()
	return j.store.One(id)
}
