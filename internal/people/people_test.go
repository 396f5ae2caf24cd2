package people_test

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"testing"

	"synaptor/internal/access"
	"synaptor/internal/people"
	"synaptor/internal/store"
)

var here = context.Background()

const words = "seven bright meteors"

func open(t *testing.T, dir string) *people.Service {
	t.Helper()
	db, err := store.OpenPeople(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	s, err := people.Open(db)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// owned has an owner.
func owned(t *testing.T) (*people.Service, people.Who) {
	t.Helper()
	s := open(t, t.TempDir())
	who, err := s.Claim(here, "Tobin", words, "")
	if err != nil {
		t.Fatal(err)
	}
	return s, who
}

func TestTheFirstPassphraseMakesTheOwner(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	if s.Claimed() {
		t.Fatal("nobody has set a passphrase")
	}
	for _, c := range []struct{ name, passphrase, field string }{{"", words, "name"}, {strings.Repeat("x", 81), words, "name"}, {"a\nb", words, "name"}, {"Tobin", "too short", "passphrase"},
		{"Tobin", strings.Repeat("x", 201), "passphrase"}, {"Saskia Oyelaran", "saskia oyelaran", "passphrase"}} {
		var r *people.Refused
		if _, err := s.Claim(here, c.name, c.passphrase, ""); !errors.As(err, &r) || r.Field != c.field {
			t.Errorf("%q and %q: %v", c.name, c.passphrase, err)
		}
	}
	var done sync.WaitGroup
	owners := make(chan people.Who, 8)
	for i := range 8 { // at the same moment only one of them does
		done.Go(func() {
			if who, err := s.Claim(here, fmt.Sprint("Owner ", i), words, ""); err == nil {
				owners <- who
			} else if !errors.Is(err, people.ErrClaimed) {
				t.Errorf("the others: %v", err)
			}
		})
	}
	done.Wait()
	if len(owners) != 1 || len(s.All()) != 1 || s.All()[0].Role != access.Owner {
		t.Fatalf("%d are the first, there are %+v", len(owners), s.All())
	}
	again := open(t, dir)
	if !again.Claimed() {
		t.Error("started again, nobody has set a passphrase")
	}
}

func TestSigningInCostsTheSameWhateverIsWrong(t *testing.T) {
	s, who := owned(t)
	hashes := 0
	s.Hashed = func() { hashes++ }
	got, err := s.SignIn(here, " tobin ", words)
	if err != nil || got.ID != who.ID || hashes != 1 {
		t.Errorf("signed in: %+v, %v, after %d hashes", got, err, hashes)
	}
	for _, c := range [][2]string{{"Tobin", "another passphrase"}, {"Nobody", words}, {"", ""}, {"Tobin", strings.Repeat("x", 100_000)}} {
		hashes = 0
		if _, err := s.SignIn(here, c[0], c[1]); !errors.Is(err, people.ErrWrong) || hashes != 1 {
			t.Errorf("%.20q: %v, after %d hashes", c, err, hashes)
		}
	}
	ended, cancel := context.WithCancel(here)
	cancel()
	for range 3 { // who has gone away waits for no turn
		if _, err := s.SignIn(ended, "Tobin", words); err != nil && !errors.Is(err, context.Canceled) {
			t.Error(err)
		}
	}
}

func TestAnInvitationWorksOnce(t *testing.T) {
	s, owner := owned(t)
	if _, _, err := s.Invite(owner.ID, "king"); err == nil {
		t.Error("somebody is invited as a king")
	}
	link, _, err := s.Invite(owner.ID, access.Operator)
	if err != nil {
		t.Fatal(err)
	}
	if got, err := s.Invited(link); got.Role != access.Operator || got.ID != "" || err != nil {
		t.Errorf("it invites as %+v, %v", got, err)
	}
	if _, err := s.Accept(here, link, "Tobin", words); err == nil {
		t.Error("two have one name")
	}
	who, err := s.Accept(here, link, "Saskia", words)
	if err != nil || who.Role != access.Operator {
		t.Errorf("accepted: %+v, %v", who, err)
	}
	for _, l := range []string{link, "", "guessed"} {
		if _, err := s.Accept(here, l, "Imke", words); !errors.Is(err, people.ErrInvited) {
			t.Errorf("with %q: %v", l, err)
		}
	}
	link, _, err = s.Invite(owner.ID, access.Viewer)
	if err != nil {
		t.Fatal(err)
	}
	var done sync.WaitGroup
	for i := range 5 {
		done.Go(func() { _, _ = s.Accept(here, link, fmt.Sprint("Guest ", i), words) }) // all but one are too late
	}
	done.Wait()
	if n := len(s.All()); n != 3 {
		t.Errorf("one invitation, at the same moment, has let in %d", n-2)
	}
}

func TestSomebodyStaysTheOwner(t *testing.T) {
	s, owner := owned(t)
	if err := s.Remove(owner.ID); !errors.Is(err, people.ErrLast) {
		t.Errorf("the last one is removed: %v", err)
	}
	if err := s.SetRole(owner.ID, access.Viewer); !errors.Is(err, people.ErrLast) {
		t.Errorf("the last one becomes a viewer: %v", err)
	}
	link, _, _ := s.Invite(owner.ID, access.Owner)
	other, err := s.Accept(here, link, "Saskia", words)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.SetRole(owner.ID, access.Editor); err != nil {
		t.Error(err)
	}
	if err := s.Remove(owner.ID); err != nil {
		t.Error(err)
	}
	if err := s.Remove(other.ID); !errors.Is(err, people.ErrLast) {
		t.Errorf("the last one is removed: %v", err)
	}
	if err := s.Remove("nobody"); !errors.Is(err, store.ErrNobody) {
		t.Errorf("nobody is removed: %v", err)
	}
}

func TestAPassphraseIsChangedByWhoKnowsIt(t *testing.T) {
	s, owner := owned(t)
	var r *people.Refused
	if err := s.SetPassphrase(here, owner.ID, "not this one", "another few words"); !errors.As(err, &r) || r.Field != "old" {
		t.Errorf("without the old one: %v", err)
	}
	if err := s.SetPassphrase(here, owner.ID, words, "short"); !errors.As(err, &r) || r.Field != "passphrase" {
		t.Errorf("to a short one: %v", err)
	}
	if err := s.SetPassphrase(here, owner.ID, words, "another few words"); err != nil {
		t.Error(err)
	}
	if _, err := s.SignIn(here, "Tobin", words); !errors.Is(err, people.ErrWrong) {
		t.Errorf("with the old one: %v", err)
	}
	if _, err := s.SignIn(here, "Tobin", "another few words"); err != nil {
		t.Error(err)
	}
}

func TestATokenIsToldOnceAndTakenAway(t *testing.T) {
	s, _ := owned(t)
	if _, _, err := s.AddProgram("Cue lights", access.Owner, people.Terms{}); err == nil {
		t.Error("a program is an owner")
	}
	id, token, err := s.AddProgram("Cue lights", access.Operator, people.Terms{})
	if err != nil {
		t.Fatal(err)
	}
	if who, ok := s.Token(token); !ok || who.Name != "Cue lights" || who.Role != access.Operator {
		t.Errorf("it is %+v", who)
	}
	if p := s.Programs(); len(p) != 1 || p[0].Used == nil {
		t.Errorf("listed are %+v", p)
	}
	changed := s.Changed()
	if err := s.RemoveProgram(id); err != nil {
		t.Error(err)
	}
	<-changed
	for _, token := range []string{token, "", "syn_"} {
		if _, ok := s.Token(token); ok {
			t.Errorf("%q gets in", token)
		}
	}
}

func TestRolesMayWhatThoseAfterThemMay(t *testing.T) {
	order := []access.Role{access.Owner, access.Editor, access.Operator, access.Viewer, access.Nobody}
	for i, a := range order {
		for j, b := range order {
			if a.May(b) != (i <= j) {
				t.Errorf("that %q may what takes %q is %v", a, b, a.May(b))
			}
		}
	}
	if access.Role("king").May(access.Nobody) || access.Owner.May("king") || access.Nobody.Valid() {
		t.Error("a role that is none may something")
	}
}

// No hash is worked out where nobody signs in: it takes 19 MiB and a twentieth of a second of each start.
func TestWhatIsOpenedWorksOutNoHash(t *testing.T) {
	dir := t.TempDir()
	db, err := store.OpenPeople(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	s, err := people.Open(db)
	runtime.ReadMemStats(&after)
	if err != nil {
		t.Fatal(err)
	}
	if took := after.TotalAlloc - before.TotalAlloc; took > 8<<20 {
		t.Errorf("%d MiB were taken to open it", took>>20)
	}
	if _, err := s.SignIn(here, "Nobody", words); !errors.Is(err, people.ErrWrong) {
		t.Errorf("somebody who is not there: %v", err)
	}
	runtime.ReadMemStats(&before)
	if took := before.TotalAlloc - after.TotalAlloc; took < 19<<20 {
		t.Errorf("to find out that nobody is called so took %d MiB: an unknown name is told by its time", took>>20)
	}
}
