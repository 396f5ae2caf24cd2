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
	live  *engine.LiveState
	known map[string][]device.Report
}

func openBehind(s *store.State) *behind {
	b := &behind{state: s, woken: make(chan struct{}, 1), quit: make(chan struct{}), done: make(chan struct{}), known: map[string][]device.Report{}}
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
	live, known := b.live, b.known
	b.live, b.known = nil, map[string][]device.Report{}
	b.mu.Unlock()
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
