// Package people knows who may get into Synaptor: people with a passphrase, programs with a token, and the sessions of browsers. Until
// somebody has set a passphrase nobody has to sign in. Begin with Service.SignIn.
package people

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"
	"unicode/utf8"

	"golang.org/x/time/rate"

	"synaptor/internal/access"
	"synaptor/internal/store"
)

// Argon2id as OWASP has it: 19 MiB, two passes, one lane. Two hashes are worked out at a time.
const (
	memory    = 19 << 10 // KiB
	passes    = 2
	lanes     = 1
	keyLength = 32
	atATime   = 2
)

const (
	//limit:count characters of a passphrase, at least | at the form
	minPassphrase = 10
	//limit:count characters of a passphrase | at the form
	maxPassphrase = 200
	//limit:count characters of the name of somebody | at the form
	maxName = 80
	//limit:count people, and programs, that may get in | when one is added
	maxPeople = 200
)

// What can be wrong with what somebody does to get in, in sentences.
var (
	ErrWrong   = errors.New("this name and passphrase do not belong together")
	ErrInvited = errors.New("this invitation is not good any more: it works once, and for a week")
	ErrClaimed = errors.New("somebody has set a passphrase already")
	ErrCode    = errors.New("this is not the code that Synaptor has shown when it started")
	ErrLast    = errors.New("somebody has to stay the owner")
)

// Refused says what is wrong with a field of a form.
type Refused struct{ Field, Text string }

// Error implements error.
func (r *Refused) Error() string { return r.Text }

// Who is somebody, or a program, that has got in.
type Who struct {
	ID   string      `json:"id"`
	Name string      `json:"name"`
	Role access.Role `json:"role"`
	Made time.Time   `json:"made"`
	// Rights narrow an operator; nil: nothing does.
	Rights *access.Rights `json:"rights,omitempty"`
	// Panel says that it is a panel, which is paired by a code.
	Panel bool `json:"panel,omitempty"`
	// Expected says that it is somebody who has no passphrase yet.
	Expected bool `json:"expected,omitempty"`
	// Until is when the right ends; nil: when somebody takes it away.
	Until *time.Time `json:"until,omitempty"`
	// Terms are those of a program; nil: it is none.
	Terms *Terms `json:"-"`
}

// Service is the people of a data folder.
type Service struct {
	db     *store.People
	turns  chan struct{} // of those who work out a hash
	inside string        // a token
	dummy  string        // the hash of nobody, so that an unknown name costs as much as a known one

	// Hashed counts hashes that were worked out, for tests.
	Hashed func()
	// OnPaired is told the name of a panel that was paired; nil: nobody is.
	OnPaired func(name string)
	// Reachable tells whether other computers can reach Synaptor; nil: they cannot.
	Reachable func() bool
	// InForce is told what everybody may do, whenever that may have changed; nil: nobody is.
	InForce   func(map[string]*access.Rights)
	claimCode string
	presence  presence
	version   atomic.Int64

	changes changes

	mu       sync.Mutex
	persons  []store.Person
	tokens   []store.Token
	rates    map[string]*rate.Limiter // of programs that are held to one
	pairings []*pairing
	ends     *time.Timer // when the right of the next panel does
}

// Open reads the people of a data folder.
func Open(db *store.People) (*Service, error) {
	s := &Service{db: db, turns: make(chan struct{}, atATime), Hashed: func() {}}
	s.inside, s.claimCode = rand.Text(), rand.Text()[:8]
	s.dummy = nobodys()
	return s, s.reload()
}

// reload reads who there is.
func (s *Service) reload() (err error) {
	persons, err := s.db.Persons()
	if err != nil {
		return fmt.Errorf("read who may get in: %w", err)
	}
	tokens, err := s.db.Tokens()
	if err != nil {
		return fmt.Errorf("read which programs may get in: %w", err)
	}
	s.mu.Lock()
	s.persons, s.tokens = persons, tokens
	s.armEnd(time.Now())
	s.setRates()
	s.mu.Unlock()
	s.tell()
	return nil
}

// Claimed tells whether anybody has set a passphrase: from then on nobody gets in without being known.
func (s *Service) Claimed() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.claimed()
}

