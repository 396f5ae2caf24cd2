package app_test

import (
	"errors"
	"io"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/store"
)

// text gives an answer as text.
func (r *rig) text(path string) string {
	r.Helper()
	resp, err := r.client.Get(r.base + path)
	if err != nil {
		r.Fatal(err)
	}
	defer resp.Body.Close()
	b, err := io.ReadAll(resp.Body)
	if err != nil {
		r.Fatal(err)
	}
	return string(b)
}

type found struct {
	Type, Model, Known, Name, User, Version, Note string
	Port                                          int
	Locked                                        bool
}

func TestAnAddressSaysWhatAnswersThere(t *testing.T) {
	r := start(t)
	want := map[string]bool{"streaming": true, "mixer": false, "lights": true, "camera": false, "chat": true}
	for id, locked := range want {
		_, port, _ := net.SplitHostPort(r.Bench.StandIn(id).Addr())
		began := time.Now()
		var list []found
		r.must(200, "POST", "/api/v1/identify", `{"host":"127.0.0.1","port":`+port+`}`, &list)
		if took := time.Since(began); took > 10*time.Second {
			t.Errorf("%s: it took %v", id, took)
		}
		if id == "lights" && slices.ContainsFunc(list, func(f found) bool { return f.Type == "music.mqtt" }) {
			t.Errorf("a broker that asks who comes, and is known, is offered as %+v", list)
		}
		list = slices.DeleteFunc(list, func(f found) bool { return f.Known == "" }) // what else has this number, of UDP or of TCP
		if len(list) != 1 || list[0].Locked != locked || list[0].Known == "" {
			t.Errorf("%s at %s is found as %+v", id, port, list)
			continue
		}
		if id != "lights" && !strings.Contains(list[0].Model, "Larkfell bench") {
			t.Errorf("%s says it is %q", id, list[0].Model)
		}
	}
	silent, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer silent.Close()
	_, port, _ := net.SplitHostPort(silent.Addr().String())
	var list []found
	r.must(200, "POST", "/api/v1/identify", `{"host":"127.0.0.1","port":`+port+`}`, &list)
	if len(list) != 0 {
		t.Errorf("something that says nothing is found as %+v", list)
	}
	for body, field := range map[string]string{`{"host":"no host"}`: "host", `{"host":"127.0.0.1","port":70000}`: "port", `{"host":""}`: "host"} {
		if p := r.fails(422, "POST", "/api/v1/identify", body); p.Field != field {
			t.Errorf("%s is wrong at %q", body, p.Field)
		}
	}
}

// A device is tried out as it would be saved, and nothing of it is kept.
func TestADeviceIsTriedOutBeforeItIsSaved(t *testing.T) {
	r := start(t)
	at := func(standIn string) string {
		_, port, _ := net.SplitHostPort(r.Bench.StandIn(standIn).Addr())
		return `"host":"127.0.0.1","port":` + port
	}
	for _, c := range []struct {
		fields  string
		answers bool
		text    string
	}{
		{`"type":"switcher.osc",` + at("switcher"), true, "Larkfell bench switcher"},
		{`"type":"mixer.osc",` + at("mixer"), true, "Larkfell bench"},
		{`"type":"streaming.jsonrpc","password":"wrong",` + at("streaming"), false, "the password is wrong"},
		{`"type":"streaming.jsonrpc","password":"` + streaming.Password + `",` + at("streaming"), true, "Larkfell bench"},
		{`"type":"streaming.jsonrpc","id":"stream-pc",` + at("streaming"), true, "Larkfell bench"},
		{`"type":"camera.lines",` + at("player"), false, "Something else answers"},
		{`"type":"switcher.osc","host":"127.0.0.1","port":1`, false, "refuses the connection"},
		{`"type":"plain.lines",` + at("camera"), true, "It can be reached."},
		{`"type":"computer.local"`, true, "this computer"},
	} {
		var got struct {
			Answers bool
			Text    string
		}
		r.must(200, "POST", "/api/v1/devices/test", `{"name":"It",`+c.fields+`}`, &got)
		if got.Answers != c.answers || !strings.Contains(got.Text, c.text) {
			t.Errorf("%s: %+v", c.fields, got)
		}
	}
	if p := r.fails(422, "POST", "/api/v1/devices/test", `{"name":"It","type":"switcher.osc","host":"no host","port":1}`); p.Field != "host" {
		t.Errorf("a host that is none is wrong at %q", p.Field)
	}
	if p := r.fails(422, "POST", "/api/v1/devices/test", `{"name":"It","type":"streaming.jsonrpc","id":"stream-pc",`+at("camera")+`}`); p.Field != "password" {
		t.Errorf("a stored password goes to another address: wrong at %q", p.Field)
	}
	if n := len(r.Edit.Program().Show.Devices()); n != demoDevices {
		t.Errorf("there are %d devices after it", n)
	}
}

