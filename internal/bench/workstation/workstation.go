// Package workstation is the bench's simulated computer: applications, links,
// hotkeys, typed text, sounds, media keys and volume. Nothing on the real
// computer is touched. It is driven without a socket, as the computer that
// Synaptor runs on would be.
package workstation

import (
	"fmt"
	"strings"
	"sync"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

const model = "Larkfell bench workstation, version 1.0"

var (
	apps   = []string{"Star chart", "Slides", "Notes", "Browser"}
	icons  = []string{"star", "presentation-file", "document", "earth"}
	sounds = []struct {
		name    string
		seconds int
	}{{"Gong", 4}, {"Owl", 3}, {"Crickets", 12}, {"Applause", 6}, {"Drum roll", 5}}
	outputs = []string{"speakers", "stream", "headphones"}
	screens = []string{"Left screen", "Right screen", "Projector"}
	// whats are what can be captured.
	whats = []string{"left screen", "right screen", "projector", "window in front"}
)

type machine struct {
	v     *panel.Values
	ends  map[string]time.Time // by address of a sound that plays once
	fades map[string]fade
	until time.Time // when the keys that are held down are let go
	keys  []stroke  // that are still to be pressed
	shots int
}

// stroke is a combination of keys that is to be pressed at a time.
type stroke struct {
	at       time.Time
	keys, to string
}

// fade is a sound that gets quieter until it ends.
type fade struct {
	start time.Time
	over  time.Duration
	from  float64
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues(), ends: map[string]time.Time{}, fades: map[string]fade{}}
	for i, name := range apps {
		at := fmt.Sprintf("/app/%d", i+1)
		m.v.Add(at+"/name", name)
		m.v.Add(at+"/running", boolInt(i == 0))
		m.v.Add(at+"/screen", 1)
		m.v.Add(at+"/icon", icons[i])
	}
	for i, name := range screens {
		m.v.Add(fmt.Sprintf("/screen/%d/name", i+1), name)
	}
	m.v.Add("/front", apps[0])
	for i, s := range sounds {
		at := fmt.Sprintf("/sound/%d", i+1)
		m.v.Add(at+"/name", s.name)
		m.v.Add(at+"/playing", 0)
		m.v.Add(at+"/loop", 0)
		m.v.Add(at+"/level", 0.0)
		m.v.Add(at+"/output", outputs[0])
		m.v.Add(at+"/remaining", 0)
	}
	m.v.Add("/media/playing", 0)
	m.v.Add("/volume", 60)
	m.v.Add("/muted", 0)
	m.v.Add("/processor", 12)
	m.v.Add("/memory", 38)
	m.v.Add("/disk", 412)
	m.v.Add("/last/typed", "")
	m.v.Add("/last/hotkey", "")
	m.v.Add("/keys/down", "")
	m.v.Add("/last/link", "")
	m.v.Add("/last/capture", "")
	m.v.Add("/asleep", 0)
	m.v.Add("/clock", time.Now().Format("15:04"))
	m.v.Add("/model", model)
	return m
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	parts := strings.Split(strings.TrimPrefix(msg.Address, "/"), "/")
	text, _ := panel.Arg(msg, 0).(string)
	switch {
	case msg.Address == "/asleep":
		v, err := panel.Accept("asleep", 0, panel.Arg(msg, 0), panel.Limits{Max: 1})
		if err != nil {
			return nil, err
		}
		return []device.Message{m.v.Put("/asleep", v)}, nil
	case m.v.Int("/asleep") == 1:
		return nil, fmt.Errorf("the computer sleeps")
	case msg.Address == "/keys":
		return m.sequence(msg, now)
	case msg.Address == "/capture":
		what, ok := panel.OneOf(text, whats...)
		if !ok {
			return nil, fmt.Errorf("there is no %s to capture", text)
		}
		m.shots++
		return []device.Message{m.v.Put("/last/capture", fmt.Sprintf("Capture %d, %s.png", m.shots, what))}, nil
	case msg.Address == "/type" || msg.Address == "/hotkey":
		if text == "" || len(text) > 500 {
			return nil, fmt.Errorf("there is nothing to type")
		}
		if now.Before(m.until) {
			return nil, fmt.Errorf("%s is still held down", m.v.Text("/keys/down"))
		}
		to := m.v.Text("/front")
		if at, ok := panel.Arg(msg, 1).(string); ok && at != "" {
			to = at
		}
		address := map[string]string{"/type": "/last/typed", "/hotkey": "/last/hotkey"}[msg.Address]
		changed := []device.Message{m.v.Put(address, strings.ReplaceAll(text, "\n", "⏎")+" → "+to)}
		if held, _ := panel.Arg(msg, 2).(int); held > 0 {
			m.until = now.Add(time.Duration(held) * time.Millisecond)
			changed = append(changed, m.v.Put("/keys/down", text))
		}
		return changed, nil
	case msg.Address == "/link/open":
		if !strings.HasPrefix(text, "https://") && !strings.HasPrefix(text, "http://") {
			return nil, fmt.Errorf("%q is not a link", text)
		}
		return []device.Message{m.v.Put("/last/link", text), m.v.Put("/app/4/running", 1), m.v.Put("/front", apps[3])}, nil
	case msg.Address == "/media/next" || msg.Address == "/media/previous":
		return []device.Message{m.v.Put("/media/playing", 1)}, nil
	case len(parts) == 3 && parts[0] == "app" && parts[2] == "running":
		return m.app(msg)
	case len(parts) == 3 && parts[0] == "sound" && parts[2] == "playing":
		return m.sound("/sound/"+parts[1], msg, now)
	}
	return m.set(msg)
}

