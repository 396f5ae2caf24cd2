package httpdev

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// slow is a device that answers when a test says so.
type slow struct {
	mu     sync.Mutex
	heard  []string
	news   chan struct{}
	answer chan struct{}
}

func (s *slow) ServeHTTP(_ http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	s.heard = append(s.heard, r.URL.Path)
	s.mu.Unlock()
	s.news <- struct{}{}
	<-s.answer
}

// hears waits until so many requests have arrived, and lists them.
func (s *slow) hears(t *testing.T, n int) string {
	t.Helper()
	for range n {
		select {
		case <-s.news:
		case <-time.After(10 * time.Second):
			t.Fatalf("it has heard %v only", s.heard)
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	return fmt.Sprint(s.heard)
}

func slowDevice(t *testing.T, requests int) (*slow, link.Conn) {
	t.Helper()
	s := &slow{news: make(chan struct{}, 100), answer: make(chan struct{})}
	addr := deviceOf(t, map[string]http.HandlerFunc{"/": s.ServeHTTP})
	t.Cleanup(func() { close(s.answer) })
	c, err := dial(t, target(addr, device.LinkSpec{Requests: requests}))
	if err != nil {
		t.Fatal(err)
	}
	return s, c
}

// try hands over a request if that needs no waiting.
func try(t *testing.T, c link.Conn, command uint64, address string) bool {
	t.Helper()
	p, err := Requests{}.Encode(device.Message{Verb: "PUT", Address: address})
	if err != nil {
		t.Fatal(err)
	}
	ok, err := c.TryWrite(p, command)
	if err != nil {
		t.Fatal(err)
	}
	return ok
}

func TestAQuestionStandsBeforeNoCommand(t *testing.T) {
	s, c := slowDevice(t, 1)
	send(t, c, 0, device.Message{Address: "/status"})
	if got := s.hears(t, 1); got != "[/status]" {
		t.Fatalf("it heard %s", got)
	}
	send(t, c, 1, device.Message{Verb: "PUT", Address: "/talk"})
	if got := s.hears(t, 1); got != "[/status /talk]" {
		t.Errorf("it heard %s", got)
	}
	send2 := make(chan error, 1)
	go func() {
		p, _ := Requests{}.Encode(device.Message{Verb: "PUT", Address: "/other"})
		send2 <- c.Write(p, 2, time.Now().Add(50*time.Millisecond))
	}()
	if err := <-send2; err == nil {
		t.Error("a device that takes one request at a time was sent a second one")
	}
}

func TestADeviceIsSentAsManyRequestsAsItTakes(t *testing.T) {
	s, c := slowDevice(t, 3)
	for i, address := range []string{"/a", "/b", "/c"} {
		send(t, c, uint64(i+1), device.Message{Verb: "PUT", Address: address})
		s.hears(t, 1)
	}
	if try(t, c, 4, "/d") {
		t.Error("it was sent a fourth one")
	}
	s.answer <- struct{}{}
	if b, err := c.Read(); err != nil || len(b.Answers) != 1 {
		t.Fatalf("an answer: %+v, %v", b, err)
	}
	send(t, c, 4, device.Message{Verb: "PUT", Address: "/d"})
	s.hears(t, 1)
}

// crossing is a device at whose address two requests have crossed: it has taken 2, then 1, and 2 is being said once more.
type crossing struct {
	link.Conn
	t    *testing.T
	mu   sync.Mutex
	took []string
	news chan struct{}
	// goOn lets it answer to what is said once more, of which repeated tells.
	repeated, goOn chan struct{}
}

func crossed(t *testing.T) *crossing {
	t.Helper()
	c := &crossing{t: t, news: make(chan struct{}, 10), repeated: make(chan struct{}), goOn: make(chan struct{})}
	first, over := make(chan struct{}), make(chan struct{})
	addr := deviceOf(t, map[string]http.HandlerFunc{"/": func(_ http.ResponseWriter, r *http.Request) {
		raw, _ := io.ReadAll(r.Body)
		body := string(raw)
		switch {
		case body == "1":
			close(first)
			<-over // it comes to this one late
		case body == "2" && strings.Contains(c.taken(), "2"):
			close(c.repeated)
			<-c.goOn
		}
		c.mu.Lock()
		c.took = append(c.took, body)
		c.mu.Unlock()
		c.news <- struct{}{}
	}})
	var err error
	if c.Conn, err = dial(t, target(addr, device.LinkSpec{Requests: 3})); err != nil {
		t.Fatal(err)
	}
	send(t, c, 1, level(1))
	<-first
	send(t, c, 2, level(2))
	<-c.news
	close(over)
	<-c.news
	select {
	case <-c.repeated:
	case <-time.After(10 * time.Second):
		t.Fatalf("it has taken %s, the older one last", c.taken())
	}
	return c
}

func (c *crossing) taken() string {
	c.mu.Lock()
	defer c.mu.Unlock()
	return fmt.Sprint(c.took)
}

// takes holds what it has taken once the next has come.
func (c *crossing) takes(want string) {
	c.t.Helper()
	<-c.news
	if got := c.taken(); got != want {
		c.t.Errorf("it has taken %s, want %s", got, want)
	}
}

func level(v float64) device.Message { return device.Message{Verb: "PUT", Address: "/level", Body: v} }

// TestWhatHasCrossedIsSaidOnceMore: a device may take the older of two requests last, when the newer did not wait for its
// answer any longer. A request that is newer still waits for the answer to what is said once more.
func TestWhatHasCrossedIsSaidOnceMore(t *testing.T) {
	c := crossed(t)
	p, err := Requests{}.Encode(level(3))
	if err != nil {
		t.Fatal(err)
	}
	if ok, err := c.TryWrite(p, 3); ok || err != nil {
		t.Errorf("a newer request leaves while the repeated one has no answer (%v)", err)
	}
	close(c.goOn)
	c.takes("[2 1 2]")
	send(t, c, 3, level(3)) // and all is as before
	c.takes("[2 1 2 3]")
}

func TestTwoRequestsToOneAddressKeepTheirOrder(t *testing.T) {
	s, c := slowDevice(t, 3)
	began := time.Now()
	send(t, c, 1, device.Message{Verb: "PUT", Address: "/talk"})
	s.hears(t, 1)
	if try(t, c, 2, "/talk") && time.Since(began) < apart {
		t.Error("the second left while the first had no answer")
	}
	p, _ := Requests{}.Encode(device.Message{Verb: "PUT", Address: "/talk"})
	ctx, cancel := context.WithCancel(context.Background())
	go func() {
		defer cancel()
		_ = c.Write(p, 3, time.Now().Add(5*time.Second))
	}()
	<-ctx.Done()
	if waited := time.Since(began); waited < apart {
		t.Errorf("it left after %v, without an answer to the first", waited)
	}
	s.hears(t, 1)
	s.answer <- struct{}{}
	s.answer <- struct{}{}
	send(t, c, 4, device.Message{Verb: "PUT", Address: "/talk"})
	s.hears(t, 1)
}
