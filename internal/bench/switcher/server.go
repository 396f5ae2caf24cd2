package switcher

import (
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"sync"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link/osc"
)

// Server is the stand-in on its socket.
type Server struct {
	addr    string
	changed func() // called after every change, without locks held

	mu       sync.Mutex
	state    *state
	listener net.Listener
	clients  map[*client]bool
	faults   faults.Faults
	ticking  bool
	stopped  bool
	recent   panel.Recent
	wg       sync.WaitGroup
}

// Start listens on a TCP address, such as 127.0.0.1:7431. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	if changed == nil {
		changed = func() {}
	}
	s := &Server{addr: addr, changed: changed, state: newState(), clients: map[*client]bool{}}
	if err := s.listen(); err != nil {
		return nil, fmt.Errorf("start the bench's video switcher: %w", err)
	}
	return s, nil
}

func (s *Server) listen() error {
	l, err := net.Listen("tcp", s.addr)
	if err != nil {
		return err
	}
	s.mu.Lock()
	s.addr = l.Addr().String() // a port 0 is chosen once and kept
	s.listener = l
	s.mu.Unlock()
	s.wg.Add(1)
	go func() {
		defer s.wg.Done()
		s.accept(l)
	}()
	return nil
}

// Addr is the address it listens on.
func (s *Server) Addr() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.addr
}

// Close ends the stand-in and waits for its goroutines.
func (s *Server) Close() {
	s.mu.Lock()
	s.stopped = true
	s.mu.Unlock()
	s.cut()
	s.wg.Wait()
}

// cut closes the socket and every connection.
func (s *Server) cut() {
	s.mu.Lock()
	l := s.listener
	s.listener = nil
	clients := make([]*client, 0, len(s.clients))
	for c := range s.clients {
		clients = append(clients, c)
	}
	s.mu.Unlock()
	if l != nil {
		_ = l.Close()
	}
	for _, c := range clients {
		_ = c.conn.Close()
	}
}

func (s *Server) accept(l net.Listener) {
	for {
		conn, err := l.Accept()
		if err != nil {
			return
		}
		c := &client{conn: conn, out: make(chan outgoing, 4096), gone: make(chan struct{})}
		s.mu.Lock()
		if s.listener != l {
			s.mu.Unlock()
			_ = conn.Close()
			return
		}
		s.clients[c] = true
		s.wg.Add(2)
		s.mu.Unlock()
		go func() {
			defer s.wg.Done()
			c.write()
		}()
		go func() {
			defer s.wg.Done()
			s.serve(c)
		}()
	}
}

// client is one connection.
type client struct {
	conn    net.Conn
	out     chan outgoing
	gone    chan struct{}
	follows bool
}

type outgoing struct {
	due   time.Time
	frame []byte
}

// serve reads what a client sends until it leaves. Nonsense is answered and
// ends nothing.
func (s *Server) serve(c *client) {
	defer func() {
		close(c.gone)
		_ = c.conn.Close()
		s.mu.Lock()
		delete(s.clients, c)
		s.mu.Unlock()
	}()
	frames := osc.NewFrameReader(c.conn)
	for {
		frame, err := frames.Next()
		var msgs []device.Message
		switch {
		case errors.Is(err, osc.ErrOversized), errors.Is(err, osc.ErrBadEscape):
		case err != nil:
			if !errors.Is(err, io.EOF) && !errors.Is(err, net.ErrClosed) {
				slog.Debug("bench switcher: client left", "err", err)
			}
			return
		default:
			msgs, err = osc.Decode(frame)
		}
		s.mu.Lock()
		if s.faults.Silent {
			s.mu.Unlock()
			continue
		}
		if err != nil {
			s.send(c, refusal(err))
		}
		for _, m := range msgs {
			s.handle(c, m)
		}
		s.mu.Unlock()
		s.changed()
	}
}

func refusal(err error) device.Message {
	return device.Message{Address: "/error", Args: []any{err.Error()}}
}

// handle carries out a client's message; the lock is held.
func (s *Server) handle(c *client, m device.Message) {
	if m.Address != "/ask" {
		s.recent.Note(m)
	}
	switch m.Address {
	case "/follow":
		c.follows = true
		s.send(c, s.state.all()...)
	case "/ask":
		address, _ := argOf(m).(string)
		v, ok := s.state.values[address]
		if !ok {
			s.send(c, refusal(fmt.Errorf("%q is not known here", address)))
			return
		}
		s.send(c, device.Message{Address: address, Args: []any{v}})
	default:
		if err := s.apply(m); err != nil {
			s.send(c, refusal(err))
		}
	}
}

func argOf(m device.Message) any {
	if len(m.Args) == 0 {
		return nil
	}
	return m.Args[0]
}

// apply changes the state, tells every follower and starts the frame clock
// where a transition needs it; the lock is held.
func (s *Server) apply(m device.Message) error {
	changes, err := s.state.do(m, time.Now())
	if err != nil {
		return err
	}
	s.tell(changes)
	if !s.ticking && !s.stopped {
		if _, running := s.state.tick(time.Now()); running {
			s.ticking = true
			s.wg.Add(1)
			go s.clock()
		}
	}
	return nil
}

// clock moves transitions frame by frame until none is under way.
func (s *Server) clock() {
	defer s.wg.Done()
	t := time.NewTicker(time.Second / FrameRate)
	defer t.Stop()
	for range t.C {
		s.mu.Lock()
		changes, running := s.state.tick(time.Now())
		s.tell(changes)
		if !running || s.stopped {
			s.ticking = false
			s.mu.Unlock()
			s.changed()
			return
		}
		s.mu.Unlock()
		s.changed()
	}
}

func (s *Server) tell(changes []device.Message) {
	for c := range s.clients {
		if c.follows {
			s.send(c, changes...)
		}
	}
}

func (s *Server) send(c *client, msgs ...device.Message) {
	if s.faults.Silent {
		return
	}
	due := time.Now().Add(s.faults.Delay())
	for _, m := range msgs {
		p, err := osc.Encode(m)
		if err != nil {
			slog.Error("bench switcher: encode", "err", err)
			continue
		}
		select {
		case c.out <- outgoing{due, osc.AppendFrame(nil, p)}:
		default:
			_ = c.conn.Close() // a client that does not read is sent away
			return
		}
	}
}

func (c *client) write() {
	for {
		select {
		case o := <-c.out:
			if wait := time.Until(o.due); wait > 0 {
				select {
				case <-time.After(wait):
				case <-c.gone:
					return
				}
			}
			if _, err := c.conn.Write(o.frame); err != nil {
				_ = c.conn.Close()
				return
			}
		case <-c.gone:
			return
		}
	}
}
