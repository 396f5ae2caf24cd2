package hands_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/attach/hands"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/device"
	core "synaptor/internal/core/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// desk is a service over a show of one controller, and what the engine was told.
type desk struct {
	*testing.T
	*hands.Service
	hub   *feed.Hub
	show  *show.Draft
	lib   *sheet.Library
	edits int

	mu   sync.Mutex
	prog *program.Program
	told []string
}

func (d *desk) note(format string, args ...any) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.told = append(d.told, fmt.Sprintf(format, args...))
}

// Input implements hands.Engine.
func (d *desk) Input(in engine.Input) {
	text := in.Control + " " + string(in.Edge)
	if in.Amount != 0 {
		text += fmt.Sprintf(" %.3g", in.Amount)
	}
	d.note("%s", text)
}

// ReleaseAll implements hands.Engine.
func (d *desk) ReleaseAll(link string) { d.note("release %s", link) }

// SayOwn implements hands.Engine.
func (d *desk) SayOwn(path string, value any) { d.note("%s is %v", path, value) }

// Program implements attach.Programs.
func (d *desk) Program() *program.Program {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.prog
}

// heard are the things that the engine was told since the last time, without those that were released.
func (d *desk) heard() string {
	synctest.Wait()
	d.mu.Lock()
	defer d.mu.Unlock()
	var out []string
	for _, t := range d.told {
		if !strings.HasPrefix(t, "release ") {
			out = append(out, t)
		}
	}
	d.told = nil
	return strings.Join(out, ", ")
}

// edit changes the show and puts it in force.
func (d *desk) edit(f func(*show.Draft)) {
	f(d.show)
	d.mu.Lock()
	d.prog = program.Compile(d.prog, d.show.Now(), d.lib, program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
	d.mu.Unlock()
	d.edits++
	d.hub.Publish("show", []string{"show"}, d.edits)
	synctest.Wait()
}

func on(t *testing.T, f func(d *desk)) {
	t.Helper()
	synctest.Test(t, func(t *testing.T) {
		lib, err := sheet.Load(nil)
		if err != nil {
			t.Fatal(err)
		}
		d := &desk{T: t, hub: feed.NewHub(), show: show.NewDraft(show.Empty()), lib: lib}
		d.edit(func(s *show.Draft) {
			s.Put(&show.Profile{ID: "night", Slug: "night", Name: "Meteor Night"})
			s.Put(&show.Controller{ID: "grid", Slug: "grid", Name: "Producer grid", Layout: "grid-6x4", Profile: "night"})
			s.Put(&show.Controller{ID: "feet", Slug: "feet", Name: "Treadle", Layout: "pedals-4", Profile: "night", Position: 1})
		})
		d.Service = hands.New(hands.Config{Shows: d, Engine: d, Hub: d.hub})
		defer d.Service.Close()
		f(d)
	})
}

func (d *desk) row(name, place string) (h hardware.Row) {
	for _, r := range d.Rows() {
		if r.Match == name && r.Place == place {
			return r
		}
	}
	return h
}

func bound(id, controller, kind, match, place string, bindings ...show.Binding) *show.Link {
	return &show.Link{ID: id, Controller: controller, Kind: kind, Match: match, Place: place, Bindings: bindings}
}

func aKey(source, control string) show.Binding {
	return show.Binding{Source: source, Control: control, As: show.AsKey}
}

func down(source string) []core.Event { return []core.Event{{Source: source, Sort: core.On}} }
func up(source string) []core.Event   { return []core.Event{{Source: source, Sort: core.Off}} }

// TestTwoEqualOnesAreToldApartByPlace: and one that is alone is itself wherever it is plugged in.
func TestTwoEqualOnesAreToldApartByPlace(t *testing.T) {
	on(t, func(d *desk) {
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "grid", show.LinkKeysHost, "Foot board", "left", aKey("ABS_X", "a1")))
			s.Put(bound("l2", "feet", show.LinkKeysHost, "Foot board", "right", aKey("BTN_A", "pedal1")))
		})
		left := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Foot board", Place: "left"})
		right := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Foot board", Place: "right"})
		if l, r := d.row("Foot board", "left").Link, d.row("Foot board", "right").Link; l != "l1" || r != "l2" {
			t.Errorf("attached by %q and %q", l, r)
		}
		right.Take(down("BTN_A"), time.Now())
		left.Take([]core.Event{{Source: "ABS_X", Sort: core.At, Value: 100, High: 100}}, time.Now())
		if got := d.heard(); got != "pedal1 down, a1 down" {
			t.Errorf("done is %s", got)
		}
		left.Unplug()
		right.Unplug()
		d.edit(func(s *show.Draft) { s.Delete(show.Ref{Kind: show.KindLink, ID: "l2"}) })
		moved := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Foot board", Place: "elsewhere"})
		if l := d.row("Foot board", "elsewhere").Link; l != "l1" {
			t.Errorf("alone, and moved, it is attached by %q", l)
		}
		other := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Foot board", Place: "another place"})
		if a, b := d.row("Foot board", "elsewhere").Link, d.row("Foot board", "another place").Link; a != "" || b != "" {
			t.Errorf("of two, neither is where its link says, and they are attached by %q and %q", a, b)
		}
		other.Unplug()
		if l := d.row("Foot board", "elsewhere").Link; l != "l1" {
			t.Errorf("alone again it is attached by %q", l)
		}
		moved.Unplug()
	})
}

