package switcher

import (
	"fmt"
	"net"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

func say(address string, args ...any) device.Message {
	return device.Message{Address: address, Args: args}
}

func TestTheSwitcherDoesWhatASwitcherDoes(t *testing.T) {
	now := time.Unix(0, 0)
	for name, c := range map[string]struct {
		do   []device.Message
		want map[string]any
	}{
		"a cut swaps program and preview": {[]device.Message{say("/mix/1/cut")}, map[string]any{"/mix/1/program": 2, "/mix/1/preview": 1}},
		"program is set at once":          {[]device.Message{say("/mix/2/program", 90)}, map[string]any{"/mix/2/program": 90, "/mix/1/program": 1}},
		"the lever at its end swaps":      {[]device.Message{say("/mix/1/transition/position", 1.0)}, map[string]any{"/mix/1/program": 2, "/mix/1/transition/position": 0.0}},
		"an output is routed":             {[]device.Message{say("/out/2/source", 5)}, map[string]any{"/out/2/source": 5}},
		"a keyer is switched":             {[]device.Message{say("/keyer/2/on", 1)}, map[string]any{"/keyer/2/on": 1, "/keyer/1/on": 0}},
		"a memory sets several things":    {[]device.Message{say("/memory/2/run")}, map[string]any{"/mix/1/program": 3, "/mix/1/preview": 2, "/keyer/1/on": 1}},
		"an input is renamed":             {[]device.Message{say("/input/4/name", "Door cam")}, map[string]any{"/input/4/name": "Door cam"}},
	} {
		s := NewMachine()
		for _, m := range c.do {
			if _, err := s.Do(m, now); err != nil {
				t.Errorf("%s: %v", name, err)
			}
		}
		for address, want := range c.want {
			if got := value(s, address); got != want {
				t.Errorf("%s: %s is %v, want %v", name, address, got, want)
			}
		}
	}
}

func TestAnAutoTakesItsFrames(t *testing.T) {
	s, now := NewMachine(), time.Unix(0, 0)
	if _, err := s.Do(say("/mix/1/transition/frames", 10), now); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(say("/mix/1/auto"), now); err != nil {
		t.Fatal(err)
	}
	if _, running := s.Tick(now.Add(200 * time.Millisecond)); !running || value(s, "/mix/1/transition/position") != 0.5 || value(s, "/mix/1/program") != 1 {
		t.Errorf("half way: %v", value(s, "/mix/1/transition/position"))
	}
	if _, err := s.Do(say("/mix/1/cut"), now); err == nil {
		t.Error("a cut during a transition was carried out")
	}
	if _, running := s.Tick(now.Add(400 * time.Millisecond)); running || value(s, "/mix/1/program") != 2 || value(s, "/mix/1/transition/position") != 0.0 {
		t.Errorf("at its end program is %v", value(s, "/mix/1/program"))
	}
}

func TestNonsenseGetsAnHonestAnswer(t *testing.T) {
	s := NewMachine()
	before := fmt.Sprint(s.Values().Shown())
	for _, m := range []device.Message{
		say("/mix/1/program", 7), say("/mix/1/program"), say("/mix/1/program", "one"), say("/mix/1/program", 1, 2), say("/mix/3/cut"), say("/mix/x/auto"),
		say("/nothing", 1), say("/model", "mine"), say("/keyer/1/on", 2), say("/keyer/1/name", "x"), say("/mix/1/transition/frames", 0),
		say("/mix/1/transition/kind", "explode"), say("/mix/1/transition/position", 1.5), say("/memory/9/run"), say("/input/1/name", ""),
		say("/input/1/name", strings.Repeat("x", 81)), say("/mix/1/keyer/1/corner", "middle"), say("/mix/1/program", 1.5), say(""), say("/"), say("/mix"),
		say("/keyer"), say("/memory"),
	} {
		if changed, err := s.Do(m, time.Unix(0, 0)); err == nil {
			t.Errorf("%v was carried out and changed %v", m, changed)
		}
	}
	if after := fmt.Sprint(s.Values().Shown()); after != before {
		t.Error("nonsense changed something")
	}
}

func TestAGoneInputCannotBeChosen(t *testing.T) {
	s := NewMachine()
	if _, err := s.Do(say("/input/4/gone", 1), time.Unix(0, 0)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Do(say("/mix/1/program", 4), time.Unix(0, 0)); err == nil {
		t.Error("an input that is gone went on program")
	}
}

// hand is a client on the stand-in's socket.
type hand struct {
	*testing.T
	net.Conn
	frames *osc.FrameReader
}

func connect(t *testing.T, s *Server) hand {
	t.Helper()
	c, err := net.Dial("tcp", s.Addr())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Close() })
	if err := c.SetDeadline(time.Now().Add(10 * time.Second)); err != nil {
		t.Fatal(err)
	}
	return hand{t, c, osc.NewFrameReader(c)}
}

