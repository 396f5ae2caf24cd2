package journal_test

import (
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/journal"
)

// shelf keeps markers in memory. The first write waits until it is let go, and is done then.
type shelf struct {
	mu    sync.Mutex
	texts map[string]string
	calls atomic.Int32
	slow  chan struct{}
}

func (s *shelf) SaveMarkers(list []markers.Marker) error {
	if s.calls.Add(1) == 1 {
		<-s.slow
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, m := range list {
		s.texts[m.ID] = m.Text
	}
	return nil
}

func (s *shelf) DropMarker(id string) (bool, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	_, was := s.texts[id]
	delete(s.texts, id)
	return was, nil
}

func (s *shelf) Marker(string) (*markers.Marker, error) { return nil, nil }

func (s *shelf) Markers(string, time.Time, time.Time) ([]markers.Marker, error) { return nil, nil }

// What is changed or dropped while the disk takes it as it was is so afterwards.
func TestAChangeIsNotOverwrittenByWhatWasOnItsWay(t *testing.T) {
	for what, change := range map[string]func(*journal.Markers, markers.Marker) error{
		"changed": func(m *journal.Markers, k markers.Marker) error {
			k.Text = "Meteor"
			return m.Save(k)
		},
		"": func(m *journal.Markers, k markers.Marker) error {
			_, err := m.Drop(k.ID)
			return err
		},
	} {
		synctest.Test(t, func(t *testing.T) {
			s := &shelf{texts: map[string]string{}, slow: make(chan struct{})}
			m := journal.OpenMarkers(s, func() string { return "night" }, func() {})
			k := m.Mark("note", "Fireball", "Tobin", "", time.Now(), 0)
			synctest.Wait() // its first write is on its way
			done := make(chan error, 1)
			go func() { done <- change(m, k) }()
			time.Sleep(time.Second)
			close(s.slow)
			if err := <-done; err != nil {
				t.Error(err)
			}
			m.Close()
			want := map[string]string{"changed": "Meteor", "": ""}[what]
			if s.texts[k.ID] != want {
				t.Errorf("the marker says %q, want %q", s.texts[k.ID], want)
			}
		})
	}
}
