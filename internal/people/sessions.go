package people

import (
	"context"
	"encoding/base64"
	"errors"
	"strings"
	"sync"
	"time"

	"crypto/sha256"

	"synaptor/internal/access"
	"synaptor/internal/store"
)

// Sessions keeps those of browsers, as scs wants it: by what it makes of their cookie.
type Sessions struct{ DB *store.People }

// Find implements scs.Store.
func (s Sessions) Find(token string) (data []byte, found bool, err error) {
	one, err := s.DB.Session(token)
	if errors.Is(err, store.ErrNobody) || err == nil && one.Until < time.Now().Unix() {
		return nil, false, nil
	}
	return one.Data, err == nil, err
}

// Commit implements scs.Store.
func (s Sessions) Commit(token string, data []byte, until time.Time) error {
	return s.DB.KeepSession(token, data, time.Now().Unix(), until.Unix())
}

// Delete implements scs.Store.
func (s Sessions) Delete(token string) error { return s.DB.EndSession(token) }

// Browser is somebody's session, for lists.
type Browser struct {
	ID     string `json:"id"`
	Person string `json:"person"` // the id
	Agent  string `json:"agent"`
	// Address is where it was used last.
	Address string    `json:"address"`
	Since   time.Time `json:"since"`
	Seen    time.Time `json:"seen"`
}

// maxAgent is how much of what a browser says of itself is kept.
//
//limit:count characters of what a browser says of itself | nowhere; it is cut
const maxAgent = 120

// SignedIn notes whose session one is.
func (s *Service) SignedIn(session, person, agent, address string) error {
	return s.db.NameSession(session, person, CutAgent(agent), address)
}

// Moved notes where a session is used now.
func (s *Service) Moved(session, address string) error { return s.db.MoveSession(session, address) }

// CutAgent is what is kept of what a browser says of itself.
func CutAgent(agent string) string {
	if r := []rune(strings.ToValidUTF8(agent, "")); len(r) > maxAgent {
		return string(r[:maxAgent])
	}
	return agent
}

// Browsers lists the sessions of people.
func (s *Service) Browsers() ([]Browser, error) {
	all, err := s.db.Sessions(time.Now().Unix())
	out := []Browser{}
	for _, b := range all {
		out = append(out, Browser{b.Hash, b.Person, b.Agent, b.Address, time.Unix(b.Since, 0).UTC(), time.Unix(b.Seen, 0).UTC()})
	}
	return out, err
}

// EndSession ends somebody's session.
func (s *Service) EndSession(id string) error {
	if _, err := s.db.Session(id); err != nil {
		return err
	}
	err := s.db.EndSession(id)
	s.tell()
	return err
}

// changes tells whoever waits that people, programs or sessions are others.
type changes struct {
	mu   sync.Mutex
	wait chan struct{}
}

// Changed is closed when people, programs or sessions have changed next.
func (s *Service) Changed() <-chan struct{} {
	s.changes.mu.Lock()
	defer s.changes.mu.Unlock()
	if s.changes.wait == nil {
		s.changes.wait = make(chan struct{})
	}
	return s.changes.wait
}

// Again has everybody who waits ask anew who may be in: what that rests on has changed elsewhere.
func (s *Service) Again() { s.tell() }

func (s *Service) tell() {
	s.version.Add(1)
	if s.InForce != nil {
		s.InForce(s.Rights())
	}
	s.changes.mu.Lock()
	defer s.changes.mu.Unlock()
	if s.changes.wait != nil {
		close(s.changes.wait)
		s.changes.wait = nil
	}
}

// Version counts the changes of people, programs and sessions: whoever keeps what was said of somebody asks anew when it is another one.
func (s *Service) Version() int64 { return s.version.Load() }

// Rights are those of everybody who may be in, by id, as commands are judged by them.
func (s *Service) Rights() map[string]*access.Rights {
	s.mu.Lock()
	defer s.mu.Unlock()
	out, now := map[string]*access.Rights{s.inside: nil}, time.Now()
	add := func(id string, role access.Role, r *access.Rights) {
		switch role {
		case access.Viewer: // sees, and presses nothing
			r = &access.Rights{Controllers: []string{}, Changes: []string{}}
		case access.Owner, access.Editor:
			r = nil
		}
		out[id] = r
	}
	for _, p := range s.persons {
		if !ended(p, now) {
			who := whoOf(p)
			add(who.ID, who.Role, who.Rights)
		}
	}
	for _, t := range s.tokens {
		add(t.ID, access.Role(t.Role), termsOf(t).Rights)
	}
	return out
}

// HashOf is what is kept of the cookie of a session, as scs makes it.
func HashOf(cookie string) string {
	sum := sha256.Sum256([]byte(cookie))
	return base64.RawURLEncoding.EncodeToString(sum[:])
}

// HasSession tells whether a session goes on.
func (s *Service) HasSession(id string) bool {
	one, err := s.db.Session(id)
	return err == nil && one.Until >= time.Now().Unix()
}

// While gives a context that goes on for as long as somebody may be in; may is asked again whenever people, programs or sessions have changed.
func (s *Service) While(ctx context.Context, may func() bool) context.Context {
	ctx, cancel := context.WithCancel(ctx)
	go func() {
		defer cancel()
		for {
			changed := s.Changed()
			if !may() {
				return
			}
			select {
			case <-changed:
			case <-ctx.Done():
				return
			}
		}
	}()
	return ctx
}
