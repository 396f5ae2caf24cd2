package app

import (
	"log/slog"
	"sync"

	"synaptor/internal/core/device"
	"synaptor/internal/engine"
	"synaptor/internal/incident"
	"synaptor/internal/store"
)

// behind stores what lives, behind those who live: whoever hands something in never
// waits for the disk, and a slow disk gets the newest only.
type behind struct {
	state *store.State
	woken chan struct{}
	quit  chan struct{}
	done  chan struct{}

	mu    sync.Mutex
	edits map[string]int64 // the last one that is on the disk, by show, since it was stored
	live  *engine.LiveState
	known map[string][]device.Report
}

// lastEdit is the name under which the state has the number of the last edit, with the id
// of its show, so that a show that has lost some is known to have.
const lastEdit = "edits/"

func openBehind(s *store.State) *behind {
	b := &behind{state: s, woken: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{}), known: map[string][]device.Report{}, edits: map[string]int64{}}
	go b.run()
	return b
}

// KeepLive has what lives stored.
func (b *behind) KeepLive(l engine.LiveState) {
	b.mu.Lock()
	b.live = &l
	b.mu.Unlock()
	b.wake()
}

// KeepEdits has the number of the last edit of a show stored.
func (b *behind) KeepEdits(show string, seq int64) {
	b.mu.Lock()
	b.edits[show] = seq
	b.mu.Unlock()
	b.wake()
}

// KeepKnown has what a device has stored.
func (b *behind) KeepKnown(id string, known []device.Report) {
	b.mu.Lock()
	b.known[id] = known
	b.mu.Unlock()
	b.wake()
}

func (b *behind) wake() {
	select {
	case b.woken <- struct{}{}:
	default:
	}
}

// close stores what is left.
func (b *behind) close() {
	close(b.quit)
	<-b.done
}

func (b *behind) run() {
	defer close(b.done)
	for {
		select {
		case <-b.woken:
			incident.Contain("state", "", b.write)
		case <-b.quit:
			b.write()
			return
		}
	}
}

func (b *behind) write() {
	b.mu.Lock()
	live, known, edits := b.live, b.known, b.edits
	b.live, b.known, b.edits = nil, map[string][]device.Report{}, map[string]int64{}
	b.mu.Unlock()
	for show, seq := range edits {
		if err := b.state.Put(lastEdit+show, seq); err != nil {
			slog.Warn("the number of the last edit is not stored", "err", err)
		}
	}
	if live != nil {
		if err := b.state.Put("live", *live); err != nil {
			slog.Warn("the pages that are shown are not stored", "err", err)
		}
	}
	for id, reports := range known {
		names := make([]store.Named, len(reports))
		for i, r := range reports {
			names[i] = store.Named{Path: r.Path, Value: r.Value}
		}
		if err := b.state.Keep(id, names); err != nil {
			slog.Warn("what a device has is not stored", "device", id, "err", err)
		}
	}
}