func TestSeveralDevicesAreAddedAsOneEdit(t *testing.T) {
	r := start(t)
	add := `{"devices":[{"name":"Spare","type":"switcher.osc","host":"127.0.0.1","port":1},{"name":"spare","type":"mixer.osc","host":"127.0.0.1","port":2}]}`
	if p := r.fails(422, "POST", "/api/v1/devices/all", add); p.Field != "name" {
		t.Errorf("two of one name are wrong at %q", p.Field)
	}
	var made struct{ IDs []string }
	r.must(201, "POST", "/api/v1/devices/all", strings.Replace(add, `"spare"`, `"Spare desk"`, 1), &made)
	if len(made.IDs) != 2 || len(r.doc().Devices) != demoDevices+2 {
		t.Errorf("made %v; %d devices", made.IDs, len(r.doc().Devices))
	}
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	if len(r.doc().Devices) != demoDevices {
		t.Error("one undo takes both back")
	}
}

func TestADeviceIsParkedAndDuplicated(t *testing.T) {
	r := start(t).ready()
	r.must(204, "PUT", "/api/v1/devices/dome-switcher/parked", `{"parked":true}`, nil)
	r.eventually("it is parked", func() bool { return r.phase("dome-switcher").Phase == link.Parked })
	if e := r.entry(r.press("b1"), journal.Refused); !strings.Contains(e.Reason, "parked") {
		t.Errorf("a press is refused with %q", e.Reason)
	}
	if s := r.text("/api/v1/show"); !strings.Contains(s, `"parked":true`) {
		t.Error("the show does not tell")
	}
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/devices/dome-switcher/duplicate", nil, &made)
	if d := r.device(made.ID); d.Name != "Dome switcher 2" || len(d.Uses) != 0 {
		t.Errorf("the copy is %+v", d)
	}
	r.must(204, "PUT", "/api/v1/devices/dome-switcher/parked", `{"parked":false}`, nil)
	r.connected("dome-switcher")
	r.entry(r.press("b1"), journal.Confirmed)
}

func TestEverybodyAnswersTheRollCall(t *testing.T) {
	r := start(t)
	for id := range probes {
		r.connected(id)
	}
	if err := r.Bench.StandIn("player").SetFaults(faults.Faults{Cut: true}); err != nil {
		t.Fatal(err)
	}
	r.eventually("the player is away", func() bool { return r.phase("replay-player").Phase == link.Down })
	var rows []struct {
		Device, Problem string
		Answered        bool
		TookUs          int64
	}
	// One that a busy machine keeps from answering is called again.
	r.eventually("all answer that are there", func() bool {
		r.must(200, "POST", "/api/v1/rollcall", nil, &rows)
		for _, row := range rows {
			if away := row.Device == "replay-player"; away && (row.Answered || row.Problem == "") {
				t.Fatalf("the roll call: %+v", row)
			} else if !away && !row.Answered {
				return false
			}
		}
		return len(rows) == demoDevices
	})
}

func TestNamesAreKeptForLayingOutAtHome(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data)
	r.connected("stream-pc")
	r.operateOn("streaming", "/set/1/scene/3/name", "Big telescope")
	r.eventually("the name is heard", func() bool { return strings.Contains(r.text("/api/v1/find?q=big+telescope"), "Big telescope") })
	r.Close()

	again := startIn(t, data) // the stand-ins have other ports now: nothing answers
	again.eventually("a device that is away offers what it had", func() bool {
		return strings.Contains(again.text("/api/v1/find?q=big+telescope"), "Show Big telescope")
	})
}