// Free tells whether nobody has to be known: no passphrase is set, and no other computer can reach Synaptor.
func (s *Service) Free() bool { return !s.Claimed() && (s.Reachable == nil || !s.Reachable()) }

// ClaimCode is what whoever sets the first passphrase has to know where other computers can reach Synaptor already: a box without a screen.
// It is another one at each start; empty: none is asked for.
func (s *Service) ClaimCode() string {
	if s.Claimed() || s.Free() {
		return ""
	}
	return s.claimCode
}

// claimed is Claimed; the lock is held.
func (s *Service) claimed() bool {
	return slices.ContainsFunc(s.persons, func(p store.Person) bool { return p.Hash != "" })
}

// Person finds somebody; false: there is no such person any more, or the right has ended.
func (s *Service) Person(id string) (Who, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, p := range s.persons {
		if p.ID == id {
			return whoOf(p), !ended(p, time.Now())
		}
	}
	return Who{}, false
}

func whoOf(p store.Person) Who {
	who := Who{ID: p.ID, Name: p.Name, Role: access.Role(p.Role), Made: time.Unix(p.Made, 0).UTC(), Panel: p.Panel, Expected: p.Hash == "" && !p.Panel}
	if p.Until > 0 {
		until := time.Unix(p.Until, 0).UTC()
		who.Until = &until
	}
	if p.Rights != "" && who.Role == access.Operator {
		who.Rights = &access.Rights{Controllers: []string{}, Changes: []string{}} // what cannot be read gives nothing
		_ = json.Unmarshal([]byte(p.Rights), who.Rights)
	}
	return who
}

// All lists who may get in.
func (s *Service) All() []Who {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []Who{}
	for _, p := range s.persons {
		out = append(out, whoOf(p))
	}
	return out
}

// Claim makes the first owner; somebody who was expected under that name is it then. It fails with ErrCode where the code is wrong.
func (s *Service) Claim(ctx context.Context, name, passphrase, code string) (Who, error) {
	if want := s.ClaimCode(); want != "" && subtle.ConstantTimeCompare([]byte(strings.ToUpper(strings.TrimSpace(code))), []byte(want)) != 1 {
		return Who{}, ErrCode
	}
	name = strings.TrimSpace(name)
	if err := errors.Join(checkName(name), checkPassphrase(name, passphrase)); err != nil {
		return Who{}, err
	}
	if s.Claimed() {
		return Who{}, ErrClaimed
	}
	hash, err := s.hash(ctx, passphrase)
	if err != nil {
		return Who{}, err
	}
	p := store.Person{ID: rand.Text(), Name: name, Role: string(access.Owner), Hash: hash, Made: time.Now().Unix()}
	switch err := s.db.AddPerson(p, true); {
	case errors.Is(err, store.ErrNobody):
		return Who{}, ErrClaimed
	case err != nil:
		return Who{}, err
	}
	return whoOf(p), s.reload()
}

// add keeps somebody new.
func (s *Service) add(p store.Person) (Who, error) {
	if err := checkName(p.Name); err != nil {
		return Who{}, err
	}
	s.mu.Lock()
	n, taken := len(s.persons), slices.ContainsFunc(s.persons, func(o store.Person) bool { return strings.EqualFold(o.Name, p.Name) })
	s.mu.Unlock()
	switch {
	case taken:
		return Who{}, &Refused{"name", "Somebody has this name already."}
	case n >= maxPeople:
		return Who{}, &Refused{"name", fmt.Sprintf("At most %d people and panels can get in.", maxPeople)}
	}
	p.ID, p.Made = rand.Text(), time.Now().Unix()
	if err := s.db.AddPerson(p, false); err != nil {
		return Who{}, err
	}
	return whoOf(p), s.reload()
}

func checkName(name string) error {
	if name == "" || utf8.RuneCountInString(name) > maxName || strings.ContainsFunc(name, func(r rune) bool { return r < ' ' }) {
		return &Refused{"name", fmt.Sprintf("A name has 1 to %d characters, on one line.", maxName)}
	}
	return nil
}

