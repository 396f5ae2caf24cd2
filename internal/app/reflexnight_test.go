package app_test

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"synaptor/internal/journal"
	"synaptor/internal/store"
)

// would is what a reflex would have done in the last hour.
type would struct {
	Fired, Held int
	Rows        []struct {
		Text, Why, Does string
		Fires           bool
		Changes         []struct{ Title, From, To string }
	}
}

// mapReflex is the map command as a person makes it.
func mapReflex() map[string]any {
	return map[string]any{"name": "Map", "on": map[string]any{"kind": "device", "device": "audience", "event": "message"}, "when": "event.text == '!map'", "everyMs": 60_000, "then": putOn("1", "5")}
}

// TestWhatItWouldHaveDoneIsAskedOfTheRecord: before a reflex is kept, over what the audience has said, and what came of it; a restart loses nothing of that.
func TestWhatItWouldHaveDoneIsAskedOfTheRecord(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	r.connected("audience")
	r.operate("/mix/1/program", 1)
	r.eventually("it is so", func() bool { return r.reading("mix/1/program").Value == 1.0 })
	for _, text := range []string{"Nachteule: hello", "Nachteule: !map", "Sternfahrer: !map"} {
		r.operateOn("chat", "/say", text)
	}
	var events []struct {
		Text   string
		Fields map[string]any
	}
	r.eventually("the messages are recorded", func() bool {
		r.must(200, "POST", "/api/v1/reflexes/events", map[string]any{"on": mapReflex()["on"]}, &events)
		return len(events) == 3
	})
	if events[0].Fields["who"] != "Sternfahrer" || !strings.Contains(events[0].Text, "!map") {
		t.Errorf("the last event is %+v", events[0])
	}
	r = r.again(data)
	r.connected("audience")
	var w would
	r.must(200, "POST", "/api/v1/reflexes/would", map[string]any{"reflex": mapReflex(), "hours": 1}, &w)
	if w.Fired != 1 || w.Held != 2 || len(w.Rows) != 2 {
		t.Fatalf("it would have done %+v", w)
	}
	if fired := w.Rows[0]; !fired.Fires || !strings.Contains(fired.Does, "Slides") || len(fired.Changes) == 0 || !strings.Contains(fired.Changes[0].To, "Slides") {
		t.Errorf("it would have fired as %+v", w.Rows[0])
	}
	if why := w.Rows[1].Why; !strings.Contains(why, "at most once") {
		t.Errorf("the other one was held because %q", why)
	}
	level := map[string]any{"name": "X", "on": map[string]any{"kind": "reading", "device": "dome-switcher", "path": "mix/1/program", "edge": "changes"}, "then": putOn("2", "2")}
	r.operate("/mix/1/program", 3)
	r.eventually("a change of a reading is in the record", func() bool {
		r.must(200, "POST", "/api/v1/reflexes/would", map[string]any{"reflex": level, "hours": 1}, &w)
		return w.Fired >= 1
	})
	if p := r.fails(400, "POST", "/api/v1/reflexes/would", map[string]any{"reflex": mapReflex(), "hours": 1000}); p.Field != "hours" {
		t.Errorf("too long a night is wrong at %s", p.Field)
	}
}

// TestAReflexIsTriedWithAnEvent: rehearsed before it is kept, and taken up for real after.
func TestAReflexIsTriedWithAnEvent(t *testing.T) {
	r := start(t).ready()
	var tried struct {
		Fires     bool
		Why, Does string
		Changes   []struct{ Title, From, To string }
	}
	try := func(body map[string]any, fields map[string]any) {
		t.Helper()
		r.must(200, "POST", "/api/v1/reflexes/try", map[string]any{"reflex": body, "fields": fields}, &tried)
	}
	try(mapReflex(), map[string]any{"who": "Imke", "text": "!map"})
	if !tried.Fires || len(tried.Changes) == 0 {
		t.Errorf("it would do %+v", tried)
	}
	try(mapReflex(), map[string]any{"text": "hello"})
	if tried.Fires || tried.Why == "" {
		t.Errorf("with another text it would do %+v", tried)
	}
	meteor := mapReflex()
	meteor["then"] = map[string]any{"device": "synaptor", "action": "run", "params": map[string]string{"macro": "meteor"}}
	try(meteor, map[string]any{"text": "!map"})
	if !tried.Fires || len(tried.Changes) < 3 {
		t.Errorf("a macro would do %+v", tried)
	}
	filled := mapReflex()
	filled["then"] = putOn("1", "{event.camera}")
	filled["table"] = map[string]any{"by": "who", "columns": []string{"camera"}, "rows": [][]string{{"Imke", "1"}, {"Saskia", "4"}}}
	try(filled, map[string]any{"who": "saskia", "text": "!map"})
	if !strings.Contains(tried.Does, "Guest cam") {
		t.Errorf("the table has it do %+v", tried)
	}
	id := r.reflex("Map", nil, filled)
	l := r.follow("reflexes")
	r.must(204, "POST", "/api/v1/reflexes/"+id+"/run", map[string]any{"fields": map[string]any{"who": "Saskia", "text": "!map"}}, nil)
	r.eventually("it is carried out", func() bool { return r.reading("mix/1/program").Value == 4.0 })
	l.until("it counts", func() bool { return l.reflex(id).Count == 1 })
	resp, err := http.Get(r.base + "/api/v1/reflexes/" + id + "/table")
	if _, text := r.answered(resp, err); text != "who,camera\nImke,1\nSaskia,4\n" {
		t.Errorf("the table as CSV is %q", text)
	}
	var table map[string]any
	r.must(200, "POST", "/api/v1/reflexes/table", map[string]any{"text": "who;camera\nTobin;2\n"}, &table)
	if fmt.Sprint(table["rows"]) != "[[Tobin 2]]" {
		t.Errorf("a table is read as %v", table)
	}
	if p := r.fails(422, "POST", "/api/v1/reflexes/table", map[string]any{"text": "who"}); p.Field != "table" {
		t.Errorf("a file without columns is wrong at %s", p.Field)
	}
}

