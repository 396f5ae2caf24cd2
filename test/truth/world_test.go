package truth

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/test/witness"
)

// world is a Synaptor with devices behind cables, and the witnesses at the devices.
type world struct {
	*testing.T
	seed    uint64
	random  *rand.Rand
	app     *app.App
	bench   *bench.Bench
	live    *live
	devices []*rigged
	did     []string // what was done, with the time
	since   time.Time
	still   still
	excused int // macros that were not compared
}

// rigged is a device as the test has it: Synaptor is behind the cable, the witness is not.
type rigged struct {
	id      string // in the show
	kind    witness.Device
	standIn panel.StandIn
	cable   *witness.Cable
	eye     *witness.Witness
	login   witness.Login
}

// rig is what is held against the truth.
var rig = []struct {
	id      string
	kind    witness.Device
	network string
	user    string
}{
	{"dome-switcher", witness.Switcher, "tcp", ""},
	{"sound-desk", witness.Mixer, "udp", ""},
	{"dome-lights", witness.Lights, "tcp", "larkfell"},
	{"talkback", witness.Intercom, "tcp", "desk"},
	{"stream-pc", witness.Streaming, "tcp", ""},
	{"dome-camera", witness.Camera, "tcp", ""},
}

var who = edit.Who{Session: "truth", Actor: "Tobin"}

// still notices when the machine stands still: then devices answer late, requests overtake each other, and a run ends
// otherwise than it was rehearsed, as it should.
type still struct {
	mu      sync.Mutex
	longest time.Duration // since begin
	last    time.Time     // when it stood too still last
}

// tooStill is how long it may stand still without being an excuse.
const tooStill = 60 * time.Millisecond

func (s *still) watch(end <-chan struct{}) {
	const every = 5 * time.Millisecond
	for last := time.Now(); ; {
		select {
		case <-end:
			return
		case <-time.After(every):
		}
		s.mu.Lock()
		stood := time.Since(last) - every
		if s.longest = max(s.longest, stood); stood > tooStill {
			s.last = time.Now()
		}
		s.mu.Unlock()
		last = time.Now()
	}
}

func (s *still) begin() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.longest = 0
}

// excuses tells whether the machine has stood still since begin.
func (s *still) excuses() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.longest > tooStill
}

// lately tells whether it stood still not long ago: a link may have been given up then, and what needs it is refused.
func (s *still) lately() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return time.Since(s.last) < 5*time.Second
}

// start starts a world. Its seed decides everything that is done in it.
func start(t *testing.T, seed uint64) *world {
	t.Helper()
	w := &world{T: t, seed: seed, random: rand.New(rand.NewPCG(seed, 3))}
	var err error
	w.bench, err = bench.Start(0, nil)
	w.ok(err)
	t.Cleanup(w.bench.Close)
	ports := map[string]int{}
	for _, s := range w.bench.Devices() {
		ports[s.ID()] = port(t, s.Addr())
	}
	for _, d := range rig {
		r := &rigged{id: d.id, kind: d.kind, standIn: w.bench.StandIn(string(d.kind)), login: witness.Login{User: d.user, Password: demo.Passwords()[string(d.kind)]}}
		r.cable, err = witness.Lay(d.network, r.standIn.Addr())
		w.ok(err)
		t.Cleanup(r.cable.Close)
		r.eye, err = witness.Follow(d.kind, r.standIn.Addr(), r.login)
		w.ok(err)
		t.Cleanup(func() { r.eye.Close() })
		ports[string(d.kind)] = port(t, r.cable.Addr)
		w.devices = append(w.devices, r)
	}
	w.app, err = app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir()})
	w.ok(err)
	t.Cleanup(w.app.Close)
	w.ok(w.app.FillDemo(ports))
	w.ok(w.app.Edit.Fill(who, "Only what is looked at", func(d *show.Draft) {
		for _, dev := range d.Now().Devices() {
			c := *dev
			c.Parked = w.device(dev.ID) == nil
			d.Put(&c)
		}
		for _, x := range d.Now().Reflexes() { // what is foretold is what hands and macros do
			d.Delete(x.Ref())
		}
		addKeys(d)
	}))
	go w.still.watch(t.Context().Done())
	w.live = follow(w, w.app.Addr, "readings", "runs", "devices", "journal", "page:"+keysPage, "page:"+dialsPage)
	w.rest()
	return w
}

func port(t *testing.T, address string) int {
	t.Helper()
	_, text, err := net.SplitHostPort(address)
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.Atoi(text)
	if err != nil {
		t.Fatal(err)
	}
	return n
}

func (w *world) device(id string) *rigged {
	for _, r := range w.devices {
		if r.id == id {
			return r
		}
	}
	return nil
}

func (w *world) ok(err error) {
	w.Helper()
	if err != nil {
		w.wrong("%v", err)
	}
}

