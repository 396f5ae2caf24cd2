package network

import (
	"net/http"
	"net/url"
	"os"
	"strings"
	"testing"
	"time"

	"synaptor/internal/announce"
	"synaptor/test/browser"
)

type pending struct {
	Pending struct {
		Path      string
		Addresses []string
	}
}

// opened is a Synaptor whose owner, Tobin, has opened the desk's address, as the phone confirms.
func opened(t *testing.T, with map[string]any) (s *synaptor, url string) {
	t.Helper()
	s = start(t, "127.0.0.1:0")
	config := map[string]any{"all": false, "addresses": []string{desk}, "names": []string{}, "tls": ""}
	for k, v := range with {
		config[k] = v
	}
	if got := s.call("PUT", "/api/v1/addresses", config, nil); got != http.StatusUnprocessableEntity {
		t.Errorf("before there is a passphrase an address is opened: %d", got)
	}
	s.must(204, "POST", "/api/v1/claim", map[string]any{"name": "Tobin", "passphrase": words}, nil)
	var p pending
	s.must(200, "PUT", "/api/v1/addresses", config, &p)
	if len(p.Pending.Addresses) != 1 {
		t.Fatalf("opened are %v", p.Pending.Addresses)
	}
	phone := s.at(p.Pending.Addresses[0])
	phone.must(200, "GET", p.Pending.Path, nil, nil)
	var doc struct {
		Pending *struct{}
		Config  struct{ Addresses []string }
	}
	s.must(200, "GET", "/api/v1/addresses", nil, &doc)
	if doc.Pending != nil || len(doc.Config.Addresses) != 1 {
		t.Errorf("confirmed, it is %+v", doc)
	}
	return s, p.Pending.Addresses[0]
}

// TestAPhoneIsPairedByItsCode: it presses what it may, what it may not looks so and says why, and it is taken back with a key held down.
func TestAPhoneIsPairedByItsCode(t *testing.T) {
	s, base := opened(t, nil)
	grid := s.Edit.Program().BySlug["producer-grid"].ID
	var who struct{ ID string }
	s.must(201, "POST", "/api/v1/people", map[string]any{"name": "A phone", "role": "operator", "panel": true, "rights": map[string]any{"controllers": []string{grid}, "changes": []string{"dome-switcher:mix/1/program"}}}, &who)
	var pairing struct{ Code, Link string }
	s.must(201, "POST", "/api/v1/people/"+who.ID+"/pairing", nil, &pairing)
	phone := s.look(base, 390, 844)
	do(t, phone, phone.Goto("/panel/producer-grid"), phone.Text("h1", "Pair this panel"), phone.Fill(`[name="digits"]`, "000 000"), phone.Click("button"))
	arrives(t, phone, ".problem")
	do(t, phone, phone.Text(".problem", "This code is not good"))
	if dir := os.Getenv("LOOK"); dir != "" {
		do(t, phone, phone.Shot(dir+"/pair.png"))
	}
	do(t, phone, phone.Fill(`[name="digits"]`, pairing.Code), phone.Click("button"))
	arrives(t, phone, `[data-control="c1"]`)
	do(t, phone, phone.See(`[data-control="d1"] .tile`), phone.Wait(`document.querySelectorAll(".tile.barred").length > 3`), phone.Wait(`!document.querySelector('[data-control="c1"] .barred')`))
	if dir := os.Getenv("LOOK"); dir != "" {
		do(t, phone, phone.Shot(dir+"/phone.png"))
	}
	do(t, phone, phone.Click(`[data-control="c1"]`), phone.See(`[data-control="c1"] .on-air`))
	do(t, phone, phone.Click(barred(t, phone)), phone.Wait(`document.querySelector(".plate").textContent.includes("may not change")`))
	do(t, phone, phone.Goto("/panel/scope-console"), phone.Text("[role=status]", "is not given to you"))
	do(t, phone, phone.Goto("/panel/producer-grid"), phone.See(`[data-control="a1"] .tile`))
	do(t, phone, phone.Down(`[data-control="a1"]`), phone.See(`[data-control="a1"] .on-air`))
	s.must(204, "DELETE", "/api/v1/people/"+who.ID+"/sessions", nil, nil)
	arrives(t, phone, `[name="digits"]`)
	do(t, phone, phone.Text("h1", "This panel's right has ended"))
	if dir := os.Getenv("LOOK"); dir != "" {
		do(t, phone, phone.Shot(dir+"/taken.png"))
	}
}

