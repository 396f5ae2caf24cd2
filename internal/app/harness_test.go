package app_test

import (
	"bytes"
	"encoding/json"
	"flag"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"slices"
	"strconv"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/demo/demotest"
	"synaptor/internal/edit"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/sheet"
)

// demoDevices is how many devices the demo has.
const demoDevices = 14

// demoReflexes is how many reflexes it has.
const demoReflexes = 6

// patience is how long a condition may take to come true.
const patience = 30 * time.Second

// TestMain has four tests run beside each other, since they mostly wait for simulated devices. Where the machine is busy with other things, a device
// here may not get to answer for a second, and is not lost for that: what becomes of one that is late stands in internal/link and internal/engine.
func TestMain(m *testing.M) {
	flag.Parse()
	lib, err := sheet.Load(nil)
	if err == nil {
		err = flag.Set("test.parallel", "4")
	}
	if err != nil {
		panic(err)
	}
	for _, t := range lib.Devices() {
		t.Deadline *= 6
		if t.Sheet.Link.Transport != "udp" { // nothing but silence says that one by UDP has gone
			t.Alive *= 3
		}
	}
	os.Exit(m.Run())
}

// rig is a running Synaptor with the demo show, and a browser's worth of HTTP.
type rig struct {
	*testing.T
	*app.App
	base   string
	client *http.Client
}

var files = fstest.MapFS{"index.html": {Data: []byte("app")}, "panel.html": {Data: []byte("panel")}, "overlay.html": {Data: []byte("overlay")}}

func start(t *testing.T) *rig {
	t.Helper()
	return startIn(t, t.TempDir()).clear()
}

// clear takes out of the demo show what stands in the way of a test.
func (r *rig) clear() *rig {
	r.Helper()
	if err := demotest.Clear(r.Edit); err != nil {
		r.Fatal(err)
	}
	return r
}

// beside has the tests that have a Synaptor of their own.
var beside sync.Map

// startIn starts a Synaptor in a data folder. Tests with one run beside each other.
func startIn(t *testing.T, data string) *rig {
	t.Helper()
	if _, again := beside.LoadOrStore(t, true); !again {
		t.Parallel()
	}
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Demo: true, Files: files})
	if err != nil {
		t.Fatal(err)
	}
	stop := incident.Notify(func(i incident.Incident) {
		t.Errorf("an incident in the %s, %s: %s\n%s", i.Where, i.Cause, i.Text, i.Stack)
	})
	t.Cleanup(stop)
	t.Cleanup(a.Close)
	return (&rig{T: t, App: a, base: "http://" + a.Addr}).another()
}

// again ends Synaptor and starts another one on its data, whose simulated switcher and audience are elsewhere by then: the show is told where.
func (r *rig) again(data string) *rig {
	r.Helper()
	r.App.Close()
	n := startIn(r.T, data)
	err := n.Edit.Fill(edit.Who{Session: "setup", Actor: "Setup"}, "Move the devices", func(d *show.Draft) {
		for id, standIn := range map[string]string{"dome-switcher": "switcher", "audience": "chat"} {
			c := *n.Edit.Program().Show.Device(id)
			_, port, err := net.SplitHostPort(n.Bench.StandIn(standIn).Addr())
			if err == nil {
				c.Port, err = strconv.Atoi(port)
			}
			if err != nil {
				n.Fatal(err)
			}
			d.Put(&c)
		}
	})
	if err != nil {
		n.Fatal(err)
	}
	return n.ready()
}

// another gives a second person's browser on the same Synaptor.
func (r *rig) another() *rig {
	jar, err := cookiejar.New(nil)
	if err != nil {
		r.Fatal(err)
	}
	return &rig{T: r.T, App: r.App, base: r.base, client: &http.Client{Jar: jar, Timeout: patience}}
}

