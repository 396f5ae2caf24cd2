package doors

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"synaptor/internal/certs"
)

// The addresses that are opened in these tests are loopback's others: 127.0.0.2 stands for an address of a network.
const far = "127.0.0.2"

func handler() *http.Server {
	return &http.Server{ReadHeaderTimeout: time.Second, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/stay" {
			<-r.Context().Done()
			return
		}
		_, _ = io.WriteString(w, "here")
	})}
}

type kept struct {
	last Config
	err  error
}

func opened(t *testing.T, o Options) (*Service, *kept) {
	t.Helper()
	k := &kept{}
	o.Listen, o.Certs = []string{"127.0.0.1:0"}, certs.Open(t.TempDir())
	o.Keep = func(c Config) error {
		if k.err == nil {
			k.last = c
		}
		return k.err
	}
	s, err := New(o)
	if err == nil {
		err = s.Open(handler)
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s, k
}

func answers(url string, c *tls.Config) bool {
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: c, DisableKeepAlives: true}, Timeout: 5 * time.Second}
	r, err := client.Get(url)
	if err != nil {
		return false
	}
	defer r.Body.Close()
	b, _ := io.ReadAll(r.Body)
	return string(b) == "here"
}

var here = &net.TCPAddr{IP: net.IPv4(127, 0, 0, 1), Port: 1}

// reachable lets a test treat a loopback address as one of a network.
func reachable(t *testing.T) {
	t.Helper()
	was := isLoopback
	isLoopback = func(host string) bool { return host != far && was(host) }
	t.Cleanup(func() { isLoopback = was })
}

func TestWhatIsOpenedIsClosedAgainUnlessItIsConfirmedFromThere(t *testing.T) {
	reachable(t)
	s, k := opened(t, Options{})
	url := "http://" + net.JoinHostPort(far, s.port)
	p, err := s.Change(Config{Addresses: []string{far}}, here)
	if err != nil || p == nil || len(p.Addresses) != 1 || p.Addresses[0] != url || !answers(url, nil) {
		t.Fatalf("opened: %+v, %v", p, err)
	}
	if len(k.last.Addresses) > 0 {
		t.Error("it is kept before it is confirmed")
	}
	if _, err := s.Change(Config{}, here); !errors.Is(err, ErrBusy) {
		t.Errorf("another change meanwhile: %v", err)
	}
	token := strings.TrimPrefix(p.Path, "/here/")
	for _, c := range [][2]string{{"guessed", url}, {token, "http://127.0.0.1:" + s.port}} {
		if err := s.Confirm(c[0], c[1]); !errors.Is(err, ErrNotPending) {
			t.Errorf("confirmed by %s from %s: %v", c[0], c[1], err)
		}
	}
	s.Back("") // as the time does
	if answers(url, nil) || s.Opened() || s.Pending() != nil {
		t.Error("unconfirmed, it stays open")
	}
	p, err = s.Change(Config{Addresses: []string{far}}, here)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Confirm(strings.TrimPrefix(p.Path, "/here/"), url); err != nil || len(k.last.Addresses) != 1 {
		t.Errorf("confirmed: %v, kept %+v", err, k.last)
	}
	s.Back("")
	if !answers(url, nil) || !s.Opened() {
		t.Error("confirmed, it is closed")
	}
	host, port, _ := net.SplitHostPort(strings.TrimPrefix(url, "http://"))
	var refused *Refused
	if _, err := s.Change(Config{}, &net.TCPAddr{IP: net.ParseIP(host), Port: atoi(t, port)}); !errors.As(err, &refused) || !answers(url, nil) {
		t.Errorf("closed by who is there: %v", err)
	}
	stay := make(chan error, 1)
	go func() {
		r, err := http.Get(url + "/stay")
		if err == nil {
			_, err = io.ReadAll(r.Body)
			r.Body.Close()
		}
		stay <- err
	}()
	if p, err := s.Change(Config{}, here); err != nil || p != nil || answers(url, nil) {
		t.Errorf("closed: %+v, %v", p, err)
	}
	<-stay // who is there is let go
}

func atoi(t *testing.T, s string) (n int) {
	t.Helper()
	n, err := net.DefaultResolver.LookupPort(context.Background(), "tcp", s)
	if err != nil {
		t.Fatal(err)
	}
	return n
}

func TestADoorIsServedOverTLSAndLoopbackIsNot(t *testing.T) {
	reachable(t)
	s, _ := opened(t, Options{Kept: Config{Addresses: []string{far}, TLS: certs.Own}})
	der, err := s.o.Certs.Authority()
	if err != nil {
		t.Fatal(err)
	}
	ca, err := x509.ParseCertificate(der)
	if err != nil {
		t.Fatal(err)
	}
	roots := x509.NewCertPool()
	roots.AddCert(ca)
	at := net.JoinHostPort(far, s.port)
	if !answers("https://"+at, &tls.Config{RootCAs: roots}) || answers("http://"+at, nil) || answers("https://"+at, nil) {
		t.Error("it is not served over TLS, to those who know the authority alone")
	}
	if !answers("http://127.0.0.1:"+s.port, nil) {
		t.Error("loopback is served over TLS")
	}
	p, err := s.Change(Config{Addresses: []string{far}}, here)
	if err != nil || p == nil || !answers("http://"+at, nil) {
		t.Errorf("without TLS: %+v, %v", p, err)
	}
	s.Back("")
	if !answers("https://"+at, &tls.Config{RootCAs: roots}) {
		t.Error("put back, it is served over TLS no more")
	}
	var refused *Refused
	if _, err := s.Change(Config{TLS: certs.File}, here); !errors.As(err, &refused) || refused.Field != "tls" {
		t.Errorf("with a certificate that nobody has given: %v", err)
	}
}