// barred selects a key that the panel may not use.
func barred(t *testing.T, p *browser.Page) string {
	t.Helper()
	id, err := browser.Eval[string](p, `document.querySelector(".tile.barred").closest("[data-control]").dataset.control`)
	if err != nil {
		t.Fatal(err)
	}
	return `[data-control="` + id + `"]`
}

// arrives waits until a page that is gone to has an element.
func arrives(t *testing.T, p *browser.Page, selector string) {
	t.Helper()
	for late := time.Now().Add(browser.Patience); time.Now().Before(late); time.Sleep(20 * time.Millisecond) {
		if there, err := browser.Eval[bool](p, "document.querySelector(`"+selector+"`)?.getBoundingClientRect().width > 0"); err == nil && there {
			return
		}
	}
	do(t, p, p.See(selector)) // it says what is there instead
}

// TestSynaptorIsReachedOverTLSAndAnnounced with the fingerprint of its authority; its cookies go over TLS alone, and a change that nobody confirms is
// undone.
func TestSynaptorIsReachedOverTLSAndAnnounced(t *testing.T) {
	s, base := opened(t, map[string]any{"tls": "own"})
	if !strings.HasPrefix(base, "https://"+desk) {
		t.Fatalf("it is reached at %s", base)
	}
	phone := s.at(base)
	phone.must(204, "POST", "/api/v1/sign-in", map[string]any{"name": "Tobin", "passphrase": words}, nil)
	phone.must(200, "GET", "/api/v1/show", nil, nil)
	if over := s.at("http://"+strings.TrimPrefix(base, "https://")).call("GET", "/api/v1/show", nil, nil); over != http.StatusBadRequest {
		t.Errorf("over plain HTTP it answers %d", over)
	}
	jar := phone.client.Jar
	if u, err := url.Parse("http" + strings.TrimPrefix(base, "https")); err != nil || len(jar.Cookies(u)) != 0 {
		t.Errorf("over plain HTTP a browser says its session: %v", jar.Cookies(u))
	}
	p := s.look(base, 1280, 800)
	do(t, p, p.Goto("/pair"), p.Text(".fingerprint", ":"), p.Goto("/sign-in"), p.Fill(`[name="name"]`, "Tobin"), p.Fill(`[name="passphrase"]`, words), p.Click("button"))
	arrives(t, p, "#people")
	heard := announce.Look(t.Context(), []string{announce.Service}, []string{"syn-c"})
	if len(heard) != 1 || heard[0].Host != desk {
		t.Errorf("heard are %+v", heard)
	}
	var pend pending
	s.must(200, "PUT", "/api/v1/addresses", map[string]any{"all": false, "addresses": []string{desk}, "names": []string{}, "tls": ""}, &pend)
	plain := s.at("http://" + strings.TrimPrefix(base, "https://"))
	plain.must(401, "GET", "/api/v1/show", nil, nil)
	s.must(204, "DELETE", "/api/v1/addresses/change", nil, nil)
	phone.must(200, "GET", "/api/v1/show", nil, nil)
	if got := s.at(base).call("GET", pend.Pending.Path, nil, nil); got != http.StatusNotFound {
		t.Errorf("undone, it is confirmed: %d", got)
	}
}

