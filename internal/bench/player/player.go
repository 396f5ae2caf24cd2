// Package player is the bench's clip and replay player: clips at 50 frames a
// second, in and out points, jog and speed, spoken to in text lines over TCP.
package player

import (
	"fmt"
	"net"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/core/timecode"
)

const model = "Larkfell bench player, version 1.2"

// rate is what the player counts and plays at.
var rate = timecode.R50

// clips are what it holds; lengths in frames.
var clips = []struct {
	name   string
	frames int
}{
	{"Recording", 50 * 90}, {"Slow pan", 50 * 24}, {"Countdown", 50 * 600},
}

const countdownClip = 3

// mark is a part of a clip that was marked, from one frame to another.
type mark struct{ clip, in, out int }

type machine struct {
	marks  []mark
	queue  []int // marks that play one after the other, from 1
	v      *panel.Values
	length int
	start  time.Time // when it began to play, at frame base
	base   int
	told   int // the frame that was last told
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	for i, c := range clips {
		m.v.Add(fmt.Sprintf("/clip/%d/name", i+1), c.name)
	}
	m.v.Add("/loaded", 1)
	m.v.Add("/play", 0)
	m.v.Add("/speed", 100)
	m.v.Add("/frame", 0)
	m.v.Add("/timecode", rate.Format(0))
	m.v.Add("/in", -1)
	m.v.Add("/out", -1)
	m.v.Add("/remaining", clips[0].frames)
	m.v.Add("/ended", 0)
	m.v.Add("/left", coarse(clips[0].frames))
	m.v.Add("/with", "cut")
	m.v.Add("/mark/at", 0)
	m.v.Add("/mark/count", 0)
	m.v.Add("/model", model)
	m.length = clips[0].frames
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// seek goes to a frame and reports where that is.
func (m *machine) seek(frame int, now time.Time) []device.Message {
	frame = min(max(frame, 0), m.end())
	m.base, m.start, m.told = frame, now, frame
	return []device.Message{m.v.Put("/frame", frame), m.v.Put("/timecode", rate.Format(frame)), m.v.Put("/remaining", m.end()-frame), m.v.Put("/left", coarse(m.end()-frame))}
}

// end is the frame that playing stops at.
func (m *machine) end() int {
	if out := m.v.Int("/out"); out >= 0 {
		return out
	}
	return m.length
}

func (m *machine) now(at time.Time) int {
	if m.v.Int("/play") == 0 {
		return m.base
	}
	passed := at.Sub(m.start).Seconds() * rate.Frames() * float64(m.v.Int("/speed")) / 100
	return min(m.base+int(passed), m.end())
}

// Do implements panel.Machine.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	n, isNumber := panel.Arg(msg, 0).(int)
	if changed, mine, err := m.list(msg, now); mine {
		return changed, err
	}
	if msg.Address != "/speed" && msg.Address != "/with" { // a hand takes over
		m.queue = nil
	}
	switch msg.Address {
	case "/play":
		if isNumber && n == 0 {
			return m.pause(now), nil
		}
		at := m.now(now)
		if at >= m.end() {
			at = max(0, m.v.Int("/in"))
		}
		return append(m.seek(at, now), m.v.Put("/play", 1), m.v.Put("/ended", 0)), nil
	case "/pause":
		return m.pause(now), nil
	case "/jog", "/jog-seconds":
		if !isNumber {
			return nil, fmt.Errorf("a jog takes a number")
		}
		if msg.Address == "/jog-seconds" {
			n *= rate.Count
		}
		return append(m.pause(now), m.seek(m.base+n, now)...), nil
	case "/in", "/out", "/reset-in", "/reset-out", "/goto-in":
		return m.point(msg.Address, now)
	case "/speed":
		if !isNumber || n < 10 || n > 200 {
			return nil, fmt.Errorf("the speed is 10 to 200 percent")
		}
		return append(m.seek(m.now(now), now), m.v.Put("/speed", n)), nil
	case "/loaded":
		if !isNumber || n < 1 || n > len(clips) {
			return nil, fmt.Errorf("there is no clip %v", panel.Arg(msg, 0))
		}
		return m.load(n, now), nil
	case "/countdown":
		left, _ := panel.Arg(msg, 0).(string)
		at, err := rate.CountdownFrame(clips[countdownClip-1].frames, left)
		if err != nil {
			return nil, err
		}
		return append(m.load(countdownClip, now), m.seek(at, now)...), nil
	}
	if old, known := m.v.Get(msg.Address); known && strings.HasPrefix(msg.Address, "/clip/") {
		v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), panel.Limits{})
		if err != nil {
			return nil, err
		}
		return []device.Message{m.v.Put(msg.Address, v)}, nil
	}
	return nil, fmt.Errorf("%s cannot be set", strings.TrimPrefix(msg.Address, "/"))
}

func (m *machine) pause(now time.Time) []device.Message {
	at := m.now(now)
	m.v.Put("/play", 0)
	return append(m.seek(at, now), m.v.Put("/play", 0))
}