func (h hand) raw(b []byte) {
	h.Helper()
	if _, err := h.Write(b); err != nil {
		h.Fatal(err)
	}
}

func (h hand) send(m device.Message) {
	h.Helper()
	p, err := osc.Encode(m)
	if err != nil {
		h.Fatal(err)
	}
	h.raw(osc.AppendFrame(nil, p))
}

// until reads messages until one has the address.
func (h hand) until(address string) device.Message {
	h.Helper()
	for {
		f, err := h.frames.Next()
		if err != nil {
			h.Fatalf("waiting for %s: %v", address, err)
		}
		msgs, err := osc.Decode(f)
		if err != nil {
			h.Fatal(err)
		}
		for _, m := range msgs {
			if m.Address == address {
				return m
			}
		}
	}
}

func TestNonsenseOnTheSocketIsAnsweredAndTheConnectionStays(t *testing.T) {
	s, err := Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	h := connect(t, s)
	h.raw(osc.AppendFrame(nil, []byte("nonsense")))
	h.until("/error")
	h.raw(osc.AppendFrame(nil, make([]byte, osc.MaxPacket+4)))
	h.until("/error")
	h.raw([]byte{0xC0, 'x', 0xDB, 'y', 0xC0}) // an escape that means nothing
	h.until("/error")
	h.send(say("/mix/1/program", 77))
	if m := h.until("/error"); !strings.Contains(fmt.Sprint(m.Args), "no input 77") {
		t.Errorf("the answer is %v", m)
	}
	h.send(say("/ask", "/mix/1/program"))
	if m := h.until("/mix/1/program"); m.Args[0] != 1 {
		t.Errorf("program is %v", m)
	}
	half := connect(t, s)
	half.raw([]byte{0xC0, '/', 'm'})
	_ = half.Close()
	h.send(say("/ask", "/model"))
	h.until("/model")
}

func TestEveryFollowerIsToldAndOthersAreNot(t *testing.T) {
	s, err := Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	var followers []hand
	for range 5 {
		h := connect(t, s)
		h.send(say("/follow"))
		h.until("/model") // the end of the full state
		followers = append(followers, h)
	}
	quiet := connect(t, s)
	quiet.send(say("/mix/1/cut"))
	for _, h := range followers {
		if m := h.until("/mix/1/program"); m.Args[0] != 2 {
			t.Errorf("a follower was told %v", m)
		}
	}
	quiet.send(say("/ask", "/mix/1/preview"))
	f, err := quiet.frames.Next()
	if err != nil {
		t.Fatal(err)
	}
	if msgs, _ := osc.Decode(f); len(msgs) != 1 || msgs[0].Address != "/mix/1/preview" {
		t.Errorf("somebody who does not follow was told %v", msgs)
	}
}

func value(m panel.Machine, address string) any {
	v, _ := m.Values().Get(address)
	return v
}
