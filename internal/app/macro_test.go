package app_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// script makes a macro of steps in short, and returns its id. Each step is the JSON of
// its fields; "in" as the first word puts it into the step before that holds steps.
func (r *rig) script(name string, settings map[string]any, steps ...map[string]any) string {
	r.Helper()
	var m struct{ ID string }
	r.must(201, "POST", "/api/v1/macros", map[string]any{"name": name}, &m)
	if settings != nil {
		var doc macroDoc
		r.must(200, "GET", "/api/v1/macros/"+m.ID, nil, &doc)
		settings["name"], settings["rev"] = name, doc.Rev
		r.must(204, "PUT", "/api/v1/macros/"+m.ID, settings, nil)
	}
	parents := map[any]string{nil: ""}
	at := map[string]int{}
	for _, s := range steps {
		parent, known := parents[s["in"]]
		if !known {
			r.Fatalf("%v is in nothing", s)
		}
		label := s["as"]
		delete(s, "in")
		delete(s, "as")
		s["parent"], s["at"] = parent, at[parent]
		at[parent]++
		var made struct{ ID string }
		r.must(201, "POST", "/api/v1/macros/"+m.ID+"/steps", s, &made)
		if label != nil {
			parents[label] = made.ID
		}
	}
	return m.ID
}

type macroDoc struct {
	Rev     int64
	Lines   []struct{ ID, Kind, Title, Parent, Problem string }
	Problem string
	Bars    []struct {
		Step                 string
		DispatchMs, StartsMs float64
	}
	Findings []struct{ ID, Step, Other, Text, Fix string }
}

func (r *rig) macro(id string) (doc macroDoc) {
	r.Helper()
	r.must(200, "GET", "/api/v1/macros/"+id, nil, &doc)
	return doc
}

func do(device, action string, params map[string]string) map[string]any {
	return map[string]any{"kind": "do", "action": map[string]any{"device": device, "action": action, "params": params}}
}

func wait(ms int) map[string]any { return map[string]any{"kind": "wait", "ms": ms} }

func keyer(n string, on bool) map[string]any {
	return do("dome-switcher", map[bool]string{true: "keyer-on", false: "keyer-off"}[on], map[string]string{"keyer": n})
}

func program(input string) map[string]any {
	return do("dome-switcher", "put-on-program", map[string]string{"mix": "1", "input": input})
}

var putBack = map[string]any{"kind": "put-back"}

func (r *rig) run(id string) string {
	r.Helper()
	var c struct{ ID string }
	r.must(202, "POST", "/api/v1/macros/"+id+"/run", nil, &c)
	return c.ID
}

// runs follows the runs.
type runs struct{ *live }

func (r *rig) runs() runs { return runs{r.follow("runs")} }

func (l runs) row(entry string) (row engine.RunRow) {
	_ = json.Unmarshal(l.values["run/"+entry], &row)
	return row
}

// over waits until a run has ended, and gives it.
func (l runs) over(entry string) engine.RunRow {
	l.r.Helper()
	l.until("the run has ended", func() bool { return l.row(entry).Ended })
	return l.row(entry)
}

// at waits until a run has dispatched so many steps.
func (l runs) at(entry string, steps int) {
	l.r.Helper()
	l.until(fmt.Sprintf("%d steps were sent", steps), func() bool { return len(l.row(entry).Steps) >= steps })
}

// hurry has the waits and fades of a macro take half a second: how long they really take
// is tested where time is not real.
func (r *rig) hurry(id string) {
	r.Helper()
	var doc struct {
		Lines []struct {
			ID, Kind string
			Rev      int64
			Action   *struct {
				Device string            `json:"device"`
				Action string            `json:"action"`
				Params map[string]string `json:"params"`
			}
		}
	}
	r.must(200, "GET", "/api/v1/macros/"+id, nil, &doc)
	for _, l := range doc.Lines {
		if l.Kind == "wait" || l.Kind == "fade" {
			r.must(200, "PUT", "/api/v1/macros/"+id+"/steps/"+l.ID, map[string]any{"rev": l.Rev, "kind": l.Kind, "ms": 500, "action": l.Action}, nil)
		}
	}
}

func TestTheMacrosOfTheNightRunOnTheBench(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	for _, d := range []string{"stream-pc", "sound-desk", "talkback", "dome-lights", "audience", "workstation"} {
		r.connected(d)
	}
	for _, id := range []string{"meteor", "clouds"} {
		r.hurry(id)
	}
	h := r.hand("producer-grid")
	l := r.runs()
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	if e := r.entry(r.run("open-the-night"), journal.Confirmed); !strings.Contains(fmt.Sprint(e.Steps), "stream/on is on") {
		t.Errorf("the night was not opened: %v", e.Steps)
	}
	id := r.press("f4")
	h.word("dome-switcher:mix/1/program", "All-sky cam")
	h.word("dome-switcher:keyer/2/on", "on")
	r.entry(id, journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "Presenter cam")
	h.word("dome-switcher:keyer/2/on", "off")
	if row := l.over(id); len(row.Together) != 1 || row.Together[0].MeasuredUs == 0 {
		t.Errorf("the together was not measured: %+v", row)
	}
	r.entry(r.run("guest-joins"), journal.Confirmed)
	h.word("dome-switcher:mix/1/program", "Guest cam")
	for _, corner := range []string{"top left", "top right", "bottom right", "bottom left", "top left"} {
		r.entry(r.run("corner-camera"), journal.Confirmed)
		h.word("dome-switcher:mix/1/keyer/1/corner", corner)
	}
	// Somebody operates the switcher by hand: the next press goes on from there.
	r.operate("/mix/1/keyer/1/corner", "bottom right")
	h.word("dome-switcher:mix/1/keyer/1/corner", "bottom right")
	r.entry(r.run("corner-camera"), journal.Confirmed)
	h.word("dome-switcher:mix/1/keyer/1/corner", "bottom left")
	r.entry(r.run("surprise-sound"), journal.Confirmed)
	r.entry(r.run("clouds"), journal.Confirmed)
	h.word("sound-desk:channel/5/level", "0 dB")
	h.word("dome-switcher:out/1/source", "Still 1")
}

