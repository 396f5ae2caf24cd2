package link_test

import (
	"net"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/osc"
	"synaptor/internal/sheet"
)

// watcher is a Sink that remembers, and can be waited on.
type watcher struct {
	mu      sync.Mutex
	cond    *sync.Cond
	state   link.State
	phases  []link.Phase
	values  map[string]any
	written map[uint64]bool
	dropped map[uint64]string
	refused []string
	answers map[uint64]link.Answer
	events  []device.Event
}

func newWatcher() *watcher {
	w := &watcher{values: map[string]any{}, written: map[uint64]bool{}, dropped: map[uint64]string{}, answers: map[uint64]link.Answer{}}
	w.cond = sync.NewCond(&w.mu)
	return w
}

func (w *watcher) note(f func()) {
	w.mu.Lock()
	f()
	w.mu.Unlock()
	w.cond.Broadcast()
}

func (w *watcher) LinkChanged(s link.State) {
	w.note(func() {
		if len(w.phases) == 0 || w.phases[len(w.phases)-1] != s.Phase {
			w.phases = append(w.phases, s.Phase)
		}
		w.state = s
	})
}

func (w *watcher) Reported(_ string, _ time.Time, reports []device.Report) {
	w.note(func() {
		for _, r := range reports {
			w.values[r.Path] = r.Value
		}
	})
}

func (w *watcher) Listed(string, time.Time, []device.List) {}

func (w *watcher) Asked(string, time.Time) {}

func (w *watcher) Leaving(string, uint64, time.Time) {}

func (w *watcher) Written(_ string, c uint64, _ time.Time) { w.note(func() { w.written[c] = true }) }

func (w *watcher) Dropped(_ string, c uint64, _ time.Time, reason string) {
	w.note(func() { w.dropped[c] = reason })
}

func (w *watcher) Replied(_ string, _ time.Time, r device.Reply) {
	w.note(func() { w.refused = append(w.refused, r.Of+": "+r.Text) })
}

func (w *watcher) Answered(_ string, _ time.Time, a link.Answer) {
	w.note(func() { w.answers[a.Command] = a })
}

func (w *watcher) Raised(_ string, _ time.Time, events []device.Event) {
	w.note(func() { w.events = append(w.events, events...) })
}

// send sends a command and notes when it was written at once.
func (w *watcher) send(t *testing.T, l *link.Link, c link.Command) {
	t.Helper()
	written, err := l.Send(c)
	if err != nil {
		t.Fatal(err)
	}
	if written {
		w.Written("", c.ID, time.Now())
	}
}

// until waits for a condition on what was heard.
func (w *watcher) until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	stop := time.AfterFunc(10*time.Second, func() { w.cond.Broadcast() })
	defer stop.Stop()
	limit := time.Now().Add(10 * time.Second)
	w.mu.Lock()
	defer w.mu.Unlock()
	for !ok() {
		if time.Now().After(limit) {
			t.Fatalf("waited in vain until %s; state %+v", what, w.state)
		}
		w.cond.Wait()
	}
}

func switcherType(t *testing.T) *device.Type {
	t.Helper()
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	return lib.Device("switcher.osc")
}

func open(t *testing.T, addr string, w *watcher) *link.Link {
	t.Helper()
	return openWith(t, addr, w, osc.TCP{})
}

func openWith(t *testing.T, addr string, w *watcher, d link.Driver) *link.Link {
	t.Helper()
	host, port, err := net.SplitHostPort(addr)
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.Atoi(port)
	if err != nil {
		t.Fatal(err)
	}
	l := link.Open(link.Config{Device: "sw", Name: "Dome switcher", Target: link.Target{Host: host, Port: n}, Type: switcherType(t), Driver: d, Sink: w})
	t.Cleanup(l.Close)
	return l
}

