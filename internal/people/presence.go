package people

import (
	"cmp"
	"slices"
	"sync"
	"sync/atomic"
	"time"
)

// GoneAfter is how long somebody who holds something may be away before it is given back.
const GoneAfter = time.Minute

// presence knows who is here now.
type presence struct {
	mu   sync.Mutex
	here map[*Visiting]bool
	left map[string]time.Time // when somebody left last
	gone func(id string)
}

// Visit is a live connection of somebody who is known.
type Visit struct {
	Person  string    `json:"person"` // the id
	Session string    `json:"session,omitempty"`
	Address string    `json:"address"`
	Since   time.Time `json:"since"`
	// Touched is what was touched last.
	Touched *Touched `json:"touched,omitempty"`
}

// Visiting is a Visit that goes on.
type Visiting struct {
	visit Visit
	last  atomic.Pointer[Touched]
}

// Touched is what somebody has touched.
type Touched struct {
	Controller string    `json:"controller"` // id
	Control    string    `json:"control"`
	At         time.Time `json:"at"`
}

// Touch notes what was touched.
func (v *Visiting) Touch(controller, control string, at time.Time) {
	v.last.Store(&Touched{controller, control, at.UTC()})
}

// OnGone has somebody told who has been away for GoneAfter.
func (s *Service) OnGone(f func(id string)) {
	s.presence.mu.Lock()
	defer s.presence.mu.Unlock()
	s.presence.gone = f
}

// Come notes that somebody is here, until leave is called.
func (s *Service) Come(person, session, address string) (v *Visiting, leave func()) {
	p := &s.presence
	v = &Visiting{visit: Visit{Person: person, Session: session, Address: address, Since: time.Now().UTC()}}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.here == nil {
		p.here = map[*Visiting]bool{}
	}
	p.here[v] = true
	return v, func() {
		p.mu.Lock()
		defer p.mu.Unlock()
		delete(p.here, v)
		p.leaves(person)
	}
}

// Miss has somebody who is not here told of after GoneAfter, unless they come: they hold something without being seen.
func (s *Service) Miss(person string) {
	p := &s.presence
	p.mu.Lock()
	defer p.mu.Unlock()
	if _, missed := p.left[person]; missed {
		return
	}
	for v := range p.here {
		if v.visit.Person == person {
			return
		}
	}
	p.leaves(person)
}

// leaves notes that somebody is here no more. The lock is held.
func (p *presence) leaves(person string) {
	if p.left == nil {
		p.left = map[string]time.Time{}
	}
	p.left[person] = time.Now()
	time.AfterFunc(GoneAfter, func() { p.goes(person) })
}

// goes tells of somebody who has been away for long enough.
func (p *presence) goes(person string) {
	p.mu.Lock()
	left, away := p.left[person]
	away = away && time.Since(left) >= GoneAfter
	for v := range p.here {
		away = away && v.visit.Person != person
	}
	if away {
		delete(p.left, person)
	}
	told := p.gone
	p.mu.Unlock()
	if away && told != nil {
		told(person)
	}
}

// Here lists who is here now, the longest first.
func (s *Service) Here() []Visit {
	p := &s.presence
	p.mu.Lock()
	defer p.mu.Unlock()
	out := []Visit{}
	for v := range p.here {
		one := v.visit
		one.Touched = v.last.Load()
		out = append(out, one)
	}
	slices.SortFunc(out, func(a, b Visit) int { return cmp.Or(a.Since.Compare(b.Since), cmp.Compare(a.Person, b.Person)) })
	return out
}

// Elsewhere tells whether a session is in use from another address than this one.
func (s *Service) Elsewhere(session, address string) bool {
	p := &s.presence
	p.mu.Lock()
	defer p.mu.Unlock()
	for v := range p.here {
		if v.visit.Session == session && v.visit.Address != address {
			return true
		}
	}
	return false
}
