package player

import (
	"fmt"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
)

// shortest is how long a marked clip has to be, in frames: as long as a transition.
const shortest = 25

// mostMarks is how many marked clips there is room for.
const mostMarks = 40

// kinds are how one clip follows another.
var kinds = []string{"cut", "mix"}

// coarse is a time that distracts nobody: minutes, and seconds only in the last minute.
func coarse(frames int) string {
	s := (max(frames, 0) + rate.Count - 1) / rate.Count
	if s < 60 {
		return fmt.Sprintf("0:%02d", s)
	}
	return fmt.Sprintf("%d min", (s+59)/60)
}

// list carries out what is done with marked clips; mine is false for the rest.
func (m *machine) list(msg device.Message, now time.Time) (changed []device.Message, mine bool, err error) {
	switch msg.Address {
	case "/mark/add":
		changed, err = m.add(fmt.Sprint(panel.Arg(msg, 0)))
	case "/mark/play", "/mark/from", "/mark/all":
		changed, err = m.playMarks(msg, now)
	case "/mark/forget":
		m.queue = nil
		for i := range m.marks {
			at := fmt.Sprintf("/mark/%d", i+1)
			changed = append(changed, m.v.Put(at+"/gone", 1))
		}
		m.marks = nil
		changed = append(changed, m.v.Put("/mark/count", 0), m.v.Put("/mark/at", 0))
	case "/with":
		kind, ok := panel.OneOf(panel.Arg(msg, 0), kinds...)
		if !ok {
			return nil, true, fmt.Errorf("a clip follows with one of %s", strings.Join(kinds, ", "))
		}
		changed = []device.Message{m.v.Put("/with", kind)}
	default:
		return nil, false, nil
	}
	return changed, true, err
}

// add marks what lies between the in and the out point.
func (m *machine) add(name string) ([]device.Message, error) {
	in, out := m.v.Int("/in"), m.v.Int("/out")
	switch {
	case in < 0 || out < 0:
		return nil, fmt.Errorf("set the in and the out point first")
	case out-in < shortest:
		return nil, fmt.Errorf("this clip is too short: it has %d frames, and needs %d", out-in, shortest)
	case len(m.marks) == mostMarks:
		return nil, fmt.Errorf("there are %d marked clips already", mostMarks)
	case strings.TrimSpace(name) == "" || len(name) > 80:
		return nil, fmt.Errorf("a marked clip has a name of at most 80 bytes")
	}
	m.marks = append(m.marks, mark{m.v.Int("/loaded"), in, out})
	at := fmt.Sprintf("/mark/%d", len(m.marks))
	m.v.Add(at+"/name", name)
	m.v.Add(at+"/frames", out-in)
	m.v.Add(at+"/gone", 0)
	return []device.Message{m.v.Put(at+"/name", name), m.v.Put(at+"/frames", out-in), m.v.Put(at+"/gone", 0), m.v.Put("/mark/count", len(m.marks))}, nil
}

// playMarks plays one of the marked clips, all from one on, or all.
func (m *machine) playMarks(msg device.Message, now time.Time) ([]device.Message, error) {
	n := 1
	if msg.Address != "/mark/all" {
		n, _ = panel.Arg(msg, 0).(int)
	}
	if len(m.marks) == 0 || n < 1 || n > len(m.marks) {
		return nil, fmt.Errorf("there is no marked clip %d", n)
	}
	m.queue = nil
	if msg.Address != "/mark/play" {
		for i := n + 1; i <= len(m.marks); i++ {
			m.queue = append(m.queue, i)
		}
	}
	return m.playMark(n, now), nil
}

func (m *machine) playMark(n int, now time.Time) []device.Message {
	k := m.marks[n-1]
	changed := append(m.load(k.clip, now), m.v.Put("/in", k.in), m.v.Put("/out", k.out))
	changed = append(changed, m.seek(k.in, now)...)
	return append(changed, m.v.Put("/mark/at", n), m.v.Put("/play", 1), m.v.Put("/ended", 0))
}

// following begins the marked clip that comes next; more is false where none does.
func (m *machine) following(now time.Time) (changed []device.Message, more bool) {
	if len(m.queue) == 0 {
		return nil, false
	}
	n := m.queue[0]
	m.queue = m.queue[1:]
	return m.playMark(n, now), true
}