func bench(t *testing.T) *switcher.Server {
	t.Helper()
	s, err := switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

func fault(t *testing.T, s *switcher.Server, f faults.Faults) {
	t.Helper()
	if err := s.SetFaults(f); err != nil {
		t.Fatal(err)
	}
}

func payload(t *testing.T, address string, args ...any) []byte {
	t.Helper()
	p, err := osc.TCP{}.Encode(device.Message{Address: address, Args: args})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestALinkConnectsReadsEverythingAndCarriesCommands(t *testing.T) {
	s, w := bench(t), newWatcher()
	l := open(t, s.Addr(), w)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	w.until(t, "the full state is there", func() bool { return w.values["mix/1/program"] == "1" && w.values["input/6/name"] == "Replay" })
	if !strings.Contains(w.state.Found, "switcher") {
		t.Errorf("found %q", w.state.Found)
	}
	w.send(t, l, link.Command{ID: 1, Payload: payload(t, "/mix/1/program", 4), Deadline: time.Now().Add(time.Second)})
	w.until(t, "the switcher has cut", func() bool { return w.written[1] && w.values["mix/1/program"] == "4" })
	w.send(t, l, link.Command{ID: 2, Payload: payload(t, "/mix/1/program", 77), Deadline: time.Now().Add(time.Second)})
	w.until(t, "the switcher has refused", func() bool {
		return len(w.refused) == 1 && strings.HasPrefix(w.refused[0], "/mix/1/program: ") && strings.Contains(w.refused[0], "no input 77")
	})
}

func TestALostLinkComesBackWithTheFullStateFirst(t *testing.T) {
	s, w := bench(t), newWatcher()
	l := open(t, s.Addr(), w)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	fault(t, s, faults.Faults{Cut: true})
	w.until(t, "the loss is noticed", func() bool { return w.state.Phase == link.Down })
	if err := s.Operate(device.Message{Address: "/mix/1/program", Args: []any{5}}); err != nil {
		t.Fatal(err)
	}
	_, _ = l.Send(link.Command{ID: 9, Payload: payload(t, "/mix/1/program", 2), Deadline: time.Now().Add(250 * time.Millisecond)})
	w.until(t, "the command is dropped", func() bool { return w.dropped[9] != "" })
	w.until(t, "the problem is named", func() bool { return strings.Contains(w.state.Problem, "refuses the connection") })
	fault(t, s, faults.Faults{})
	w.until(t, "the link is up again", func() bool { return w.state.Phase == link.Up && w.values["mix/1/program"] == "5" })
	if w.written[9] || s.View().Values["/mix/1/program"] != 5 {
		t.Error("a command of the time without a link was sent after all")
	}
}

func TestASilentDeviceIsNoticedAndHearsNothingLate(t *testing.T) {
	s, w := bench(t), newWatcher()
	l := open(t, s.Addr(), w)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	fault(t, s, faults.Faults{Silent: true})
	l.Probe()
	w.until(t, "the silence is noticed", func() bool { return w.state.Phase == link.Down && strings.Contains(w.state.Problem, "does not answer") })
	fault(t, s, faults.Faults{})
	w.until(t, "the link is up again", func() bool { return w.state.Phase == link.Up })
}

func TestACommandPastItsDeadlineNeverLeaves(t *testing.T) {
	s, w := bench(t), newWatcher()
	l := open(t, s.Addr(), w)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	w.send(t, l, link.Command{ID: 1, Payload: payload(t, "/mix/1/program", 4), Deadline: time.Now().Add(-time.Millisecond)})
	w.until(t, "it is dropped", func() bool { return strings.Contains(w.dropped[1], "in time") })
	w.send(t, l, link.Command{ID: 2, Payload: payload(t, "/mix/1/preview", 4), Deadline: time.Now().Add(time.Second)})
	w.until(t, "the next one arrived", func() bool { return w.values["mix/1/preview"] == "4" })
	if got := s.View().Values["/mix/1/program"]; got != 1 {
		t.Errorf("program is %v", got)
	}
}

// odd is a device that answers as it is told to.
func odd(t *testing.T, answer func(device.Message, func(...device.Message), net.Conn)) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = ln.Close() })
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				frames := osc.NewFrameReader(c)
				for {
					f, err := frames.Next()
					if err != nil {
						return
					}
					msgs, _ := osc.Decode(f)
					for _, m := range msgs {
						answer(m, func(out ...device.Message) {
							for _, o := range out {
								p, _ := osc.Encode(o)
								_, _ = c.Write(osc.AppendFrame(nil, p))
							}
						}, c)
					}
				}
			}()
		}
	}()
	return ln.Addr().String()
}

var model = device.Message{Address: "/model", Args: []any{"odd switcher"}}

func TestNonsenseIsCountedAndNamedAndTheLinkSurvives(t *testing.T) {
	addr := odd(t, func(m device.Message, say func(...device.Message), c net.Conn) {
		if m.Address == "/mix/1/cut" {
			_, _ = c.Write(osc.AppendFrame(nil, []byte("no OSC at all"))) // malformed
			_, _ = c.Write(osc.AppendFrame(nil, make([]byte, osc.MaxPacket+8)))
			say(device.Message{Address: "/mix/1/program", Args: []any{"three"}}, device.Message{Address: "/elsewhere", Args: []any{1}})
			_, _ = c.Write([]byte{0xC0, '/', 'h', 'a', 'l', 'f'}) // half a frame, then a whole one
			say(device.Message{Address: "/mix/1/program", Args: []any{3}})
			return
		}
		say(model)
	})
	w := newWatcher()
	l := open(t, addr, w)
	w.until(t, "the link is up", func() bool { return w.state.Phase == link.Up })
	w.send(t, l, link.Command{ID: 1, Payload: payload(t, "/mix/1/cut"), Deadline: time.Now().Add(time.Second)})
	w.until(t, "what makes sense arrived", func() bool { return w.values["mix/1/program"] == "3" })
	w.until(t, "four were counted", func() bool { return w.state.Bad == 4 })
	if w.state.Phase != link.Up || !strings.Contains(w.state.Problem, "makes no sense") {
		t.Errorf("state %+v", w.state)
	}
}

func TestEveryFailureNamesItsCause(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	closed := ln.Addr().String()
	_ = ln.Close()
	for name, c := range map[string]struct{ addr, want string }{
		"nothing listens": {closed, "refuses the connection"},
		"something else": {odd(t, func(_ device.Message, say func(...device.Message), _ net.Conn) {
			say(device.Message{Address: "/model", Args: []any{"coffee machine"}})
		}), "Something else answers"},
		"another protocol": {odd(t, func(_ device.Message, _ func(...device.Message), c net.Conn) {
			_, _ = c.Write([]byte("HTTP/1.1 400\r\n\xC0"))
		}), "Something else answers"},
		"nobody speaks":       {odd(t, func(device.Message, func(...device.Message), net.Conn) {}), "does not answer"},
		"it hangs up":         {odd(t, func(_ device.Message, _ func(...device.Message), c net.Conn) { _ = c.Close() }), "closed the connection"},
		"no computer of that": {"nowhere.invalid:7431", "no computer with the name"},
	} {
		t.Run(name, func(t *testing.T) {
			w := newWatcher()
			open(t, c.addr, w)
			w.until(t, "the problem is named", func() bool { return w.state.Phase == link.Down && strings.Contains(w.state.Problem, c.want) })
		})
	}
}
