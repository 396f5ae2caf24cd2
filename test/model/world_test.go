package model

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
	"synaptor/internal/store"

	"synaptor/internal/core/show"
)

// world is a Synaptor with its devices, without its interface: edits on a real database, the
// journal, the engine, the mirror.
type world struct {
	*testing.T
	seed    uint64
	random  *rand.Rand
	dir     string
	devices devices
	sockets bool     // time is real, and goes on by itself
	steps   []string // what was done, with the time

	db      *store.Show
	edit    *edit.Service
	engine  *engine.Engine
	mirror  *mirror.Mirror
	journal *journal.Journal
	entries *entries
	starts  []start
	stop    func()

	mu   sync.Mutex
	live engine.LiveState

	announced []string
	held      map[[2]string]bool // controls that a finger is on
}

// start is where a start of Synaptor began, in what the devices got.
type start struct{ switcher, desk int }

// run runs a test of one seed: in a bubble of its own with devices in memory, or in real time with
// devices behind sockets.
func run(t *testing.T, seed uint64, sockets bool, f func(w *world)) {
	t.Helper()
	dir := t.TempDir()
	if sockets {
		play(t, seed, dir, onSockets(t), true, f)
		return
	}
	synctest.Test(t, func(t *testing.T) {
		play(t, seed, dir, inMemory(), false, f)
		time.Sleep(time.Minute) // whatever still waits comes to its end
	})
}

func play(t *testing.T, seed uint64, dir string, d devices, sockets bool, f func(w *world)) {
	t.Helper()
	w := &world{T: t, seed: seed, random: rand.New(rand.NewPCG(seed, 1)), dir: dir, devices: d, sockets: sockets, entries: &entries{rows: map[string]journal.Entry{}},
		held: map[[2]string]bool{}}
	w.stop = incident.Notify(func(i incident.Incident) { w.wrong("an incident: %s, %s: %s\n%s", i.Where, i.Cause, i.Text, i.Stack) })
	w.open()
	w.ok(w.edit.Fill(edit.Who{Session: "demo", Actor: "Synaptor"}, "Start with the demo show", func(to *show.Draft) {
		demo.Build(to, map[string]int{"switcher": d.ports["dome-switcher"], "mixer": d.ports["sound-desk"]}, nil)
		for _, d := range to.Now().Devices() {
			c := *d
			c.Parked = d.ID != "dome-switcher" && d.ID != "sound-desk"
			to.Put(&c)
		}
	}))
	f(w)
	w.close()
	d.close()
	w.stop()
}

// open starts Synaptor.
func (w *world) open() {
	w.Helper()
	drivers := w.devices.drivers
	var err error
	w.db, err = store.OpenShow(w.dir)
	w.ok(err)
	hub := feed.NewHub()
	w.edit, err = edit.Open(w.db, enginetest.Library(), program.Sources{Encode: drivers.Encode, Password: w.db.Secret}, hub)
	w.ok(err)
	if len(w.edit.Repaired) > 0 {
		w.wrong("the show had to be repaired: %q", w.edit.Repaired)
	}
	w.journal, err = journal.Open(w.entries, nil)
	w.ok(err)
	w.starts = append(w.starts, start{len(w.devices.switcher.Got()), len(w.devices.desk.Got())})
	w.engine = engine.New(engine.Config{Drivers: drivers, Journal: w.journal, Outside: w, Pacing: w.pacing(), Live: w.live}, w.edit.Program())
	w.mirror, err = mirror.New(w.edit.Program(), mirror.Config{Changes: w.engine.Changes(), Sync: w.engine.Sync, Journal: w.journal, Hub: hub, Live: w.live,
		KeepLive: func(l engine.LiveState) {
			w.mu.Lock()
			defer w.mu.Unlock()
			w.live = l
		}})
	w.ok(err)
	w.edit.Attach(w.engine, w.mirror)
}

func (w *world) close() {
	w.engine.Close()
	w.mirror.Close()
	w.journal.Close()
	_ = w.db.Close()
}

