package device

import (
	"encoding/json"
	"strings"
	"testing"
)

// spoiled are sheets with one mistake each, by its place.
var spoiled = map[string]func(*Sheet){
	"/link/alive":            func(s *Sheet) { s.Link.Alive = "2h" },
	"/link/deadline":         func(s *Sheet) { s.Link.Deadline = "never" },
	"/link/requests":         func(s *Sheet) { s.Link.Requests = 2 },
	"/link/identify/like":    func(s *Sheet) { s.Link.Identify.Like = "(" },
	"/link/identify/reading": func(s *Sheet) { s.Link.Identify.Reading = "serial" },
	"/index/mix/range":       func(s *Sheet) { s.Index["mix"] = Index{Range: "2..1"} },
	"/index/mix":             func(s *Sheet) { s.Index["mix"] = Index{} },
	"/index/lamp/from":       func(s *Sheet) { s.Index["lamp"] = Index{Title: "lamp", From: "lamps/{lamp}/name"} },
	"/readings/8/path": func(s *Sheet) {
		s.Readings = append(s.Readings, ReadingSpec{Path: "bus/{bus}/x", Title: "X", Type: "bool"})
	},
	"/readings/4/from": func(s *Sheet) { s.Readings[4].From = Sources{{Address: "/main/{mix}"}} },
	"/readings/9/path": func(s *Sheet) {
		s.Readings = append(s.Readings, ReadingSpec{Path: "a", Title: "A", Type: "bool"}, ReadingSpec{Path: "model", Title: "M", Type: "text"})
	},
	"/actions/0/effects/0/set": func(s *Sheet) { s.Actions[0].Effects[0].Set = "mix/{mix}/nothing" },
	"/actions/0/stop":          func(s *Sheet) { s.Actions[0].Stop = "nothing" },
	"/actions/0/lamps/0/when":  func(s *Sheet) { s.Actions[0].Lamps[0].When = "reading(" },
	"/actions/0/needs/0/say":   func(s *Sheet) { s.Actions[0].Needs[0].Say = "{" },
	"/actions/1/send/0":        func(s *Sheet) { s.Actions[1].Send[0].Args = []any{"{nothing}"} },
	"/actions/1/id":            func(s *Sheet) { s.Actions[1].ID = "program" },
	"/actions/2/instead/0":     func(s *Sheet) { s.Actions[2].Instead = []string{"off"} },
	"/actions/2":               func(s *Sheet) { s.Actions[2].Effects = nil },
	"/actions/0/params/0/of":   func(s *Sheet) { s.Actions[0].Params[0].Of = "bus" },
	"/kits/0/over":             func(s *Sheet) { s.Kits[0].Over = "colour" },
	"/kits/0/only":             func(s *Sheet) { s.Kits[0].Only = "input <" },
	"/kits/0/action":           func(s *Sheet) { s.Kits[0].Action = "x" },
	"/actions/0/needs/0/when":  func(s *Sheet) { s.Actions[0].Needs[0].When = "reading('nothing') == 1" },
	"/actions/1/needs/0/when":  func(s *Sheet) { s.Actions[1].Needs = []NeedSpec{{When: "reading('level')", Say: "no"}} },
	"/actions/1/lamps/0/when":  func(s *Sheet) { s.Actions[1].Lamps = []LampSpec{{When: "reading('level') + 1", Role: "set"}} },
	"/actions/1/title":         func(s *Sheet) { s.Actions[1].Title = "{reading('nothing')}" },
	"/actions/1/face/label":    func(s *Sheet) { s.Actions[1].Face.Label = "{colour}" },
	"/actions/1/send/1": func(s *Sheet) {
		s.Actions[1].Send = append(s.Actions[1].Send, MessageSpec{Address: "/x", Args: []any{"{reading('nothing')}"}})
	},
	"/actions/1/send/0/line":     func(s *Sheet) { s.Actions[1].Send[0].Line = "GO" },
	"/actions/1/send/0/body":     func(s *Sheet) { s.Actions[1].Send[0].Body = 1.0 },
	"/actions/1/send/0/verb":     func(s *Sheet) { s.Actions[1].Send[0].Verb = "PUT" },
	"/actions/1/plays":           func(s *Sheet) { s.Actions[1].Plays = "-1s" },
	"/actions/1/busy":            func(s *Sheet) { s.Actions[1].Busy = "a while" },
	"/actions/0/effects/0/over":  func(s *Sheet) { s.Actions[0].Effects[0].Over = "soon" },
	"/actions/0/effects/0/after": func(s *Sheet) { s.Actions[0].Effects[0].After = "later" },
	"/actions/0/effects/0/grace": func(s *Sheet) { s.Actions[0].Effects[0].Grace = "1h" },
	"/actions/1/effects/0/to":    func(s *Sheet) { s.Actions[1].Effects = []EffectSpec{{Set: "level", To: "'loud'"}} },
	"/actions/1/effects/1/to": func(s *Sheet) {
		s.Actions[1].Effects = []EffectSpec{{Set: "level", To: "-3"}, {Set: "level", To: "reading('level') > 1"}}
	},
	"/actions/1/fade":         func(s *Sheet) { s.Actions[1].Fade = "ms" },
	"/actions/1/shows":        func(s *Sheet) { s.Actions[1].Shows = "input" },
	"/actions/3/params/0/min": func(s *Sheet) { s.Actions[3].Params[0].Min, s.Actions[3].Params[0].Max = num(9), num(1) },
	"/actions/3/params/1/id":  func(s *Sheet) { s.Actions[3].Params = append(s.Actions[3].Params, s.Actions[3].Params[0]) },
	"/actions/0/params/0":     func(s *Sheet) { s.Actions[0].Params[0].Default = "a/b" },
	"/readings/4/min":         func(s *Sheet) { s.Readings[4].Min, s.Readings[4].Max = num(1), num(0) },
	"/readings/0/max":         func(s *Sheet) { s.Readings[0].Max = num(1) },
	"/readings/0/options":     func(s *Sheet) { s.Readings[0].Options = []string{"a"} },
	"/readings/4/silencedBy":  func(s *Sheet) { s.Readings[4].SilencedBy = "mute" },
	"/readings/4/from/line":   func(s *Sheet) { s.Readings[4].From = Sources{{Line: "LEVEL {value}"}} },
	"/readings/4/from/value":  func(s *Sheet) { s.Readings[4].From = Sources{{Value: "/level"}} },
	"/readings/4/set":         func(s *Sheet) { s.Readings[4].Set = &MessageSpec{Address: "/level"} },
	"/readings/4/taper":       func(s *Sheet) { s.Readings[4].Taper = "fader" },
	"/link/port":              func(s *Sheet) { s.Link.Port = 0 },
	"/link/path":              func(s *Sheet) { s.Link.Path = "/x" },
	"/link/topics":            func(s *Sheet) { s.Link.Topics = []string{"x"} },
	"/link/login":             func(s *Sheet) { s.Link.Login = &LoginSpec{Kind: "basic"} },
	"/link/start/0/line":      func(s *Sheet) { s.Link.Start[0].Line = "GO" },
	"/link/identify/version":  func(s *Sheet) { s.Link.Identify.Version = "[0-9]+" },
	"/link/identify/minimum":  func(s *Sheet) { s.Link.Identify.Minimum = "1" },
	"/index/mix/gone":         func(s *Sheet) { s.Index["mix"] = Index{Range: "1..2", Gone: "on"} },
	"/kits/0/each":            func(s *Sheet) { s.Kits[0].Each = "bus"; s.Index["bus"] = Index{Title: "bus", Range: "1..2"} },
	"/kits/0/title":           func(s *Sheet) { s.Kits[0].Title = "{nothing}" },
	"/kits/0/params/colour":   func(s *Sheet) { s.Kits[0].Params = map[string]string{"colour": "1"} },
	"/kits/0/params/mix":      func(s *Sheet) { s.Kits[0].Params = map[string]string{"mix": "a/b"} },
	"/kits/0/also/0/action":   func(s *Sheet) { s.Kits[0].Also = []KitAlso{{Gesture: "hold", Action: "frames"}} },
	"/kits/1/id":              func(s *Sheet) { s.Kits = append(s.Kits, s.Kits[0]) },
	"/kits/1/keys/0/params/x": func(s *Sheet) {
		s.Kits = append(s.Kits, KitSpec{ID: "k", Title: "K", Keys: []KitKey{{"frames", map[string]string{"x": "1"}}}})
	},
	"/models/0/has/nothing": func(s *Sheet) { s.Models = []ModelSpec{{ID: "m", Has: map[string]any{"nothing": 1.0}}} },
	"/models/0/lacks":       func(s *Sheet) { s.Models = []ModelSpec{{ID: "m", Lacks: []string{"nothing"}}} },
	"/models/1/id":          func(s *Sheet) { s.Models = []ModelSpec{{ID: "m"}, {ID: "m"}} },
	"/events/0/fields/who": func(s *Sheet) {
		s.Events = []EventSpec{{ID: "e", Title: "E", Fields: map[string]string{"who": "/name"}}}
	},
	"/events/0/from/line": func(s *Sheet) { s.Events = []EventSpec{{ID: "e", Title: "E", From: FromSpec{Line: "E"}}} },
	"/pictures/0/url":     func(s *Sheet) { s.Pictures = []PictureSpec{{ID: "p", Over: "input", URL: "ftp://{host}/"}} },
	"/pictures/0":         func(s *Sheet) { s.Pictures = []PictureSpec{{ID: "p", URL: "http://{host}/"}} },
	"/pictures/0/named":   func(s *Sheet) { s.Pictures = []PictureSpec{{ID: "p", Named: "who", URL: "http://{host}/{who}"}} },
}

