package mixer

import (
	"fmt"
	"math"
	"net"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

func say(address string, args ...any) device.Message {
	return device.Message{Address: address, Args: args}
}

func TestTheDeskDoesWhatADeskDoes(t *testing.T) {
	s := NewMachine()
	for _, c := range []struct {
		do      device.Message
		address string
		want    any
	}{
		{say("/channel/1/mute", 0), "/channel/1/mute", 0},
		{say("/channel/5/level", -12.34), "/channel/5/level", -12.3},
		{say("/channel/5/level", 3), "/channel/5/level", 3.0},
		{say("/main/level", -95.0), "/main/level", math.Inf(-1)},
		{say("/main/level", math.Inf(-1)), "/main/level", math.Inf(-1)},
		{say("/channel/2/name", "Saskia"), "/channel/2/name", "Saskia"},
		{say("/track/1/play", 1), "/track/1/play", 1},
		{say("/track/3/play", 1), "/track/1/play", 0},
	} {
		if _, err := s.Do(c.do, time.Time{}); err != nil {
			t.Errorf("%v: %v", c.do, err)
		}
		if got := value(s, c.address); got != c.want {
			t.Errorf("after %v %s is %v, want %v", c.do, c.address, got, c.want)
		}
	}
	before := fmt.Sprint(s.Values().Shown())
	for _, m := range []device.Message{say("/channel/7/mute", 0), say("/channel/1/mute", 2), say("/channel/1/mute", "open"), say("/channel/1/mute"),
		say("/main/level", 10.5), say("/main/level", math.NaN()), say("/main/level", "loud"), say("/channel/1/name", ""), say("/channel/1/name", strings.Repeat("x", 41)), say("")} {
		if _, err := s.Do(m, time.Time{}); err == nil {
			t.Errorf("%v was carried out", m)
		}
	}
	if fmt.Sprint(s.Values().Shown()) != before {
		t.Error("nonsense changed something")
	}
}

// hand is a client on the stand-in's socket.
type hand struct {
	*testing.T
	net.Conn
}

func connect(t *testing.T, s *Server) hand {
	t.Helper()
	c, err := net.Dial("udp", s.Addr())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Close() })
	if err := c.SetDeadline(time.Now().Add(10 * time.Second)); err != nil {
		t.Fatal(err)
	}
	return hand{t, c}
}

func (h hand) send(m device.Message) {
	h.Helper()
	p, err := osc.Encode(m)
	if err == nil {
		_, err = h.Write(p)
	}
	if err != nil {
		h.Fatal(err)
	}
}

func (h hand) next() device.Message {
	h.Helper()
	buf := make([]byte, osc.MaxPacket)
	n, err := h.Read(buf)
	if err != nil {
		h.Fatal(err)
	}
	msgs, err := osc.Decode(buf[:n])
	if err != nil || len(msgs) != 1 {
		h.Fatalf("%v %v", msgs, err)
	}
	return msgs[0]
}

func start(t *testing.T) *Server {
	t.Helper()
	s, err := Start("127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

func TestASubscriptionEndsUnlessItIsRenewed(t *testing.T) {
	s := start(t)
	h := connect(t, s)
	h.send(say("/follow", 1))
	for h.next().Address != "/model" {
	}
	if err := s.Operate(say("/channel/1/mute", 0)); err != nil {
		t.Fatal(err)
	}
	if m := h.next(); m.Address != "/channel/1/mute" || m.Args[0] != 0 {
		t.Errorf("a follower was told %v", m)
	}
	for limit := time.Now().Add(5 * time.Second); s.View().Clients > 0; time.Sleep(5 * time.Millisecond) {
		if time.Now().After(limit) {
			t.Fatal("the subscription of one second lasts")
		}
	}
	if err := s.Operate(say("/channel/1/mute", 1)); err != nil {
		t.Fatal(err)
	}
	h.send(say("/ask", "/channel/2/name"))
	if m := h.next(); m.Address != "/channel/2/name" {
		t.Errorf("after its end a follower was told %v", m)
	}
}

func TestNonsenseIsAnswered(t *testing.T) {
	s := start(t)
	h := connect(t, s)
	if _, err := h.Write([]byte("no OSC")); err != nil {
		t.Fatal(err)
	}
	if m := h.next(); m.Address != "/error" {
		t.Errorf("answered %v", m)
	}
	h.send(say("/ask", "/nothing"))
	if m := h.next(); m.Address != "/error" {
		t.Errorf("answered %v", m)
	}
	if err := s.SetFaults(faults.Faults{LatencyMs: 30}); err != nil {
		t.Fatal(err)
	}
	asked := time.Now()
	h.send(say("/ask", "/main/level"))
	if m := h.next(); m.Address != "/main/level" || time.Since(asked) < 30*time.Millisecond {
		t.Errorf("answered %v after %v", m, time.Since(asked))
	}
}

func value(m panel.Machine, address string) any {
	v, _ := m.Values().Get(address)
	return v
}
