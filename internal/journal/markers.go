package journal

import (
	"slices"
	"sync"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/incident"
)

// MarkerStore keeps markers for good.
type MarkerStore interface {
	// SaveMarkers stores markers, in place of those with their ids.
	SaveMarkers([]markers.Marker) error
	// DropMarker takes one away, and tells whether it was there.
	DropMarker(id string) (bool, error)
	// Marker gives one by its id; nil: there is none.
	Marker(id string) (*markers.Marker, error)
	// Markers gives those of a show from a time until before another, the oldest first.
	Markers(show string, from, to time.Time) ([]markers.Marker, error)
}

// maxMarkersUnwritten is how many markers wait for the disk.
//
//limit:count markers that wait for a disk | nowhere; those beyond are not kept
const maxMarkersUnwritten = 1000

// Markers takes in markers without waiting for the disk, and gives them.
type Markers struct {
	store  MarkerStore
	show   func() string // the id of the one that is open
	notify func()
	wake   chan struct{}
	quit   chan struct{}
	done   chan struct{}

	// writing has somebody in it while the disk takes something: what was changed is never overwritten by what it was.
	writing chan struct{}

	mu      sync.Mutex // taken within writing, never around it
	waiting []markers.Marker
}

// OpenMarkers starts taking them in, as markers of the show that is open. notify is called when any has come, has changed or is gone. Neither
// function may wait.
func OpenMarkers(store MarkerStore, show func() string, notify func()) *Markers {
	m := &Markers{store: store, show: show, notify: notify, wake: make(chan struct{}, 1), writing: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{})}
	go m.run()
	return m
}

// Mark takes in a marker of the show that is open. It does not wait.
func (m *Markers) Mark(kind, text, by, entry string, at time.Time, lead time.Duration) markers.Marker {
	m.mu.Lock()
	k := markers.New(NextID(), m.show(), kind, text, by, entry, at, lead)
	if len(m.waiting) < maxMarkersUnwritten {
		m.waiting = append(m.waiting, k)
	}
	m.mu.Unlock()
	select {
	case m.wake <- struct{}{}:
	default:
	}
	return k
}

// Of gives the markers of a show from a time until before another, the oldest first, with those that the disk has not taken yet.
func (m *Markers) Of(show string, from, to time.Time) ([]markers.Marker, error) {
	m.mu.Lock()
	waiting := slices.Clone(m.waiting) // before the disk is read: what is written meanwhile is there
	m.mu.Unlock()
	stored, err := m.store.Markers(show, from, to)
	if err != nil {
		return nil, err
	}
	for _, w := range waiting {
		if w.Show == show && !w.At.Before(from) && w.At.Before(to) && !slices.ContainsFunc(stored, func(s markers.Marker) bool { return s.ID == w.ID }) {
			stored = append(stored, w)
		}
	}
	slices.SortStableFunc(stored, func(a, b markers.Marker) int { return a.At.Compare(b.At) })
	return stored, nil
}

// One gives a marker of a show; nil: there is none.
func (m *Markers) One(show, id string) (*markers.Marker, error) {
	m.writing <- struct{}{}
	defer func() { <-m.writing }()
	if err := m.flush(); err != nil {
		return nil, err
	}
	k, err := m.store.Marker(id)
	if k != nil && k.Show != show {
		k = nil
	}
	return k, err
}

// Save stores a marker that was changed, or comes back.
func (m *Markers) Save(k markers.Marker) error {
	m.writing <- struct{}{}
	defer func() { <-m.writing }()
	if err := m.flush(); err != nil {
		return err
	}
	defer m.notify()
	return m.store.SaveMarkers([]markers.Marker{k})
}

// Drop takes a marker away, and tells whether it was there.
func (m *Markers) Drop(id string) (bool, error) {
	m.writing <- struct{}{}
	defer func() { <-m.writing }()
	if err := m.flush(); err != nil {
		return false, err
	}
	defer m.notify()
	return m.store.DropMarker(id)
}

// write is flush for who is not in writing.
func (m *Markers) write() error {
	m.writing <- struct{}{}
	defer func() { <-m.writing }()
	return m.flush()
}

// flush writes what waits. What the disk does not take goes on waiting. Who calls it is in writing.
func (m *Markers) flush() error {
	m.mu.Lock()
	batch := slices.Clone(m.waiting)
	m.mu.Unlock()
	if len(batch) == 0 {
		return nil
	}
	if err := m.store.SaveMarkers(batch); err != nil {
		return err
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	m.waiting = slices.DeleteFunc(m.waiting, func(w markers.Marker) bool {
		return slices.ContainsFunc(batch, func(b markers.Marker) bool { return b.ID == w.ID })
	})
	return nil
}

// Close writes what waits, and ends.
func (m *Markers) Close() {
	close(m.quit)
	<-m.done
}

func (m *Markers) run() {
	defer close(m.done)
	again := time.NewTicker(time.Second) // what the disk has not taken
	defer again.Stop()
	for {
		select {
		case <-m.wake:
			incident.Contain("markers", "", func() {
				m.notify()
				_ = m.write() // it is tried again; the journal tells of the disk
				m.notify()
			})
		case <-again.C:
			incident.Contain("markers", "", func() { _ = m.write() })
		case <-m.quit:
			_ = m.write()
			return
		}
	}
}