// TestWhatTakingAKeyboardCanDo: nobody confirms, another program has it, it is unplugged meanwhile, somebody confirms too late.
func TestWhatTakingAKeyboardCanDo(t *testing.T) {
	on(t, func(d *desk) {
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "grid", show.LinkKeysHost, "Numeric block", "", aKey("KEY_KP1", "a1")))
		})
		var held, busy atomic.Bool
		p := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Numeric block", Grab: func(on bool) error {
			if on && busy.Load() {
				return errors.New("device or resource busy")
			}
			held.Store(on)
			return nil
		}})
		row := func() hardware.Row { return d.row("Numeric block", "") }
		id := row().ID
		if err := d.TryTake(id); err != nil || !held.Load() || row().TakenUntil == nil {
			t.Fatalf("taken: %v, %+v", err, row())
		}
		time.Sleep(16 * time.Second)
		if held.Load() || row().Taken || !strings.Contains(row().Problem, "nobody said within 15 seconds") {
			t.Errorf("after 16 seconds it is %+v", row())
		}
		if _, err := d.Confirm(id); err == nil {
			t.Error("it is confirmed too late")
		}
		busy.Store(true)
		if err := d.TryTake(id); err == nil || !strings.Contains(err.Error(), "another program has it") || row().Taken {
			t.Errorf("another program has it: %v", err)
		}
		busy.Store(false)
		if err := d.TryTake(id); err != nil {
			t.Fatal(err)
		}
		time.Sleep(14 * time.Second)
		if link, err := d.Confirm(id); err != nil || link != "l1" {
			t.Errorf("confirmed: %q, %v", link, err)
		}
		time.Sleep(time.Minute)
		if !held.Load() {
			t.Error("confirmed, it is let go")
		}
		p.Unplug()
		if err := d.TryTake(id); !errors.Is(err, hands.NotHere{}) {
			t.Errorf("unplugged: %v", err)
		}
		if _, err := d.PassOn(id); !errors.Is(err, hands.NotHere{}) {
			t.Errorf("unplugged: %v", err)
		}
	})
}

