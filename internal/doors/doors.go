package doors

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log"
	"log/slog"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"synaptor/internal/certs"
	"synaptor/internal/incident"
)

// lookEvery is how often it is looked whether an address that is to be open has come, or gone.
const lookEvery = 5 * time.Second

// Options say how doors are opened.
type Options struct {
	// Listen are the addresses of the command line: the first one's port is that of all that are opened.
	Listen []string
	Certs  *certs.Certs
	// Kept is what was configured; Keep stores it.
	Kept Config
	Keep func(Config) error
	// Listening notes that an address is listened on; what it gives forgets that.
	Listening func(net.Addr) (forget func())
	// Changed is told whenever something else is open.
	Changed func()
	// Interfaces are those of this computer; nil: as they are.
	Interfaces func() []Interface
}

// Service keeps the doors open.
type Service struct {
	o      Options
	ctx    context.Context
	stop   context.CancelFunc
	done   chan struct{}
	failed chan error
	addr   string
	port   string
	server func() *http.Server
	turn   sync.Mutex // held while doors are opened and closed, for which mu is let go

	mu      sync.Mutex
	config  Config
	doors   map[string]*door // by address
	trouble map[string]string
	pending *pending
}

// door is an address that is open.
type door struct {
	address string
	fixed   bool // by the command line
	secure  bool
	mode    certs.Mode
	server  *http.Server
	cancel  func() // ends what its requests have begun, such as live sockets
	forget  func()
	ended   chan struct{} // when it takes nobody in any more
	gone    chan struct{} // when nobody is there any more
}

// New makes a service whose doors are closed.
func New(o Options) (*Service, error) {
	if len(o.Listen) == 0 || o.Certs == nil || o.Keep == nil {
		return nil, errors.New("doors: an address, certificates and a place to keep are needed")
	}
	if o.Interfaces == nil {
		o.Interfaces = Interfaces
	}
	if o.Listening == nil {
		o.Listening = func(net.Addr) func() { return func() {} }
	}
	if o.Changed == nil {
		o.Changed = func() {}
	}
	s := &Service{o: o, config: o.Kept, doors: map[string]*door{}, trouble: map[string]string{}, done: make(chan struct{}), failed: make(chan error, 1)}
	s.ctx, s.stop = context.WithCancel(context.Background())
	if err := s.config.Check(); err != nil { // somebody has written it by hand
		slog.Warn("the addresses that were opened are not: they make no sense", "reason", err)
		s.config = Config{}
	}
	return s, nil
}

// Open opens the addresses of the command line, all or none, and those that were opened before, as far as they are there. server gives a
// server that is not serving yet.
func (s *Service) Open(server func() *http.Server) error {
	s.server = server
	for i, a := range s.o.Listen {
		at, err := s.listen(a, true)
		if err != nil {
			s.mu.Lock()
			s.closeAll()
			s.mu.Unlock()
			return fmt.Errorf("listen on %s (another Synaptor may hold the port; choose one with --listen): %w", a, err)
		}
		if i == 0 {
			s.addr = at
			_, s.port, _ = net.SplitHostPort(at)
		}
	}
	s.mu.Lock()
	s.settle()
	s.mu.Unlock()
	go s.look()
	return nil
}

// Failed gives the error that ended serving at an address of the command line.
func (s *Service) Failed() <-chan error { return s.failed }

// Addr is the first address of the command line, with its port.
func (s *Service) Addr() string { return s.addr }

// Config is what is configured.
func (s *Service) Config() Config {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.config
}

// Opened tells whether anything but loopback is open, or is to be.
func (s *Service) Opened() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.config.All || len(s.config.Addresses) > 0 || slices.ContainsFunc(s.o.Listen, Wide)
}

// Knows tells whether requests may come under a host name to an address of this computer: a page elsewhere must not reach Synaptor by
// pointing a name of its own here.
func (s *Service) Knows(host string, to net.Addr) bool {
	if Loopback(host) {
		return true
	}
	if t, is := to.(*net.TCPAddr); is {
		if ip := net.ParseIP(strings.Trim(host, "[]")); ip != nil {
			return ip.Equal(t.IP)
		}
	}
	return slices.Contains(s.Config().Names, strings.ToLower(host)) || strings.EqualFold(host, LocalName())
}

// listen opens an address and serves it.
func (s *Service) listen(address string, fixed bool) (string, error) {
	l, err := (&net.ListenConfig{}).Listen(s.ctx, "tcp", address)
	if err != nil {
		return "", err
	}
	at := l.Addr().String()
	ctx, cancel := context.WithCancel(s.ctx)
	d := &door{address: at, fixed: fixed, server: s.server(), cancel: cancel, forget: s.o.Listening(l.Addr()), ended: make(chan struct{}), gone: make(chan struct{})}
	d.server.BaseContext = func(net.Listener) context.Context { return ctx }
	d.server.ErrorLog = log.New(quiet{}, "", 0)
	s.mu.Lock()
	d.mode, d.secure = s.config.TLS, s.config.TLS != certs.Plain && Wide(at)
	s.doors[at] = d
	s.mu.Unlock()
	if d.secure {
		mode := d.mode
		l = tls.NewListener(l, &tls.Config{MinVersion: tls.VersionTLS12, NextProtos: []string{"http/1.1"}, GetCertificate: func(h *tls.ClientHelloInfo) (*tls.Certificate, error) {
			return s.certificate(mode, h)
		}})
	}
	go func() {
		defer close(d.ended)
		if err := d.server.Serve(l); !errors.Is(err, http.ErrServerClosed) {
			s.lost(d, err)
		}
	}()
	return at, nil
}