func TestWhatCannotBeOpenedIsSaidAndNothingIsChanged(t *testing.T) {
	reachable(t)
	taken, err := net.Listen("tcp", far+":0")
	if err != nil {
		t.Fatal(err)
	}
	defer taken.Close()
	s, k := opened(t, Options{})
	s.port = port(taken)
	var refused *Refused
	for address, want := range map[string]string{far: "another program uses its port", "203.0.113.9": "does not have it now"} {
		if _, err := s.Change(Config{Addresses: []string{address}}, here); !errors.As(err, &refused) || !strings.Contains(refused.Text, want) || s.Opened() {
			t.Errorf("%s: %v", address, err)
		}
	}
	k.err = errors.New("the disk is full")
	if _, err := s.Change(Config{Names: []string{"desk.example"}}, here); err == nil || s.Knows("desk.example", here) {
		t.Errorf("what cannot be kept is in force: %v", err)
	}
	// What was opened before and is not there now is said, and does not keep Synaptor from starting.
	s2, _ := opened(t, Options{Kept: Config{Addresses: []string{"203.0.113.9"}}})
	if v := s2.View(func(string) string { return "" }); len(v.Rows) < 2 || !strings.Contains(v.Rows[len(v.Rows)-2].Problem+v.Rows[len(v.Rows)-1].Problem+v.Rows[0].Problem, "does not have it") {
		t.Errorf("it is shown as %+v", v.Rows)
	}
}

func port(l net.Listener) string {
	_, p, _ := net.SplitHostPort(l.Addr().String())
	return p
}

func TestAllAddressesAreThoseThatComeToo(t *testing.T) {
	reachable(t)
	var now []Interface
	s, _ := opened(t, Options{Interfaces: func() []Interface { return now }, Kept: Config{All: true}})
	url := "http://" + net.JoinHostPort(far, s.port)
	settle := func() {
		s.turn.Lock()
		defer s.turn.Unlock()
		s.mu.Lock()
		defer s.mu.Unlock()
		s.settle()
	}
	if answers(url, nil) {
		t.Fatal("it is there already")
	}
	now = []Interface{{far, "wlan0", "wireless"}}
	settle()
	if !answers(url, nil) {
		t.Error("an address that comes is not opened")
	}
	now = nil
	settle()
	if answers(url, nil) {
		t.Error("one that has gone is served")
	}
}

func TestConfigurationsAreJudged(t *testing.T) {
	for field, c := range map[string]Config{
		"addresses":   {Addresses: []string{"127.0.0.1"}},
		"names":       {Names: []string{"-no-"}},
		"tls":         {TLS: "perhaps"},
		"network":     {Trusted: &Trusted{Network: "8.8.8.0/24", Controllers: []string{"a"}}},
		"controllers": {Trusted: &Trusted{Network: "10.1.0.0/16"}},
	} {
		var refused *Refused
		if err := c.Check(); !errors.As(err, &refused) || refused.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	for _, network := range []string{"192.168.1.7/24", "nonsense", "0.0.0.0/0", "10.0.0.0/4"} {
		if (Config{Trusted: &Trusted{Network: network, Controllers: []string{"a"}}}).Check() == nil {
			t.Errorf("%s is trusted", network)
		}
	}
	trusted := &Trusted{Network: "192.168.1.0/24", Controllers: []string{"a"}}
	for address, want := range map[string]bool{"192.168.1.7": true, "::ffff:192.168.1.7": true, "192.168.2.7": false, "": false, "nonsense": false} {
		if trusted.Covers(address) != want {
			t.Errorf("that %q is in the network is %v", address, !want)
		}
	}
	for list, ok := range map[string]bool{"127.0.0.1:7420": true, "127.0.0.1:7420, 10.0.0.1:7420": true, "0.0.0.0:7420": true, "7420": false, ":7420": false, "127.0.0.1:1,127.0.0.1:1": false, "": false} {
		if _, err := Split(list); (err == nil) != ok {
			t.Errorf("%q: %v", list, err)
		}
	}
}

// TestOnlyKnownNamesAreAnswered: a page elsewhere cannot point its own name here.
func TestOnlyKnownNamesAreAnswered(t *testing.T) {
	s, _ := opened(t, Options{Kept: Config{Names: []string{"desk.example"}}})
	to := &net.TCPAddr{IP: net.IPv4(10, 0, 0, 1), Port: 7420}
	for host, want := range map[string]bool{"localhost": true, "127.0.0.1": true, "::1": true, "10.0.0.1": true, "desk.example": true, "DESK.example": true, LocalName(): true, "10.0.0.2": false, "evil.example": false, "": false, "10.0.0.1.evil.example": false} {
		if s.Knows(host, to) != want {
			t.Errorf("that %q is known is %v", host, !want)
		}
	}
}
