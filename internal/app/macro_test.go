package app_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/plan"
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

func TestTheMacrosOfTheNightRunOnTheBench(t *testing.T) {
	r := startIn(t, t.TempDir()).ready()
	for _, d := range []string{"stream-pc", "sound-desk", "talkback", "dome-lights", "audience", "workstation"} {
		r.connected(d)
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

func TestWhatASecondPressDoesIsASettingOfTheMacro(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	make := func(again string) string {
		return r.script("Again "+again, map[string]any{"again": again}, keyer("1", true), wait(1000), keyer("1", false))
	}
	finish := make("finish")
	first := r.run(finish)
	l.at(first, 1)
	if e := r.entry(r.run(finish), journal.Refused); !strings.Contains(e.Reason, "left to finish") {
		t.Error(e.Reason)
	}
	l.over(first)
	stop := make("stop")
	first = r.run(stop)
	h.word("dome-switcher:keyer/1/on", "on")
	r.entry(r.run(stop), journal.Sent)
	if row := l.over(first); row.State != "halted" || len(row.Steps) != 1 {
		t.Errorf("pressed again to stop: %+v", row)
	}
	h.word("dome-switcher:keyer/1/on", "on") // nothing came after
	restart := make("restart")
	first = r.run(restart)
	l.at(first, 1)
	second := r.run(restart)
	if row := l.over(first); row.State != "halted" {
		t.Errorf("the first of two: %+v", row)
	}
	if row := l.over(second); row.State != "ended" || len(row.Steps) != 2 {
		t.Errorf("started over: %+v", row)
	}
	queue := make("queue")
	first = r.run(queue)
	l.at(first, 1)
	second = r.run(queue)
	a, b := l.over(first), l.over(second)
	if b.Started.Before(a.Started.Add(1_000_000_000)) {
		t.Errorf("the second began at %v, the first at %v", b.Started, a.Started)
	}
	// Those that wait get their turn however short it is, or hear why not.
	short := r.script("Short", map[string]any{"again": "queue"}, wait(150), do("synaptor", "marker", map[string]string{"words": "Short"}))
	entries := []string{}
	for range 4 {
		entries = append(entries, r.run(short))
	}
	for _, e := range entries {
		r.entry(e, journal.Confirmed)
	}
	first, second = r.run(queue), r.run(queue)
	l.at(first, 1)
	r.must(202, "POST", "/api/v1/halt", map[string]any{}, nil)
	if e := r.entry(second, journal.Refused); !strings.Contains(e.Reason, "halted") {
		t.Error(e.Reason)
	}
}

func TestAHundredPressesInASecondStartOneRun(t *testing.T) {
	r := start(t).ready()
	l := r.runs()
	id := r.script("Once", nil, keyer("1", true), wait(300), keyer("1", false))
	entries := []string{}
	for range 100 {
		entries = append(entries, r.run(id))
	}
	row := l.over(entries[0])
	if row.State != "ended" {
		t.Errorf("the run: %+v", row)
	}
	began := 0
	for _, e := range entries {
		if r.entry(e).Outcome == journal.Confirmed {
			began++
		}
	}
	if began == 0 || began > 20 {
		t.Errorf("%d of 100 presses began a run", began)
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

func TestADeviceThatGoesInTheMiddleStopsTheRunWithAReason(t *testing.T) {
	r := start(t).ready()
	l := r.runs()
	id := r.script("Cut off", nil, keyer("1", true), wait(1500), keyer("2", true))
	goOn := r.script("Goes on", map[string]any{"onError": "go-on"}, keyer("1", true), wait(1500), keyer("2", true), do("sound-desk", "mute", map[string]string{"channel": "1"}))
	r.connected("sound-desk")
	first, second := r.run(id), r.run(goOn)
	l.at(first, 1)
	r.fault(faults.Faults{Cut: true})
	row := l.over(first)
	if row.State != "failed" || !strings.Contains(row.Reason, "Dome switcher") {
		t.Errorf("cut off: %+v", row)
	}
	if e := r.entry(first); e.Outcome != journal.Failed {
		t.Errorf("its entry ended %s", e.Outcome)
	}
	if row := l.over(second); row.State != "ended" || len(row.Left) == 0 {
		t.Errorf("goes on: %+v", row)
	}
	// With the device away, nothing is begun.
	if e := r.entry(r.run(id), journal.Refused); !strings.Contains(e.Reason, "nothing was started") {
		t.Error(e.Reason)
	}
}

func TestWhatNeverComesIsGivenUpAtItsLimit(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	never := func(otherwise string) map[string]any {
		return map[string]any{"kind": "wait-for", "limitMs": 300, "else": otherwise, "when": "reading('dome-switcher:keyer/3/on') == true"}
	}
	if row := l.over(r.run(r.script("Stops", nil, never(""), keyer("1", true)))); row.State != "failed" || !strings.Contains(row.Reason, "has not come within 300ms") {
		t.Errorf("stops: %+v", row)
	}
	if row := l.over(r.run(r.script("Goes on", nil, never("go-on"), keyer("1", true)))); row.State != "ended" {
		t.Errorf("goes on: %+v", row)
	}
	h.word("dome-switcher:keyer/1/on", "on")
	// What does come ends the wait at once.
	entry := r.run(r.script("Comes", nil, map[string]any{"kind": "wait-for", "limitMs": 9000, "when": "reading('dome-switcher:keyer/3/on') == true"}, keyer("2", true)))
	l.until("it waits", func() bool { return l.row(entry).WaitsAt != "" })
	r.operate("/keyer/3/on", 1)
	if row := l.over(entry); row.State != "ended" || row.TookMs > 8500 {
		t.Errorf("comes: %+v", row)
	}
}

func TestAnEditOfARunningMacroWaitsForTheNextRun(t *testing.T) {
	r := start(t).ready()
	h, l := r.hand("producer-grid"), r.runs()
	id := r.script("Edited", nil, keyer("1", true), wait(1200), keyer("2", true))
	entry := r.run(id)
	l.at(entry, 1)
	doc := r.macro(id)
	r.must(204, "POST", "/api/v1/macros/"+id+"/steps/delete", map[string]any{"steps": []string{doc.Lines[2].ID}}, nil)
	if row := l.over(entry); len(row.Steps) != 2 {
		t.Errorf("the run goes on with what it began with: %+v", row)
	}
	h.word("dome-switcher:keyer/2/on", "on")
	if row := l.over(r.run(id)); len(row.Steps) != 1 {
		t.Errorf("the next run: %+v", row)
	}
	// A macro that is deleted while it runs comes to its end too.
	entry = r.run(r.script("Deleted", nil, keyer("3", true), wait(1000), keyer("3", false)))
	l.at(entry, 1)
	r.must(204, "DELETE", "/api/v1/macros/"+l.row(entry).Macro, nil, nil)
	if row := l.over(entry); row.State != "ended" {
		t.Errorf("deleted: %+v", row)
	}
	h.word("dome-switcher:keyer/3/on", "off")
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

// TestARunIsAsItWasRehearsed holds the rehearsal and the run of generated macros to the
// same order and, since stand-ins answer as fast as they were measured, to the same times.
func TestARunIsAsItWasRehearsed(t *testing.T) {
	r := start(t).ready()
	r.connected("sound-desk")
	r.must(204, "PUT", "/api/v1/bench/switcher/faults", faults.Faults{LatencyMs: 30}, nil)
	r.must(204, "PUT", "/api/v1/bench/mixer/faults", faults.Faults{LatencyMs: 70}, nil)
	l := r.runs()
	mute := func(channel string, on bool) map[string]any {
		return do("sound-desk", map[bool]string{true: "mute", false: "open"}[on], map[string]string{"channel": channel})
	}
	// How fast they answer is known before.
	for _, on := range []bool{true, false, true} {
		l.over(r.run(r.script(fmt.Sprint("Warm ", len(l.values)), nil, keyer("1", on), keyer("2", on), mute("1", on), mute("2", on), wait(150))))
	}
	random := rand.New(rand.NewPCG(11, 7))
	on := true
	for n := range 5 {
		var steps []map[string]any
		for i := range 3 + random.IntN(4) {
			on = !on
			switch random.IntN(4) {
			case 0:
				steps = append(steps, wait(60+10*random.IntN(15)))
			case 1:
				label := fmt.Sprint("t", i)
				steps = append(steps, map[string]any{"kind": "together", "as": label})
				k, m := keyer("3", on), mute("3", on)
				k["in"], m["in"] = label, label
				steps = append(steps, k, m)
			case 2:
				label := fmt.Sprint("r", i)
				steps = append(steps, map[string]any{"kind": "repeat", "count": 2, "as": label})
				k, w := keyer("1", on), wait(120)
				k["in"], w["in"] = label, label
				steps = append(steps, k, w)
			default:
				steps = append(steps, mute("4", on), wait(100))
			}
		}
		// A device that is told two things at once may answer late; the order stays.
		id := r.script(fmt.Sprint("Generated ", n), map[string]any{"onError": "go-on"}, append(steps, putBack)...)
		var want plan.Rehearsed
		r.must(200, "GET", "/api/v1/macros/"+id+"/rehearsal", nil, &want)
		row := l.over(r.run(id))
		if len(row.Steps) != len(want.Steps) {
			t.Fatalf("rehearsed %+v, it ran %+v", want.Steps, row.Steps)
		}
		for i, s := range row.Steps {
			if w := want.Steps[i]; s.Step != w.Step || math.Abs(float64(s.DispatchedUs)/1000-w.AtMs) > tolerance {
				t.Errorf("step %d: rehearsed %s at %.0f ms, it ran %s at %.0f ms", i, w.Step, w.AtMs, s.Step, float64(s.DispatchedUs)/1000)
			}
			for _, c := range want.Changes {
				if c.Step == s.Step && s.Group != "" && s.StartedUs > 0 && math.Abs(float64(s.StartedUs)/1000-c.AtMs) > tolerance {
					t.Errorf("step %d: rehearsed to show at %.0f ms, it did at %.0f ms", i, c.AtMs, float64(s.StartedUs)/1000)
				}
			}
		}
	}
}

// tolerance is by how many milliseconds a run may differ from its rehearsal here, on a
// machine that is busy with other tests.
const tolerance = 1500
