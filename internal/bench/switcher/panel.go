package switcher

import (
	"maps"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// ID implements panel.StandIn.
func (s *Server) ID() string { return "switcher" }

// Title implements panel.StandIn.
func (s *Server) Title() string { return "Video switcher" }

// View implements panel.StandIn.
func (s *Server) View() panel.View {
	s.mu.Lock()
	defer s.mu.Unlock()
	return panel.View{Values: maps.Clone(s.state.values), Clients: len(s.clients), Faults: s.faults, Recent: append([]string{}, s.recent...)}
}

// Operate is a hand on the front panel.
func (s *Server) Operate(m device.Message) error {
	s.mu.Lock()
	err := s.apply(m)
	s.mu.Unlock()
	s.changed()
	return err
}

// SetFaults sets what is wrong with the stand-in. Cutting the link closes its
// socket; taking the fault back opens it again at the same address.
func (s *Server) SetFaults(f faults.Faults) error {
	s.mu.Lock()
	was := s.faults
	s.faults = f
	s.mu.Unlock()
	var err error
	switch {
	case f.Cut && !was.Cut:
		s.cut()
	case !f.Cut && was.Cut:
		for range 50 {
			if err = s.listen(); err == nil {
				break
			}
			time.Sleep(20 * time.Millisecond) // the port may be held a moment longer
		}
	}
	s.changed()
	return err
}
