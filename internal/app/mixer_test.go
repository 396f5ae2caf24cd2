package app_test

import (
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/journal"
)

// desk waits until the sound desk is connected and puts a key on it.
func (r *rig) desk(control, action string, params map[string]string) *live {
	r.Helper()
	l := r.follow("devices", "readings", "page:cut", "show")
	l.until("the sound desk is connected", func() bool { return l.device("sound-desk")["phase"] == "up" })
	r.must(201, "PUT", "/api/v1/pages/cut/controls/"+control, map[string]any{"device": "sound-desk", "action": action, "params": params}, nil)
	return l
}

func (l *live) reading(path string) string { return string(l.values["reading/sound-desk:"+path]) }

func TestAMicrophoneOpensOverUDP(t *testing.T) {
	r := start(t).ready()
	l := r.desk("a4", "mute-toggle", map[string]string{"channel": "1"})
	e := r.entry(r.press("a4"), journal.Confirmed)
	if e.Title != "Open or mute Imke" || e.Device != "Sound desk" {
		t.Errorf("%+v", e)
	}
	l.until("Imke is open", func() bool { return strings.Contains(l.reading("channel/1/mute"), `"word":"off"`) })
	if err := r.Bench.StandIn("mixer").Operate(say("/channel/1/mute", 1)); err != nil {
		t.Fatal(err)
	}
	l.until("the desk has muted Imke", func() bool { return strings.Contains(l.reading("channel/1/mute"), `"word":"on"`) })
	if err := r.Bench.StandIn("mixer").Operate(say("/main/level", -95.0)); err != nil {
		t.Fatal(err)
	}
	l.until("silence is a value", func() bool {
		return strings.Contains(l.reading("main/level"), `"value":"-inf"`) && strings.Contains(l.reading("main/level"), `"word":"-inf dB"`)
	})
}

func TestALevelIsConfirmedWithinATenth(t *testing.T) {
	r := start(t).ready()
	r.desk("a4", "level", map[string]string{"channel": "5", "level": "-20.04"})
	r.entry(r.press("a4"), journal.Confirmed)
	if p := r.fails(422, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "sound-desk", "action": "level", "params": map[string]string{"channel": "5", "level": "11"}}); p.Field != "params.level" {
		t.Errorf("a level out of range: %+v", p)
	}
}

func TestADeskThatGoesAwayDisturbsNobodyAndComesBack(t *testing.T) {
	r := start(t).ready()
	l := r.desk("a4", "open", map[string]string{"channel": "1"})
	for _, f := range []faults.Faults{{Cut: true}, {Silent: true}} {
		if err := r.Bench.StandIn("mixer").SetFaults(f); err != nil {
			t.Fatal(err)
		}
		l.until("the desk is away", func() bool {
			return l.device("sound-desk")["phase"] == "down" && strings.Contains(l.reading("main/level"), `"unknown"`)
		})
		e := r.entry(r.press("a4"), journal.Refused)
		if !strings.Contains(e.Reason, "Sound desk does not answer") {
			t.Errorf("the reason is %q", e.Reason)
		}
		r.entry(r.press("b1"), journal.Confirmed) // the switcher is not concerned
		if err := r.Bench.StandIn("mixer").SetFaults(faults.Faults{}); err != nil {
			t.Fatal(err)
		}
		l.until("the desk is back and read", func() bool {
			return l.device("sound-desk")["phase"] == "up" && strings.Contains(l.reading("main/level"), `"confirmed"`)
		})
		if got := r.Bench.StandIn("mixer").View().Values["/channel/1/mute"]; got != 1 {
			t.Error("a press of the time away was sent")
		}
	}
	r.entry(r.press("a4"), journal.Confirmed)
}
