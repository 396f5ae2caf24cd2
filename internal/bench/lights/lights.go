// Package lights is the bench's lights: a broker for MQTT 3.1.1 and the lamps
// behind it. Each lamp has its topics, retained; a topic with /set behind it
// changes one, over a time where the payload says so.
package lights

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"math"
	"strings"
	"sync"
	"time"

	mochi "github.com/mochi-mqtt/server/v2"
	"github.com/mochi-mqtt/server/v2/listeners"
	"github.com/mochi-mqtt/server/v2/packets"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// User and Password let a client in.
const (
	User     = "larkfell"
	Password = "red-light-only"
)

const model = "Larkfell bench lights, version 1.0"

// root is what every topic begins with.
const root = "dome"

var lamps = []string{"Red walkway", "Desk lamps", "Presenter key left", "Presenter key right"}

// fade is a brightness or a colour on its way.
type fade struct {
	from, to float64
	start    time.Time
	over     time.Duration
}

type machine struct {
	v     *panel.Values
	fades map[string]fade
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), fades: map[string]fade{}}
	for i, name := range lamps {
		at := fmt.Sprintf("/lamp/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/on", i < 2)
		m.v.Add(at+"/brightness", 60)
		m.v.Add(at+"/temperature", 3200)
	}
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine. A second argument is how long a change takes, in
// milliseconds.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	old, known := m.v.Get(msg.Address)
	limits := panel.Limits{}
	switch {
	case !known || msg.Address == "/model":
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	case strings.HasSuffix(msg.Address, "/brightness"):
		limits = panel.Limits{Min: 0, Max: 100}
	case strings.HasSuffix(msg.Address, "/temperature"):
		limits = panel.Limits{Min: 2700, Max: 6500}
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), limits)
	if err != nil {
		return nil, err
	}
	delete(m.fades, msg.Address)
	to, isNumber := v.(int)
	over, _ := panel.Arg(msg, 1).(float64)
	if isNumber && over > 0 && over <= 60_000 {
		m.fades[msg.Address] = fade{float64(old.(int)), float64(to), now, time.Duration(over) * time.Millisecond}
		return nil, nil
	}
	return []device.Message{m.v.Put(msg.Address, v)}, nil
}

// Tick implements panel.Machine: fades move.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	for at, f := range m.fades {
		share := min(1, now.Sub(f.start).Seconds()/f.over.Seconds())
		n := int(math.Round(f.from + (f.to-f.from)*share))
		if n != m.v.Int(at) || share == 1 {
			changed = append(changed, m.v.Put(at, n))
		}
		if share == 1 {
			delete(m.fades, at)
		}
	}
	return changed, len(m.fades) > 0
}

// Server is the stand-in: the broker and the lamps.
type Server struct {
	*panel.Core

	mu       sync.Mutex
	addr     string
	broker   *mochi.Server
	follower *panel.Follower
	out      *panel.Queue // to the broker
}

// Start listens on a TCP address, such as 127.0.0.1:7434. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{addr: addr}
	s.Core = panel.NewCore("lights", "Lights", 50*time.Millisecond, newMachine, changed)
	if err := s.Core.Start(s); err != nil {
		return nil, fmt.Errorf("start the bench's lights: %w", err)
	}
	return s, nil
}

// Addr implements panel.StandIn.
func (s *Server) Addr() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.addr
}

