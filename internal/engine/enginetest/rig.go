// Package enginetest has an engine with the demo show for tests, whose switcher and
// sound desk are simulated in memory. On runs a test with one; its time is
// testing/synctest's, so a macro of a minute takes no time at all.
package enginetest

import (
	"maps"
	"slices"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/bench/memory"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/engine"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// Library has the built-in sheets; they are loaded once for all tests.
var Library = sync.OnceValue(func() *sheet.Library {
	lib, err := sheet.Load(nil)
	if err != nil {
		panic(err)
	}
	return lib
})

// Show is the demo show at the addresses of the simulated devices; those that are not
// simulated are parked. It has no reflexes and no safe pictures, and is built once for all tests.
var Show = sync.OnceValue(func() *show.Show {
	d := show.NewDraft(show.Empty())
	demo.Build(d, map[string]int{"switcher": 7431, "mixer": 7432}, nil)
	for _, dev := range d.Now().Devices() {
		if dev.ID != "dome-switcher" && dev.ID != "sound-desk" {
			c := *dev
			c.Parked = true
			d.Put(&c)
		}
	}
	for _, x := range d.Now().Reflexes() { // tests make their own
		d.Delete(x.Ref())
	}
	for _, x := range d.Now().SafePictures() {
		d.Delete(x.Ref())
	}
	return d.Now()
})

// Drivers reach the simulated devices by every protocol.
func Drivers(d *memory.Driver) link.Drivers {
	all := link.Drivers{}
	for _, pair := range device.Pairs() {
		all[pair] = d
	}
	return all
}

// Devices are the simulated ones.
type Devices struct {
	Driver         *memory.Driver
	Switcher, Desk *memory.Device
}

// NewDevices starts the simulated devices.
func NewDevices() Devices {
	d := Devices{Driver: memory.NewDriver()}
	d.Switcher = d.Driver.Add("127.0.0.1:7431", 20*time.Millisecond, switcher.NewMachine)
	d.Desk = d.Driver.Add("127.0.0.1:7432", 20*time.Millisecond, mixer.NewMachine)
	return d
}

// Rig is an engine with its devices. It is the engine's journal and its outside.
type Rig struct {
	testing.TB
	*engine.Engine
	Devices
	Program *program.Program // in force
	Sources program.Sources
	Off     time.Duration // how long a restart takes

	cfg  engine.Config
	stop func()
	seq  int64

	mu        sync.Mutex
	events    []journal.Event
	fails     func(journal.Event) bool
	incidents int
	parked    []string
	intended  map[string]engine.KeptRun // by entry and reading
}

// New starts a rig. Any incident fails the test, unless Sabotage has asked for it.
func New(t testing.TB, pacing engine.Pacing) *Rig {
	t.Helper()
	r := &Rig{TB: t, Devices: NewDevices()}
	drivers := Drivers(r.Driver)
	r.Sources = program.Sources{Encode: drivers.Encode}
	r.Program = program.Compile(nil, Show(), Library(), r.Sources)
	r.stop = incident.Notify(func(i incident.Incident) {
		r.mu.Lock()
		defer r.mu.Unlock()
		if r.incidents++; r.fails == nil {
			t.Errorf("an incident: %s, %s: %s\n%s", i.Where, i.Cause, i.Text, i.Stack)
		}
	})
	r.intended = map[string]engine.KeptRun{}
	r.cfg = engine.Config{Drivers: drivers, Journal: r, Outside: r, Intents: r, Pacing: pacing}
	r.Engine = engine.New(r.cfg, r.Program)
	return r
}

// Close ends the rig.
func (r *Rig) Close() {
	r.Engine.Close()
	r.Driver.Close()
	r.stop()
}

// Restart ends the engine and starts another one, with what lived.
func (r *Rig) Restart(live engine.LiveState) {
	r.Engine.Close()
	time.Sleep(r.Off)
	r.cfg.Live = live
	r.Engine = engine.New(r.cfg, r.Program)
}

// Unclean has the next restart find that the engine was cut off, or not.
func (r *Rig) Unclean(is bool) { r.cfg.Unclean = is }

// On runs a test with a rig under synctest.
func On(t *testing.T, f func(t *testing.T, r *Rig)) {
	t.Helper()
	synctest.Test(t, func(t *testing.T) {
		r := New(t, engine.Sleep)
		defer time.Sleep(time.Minute) // whatever still waits comes to its end
		defer r.Close()
		f(t, r)
	})
}

// Record implements engine.Recorder.
func (r *Rig) Record(ev journal.Event) {
	r.mu.Lock()
	r.events = append(r.events, ev)
	fails := r.fails != nil && r.fails(ev)
	r.mu.Unlock()
	if fails {
		panic("sabotage")
	}
}

// Events lists what was recorded.
func (r *Rig) Events() []journal.Event {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Clone(r.events)
}

// Sabotage has the engine fail wherever it records an event that a test picks.
func (r *Rig) Sabotage(fails func(journal.Event) bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.fails = fails
}

// Incidents counts the failures that were contained.
func (r *Rig) Incidents() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.incidents
}

// Park implements engine.Outside; Parked lists what it was asked for.
func (r *Rig) Park(device string, _ bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.parked = append(r.parked, device)
}

// Parked lists the devices that the engine wanted parked.
func (r *Rig) Parked() []string {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Clone(r.parked)
}

// Settle waits until everything has come to rest at this moment.
func (r *Rig) Settle() {
	synctest.Wait()
	r.Sync()
	synctest.Wait()
}

// Edit changes the show and puts it in force.
func (r *Rig) Edit(change func(d *show.Draft, s *show.Show)) {
	r.Helper()
	d := show.NewDraft(r.Program.Show)
	change(d, r.Program.Show)
	r.seq++
	next, err := r.Program.Show.Apply(d.Edit("test", r.seq))
	if err != nil {
		r.Fatal(err)
	}
	r.Program = program.Compile(r.Program, next, Library(), r.Sources)
	r.Use(r.Program)
	r.Settle()
}

// Change edits a device.
func (r *Rig) Change(id string, f func(*show.Device)) {
	r.Edit(func(d *show.Draft, s *show.Show) {
		c := *s.Device(id)
		f(&c)
		d.Put(&c)
	})
}

// Will implements engine.Intents.
func (r *Rig) Will(k engine.KeptRun) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, c := range k.Changed {
		k.Changed = []macro.Kept{c}
		r.intended[k.Entry+" "+c.Device+":"+c.Path] = k
	}
}

// Done implements engine.Intents.
func (r *Rig) Done(entry string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	maps.DeleteFunc(r.intended, func(_ string, k engine.KeptRun) bool { return k.Entry == entry })
}

// Intended lists what was noted and is not done, one reading each.
func (r *Rig) Intended() []engine.KeptRun {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Collect(maps.Values(r.intended))
}
