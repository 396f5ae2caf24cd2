package device

import (
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// sheetOf makes a type of a link and a part of a sheet, both in JSON.
func sheetOf(t *testing.T, link, rest string) *Type {
	t.Helper()
	var s Sheet
	body := `{"sheet":"synaptor.device/1","type":"t","title":"T","role":"other","link":` + link + `,` + rest + `}`
	if err := json.Unmarshal([]byte(body), &s); err != nil {
		t.Fatal(err)
	}
	typ, err := Compile(&s)
	if err != nil {
		t.Fatal(err)
	}
	return typ
}

const stage = `"index":{"set":{"title":"set","from":"set/{set}/name"},"scene":{"title":"scene","from":"set/{set}/scene/{scene}/name","gone":"set/{set}/scene/{scene}/gone"}},
	"readings":[{"path":"set/{set}/name","title":"n","type":"text"},{"path":"set/{set}/scene/{scene}/name","title":"Name of {scene}","type":"text"},
	{"path":"set/{set}/scene/{scene}/gone","title":"{scene} is gone","type":"bool"},{"path":"loaded","title":"l","type":"choice","of":"set"},
	{"path":"program","title":"p","type":"choice","of":"scene"},{"path":"level","title":"v","type":"db","taper":"fader"}],
	"tapers":{"fader":[[-60,0],[-20,0.25],[0,0.8],[6,1]]},
	"actions":[{"id":"show","title":"Show {scene}","help":"h","suits":["press"],
	  "params":[{"id":"scene","title":"scene","of":"scene"},{"id":"set","title":"set","of":"set","default":"{reading('loaded')}"}],
	  "effects":[{"set":"program","to":"scene"}],"face":{"label":"{scene}","glyph":"scene"}},
	 {"id":"level","title":"Set {level}","help":"h","suits":["turn"],"params":[{"id":"level","title":"level","type":"db"}],"effects":[{"set":"level","to":"float(level)"}],"face":{"label":"x","glyph":"x"}}],
	"kits":[{"id":"scenes","title":"Scenes","over":"scene","each":"set","action":"show","shape":"row"}]`

func stageType(t *testing.T) *Type {
	return sheetOf(t, `{"driver":"jsonrpc","transport":"websocket","port":1,"report":[{"address":"state"},{"address":"changed"}],"set":{"address":"set","body":{"path":"{path}","value":"{value}"}}}`, stage)
}

func reports(t *testing.T, typ *Type, m Message) map[string]any {
	t.Helper()
	got, err := typ.Match(m)
	if err != nil {
		t.Errorf("%v: %v", m, err)
	}
	out := map[string]any{}
	for _, r := range got.Reports {
		out[r.Path] = r.Value
	}
	return out
}

func body(t *testing.T, text string) any {
	t.Helper()
	var v any
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		t.Fatal(err)
	}
	return v
}

func TestOneDocumentReportsEverythingAndAPartOfItSomething(t *testing.T) {
	typ := stageType(t)
	all := reports(t, typ, Message{Address: "state", Body: body(t, `{"loaded":"1","level":0.25,"set":{"1":{"name":"Night","scene":{"7":{"name":"Back soon","gone":false}}}}}`)})
	want := map[string]any{"loaded": "1", "level": -20.0, "set/1/name": "Night", "set/1/scene/7/name": "Back soon", "set/1/scene/7/gone": false}
	if !reflect.DeepEqual(all, want) {
		t.Errorf("reports %v, want %v", all, want)
	}
	part := reports(t, typ, Message{Address: "changed", Body: body(t, `{"level":0,"unheard":1,"loaded":null}`)})
	if len(part) != 1 || !math.IsInf(part["level"].(float64), -1) {
		t.Errorf("a part reports %v", part)
	}
	for _, b := range []string{`{"set":{"a/b":{"name":"x"}}}`, `{"level":"loud"}`, `{"set":{"1":{"scene":{"2":{"gone":"perhaps"}}}}}`} {
		if got, err := typ.Match(Message{Address: "state", Body: body(t, b)}); err == nil || len(got.Reports) > 0 {
			t.Errorf("%s reports %v", b, got.Reports)
		}
	}
}