// TestABoxIsClaimedWithItsCode: nobody is free there, on loopback neither, until somebody has typed the code; of two at once one is the owner.
func TestABoxIsClaimedWithItsCode(t *testing.T) {
	s := start(t, "0.0.0.0:0")
	_, port, _ := strings.Cut(s.Addr, "]:")
	base := "http://" + desk + ":" + port
	code := s.ClaimCode()
	if len(code) != 8 {
		t.Fatalf("its code is %q", code)
	}
	onKeys := func() string { // what the keys of the bench have been told to show
		text, _ := s.Bench.Keys.View().Values["/text"].(string)
		return text
	}
	s.eventually("the attached keys show it", func() bool { return onKeys() == "Code "+code })
	other := s.at(base)
	for _, one := range []*synaptor{other, s.at("http://127.0.0.1:" + port)} {
		if got := one.call("GET", "/api/v1/show", nil, nil); got != http.StatusUnauthorized {
			t.Errorf("unclaimed, %s answers %d", one.base, got)
		}
	}
	if got := other.call("POST", "/api/v1/claim", map[string]any{"name": "Thief", "passphrase": words, "code": "GUESSED1"}, nil); got != http.StatusForbidden {
		t.Errorf("claimed with a wrong code: %d", got)
	}
	p := s.look(base, 390, 844)
	do(t, p, p.Goto("/rig"), p.Text("h1", "Whose is this Synaptor?"), p.Fill(`[name="code"]`, strings.ToLower(code)), p.Fill(`[name="name"]`, "Tobin"), p.Fill(`[name="passphrase"]`, words))
	if dir := os.Getenv("LOOK"); dir != "" {
		do(t, p, p.Shot(dir+"/claim.png"))
	}
	do(t, p, p.Click("button"))
	arrives(t, p, "#people")
	s.eventually("the attached keys show it no more", func() bool { return !strings.HasPrefix(onKeys(), "Code ") })
	if got := other.call("POST", "/api/v1/claim", map[string]any{"name": "Saskia", "passphrase": words, "code": code}, nil); got != http.StatusConflict {
		t.Errorf("claimed a second time: %d", got)
	}
	// Another name than its own is not answered: a page elsewhere could point one here.
	req, err := http.NewRequest("GET", base+"/sign-in", nil)
	if err != nil {
		t.Fatal(err)
	}
	req.Host = "evil.example"
	resp, err := other.client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	resp.Body.Close()
	if resp.StatusCode != http.StatusForbidden {
		t.Errorf("under another name it answers %d", resp.StatusCode)
	}
	// Who measures from elsewhere says a token.
	if got := other.call("GET", "/metrics", nil, nil); got != http.StatusUnauthorized {
		t.Errorf("metrics answer %d", got)
	}
}

// TestATrustedNetworkPressesWhatItMay without being known, and never edits; the status line says so.
func TestATrustedNetworkPressesWhatItMay(t *testing.T) {
	s, base := opened(t, nil)
	grid := s.Edit.Program().BySlug["producer-grid"].ID
	config := map[string]any{"all": false, "addresses": []string{desk}, "names": []string{}, "tls": "", "trusted": map[string]any{"network": "10.213.8.0/24", "controllers": []string{grid}}}
	phone := s.at(base)
	phone.must(401, "POST", "/api/v1/input/producer-grid/c1/press", nil, nil)
	s.must(200, "PUT", "/api/v1/addresses", config, nil)
	phone.must(202, "POST", "/api/v1/input/producer-grid/c1/press", nil, nil)
	for path, want := range map[string]int{"POST /api/v1/input/scope-console/a1/press": 403, "POST /api/v1/undo": 403, "GET /api/v1/people": 403, "GET /api/v1/show": 200} {
		method, path, _ := strings.Cut(path, " ")
		if got := phone.call(method, path, nil, nil); got != want {
			t.Errorf("%s answers the network %d", path, got)
		}
	}
	p := s.look(base, 1280, 800)
	do(t, p, p.Goto("/patch"), p.Text("[aria-label=Devices]", "Everybody in 10.213.8.0/24 presses Producer grid without being known."))
	delete(config, "trusted")
	s.must(200, "PUT", "/api/v1/addresses", config, nil)
	phone.must(401, "GET", "/api/v1/show", nil, nil)
}
