package app_test

import (
	"slices"
	"strings"
	"testing"

	"synaptor/internal/bench/faults"
)

// deviceDoc is what the tests look at of a device.
type deviceDoc struct {
	ID, Name, Type, Host, Login  string
	Port                         int
	Rev                          int64
	Uses                         []string
	HasPassword, Factory, Parked bool
}

// doc is the part of the show that the tests look at.
type doc struct {
	Name, Undo, Redo string
	Devices          []deviceDoc
	Controllers      []struct{ ID string }
	Mappings         []struct {
		ID         string
		Rev        int64
		Placements []struct{ Page, Control string }
		Responses  []struct {
			Action struct {
				Action string
				Params map[string]string
			}
		}
		Face map[string]any
	}
}

func (r *rig) doc() doc {
	r.Helper()
	var d doc
	r.must(200, "GET", "/api/v1/show", nil, &d)
	return d
}

func (r *rig) device(id string) deviceDoc {
	r.Helper()
	for _, d := range r.doc().Devices {
		if d.ID == id {
			return d
		}
	}
	r.Fatalf("the show has no device %s", id)
	return deviceDoc{}
}

// on tells what a control of the page Cut does, in short.
func (r *rig) on(control string) string {
	r.Helper()
	for _, m := range r.doc().Mappings {
		if m.Placements[0].Control == control && m.Placements[0].Page == "cut" {
			a := m.Responses[0].Action
			return strings.TrimSpace(a.Action + " " + a.Params["input"] + a.Params["keyer"] + " " + a.Params["mix"])
		}
	}
	return ""
}

type problem struct {
	Status        int
	Detail, Field string
}

func (r *rig) fails(status int, method, path string, body any) problem {
	r.Helper()
	var p problem
	if got := r.call(method, path, body, &p); got != status || p.Status != status || p.Detail == "" {
		r.Fatalf("%s %s answered %d %+v, want %d with a sentence", method, path, got, p, status)
	}
	return p
}

func TestAKitLandsWhereItWasShownAndComesBackOff(t *testing.T) {
	r := start(t).ready()
	r.eventually("the inputs are known", func() bool { return r.reading("input/6/name").Word == "Replay" })
	kit := map[string]any{"device": "dome-switcher", "kit": "program-row", "params": map[string]string{"mix": "2"}, "at": "c4", "replace": false}
	var plan struct {
		Cells, Titles []string
		Left          int
	}
	r.must(200, "POST", "/api/v1/pages/cut/kits/plan", kit, &plan)
	if !slices.Equal(plan.Cells, []string{"a4", "b4", "c4", "d4", "e4", "f4"}) || plan.Left != 0 || plan.Titles[1] != "Put Telescope feed on program of mix effect 2" {
		t.Errorf("planned %+v", plan)
	}
	if r.doc().Undo != "" {
		t.Error("a plan is no edit")
	}
	r.must(201, "POST", "/api/v1/pages/cut/kits", kit, nil)
	if got := r.on("b4"); got != "put-on-program 2 2" {
		t.Errorf("b4 does %q", got)
	}
	if d := r.doc(); d.Undo != "Program row of mix effect 2 on Cut" {
		t.Errorf("the edit is called %q", d.Undo)
	}
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	if r.on("b4") != "" || r.doc().Redo == "" {
		t.Error("the kit is still there, or cannot be done again")
	}
	r.must(200, "POST", "/api/v1/redo", nil, nil)
	if r.on("f4") != "put-on-program 6 2" {
		t.Error("the kit did not come back")
	}
	if p := r.fails(422, "POST", "/api/v1/pages/cut/kits", kit); p.Field != "at" {
		t.Errorf("a kit without room: %+v", p)
	}
}