func (m *machine) load(n int, now time.Time) []device.Message {
	m.length = clips[n-1].frames
	changed := []device.Message{m.v.Put("/play", 0), m.v.Put("/loaded", n), m.v.Put("/in", -1), m.v.Put("/out", -1), m.v.Put("/ended", 0)}
	return append(changed, m.seek(0, now)...)
}

// point sets the in and out points. An out point before the in point is
// refused.
func (m *machine) point(address string, now time.Time) ([]device.Message, error) {
	at := m.now(now)
	in, out := m.v.Int("/in"), m.v.Int("/out")
	switch address {
	case "/in":
		if out >= 0 && at >= out {
			return nil, fmt.Errorf("the in point must lie before the out point at %s", rate.Format(out))
		}
		return []device.Message{m.v.Put("/in", at)}, nil
	case "/out":
		if in >= 0 && at <= in {
			return nil, fmt.Errorf("the out point must lie after the in point at %s", rate.Format(in))
		}
		return []device.Message{m.v.Put("/out", at), m.v.Put("/remaining", 0)}, nil
	case "/reset-in":
		return []device.Message{m.v.Put("/in", -1)}, nil
	case "/reset-out":
		m.v.Put("/out", -1)
		return []device.Message{m.v.Put("/out", -1), m.v.Put("/remaining", m.length-at)}, nil
	}
	if in < 0 {
		return nil, fmt.Errorf("there is no in point to go to")
	}
	return append(m.pause(now), m.seek(in, now)...), nil
}

// told is how many frames pass between two reports while it plays.
const tellEvery = 10

// Tick implements panel.Machine: the clip plays and ends.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	if m.v.Int("/play") == 0 {
		return nil, false
	}
	at := m.now(now)
	if at >= m.end() {
		if changed, more := m.following(now); more {
			return changed, true
		}
		m.v.Put("/play", 0)
		return append(m.seek(m.end(), now), m.v.Put("/play", 0), m.v.Put("/ended", 1)), false
	}
	if at-m.told < tellEvery {
		return nil, true
	}
	m.told = at
	return []device.Message{m.v.Put("/frame", at), m.v.Put("/timecode", rate.Format(at)), m.v.Put("/remaining", m.end()-at), m.v.Put("/left", coarse(m.end()-at))}, true
}

// commands are the lines that are carried out, with the address of each.
var commands = map[string]string{"MARK": "/mark/add", "PLAY-MARK": "/mark/play", "PLAY-ALL": "/mark/all", "PLAY-FROM": "/mark/from", "FORGET": "/mark/forget", "WITH": "/with", "PLAY": "/play", "PAUSE": "/pause", "JOG": "/jog", "JOGS": "/jog-seconds", "IN": "/in", "OUT": "/out",
	"RESET-IN": "/reset-in", "RESET-OUT": "/reset-out", "GOTO-IN": "/goto-in", "SPEED": "/speed", "LOAD": "/loaded", "COUNTDOWN": "/countdown"}

func read(line string) (device.Message, bool) {
	word, value, _ := strings.Cut(line, " ")
	address, ok := commands[word]
	m := device.Message{Address: address}
	if n, err := strconv.Atoi(value); err == nil {
		m.Args = []any{n}
	} else if value != "" {
		m.Args = []any{value}
	}
	return m, ok
}

// reports are the lines that report values, by address.
var reports = map[string]string{"/loaded": "LOADED", "/play": "PLAYING", "/speed": "SPEED", "/frame": "FRAME", "/timecode": "TC", "/in": "IN", "/out": "OUT",
	"/left": "LEFT", "/with": "WITH", "/mark/at": "MARK-AT", "/mark/count": "MARKS", "/remaining": "REMAINING", "/ended": "ENDED", "/model": "MODEL"}

func say(m device.Message) string {
	if n, ok := strings.CutPrefix(m.Address, "/clip/"); ok {
		return fmt.Sprintf("CLIP %s %v", strings.TrimSuffix(n, "/name"), m.Args[0])
	}
	if n, ok := strings.CutPrefix(m.Address, "/mark/"); ok && strings.Contains(n, "/") {
		n, what, _ := strings.Cut(n, "/")
		return fmt.Sprintf("MARK-%s %s %v", strings.ToUpper(what), n, m.Args[0])
	}
	word, ok := reports[m.Address]
	if !ok {
		return ""
	}
	return fmt.Sprintf("%s %v", word, m.Args[0])
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Listener
}

// Start listens on a TCP address, such as 127.0.0.1:7436. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("player", "Clip and replay player", 20*time.Millisecond, newMachine, changed)}
	s.Listener = panel.NewListener(addr, func(c net.Conn) {
		s.ServeLines(c, panel.Talk{Read: read, Say: say, Everything: "STATE?", Model: "MODEL?"})
	})
	if err := s.Core.Start(s.Listener); err != nil {
		return nil, fmt.Errorf("start the bench's player: %w", err)
	}
	return s, nil
}
