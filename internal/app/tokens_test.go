package app_test

import (
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
)

// sends opens a socket that OSC messages are sent from.
func (r *rig) sends() func(address string, args ...any) {
	r.Helper()
	c, err := net.Dial("udp", r.OSCAddr)
	if err != nil {
		r.Fatal(err)
	}
	r.Cleanup(func() { _ = c.Close() })
	return func(address string, args ...any) {
		r.Helper()
		raw, err := osc.UDP{}.Encode(device.Message{Address: address, Args: args})
		if err == nil {
			_, err = c.Write(raw)
		}
		if err != nil {
			r.Fatal(err)
		}
	}
}

// program makes a token with terms.
func (r *rig) program(name string, terms map[string]any) (id, token string) {
	r.Helper()
	var made struct{ ID, Token string }
	r.must(201, "POST", "/api/v1/tokens", map[string]any{"name": name, "role": "operator", "terms": terms}, &made)
	return made.ID, made.Token
}

// pressed waits until somebody has pressed a control, and gives the entry.
func (r *rig) pressed(actor, control string) (found journal.Entry) {
	r.Helper()
	r.eventually(actor+" has pressed "+control, func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=30", nil, &rows)
		for _, e := range rows {
			if e.Actor == actor && e.Control == control && e.Outcome != journal.UnderWay {
				found = e
				return true
			}
		}
		return false
	})
	return found
}

// TestOSCIsTakenFromWhoIsKnown: who has said a token, or stands at the address of one; both as far as its rights go, until it is taken away.
func TestOSCIsTakenFromWhoIsKnown(t *testing.T) {
	r := claimed(t)
	grid := r.controller("producer-grid")
	say, other := r.sends(), r.sends()
	id, token := r.program("Cue lights", map[string]any{"rights": map[string]any{"controllers": []string{grid}, "changes": []string{"dome-switcher:mix/1/*"}}})
	before := r.reading("mix/1/program").Value
	say("/synaptor/producer-grid/b1/press")
	say("/synaptor/token", "syn_guessed")
	say("/synaptor/producer-grid/b1/press")
	say("/synaptor/token", token)
	say("/synaptor/producer-grid/c1/press")
	if e := r.pressed("Cue lights", "c1"); e.Outcome != journal.Confirmed {
		t.Errorf("its press ends %s: %s", e.Outcome, e.Reason)
	}
	other("/synaptor/producer-grid/b1/press") // another port has said nothing
	say("/synaptor/scope-console/a1/press")   // not given to it
	say("/synaptor/producer-grid/e1/press")
	r.pressed("Cue lights", "e1")
	var rows []journal.Entry
	r.must(200, "GET", "/api/v1/journal?limit=50", nil, &rows)
	for _, e := range rows {
		if e.Control == "b1" || e.Control == "a1" && e.Actor == "Cue lights" {
			t.Errorf("%s has pressed %s: before it was %v", e.Actor, e.Control, before)
		}
	}
	r.must(204, "DELETE", "/api/v1/tokens/"+id, nil, nil)
	say("/synaptor/producer-grid/b1/press")
	_, _ = r.program("Dimmer rack", map[string]any{"from": "127.0.0.1"})
	other("/synaptor/producer-grid/f1/press")
	r.pressed("Dimmer rack", "f1")
	r.must(200, "GET", "/api/v1/journal?limit=50", nil, &rows)
	for _, e := range rows {
		if e.Control == "b1" {
			t.Errorf("%s has pressed b1 with a token that was taken away", e.Actor)
		}
	}
}