func (m *machine) set(msg device.Message) ([]device.Message, error) {
	old, known := m.v.Get(msg.Address)
	last := msg.Address[strings.LastIndexByte(msg.Address, '/')+1:]
	l := panel.Limits{Min: 0, Max: 100}
	switch {
	case !known:
		return nil, fmt.Errorf("%s is not known here", msg.Address)
	case last == "level":
		l = panel.Limits{Min: -60, Max: 12}
	case last == "output":
		l.Options = outputs
	case last == "screen":
		l = panel.Limits{Min: 1, Max: float64(len(screens))}
	case last == "loop", last == "muted", msg.Address == "/media/playing":
		l = panel.Limits{Min: 0, Max: 1}
	case msg.Address == "/volume", msg.Address == "/front", last == "name", last == "icon", msg.Address == "/processor":
	default:
		return nil, fmt.Errorf("%s cannot be set", msg.Address)
	}
	v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), l)
	if err != nil {
		return nil, err
	}
	return []device.Message{m.v.Put(msg.Address, v)}, nil
}

// app starts an application, which comes to the front, or ends it.
func (m *machine) app(msg device.Message) ([]device.Message, error) {
	name, known := m.v.Get(strings.TrimSuffix(msg.Address, "running") + "name")
	v, err := panel.Accept(msg.Address, 0, panel.Arg(msg, 0), panel.Limits{Min: 0, Max: 1})
	if !known || err != nil {
		return nil, fmt.Errorf("there is no application at %s, or this is neither 0 nor 1", msg.Address)
	}
	changed := []device.Message{m.v.Put(msg.Address, v)}
	switch {
	case v == 1:
		changed = append(changed, m.v.Put("/front", name))
	case m.v.Text("/front") == name:
		changed = append(changed, m.v.Put("/front", ""))
	}
	return changed, nil
}

// sound plays a sound, once or round and round, or ends it: at once, or with a
// fade of so many milliseconds.
func (m *machine) sound(at string, msg device.Message, now time.Time) ([]device.Message, error) {
	if _, known := m.v.Get(at + "/name"); !known {
		return nil, fmt.Errorf("there is no sound at %s", at)
	}
	v, err := panel.Accept(msg.Address, 0, panel.Arg(msg, 0), panel.Limits{Min: 0, Max: 1})
	if err != nil {
		return nil, err
	}
	delete(m.ends, at)
	delete(m.fades, at)
	if v == 0 {
		over, _ := panel.Arg(msg, 1).(int)
		if over > 0 && m.v.Int(at+"/playing") == 1 {
			m.fades[at] = fade{now, time.Duration(over) * time.Millisecond, m.v.Float(at + "/level")}
			return nil, nil
		}
		return []device.Message{m.v.Put(at+"/playing", 0), m.v.Put(at+"/remaining", 0)}, nil
	}
	length := 1
	for i, s := range sounds {
		if at == fmt.Sprintf("/sound/%d", i+1) {
			length = s.seconds
		}
	}
	if m.v.Int(at+"/loop") == 0 {
		m.ends[at] = now.Add(time.Duration(length) * time.Second)
	}
	return []device.Message{m.v.Put(at+"/playing", 1), m.v.Put(at+"/remaining", length)}, nil
}