// TestSwitchesTimersAndSkipsSurviveARestartOfTheProgram, as do schedules that are passed over once.
func TestSwitchesTimersAndSkipsSurviveARestartOfTheProgram(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	id := r.reflex("Late", map[string]any{"kind": "schedule", "at": "04:00", "days": []string{"mon", "sun"}}, nil)
	other := r.reflex("Other", map[string]any{"kind": "signal", "signal": "Cue"}, nil)
	var timer struct{ ID string }
	r.must(201, "POST", "/api/v1/timers", map[string]any{"name": "Break", "kind": "down", "seconds": 600}, &timer)
	l := r.follow("reflexes")
	r.must(204, "PUT", "/api/v1/reflexes/"+id+"/skip", map[string]any{"skip": true}, nil)
	r.must(202, "PUT", "/api/v1/reflexes/"+other+"/on", map[string]any{"on": false}, nil)
	r.must(202, "PUT", "/api/v1/reflexes", map[string]any{"audience": false}, nil)
	r.must(202, "POST", "/api/v1/devices/synaptor/try", map[string]any{"action": "timer-start", "params": map[string]string{"timer": timer.ID}}, nil)
	own := func(path string) any { return r.readingOf("synaptor", path).Value }
	l.until("it is so", func() bool { return l.reflex(id).Skipped && !l.reflex(other).On })
	r.eventually("the timer runs", func() bool { return own("timer/"+timer.ID+"/running") == true && own("audience/on") == false })
	r = r.again(data)
	l = r.follow("reflexes")
	l.until("it is still so", func() bool { return l.reflex(id).Skipped && !l.reflex(other).On })
	r.eventually("the timer still runs", func() bool { return own("timer/"+timer.ID+"/running") == true && own("audience/on") == false })
	if next := l.reflex(id).Next; next.Before(time.Now()) {
		t.Errorf("it comes next at %v", next)
	}
	for field, on := range map[string]map[string]any{
		"on.at": {"kind": "schedule", "at": "25:00"}, "on.cron": {"kind": "schedule", "cron": "@every 1s"}, "on.signal": {"kind": "signal", "signal": "//"}, "on.timecode": {"kind": "timecode", "timecode": "1:2"},
		"when": {"kind": "while"}, "on.gesture": {"kind": "gesture", "controller": "producer-grid"},
	} {
		if p := r.fails(422, "POST", "/api/v1/reflexes", map[string]any{"name": "X", "on": on, "then": putOn("1", "5")}); p.Field != field {
			t.Errorf("%v is wrong at %s, want %s", on, p.Field, field)
		}
	}
	for field, body := range map[string]map[string]any{"name": {"name": "break", "kind": "up"}, "kind": {"name": "X", "kind": "sideways"}, "seconds": {"name": "X", "kind": "down"}, "at": {"name": "X", "kind": "to", "at": "9"}} {
		if p := r.fails(422, "POST", "/api/v1/timers", body); p.Field != field {
			t.Errorf("%v is wrong at %s, want %s", body, p.Field, field)
		}
	}
	var timers []struct{ Rev int64 }
	r.must(200, "GET", "/api/v1/timers", nil, &timers)
	r.must(204, "PUT", "/api/v1/timers/"+timer.ID, map[string]any{"name": "Interval", "kind": "up", "rev": timers[len(timers)-1].Rev}, nil)
	r.must(204, "DELETE", "/api/v1/timers/"+timer.ID, nil, nil)
	r.eventually("its readings are gone", func() bool { return own("timer/"+timer.ID+"/running") == nil })
	r.must(204, "PUT", "/api/v1/settings/zone", map[string]any{"timeZone": "Australia/Lord_Howe"}, nil)
	if p := r.fails(422, "PUT", "/api/v1/settings/zone", map[string]any{"timeZone": "Mars/Olympus"}); p.Field != "timeZone" {
		t.Errorf("a zone that is none is wrong at %s", p.Field)
	}
}

