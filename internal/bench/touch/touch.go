// Package touch is what lies on the bench to be touched: a row of faders with motors that speaks MIDI, the numeric block of a keyboard, and
// a foot board. Each is a file in a folder that stands for those of the system: a pseudo-terminal for MIDI, a pipe of input_event
// structures for the others, so that the bytes take the way that real ones take.
package touch

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/core/hands"
)

// offFor is how long one is without power when that is cut.
const offFor = 1500 * time.Millisecond

// Stand is a stand-in that can be touched.
type Stand struct {
	id, title, path string
	changed         func()
	about           func() hands.Device
	plug            func() error // makes its file
	pull            func() error // takes it away
	// operate does what a hand does; the lock is held.
	operate func(control string, arg any) error

	mu     sync.Mutex
	values map[string]any
	in     bool
	faults faults.Faults
	recent panel.Recent
	ended  bool
}

// start plugs it in.
func (s *Stand) start() (*Stand, error) { return s, s.connect() }

// connect makes its file, with what it is beside it.
func (s *Stand) connect() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.in || s.ended {
		return nil
	}
	raw, err := json.Marshal(s.about())
	if err != nil {
		return err
	}
	if err := os.WriteFile(s.path+".json", raw, 0o600); err != nil {
		return err
	}
	if err := s.plug(); err != nil {
		return err
	}
	s.in = true
	return nil
}

// disconnect takes its file away.
func (s *Stand) disconnect() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.in {
		return nil
	}
	s.in = false
	return errors.Join(os.Remove(s.path), s.pull())
}

// ID implements panel.StandIn.
func (s *Stand) ID() string { return s.id }

// Title implements panel.StandIn.
func (s *Stand) Title() string { return s.title }

// Addr implements panel.StandIn: the path of its file.
func (s *Stand) Addr() string { return s.path }

// View implements panel.StandIn.
func (s *Stand) View() panel.View {
	s.mu.Lock()
	defer s.mu.Unlock()
	v := map[string]any{}
	for k, x := range s.values {
		v["/"+k] = x
	}
	v["/connected"] = s.in
	_, err := os.Stat(s.path + ".taken")
	v["/taken"] = err == nil
	return panel.View{Values: v, Faults: s.faults, Recent: append([]string{}, s.recent...)}
}

// Operate implements panel.StandIn: an address is what is touched, with what is done to it.
func (s *Stand) Operate(m device.Message) error {
	control := strings.TrimPrefix(m.Address, "/")
	if len(m.Args) != 1 {
		return errors.New("say what is done to it: down, up or press, detents, or a place from 0 to 1")
	}
	s.mu.Lock()
	s.recent.Note(fmt.Sprintf("%s %v", control, m.Args[0]))
	err := s.operate(control, m.Args[0])
	s.mu.Unlock()
	s.changed()
	return err
}

// SetFaults implements panel.StandIn. The cable can be out.
func (s *Stand) SetFaults(f faults.Faults) error {
	if f.Silent || f.RefuseLogin || f.LatencyMs+f.JitterMs+f.LossPercent+f.ActMs != 0 {
		return errors.New("its cable can only be out")
	}
	s.mu.Lock()
	s.faults = f
	s.mu.Unlock()
	defer s.changed()
	if f.Cut {
		return s.disconnect()
	}
	return s.connect()
}

// Restart implements panel.StandIn.
func (s *Stand) Restart() {
	_ = s.disconnect() // it is off
	time.AfterFunc(offFor, func() {
		if err := s.SetFaults(faults.Faults{}); err != nil {
			s.mu.Lock()
			s.recent.Note(err.Error())
			s.mu.Unlock()
		}
	})
}

// Close implements panel.StandIn.
func (s *Stand) Close() {
	s.mu.Lock()
	s.ended = true
	s.mu.Unlock()
	_ = s.disconnect() // it ends
}

// place is a number from 0 to 1 that a hand moves something to.
func place(arg any) (float64, error) {
	switch n := arg.(type) {
	case float64:
		if n >= 0 && n <= 1 {
			return n, nil
		}
	case int:
		if n == 0 || n == 1 {
			return float64(n), nil
		}
	}
	return 0, fmt.Errorf("%v is not a place from 0 to 1", arg)
}

// edges are what a hand does to a key: down, up, or both.
func edges(arg any) ([]bool, error) {
	switch arg {
	case "down":
		return []bool{true}, nil
	case "up":
		return []bool{false}, nil
	case "press":
		return []bool{true, false}, nil
	}
	return nil, fmt.Errorf("%v is not down, up or press", arg)
}

// Folder makes the folder of the devices; the caller removes it.
func Folder() (string, error) {
	f, err := os.MkdirTemp("", "synaptor-bench-")
	if err != nil {
		return "", fmt.Errorf("make a folder for what can be touched on the bench: %w", err)
	}
	return filepath.EvalSymlinks(f)
}