func TestPointersFindWhatTheyPointAt(t *testing.T) {
	for _, c := range []struct{ pointer, body, want string }{
		{"", `1`, "[1 []]"},
		{"/a/b", `{"a":{"b":2}}`, "[2 []]"},
		{"/a/{i}", `{"a":[5,6]}`, "[5 [i 0]][6 [i 1]]"},
		{"/{n:id}/on", `[{"id":"x","on":true},{"id":7,"on":false},{"on":true},3]`, "[true [n x]][false [n 7]]"},
		{"/{n:id}/on", `{"id":"x","on":true}`, "[true [n x]]"},
		{"/a~1b/~0", `{"a/b":{"~":1}}`, "[1 []]"},
		{"/1", `[4,5]`, "[5 []]"},
		{"/x/y", `{"x":3}`, ""},
	} {
		p, err := parsePointer(c.pointer)
		if err != nil {
			t.Errorf("%s: %v", c.pointer, err)
			continue
		}
		got := ""
		p.walk(body(t, c.body), nil, func(v any, vars []string) {
			b, _ := json.Marshal(v)
			got += "[" + string(b) + " [" + strings.Join(vars, " ") + "]]"
		})
		if got != c.want {
			t.Errorf("%s in %s gives %s, want %s", c.pointer, c.body, got, c.want)
		}
	}
	for _, bad := range []string{"a", "/{", "/{A}", "/{a:b"} {
		if _, err := parsePointer(bad); err == nil {
			t.Errorf("%q was accepted", bad)
		}
	}
}