// TestALinkThatIsEditedWhileAKeyIsDown: what its control held is let go, and what is the same goes on.
func TestALinkThatIsEditedWhileAKeyIsDown(t *testing.T) {
	on(t, func(d *desk) {
		link := bound("l1", "grid", show.LinkKeysHost, "Numeric block", "", aKey("KEY_KP1", "a1"), aKey("KEY_KP2", "b1"))
		d.edit(func(s *show.Draft) { s.Put(link) })
		p := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Numeric block"})
		p.Take(append(down("KEY_KP1"), down("KEY_KP2")...), time.Now())
		d.heard()
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "grid", show.LinkKeysHost, "Numeric block", "", aKey("KEY_KP1", "c1"), aKey("KEY_KP2", "b1")))
		})
		if got := d.heard(); got != "a1 up" {
			t.Errorf("edited: %s", got)
		}
		p.Take(append(up("KEY_KP1"), up("KEY_KP2")...), time.Now())
		if got := d.heard(); got != "b1 up" {
			t.Errorf("let go: %s", got)
		}
		for _, why := range []func(*show.Draft){func(s *show.Draft) {
			l := *link
			l.Off = true
			s.Put(&l)
		}, func(s *show.Draft) { s.Delete(link.Ref()) }} {
			d.edit(why)
			p.Take(down("KEY_KP1"), time.Now())
			if got := d.heard(); got != "" {
				t.Errorf("switched off or detached it does %s", got)
			}
		}
	})
}

// TestWhatStandsIsAsItStandsNow: a pedal that was down when it was plugged in, and let go since, is not stuck after an edit; one that is held
// while hardware is quiet does nothing when that ends.
func TestWhatStandsIsAsItStandsNow(t *testing.T) {
	on(t, func(d *desk) {
		pedal := func(at float64) []core.Event {
			return []core.Event{{Source: "ABS_X", Sort: core.At, Value: at, High: 100}}
		}
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "feet", show.LinkKeysHost, "Foot board", "", aKey("ABS_X", "pedal1")))
		})
		p := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Foot board", Stands: pedal(100), Down: []string{"BTN_A"}})
		if text := d.row("Foot board", "").Problem; !strings.Contains(text, "ABS_X has been down") {
			t.Errorf("plugged in with a pedal down: %q", text)
		}
		p.Take(append(pedal(0), up("BTN_A")...), time.Now())
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "feet", show.LinkKeysHost, "Foot board", "", aKey("ABS_X", "pedal2"), aKey("BTN_A", "pedal3")))
		})
		if text := d.row("Foot board", "").Problem; text != "" {
			t.Errorf("let go, and edited: %q", text)
		}
		p.Take(append(pedal(100), down("BTN_A")...), time.Now())
		if got := d.heard(); got != "pedal2 down, pedal3 down" {
			t.Errorf("then %s", got)
		}
		d.SetQuiet(true)
		p.Take(pedal(99), time.Now())
		d.SetQuiet(false)
		p.Take(append(pedal(98), pedal(0)...), time.Now())
		p.Take(pedal(100), time.Now())
		if got := d.heard(); got != "pedal2 down" {
			t.Errorf("held while it was quiet, let go and pressed: %s", got)
		}
	})
}

// TestMoreThanHandsCanDoIsNotDone: a device that sends without an end is held to what is bearable, and it is said.
func TestMoreThanHandsCanDoIsNotDone(t *testing.T) {
	on(t, func(d *desk) {
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "grid", show.LinkMIDIHost, "Fader row", "", aKey("note 1 36", "a1")))
		})
		p := d.Plug(hands.Plug{Kind: show.LinkMIDIHost, Name: "Fader row"})
		for range 5000 {
			p.MIDI([]byte{0x90, 36, 100, 36, 0}, time.Now())
		}
		if n := strings.Count(d.heard(), "down"); n == 0 || n > 600 {
			t.Errorf("%d presses of 5000 at once were done", n)
		}
		if text := d.row("Fader row", "").Problem; !strings.Contains(text, "inputs a second") {
			t.Errorf("it is said: %q", text)
		}
	})
}