// atStandIn is what a simulated device itself has at an address.
func (r *rig) atStandIn(id, address string) any { return r.Bench.StandIn(id).View().Values[address] }

func (r *rig) operateOn(standIn, address string, value any) {
	r.Helper()
	r.must(204, "POST", "/api/v1/bench/"+standIn+"/operate", map[string]any{"address": address, "value": value}, nil)
}

const fog = `{
  "sheet": "synaptor.device/1", "type": "fog.lines", "title": "Fog machine", "role": "other",
  "link": { "driver": "lines", "transport": "tcp", "port": 4810 },
  "readings": [{ "path": "on", "title": "Fog", "type": "bool", "from": { "line": "FOG {value}" } }],
  "actions": [{ "id": "start", "title": "Start the fog", "help": "Lets fog out.", "suits": ["press"], "effects": [{ "set": "on", "to": "true" }],
    "send": [{ "line": "FOG ON" }], "face": { "label": "Fog", "glyph": "lamp" } }]
}`

func TestOwnSheetsComeAndGoWithoutARestart(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data)
	if p := r.fails(422, "POST", "/api/v1/sheets", strings.Replace(fog, `"help": "Lets fog out.", `, "", 1)); !strings.Contains(p.Detail, "Line 5") {
		t.Errorf("a mistake is told as %q", p.Detail)
	}
	if p := r.fails(422, "POST", "/api/v1/sheets", strings.Replace(fog, "fog.lines", "mixer.osc", 1)); !strings.Contains(p.Detail, "built-in") {
		t.Errorf("a built-in type: %q", p.Detail)
	}
	r.must(201, "POST", "/api/v1/sheets", fog, nil)
	r.must(201, "POST", "/api/v1/devices", `{"name":"Fog","type":"fog.lines","host":"127.0.0.1","port":4810}`, nil)
	if p := r.fails(422, "DELETE", "/api/v1/sheets/fog.lines", nil); !strings.Contains(p.Detail, "Fog uses this sheet") {
		t.Errorf("a sheet in use: %q", p.Detail)
	}
	if s := r.text("/api/v1/sheets/fog.lines"); !strings.Contains(s, "Start the fog") {
		t.Errorf("a copy is %s", s)
	}

	// A file that is changed in the folder is read again.
	file := filepath.Join(data, "sheets", "fog.lines.json")
	if err := os.WriteFile(file, []byte(strings.Replace(fog, "Start the fog", "Let it steam", 1)), 0o600); err != nil {
		t.Fatal(err)
	}
	r.eventually("the changed sheet is in force", func() bool { return strings.Contains(r.text("/api/v1/find?q=steam"), "Let it steam") })
	if err := os.WriteFile(filepath.Join(data, "sheets", "bad.json"), []byte("{\n oops"), 0o600); err != nil {
		t.Fatal(err)
	}
	r.eventually("the broken one is named", func() bool { return strings.Contains(r.text("/api/v1/show"), `"file":"bad.json","line":2`) })
	r.must(200, "POST", "/api/v1/undo", nil, nil)
	r.must(204, "DELETE", "/api/v1/sheets/fog.lines", nil, nil)
	r.fails(404, "GET", "/api/v1/sheets/fog.lines", nil)
	r.fails(404, "DELETE", "/api/v1/sheets/..%2f..%2fshow", nil)
}

