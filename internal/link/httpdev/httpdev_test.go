package httpdev

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

func target(a net.Addr, spec device.LinkSpec) link.Target {
	return link.Target{Host: "127.0.0.1", Port: a.(*net.TCPAddr).Port, Stale: time.Second, Link: &spec, User: "desk", Password: "eyepiece"}
}

func dial(t *testing.T, to link.Target) (link.Conn, error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	c, err := Requests{}.Dial(ctx, to)
	if err == nil {
		t.Cleanup(func() { _ = c.Close() })
	}
	return c, err
}

// deviceOf is an HTTP device of the tests.
func deviceOf(t *testing.T, routes map[string]http.HandlerFunc) net.Addr {
	t.Helper()
	mux := http.NewServeMux()
	for path, h := range routes {
		mux.HandleFunc(path, h)
	}
	s := httptest.NewServer(mux)
	t.Cleanup(s.Close)
	return s.Listener.Addr()
}

func send(t *testing.T, c link.Conn, command uint64, m device.Message) {
	t.Helper()
	p, err := Requests{}.Encode(m)
	if err == nil {
		err = c.Write(p, command, time.Now().Add(2*time.Second))
	}
	if err != nil {
		t.Fatal(err)
	}
}

func TestWhatADeviceAnswersIsToldInWords(t *testing.T) {
	elsewhere := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		t.Errorf("credentials reached another computer: %s", r.Header.Get("Authorization"))
	}))
	defer elsewhere.Close()
	addr := deviceOf(t, map[string]http.HandlerFunc{
		"/ok":    func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, `{"lamp":{"on":true}}`) },
		"/quiet": func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(204) },
		"/refuse": func(w http.ResponseWriter, _ *http.Request) {
			w.WriteHeader(422)
			fmt.Fprint(w, `{"detail":"no such lamp"}`)
		},
		"/broken":  func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(500); fmt.Fprint(w, "oops") },
		"/endless": func(w http.ResponseWriter, _ *http.Request) { _, _ = io.CopyN(w, endless{}, MaxBody+10) },
		"/away": func(w http.ResponseWriter, r *http.Request) {
			http.Redirect(w, r, "http://localhost:"+port(elsewhere)+"/x", http.StatusFound)
		},
		"/circle": func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/circle", http.StatusFound) },
	})
	c, err := dial(t, target(addr, device.LinkSpec{Login: &device.LoginSpec{Kind: "basic"}}))
	if err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]struct {
		ok   bool
		text string
	}{
		"/ok": {true, `{"lamp":{"on":true}}`}, "/quiet": {true, ""}, "/refuse": {false, "no such lamp (422"}, "/broken": {false, "oops (500"},
		"/endless": {false, "larger than"}, "/away": {false, "another computer"}, "/circle": {false, "in circles"}, "/nothing": {false, "404"},
	} {
		send(t, c, 3, device.Message{Verb: "PUT", Address: path, Body: map[string]any{"on": true}})
		b, err := c.Read()
		if err != nil || len(b.Answers) != 1 || b.Answers[0].Command != 3 || b.Answers[0].OK != want.ok || !strings.Contains(b.Answers[0].Text, want.text) {
			t.Errorf("%s: %+v (%v)", path, b, err)
		}
	}
}

type endless struct{}

func (endless) Read(b []byte) (int, error) { clear(b); return len(b), nil }

func port(s *httptest.Server) string {
	_, p, _ := net.SplitHostPort(s.Listener.Addr().String())
	return p
}

func TestCredentialsAreSentAndARefusalIsSaid(t *testing.T) {
	addr := deviceOf(t, map[string]http.HandlerFunc{"/events": func(w http.ResponseWriter, r *http.Request) {
		user, password, _ := r.BasicAuth()
		if user != "desk" || password != "eyepiece" {
			w.Header().Set("WWW-Authenticate", `Basic realm="Larkfell intercom"`)
			w.WriteHeader(401)
			return
		}
		w.Header().Set("Content-Type", "text/event-stream")
		fmt.Fprint(w, "event: state\ndata: {\"model\":\ndata: \"x\"}\n\n: a comment\nevent: ping\n\ndata: plain words\n\n")
	}})
	to := target(addr, device.LinkSpec{Path: "/events", Login: &device.LoginSpec{Kind: "basic"}})
	c, err := dial(t, to)
	if err != nil {
		t.Fatal(err)
	}
	if b, err := c.Read(); err != nil || b.Messages[0].Address != "state" || b.Messages[0].Body.(map[string]any)["model"] != "x" {
		t.Errorf("an event is %+v (%v)", b, err)
	}
	if b, err := c.Read(); err != nil || b.Messages[0].Address != "message" || b.Messages[0].Body != "plain words" {
		t.Errorf("an event without a name is %+v (%v)", b, err)
	}
	if _, err := c.Read(); !errors.Is(err, io.EOF) {
		t.Errorf("the end of the stream is %v", err)
	}
	for password, want := range map[string]string{"lens": "wrong", "": "none is set"} {
		to.Password = password
		_, err := dial(t, to)
		var auth *link.AuthError
		if !errors.As(err, &auth) || !strings.Contains(auth.Text, want) || auth.Found != "Larkfell intercom" {
			t.Errorf("%q: %v", password, err)
		}
	}
}

