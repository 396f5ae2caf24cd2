package journal

import (
	"cmp"
	"errors"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/incident"
)

const (
	//limit:count entries of the journal in memory | nowhere; older ones are read from the disk
	ringSize   = 2000
	bufferSize = 8192
	flushEvery = 200 * time.Millisecond
	// maxUnwritten bounds the entries that wait for a disk that does not take them.
	//limit:count entries of the journal that wait for a disk | in Journal, as entries that were not kept
	maxUnwritten = 20_000
	// longestPause is how long a disk that took nothing is left alone at most.
	longestPause = 5 * time.Second
)

// Store keeps entries for good. Save may be given an entry again, with more in
// it.
type Store interface {
	Save(entries []Entry) error
	One(id string) (*Entry, error) // nil when there is none
	// SetOff gives those that an entry has set off, the oldest first.
	SetOff(by string, limit int) ([]Entry, error)
	// Find gives those that are wanted, newest first.
	Find(w Wanted) ([]Entry, error)
	Open() ([]Entry, error) // those whose outcome is still UnderWay
	Trimmed() int64         // how many old ones were let go since the start
}

// Journal is the record of a running Synaptor.
type Journal struct {
	store   Store
	events  chan Event
	dropped atomic.Int64
	show    atomic.Pointer[string] // that entries are of from now on
	notify  func(Entry)
	flushes chan chan struct{}
	quit    chan struct{}
	done    chan struct{}

	mu    sync.Mutex
	byID  map[string]*kept
	order []string // of byID, in the order in which they came
	// floor is the newest id from which on memory does not know all entries, but the store does.
	floor   string
	full    int // how many there are when the oldest are to go
	dirty   map[string]bool
	problem string // why the last write failed

	// Owned by the journal's goroutine.
	retry, pause time.Duration // until the next try after a write that failed; how long it was
}

// Open starts the journal. Ids of new entries go on from the last one that is stored, and what was
// under way when Synaptor ended is ended. notify is called with a copy of every entry that
// changed; it may be nil.
func Open(store Store, notify func(Entry)) (*Journal, error) {
	if notify == nil {
		notify = func(Entry) {}
	}
	j := &Journal{store: store, events: make(chan Event, bufferSize), notify: notify, flushes: make(chan chan struct{}), quit: make(chan struct{}), done: make(chan struct{}),
		byID: map[string]*kept{}, full: ringSize + ringSize/8, dirty: map[string]bool{}}
	j.BelongTo("")
	old, err := store.Find(Wanted{Limit: ringSize})
	if err != nil {
		return nil, err
	}
	open, err := store.Open()
	if err != nil {
		return nil, err
	}
	for _, e := range slices.Backward(old) {
		j.byID[e.ID] = keptOf(e)
		j.order = append(j.order, e.ID)
	}
	if len(old) > 0 {
		GoOnFrom(old[0].ID)
		j.floor = old[len(old)-1].ID
	}
	j.endCutOff(open)
	go j.run()
	return j, nil
}