func TestWhatIsSentIsDerivedFromTheLink(t *testing.T) {
	typ := stageType(t)
	b, err := typ.Bind("d", "show", map[string]string{"scene": "7", "set": "1"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	m, err := b.Messages(heard())
	if err != nil || len(m) != 1 || m[0].String() != `set {"path":"program","value":"7"}` {
		t.Errorf("sends %v (%v)", m, err)
	}
	l, err := typ.Bind("d", "level", map[string]string{"level": "-20"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	if m, err := l.Messages(heard()); err != nil || m[0].Body.(map[string]any)["value"] != 0.25 {
		t.Errorf("a level goes through its taper: %v (%v)", m, err)
	}
	if !l.Constant() {
		t.Error("it could be encoded in advance")
	}
}

func TestChoicesDependOnOtherChoices(t *testing.T) {
	typ := stageType(t)
	w := heard("loaded", "1", "set/1/name", "Night", "set/2/name", "Check", "set/1/scene/7/name", "Back soon", "set/1/scene/8/name", "Good night", "set/2/scene/9/name", "Bars")
	a := typ.Action("show")
	names := func(set string) string {
		var out []string
		for _, c := range typ.ParamChoices(a, a.Params[0], "d", map[string]string{"set": set}, w) {
			out = append(out, c.Name)
		}
		return strings.Join(out, ", ")
	}
	if names("1") != "Back soon, Good night" || names("2") != "Bars" || names("") != "Back soon, Good night, Bars" {
		t.Errorf("scenes are %s; %s; %s", names("1"), names("2"), names(""))
	}
	if got := a.Params[1].DefaultNow("d", w); got != "1" {
		t.Errorf("the set that is loaded is the default, not %q", got)
	}
	b, err := typ.Bind("d", "show", map[string]string{"scene": "8", "set": "1"}, 25)
	if err != nil || b.Title.Text(w) != "Show Good night" {
		t.Errorf("title %q (%v)", b.Title.Text(w), err)
	}
	if items := typ.KitKeys(typ.Kit("scenes"), "2", "d", w); len(items) != 1 || items[0].Params["scene"] != "9" || items[0].Params["set"] != "2" {
		t.Errorf("the kit makes %v", items)
	}
	if got := typ.Summary("d", w); got != "3 scenes, 2 sets" {
		t.Errorf("summary %q", got)
	}
	if got := typ.Word(reading.Key{Device: "d", Path: "program"}, "9", w); got != "Bars" {
		t.Errorf("a scene is called %q", got)
	}
}

func TestLinesAreUnderstoodAndMade(t *testing.T) {
	typ := sheetOf(t, `{"driver":"lines","transport":"tcp","port":1,"refusal":{"line":"ERR {value}"}}`, `"index":{"p":{"title":"preset","range":"1..4"}},
		"readings":[{"path":"preset/{p}/name","title":"n","type":"text","from":{"line":"PRESET {p} NAME {value}"}},
		{"path":"fog","title":"f","type":"int","unit":"%","from":{"line":"FOG={value};","as":"int(value) / 10"}},
		{"path":"on","title":"o","type":"bool","from":[{"line":"POWER {value}"},{"line":"PWR {value}"}],"set":{"line":"POWER {value ? 'ON' : 'OFF'}"}}],
		"actions":[{"id":"on","title":"On","help":"h","suits":["press"],"effects":[{"set":"on","to":"true"}],"face":{"label":"x","glyph":"x"}},
		{"id":"name","title":"N","help":"h","suits":["press"],"params":[{"id":"p","title":"preset","of":"p"},{"id":"to","title":"name","type":"text"}],
		 "effects":[{"set":"preset/{p}/name","to":"to"}],"face":{"label":"x","glyph":"x"}}],
		"events":[{"id":"alarm","title":"{what} in {p}","from":{"line":"ALARM {p} {what}"}}]`)
	for line, want := range map[string]map[string]any{
		"PRESET 2 NAME Wide dome": {"preset/2/name": "Wide dome"}, "FOG=350;": {"fog": 35}, "POWER ON": {"on": true}, "PWR off": {"on": false}, "HELLO": {},
	} {
		if got := reports(t, typ, Message{Address: line}); !reflect.DeepEqual(got, want) {
			t.Errorf("%q reports %v, want %v", line, got, want)
		}
	}
	if got, _ := typ.Match(Message{Address: "ERR too hot"}); len(got.Replies) != 1 || got.Replies[0] != (Reply{Text: "too hot"}) {
		t.Errorf("a refusal is %v", got)
	}
	if got, _ := typ.Match(Message{Address: "ALARM 3 smoke"}); len(got.Events) != 1 || got.Events[0].Title != "smoke in 3" {
		t.Errorf("an event is %+v", got.Events)
	}
	// What a device says in a field is no place for another one, and has an end.
	if got, _ := typ.Match(Message{Address: "ALARM 3 {p}{what}" + strings.Repeat("!", 5000)}); len(got.Events) != 1 ||
		!strings.HasPrefix(got.Events[0].Title, "{p}{what}!!") || len(got.Events[0].Title) > MaxText+50 {
		t.Errorf("an event with a long field is %+v", got.Events)
	}
	if _, err := typ.Match(Message{Address: "FOG=much;"}); err == nil {
		t.Error("nonsense was read")
	}
	for id, want := range map[string]string{"on": "POWER ON", "name": "PRESET 3 NAME Door"} {
		params := map[string]string{"p": "3", "to": "Door"}
		if id == "on" {
			params = nil
		}
		b, err := typ.Bind("d", id, params, 25)
		if err != nil {
			t.Fatal(err)
		}
		if m, err := b.Messages(heard()); err != nil || m[0].Address != want {
			t.Errorf("%s sends %v (%v), want %s", id, m, err, want)
		}
	}
}

func TestTopicsHaveABase(t *testing.T) {
	typ := sheetOf(t, `{"driver":"mqtt","transport":"tcp","port":1,"base":"dome","topics":["dome/#"],"set":{"address":"{address}/set","body":"{value}"}}`,
		`"index":{"lamp":{"title":"lamp","range":"1..2"}},"readings":[{"path":"lamp/{lamp}/on","title":"o","type":"bool"}],
		"actions":[{"id":"on","title":"On","help":"h","suits":["press"],"params":[{"id":"lamp","title":"lamp","of":"lamp"}],"effects":[{"set":"lamp/{lamp}/on","to":"true"}],"face":{"label":"x","glyph":"x"}}]`)
	if got := reports(t, typ, Message{Address: "dome/lamp/2/on", Body: true}); got["lamp/2/on"] != true {
		t.Errorf("reports %v", got)
	}
	b, err := typ.Bind("d", "on", map[string]string{"lamp": "2"}, 25)
	if err != nil {
		t.Fatal(err)
	}
	if m, err := b.Messages(heard()); err != nil || m[0].String() != "dome/lamp/2/on/set true" {
		t.Errorf("sends %v (%v)", m, err)
	}
}

func TestHandWrittenMessagesHoldExpressionsOfTheShow(t *testing.T) {
	typ := sheetOf(t, `{"driver":"http","transport":"http","port":80}`, `"readings":[{"path":"answer","title":"a","type":"text","from":{"any":true}}],
		"actions":[{"id":"send","title":"Send {message}","help":"h","suits":["press"],"params":[{"id":"message","title":"message","type":"message"}],
		"send":[{"written":"message"}],"face":{"label":"{message}","glyph":"message"}}]`)
	w := world(map[string]any{"sw:mix/1/program": "2", "sw:input/2/name": "Telescope feed"})
	for text, want := range map[string]string{
		`PUT /lamps/1 {"on": true}`: `PUT /lamps/1 {"on":true}`,
		`post /say {"text": "{name('sw:input/2')}", "n": {reading('sw:mix/1/program')}}`: `POST /say {"n":2,"text":"Telescope feed"}`,
		`GET /x`: "GET /x",
	} {
		b, err := typ.Bind("d", "send", map[string]string{"message": text}, 25)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if m, err := b.Messages(w); err != nil || len(m) != 1 || m[0].String() != want {
			t.Errorf("%s sends %v (%v), want %s", text, m, err, want)
		}
	}
	if _, err := typ.Bind("d", "send", map[string]string{"message": "GET /{reading('no device')}"}, 25); err == nil {
		t.Error("a path without a device was accepted")
	}
	if got := reports(t, typ, Message{Address: "/x", Body: "fine"}); got["answer"] != "/x fine" {
		t.Errorf("the answer is %v", got)
	}
}

type world map[string]any

func (w world) Reading(k reading.Key) reading.Reading {
	return reading.Reading{Value: w[k.String()], Quality: reading.Confirmed}
}

func TestMessagesByHandAreRead(t *testing.T) {
	for _, c := range []struct {
		driver, text string
		want         Message
	}{
		{"osc", `/lamp/1/on 1 0.5 "two words" word`, Message{Address: "/lamp/1/on", Args: []any{1, 0.5, "two words", "word"}}},
		{"lines", "GOTO 1", Message{Address: "GOTO 1"}},
		{"mqtt", "a/b true", Message{Address: "a/b", Body: true}},
		{"mqtt", "a/b plain text", Message{Address: "a/b", Body: "plain text"}},
		{"jsonrpc", `scene.show {"n":1}`, Message{Address: "scene.show", Body: map[string]any{"n": 1.0}}},
		{"http", "delete /x", Message{Verb: "DELETE", Address: "/x"}},
	} {
		if got, err := Parse(c.driver, c.text); err != nil || !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s %q is %+v (%v)", c.driver, c.text, got, err)
		}
	}
	for _, c := range [][2]string{{"osc", ""}, {"osc", "lamp 1"}, {"osc", `/x "open`}, {"http", "FETCH /x"}, {"http", "GET x"}, {"jsonrpc", "m {"}, {"lines", "a\nb"}} {
		if got, err := Parse(c[0], c[1]); err == nil {
			t.Errorf("%s %q was read as %+v", c[0], c[1], got)
		}
	}
}

// TestTheEndOfATaperIsSilence: a device with a taper cannot tell its lowest level from none at all, so what is
// to be brought about is what it will say.
func TestTheEndOfATaperIsSilence(t *testing.T) {
	low, high := -60.0, 6.0
	r := &Reading{taper: TaperSpec{{-60, 0}, {0, 0.8}, {6, 1}}}
	r.Type, r.Min, r.Max = "db", &low, &high
	for _, v := range []any{-60.0, "-60", math.Inf(-1)} {
		got, err := r.normal(v)
		if err != nil || !math.IsInf(got.(float64), -1) {
			t.Errorf("%v is brought about as %v (%v)", v, got, err)
		}
	}
	if got, err := r.normal(-59.5); err != nil || got != -59.5 {
		t.Errorf("-59.5 is brought about as %v (%v)", got, err)
	}
}

func TestTapersGoBothWays(t *testing.T) {
	fader := TaperSpec{{-60, 0}, {-20, 0.25}, {0, 0.8}, {6, 1}}
	for n := 0.01; n <= 1; n += 0.01 {
		if back := fader.Number(fader.Decibels(n)); math.Abs(back-n) > 1e-9 {
			t.Errorf("%v comes back as %v", n, back)
		}
	}
	if !math.IsInf(fader.Decibels(0), -1) || fader.Number(math.Inf(-1)) != 0 || fader.Number(20) != 1 || fader.Decibels(2) != 6 {
		t.Error("the ends are wrong")
	}
	for _, bad := range []TaperSpec{{{0, 0}}, {{0, 0}, {0, 1}}, {{0, 1}, {1, 0}}} {
		if bad.check() == "" {
			t.Errorf("%v was accepted", bad)
		}
	}
}

func TestVersionsAndModels(t *testing.T) {
	typ := sheetOf(t, `{"driver":"osc","transport":"udp","port":1,"alive":"1s","ask":{"address":"/ask","args":["{address}"]},"identify":{"reading":"model","version":"version ([0-9.]+)","minimum":"3.2"}}`,
		`"readings":[{"path":"model","title":"m","type":"text"},{"path":"input/1/name","title":"n","type":"text"}],"actions":[],
		"models":[{"id":"small","title":"Small","like":"(?i)small","has":{"input/1/name":"Camera"}}]`)
	for identity, want := range map[string]bool{"x, version 3.1.9": true, "x, version 3.2": false, "x, version 3.10": false, "x": false} {
		if _, old := typ.TooOld(identity); old != want {
			t.Errorf("%s is too old: %v", identity, old)
		}
	}
	if m := typ.Model("", "a SMALL one"); m == nil || !slices.Equal(typ.Defaults(m), []Report{{"input/1/name", "Camera"}}) {
		t.Errorf("the model is %+v", m)
	}
	if typ.Model("large", "") != nil || typ.Model("small", "") == nil {
		t.Error("a model is chosen by its id")
	}
}

func TestPromotedMessagesAreASheet(t *testing.T) {
	typ := sheetOf(t, `{"driver":"lines","transport":"tcp","port":9}`, `"readings":[{"path":"answer","title":"a","type":"text","from":{"any":true}}],
		"actions":[{"id":"send","title":"S","help":"h","suits":["press"],"params":[{"id":"message","title":"m","type":"message"}],"send":[{"written":"message"}],"face":{"label":"x","glyph":"x"}}]`)
	s := typ.Promoted("Fog machine", func(t string) bool { return t == "own.fog-machine" }, []string{"FOG ON", "FOG {reading('d:x')}", "fog on"})
	if s.Type != "own.fog-machine-2" || len(s.Actions) != 3 || s.Actions[0].ID != "send-fog-on" || s.Actions[2].ID != "send-fog-on-2" {
		t.Fatalf("made %s with %+v", s.Type, s.Actions)
	}
	made, err := Compile(s)
	if err != nil {
		t.Fatal(err)
	}
	b, err := made.Bind("d", s.Actions[0].ID, nil, 25)
	if err != nil {
		t.Fatal(err)
	}
	if m, err := b.Messages(expr.Nothing{}); err != nil || m[0].Address != "FOG ON" {
		t.Errorf("sends %v (%v)", m, err)
	}
}

// FuzzParse feeds arbitrary messages by hand; what is read can be shown and,
// where it has no JSON, read again.
func FuzzParse(f *testing.F) {
	f.Add("osc", `/a 1 "b"`)
	f.Add("osc", `"/ "`)
	f.Add("osc", "/ 0.")
	f.Add("osc", "/a \"\\t\" \"1\"")
	f.Add("http", `PUT /a {"b":[1]}`)
	f.Add("mqtt", "a/b c")
	f.Fuzz(func(t *testing.T, driver, text string) {
		m, err := Parse(driver, text)
		if err != nil {
			return
		}
		if again, err := Parse(driver, m.String()); driver == "osc" && (err != nil || again.Address != m.Address || fmt.Sprint(again.Args) != fmt.Sprint(m.Args)) {
			t.Errorf("%q is shown as %q, which is read as %+v (%v)", text, m, again, err)
		}
	})
}

// FuzzMatch feeds arbitrary documents to a sheet.
func FuzzMatch(f *testing.F) {
	typ, err := Compile(small())
	if err != nil {
		f.Fatal(err)
	}
	f.Add("/mix/1/program", []byte(`[3]`))
	f.Fuzz(func(t *testing.T, address string, raw []byte) {
		var args []any
		if json.Unmarshal(raw, &args) != nil {
			return
		}
		got, _ := typ.Match(Message{Address: address, Args: args})
		for _, r := range got.Reports {
			if typ.Reading(r.Path) == nil {
				t.Errorf("%s reports %s, which the sheet does not have", address, r.Path)
			}
		}
	})
}
