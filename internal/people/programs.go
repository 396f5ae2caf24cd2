package people

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/netip"
	"slices"
	"strings"
	"time"

	"golang.org/x/time/rate"

	"synaptor/internal/access"
	"synaptor/internal/store"
)

// Terms are what a program is held to besides its role.
type Terms struct {
	// Rights narrow an operator; nil: nothing does.
	Rights *access.Rights `json:"rights,omitempty"`
	// PerSecond is how many inputs it may send a second; 0: as many as anybody.
	PerSecond int `json:"perSecond,omitempty"`
	// SkipsGuards says that its presses pass no guard.
	SkipsGuards bool `json:"skipsGuards,omitempty"`
	// Fetch says that it may press by a GET with its token in the address, for what can do nothing else.
	Fetch bool `json:"fetch,omitempty"`
	// From is the address whose OSC messages are its own; empty: it says its token first.
	From string `json:"from,omitempty"`
}

// maxPerSecond is the most inputs a second that a program is held to.
//
//limit:count inputs a second of a program | at the form
const maxPerSecond = 1000

func (t Terms) check(role access.Role) error {
	if _, err := narrowed(role, t.Rights); err != nil {
		return err
	}
	if t.PerSecond < 0 || t.PerSecond > maxPerSecond {
		return &Refused{"perSecond", fmt.Sprintf("A program sends from 1 to %d inputs a second; 0: as many as it likes.", maxPerSecond)}
	}
	if _, err := netip.ParseAddr(t.From); t.From != "" && err != nil {
		return &Refused{"from", fmt.Sprintf("%q is not an address, such as 192.168.1.30.", t.From)}
	}
	return nil
}

// Program is a program that may get in.
type Program struct {
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Role  access.Role `json:"role"`
	Made  time.Time   `json:"made"`
	Used  *time.Time  `json:"used,omitempty"`
	Terms Terms       `json:"terms"`
}

// Programs lists them.
func (s *Service) Programs() []Program {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []Program{}
	for _, t := range s.tokens {
		p := Program{ID: t.ID, Name: t.Name, Role: access.Role(t.Role), Made: time.Unix(t.Made, 0).UTC(), Terms: termsOf(t)}
		if t.Used > 0 {
			used := time.Unix(t.Used, 0).UTC()
			p.Used = &used
		}
		out = append(out, p)
	}
	return out
}

func termsOf(t store.Token) (terms Terms) {
	if t.Terms != "" && json.Unmarshal([]byte(t.Terms), &terms) != nil {
		return Terms{Rights: &access.Rights{Controllers: []string{}, Changes: []string{}}} // what cannot be read gives nothing
	}
	return terms
}

// AddProgram makes a token for a program; it is told once.
func (s *Service) AddProgram(name string, role access.Role, terms Terms) (id, token string, err error) {
	name = strings.TrimSpace(name)
	if err := checkName(name); err != nil {
		return "", "", err
	}
	if !role.Valid() || role == access.Owner {
		return "", "", &Refused{"role", "A program is an editor, an operator or a viewer."}
	}
	if err := terms.check(role); err != nil {
		return "", "", err
	}
	if len(s.Programs()) >= maxPeople {
		return "", "", &Refused{"name", "There are too many programs already; take some away."}
	}
	raw, err := json.Marshal(terms)
	if err != nil {
		return "", "", err
	}
	id, token = rand.Text(), "syn_"+rand.Text()+rand.Text()
	err = s.db.AddToken(store.Token{ID: id, Name: name, Role: string(role), Hash: hashed(token), Made: time.Now().Unix(), Terms: string(raw)})
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
	return s.program(func(t store.Token) bool { return t.Hash == hash })
}

// At finds the program whose OSC messages come from an address; false: there is none.
func (s *Service) At(address string) (Who, bool) {
	return s.program(func(t store.Token) bool { return address != "" && termsOf(t).From == address })
}

func (s *Service) program(is func(store.Token) bool) (Who, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	i := slices.IndexFunc(s.tokens, is)
	if i < 0 {
		return Who{}, false
	}
	t := &s.tokens[i]
	if now := time.Now().Unix(); now-t.Used > usedEvery {
		t.Used = now
		_ = s.db.TokenUsed(t.ID, now) // it is noted with the next one
	}
	terms := termsOf(*t)
	return Who{ID: t.ID, Name: t.Name, Role: access.Role(t.Role), Rights: terms.Rights, Terms: &terms}, true
}

// Spend counts an input of a program; false: it sends more than it may.
func (s *Service) Spend(id string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	l := s.rates[id]
	return l == nil || l.Allow()
}

// setRates has each program held to its rate; what it has spent stays spent. The lock is held.
func (s *Service) setRates() {
	now := map[string]*rate.Limiter{}
	for _, t := range s.tokens {
		per := termsOf(t).PerSecond
		if per == 0 {
			continue
		}
		if now[t.ID] = s.rates[t.ID]; now[t.ID] == nil {
			now[t.ID] = rate.NewLimiter(rate.Limit(per), per)
		}
	}
	s.rates = now
}

// Inside is a token for what Synaptor itself connects to itself; it is another one at each start.
func (s *Service) Inside() string { return s.inside }

// ErrNoToken says why a program does not get in.
var ErrNoToken = errors.New("this Synaptor asks for a token of an operator; its owner makes one in People")

// Lets tells which program a token is of, which may press controllers, and gives a context that goes on for as long as it may. Where nobody has to
// be known it is nobody. It fails with ErrNoToken where it may not.
func (s *Service) Lets(ctx context.Context, token string) (context.Context, Who, error) {
	who, may := s.Presses(token)
	if !may {
		return ctx, who, ErrNoToken
	}
	return s.While(ctx, func() bool {
		now, may := s.Presses(token)
		return may && now.ID == who.ID
	}), who, nil
}

// Presses tells which program a token is of, and whether it may press controllers.
func (s *Service) Presses(token string) (Who, bool) {
	if s.Free() {
		return Who{}, true
	}
	who, known := s.Token(token)
	return who, known && who.Role.May(access.Operator)
}

// HasProgram tells whether a program may still get in.
func (s *Service) HasProgram(id string) bool {
	return id == s.inside || slices.ContainsFunc(s.Programs(), func(p Program) bool { return p.ID == id })
}