func TestMappingsMoveSwapReplaceAndClear(t *testing.T) {
	r := start(t).ready()
	move := func(from, to string, swap bool) {
		t.Helper()
		r.must(200, "POST", "/api/v1/pages/cut/move", map[string]any{"from": from, "to": to, "swap": swap}, nil)
	}
	move("a1", "a4", false)
	move("b1", "c1", true)
	move("d1", "e1", false)
	r.must(204, "DELETE", "/api/v1/pages/cut/controls/f1", nil, nil)
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a2", map[string]any{"device": "dome-switcher", "action": "keyer-on", "params": map[string]string{"keyer": "1"}}, nil)
	for control, want := range map[string]string{"a1": "", "a4": "put-on-program 1 1", "b1": "put-on-program 3 1", "c1": "put-on-program 2 1",
		"d1": "", "e1": "put-on-program 4 1", "f1": "", "a2": "keyer-on 1"} {
		if got := r.on(control); got != want {
			t.Errorf("%s does %q, want %q", control, got, want)
		}
	}
	for _, name := range []string{"Switch Logo on on a2 of Cut", "Clear f1 on Cut", "Move d1 to e1 on Cut", "Swap b1 and c1 on Cut", "Move a1 to a4 on Cut"} {
		var s struct{ Name string }
		if r.must(200, "POST", "/api/v1/undo", nil, &s); s.Name != name {
			t.Errorf("undid %q, want %q", s.Name, name)
		}
	}
	for i, control := range []string{"a1", "b1", "c1", "d1", "e1", "f1"} {
		if got := r.on(control); got != "put-on-program "+string(rune('1'+i))+" 1" {
			t.Errorf("after undoing all, %s does %q", control, got)
		}
	}
	r.fails(404, "DELETE", "/api/v1/pages/cut/controls/d4", nil)
	r.fails(404, "POST", "/api/v1/pages/cut/move", map[string]any{"from": "d4", "to": "a1", "swap": false})
	r.fails(404, "POST", "/api/v1/pages/cut/move", map[string]any{"from": "a1", "to": "z9", "swap": false})
}

func TestALabelIsCheckedSavedAndLive(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	body := func(rev int64, face map[string]any) map[string]any {
		return map[string]any{"rev": rev, "name": "", "face": face}
	}
	rev := r.doc().Mappings[0].Rev
	for field, f := range map[string]map[string]any{
		"label":      {"label": "{nothing("},
		"background": {"background": "blue"},
		"text":       {"background": "#202020", "text": "#232323"},
	} {
		if p := r.fails(422, "PUT", "/api/v1/mappings/cut-a1", body(rev, f)); p.Field != field {
			t.Errorf("%v is wrong at %q", f, p.Field)
		}
	}
	r.must(200, "PUT", "/api/v1/mappings/cut-a1", body(rev, map[string]any{"label": "{name('input/1')}!", "background": "#402000"}), nil)
	l.until("the label shows", func() bool { return l.face("a1").Label == "Presenter cam!" })
	if p := r.fails(409, "PUT", "/api/v1/mappings/cut-a1", body(rev, map[string]any{})); !strings.Contains(p.Detail, "Browser") {
		t.Errorf("a stale edit: %q does not say who", p.Detail)
	}
}

func TestALabelThatIsAboutToChangeIsPending(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	for _, m := range r.doc().Mappings {
		if m.ID == "cut-d3" {
			r.must(200, "PUT", "/api/v1/mappings/cut-d3", map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"label": "On {reading('mix/1/program')}"}}, nil)
		}
	}
	l.until("the label shows", func() bool { return l.face("d3").Label == "On 1" })
	r.fault(faults.Faults{LatencyMs: 200})
	r.press("c1")
	l.until("the label is pending", func() bool { return slices.Equal(l.face("d3").Pending, []string{"set"}) })
	l.until("the label has changed", func() bool { return l.face("d3").Label == "On 3" && len(l.face("d3").Pending) == 0 })
}

func TestUndoIsMineAndSaysWhoIsInTheWay(t *testing.T) {
	r := start(t).ready()
	tobin, saskia := r.another(), r.another()
	put := func(who *rig, keyer string) {
		t.Helper()
		who.must(201, "PUT", "/api/v1/pages/cut/controls/a4", map[string]any{"device": "dome-switcher", "action": "keyer-on", "params": map[string]string{"keyer": keyer}}, nil)
	}
	put(tobin, "1")
	saskia.must(204, "DELETE", "/api/v1/pages/cut/controls/f3", nil, nil)
	if tobin.doc().Undo == saskia.doc().Undo {
		t.Error("both would undo the same")
	}
	put(saskia, "2")
	if p := tobin.fails(409, "POST", "/api/v1/undo", nil); !strings.Contains(p.Detail, "has since made the edit") {
		t.Errorf("the conflict says %q", p.Detail)
	}
	saskia.must(200, "POST", "/api/v1/undo", nil, nil)
	tobin.must(200, "POST", "/api/v1/undo", nil, nil)
	if r.on("a4") != "" || r.on("f3") != "" {
		t.Error("undo took back too much or too little")
	}
}

