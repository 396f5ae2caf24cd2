package hands

import (
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
)

// lesson learns what is touched. While it goes on, what it listens to does nothing.
type lesson struct {
	id   string
	kind string // of the control that is learned
	only string // the id of the hardware that it listens to; empty: all

	mu       sync.Mutex
	learners map[string]*hands.Learner // by the id of hardware
	from     hardware.Row              // what was touched last
	last     Learned
	asked    time.Time // when somebody looked last
	ended    bool
}

// Learned is what was touched, as the live feed has it.
type Learned struct {
	ID string `json:"id"`
	// Hardware is the id of what was touched, and Name how it is called; empty: nothing yet.
	Hardware string          `json:"hardware"`
	Name     string          `json:"name"`
	Proposal *hands.Proposal `json:"proposal,omitempty"`
}

const (
	//limit:count lessons that go on at a time | in the answer
	maxLessons = 20
	// unwatched is how long a lesson goes on that nobody looks at.
	unwatched = 20 * time.Second
)

// Learn begins to learn what is touched, for a kind of control (empty: any), from a piece of hardware (empty: from all).
func (s *Service) Learn(kind, only string) (Learned, error) {
	if only != "" && !s.here(only) {
		return Learned{}, NotHere{}
	}
	l := &lesson{id: rand.Text()[:12], kind: kind, only: only, learners: map[string]*hands.Learner{}, asked: time.Now()}
	l.last = Learned{ID: l.id}
	s.mu.Lock()
	defer s.mu.Unlock()
	all := slices.DeleteFunc(slices.Clone(*s.lessons.Load()), func(old *lesson) bool { return s.stale(old) })
	if len(all) >= maxLessons {
		return Learned{}, fmt.Errorf("%d others learn by touching just now", len(all))
	}
	all = append(all, l)
	s.lessons.Store(&all)
	for _, p := range s.ports {
		if only == "" || p.id == only {
			p.release()
		}
	}
	s.cfg.Hub.Publish("learned/"+l.id, []string{"learning:" + l.id}, l.last)
	return l.last, nil
}

// stale ends a lesson that nobody looks at any more, and tells whether it has ended.
func (s *Service) stale(l *lesson) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if s.cfg.Hub.Followed([]string{"learning:" + l.id}) {
		l.asked = time.Now()
	}
	if !l.ended && time.Since(l.asked) > unwatched {
		l.ended = true
		s.cfg.Hub.Remove("learned/" + l.id)
	}
	return l.ended
}

// EndLesson ends one; what is touched works again.
func (s *Service) EndLesson(id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	all := slices.DeleteFunc(slices.Clone(*s.lessons.Load()), func(l *lesson) bool { return l.id == id })
	s.lessons.Store(&all)
	s.cfg.Hub.Remove("learned/" + id)
}

// Learns has lessons take what a piece of hardware says; true: one did, and nothing is to be done. row is asked for only where somebody
// learns.
func (s *Service) Learns(row func() hardware.Row, e hands.Event) bool {
	taken := false
	for _, l := range *s.lessons.Load() {
		h := row()
		if l.only != "" && l.only != h.ID || s.stale(l) {
			continue
		}
		taken = true
		l.mu.Lock()
		if l.learners[h.ID] == nil {
			l.learners[h.ID] = hands.NewLearner(l.kind)
		}
		if proposal, ok := l.learners[h.ID].Take(e); ok {
			l.from = h
			l.last = Learned{ID: l.id, Hardware: h.ID, Name: h.Name, Proposal: &proposal}
			s.cfg.Hub.Publish("learned/"+l.id, []string{"learning:" + l.id}, l.last)
		}
		l.mu.Unlock()
	}
	return taken
}

// here tells whether hardware of an id is here, of whatever kind.
func (s *Service) here(id string) bool {
	return s.port(id) != nil || slices.ContainsFunc(s.cfg.Others(), func(h hardware.Row) bool { return h.ID == id && h.Here })
}

// Lesson finds what a lesson has learned: a link with one binding of what was touched to a control of a controller, and the id of that by
// which the hardware is attached already; empty: none. It fails, in a sentence, where nothing is certain yet.
func (s *Service) Lesson(id, controller, control string) (link string, l *show.Link, err error) {
	for _, one := range *s.lessons.Load() {
		if one.id != id {
			continue
		}
		one.mu.Lock()
		from, last := one.from, one.last
		one.mu.Unlock()
		switch {
		case last.Proposal == nil:
			return "", nil, errors.New("nothing was touched yet")
		case !last.Proposal.Sure:
			return "", nil, fmt.Errorf("it is not certain yet what was touched: %s", last.Proposal.Text)
		}
		b := last.Proposal.Binding
		b.Control = control
		l := &show.Link{Controller: controller, Kind: from.Kind, Match: from.Match, Place: from.Place, Bindings: []show.Binding{b}}
		return from.Link, l, nil
	}
	return "", nil, errors.New("this lesson has ended; begin again")
}
