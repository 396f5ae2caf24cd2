package switcher

import (
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
)

// View is what the front panel shows.
type View struct {
	Values  map[string]any `json:"values"` // by OSC address
	Inputs  []int          `json:"inputs"` // in order
	Clients int            `json:"clients"`
	Faults  faults.Faults  `json:"faults"`
	Recent  []string       `json:"recent"` // the last messages, newest last
}

// View returns the present state.
func (s *Server) View() View {
	s.mu.Lock()
	defer s.mu.Unlock()
	v := View{Values: map[string]any{}, Clients: len(s.clients), Faults: s.faults, Recent: append([]string{}, s.recent...)}
	for a, val := range s.state.values {
		v.Values[a] = val
	}
	for _, in := range inputs {
		v.Inputs = append(v.Inputs, in.number)
	}
	return v
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
