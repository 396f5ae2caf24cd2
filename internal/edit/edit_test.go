package edit_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
	"synaptor/internal/store"
)

var (
	tobin  = edit.Who{Session: "tobin", Actor: "Tobin"}
	saskia = edit.Who{Session: "saskia", Actor: "Saskia"}
)

// desk is a service with the demo show, over simulated devices and a real database.
type desk struct {
	*testing.T
	*edit.Service
	db     *store.Show
	engine *engine.Engine
	mirror *mirror.Mirror
}

// silent is a journal that keeps nothing.
type silent struct{}

// Record implements engine.Recorder.
func (silent) Record(journal.Event) {}

func on(t *testing.T, f func(d *desk)) {
	t.Helper()
	dir := t.TempDir()
	synctest.Test(t, func(t *testing.T) {
		devices := enginetest.NewDevices()
		drivers := enginetest.Drivers(devices.Driver)
		db, err := store.OpenShow(dir)
		if err != nil {
			t.Fatal(err)
		}
		hub := feed.NewHub()
		d := &desk{T: t, db: db}
		if d.Service, err = edit.Open(db, enginetest.Library(), program.Sources{Encode: drivers.Encode, Password: db.Secret}, hub); err != nil {
			t.Fatal(err)
		}
		d.engine = engine.New(engine.Config{Drivers: drivers, Journal: silent{}, Pacing: engine.Sleep}, d.Program())
		d.mirror, err = mirror.New(d.Program(), mirror.Config{Changes: d.engine.Changes(), Sync: d.engine.Sync, Journal: silent{}, Hub: hub})
		if err != nil {
			t.Fatal(err)
		}
		d.Attach(d.engine, d.mirror)
		defer func() {
			d.engine.Close()
			d.mirror.Close()
			devices.Driver.Close()
			_ = db.Close()
			time.Sleep(time.Minute)
		}()
		d.ok(d.Fill(edit.Who{Session: "demo", Actor: "Synaptor"}, "Start with the demo show", func(to *show.Draft) {
			demo.Build(to, map[string]int{"switcher": 7431, "mixer": 7432}, nil)
		}))
		for d.mirror.Current().Link("dome-switcher").Phase != link.Up {
			time.Sleep(10 * time.Millisecond)
		}
		f(d)
	})
}

func (d *desk) ok(err error) {
	d.Helper()
	if err != nil {
		d.Fatal(err)
	}
}

// bytes is the show in force as canonical JSON.
func (d *desk) bytes() string {
	d.Helper()
	s := d.Program().Show
	all := []any{s.Settings(), s.Devices(), s.Controllers(), s.Profiles(), s.Pages(), s.Mappings(), s.Macros()}
	for _, m := range s.Macros() {
		all = append(all, s.StepsOf(m.ID))
	}
	raw, err := json.Marshal(all)
	d.ok(err)
	return string(raw)
}