// quiet keeps what strangers do wrong in a handshake out of the log.
type quiet struct{}

// Write implements io.Writer.
func (quiet) Write(p []byte) (int, error) {
	slog.Debug("a connection failed", "reason", strings.TrimSpace(string(p)))
	return len(p), nil
}

// certificate is that for a connection: for the name that a browser says, where that is known, else for the address it came to.
func (s *Service) certificate(mode certs.Mode, h *tls.ClientHelloInfo) (*tls.Certificate, error) {
	name := strings.ToLower(h.ServerName)
	if name == "" || !s.Knows(name, h.Conn.LocalAddr()) {
		host, _, err := net.SplitHostPort(h.Conn.LocalAddr().String())
		if err != nil {
			return nil, err
		}
		name = host
	}
	return s.o.Certs.Get(mode, name)
}

// lost notes that an address is served no more.
func (s *Service) lost(d *door, err error) {
	if d.fixed {
		select {
		case s.failed <- err:
		default:
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.doors[d.address] == d {
		delete(s.doors, d.address)
		d.forget()
		s.trouble[d.address] = err.Error()
	}
}

// letFinish is how long what somebody asked for at a door may still be answered once that is closed.
const letFinish = time.Second

// shut closes a door: nobody gets in from now on, what was asked for is answered, and live sockets end. The lock is held, and let go
// meanwhile.
func (s *Service) shut(d *door) {
	delete(s.doors, d.address)
	s.mu.Unlock()
	go func() {
		defer close(d.gone)
		defer d.cancel()
		ctx, cancel := context.WithTimeout(context.Background(), letFinish)
		defer cancel()
		if d.server.Shutdown(ctx) != nil {
			_ = d.server.Close() // there is nobody left to tell
		}
	}()
	<-d.ended
	d.forget()
	s.mu.Lock()
}

// closeAll closes all doors, and waits until nobody is there. The lock is held.
func (s *Service) closeAll() {
	for len(s.doors) > 0 {
		for _, d := range s.doors {
			s.shut(d)
			s.mu.Unlock()
			<-d.gone
			s.mu.Lock()
			break // the map is another one
		}
	}
}

// Close closes all doors. A change that nobody has confirmed is not kept.
func (s *Service) Close() {
	s.stop()
	<-s.done
	s.turn.Lock()
	defer s.turn.Unlock()
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.pending != nil {
		s.pending.timer.Stop()
		s.pending = nil
	}
	s.closeAll()
}

// look opens addresses that come, and closes those that go.
func (s *Service) look() {
	defer close(s.done)
	t := time.NewTicker(lookEvery)
	defer t.Stop()
	for {
		select {
		case <-t.C:
			incident.Contain("doors", "look", func() {
				s.turn.Lock()
				defer s.turn.Unlock()
				s.mu.Lock()
				defer s.mu.Unlock()
				if s.ctx.Err() == nil {
					s.settle()
				}
			})
		case <-s.ctx.Done():
			return
		}
	}
}

// wanted are the addresses that are to be open, without those of the command line. The lock is held.
func (s *Service) wanted() (out []string) {
	hosts := slices.Clone(s.config.Addresses)
	if s.config.All {
		for _, i := range s.o.Interfaces() {
			if !slices.Contains(hosts, i.Address) {
				hosts = append(hosts, i.Address)
			}
		}
	}
	for _, h := range hosts {
		if at := net.JoinHostPort(h, s.port); !s.covered(at) {
			out = append(out, at)
		}
	}
	return out
}

// covered tells whether the command line opens an address already. The lock is held.
func (s *Service) covered(at string) bool {
	host, port, _ := net.SplitHostPort(at)
	return slices.ContainsFunc(s.o.Listen, func(l string) bool {
		h, p, _ := net.SplitHostPort(l)
		return h == host && (p == port || p == "0") || (h == "0.0.0.0" || h == "::") && p == port
	})
}

// settle has what is to be open be open, and nothing else. What cannot be is said, and tried again. The lock is held; it is let go
// meanwhile.
func (s *Service) settle() {
	changed := false
	want, fixed := s.wanted(), map[string]bool{}
	for again := true; again; {
		again = false
		for _, d := range s.doors {
			secure := s.config.TLS != certs.Plain && Wide(d.address)
			if other := d.secure != secure || secure && d.mode != s.config.TLS; other || !d.fixed && !slices.Contains(want, d.address) {
				s.shut(d)
				changed, again = true, true
				if d.fixed {
					want, fixed[d.address] = append(want, d.address), true
				}
				break // the map is another one
			}
		}
	}
	for _, at := range want {
		if s.doors[at] != nil {
			continue
		}
		s.mu.Unlock()
		_, err := s.listen(at, fixed[at])
		s.mu.Lock()
		if err == nil {
			changed = true
			delete(s.trouble, at)
		} else {
			s.trouble[at] = inWords(err)
		}
	}
	for at := range s.trouble {
		if !slices.Contains(want, at) {
			delete(s.trouble, at)
		}
	}
	if changed {
		go s.o.Changed()
	}
}

func inWords(err error) string {
	var op *net.OpError
	if errors.As(err, &op) {
		err = op.Err
	}
	switch text := err.Error(); {
	case strings.Contains(text, "cannot assign"):
		return "this computer does not have it now"
	case strings.Contains(text, "address already in use"):
		return "another program uses its port"
	default:
		return text
	}
}