// TestSignalsComeByTheNetwork, with what they bring along, and from those only to whom all is given.
func TestSignalsComeByTheNetwork(t *testing.T) {
	r := start(t).ready()
	id := r.reflex("Cue", map[string]any{"kind": "signal", "signal": "cue dome"}, map[string]any{"then": putOn("1", "{event.value}")})
	l := r.follow("reflexes")
	r.must(202, "POST", "/api/v1/signals/Cue%20Dome", map[string]any{"fields": map[string]any{"value": 3}}, nil)
	r.eventually("it was carried out", func() bool { return r.reading("mix/1/program").Value == 3.0 })
	r.sends()("/synaptor/signal/cue-dome", 4)
	r.eventually("by OSC too", func() bool { return r.reading("mix/1/program").Value == 4.0 })
	r.must(202, "POST", "/api/v1/signals/cue-dome", nil, nil)
	l.until("without a value it is held back", func() bool { return l.reflex(id).Held != "" })
	if p := r.fails(400, "POST", "/api/v1/signals/"+strings.Repeat("x", 61), nil); p.Field != "name" {
		t.Errorf("too long a name is wrong at %s", p.Field)
	}
}

// TestAReflexHasTheRightsOfWhoMadeIt, at the moment that it fires.
func TestAReflexHasTheRightsOfWhoMadeIt(t *testing.T) {
	r := claimed(t)
	e := r.as("Edda")
	id := e.reflex("Cue", map[string]any{"kind": "signal", "signal": "cue"}, nil)
	l := r.follow("reflexes")
	r.must(202, "POST", "/api/v1/signals/cue", nil, nil)
	r.eventually("it was carried out", func() bool { return r.reading("mix/1/program").Value == 5.0 })
	for _, p := range r.People.All() {
		if p.Name == "Edda" {
			r.must(204, "PUT", "/api/v1/people/"+p.ID, map[string]any{"role": "operator"}, nil)
		}
	}
	r.narrow("Edda", map[string]any{"changes": []string{"dome-switcher:mix/2/*"}})
	r.operate("/mix/1/program", 1)
	r.must(202, "POST", "/api/v1/signals/cue", nil, nil)
	l.until("it is refused", func() bool { return strings.Contains(l.reflex(id).Held, "may not") })
	r.eventually("the journal says so", func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=20", nil, &rows)
		for _, e := range rows {
			if e.Actor == "Reflex Cue" && e.Outcome == journal.Refused {
				return true
			}
		}
		return false
	})
}

// TestAfterAnUncleanEndStartsAreOffered, and after a clean one they are done.
func TestAfterAnUncleanEndStartsAreOffered(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	id := r.reflex("Begin", map[string]any{"kind": "start"}, map[string]any{"then": map[string]any{"device": "synaptor", "action": "marker", "params": map[string]string{"words": "Begun"}}})
	r.App.Close()
	for _, clean := range []bool{true, false, true} {
		if !clean { // as if nobody had had the time to say that it ended
			state, err := store.OpenState(data)
			if err == nil {
				err = errors.Join(state.Put("ended", false), state.Close())
			}
			if err != nil {
				t.Fatal(err)
			}
		}
		r := startIn(t, data)
		l := r.follow("reflexes")
		l.until("it is done or offered", func() bool {
			st := l.reflex(id)
			return (st.Count == 1) == clean && (st.Offered == "") == clean && (st.Count == 1 || st.Offered != "")
		})
		r.App.Close()
	}
}

// TestAnEveningOfTheAudience at its fastest: the limit of the map command holds, and everybody who comes is heard.
func TestAnEveningOfTheAudience(t *testing.T) {
	r := start(t).ready()
	r.connected("audience")
	l := r.follow("reflexes")
	r.operateOn("chat", "/evening/speed", 60)
	r.operateOn("chat", "/evening/on", 1)
	l.until("the map was asked for twice", func() bool {
		return l.reflex("map").Count == 1 && strings.Contains(l.reflex("map").Held, "once in 1 min")
	})
	r.operateOn("chat", "/evening/on", 0)
	if n := l.reflex("map").Count; n != 1 {
		t.Errorf("it has fired %d times within a minute", n)
	}
}
