package people_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/people"
	"synaptor/internal/store"
)

func TestSomebodyIsExpectedBeforeThereIsAPassphrase(t *testing.T) {
	s := open(t, t.TempDir())
	rights := &access.Rights{Changes: []string{"intercom:talk/*"}}
	imke, err := s.Expect("Imke", access.Operator, rights)
	if err != nil || !imke.Expected || s.Claimed() {
		t.Fatalf("expected: %+v, %v, claimed %v", imke, err, s.Claimed())
	}
	if _, err := s.Expect("Tobin", access.Owner, nil); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Expect("imke", access.Viewer, nil); err == nil {
		t.Error("two have one name")
	}
	if _, err := s.SignIn(here, "Imke", ""); !errors.Is(err, people.ErrWrong) {
		t.Errorf("without a passphrase one signs in: %v", err)
	}
	if tobin, err := s.Claim(here, "Tobin", words, ""); err != nil || tobin.Expected || len(s.All()) != 2 {
		t.Errorf("who was expected claims: %+v, %v, %d people", tobin, err, len(s.All()))
	}
	link, _, err := s.InviteExpected("tobin", imke.ID)
	if err != nil {
		t.Fatal(err)
	}
	if got, err := s.Invited(link); err != nil || got.Name != "Imke" {
		t.Errorf("it invites %+v, %v", got, err)
	}
	who, err := s.Accept(here, link, "Somebody else", words)
	if err != nil || who.Name != "Imke" || who.ID != imke.ID || who.Expected || who.Rights == nil {
		t.Errorf("accepted: %+v, %v", who, err)
	}
	if _, _, err := s.InviteExpected("tobin", imke.ID); !errors.Is(err, store.ErrNobody) {
		t.Errorf("invited again: %v", err)
	}
	if got, err := s.SignIn(here, "Imke", words); err != nil || got.ID != imke.ID {
		t.Errorf("signed in: %+v, %v", got, err)
	}
}

func TestAPanelIsPairedOnceAndTakenBack(t *testing.T) {
	s, owner := owned(t)
	if _, err := s.Pair(owner.ID); !errors.Is(err, people.ErrNoPanel) {
		t.Errorf("a person is paired: %v", err)
	}
	if _, err := s.AddPanel("Tablet", access.Editor, nil, 0); err == nil {
		t.Error("a panel edits")
	}
	tablet, err := s.AddPanel("Saskia's tablet", access.Operator, &access.Rights{Controllers: []string{"tablet"}}, 0)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.SetRole(tablet.ID, access.Owner); err == nil {
		t.Error("a panel becomes an owner")
	}
	for _, way := range []func(people.Pairing) string{func(p people.Pairing) string { return p.Code }, func(p people.Pairing) string { return p.Link }} {
		p, err := s.Pair(tablet.ID)
		if err != nil || len(p.Code) != 6 || len(p.Link) < 26 {
			t.Fatalf("a pairing begins with %+v, %v", p, err)
		}
		if who, err := s.Opened(p.Link, people.Reached{Address: "10.0.0.7"}); err != nil || who.ID != tablet.ID || len(s.Pairings()[0].Reached) != 1 {
			t.Errorf("opened: %+v, %v", who, err)
		}
		if who, err := s.Paired(way(p)); err != nil || who.ID != tablet.ID {
			t.Errorf("paired: %+v, %v", who, err)
		}
		for _, again := range []string{p.Code, p.Link, "", "000000"} {
			if _, err := s.Paired(again); !errors.Is(err, people.ErrPairing) {
				t.Errorf("%q a second time: %v", again, err)
			}
		}
	}
	first, _ := s.Pair(tablet.ID)
	second, _ := s.Pair(tablet.ID)
	if _, err := s.Paired(first.Code); err == nil && first.Code != second.Code {
		t.Error("a code is good after a new one was made")
	}
	changed := s.Changed()
	if err := s.TakeBack(tablet.ID); err != nil {
		t.Error(err)
	}
	<-changed
	if _, err := s.Paired(second.Code); !errors.Is(err, people.ErrPairing) {
		t.Errorf("taken back, a code is good: %v", err)
	}
}