// endCutOff ends what was under way when Synaptor ended last: nobody will say what became of it.
func (j *Journal) endCutOff(open []Entry) {
	for _, e := range open {
		k := j.byID[e.ID]
		if k == nil {
			k = keptOf(e)
			j.insert(k)
		}
		k.Outcome, k.Reason = Unconfirmed, "Synaptor ended before it was known what became of this."
		j.dirty[e.ID] = true
	}
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

// Flush writes what was recorded until now, and says why not all of it could be.
func (j *Journal) Flush() error {
	done := make(chan struct{})
	select {
	case j.flushes <- done:
		<-done
	case <-j.done:
	}
	if h := j.Health(); h.Problem != "" {
		return errors.New(h.Problem)
	}
	return nil
}

// BelongTo has new entries be of a show, by its id.
func (j *Journal) BelongTo(show string) { j.show.Store(&show) }

// Show is the id of the show that new entries are of.
func (j *Journal) Show() string { return *j.show.Load() }

// Announce makes an entry known before its first event, so that whoever was
// given its id finds it at once.
func (j *Journal) Announce(id string, at time.Time) {
	j.mu.Lock()
	defer j.mu.Unlock()
	if j.byID[id] == nil {
		j.insert(newKept(id, *j.show.Load(), at))
	}
}

// Health is how the journal fares.
type Health struct {
	Dropped int64  // what could not be taken in, or not be written before there were too many
	Problem string // why the last write failed; empty: it did not
	Waiting int    // entries that are not written yet
	Trimmed int64  // old entries that were let go since the start, to stay within bounds
}

// Health says how the journal fares.
func (j *Journal) Health() Health {
	j.mu.Lock()
	defer j.mu.Unlock()
	return Health{j.dropped.Load(), j.problem, len(j.dirty), j.store.Trimmed()}
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
		if j.retry -= flushEvery; j.retry <= 0 {
			j.flush()
		}
	case done := <-j.flushes:
		defer close(done)
		for len(j.events) > 0 {
			j.take(<-j.events)
		}
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

func (j *Journal) take(ev Event) {
	if ev.Origin == nil && !j.inMemory(ev.Entry) {
		// It has left memory, or nobody has heard of it.
		stored, err := j.store.One(ev.Entry)
		if err != nil {
			j.dropped.Add(1) // taking it for a new one would overwrite what is stored
			return
		}
		if stored != nil {
			j.mu.Lock()
			j.insert(keptOf(*stored))
			j.mu.Unlock()
		}
	}
	j.notify(j.applied(ev))
}

func (j *Journal) inMemory(id string) bool {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.byID[id] != nil
}

// applied takes an event in and gives the entry as it is then.
func (j *Journal) applied(ev Event) Entry {
	j.mu.Lock()
	defer j.mu.Unlock()
	k := j.byID[ev.Entry]
	if k == nil {
		k = newKept(ev.Entry, *j.show.Load(), ev.At)
		j.insert(k)
	}
	k.apply(ev)
	j.dirty[k.ID] = true
	return k.entry()
}

// insert adds an entry to memory and lets the oldest ones go; the lock is held.
func (j *Journal) insert(k *kept) {
	j.byID[k.ID] = k
	j.order = append(j.order, k.ID)
	if len(j.order) >= j.full {
		j.evict()
		// Where much had to stay, it is not looked through again for each new one.
		j.full = max(len(j.order), ringSize) + ringSize/8
	}
}

// evict lets the oldest entries go that are stored and have an outcome: the others stay, but not
// without end. The lock is held.
func (j *Journal) evict() {
	excess := len(j.order) - ringSize
	j.order = slices.DeleteFunc(j.order, func(id string) bool {
		k := j.byID[id]
		pinned := k.Outcome == UnderWay && len(j.order) < 2*ringSize
		if excess <= 0 || j.dirty[id] || pinned {
			return false
		}
		excess--
		delete(j.byID, id)
		j.floor = max(j.floor, id)
		return true
	})
}

// unwritten takes the entries that have changed since they were written.
func (j *Journal) unwritten() []Entry {
	j.mu.Lock()
	defer j.mu.Unlock()
	batch := make([]Entry, 0, len(j.dirty))
	for id := range j.dirty {
		if k := j.byID[id]; k != nil {
			batch = append(batch, k.entry())
		}
	}
	clear(j.dirty)
	return batch
}

// flush writes what has changed. What the disk does not take is tried again after a pause that
// grows; when too much waits, the oldest of it is given up and counted.
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
	if err == nil {
		j.pause = 0
		return
	}
	j.problem = err.Error()
	j.pause = min(max(2*j.pause, flushEvery), longestPause)
	j.retry = j.pause
	giveUp := len(batch) - maxUnwritten
	for _, e := range batch {
		if giveUp > 0 && e.Outcome != UnderWay {
			giveUp--
			j.dropped.Add(1)
			continue
		}
		j.dirty[e.ID] = true
	}
}

// Find returns the entries that are wanted, newest first.
func (j *Journal) Find(w Wanted) ([]Entry, error) {
	out, floor := j.newest(w)
	if len(out) == w.Limit || floor == "" {
		return out, nil
	}
	// Just above the floor, so that it is among what the store gives.
	if above := floor + "0"; w.Before == "" || w.Before > above {
		w.Before = above
	}
	w.Limit -= len(out)
	older, err := j.store.Find(w)
	j.mu.Lock()
	defer j.mu.Unlock()
	for i, e := range older {
		if k := j.byID[e.ID]; k != nil {
			older[i] = k.entry() // it is under way, or was a moment ago
		}
	}
	return append(out, older...), err
}

// newest gives entries above the floor that are wanted, newest first.
func (j *Journal) newest(w Wanted) (out []Entry, floor string) {
	j.mu.Lock()
	defer j.mu.Unlock()
	ids := make([]string, 0, len(j.order))
	for _, id := range j.order {
		of := j.byID[id].Show
		if id > j.floor && (w.Before == "" || id < w.Before) && (w.Show == "" || of == "" || of == w.Show) {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	for _, id := range slices.Backward(ids) {
		if len(out) == w.Limit {
			break
		}
		if e := j.byID[id].entry(); w.Fits(e) {
			out = append(out, e)
		}
	}
	return out, j.floor
}

// Get returns one entry, or nil.
func (j *Journal) Get(id string) (*Entry, error) {
	j.mu.Lock()
	if k := j.byID[id]; k != nil {
		e := k.entry()
		j.mu.Unlock()
		return &e, nil
	}
	j.mu.Unlock()
	return j.store.One(id)
}