// anew forgets what was done so far: all was well.
func (w *world) anew() {
	w.did, w.since = nil, time.Now()
	w.still.begin()
	w.live.forget()
}

// do notes something that is done.
func (w *world) do(format string, args ...any) {
	w.did = append(w.did, time.Now().Format("04:05.000 ")+fmt.Sprintf(format, args...))
}

// wrong fails the test with what was done since the last time that all was well.
func (w *world) wrong(format string, args ...any) {
	w.Helper()
	for _, d := range w.devices {
		for _, h := range d.eye.Since(w.since) {
			if h.Path == "model" || strings.HasSuffix(h.Path, "/name") {
				continue
			}
			w.did = append(w.did, fmt.Sprintf("%s %s:%s is %v", h.At.Format("04:05.000"), d.id, h.Path, h.Value))
		}
	}
	if w.live != nil {
		for _, e := range w.entries() {
			w.do("the journal: %+v", e)
		}
	}
	slices.SortStableFunc(w.did, func(a, b string) int { return strings.Compare(a[:9], b[:9]) })
	w.Fatalf("%s\n  %s\nTRUTH_SEED=%d go test ./test/truth -count=1 -run '%s$'", fmt.Sprintf(format, args...), strings.Join(w.did, "\n  "), w.seed, strings.Split(w.Name(), "/")[0])
}

// entries are those of what was done since all was well last, oldest first.
func (w *world) entries() []entry {
	return slices.DeleteFunc(w.live.entries(), func(e entry) bool { return e.At.Before(w.since) })
}

// call asks Synaptor over HTTP, as any program does.
func (w *world) call(method, path string, body, answer any) {
	w.Helper()
	if text := w.tell(method, path, body, answer); text != "" {
		w.wrong("%s %s: %s", method, path, text)
	}
}

// tell is call that gives what went wrong.
func (w *world) tell(method, path string, body, answer any) string {
	w.Helper()
	raw, err := json.Marshal(body)
	w.ok(err)
	req, err := http.NewRequest(method, "http://"+w.app.Addr+"/api/v1"+path, bytes.NewReader(raw))
	w.ok(err)
	req.Header.Set("Content-Type", "application/json")
	resp, err := http.DefaultClient.Do(req)
	w.ok(err)
	defer resp.Body.Close()
	all, err := io.ReadAll(resp.Body)
	w.ok(err)
	if resp.StatusCode >= 300 {
		return fmt.Sprint(resp.Status, " ", string(all))
	}
	if answer != nil {
		w.ok(json.Unmarshal(all, answer))
	}
	return ""
}

// soon waits until a condition holds, which is asked again whenever Synaptor says something, and now and then.
func (w *world) soon(what string, holds func() bool) {
	w.Helper()
	if !w.live.until(20*time.Second, holds) {
		w.wrong("within 20 seconds it was not so that %s", what)
	}
}

// rest waits until what Synaptor says of every device is what the witness has heard of it.
func (w *world) rest() {
	w.Helper()
	if !w.live.until(20*time.Second, func() bool { return w.differences() == "" }) {
		w.wrong("Synaptor says something else than the devices: %s", w.differences())
	}
}

// holds waits until nothing is wrong; what that is a function says.
func (w *world) holds(wrong func() string) {
	w.Helper()
	if !w.live.until(5*time.Second, func() bool { return wrong() == "" }) {
		w.wrong("%s", wrong())
	}
}

// differences gives what Synaptor and the witnesses disagree on; what moves by itself is left out.
func (w *world) differences() string {
	var out []string
	for _, d := range w.devices {
		if phase := w.live.phase(d.id); phase != "up" {
			out = append(out, d.id+" is "+phase)
		}
		for path, value := range d.eye.Values() {
			row := w.live.reading(d.id, path)
			switch {
			case row.Quality == "" && value == "", slices.Contains(unnamed, path), strings.HasSuffix(path, "/gone"):
			case row.Quality != "confirmed" || !witness.Same(row.Value, value):
				out = append(out, fmt.Sprintf("%s:%s is %v (%s), the device says %v", d.id, path, row.Value, row.Quality, value))
			}
		}
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

// unnamed are values of devices that are no readings.
var unnamed = []string{}

// snapshot is what the devices are, by device and path, as the witnesses have heard it.
func (w *world) snapshot() map[string]any {
	out := map[string]any{}
	for _, d := range w.devices {
		for path, value := range d.eye.Values() {
			out[d.id+":"+path] = value
		}
	}
	return out
}

// value is what the witness has heard last of a reading, given as device:path.
func (w *world) value(key string) any {
	dev, path, _ := strings.Cut(key, ":")
	return w.device(dev).eye.Value(path)
}

func pick[T any](w *world, list ...T) T { return list[w.random.IntN(len(list))] }