func TestFiveWrongCodesEndEveryCode(t *testing.T) {
	s, _ := owned(t)
	tablet, err := s.AddPanel("Tablet", access.Viewer, nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	p, err := s.Pair(tablet.ID)
	if err != nil {
		t.Fatal(err)
	}
	wrong := "123456"
	if p.Code == wrong {
		wrong = "654321"
	}
	var done sync.WaitGroup
	for range 5 {
		done.Go(func() { _, _ = s.Paired(wrong) })
	}
	done.Wait()
	if _, err := s.Paired(p.Code); !errors.Is(err, people.ErrPairing) || s.Pairings()[0].Code != "" {
		t.Errorf("after five wrong tries it is good: %v", err)
	}
	if _, err := s.Paired(p.Link); err != nil {
		t.Errorf("its link, which nobody can guess, is not: %v", err)
	}
}

// TestRightsEndByThemselves on time, and whoever waits is told; a code does too.
func TestRightsEndByThemselves(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	synctest.Test(t, func(t *testing.T) {
		tablet, err := s.AddPanel("Tablet", access.Operator, nil, people.Tonight)
		if err != nil {
			t.Fatal(err)
		}
		p, err := s.Pair(tablet.ID)
		if err != nil {
			t.Fatal(err)
		}
		time.Sleep(10*time.Minute + time.Second)
		if _, err := s.Paired(p.Code); !errors.Is(err, people.ErrPairing) || len(s.Pairings()) != 0 {
			t.Errorf("after ten minutes a code is good: %v", err)
		}
		in, cancel := context.WithCancel(t.Context())
		defer cancel()
		in = s.While(in, func() bool { _, known := s.Person(tablet.ID); return known })
		time.Sleep(people.Tonight - 11*time.Minute)
		synctest.Wait()
		if in.Err() != nil {
			t.Error("the right has ended before its time")
		}
		time.Sleep(time.Minute)
		synctest.Wait()
		if in.Err() == nil {
			t.Error("the right goes on after its time")
		}
	})
}

func TestWhoHasGoneIsToldAfterAMinute(t *testing.T) {
	s := open(t, t.TempDir())
	synctest.Test(t, func(t *testing.T) {
		var gone []string
		s.OnGone(func(id string) { gone = append(gone, id) })
		v, leave := s.Come("tablet", "session", "10.0.0.7")
		v.Touch("grid", "a1", time.Now())
		if h := s.Here(); len(h) != 1 || h[0].Touched == nil || h[0].Touched.Control != "a1" {
			t.Errorf("here are %+v", h)
		}
		if s.Elsewhere("session", "10.0.0.7") || !s.Elsewhere("session", "10.0.0.8") || s.Elsewhere("another", "10.0.0.8") {
			t.Error("where a session is used is wrong")
		}
		leave()
		time.Sleep(40 * time.Second)
		_, leave = s.Come("tablet", "session", "10.0.0.7")
		leave()
		time.Sleep(40 * time.Second)
		synctest.Wait()
		if len(gone) > 0 || len(s.Here()) > 0 {
			t.Errorf("told are %v", gone)
		}
		s.Miss("tablet") // it is missed already
		s.Miss("program")
		time.Sleep(people.GoneAfter)
		synctest.Wait()
		if len(gone) != 2 {
			t.Errorf("told are %v", gone)
		}
	})
}

func TestAClaimTakesTheCodeWhereOthersCanReachIt(t *testing.T) {
	s := open(t, t.TempDir())
	if s.ClaimCode() != "" || !s.Free() {
		t.Error("on loopback a code is asked for")
	}
	s.Reachable = func() bool { return true }
	code := s.ClaimCode()
	if len(code) != 8 || s.Free() {
		t.Fatalf("its code is %q", code)
	}
	for _, wrong := range []string{"", "GUESSED1"} {
		if _, err := s.Claim(here, "Tobin", words, wrong); !errors.Is(err, people.ErrCode) {
			t.Errorf("claimed with %q: %v", wrong, err)
		}
	}
	if _, err := s.Claim(here, "Tobin", words, " "+strings.ToLower(code)); err != nil || s.ClaimCode() != "" {
		t.Errorf("claimed with the code: %v", err)
	}
}

func TestAProgramIsHeldToItsTerms(t *testing.T) {
	s, _ := owned(t)
	for field, terms := range map[string]people.Terms{"perSecond": {PerSecond: 5000}, "from": {From: "nowhere"}, "changes": {Rights: &access.Rights{Changes: []string{"x"}}}} {
		var r *people.Refused
		if _, _, err := s.AddProgram("Cue lights", access.Operator, terms); !errors.As(err, &r) || r.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	_, token, err := s.AddProgram("Cue lights", access.Operator, people.Terms{Rights: &access.Rights{Controllers: []string{"grid"}}, PerSecond: 2, SkipsGuards: true, Fetch: true, From: "10.0.0.9"})
	if err != nil {
		t.Fatal(err)
	}
	who, ok := s.Token(token)
	if !ok || !who.Terms.SkipsGuards || !who.Terms.Fetch || who.Rights == nil || who.Rights.MayPress("panel") {
		t.Errorf("it is %+v", who)
	}
	spent := 0
	for range 10 {
		if s.Spend(who.ID) {
			spent++
		}
	}
	if spent < 2 || spent > 3 {
		t.Errorf("of ten presses at once %d are let through", spent)
	}
	if got, ok := s.At("10.0.0.9"); !ok || got.ID != who.ID {
		t.Errorf("at its address is %+v", got)
	}
	if _, ok := s.At("10.0.0.8"); ok {
		t.Error("at another address is a program")
	}
}
