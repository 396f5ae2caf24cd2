package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// probe is how the tests work a device: an action with a value that tells each
// press from the others, and a hand that changes something behind Synaptor's
// back.
type probe struct {
	action, param string
	values        func(n int) string
	fixed         map[string]string
	hand          device.Message
	path          string // the reading that the hand changes
	word          string // what it says then
}

func count(from, step int) func(int) string {
	return func(n int) string { return fmt.Sprint(from + step*n) }
}

var probes = map[string]probe{
	"stream-pc":        {"transition-length", "ms", count(1000, 1), nil, say("/transition/kind", "wipe"), "transition/kind", "wipe"},
	"dome-switcher":    {"transition-frames", "frames", count(30, 1), nil, say("/mix/2/program", 91), "mix/2/program", "Bars"},
	"sound-desk":       {"main-level", "level", count(-60, 1), nil, say("/channel/1/mute", 0), "channel/1/mute", "off"},
	"talkback":         {"level", "level", count(-50, 1), map[string]string{"line": "2"}, say("/line/3/talker", "Saskia"), "line/3/talker", "Saskia"},
	"dome-lights":      {"brightness", "level", count(1, 1), map[string]string{"lamp": "2"}, say("/lamp/3/on", true), "lamp/3/on", "on"},
	"dome-camera":      {"brightness", "level", count(1, 1), nil, say("/exposure", "1/50"), "exposure", "1/50"},
	"replay-player":    {"speed", "percent", count(101, 1), nil, say("/loaded", 2), "loaded", "Slow pan"},
	"audience":         {"send", "words", func(n int) string { return fmt.Sprintf("message %d", n) }, nil, say("/viewers", 140), "viewers", "140"},
	"workstation":      {"volume", "level", count(1, 1), nil, say("/media/playing", 1), "media/playing", "on"},
	"name-plates":      {"write", "words", func(n int) string { return fmt.Sprintf("Guest %d", n) }, map[string]string{"field": "1"}, say("/shown", true), "shown", "on"},
	"talk-slides":      {"start", "", count(1, 1), nil, say("/blank", 1), "blank", "on"},
	"lectern-prompter": {"speed", "speed", count(40, 1), nil, say("/mirror", 0), "mirror", "off"},
	"guest-room":       {"join", "", count(1, 1), nil, say("/guest/1/here", false), "guest/1/here", "off"},
	"record-shelf":     {"volume", "level", count(1, 1), nil, say("/muted", true), "muted", "on"},
}

var standIns = map[string]string{"stream-pc": "streaming", "dome-switcher": "switcher", "sound-desk": "mixer", "talkback": "intercom", "dome-lights": "lights",
	"dome-camera": "camera", "replay-player": "player", "audience": "chat", "workstation": "workstation",
	"name-plates": "titles", "talk-slides": "slides", "lectern-prompter": "prompter", "guest-room": "meeting", "record-shelf": "music"}

// try starts the probe's action with the nth value.
func (r *rig) try(id string, n int) string {
	r.Helper()
	p := probes[id]
	params := map[string]string{}
	if p.param != "" {
		params[p.param] = p.values(n)
	}
	for k, v := range p.fixed {
		params[k] = v
	}
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/devices/"+id+"/try", map[string]any{"action": p.action, "params": params}, &made)
	return made.ID
}

// phase gives where a link stands.
func (r *rig) phase(id string) (st link.State) {
	v := r.Mirror.View()
	st = v.Link(id)
	return st
}

// TestEveryFaultOnEveryProtocol sets each fault on each device in turn, while
// inputs arrive: nothing is sent late, no neighbour waits, and the state is
// right once the fault is gone.
func TestEveryFaultOnEveryProtocol(t *testing.T) {
	for name, f := range map[string]struct {
		fault faults.Faults
		lost  bool // the link goes
	}{
		"the cable is out":      {faults.Faults{Cut: true}, true},
		"it is silent":          {faults.Faults{Silent: true}, true},
		"it is slow":            {faults.Faults{LatencyMs: 150, JitterMs: 80}, false},
		"it hears nothing more": {faults.Faults{LossPercent: 100}, false},
	} {
		t.Run(name, func(t *testing.T) {
			r := start(t)
			for id := range probes {
				r.connected(id)
			}
			for id := range probes {
				r.suffer(id, f.fault, f.lost)
			}
		})
	}
}

