package panel

import (
	"net"
	"net/http"
	"sync"
	"time"

	"synaptor/internal/incident"
)

// Listener is the socket of a stand-in that serves connections.
type Listener struct {
	serve func(net.Conn)

	mu    sync.Mutex
	addr  string
	l     net.Listener
	conns map[net.Conn]bool
	wg    sync.WaitGroup
}

// NewListener returns a closed listener at a TCP address; a port 0 is chosen
// when it is first opened and kept.
func NewListener(addr string, serve func(net.Conn)) *Listener {
	return &Listener{serve: serve, addr: addr, conns: map[net.Conn]bool{}}
}

// Addr is the address it listens on.
func (l *Listener) Addr() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.addr
}

// Open implements Socket.
func (l *Listener) Open() error {
	ln, err := net.Listen("tcp", l.Addr())
	if err != nil {
		return err
	}
	l.mu.Lock()
	l.addr, l.l = ln.Addr().String(), ln
	l.mu.Unlock()
	l.wg.Add(1)
	go func() {
		defer l.wg.Done()
		incident.Contain("bench", "listener", func() { l.accept(ln) })
	}()
	return nil
}

func (l *Listener) accept(ln net.Listener) {
	for {
		c, err := ln.Accept()
		if err != nil {
			return
		}
		l.mu.Lock()
		if l.l != ln {
			l.mu.Unlock()
			_ = c.Close()
			return
		}
		l.conns[c] = true
		l.wg.Add(1)
		l.mu.Unlock()
		go func() {
			defer l.wg.Done()
			incident.Contain("bench", "a client", func() { l.serve(c) })
			_ = c.Close()
			l.mu.Lock()
			delete(l.conns, c)
			l.mu.Unlock()
		}()
	}
}

// Cut implements Socket.
func (l *Listener) Cut() {
	l.mu.Lock()
	ln := l.l
	l.l = nil
	var open []net.Conn
	for c := range l.conns {
		open = append(open, c)
	}
	l.mu.Unlock()
	if ln != nil {
		_ = ln.Close()
	}
	for _, c := range open {
		_ = c.Close()
	}
	l.wg.Wait()
}

// Web is the socket of a stand-in that speaks HTTP.
type Web struct {
	handler http.Handler

	mu   sync.Mutex
	addr string
	srv  *http.Server
	// ends are what has to be ended by hand: connections that were taken over.
	ends map[int]func()
	last int
}

// NewWeb returns a closed HTTP server at a TCP address.
func NewWeb(addr string, h http.Handler) *Web {
	return &Web{handler: h, addr: addr, ends: map[int]func(){}}
}

// Addr is the address it listens on.
func (w *Web) Addr() string {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.addr
}

// Open implements Socket.
func (w *Web) Open() error {
	ln, err := net.Listen("tcp", w.Addr())
	if err != nil {
		return err
	}
	srv := &http.Server{Handler: w.handler, ReadHeaderTimeout: 5 * time.Second}
	w.mu.Lock()
	w.addr, w.srv = ln.Addr().String(), srv
	w.mu.Unlock()
	go func() { _ = srv.Serve(ln) }() // it ends with Cut
	return nil
}

// Track has a function called when the cable is cut; forget it with done.
func (w *Web) Track(end func()) (done func()) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.last++
	id := w.last
	w.ends[id] = end
	return func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.ends, id)
	}
}

// Cut implements Socket.
func (w *Web) Cut() {
	w.mu.Lock()
	srv := w.srv
	w.srv = nil
	var ends []func()
	for _, e := range w.ends {
		ends = append(ends, e)
	}
	w.mu.Unlock()
	if srv != nil {
		_ = srv.Close()
	}
	for _, e := range ends {
		e()
	}
}