func checkPassphrase(name, passphrase string) error {
	n := utf8.RuneCountInString(passphrase)
	switch {
	case n < minPassphrase:
		return &Refused{"passphrase", fmt.Sprintf("A passphrase has at least %d characters; a few words are easy to keep in mind.", minPassphrase)}
	case n > maxPassphrase:
		return &Refused{"passphrase", fmt.Sprintf("A passphrase has at most %d characters.", maxPassphrase)}
	case strings.EqualFold(passphrase, name):
		return &Refused{"passphrase", "The passphrase is the name."}
	}
	return nil
}

// SignIn finds who a name and a passphrase belong to. It fails with ErrWrong whichever of them is wrong, and takes as long.
func (s *Service) SignIn(ctx context.Context, name, passphrase string) (Who, error) {
	s.mu.Lock()
	found := store.Person{Hash: s.dummy}
	for _, p := range s.persons {
		if p.Hash != "" && strings.EqualFold(p.Name, strings.TrimSpace(name)) {
			found = p
		}
	}
	s.mu.Unlock()
	ok, err := s.fits(ctx, passphrase, found.Hash)
	if err != nil {
		return Who{}, err
	}
	if !ok || found.ID == "" {
		return Who{}, ErrWrong
	}
	return whoOf(found), nil
}

// SetRole changes what somebody may do.
func (s *Service) SetRole(id string, role access.Role) error {
	if !role.Valid() {
		return &Refused{"role", "A role is owner, editor, operator or viewer."}
	}
	p, err := s.one(id, role != access.Owner)
	if err != nil {
		return err
	}
	if p.Panel && role != access.Operator && role != access.Viewer {
		return &Refused{"role", "A panel presses or looks; whoever edits signs in."}
	}
	p.Role = string(role)
	return errors.Join(s.db.SetPerson(p), s.reload())
}

// SetRights narrows what an operator may do; nil: nothing does any more.
func (s *Service) SetRights(id string, r *access.Rights) error {
	p, err := s.one(id, false)
	if err != nil {
		return err
	}
	if p.Rights, err = narrowed(access.Role(p.Role), r); err != nil {
		return err
	}
	return errors.Join(s.db.SetPerson(p), s.reload())
}

// narrowed is what is kept of rights that narrow a role.
func narrowed(role access.Role, r *access.Rights) (string, error) {
	if !r.Narrow() {
		return "", nil
	}
	if role != access.Operator {
		return "", &Refused{"changes", "Rights narrow operators: editors and owners change everything, viewers nothing."}
	}
	if text := r.Check(); text != "" {
		return "", &Refused{"changes", text}
	}
	raw, err := json.Marshal(r)
	return string(raw), err
}

// SetPassphrase changes somebody's passphrase; the one so far has to be given.
func (s *Service) SetPassphrase(ctx context.Context, id, old, passphrase string) error {
	p, err := s.one(id, false)
	if err != nil {
		return err
	}
	if ok, err := s.fits(ctx, old, p.Hash); err != nil || !ok {
		return errors.Join(err, &Refused{"old", "This is not the passphrase so far."})
	}
	if err := checkPassphrase(p.Name, passphrase); err != nil {
		return err
	}
	if p.Hash, err = s.hash(ctx, passphrase); err != nil {
		return err
	}
	return errors.Join(s.db.SetPerson(p), s.reload())
}

// Remove takes somebody away, with all sessions.
func (s *Service) Remove(id string) error {
	if _, err := s.one(id, true); err != nil {
		return err
	}
	return errors.Join(s.db.RemovePerson(id), s.reload())
}

// one finds somebody who is to change. goes: who does not stay an owner; it fails with ErrLast where nobody would be one.
func (s *Service) one(id string, goes bool) (found store.Person, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	owners := 0
	for _, p := range s.persons {
		if p.Role == string(access.Owner) && p.Hash != "" {
			owners++
		}
		if p.ID == id {
			found = p
		}
	}
	switch {
	case found.ID == "":
		return found, store.ErrNobody
	case goes && found.Role == string(access.Owner) && found.Hash != "" && owners == 1:
		return found, ErrLast
	}
	return found, nil
}