// suffer sets a fault on one device, presses it and a neighbour, and takes the
// fault back.
func (r *rig) suffer(id string, f faults.Faults, lost bool) {
	r.Helper()
	s := r.Bench.StandIn(standIns[id])
	neighbour := "dome-camera"
	if id == neighbour {
		neighbour = "dome-switcher"
	}
	if e := r.entry(r.try(id, 1)); e.Outcome != journal.Confirmed && e.Outcome != journal.Sent {
		r.Fatalf("%s: a press before the fault ended %s: %s", id, e.Outcome, e.Reason)
	}
	if err := s.SetFaults(f); err != nil {
		r.Fatal(err)
	}
	during := []string{}
	for n := 2; n < 8; n++ {
		during = append(during, r.try(id, n))
	}
	if e := r.entry(r.try(neighbour, 20), journal.Confirmed); e.Outcome != journal.Confirmed {
		r.Fatalf("%s: its neighbour %s had to wait", id, neighbour)
	}
	if lost {
		r.eventually(id+" is away", func() bool { p := r.phase(id).Phase; return p == link.Down })
	}
	if err := s.Operate(probes[id].hand); err != nil {
		r.Fatal(err)
	}
	seen := len(s.View().Recent)
	for _, e := range during {
		if got := r.entry(e); got.Outcome == journal.UnderWay {
			r.Errorf("%s: %s never ended", id, e)
		}
	}
	if err := s.SetFaults(faults.Faults{}); err != nil {
		r.Fatal(err)
	}
	r.connected(id)
	if f.LossPercent > 0 {
		// What was lost in a link that stands is told again with the next change.
		if err := s.Operate(probes[id].hand); err != nil {
			r.Fatal(err)
		}
	}
	r.eventually(id+" is read again", func() bool {
		var rows []reading
		r.must(200, "GET", "/api/v1/readings?device="+id+"&path="+probes[id].path, nil, &rows)
		return len(rows) == 1 && rows[0].Word == probes[id].word && rows[0].Quality == "confirmed"
	})
	e := r.entry(r.try(id, 9))
	// What a slow device held back of the time before can still be on its way, and contradicts a press or two.
	for n := 10; n < 14 && f.LatencyMs > 0 && e.Outcome == journal.Disagreed; n++ {
		e = r.entry(r.try(id, n))
	}
	if e.Outcome != journal.Confirmed && e.Outcome != journal.Sent {
		r.Fatalf("%s: a press after the fault ended %s: %s", id, e.Outcome, e.Reason)
	}
	// Nothing of the time without a link arrived after it.
	if recent := s.View().Recent; lost && len(recent) >= seen {
		for n := 3; n < 8; n++ {
			for _, line := range recent[max(0, seen-1):] {
				if strings.HasSuffix(line, " "+probes[id].values(n)) {
					r.Errorf("%s: %q was sent late", id, line)
				}
			}
		}
	}
}

func TestADeviceThatLosesItsPowerComesBackAsDelivered(t *testing.T) {
	r := start(t)
	since := map[string]time.Time{}
	for id := range probes {
		r.connected(id)
		since[id] = r.phase(id).Since
	}
	for id := range probes {
		r.must(204, "POST", "/api/v1/bench/"+standIns[id]+"/restart", nil, nil)
	}
	for id := range probes {
		r.eventually(id+" was away", func() bool { return !r.phase(id).Since.Equal(since[id]) })
		r.connected(id)
		if e := r.entry(r.try(id, 11)); e.Outcome != journal.Confirmed && e.Outcome != journal.Sent {
			r.Errorf("%s: a press after the power cut ended %s: %s", id, e.Outcome, e.Reason)
		}
	}
}

func TestAWrongPasswordIsSaidOnceAndCorrected(t *testing.T) {
	r := start(t)
	for _, id := range []string{"stream-pc", "talkback", "dome-lights", "audience", "guest-room", "record-shelf"} {
		r.connected(id)
		d := r.device(id)
		change := map[string]any{"rev": d.Rev, "name": d.Name, "type": d.Type, "host": d.Host, "port": d.Port, "password": "meteors? no"}
		r.must(204, "PUT", "/api/v1/devices/"+id, change, nil)
		r.eventually(id+" does not let Synaptor in", func() bool { return r.phase(id).Phase == link.Locked })
		if p := r.phase(id).Problem; !strings.Contains(p, "is wrong") || strings.Contains(p, "meteors?") {
			t.Errorf("%s: %s", id, p)
		}
		if e := r.entry(r.try(id, 3), journal.Refused); !strings.Contains(e.Reason, "password") {
			t.Errorf("%s: a press is refused with %q", id, e.Reason)
		}
		tries := func() (n int) {
			v := r.Mirror.View()
			for _, l := range v.Wire(id).Lines(0) {
				if l.Dir == "note" {
					n++
				}
			}
			return n
		}
		before := tries()
		r.must(204, "POST", "/api/v1/devices/"+id+"/reconnect", nil, nil)
		r.eventually("it is tried once more, on demand", func() bool { return tries() == before+1 })
		r.must(200, "POST", "/api/v1/undo", nil, nil)
		r.connected(id)
	}
}

func TestPasswordsAreNowhereToBeSeen(t *testing.T) {
	r := start(t)
	for _, id := range []string{"stream-pc", "talkback", "dome-lights", "audience", "guest-room", "record-shelf"} {
		r.connected(id)
	}
	for _, path := range []string{"/api/v1/show", "/api/v1/edits", "/api/v1/journal", "/api/v1/devices/stream-pc/wire", "/api/v1/devices/audience/wire", "/api/v1/devices/talkback/wire", "/metrics"} {
		body := r.text(path)
		for _, secret := range []string{"meteor-shower", "eyepiece\"", "red-light-only", "perseids-2026", "guest-room-2026", "slow-turntable"} {
			if strings.Contains(body, secret) {
				t.Errorf("%s shows %s", path, secret)
			}
		}
	}
	if d := r.device("stream-pc"); !d.HasPassword || d.Factory || d.Login != "challenge" {
		t.Errorf("the device is %+v", d)
	}
	d := r.device("talkback")
	r.must(204, "PUT", "/api/v1/devices/talkback", map[string]any{"rev": d.Rev, "name": d.Name, "type": d.Type, "host": d.Host, "port": d.Port, "password": "intercom"}, nil)
	if !r.device("talkback").Factory {
		t.Error("the password of the factory is not noted")
	}
}