// sequence presses combinations one after the other, each for a time, with a gap between.
func (m *machine) sequence(msg device.Message, now time.Time) ([]device.Message, error) {
	text, _ := panel.Arg(msg, 0).(string)
	to, _ := panel.Arg(msg, 1).(string)
	held, _ := panel.Arg(msg, 2).(int)
	gap, _ := panel.Arg(msg, 3).(int)
	all := strings.Split(text, ",")
	switch {
	case len(m.keys) > 0 || now.Before(m.until):
		return nil, fmt.Errorf("%s is still held down", m.v.Text("/keys/down"))
	case strings.TrimSpace(text) == "" || len(text) > 500 || held < 0 || held > 5000 || gap < 0 || gap > 5000:
		return nil, fmt.Errorf("there is nothing to press")
	}
	if to == "" {
		to = m.v.Text("/front")
	}
	at := now
	for _, keys := range all {
		if keys = strings.TrimSpace(keys); keys != "" {
			m.keys = append(m.keys, stroke{at, keys, to})
			at = at.Add(time.Duration(held+gap) * time.Millisecond)
		}
	}
	m.until = at
	changed, _ := m.press(now)
	return changed, nil
}

// press presses what is due of a sequence.
func (m *machine) press(now time.Time) (changed []device.Message, more bool) {
	for len(m.keys) > 0 && !now.Before(m.keys[0].at) {
		k := m.keys[0]
		m.keys = m.keys[1:]
		changed = append(changed, m.v.Put("/last/hotkey", k.keys+" → "+k.to), m.v.Put("/keys/down", k.keys))
	}
	return changed, len(m.keys) > 0
}

// Tick implements panel.Machine: sounds end and fade, keys are pressed and let go, and the clock goes on.
func (m *machine) Tick(now time.Time) (changed []device.Message, running bool) {
	if clock := now.Format("15:04"); clock != m.v.Text("/clock") {
		changed = append(changed, m.v.Put("/clock", clock))
	}
	pressed, _ := m.press(now)
	changed = append(changed, pressed...)
	if m.v.Text("/keys/down") != "" && !now.Before(m.until) {
		changed = append(changed, m.v.Put("/keys/down", ""))
	}
	for at, end := range m.ends {
		left := int((end.Sub(now) + time.Second - 1) / time.Second)
		if left <= 0 {
			delete(m.ends, at)
			changed = append(changed, m.v.Put(at+"/playing", 0), m.v.Put(at+"/remaining", 0))
		} else if left != m.v.Int(at+"/remaining") {
			changed = append(changed, m.v.Put(at+"/remaining", left))
		}
	}
	for at, f := range m.fades {
		share := now.Sub(f.start).Seconds() / f.over.Seconds()
		if share < 1 {
			continue
		}
		delete(m.fades, at)
		delete(m.ends, at)
		changed = append(changed, m.v.Put(at+"/playing", 0), m.v.Put(at+"/remaining", 0))
	}
	return changed, true // the clock goes on
}

// Server is the stand-in. Its socket is the program itself.
type Server struct {
	*panel.Core

	mu   sync.Mutex
	cut  bool
	ends map[*panel.Follower]func(error)
}

// Start starts the simulated computer. changed may be nil.
func Start(changed func()) (*Server, error) {
	s := &Server{ends: map[*panel.Follower]func(error){}}
	s.Core = panel.NewCore("workstation", "Workstation", 100*time.Millisecond, newMachine, changed)
	return s, s.Core.Start(s)
}

// Addr implements panel.StandIn: there is no network in between.
func (s *Server) Addr() string { return "127.0.0.1:0" }

// Open implements panel.Socket.
func (s *Server) Open() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.cut = false
	return nil
}

// Cut implements panel.Socket.
func (s *Server) Cut() {
	s.mu.Lock()
	s.cut = true
	ends := s.ends
	s.ends = map[*panel.Follower]func(error){}
	s.mu.Unlock()
	for _, end := range ends {
		end(link.Problem("The simulated computer was switched off on the bench."))
	}
}

// Do implements local.Computer. A computer that is switched off hears nothing, as no
// socket that is cut does.
func (s *Server) Do(m device.Message) (heard bool, err error) {
	s.mu.Lock()
	cut := s.cut
	s.mu.Unlock()
	if cut {
		return false, nil
	}
	return s.Handle(m)
}

// Ask implements local.Computer: it reports one value again.
func (s *Server) Ask(address string) []device.Message {
	_, msgs := s.Asked("/" + strings.TrimPrefix(address, "/"))
	return msgs
}

// Follow implements local.Computer.
func (s *Server) Follow(tell func(...device.Message), ended func(error)) (stop func(), err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.cut {
		return nil, link.Problem("The simulated computer is switched off on the bench.")
	}
	out := panel.NewQueue(func(msgs []device.Message) { tell(msgs...) })
	f := s.FollowAll(out.Put)
	s.ends[f] = ended
	return func() {
		s.mu.Lock()
		delete(s.ends, f)
		s.mu.Unlock()
		s.Leave(f)
		out.Close()
	}, nil
}
