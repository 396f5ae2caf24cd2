package engine

import (
	"sync"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
)

// stream carries what changed, in order and numbered, from the engine to the
// mirror. Pushing never waits.
type stream struct {
	mu   sync.Mutex
	buf  []change
	seq  uint64
	wake chan struct{}
}

type change struct {
	seq  uint64
	what any
}

func newStream() *stream { return &stream{wake: make(chan struct{}, 1)} }

func (s *stream) push(what any) {
	s.mu.Lock()
	s.seq++
	s.buf = append(s.buf, change{s.seq, what})
	s.mu.Unlock()
	select {
	case s.wake <- struct{}{}:
	default:
	}
}

// take returns all changes that wait.
func (s *stream) take() []change {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := s.buf
	s.buf = nil
	return out
}

// What the stream carries.
type (
	swapped        struct{ snap *Snapshot }
	readingChanged struct {
		key   reading.Key
		now   reading.Reading
		entry string // the journal entry that brought it about
	}
	linkState struct {
		state link.State
		heard time.Time
	}
	latencyChanged struct {
		device, action string
		all, one       reading.Stats
		recent         []time.Duration
	}
	// refusedPress shows a reason on the face of a mapping; held is the control
	// that a finger is still on, or "".
	refusedPress struct {
		mapping, held, reason string
		at                    time.Time
	}
	// letGo says that a control was released.
	letGo struct {
		held string
		at   time.Time
	}
	deviceGone  struct{ id string }
	readingGone struct{ key reading.Key }
	// pagesChanged tells which pages a controller shows, by zone, the one that is
	// asked first at the front.
	pagesChanged struct {
		controller, profile string
		zones               map[string][]string
		kept                []KeptZone
	}
	// guardChanged shows the guard of a mapping: armed, filling (waits) or "".
	guardChanged struct {
		mapping, state string
		from, until    time.Time
	}
	runChanged  struct{ row RunRow }
	leftChanged struct {
		rows []LeftOver
		kept []KeptRun
	}
	runKept          struct{ run KeptRun }
	recordingChanged struct{ row RecordingRow }
	turnTaken        struct{ step, branch string }
	deviceMet        struct {
		id   string
		wire *link.Wire
	}
	raisedEvents struct {
		device string
		at     time.Time
		events []device.Event
	}
)