// TestOnePortOfTimeCodeCountsAtATime: until it is silent.
func TestOnePortOfTimeCodeCountsAtATime(t *testing.T) {
	on(t, func(d *desk) {
		a, b := d.Plug(hands.Plug{Kind: show.LinkMIDIHost, Name: "A"}), d.Plug(hands.Plug{Kind: show.LinkMIDIHost, Name: "B"})
		full := func(seconds byte) []byte { return []byte{0xF0, 0x7F, 0x7F, 1, 1, 0x21, 2, seconds, 4, 0xF7} }
		a.MIDI(full(3), time.Now())
		b.MIDI(full(50), time.Now())
		if got := d.heard(); got != "timecode/running is true, timecode/now is 01:02:03:04" {
			t.Errorf("said is %s", got)
		}
		time.Sleep(time.Second)
		if got := d.heard(); got != "timecode/running is false" {
			t.Errorf("silent: %s", got)
		}
		b.MIDI(full(50), time.Now())
		b.Unplug()
		if got := d.heard(); got != "timecode/running is true, timecode/now is 01:02:50:04, timecode/running is false" {
			t.Errorf("the other one, unplugged: %s", got)
		}
	})
}

// TestLessonsEndByThemselves: one that nobody looks at any more keeps no hardware from working.
func TestLessonsEndByThemselves(t *testing.T) {
	on(t, func(d *desk) {
		d.edit(func(s *show.Draft) {
			s.Put(bound("l1", "grid", show.LinkKeysHost, "Numeric block", "", aKey("KEY_KP1", "a1")))
		})
		p := d.Plug(hands.Plug{Kind: show.LinkKeysHost, Name: "Numeric block"})
		l, err := d.Learn("key", "")
		if err != nil {
			t.Fatal(err)
		}
		client := d.hub.Join()
		d.hub.Follow(client, []string{"learning:" + l.ID})
		p.Take(append(down("KEY_KP1"), up("KEY_KP1")...), time.Now())
		if got := d.heard(); got != "" {
			t.Errorf("while it is learned: %s", got)
		}
		time.Sleep(time.Hour)
		if _, link, err := d.Lesson(l.ID, "grid", "c1"); err != nil || link.Bindings[0].Source != "KEY_KP1" || link.Bindings[0].Control != "c1" || link.Match != "Numeric block" {
			t.Errorf("somebody looks on: %+v, %v", link, err)
		}
		p.Take(append(down("KEY_KP1"), up("KEY_KP1")...), time.Now())
		d.hub.Leave(client)
		time.Sleep(time.Minute)
		p.Take(append(down("KEY_KP1"), up("KEY_KP1")...), time.Now())
		if got := d.heard(); got != "a1 down, a1 up" {
			t.Errorf("nobody looks any more: %s", got)
		}
		if _, err := d.Learn("key", "no such"); !errors.Is(err, hands.NotHere{}) {
			t.Errorf("of hardware that is not here: %v", err)
		}
	})
}

// TestAnOutputThatIsStuckHoldsNobodyUp: a device that takes no bytes.
func TestAnOutputThatIsStuckHoldsNobodyUp(t *testing.T) {
	on(t, func(d *desk) {
		d.edit(func(s *show.Draft) {
			b := aKey("note 1 36", "a1")
			b.Lamps = map[string]int{"any": 127, "off": 1}
			s.Put(bound("l1", "grid", show.LinkMIDIHost, "Fader row", "", b))
		})
		stuck := make(chan struct{})
		p := d.Plug(hands.Plug{Kind: show.LinkMIDIHost, Name: "Fader row", Send: func([]byte) error {
			<-stuck
			return errors.New("gone")
		}})
		time.Sleep(time.Second)
		p.MIDI([]byte{0x90, 36, 100}, time.Now())
		if got := d.heard(); got != "a1 down" {
			t.Errorf("beside it %s", got)
		}
		p.Unplug()
		close(stuck)
	})
}