func TestAHotkeyIsHeldForItsPressLengthBeforeTheNext(t *testing.T) {
	r := start(t).ready()
	r.connected("workstation")
	r.runs()
	stroke := func(keys, held string) map[string]any {
		return map[string]any{"kind": "do", "action": map[string]any{"device": "workstation", "action": "hotkey", "params": map[string]string{"keys": keys, "held": held}}}
	}
	// The workstation refuses a stroke while keys are held down.
	r.entry(r.run(r.script("Strokes", nil, stroke("Ctrl+K", "120"), stroke("Ctrl+L", "0"))), journal.Confirmed)
	if got := r.atStandIn("workstation", "/last/hotkey"); !strings.HasPrefix(fmt.Sprint(got), "Ctrl+L") {
		t.Errorf("the last hotkey is %v", got)
	}
	// A gap of a step is stored, comes with the macro, and has its limits.
	gap := stroke("Ctrl+M", "0")
	gap["gapMs"] = 90
	id := r.script("Gap", nil, gap, stroke("Ctrl+N", "0"))
	if bars := r.macro(id).Bars; len(bars) != 2 || bars[1].DispatchMs != 90 {
		t.Errorf("the plan is %+v", bars)
	}
	r.must(422, "POST", "/api/v1/macros/"+id+"/steps", map[string]any{"kind": "wait", "ms": 10, "gapMs": 90}, nil)
	gap["gapMs"] = 70_000
	r.must(422, "POST", "/api/v1/macros/"+id+"/steps", gap, nil)
}

func TestAHaltStopsAFadeThatTheDeviceDoesByItself(t *testing.T) {
	r := start(t).ready()
	r.connected("dome-lights")
	l := r.runs()
	lamp := map[string]string{"lamp": "2", "level": "0"}
	id := r.script("Dim", nil, map[string]any{"kind": "fade", "ms": 3000, "action": map[string]any{"device": "dome-lights", "action": "brightness", "params": lamp}})
	brightness := func() int {
		n, _ := r.atStandIn("lights", "/lamp/2/brightness").(int)
		return n
	}
	r.operateOn("lights", "/lamp/2/brightness", 90)
	entry := r.run(id)
	began := time.Now()
	r.eventually("the lamp is on its way", func() bool { return brightness() < 80 })
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	if row := l.over(entry); row.State != "halted" {
		t.Errorf("halted: %+v", row)
	}
	r.eventually("the fade would be over", func() bool { return time.Since(began) > 4*time.Second })
	if at := brightness(); at < 10 {
		t.Errorf("the lamp has gone on to %v", at)
	}
}

func TestAHaltStopsEverythingAtOnceAndOffersWhatIsLeft(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	h, l := r.hand("scope-console"), r.runs()
	id := r.script("Long", nil, keyer("2", true),
		map[string]any{"kind": "fade", "ms": 5000, "action": map[string]any{"device": "sound-desk", "action": "level", "params": map[string]string{"channel": "5", "level": "10"}}},
		wait(5000), program("6"))
	entry := r.run(id)
	h.word("dome-switcher:keyer/2/on", "on")
	l.until("the music has begun to move", func() bool { return len(l.row(entry).Steps) == 2 })
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	row := l.over(entry)
	if row.State != "halted" || row.TookMs > 9000 {
		t.Errorf("halted: %+v", row)
	}
	var left []engine.LeftOver
	l.until("what is left is offered", func() bool {
		_ = json.Unmarshal(l.values["left"], &left)
		return len(left) == 1
	})
	if left[0].Entry != entry || left[0].Title != "Long" {
		t.Errorf("left over: %+v", left)
	}
	r.must(202, "POST", "/api/v1/putback/"+entry, nil, nil)
	h.word("dome-switcher:keyer/2/on", "off")
	h.word("sound-desk:channel/5/level", "-10 dB")
	l.until("nothing is left", func() bool { return string(l.values["left"]) == "[]" })
}

func TestAToggleOfTurnsSurvivesARestart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	h, l := r.hand("producer-grid"), r.runs()
	id := r.script("Remembered", nil, map[string]any{"kind": "turns", "as": "t"})
	doc := r.macro(id)
	for i, n := range []string{"1", "2"} {
		s := keyer(n, true)
		s["parent"], s["at"] = doc.Lines[i+1].ID, 0
		r.must(201, "POST", "/api/v1/macros/"+id+"/steps", s, nil)
	}
	l.over(r.run(id))
	h.word("dome-switcher:keyer/1/on", "on")
	r.App.Close()
	r = startIn(t, data)
	var rows []reading
	r.eventually("the branch is known after the restart", func() bool {
		r.must(200, "GET", "/api/v1/readings?device=synaptor&path=macro/"+id+"/branch", nil, &rows)
		return len(rows) == 1 && rows[0].Value == doc.Lines[1].ID
	})
}