// Park implements engine.Outside.
func (w *world) Park(device string, parked bool) {
	go func() { _ = w.edit.ParkDevice(edit.Who{Session: "keys", Actor: "A key"}, device, parked) }()
}

func (w *world) ok(err error) {
	w.Helper()
	if err != nil {
		w.wrong("%v", err)
	}
}

// wrong fails the test with what was done so far, and how to do it again.
func (w *world) wrong(format string, args ...any) {
	w.Helper()
	w.Errorf(format, args...)
	for _, s := range w.steps {
		w.Log(s)
	}
	w.Fatalf("MODEL_SEED=%d MODEL_SOCKETS=%v go test ./test/model -run Model -count=1", w.seed, w.sockets)
}

// did notes a step.
func (w *world) did(format string, args ...any) {
	w.steps = append(w.steps, time.Now().Format("04:05.000 ")+fmt.Sprintf(format, args...))
}

func (w *world) pacing() engine.Pacing {
	if w.sockets {
		return engine.Exact
	}
	return engine.Sleep
}

// settle waits until everything has come to rest at this moment.
func (w *world) settle() {
	if w.sockets {
		w.engine.Sync()
		return
	}
	synctest.Wait()
	w.engine.Sync()
	synctest.Wait()
}

// quicker is how much less time is let pass where it is real.
const quicker = 10

// later lets time pass; less of it where it is real.
func (w *world) later(d time.Duration) {
	if w.sockets {
		d /= quicker
	}
	time.Sleep(d)
	w.settle()
}

// bytes is the show in force as canonical JSON.
func (w *world) bytes() string { return bytesOf(w, w.edit.Program().Show) }

func bytesOf(w *world, s *show.Show) string {
	all := []any{s.Settings(), s.Devices(), s.Controllers(), s.Profiles(), s.Pages(), s.Mappings(), s.Macros()}
	for _, m := range s.Macros() {
		all = append(all, s.StepsOf(m.ID))
	}
	raw, err := json.Marshal(all)
	w.ok(err)
	return string(raw)
}

// memory keeps the journal's entries.
type entries struct {
	mu   sync.Mutex
	rows map[string]journal.Entry
}

func (m *entries) Save(list []journal.Entry) error {
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, e := range list {
		m.rows[e.ID] = e
	}
	return nil
}

func (m *entries) all() []journal.Entry {
	m.mu.Lock()
	defer m.mu.Unlock()
	var out []journal.Entry
	for _, e := range m.rows {
		out = append(out, e)
	}
	slices.SortFunc(out, func(a, b journal.Entry) int { return -compare(a.ID, b.ID) })
	return out
}

func compare(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// Find implements journal.Store.
func (m *entries) Find(w journal.Wanted) ([]journal.Entry, error) {
	out := slices.DeleteFunc(m.all(), func(e journal.Entry) bool { return w.Before != "" && e.ID >= w.Before || !w.Fits(e) })
	return out[:min(w.Limit, len(out))], nil
}

// One implements journal.Store.
func (m *entries) One(id string) (*journal.Entry, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if e, has := m.rows[id]; has {
		return &e, nil
	}
	return nil, nil
}

// SetOff implements journal.Store.
func (m *entries) SetOff(by string, limit int) ([]journal.Entry, error) {
	out := slices.DeleteFunc(m.all(), func(e journal.Entry) bool { return e.Cause != by })
	return out[:min(limit, len(out))], nil
}

// Open implements journal.Store.
func (m *entries) Open() ([]journal.Entry, error) {
	return slices.DeleteFunc(m.all(), func(e journal.Entry) bool { return e.Outcome != journal.UnderWay }), nil
}

// Trimmed implements journal.Store.
func (m *entries) Trimmed() int64 { return 0 }

// up reports whether a device is connected.
func (w *world) up(device string) bool { return w.mirror.View().Link(device).Phase == link.Up }
