package device

import (
	"testing"

	"synaptor/internal/core/expr"
)

// fader is a device with a level, a jog and a switch of two halves.
func fader(t *testing.T) *Type {
	t.Helper()
	return sheetOf(t, `{"driver":"osc","transport":"tcp-slip","port":1}`, `"readings":[
		{"path":"level","title":"Level","type":"float","at":{"address":"/level"}},
		{"path":"on","title":"On","type":"bool","at":{"address":"/on"}}],
	"actions":[
		{"id":"level","title":"Level {to} dB","help":"Sets it.","example":"level 3","suits":["press"],
			"params":[{"id":"to","title":"level","type":"float","min":-90,"max":10,"default":"0"}],
			"effects":[{"set":"level","to":"float(to)"}],"send":[{"address":"/level","args":["{to}"]}],
			"face":{"label":"Fader {to} dB","glyph":"fader"}},
		{"id":"by","title":"By {step}","help":"Moves it.","example":"up","suits":["press","turn"],
			"params":[{"id":"step","title":"step","type":"int","min":-9,"max":9,"default":"1"}],
			"effects":[{"set":"level","to":"reading('level') + int(step)"}],"send":[{"address":"/by","args":["{step}"]}],
			"face":{"label":"{step}","glyph":"fader"}},
		{"id":"open","title":"Open","help":"Opens.","example":"open","suits":["press"],"effects":[{"set":"on","to":"true"}],
			"send":[{"address":"/on","args":["1"]}],"face":{"label":"On","glyph":"mic"}},
		{"id":"close","title":"Close","help":"Closes.","example":"close","suits":["press"],"effects":[{"set":"on","to":"false"}],
			"send":[{"address":"/on","args":["0"]}],"face":{"label":"Off","glyph":"mic"}},
		{"id":"toggle","title":"Open or close","help":"Changes.","example":"toggle","suits":["press"],"instead":["open","close"],
			"effects":[{"set":"on","to":"!reading('on')"}],"send":[{"address":"/toggle"}],"face":{"label":"Mic","glyph":"mic"}}]`)
}

func TestWhatAGestureCanStart(t *testing.T) {
	typ := fader(t)
	for _, c := range []struct {
		action string
		yes    []string
		no     []string
	}{
		{"level", []string{"press", "hold", "double", "release", "repeat", "turn", "push-turn", "slide", "turn-left"}, []string{"talk"}},
		{"by", []string{"press", "turn", "push-turn", "slide"}, []string{"talk"}},
		{"open", []string{"press", "swipe-left"}, []string{"turn", "slide", "talk", "push-turn"}},
		{"toggle", []string{"press", "talk", "hold"}, []string{"turn", "slide"}},
	} {
		a := typ.actions[c.action]
		for _, g := range c.yes {
			if !a.StartedBy(g) {
				t.Errorf("%s cannot be started by %s", c.action, g)
			}
		}
		for _, g := range c.no {
			if a.StartedBy(g) {
				t.Errorf("%s can be started by %s", c.action, g)
			}
		}
	}
}

func TestWhatMovesIsToldFromWhatSets(t *testing.T) {
	typ := fader(t)
	for action, moves := range map[string]bool{"level": false, "by": true, "open": false, "toggle": true} {
		b, err := typ.Bind("d", action, nil, 25)
		if err != nil {
			t.Fatal(err)
		}
		if b.Moves() != moves {
			t.Errorf("%s moves: %v", action, b.Moves())
		}
	}
}

func TestALabelIsShownWithoutWhatAHandMoves(t *testing.T) {
	typ := fader(t)
	for action, want := range map[string]string{"level": "Fader", "by": "1"} {
		b, err := typ.Bind("d", action, nil, 25)
		if err != nil {
			t.Fatal(err)
		}
		if got := typ.LabelWithout(b, b.Action.Params[0].ID).Text(expr.Nothing{}); got != want {
			t.Errorf("%s is labelled %q, want %q", action, got, want)
		}
	}
}

func TestATitleWithItsBlanksUnfilledReadsAsASentence(t *testing.T) {
	for _, c := range []struct {
		title  string
		params []ParamSpec
		want   string
	}{
		{"Set {channel} to {level} dB", []ParamSpec{{ID: "channel", Title: "channel", Of: "channel"}, {ID: "level", Title: "level", Type: "db", Unit: "dB"}}, "Set a channel to a level"},
		{"Put {input} on program{mix == '1' ? '' : ' of mix effect ' + mix}", []ParamSpec{{ID: "input", Title: "input", Of: "input"}, {ID: "mix", Title: "mix effect", Of: "mix"}}, "Put an input on program"},
		{"Set the brightness to {level} %", []ParamSpec{{ID: "level", Title: "brightness", Type: "int", Unit: "%"}}, "Set the brightness"},
		{"Jog by {frames} frames", []ParamSpec{{ID: "frames", Title: "frames", Type: "int"}}, "Jog by frames"},
		{"Load {set}, then show {scene}", []ParamSpec{{ID: "set", Title: "scene set", Of: "set"}, {ID: "scene", Title: "scene", Of: "scene"}}, "Load a scene set, then show a scene"},
		{"Say “{words}”", []ParamSpec{{ID: "words", Title: "message", Type: "text"}}, "Say “message”"},
		{"Picture in picture at the {corner}", []ParamSpec{{ID: "corner", Title: "corner", Options: []string{"top left"}}}, "Picture in picture at the corner"},
		{"Press {keys}", []ParamSpec{{ID: "keys", Title: "keys", Type: "text"}}, "Press keys"},
		{"Cut", nil, "Cut"},
	} {
		if got := (&ActionSpec{Title: c.title, Params: c.params}).Called(); got != c.want {
			t.Errorf("%s is called %q, want %q", c.title, got, c.want)
		}
	}
}
