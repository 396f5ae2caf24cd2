package app_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// reflex adds a reflex, and gives its id.
func (r *rig) reflex(name string, on, more map[string]any) string {
	r.Helper()
	body := map[string]any{"name": name, "on": on, "then": putOn("1", "5")}
	for k, v := range more {
		body[k] = v
	}
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/reflexes", body, &made)
	return made.ID
}

// putOn is the action that puts an input on the program of a mix effect.
func putOn(mix, input string) map[string]any {
	return map[string]any{"device": "dome-switcher", "action": "put-on-program", "params": map[string]string{"mix": mix, "input": input}}
}

// state is how a reflex stands, as a live client knows it.
func (l *live) reflex(id string) (row engine.ReflexChanged) {
	_ = json.Unmarshal(l.values["reflex/"+id], &row)
	return row
}

// TestAMessageOfTheAudienceStartsAReflex: provided that its text is the command, no more often than once a minute for each who says it; the journal has the
// whole of it.
func TestAMessageOfTheAudienceStartsAReflex(t *testing.T) {
	r := start(t).ready()
	r.connected("audience")
	id := r.reflex("Map", map[string]any{"kind": "device", "device": "audience", "event": "message"},
		map[string]any{"when": "event.text == '!map'", "everyMs": 60_000, "per": "who"})
	l := r.follow("reflexes")
	r.operateOn("chat", "/say", "Nachteule: hello")
	l.until("another message holds it back", func() bool { return strings.Contains(l.reflex(id).Held, "It was not so that") })
	r.operateOn("chat", "/say", "Nachteule: !map")
	l.until("the command fires it", func() bool { return l.reflex(id).Count == 1 })
	r.eventually("mix 1 shows input 5", func() bool { return r.reading("mix/1/program").Value == 5.0 })
	var found journal.Entry
	r.eventually("the journal has it", func() bool {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?limit=20", nil, &rows)
		for _, e := range rows {
			if e.Actor == "Reflex Map" && e.Outcome == journal.Confirmed {
				found = e
			}
		}
		return found.ID != ""
	})
	if found.Via != "reflex" || found.Control != "Map" {
		t.Errorf("the journal says %+v", found)
	}
	r.operateOn("chat", "/say", "Nachteule: !map")
	l.until("once a minute is enough", func() bool { return strings.Contains(l.reflex(id).Held, "at most once in 1 min") })
	r.operateOn("chat", "/say", "Sternfahrer: !map")
	l.until("another one has a minute of their own", func() bool { return l.reflex(id).Count == 2 })
	r.must(202, "PUT", "/api/v1/reflexes/"+id+"/on", map[string]any{"on": false}, nil)
	r.operateOn("chat", "/say", "Meteorin: !map")
	r.operateOn("chat", "/say", "Meteorin: done")
	r.eventually("it was said", func() bool {
		l := r.follow("events:audience")
		defer l.close()
		return strings.Contains(string(l.values["events/audience"]), "Meteorin: done")
	})
	if got := l.reflex(id).Count; got != 2 {
		t.Errorf("switched off it has fired %d times", got)
	}
	var docs []struct{ ID, Sentence string }
	r.must(200, "GET", "/api/v1/reflexes", nil, &docs)
	if len(docs) != demoReflexes+1 || !strings.Contains(docs[demoReflexes].Sentence, "Audience") || !strings.Contains(docs[demoReflexes].Sentence, "for each who") {
		t.Errorf("it reads %+v", docs)
	}
	r.must(204, "DELETE", "/api/v1/reflexes/"+id, nil, nil)
	r.must(200, "POST", "/api/v1/undo", map[string]any{}, nil)
	r.must(200, "GET", "/api/v1/reflexes", nil, &docs)
	if len(docs) != demoReflexes+1 {
		t.Error("undone, it is not back")
	}
}

// TestAReadingStartsAReflex when it becomes a value, by whichever hand; what a device tells of itself when it comes back starts nothing, its coming back does.
func TestAReadingStartsAReflex(t *testing.T) {
	r := start(t).ready()
	follows := r.reflex("Follow", map[string]any{"kind": "reading", "device": "dome-switcher", "path": "mix/2/program", "edge": "becomes", "value": "6"}, map[string]any{"then": putOn("1", "6")})
	returns := r.reflex("Return", map[string]any{"kind": "link", "device": "dome-switcher", "edge": "comes"}, map[string]any{"then": putOn("2", "2")})
	goes := r.reflex("Goes", map[string]any{"kind": "link", "device": "dome-switcher", "edge": "goes"}, map[string]any{"then": map[string]any{"device": "synaptor", "action": "marker", "params": map[string]string{"words": "Away"}}})
	l := r.follow("reflexes")
	r.operate("/mix/2/program", 6)
	r.eventually("mix 1 follows mix 2", func() bool { return r.reading("mix/1/program").Value == 6.0 })
	r.operate("/mix/1/program", 1)
	r.eventually("a hand goes elsewhere", func() bool { return r.reading("mix/1/program").Value == 1.0 })
	r.fault(faults.Faults{Cut: true})
	l.until("it goes", func() bool { return l.reflex(goes).Count == 1 })
	r.fault(faults.Faults{})
	l.until("it comes back", func() bool { return l.reflex(returns).Count == 1 })
	r.eventually("what it starts is done", func() bool { return r.reading("mix/2/program").Value == 2.0 })
	if got := l.reflex(follows).Count; got != 1 {
		t.Errorf("what it told when it came back has started a reflex: %d firings", got)
	}
}

