// Package broker is a broker for MQTT 3.1.1 with a simulated device behind it. Each value has its topic, retained; a topic with /set behind it changes
// one, and may say over what time; /ask has one told again, and /error tells what is refused.
package broker

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
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

// Gate is what lets a client in, and what every topic begins with.
type Gate struct{ Root, User, Password string }

// Server is a stand-in behind a broker of its own.
type Server struct {
	*panel.Core
	gate Gate

	mu       sync.Mutex
	addr     string
	broker   *mochi.Server
	follower *panel.Follower
	out      *panel.Queue // to the broker
}

// Start has a core listen on a TCP address, such as 127.0.0.1:7434.
func Start(addr string, g Gate, c *panel.Core) (*Server, error) {
	s := &Server{Core: c, gate: g, addr: addr}
	if err := c.Start(s); err != nil {
		return nil, fmt.Errorf("start the bench's %s: %w", c.ID(), err)
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
	if err := b.AddHook(&door{server: s}, nil); err != nil {
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
	out := panel.NewQueue(func(msgs []device.Message) { s.publish(b, msgs) })
	follower := s.FollowAll(out.Put)
	s.mu.Lock()
	s.out, s.follower = out, follower
	s.mu.Unlock()
	return nil
}

func (s *Server) publish(b *mochi.Server, msgs []device.Message) {
	for _, m := range msgs {
		payload, err := json.Marshal(m.Args[0])
		if text, ok := m.Args[0].(string); ok {
			payload = []byte(text)
		}
		if err == nil {
			_ = b.Publish(s.gate.Root+m.Address, payload, true, 0) // a broker that is closing takes nothing
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

// SetFaults implements panel.StandIn. A device that was silent tells everything
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

// door lets clients in and carries out what they publish.
type door struct {
	mochi.HookBase
	server *Server
}

// ID implements mochi.Hook.
func (d *door) ID() string { return "door" }

// Provides implements mochi.Hook.
func (d *door) Provides(b byte) bool {
	return b == mochi.OnConnectAuthenticate || b == mochi.OnACLCheck || b == mochi.OnPublish
}

// OnConnectAuthenticate implements mochi.Hook.
func (d *door) OnConnectAuthenticate(_ *mochi.Client, pk packets.Packet) bool {
	return !d.server.Faults().RefuseLogin && string(pk.Connect.Username) == d.server.gate.User && string(pk.Connect.Password) == d.server.gate.Password
}

// OnACLCheck implements mochi.Hook.
func (d *door) OnACLCheck(*mochi.Client, string, bool) bool { return true }

// OnPublish implements mochi.Hook: clients set values and ask for them; what
// they publish elsewhere goes nowhere.
func (d *door) OnPublish(cl *mochi.Client, pk packets.Packet) (packets.Packet, error) {
	if cl.Net.Inline {
		return pk, nil
	}
	topic, _ := strings.CutPrefix(pk.TopicName, d.server.gate.Root)
	if topic == "/ask" {
		d.server.tellAgain(string(pk.Payload))
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
		if heard, err := d.server.Handle(m); heard && err != nil {
			d.server.refuse(pk.TopicName, err)
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
	go func() { _ = b.Publish(s.gate.Root+"/error", body, false, 0) }()
}