// TestAProgramIsHeldToItsTermsWhereverItComesIn: fetching only where that was given, no more than its rate, past guards only where that was given.
func TestAProgramIsHeldToItsTermsWhereverItComesIn(t *testing.T) {
	r := claimed(t)
	if err := r.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "A key with a guard", func(d *show.Draft) {
		d.ClearPlacement("cut", "a4")
		d.Put(&show.Mapping{ID: "guarded", Placements: []show.Placement{{Page: "cut", Control: "a4"}}, Guard: &show.Guard{Kind: "hold", Ms: 600},
			Responses: []show.Response{{Gesture: "press", Action: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "5"}}}}})
	}); err != nil {
		t.Fatal(err)
	}
	_, plain := r.program("Plain", nil)
	_, fetching := r.program("Fetching", map[string]any{"fetch": true, "perSecond": 3, "skipsGuards": true})
	o := r.stranger()
	bearer := func(token string) http.Header { return http.Header{"Authorization": {"Bearer " + token}} }
	fetch := func(token, control string) int {
		return o.status("GET", "/api/v1/fetch/"+token+"/producer-grid/"+control+"/press", nil)
	}
	if a, b, c := fetch(plain, "b1"), fetch("syn_guessed", "b1"), r.status("GET", "/api/v1/fetch/x/producer-grid/b1/press", nil); a != 401 || b != 401 || c != 401 {
		t.Errorf("without the right to fetch it is answered %d, with a guess %d, an owner without a token %d", a, b, c)
	}
	free := start(t).ready() // where nobody has to be known, a page elsewhere could have a browser fetch a press
	if got := free.status("GET", "/api/v1/fetch/anything/producer-grid/b1/press", nil); got != 401 {
		t.Errorf("without people, fetching answers %d", got)
	}
	if got := fetch(fetching, "c1"); got != 202 {
		t.Errorf("fetching answers %d", got)
	}
	r.pressed("Fetching", "c1")
	o.status("POST", "/api/v1/input/producer-grid/a4/press", bearer(plain))
	if e := r.pressed("Plain", "a4"); e.Outcome != journal.Refused || !strings.Contains(e.Reason, "held for") {
		t.Errorf("past a guard it ends %s: %s", e.Outcome, e.Reason)
	}
	if got := fetch(fetching, "a4"); got != 202 {
		t.Errorf("the guarded key answers %d", got)
	}
	if e := r.pressed("Fetching", "a4"); e.Outcome != journal.Confirmed {
		t.Errorf("with the right to pass guards it ends %s: %s", e.Outcome, e.Reason)
	}
	many := 0
	for range 20 {
		if o.status("POST", "/api/v1/input/producer-grid/c1/press", bearer(fetching)) == http.StatusTooManyRequests {
			many++
		}
	}
	if many < 10 {
		t.Errorf("of twenty presses at once only %d are too many", many)
	}
	if got := o.status("POST", "/api/v1/input/producer-grid/c1/up", bearer(fetching)); got != 202 {
		t.Errorf("letting go is answered %d", got)
	}
}

// TestASessionThatIsUsedElsewhereIsEnded while it is in use where it was; where it is not, it goes along.
func TestASessionThatIsUsedElsewhereIsEnded(t *testing.T) {
	r := claimed(t)
	vera := r.as("Vera")
	at, err := url.Parse(r.base)
	if err != nil {
		t.Fatal(err)
	}
	elsewhere := func(from string) *rig {
		o := r.another()
		o.client.Jar.(*cookiejar.Jar).SetCookies(at, vera.client.Jar.Cookies(at))
		o.client.Transport = &http.Transport{DisableKeepAlives: true, DialContext: (&net.Dialer{LocalAddr: &net.TCPAddr{IP: net.ParseIP(from)}}).DialContext}
		return o
	}
	elsewhere("127.0.0.2").must(200, "GET", "/api/v1/show", nil, nil) // nobody uses it at 127.0.0.1 now
	vera.must(200, "GET", "/api/v1/show", nil, nil)
	l := vera.follow("show")
	elsewhere("127.0.0.3").must(401, "GET", "/api/v1/show", nil, nil)
	vera.must(401, "GET", "/api/v1/show", nil, nil)
	l.ends()
	r.eventually("the journal says so", func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=30", nil, &rows)
		for _, e := range rows {
			if strings.Contains(e.Title, "was used from 127.0.0.3 while it was in use at 127.0.0.1") {
				return true
			}
		}
		return false
	})
}

// TestWhoIsNobodyHearsNothing: pages that anybody sees name nobody, and need no script.
func TestWhoIsNobodyHearsNothing(t *testing.T) {
	r := claimed(t)
	o := r.stranger()
	for _, path := range []string{"/sign-in", "/pair", "/pair/guessed", "/invitation/guessed", "/here/guessed"} {
		_, body := o.page(path)
		for _, name := range []string{"Tobin", "Edda", "Owen", "Meteor"} {
			if strings.Contains(body, name) {
				t.Errorf("%s says %s", path, name)
			}
		}
		if strings.Contains(body, "<script") {
			t.Errorf("%s needs a script", path)
		}
	}
}