func TestSomethingElseAndCertificatesAreRecognised(t *testing.T) {
	addr := deviceOf(t, map[string]http.HandlerFunc{"/events": func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<html>") }})
	if _, err := dial(t, target(addr, device.LinkSpec{Path: "/events"})); !errors.Is(err, link.ErrForeign) {
		t.Errorf("a web page: %v", err)
	}
	secure := httptest.NewUnstartedServer(http.NotFoundHandler())
	secure.Config.ErrorLog = nil
	secure.StartTLS()
	defer secure.Close()
	to := target(secure.Listener.Addr(), device.LinkSpec{Path: "/events"})
	to.Secure = true
	_, err := dial(t, to)
	if s := link.Sentence(err, link.Config{Name: "Talkback", Target: to}); !strings.Contains(s, "certificate of Talkback") {
		t.Errorf("a certificate nobody knows: %s", s)
	}
	to = target(addr, device.LinkSpec{Path: "/events"})
	to.Secure = true
	_, err = dial(t, to)
	if s := link.Sentence(err, link.Config{Name: "Talkback", Target: to}); !strings.Contains(s, "does not speak TLS") {
		t.Errorf("no TLS: %s", s)
	}
}

func TestRequestsKeepTheirOrderAndALateOneDoesNotLeave(t *testing.T) {
	got := make(chan string, 10)
	hold := make(chan bool)
	addr := deviceOf(t, map[string]http.HandlerFunc{"/": func(_ http.ResponseWriter, r *http.Request) {
		got <- r.URL.Path
		if r.URL.Path == "/slow" {
			<-hold
		}
	}})
	c, err := dial(t, target(addr, device.LinkSpec{}))
	if err != nil {
		t.Fatal(err)
	}
	send(t, c, 1, device.Message{Verb: "PUT", Address: "/slow"})
	<-got
	p, _ := Requests{}.Encode(device.Message{Verb: "PUT", Address: "/late"})
	if ok, _ := c.TryWrite(p, 2); ok {
		t.Error("it was handed over while another request was under way")
	}
	if err := c.Write(p, 2, time.Now().Add(20*time.Millisecond)); !errors.Is(err, link.ErrLate) {
		t.Errorf("a late request: %v", err)
	}
	close(hold)
	send(t, c, 3, device.Message{Verb: "PUT", Address: "/next"})
	if next := <-got; next != "/next" {
		t.Errorf("then came %s", next)
	}
}

// FuzzEvents feeds arbitrary streams of events.
func FuzzEvents(f *testing.F) {
	f.Add([]byte("event: change\ndata: {\"a\":1}\n\n"))
	f.Add([]byte(":\n\ndata\n\ndata: x\r\ndata: y\r\n\r\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		err := events(strings.NewReader(string(b)), func(m device.Message) {
			if m.Address == "" {
				t.Error("an event without a name")
			}
		})
		if err == nil {
			t.Error("the end of a stream is no error")
		}
	})
}

func TestAnEventThatNeverEndsIsNamed(t *testing.T) {
	for name, stream := range map[string]io.Reader{
		"one line":   endless{},
		"many lines": io.MultiReader(strings.NewReader(strings.Repeat("data: "+strings.Repeat("x", 1000)+"\n", 1100))),
	} {
		if err := events(stream, func(device.Message) {}); !errors.Is(err, tooLarge) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestAnAddressArrivesAsItWasMeant(t *testing.T) {
	var got []string
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got = append(got, r.URL.Path+" | "+r.URL.RawQuery)
		fmt.Fprint(w, "{}")
	}))
	defer s.Close()
	c, err := dial(t, target(s.Listener.Addr(), device.LinkSpec{}))
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range []struct{ sent, arrives, back string }{
		{"/a%20b%3F%23/on?q=x%26y", "/a b?#/on | q=x%26y", "/a b?#/on"},
		{"/by hand/ü#1?q=a b#2", "/by hand/ü#1 | q=a%20b%232", "/by hand/ü#1"},
		{"/a%2Fb/c", "/a/b/c | ", "/a%2Fb/c"},
		{"/100%25", "/100% | ", "/100%"},
	} {
		send(t, c, 1, device.Message{Verb: "GET", Address: a.sent})
		b, err := c.Read()
		if err != nil || len(b.Messages) != 1 || b.Messages[0].Address != a.back {
			t.Errorf("%s is answered as %+v (%v), want %s", a.sent, b, err, a.back)
			continue
		}
		if last := got[len(got)-1]; last != a.arrives {
			t.Errorf("%s arrives as %s, want %s", a.sent, last, a.arrives)
		}
	}
}
