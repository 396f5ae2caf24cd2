package engine

import (
	"sync"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// Changes carries what changed, in order and numbered, from the engine to the
// mirror. Pushing never waits.
type Changes struct {
	mu   sync.Mutex
	buf  []Change
	seq  uint64
	Wake chan struct{}
}

type Change struct {
	seq  uint64
	What any
}

func newChanges() *Changes { return &Changes{Wake: make(chan struct{}, 1)} }

func (s *Changes) push(what any) {
	s.mu.Lock()
	s.seq++
	s.buf = append(s.buf, Change{s.seq, what})
	s.mu.Unlock()
	select {
	case s.Wake <- struct{}{}:
	default:
	}
}

// Take returns all changes that wait.
func (s *Changes) Take() []Change {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := s.buf
	s.buf = nil
	return out
}

// What the stream carries.
type (
	Swapped        struct{ Program *program.Program }
	ReadingChanged struct {
		Key   reading.Key
		Now   reading.Reading
		Entry string // the journal entry that brought it about
		By    string // who did, where that is known
	}
	LinkState struct {
		State link.State
		Heard time.Time
	}
	LatencyChanged struct {
		Device, Action string
		All, One       reading.Stats
		Recent         []time.Duration
	}
	// Refusal shows a reason on the face of a mapping; held is the control
	// that a finger is still on, or "".
	Refusal struct {
		Mapping, Held, Reason string
		At                    time.Time
	}
	// ControlReleased says that a control was released.
	ControlReleased struct {
		Control string
		At      time.Time
	}
	DeviceGone  struct{ Device string }
	ReadingGone struct{ Key reading.Key }
	// PagesChanged tells which pages a controller shows, by zone, the one that is
	// asked first at the front.
	PagesChanged struct {
		Controller, Profile string
		Zones               map[string][]string
		Open                map[string]OpenTalk // by control
		Kept                []KeptZone
	}
	// GuardChanged shows the guard of a mapping: armed, filling (waits) or "".
	GuardChanged struct {
		Mapping, State string
		From, Until    time.Time
	}
	RunChanged      struct{ Row RunRow }
	LeftOverChanged struct {
		Rows []LeftOver
		Kept []KeptRun
	}
	RunKept          struct{ Run KeptRun }
	RecordingChanged struct{ Row RecordingRow }
	BranchTaken      struct{ Step, Branch string }
	DeviceAdded      struct {
		Device string
		Wire   *link.Wire
	}
	EventsRaised struct {
		Device string
		At     time.Time
		Events []device.Event
	}
)
