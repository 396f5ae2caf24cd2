// Package keys is the bench's controller: eight keys with pictures and two dials, at the end of a serial port. The port is a
// pseudo-terminal, so that a bridge opens it as it would a real one.
package keys

import (
	"encoding/base64"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/board"
	"synaptor/internal/core/device"
	"synaptor/internal/incident"
	"synaptor/internal/wire"
)

// Serial is its serial number.
const Serial = "BENCH-8K2D"

// sheet is that of its layout, which it brings itself.
const sheet = `{"sheet":"synaptor.controller/1","type":"bench-8k2d","title":"8 picture keys and 2 dials","groups":[{"id":"","kind":"key","zone":"keys","columns":4,"rows":2,"x":0,"y":0},` +
	`{"id":"dial","kind":"dial","zone":"dials","columns":1,"rows":2,"x":4.4,"y":0}]}`

// offFor is how long it is without power when that is cut.
const offFor = 1500 * time.Millisecond

// Server is the stand-in.
type Server struct {
	board   *board.Board
	changed func()

	mu     sync.Mutex
	near   *os.File // the end of the board
	far    *os.File // kept open, so that the port is there while no bridge is
	path   string
	faults faults.Faults
	recent panel.Recent
	closed bool
	ended  sync.WaitGroup
}

// Start plugs it in. It fails where there are no pseudo-terminals.
func Start(changed func()) (*Server, error) {
	s := &Server{changed: changed}
	shows := map[string]wire.Shows{"*": {Width: 96, Height: 96, Picture: "png"}}
	s.board = board.New(wire.Controller{Serial: Serial, Name: "Bench keys", Sheet: []byte(sheet), Shows: shows}, changed)
	if err := s.plug(); err != nil {
		return nil, err
	}
	return s, nil
}

// plug makes a port; the lock is not held.
func (s *Server) plug() error {
	near, far, err := panel.Pair()
	if err != nil {
		return fmt.Errorf("make a port for the bench's keys: %w", err)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.closed || s.near != nil {
		return errors.Join(near.Close(), far.Close())
	}
	s.near, s.far, s.path = near, far, far.Name()
	s.ended.Go(func() {
		incident.Contain("bench", "keys", func() { _ = s.board.Serve(near) }) // it ends when the port is pulled
	})
	return nil
}

// pull takes the port away.
func (s *Server) pull() error {
	s.mu.Lock()
	near, far := s.near, s.far
	s.near, s.far, s.path = nil, nil, "" // what was called so may be somebody else's port now
	s.mu.Unlock()
	if near == nil {
		return nil
	}
	return errors.Join(near.Close(), far.Close())
}

// ID implements panel.StandIn.
func (s *Server) ID() string { return "keys" }

// Title implements panel.StandIn.
func (s *Server) Title() string { return "Keys and dials (a serial port)" }

// Addr implements panel.StandIn: the path of its port, empty while it is pulled.
func (s *Server) Addr() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.path
}

// View implements panel.StandIn.
func (s *Server) View() panel.View {
	state := s.board.State()
	s.mu.Lock()
	defer s.mu.Unlock()
	v := map[string]any{"/level": state.Level, "/dimmed": state.Dimmed, "/text": state.Text, "/connected": state.Welcomed && s.near != nil}
	for control, shown := range state.Shown {
		v["/"+control+"/words"] = strings.TrimSpace(strings.Join(shown.Face.Lines, " ") + ", " + shown.Face.Words)
		if len(shown.Picture) > 0 {
			v["/"+control+"/picture"] = "data:image/png;base64," + base64.StdEncoding.EncodeToString(shown.Picture)
		}
	}
	clients := 0
	if state.Welcomed {
		clients = 1
	}
	return panel.View{Values: v, Clients: clients, Faults: s.faults, Recent: append([]string{}, s.recent...)}
}

// Operate implements panel.StandIn: an address is a control, what is done to it down, up or press, or the detents of a turn.
func (s *Server) Operate(m device.Message) error {
	control := strings.TrimPrefix(m.Address, "/")
	if len(m.Args) != 1 {
		return errors.New("say down, up or press, or the detents of a turn")
	}
	do := func(kind string, amount float64) error {
		s.mu.Lock()
		s.recent.Note(strings.TrimSpace(fmt.Sprintf("%s %s", control, kind)))
		s.mu.Unlock()
		s.changed()
		return s.board.Do(kind, control, amount)
	}
	switch arg := m.Args[0].(type) {
	case int:
		return do(wire.TypeTurn, float64(arg))
	case string:
		switch arg {
		case "down", "up":
			return do(arg, 0)
		case "press":
			return errors.Join(do(wire.TypeDown, 0), do(wire.TypeUp, 0))
		}
	}
	return errors.New("say down, up or press, or the detents of a turn")
}

// SetFaults implements panel.StandIn. The cable can be out, and it can be silent: it acknowledges nothing then.
func (s *Server) SetFaults(f faults.Faults) error {
	if f.RefuseLogin || f.LatencyMs+f.JitterMs+f.LossPercent+f.ActMs != 0 {
		return errors.New("a serial port has no such fault")
	}
	s.mu.Lock()
	s.faults = f
	s.mu.Unlock()
	s.board.Mute(f.Silent)
	defer s.changed()
	if f.Cut {
		return s.pull()
	}
	return s.plug()
}

// Restart implements panel.StandIn.
func (s *Server) Restart() {
	if err := s.pull(); err != nil {
		return // it is off
	}
	time.AfterFunc(offFor, func() {
		if err := s.SetFaults(faults.Faults{}); err != nil {
			s.mu.Lock()
			s.recent.Note(err.Error())
			s.mu.Unlock()
		}
	})
}

// Close implements panel.StandIn.
func (s *Server) Close() {
	s.mu.Lock()
	s.closed = true
	s.mu.Unlock()
	_ = s.pull() // it ends
	s.ended.Wait()
}