func TestMistakesInASheetAreFoundWhereTheyAre(t *testing.T) {
	for where, spoil := range spoiled {
		s := small()
		spoil(s)
		_, err := Compile(s)
		found, ok := err.(Problems)
		if !ok || len(found) != 1 || found[0].Where != where || strings.TrimSpace(found[0].Text) == "" {
			t.Errorf("want a problem at %s, got %v", where, err)
		}
	}
}

// TestEachDriverHasFieldsOfItsOwn: what another one needs is no field of it.
func TestEachDriverHasFieldsOfItsOwn(t *testing.T) {
	const reading = `"readings":[{"path":"on","title":"On","type":"bool","from":FROM}],"actions":[]`
	for _, c := range []struct{ link, from, where string }{
		{`{"driver":"lines","transport":"tcp","port":1}`, `{"line":"ON"}`, "/readings/0/from"},
		{`{"driver":"lines","transport":"tcp","port":1}`, `{"line":"ON {value}","address":"/on"}`, "/readings/0/from/address"},
		{`{"driver":"lines","transport":"tcp","port":1}`, `{"line":"ON {value}","arg":2}`, "/readings/0/from/arg"},
		{`{"driver":"lines","transport":"tcp","port":1,"login":{"kind":"basic"}}`, `{"line":"ON {value}"}`, "/link/login"},
		{`{"driver":"lines","transport":"tcp","port":1,"ask":{"address":"ON?"}}`, `{"line":"ON {value}"}`, "/link/ask/address"},
		{`{"driver":"mqtt","transport":"tcp","port":1,"path":"/x"}`, `{"address":"on"}`, "/link/path"},
		{`{"driver":"mqtt","transport":"tcp","port":1,"login":{"kind":"bearer"}}`, `{"address":"on"}`, "/link/login/kind"},
		{`{"driver":"mqtt","transport":"tcp","port":1,"requests":2}`, `{"address":"on"}`, "/link/requests"},
		{`{"driver":"http","transport":"http","port":1,"topics":["x"]}`, `{"address":"/on"}`, "/link/topics"},
		{`{"driver":"http","transport":"http","port":1,"login":{"kind":"basic","greeting":"x"}}`, `{"address":"/on"}`, "/link/login/greeting"},
		{`{"driver":"http","transport":"http","port":70000}`, `{"address":"/on"}`, "/link/port"},
		{`{"driver":"http","transport":"http","port":1,"alive":"1s"}`, `{"address":"/on"}`, "/link/alive"},
		{`{"driver":"http","transport":"http","port":1,"alive":"1s","identify":{"reading":"on"}}`, `{"address":"/on"}`, "/link/alive"},
		{`{"driver":"jsonrpc","transport":"websocket","port":1,"login":{"kind":"challenge"}}`, `{"address":"on"}`, "/link/login"},
		{`{"driver":"local","transport":"computer","port":9}`, `{"address":"/on"}`, "/link/port"},
	} {
		var s Sheet
		body := `{"sheet":"synaptor.device/1","type":"t","title":"T","role":"other","link":` + c.link + `,` + strings.Replace(reading, "FROM", c.from, 1) + `}`
		if err := json.Unmarshal([]byte(body), &s); err != nil {
			t.Fatal(err)
		}
		_, err := Compile(&s)
		if found, ok := err.(Problems); !ok || len(found) != 1 || found[0].Where != c.where {
			t.Errorf("%s, %s: want a problem at %s, got %v", c.link, c.from, c.where, err)
		}
	}
}
