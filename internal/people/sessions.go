package people

import (
	"context"
	"encoding/base64"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"crypto/rand"
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
	ID     string    `json:"id"`
	Person string    `json:"person"` // the id
	Agent  string    `json:"agent"`
	Since  time.Time `json:"since"`
	Seen   time.Time `json:"seen"`
}

// maxAgent is how much of what a browser says of itself is kept.
//
//limit:count characters of what a browser says of itself | nowhere; it is cut
const maxAgent = 120

// SignedIn notes whose session one is.
func (s *Service) SignedIn(session, person, agent string) error {
	if r := []rune(strings.ToValidUTF8(agent, "")); len(r) > maxAgent {
		agent = string(r[:maxAgent])
	}
	return s.db.NameSession(session, person, agent)
}

// Browsers lists the sessions of people.
func (s *Service) Browsers() ([]Browser, error) {
	all, err := s.db.Sessions(time.Now().Unix())
	out := []Browser{}
	for _, b := range all {
		out = append(out, Browser{b.Hash, b.Person, b.Agent, time.Unix(b.Since, 0).UTC(), time.Unix(b.Seen, 0).UTC()})
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

// Program is a program that may get in.
type Program struct {
	ID   string      `json:"id"`
	Name string      `json:"name"`
	Role access.Role `json:"role"`
	Made time.Time   `json:"made"`
	Used *time.Time  `json:"used,omitempty"`
}

// Programs lists them.
func (s *Service) Programs() []Program {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []Program{}
	for _, t := range s.tokens {
		p := Program{ID: t.ID, Name: t.Name, Role: access.Role(t.Role), Made: time.Unix(t.Made, 0).UTC()}
		if t.Used > 0 {
			used := time.Unix(t.Used, 0).UTC()
			p.Used = &used
		}
		out = append(out, p)
	}
	return out
}

// AddProgram makes a token for a program; it is told once.
func (s *Service) AddProgram(name string, role access.Role) (id, token string, err error) {
	name = strings.TrimSpace(name)
	if err := checkName(name); err != nil {
		return "", "", err
	}
	if !role.Valid() || role == access.Owner {
		return "", "", &Refused{"role", "A program is an editor, an operator or a viewer."}
	}
	if len(s.Programs()) >= maxPeople {
		return "", "", &Refused{"name", "There are too many programs already; take some away."}
	}
	id, token = rand.Text(), "syn_"+rand.Text()+rand.Text()
	err = s.db.AddToken(store.Token{ID: id, Name: name, Role: string(role), Hash: hashed(token), Made: time.Now().Unix()})
	return id, token, errors.Join(err, s.reload())
}

// RemoveProgram takes the token of a program away.
func (s *Service) RemoveProgram(id string) error {
	return errors.Join(s.db.RemoveToken(id), s.reload())
}

// usedEvery is how often it is noted that a token was used.
const usedEvery = int64(60)

// Token finds the program that a token belongs to; false: there is none.
func (s *Service) Token(token string) (Who, bool) {
	if token == s.inside {
		return Who{ID: token, Name: "Synaptor", Role: access.Operator}, true
	}
	hash := hashed(token)
	s.mu.Lock()
	defer s.mu.Unlock()
	i := slices.IndexFunc(s.tokens, func(t store.Token) bool { return t.Hash == hash })
	if i < 0 {
		return Who{}, false
	}
	t := &s.tokens[i]
	if now := time.Now().Unix(); now-t.Used > usedEvery {
		t.Used = now
		_ = s.db.TokenUsed(t.ID, now) // it is noted with the next one
	}
	return Who{ID: t.ID, Name: t.Name, Role: access.Role(t.Role)}, true
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

func (s *Service) tell() {
	s.changes.mu.Lock()
	defer s.changes.mu.Unlock()
	if s.changes.wait != nil {
		close(s.changes.wait)
		s.changes.wait = nil
	}
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

// Inside is a token for what Synaptor itself connects to itself; it is another one at each start.
func (s *Service) Inside() string { return s.inside }

// ErrNoToken says why a program does not get in.
var ErrNoToken = errors.New("this Synaptor asks for a token of an operator; its owner makes one in People")

// Lets gives a context that goes on for as long as a program with a token may press controllers. It fails with ErrNoToken where it may not.
func (s *Service) Lets(ctx context.Context, token string) (context.Context, error) {
	may := func() bool {
		who, known := s.Token(token)
		return !s.Claimed() || known && who.Role.May(access.Operator)
	}
	if !may() {
		return ctx, ErrNoToken
	}
	return s.While(ctx, may), nil
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

// HasProgram tells whether a program may still get in.
func (s *Service) HasProgram(id string) bool {
	return id == s.inside || slices.ContainsFunc(s.Programs(), func(p Program) bool { return p.ID == id })
}
