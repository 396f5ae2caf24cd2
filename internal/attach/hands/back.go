package hands

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"
	"sync"
	"time"

	"synaptor/internal/core/face"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
	"synaptor/internal/mirror"
)

// handsRest is how long after a hand has left a fader, or one without touch was moved, it is sent its level again.
const handsRest = 300 * time.Millisecond

// back follows the show and what controllers show, and sends lamps and levels to hardware that has them.
func (s *Service) back(ctx context.Context) {
	client := s.cfg.Hub.Join()
	defer s.cfg.Hub.Leave(client)
	v := &views{client: client, hub: s.cfg.Hub}
	tick := time.NewTicker(handsRest)
	defer tick.Stop()
	for {
		ports := s.sends()
		v.follow(ports)
		if v.edited {
			v.edited = false
			s.attachAll()
			continue // other links, other controllers
		}
		for _, p := range ports {
			p.light(v, s.quiet.Load())
		}
		select {
		case <-ctx.Done():
			return
		case <-s.woken:
		case <-tick.C: // a hand may have left a fader
		case <-client.Wake:
			if d, ok := client.Take(); ok {
				v.took(d.Values)
			}
		}
	}
}

// sends lists the ports that something is sent to.
func (s *Service) sends() (out []*Port) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, p := range s.ports {
		if p.back != nil {
			out = append(out, p)
		}
	}
	return out
}

// views is what controllers show, as the live feed says it.
type views struct {
	hub    *feed.Hub
	client *feed.Client
	topics []string
	values map[string]json.RawMessage
	edited bool
}

// follow follows what the controllers show that ports are attached to.
func (v *views) follow(ports []*Port) {
	for {
		topics := []string{"show", "controllers"}
		for _, p := range ports {
			row, ok := v.row(p.Row().Controller)
			if !ok {
				continue
			}
			topics = append(topics, "standing:"+row.Profile)
			for _, pages := range row.Zones {
				for _, page := range pages {
					topics = append(topics, "page:"+page)
				}
			}
		}
		slices.Sort(topics)
		if topics = slices.Compact(topics); slices.Equal(topics, v.topics) {
			return
		}
		v.topics = topics
		before := v.values["show"]
		v.values = v.hub.Follow(v.client, topics).Values
		v.edited = v.edited || !bytes.Equal(before, v.values["show"])
	}
}

func (v *views) row(controller string) (row mirror.ControllerRow, ok bool) {
	raw := v.values["controller/"+controller]
	return row, controller != "" && raw != nil && json.Unmarshal(raw, &row) == nil
}

// took takes what has changed.
func (v *views) took(values map[string]json.RawMessage) {
	for key, raw := range values {
		v.edited = v.edited || key == "show"
		v.values[key] = raw
	}
}

// face is what a control shows; nil: nothing.
func (v *views) face(row mirror.ControllerRow, control string) *face.Face {
	raw := v.values["face/"+row.Controls[control]]
	if raw == nil || row.Controls[control] == "" {
		return nil
	}
	var f *face.Face
	if json.Unmarshal(raw, &f) != nil {
		return nil
	}
	return f
}

// light sends what lamps and faders are to show, where it is something else than before.
func (p *Port) light(v *views, quiet bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	row, ok := v.row(p.row.Controller)
	dark := !ok || p.reason != "" || quiet
	for _, b := range p.bindings {
		var f *face.Face
		if !dark && b.Control != "" {
			f = v.face(row, b.Control)
		}
		var roles []string
		if f != nil && !f.Away {
			roles = lit(f)
		}
		if value, has := b.Lamp(roles); has {
			p.back.send(b.Source, hands.ToMIDI(b.Source, value))
		}
		if !b.Level || f == nil || f.Dial == nil || f.Away {
			continue
		}
		bytes := hands.LevelToMIDI(b.Source, b.Encoding == show.Pair, f.Dial.Share)
		if bytes == nil || p.back.has(b.Source+" level", bytes) {
			continue
		}
		if time.Since(p.moved[b.Source]) < handsRest {
			continue
		}
		if b.As == show.AsDial || p.translator.Follows(b.Source, f.Dial.Share) {
			p.back.send(b.Source+" level", bytes)
		}
	}
}

// lit are the roles that a face shows, most important first.
func lit(f *face.Face) (out []string) {
	for _, role := range face.Roles {
		if slices.Contains(f.On, role) {
			out = append(out, role)
		}
	}
	return out
}

// sender sends to a piece of hardware. What waits for one source is only the newest.
type sender struct {
	wake chan struct{}

	mu    sync.Mutex
	sent  map[string][]byte // by source, as it is or will be
	queue []string
	end   bool
}

func newSender(write func([]byte) error) *sender {
	s := &sender{wake: make(chan struct{}, 1), sent: map[string][]byte{}}
	go incident.Contain("hands out", "", func() { s.run(write) })
	return s
}

// has tells whether a source was told something last.
func (s *sender) has(source string, data []byte) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return bytes.Equal(s.sent[source], data)
}

// forget forgets what a source was told last: it is elsewhere since.
func (s *sender) forget(source string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	delete(s.sent, source)
}

// send has a source be told something, unless it was told that last.
func (s *sender) send(source string, data []byte) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if data == nil || bytes.Equal(s.sent[source], data) {
		return
	}
	s.sent[source] = data
	if !slices.Contains(s.queue, source) {
		s.queue = append(s.queue, source)
	}
	select {
	case s.wake <- struct{}{}:
	default:
	}
}

func (s *sender) run(write func([]byte) error) {
	for range s.wake {
		for {
			s.mu.Lock()
			if s.end {
				s.mu.Unlock()
				return
			}
			if len(s.queue) == 0 {
				s.mu.Unlock()
				break
			}
			data := s.sent[s.queue[0]]
			s.queue = s.queue[1:]
			s.mu.Unlock()
			if data != nil && write(data) != nil {
				return // it is gone; whoever reads from it says so
			}
		}
	}
}

func (s *sender) close() {
	s.mu.Lock()
	s.end = true
	s.mu.Unlock()
	select {
	case s.wake <- struct{}{}:
	default:
	}
}