func TestRiggingAnswersAtTheField(t *testing.T) {
	r := start(t).ready()
	device := func(name, host string, port int) map[string]any {
		return map[string]any{"name": name, "type": "switcher.osc", "host": host, "port": port}
	}
	for field, body := range map[string]any{
		"name":   device("Dome Switcher", "127.0.0.1", 7431),
		"host":   device("Spare", "no host", 7431),
		"port":   device("Spare", "127.0.0.1", 70000),
		"type":   map[string]any{"name": "Spare", "type": "toaster", "host": "127.0.0.1", "port": 1},
		"colour": nil,
	} {
		if field == "colour" {
			if p := r.fails(400, "POST", "/api/v1/devices", `{"colour":"red"}`); p.Field != field {
				t.Errorf("an unknown field is at %q", p.Field)
			}
			continue
		}
		if p := r.fails(422, "POST", "/api/v1/devices", body); p.Field != field {
			t.Errorf("%v is wrong at %q: %s", body, p.Field, p.Detail)
		}
	}
	for _, bad := range []string{"", "{", "[]", `{"port":"x"}`, `{} {}`} {
		r.fails(400, "POST", "/api/v1/devices", bad)
	}
	// To a wrong port and back: the keys survive both.
	l := r.follow("devices", "page:cut")
	d := r.device("dome-switcher")
	change := map[string]any{"rev": d.Rev, "name": d.Name, "type": "switcher.osc", "host": d.Host, "port": 1}
	r.must(204, "PUT", "/api/v1/devices/dome-switcher", change, nil)
	l.until("the link is down", func() bool { return l.device("dome-switcher")["phase"] == "down" && l.face("a1").Unknown })
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	l.until("the keys are right", func() bool { return l.face("a1").is("on-air") && !l.face("a1").Unknown && !l.face("a1").Away })
	change["rev"] = d.Rev + 1 // as if it had been read before the undo
	r.fails(409, "PUT", "/api/v1/devices/dome-switcher", change)
}

func TestARemovedDeviceLeavesItsKeysAndComesBack(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	if uses := r.device("dome-switcher").Uses; len(uses) != 39 {
		t.Errorf("%d keys use the switcher, want 39", len(uses))
	}
	r.must(204, "DELETE", "/api/v1/devices/dome-switcher", nil, nil)
	l.until("the key says that it is gone", func() bool { return l.face("a1").Away })
	if e := r.entry(r.press("a1"), "refused"); !strings.Contains(e.Reason, "Dome switcher is no longer in the rig") {
		t.Errorf("the reason is %q", e.Reason)
	}
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	l.until("the keys work again", func() bool { return l.face("a1").is("on-air") && !l.face("a1").Away })
	r.entry(r.press("b1"), "confirmed")
}

func TestInputsThatDoNotExistAreNamed(t *testing.T) {
	r := start(t).ready()
	for path, field := range map[string]string{
		"nobody/a1/press": "controller", "producer-grid/z9/press": "control", "producer-grid/a1/swipe": "gesture",
	} {
		if p := r.fails(404, "POST", "/api/v1/input/"+path, nil); p.Field != field {
			t.Errorf("%s is wrong at %q", path, p.Field)
		}
	}
	if p := r.fails(422, "POST", "/api/v1/input/producer-grid/a1/press", `{"value":1}`); p.Field != "value" {
		t.Errorf("a value for a press is wrong at %q", p.Field)
	}
	for body, field := range map[string]string{"{": "body", `{"page":7}`: "page", `{"x":1}`: "x"} {
		if p := r.fails(400, "POST", "/api/v1/input/producer-grid/a1/press", body); p.Field != field {
			t.Errorf("%s is wrong at %q", body, p.Field)
		}
	}
	if p := r.fails(404, "POST", "/api/v1/input/producer-grid/a1/press", `{"page":"nowhere"}`); p.Field != "page" {
		t.Errorf("an unknown page is wrong at %q", p.Field)
	}
	e := r.entry(r.press("d4"), "refused")
	if !strings.Contains(e.Reason, "Nothing is mapped") {
		t.Errorf("an empty key: %q", e.Reason)
	}
	var made struct{ ID string }
	r.must(202, "POST", "/api/v1/input/producer-grid/a1/release", `{"page":"cut"}`, &made)
	r.entry(made.ID, "refused")
	r.fails(404, "GET", "/api/v1/journal/none", nil)
	r.fails(404, "GET", "/api/v1/nothing", nil)
}