// Open implements panel.Socket: it starts the broker and tells it everything,
// retained.
func (s *Server) Open() error {
	b := mochi.New(&mochi.Options{InlineClient: true, Logger: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err := b.AddHook(&gate{server: s}, nil); err != nil {
		return err
	}
	l := listeners.NewTCP(listeners.Config{ID: "tcp", Address: s.Addr()})
	if err := b.AddListener(l); err != nil {
		return err
	}
	if err := b.Serve(); err != nil {
		return err
	}
	s.mu.Lock()
	s.addr, s.broker = l.Address(), b
	s.mu.Unlock()
	out := panel.NewQueue(func(msgs []device.Message) { publish(b, msgs) })
	follower := s.FollowAll(out.Put)
	s.mu.Lock()
	s.out, s.follower = out, follower
	s.mu.Unlock()
	return nil
}

func publish(b *mochi.Server, msgs []device.Message) {
	for _, m := range msgs {
		payload, err := json.Marshal(m.Args[0])
		if text, ok := m.Args[0].(string); ok {
			payload = []byte(text)
		}
		if err == nil {
			_ = b.Publish(root+m.Address, payload, true, 0) // a broker that is closing takes nothing
		}
	}
}

// Cut implements panel.Socket.
func (s *Server) Cut() {
	s.mu.Lock()
	b, out, follower := s.broker, s.out, s.follower
	s.broker = nil
	s.mu.Unlock()
	if b == nil {
		return
	}
	s.Leave(follower)
	out.Close()
	// The broker can lock itself up while it closes and a client leaves at the same moment:
	// it is not waited for longer than it usually takes.
	closed := make(chan struct{})
	go func() {
		defer close(closed)
		_ = b.Close()
	}()
	select {
	case <-closed:
	case <-time.After(closeLimit):
	}
}

// closeLimit is how long the broker may take to close.
const closeLimit = 5 * time.Second

// SetFaults implements panel.StandIn. Lamps that were silent tell everything
// again: the broker has kept what was true before.
func (s *Server) SetFaults(f faults.Faults) error {
	was := s.Faults()
	err := s.Core.SetFaults(f)
	if was.Silent && !f.Silent && !was.Cut && !f.Cut {
		_, all := s.Asked("")
		due := s.Due()
		s.mu.Lock()
		defer s.mu.Unlock()
		if s.broker != nil {
			s.out.Put(due, all)
		}
	}
	return err
}

// gate lets clients in and carries out what they publish.
type gate struct {
	mochi.HookBase
	server *Server
}

// ID implements mochi.Hook.
func (g *gate) ID() string { return "gate" }

// Provides implements mochi.Hook.
func (g *gate) Provides(b byte) bool {
	return b == mochi.OnConnectAuthenticate || b == mochi.OnACLCheck || b == mochi.OnPublish
}

// OnConnectAuthenticate implements mochi.Hook.
func (g *gate) OnConnectAuthenticate(_ *mochi.Client, pk packets.Packet) bool {
	return !g.server.Faults().RefuseLogin && string(pk.Connect.Username) == User && string(pk.Connect.Password) == Password
}

// OnACLCheck implements mochi.Hook.
func (g *gate) OnACLCheck(*mochi.Client, string, bool) bool { return true }

// OnPublish implements mochi.Hook: clients set lamps and ask for values; what
// they publish elsewhere goes nowhere.
func (g *gate) OnPublish(cl *mochi.Client, pk packets.Packet) (packets.Packet, error) {
	if cl.Net.Inline {
		return pk, nil
	}
	topic, _ := strings.CutPrefix(pk.TopicName, root)
	if topic == "/ask" {
		g.server.tellAgain(string(pk.Payload))
		return pk, packets.ErrRejectPacket
	}
	if address, ok := strings.CutSuffix(topic, "/set"); ok {
		m := device.Message{Address: address}
		switch body := link.Body(pk.Payload).(type) {
		case map[string]any:
			m.Args = []any{body["value"], body["over"]}
		case nil:
		default:
			m.Args = []any{body}
		}
		if heard, err := g.server.Handle(m); heard && err != nil {
			g.server.refuse(pk.TopicName, err)
		}
	}
	return pk, packets.ErrRejectPacket
}

// tellAgain reports a value that somebody asks for.
func (s *Server) tellAgain(path string) {
	heard, msgs := s.Asked("/" + strings.TrimPrefix(path, "/"))
	if !heard || len(msgs) != 1 {
		return
	}
	due := s.Due()
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.broker != nil {
		s.out.Put(due, msgs)
	}
}

// refuse says what is refused, and why; it is not kept.
func (s *Server) refuse(topic string, why error) {
	s.mu.Lock()
	b := s.broker
	s.mu.Unlock()
	if b == nil {
		return
	}
	body, _ := json.Marshal(map[string]string{"topic": topic, "why": why.Error()}) // two texts cannot fail
	go func() { _ = b.Publish(root+"/error", body, false, 0) }()
}