// TestReflexesAreToldAtStart: how each stands is known before an edit, or an event.
func TestReflexesAreToldAtStart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	id := r.reflex("Map", map[string]any{"kind": "device", "device": "audience", "event": "message"}, nil)
	r.App.Close()
	l := startIn(t, data).follow("reflexes")
	l.until("the state is told", func() bool { return l.reflex(id).ID == id })
}

// TestReflexesThatSetEachOtherOffAreStopped within two seconds, loudly, and named before that.
func TestReflexesThatSetEachOtherOffAreStopped(t *testing.T) {
	r := start(t).ready()
	on := func(mix, edge, value string) map[string]any {
		return map[string]any{"kind": "reading", "device": "dome-switcher", "path": "mix/" + mix + "/program", "edge": edge, "value": value}
	}
	a := r.reflex("Ping", on("1", "changes", ""), map[string]any{"then": map[string]any{"device": "dome-switcher", "action": "put-on-program", "params": map[string]string{"mix": "2", "input": "3"}}})
	b := r.reflex("Pong", on("2", "changes", ""), map[string]any{"then": putOn("1", "4")})
	var docs []struct {
		ID       string
		Findings []struct{ ID, Sentence string }
	}
	r.must(200, "GET", "/api/v1/reflexes", nil, &docs)
	if f := docs[demoReflexes].Findings; len(f) != 1 || f[0].ID != "reflex-loop" || f[0].Sentence != "Ping, Pong can set each other off." { // after those of the demo
		t.Errorf("found is %+v", f)
	}
	l := r.follow("reflexes")
	began := time.Now()
	r.operate("/mix/1/program", 2)
	l.until("one of them is switched off", func() bool {
		return l.reflex(a).Broken != "" || l.reflex(b).Broken != "" || l.reflex(a).Count+l.reflex(b).Count > 2
	})
	if n := l.reflex(a).Count + l.reflex(b).Count; n > 3 || time.Since(began) > 10*time.Second {
		t.Errorf("they have fired %d times", n)
	}
}

// TestReflexesAreJudgedWhenTheyAreMade: each thing that is wrong at its field.
func TestReflexesAreJudgedWhenTheyAreMade(t *testing.T) {
	r := start(t).ready()
	good := func() map[string]any {
		return map[string]any{"name": "X", "on": map[string]any{"kind": "link", "device": "dome-switcher", "edge": "comes"}, "then": putOn("1", "5")}
	}
	for field, change := range map[string]func(map[string]any){
		"name":      func(m map[string]any) { m["name"] = " " },
		"on.kind":   func(m map[string]any) { m["on"] = map[string]any{"kind": "wish"} },
		"on.device": func(m map[string]any) { m["on"] = map[string]any{"kind": "link", "edge": "comes"} },
		"on.edge": func(m map[string]any) {
			m["on"] = map[string]any{"kind": "link", "device": "dome-switcher", "edge": "sings"}
		},
		"when":    func(m map[string]any) { m["when"] = "event.text ==" },
		"unless":  func(m map[string]any) { m["unless"] = strings.Repeat("1 == 1 and ", 200) + "true" },
		"everyMs": func(m map[string]any) { m["everyMs"] = -1 },
		"beyond":  func(m map[string]any) { m["beyond"] = "perhaps" },
		"length":  func(m map[string]any) { m["beyond"] = "queue" },
		"device": func(m map[string]any) {
			m["then"] = map[string]any{"device": "nobody", "action": "x", "params": map[string]string{}}
		},
	} {
		body := good()
		change(body)
		if p := r.fails(422, "POST", "/api/v1/reflexes", body); p.Field != field {
			t.Errorf("%s: it says %q of %s", field, p.Detail, p.Field)
		}
	}
}

// TestWhatAnEventBringsIsInWarningsAndMarkers, as the text that it is.
func TestWhatAnEventBringsIsInWarningsAndMarkers(t *testing.T) {
	r := start(t).ready()
	r.connected("audience")
	of := map[string]any{"kind": "device", "device": "audience", "event": "message"}
	for name, params := range map[string]map[string]string{"warn": {"words": "{event.who} asks on {reading('dome-switcher:mix/1/program')}: {event.text}"},
		"marker": {"words": "Asked: {event.text}", "kind": "highlight", "lead": "2"}} {
		r.reflex("By "+name, of, map[string]any{"when": "event.text startsWith 'why'", "then": map[string]any{"device": "synaptor", "action": name, "params": params}})
	}
	const asked = "why {event.who} {reading('nothing')}?"
	if err := r.Bench.StandIn("chat").Operate(say("/say", "Okular: "+asked)); err != nil {
		t.Fatal(err)
	}
	r.eventually("it warns", func() bool { return r.readingOf("synaptor", "warning").Word == "Okular asks on 1: "+asked })
	r.eventually("it is marked", func() bool {
		var all []struct{ Text, Kind string }
		r.must(200, "GET", "/api/v1/markers", nil, &all)
		return len(all) == 1 && all[0].Text == "Asked: "+asked && all[0].Kind == "highlight"
	})
}