func TestAnEditIsOnTheDiskAndInForceWhenItReturns(t *testing.T) {
	on(t, func(d *desk) {
		put, err := d.PutAction(tobin, "cut", "a4", edit.Action{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": "1"}})
		d.ok(err)
		if d.mirror.Current().Program.Mappings[put.ID] == nil {
			t.Error("the engine does not use it")
		}
		stored, _, _, err := d.db.Load()
		d.ok(err)
		if stored.Mapping(put.ID) == nil {
			t.Error("it is not on the disk")
		}
	})
}

// Any edits, undone in turn, give the bytes of before back; done again, those of after.
func TestUndoRestoresTheBytesAfterAnyEdits(t *testing.T) {
	for seed := range uint64(3) {
		on(t, func(d *desk) {
			random := rand.New(rand.NewPCG(seed, 1))
			states := []string{d.bytes()}
			for len(states) < 20 {
				control := fmt.Sprintf("%c%d", 'a'+random.IntN(6), 1+random.IntN(4))
				edits := []func() error{
					func() error {
						_, err := d.PutAction(tobin, "cut", control, edit.Action{Device: "sound-desk", Action: "mute", Params: map[string]string{"channel": "1"}})
						return err
					},
					func() error { return d.Clear(tobin, "cut", []string{control}) },
					func() error { _, err := d.DuplicatePage(tobin, "cut"); return err },
					func() error {
						_, err := d.AddMacro(tobin, edit.MacroFields{Name: fmt.Sprint("M", len(states))})
						return err
					},
					func() error { return d.ParkDevice(tobin, "dome-switcher", len(states)%2 == 0) },
					func() error { return d.RenamePage(tobin, "sound", fmt.Sprint("Sound ", len(states))) },
					func() error { _, err := d.DuplicateDevice(tobin, "sound-desk"); return err },
					func() error {
						_, err := d.Move(tobin, "cut", edit.Move{Controls: []string{"a1"}, From: "a1", To: control, Swap: true})
						return err
					},
				}
				if edits[random.IntN(len(edits))]() == nil && d.bytes() != states[len(states)-1] {
					states = append(states, d.bytes())
				}
			}
			for _, want := range slices.Backward(states[:len(states)-1]) {
				name, err := d.Undo(tobin, 0)
				d.ok(err)
				if d.bytes() != want {
					t.Fatalf("seed %d: after %q was undone the show is another one", seed, name)
				}
			}
			for _, want := range states[1:] {
				if _, err := d.Redo(tobin); err != nil || d.bytes() != want {
					t.Fatalf("seed %d: done again, the show is another one (%v)", seed, err)
				}
			}
		})
	}
}

func TestWhatSomebodyElseChangedIsNotUndone(t *testing.T) {
	on(t, func(d *desk) {
		d.ok(d.RenamePage(tobin, "sound", "Desk"))
		d.ok(d.RenamePage(saskia, "sound", "Voices"))
		_, err := d.Undo(tobin, 0)
		var stale *edit.StaleError
		if !errors.As(err, &stale) || !strings.Contains(stale.Text, "Saskia") {
			t.Errorf("undone: %v", err)
		}
		if p := d.Program().Show.Page("sound"); p.Name != "Voices" {
			t.Errorf("the page is called %q", p.Name)
		}
		d.ok(second(d.Undo(saskia, 0)))
		d.ok(second(d.Undo(tobin, 0)))
	})
}

func second[A any](_ A, err error) error { return err }

func TestPreparingAnActionWaitsForNoEdit(t *testing.T) {
	on(t, func(d *desk) {
		entered, leave, left := make(chan struct{}), make(chan struct{}), make(chan struct{})
		go func() {
			defer close(left)
			_ = d.Fill(saskia, "Slow", func(*show.Draft) { close(entered); <-leave })
		}()
		<-entered
		r, err := d.Prepare(edit.Action{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": "3"}})
		d.ok(err)
		d.engine.Ask(engine.Try{Request: engine.Request{Entry: "x", At: time.Now()}, Response: r})
		d.engine.Sync()
		synctest.Wait()
		if got := d.mirror.View().Reading(r.Bound.Affects()[0]).Value; got != "3" {
			t.Errorf("the program is %v", got)
		}
		close(leave)
		<-left
		var fields edit.FieldErrors
		for _, a := range []edit.Action{{Device: "nobody", Action: "cut"}, {Device: "dome-switcher", Action: "fly"},
			{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "9..9"}}} {
			if _, err := d.Prepare(a); !errors.As(err, &fields) {
				t.Errorf("%+v: %v", a, err)
			}
		}
	})
}

// Macros that run each other in every step cost seconds under the lock of edits.
func TestMacrosThatRunEachOtherCostAnEditNothing(t *testing.T) {
	on(t, func(d *desk) {
		d.ok(d.Fill(tobin, "Many", func(to *show.Draft) {
			for m := range 8 {
				to.Put(&show.Macro{ID: fmt.Sprint("m", m), Name: fmt.Sprint("M", m)})
				for i := range 300 {
					to.Put(&show.Step{ID: fmt.Sprintf("m%d-%d", m, i), Macro: fmt.Sprint("m", m), Position: i, Kind: macro.Run, Run: fmt.Sprint("m", m+1)})
				}
			}
		}))
		if mac := d.Program().Macros["m0"]; mac.Err == nil {
			t.Error("it can run")
		}
		d.ok(d.RenamePage(tobin, "sound", "Desk"))
	})
}