// TestAMessageByHandBecomesASheet talks to gear that nobody has described: a
// message by hand on a key, its answer, and a sheet made of it.
func TestAMessageByHandBecomesASheet(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	got := make(chan string, 10)
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				buf := make([]byte, 100)
				for {
					n, err := c.Read(buf)
					if err != nil {
						return
					}
					got <- strings.TrimSpace(string(buf[:n]))
					_, _ = c.Write([]byte("FOG IS ON\n"))
				}
			}()
		}
	}()
	r := start(t).ready()
	_, port, _ := net.SplitHostPort(l.Addr().String())
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/devices", `{"name":"Fog","type":"plain.lines","host":"127.0.0.1","port":`+port+`}`, &made)
	r.connected(made.ID)
	put := map[string]any{"device": made.ID, "action": "send", "params": map[string]string{"message": "FOG ON {reading('dome-switcher:mix/1/program')}"}}
	r.must(201, "PUT", "/api/v1/pages/cut/controls/a4", put, nil)
	r.entry(r.press("a4"), journal.Sent)
	if line := <-got; line != "FOG ON 1" {
		t.Errorf("sent %q", line)
	}
	r.eventually("the answer is shown", func() bool {
		var rows []reading
		r.must(200, "GET", "/api/v1/readings?device="+made.ID+"&path=answer", nil, &rows)
		return len(rows) == 1 && rows[0].Value == "FOG IS ON"
	})
	r.fails(422, "POST", "/api/v1/devices/dome-switcher/sheet", `{"title":"X"}`)
	r.fails(422, "POST", "/api/v1/devices/"+made.ID+"/sheet", `{"title":""}`)
	var sheet struct{ Type string }
	r.must(201, "POST", "/api/v1/devices/"+made.ID+"/sheet", `{"title":"Fog machine"}`, &sheet)
	if sheet.Type != "own.fog-machine" || r.device(made.ID).Type != sheet.Type {
		t.Errorf("made %q; the device has %q", sheet.Type, r.device(made.ID).Type)
	}
	r.connected(made.ID)
	r.eventually("the key sends as before", func() bool { return r.entry(r.press("a4")).Outcome == journal.Sent })
	if line := <-got; line != "FOG ON 1" {
		t.Errorf("the sheet sends %q", line)
	}
}

func TestLivePicturesComeThroughOneFetcher(t *testing.T) {
	r := start(t).ready()
	resp, err := r.client.Get(r.base + "/api/v1/pictures/dome-switcher/input-2?rate=10")
	if err != nil {
		t.Fatal(err)
	}
	defer resp.Body.Close()
	if body, _ := io.ReadAll(resp.Body); resp.StatusCode != 200 || resp.Header.Get("Content-Type") != "image/jpeg" || len(body) < 1000 {
		t.Errorf("answered %d, %s, %d bytes", resp.StatusCode, resp.Header.Get("Content-Type"), len(body))
	}
	r.fails(404, "GET", "/api/v1/pictures/dome-switcher/input-99x", nil)
	r.fails(404, "GET", "/api/v1/pictures/nobody/input-2", nil)
	r.fails(400, "GET", "/api/v1/pictures/dome-switcher/input-2?rate=often", nil)
	var sources []struct{ Value, Name string }
	r.must(200, "GET", "/api/v1/devices/dome-switcher/pictures", nil, &sources)
	if len(sources) != 12 || sources[1].Name != "Telescope feed" {
		t.Errorf("the sources are %+v", sources)
	}
}

func TestEventsOfTheAudienceArrive(t *testing.T) {
	r := start(t)
	r.connected("audience")
	l := r.follow("events:audience")
	r.operateOn("chat", "/say", "Nachteule: !map")
	l.until("the message is told", func() bool { return strings.Contains(string(l.values["events/audience"]), "Nachteule: !map") })
}

// TestADeviceCannotBeSynaptorItself: each press would press again, by HTTP as by OSC.
func TestADeviceCannotBeSynaptorItself(t *testing.T) {
	r := start(t).ready()
	for typ, addr := range map[string]string{"plain.http": r.Addr, "plain.osc": r.OSCAddr, "plain.lines": r.Addr} {
		_, text, _ := net.SplitHostPort(addr)
		port, err := strconv.Atoi(text)
		if err != nil {
			t.Fatal(err)
		}
		var made struct{ ID string }
		r.must(201, "POST", "/api/v1/devices", map[string]any{"name": "Mirror " + typ, "type": typ, "host": "127.0.0.1", "port": port}, &made)
		r.eventually(typ+" is refused", func() bool {
			return strings.Contains(r.Mirror.View().Link(made.ID).Problem, "Synaptor's own address")
		})
	}
}

func TestADataFolderIsForOneSynaptor(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data)
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data})
	var used *store.InUseError
	if !errors.As(err, &used) {
		a.Close()
		t.Fatalf("a second one on the folder: %v", err)
	}
	r.Close()
	if a, err = app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data}); err != nil {
		t.Fatalf("once the first has ended: %v", err)
	}
	a.Close()
}