// call makes a request and decodes the answer into out, where that is not nil.
func (r *rig) call(method, path string, body, out any) int {
	r.Helper()
	var in io.Reader
	switch b := body.(type) {
	case nil:
	case string:
		in = bytes.NewReader([]byte(b))
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			r.Fatal(err)
		}
		in = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, r.base+path, in)
	if err != nil {
		r.Fatal(err)
	}
	req.Header.Set("Sec-Fetch-Site", "same-origin") // as a browser does
	resp, err := r.client.Do(req)
	if err != nil {
		r.Fatalf("%s %s: %v", method, path, err)
	}
	defer resp.Body.Close()
	raw, err := io.ReadAll(resp.Body)
	if err != nil {
		r.Fatal(err)
	}
	if out != nil {
		if err := json.Unmarshal(raw, out); err != nil {
			r.Fatalf("%s %s answered %d %s: %v", method, path, resp.StatusCode, raw, err)
		}
	}
	return resp.StatusCode
}

// must makes a request that has to end with a status.
func (r *rig) must(status int, method, path string, body, out any) {
	r.Helper()
	var raw json.RawMessage
	if method == http.MethodDelete || status == http.StatusNoContent {
		if got := r.call(method, path, body, nil); got != status {
			r.Fatalf("%s %s answered %d, want %d", method, path, got, status)
		}
		return
	}
	if got := r.call(method, path, body, &raw); got != status {
		r.Fatalf("%s %s answered %d, want %d: %s", method, path, got, status, raw)
	}
	if out != nil {
		if err := json.Unmarshal(raw, out); err != nil {
			r.Fatal(err)
		}
	}
}

// eventually waits for a condition.
func (r *rig) eventually(what string, ok func() bool) {
	r.Helper()
	for limit := time.Now().Add(patience); !ok(); time.Sleep(2 * time.Millisecond) {
		if time.Now().After(limit) {
			r.Fatalf("waited in vain until %s; the journal ends with %s", what, r.lately())
		}
	}
}

func say(address string, args ...any) device.Message {
	return device.Message{Address: address, Args: args}
}

type reading struct {
	Path    string `json:"path"`
	Value   any    `json:"value"`
	Word    string `json:"word"`
	Quality string `json:"quality"`
}

func (r *rig) reading(path string) reading {
	r.Helper()
	var rows []reading
	r.must(200, "GET", "/api/v1/readings?device=dome-switcher&path="+path, nil, &rows)
	if len(rows) == 0 {
		return reading{Quality: "unknown"}
	}
	return rows[0]
}

// ready waits until the switcher is connected and read.
func (r *rig) ready() *rig {
	r.Helper()
	r.eventually("the switcher is connected", func() bool {
		l := r.follow("devices")
		defer l.close()
		d := l.device("dome-switcher")
		return d["phase"] == "up"
	})
	return r
}

// byHand is the journal of the last presses, the newest first, without what reflexes did: where a machine is busy, a device of the demo may be lost and
// come back, and one of them answers that.
func (r *rig) byHand() []journal.Entry {
	r.Helper()
	var rows []journal.Entry
	r.must(200, "GET", "/api/v1/journal", nil, &rows)
	return slices.DeleteFunc(rows, func(e journal.Entry) bool { return e.Via == "reflex" })
}

func (r *rig) press(control string) string {
	r.Helper()
	return r.pressOn("producer-grid", control)
}

// pressOn presses a control of a controller, and gives the entry.
func (r *rig) pressOn(controller, control string) string {
	r.Helper()
	var c struct {
		ID string `json:"id"`
	}
	r.must(202, "POST", "/api/v1/input/"+controller+"/"+control+"/press", nil, &c)
	return c.ID
}

// entry waits until a press has come to its end.
func (r *rig) entry(id string, done ...journal.Outcome) journal.Entry {
	r.Helper()
	var e journal.Entry
	r.eventually("the entry "+id+" has ended", func() bool {
		r.must(200, "GET", "/api/v1/journal/"+id, nil, &e)
		return e.Outcome != journal.UnderWay
	})
	if len(done) > 0 && e.Outcome != done[0] {
		r.Fatalf("%s ended %s (%s), want %s", e.Title, e.Outcome, e.Reason, done[0])
	}
	return e
}

func (r *rig) fault(f faults.Faults) {
	r.Helper()
	r.must(204, "PUT", "/api/v1/bench/switcher/faults", f, nil)
}

func (r *rig) operate(address string, value any) {
	r.Helper()
	r.must(204, "POST", "/api/v1/bench/switcher/operate", map[string]any{"address": address, "value": value}, nil)
}
