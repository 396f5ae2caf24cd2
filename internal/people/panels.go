package people

import (
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/store"
)

// A panel is paired by a code of six digits, or by the link behind a QR code, which is the same with more letters.
const (
	pairedWithin = 10 * time.Minute
	// pairTries is how many wrong codes end all that are open.
	pairTries = 5
	// Tonight is how long a panel that is handed over for a night has its right.
	Tonight = 16 * time.Hour
)

// What can be wrong with pairing, in sentences.
var (
	ErrPairing = errors.New("this code is not good: it works once, for ten minutes; ask for a new one")
	ErrNoPanel = errors.New("this is no panel")
)

// pairing is a way in for a panel, for a while.
type pairing struct {
	Pairing
	tries int
}

// Pairing is a way in for a panel, for a while.
type Pairing struct {
	Panel string    `json:"panel"` // the id
	Link  string    `json:"link"`  // the path behind the QR code
	Code  string    `json:"code"`  // six digits; empty: there were too many wrong tries
	Until time.Time `json:"until"`
	// Reached is what has opened the link: it proves that it can reach Synaptor.
	Reached []Reached `json:"reached"`
}

// Reached says that a browser has opened the link of a pairing.
type Reached struct {
	Address string    `json:"address"`
	Agent   string    `json:"agent"`
	At      time.Time `json:"at"`
}

// AddPanel has a panel listed, with what it may do; Pair lets it in. A right that ends does so after the time given; 0: it does not.
func (s *Service) AddPanel(name string, role access.Role, r *access.Rights, within time.Duration) (Who, error) {
	if role != access.Operator && role != access.Viewer {
		return Who{}, &Refused{"role", "A panel presses or looks; whoever edits signs in."}
	}
	rights, err := narrowed(role, r)
	if err != nil {
		return Who{}, err
	}
	p := store.Person{Name: strings.TrimSpace(name), Role: string(role), Rights: rights, Panel: true}
	if within > 0 {
		p.Until = time.Now().Add(within).Unix()
	}
	return s.add(p)
}

// Pair begins the pairing of a panel, in place of one that was begun before. It fails with ErrNoPanel where there is no such panel.
func (s *Service) Pair(id string) (Pairing, error) {
	who, known := s.Person(id)
	if !known || !who.Panel {
		return Pairing{}, ErrNoPanel
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.forget(id, time.Now())
	p := &pairing{Pairing: Pairing{Panel: id, Link: "/pair/" + rand.Text(), Code: s.newCode(), Until: time.Now().Add(pairedWithin).UTC(), Reached: []Reached{}}}
	s.pairings = append(s.pairings, p)
	return p.Pairing, nil
}

// newCode is a code that no pairing has. The lock is held.
func (s *Service) newCode() string {
	for {
		n, err := rand.Int(rand.Reader, big.NewInt(1_000_000))
		if err != nil {
			panic(err) // it never fails (crypto/rand)
		}
		code := fmt.Sprintf("%06d", n)
		if !slices.ContainsFunc(s.pairings, func(p *pairing) bool { return p.Code == code }) {
			return code
		}
	}
}

// forget lets go of the pairings of a panel, and of those that are over. The lock is held.
func (s *Service) forget(panel string, now time.Time) {
	s.pairings = slices.DeleteFunc(s.pairings, func(p *pairing) bool { return p.Panel == panel || now.After(p.Until) })
}

// Pairings lists those that are open.
func (s *Service) Pairings() []Pairing {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.forget("", time.Now())
	out := []Pairing{}
	for _, p := range s.pairings {
		one := p.Pairing
		one.Reached = slices.Clone(p.Reached)
		out = append(out, one)
	}
	return out
}

// maxReached bounds what is kept of who has opened the link of a pairing.
//
//limit:count browsers that have opened the link of a pairing | nowhere; the oldest go
const maxReached = 20

// Opened notes that a browser has opened the link of a pairing, and tells whose it is. It fails with ErrPairing where it is not good any more.
func (s *Service) Opened(link string, by Reached) (Who, error) {
	s.mu.Lock()
	p := s.pairingOf(link)
	if p != nil {
		p.Reached = slices.DeleteFunc(p.Reached, func(r Reached) bool { return r.Address == by.Address && r.Agent == by.Agent })
		p.Reached = append(p.Reached[max(0, len(p.Reached)-maxReached+1):], by)
	}
	s.mu.Unlock()
	if p == nil {
		return Who{}, ErrPairing
	}
	who, known := s.Person(p.Panel)
	if !known {
		return Who{}, ErrPairing
	}
	return who, nil
}

// pairingOf finds an open pairing by its link or its code; nil: there is none. The lock is held.
func (s *Service) pairingOf(way string) (found *pairing) {
	now := time.Now()
	for _, p := range s.pairings {
		same := subtle.ConstantTimeCompare([]byte(way), []byte(p.Link)) == 1 || p.Code != "" && subtle.ConstantTimeCompare([]byte(way), []byte(p.Code)) == 1
		if same && now.Before(p.Until) {
			found = p
		}
	}
	return found
}

// Paired lets a panel in by its link or its code, once. A panel that was paired before is taken back where it was. Five wrong codes end all codes that
// are open; it fails with ErrPairing.
func (s *Service) Paired(way string) (Who, error) {
	s.mu.Lock()
	p := s.pairingOf(way)
	if p == nil {
		for _, open := range s.pairings {
			if open.tries++; open.tries >= pairTries {
				open.Code = ""
			}
		}
		s.mu.Unlock()
		return Who{}, ErrPairing
	}
	s.forget(p.Panel, time.Now())
	s.mu.Unlock()
	who, known := s.Person(p.Panel)
	if !known {
		return Who{}, ErrPairing
	}
	err := s.TakeBack(p.Panel)
	if err == nil && s.OnPaired != nil {
		s.OnPaired(who.Name)
	}
	return who, err
}

// TakeBack ends all sessions of somebody, or of a panel, at once; a pairing that is open ends too.
func (s *Service) TakeBack(id string) error {
	s.mu.Lock()
	s.forget(id, time.Now())
	s.mu.Unlock()
	err := s.db.EndSessionsOf(id)
	s.tell()
	return err
}

// ended tells whether the right of somebody has ended.
func ended(p store.Person, now time.Time) bool { return p.Until > 0 && now.Unix() >= p.Until }

// armEnd has everybody asked anew who may be in when the next right ends. The lock is held.
func (s *Service) armEnd(now time.Time) {
	if s.ends != nil {
		s.ends.Stop()
	}
	var next int64
	for _, p := range s.persons {
		if p.Until > now.Unix() && (next == 0 || p.Until < next) {
			next = p.Until
		}
	}
	if next == 0 {
		return
	}
	s.ends = time.AfterFunc(time.Unix(next, 0).Sub(now), func() {
		s.mu.Lock()
		s.armEnd(time.Now())
		s.mu.Unlock()
		s.tell()
	})
}
