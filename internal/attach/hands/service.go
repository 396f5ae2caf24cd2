// Package hands serves what can be touched and speaks no protocol of Synaptor's own: keyboards, MIDI, pedals and game controls, of this
// computer or of a browser. Whoever has the hardware plugs it in with Service.Plug, and hands on what it says; port.go has what becomes
// of that, lesson.go learning by touching, back.go the lamps and levels that go back.
package hands

import (
	"context"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"synaptor/internal/attach"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
)

// Engine is what hardware moves.
type Engine interface {
	Input(in engine.Input)
	ReleaseAll(link string)
	SayOwn(path string, value any)
}

// Config is what the service stands on.
type Config struct {
	Shows  attach.Programs
	Engine Engine
	Hub    *feed.Hub
	// Others lists hardware that is here in another way: what is touched on it can be learned, too.
	Others func() []hardware.Row
}

// Service has the hardware that is here.
type Service struct {
	cfg     Config
	quiet   atomic.Bool
	lessons atomic.Pointer[[]*lesson]
	woken   chan struct{} // what is to be seen on hardware has to be looked at anew
	end     context.CancelFunc
	done    chan struct{}

	mu    sync.Mutex
	ports []*Port                 // that are here
	away  map[string]hardware.Row // attached hardware that was here, by id
	count int
	timed *timecode
}

// New starts the service.
func New(cfg Config) *Service {
	ctx, end := context.WithCancel(context.Background())
	s := &Service{cfg: cfg, woken: make(chan struct{}, 1), end: end, done: make(chan struct{}), away: map[string]hardware.Row{}}
	s.lessons.Store(&[]*lesson{})
	if cfg.Others == nil {
		s.cfg.Others = func() []hardware.Row { return nil }
	}
	s.timed = newTimecode(cfg.Engine)
	go func() {
		defer close(s.done)
		incident.Contain("hands", "", func() { s.back(ctx) })
	}()
	return s
}

// Close ends it.
func (s *Service) Close() {
	s.end()
	<-s.done
	s.timed.close()
}

// Rows lists the hardware that is here, or was and is attached.
func (s *Service) Rows() []hardware.Row {
	s.mu.Lock()
	defer s.mu.Unlock()
	out := []hardware.Row{}
	for _, p := range s.ports {
		out = append(out, p.Row())
	}
	for _, row := range s.away {
		out = append(out, row)
	}
	slices.SortFunc(out, func(a, b hardware.Row) int {
		return strings.Compare(a.Kind+a.Match+a.Place, b.Kind+b.Match+b.Place)
	})
	return out
}

// port finds hardware that is here; nil: it is not.
func (s *Service) port(id string) *Port {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, p := range s.ports {
		if p.id == id {
			return p
		}
	}
	return nil
}

// SetQuiet has hardware do nothing, or work again. What it holds is let go.
func (s *Service) SetQuiet(on bool) {
	s.quiet.Store(on)
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, p := range s.ports {
		if on {
			p.release()
		}
	}
	s.wake()
}

// wake has what hardware shows be looked at anew.
func (s *Service) wake() {
	select {
	case s.woken <- struct{}{}:
	default:
	}
}

// attachAll finds what each piece of hardware is attached to. The lock is not held.
func (s *Service) attachAll() {
	s.mu.Lock()
	defer s.mu.Unlock()
	p := s.cfg.Shows.Program()
	alike := map[string]int{}
	for _, one := range s.ports {
		alike[one.plug.Kind+"\x00"+one.plug.Name]++
	}
	for _, one := range s.ports {
		var l *show.Link
		if one.plug.Kind == show.LinkKeysHere {
			l = keysHere(p.Show, one.plug.Controller)
		} else {
			l = p.Show.LinkTo(one.plug.Kind, one.plug.Name, one.plug.Place, alike[one.plug.Kind+"\x00"+one.plug.Name] == 1)
		}
		one.attach(p, l)
	}
	for id, row := range s.away {
		if p.Show.Link(row.Link) == nil {
			delete(s.away, id)
			hardware.Forget(s.cfg.Hub, id)
		}
	}
}

// keysHere is the link by which a controller takes the keys of the browser that shows it; nil: it does not.
func keysHere(sh *show.Show, slug string) *show.Link {
	for _, l := range sh.Links() {
		if c := sh.Controller(l.Controller); l.Kind == show.LinkKeysHere && c != nil && c.Slug == slug {
			return l
		}
	}
	return nil
}
