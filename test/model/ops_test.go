package model

import (
	"fmt"
	"strconv"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

var people = []edit.Who{{Session: "tobin", Actor: "Tobin"}, {Session: "saskia", Actor: "Saskia"}}

func pick[T any](w *world, list []T) T { return list[w.random.IntN(len(list))] }

// op does something; it says what, or "" where it did nothing.
type op struct {
	weight int
	do     func(w *world) string
}

// ops are what people, the network and mishaps do. What is refused with a sentence is
// part of it.
var ops = []op{
	{30, press}, {8, flood}, {15, turn}, {12, network}, {8, runMacro}, {3, halt}, {4, letGo}, {3, putBack},
	{10, putAction}, {5, clearKey}, {4, guard}, {6, moveKey}, {4, stand}, {3, renamePage}, {3, pages}, {8, undo}, {4, redo}, {6, undoAtOnce},
	{5, makeMacro}, {2, removeMacro},
	{2, park}, {2, moveAddress}, {1, removeDevice}, {3, cut}, {3, jam}, {3, slow}, {2, restartDevice}, {5, hand}, {1, restart}, {12, pass}, {10, mend},
}

func (w *world) step() {
	all := 0
	for _, o := range ops {
		all += o.weight
	}
	n := w.random.IntN(all)
	for _, o := range ops {
		if n -= o.weight; n < 0 {
			if said := o.do(w); said != "" {
				w.did("%s", said)
			}
			w.settle()
			return
		}
	}
}

// errText ends what a step says.
func errText(err error) string {
	if err == nil {
		return ""
	}
	return ": " + err.Error()
}

func (w *world) control() (controller, control string) {
	if w.random.IntN(4) == 0 {
		return "scope-console", pick(w, []string{"a1", "b1", "dial1", "dial2", "slider1"})
	}
	return "producer-grid", string(rune('a'+w.random.IntN(6))) + strconv.Itoa(1+w.random.IntN(4))
}

func (w *world) touch(controller, control string, edge input.Edge, amount float64) {
	if w.edit.Program().Controllers[controller] == nil {
		return
	}
	w.engine.Input(engine.Input{Entry: journal.NextID(), At: time.Now(), Controller: controller, Control: control, Edge: edge, Amount: amount, Link: "hand",
		Via: "panel", Actor: "Tobin"})
}

func press(w *world) string {
	controller, control := w.control()
	key := [2]string{controller, control}
	if w.held[key] {
		delete(w.held, key)
		w.touch(controller, control, input.Up, 0)
		return "let go of " + control
	}
	w.touch(controller, control, input.Down, 0)
	if w.random.IntN(5) == 0 {
		w.held[key] = true
		return "hold " + control
	}
	time.Sleep(time.Duration(w.random.IntN(80)) * time.Millisecond)
	w.touch(controller, control, input.Up, 0)
	return "press " + control
}

// flood presses keys faster than the switcher takes what they send.
func flood(w *world) string {
	every := w.random.IntN(5)
	w.devices.switcher.Hesitate(every)
	n := 2 + w.random.IntN(10)
	for range n {
		control := string(rune('a'+w.random.IntN(6))) + strconv.Itoa(1+w.random.IntN(2))
		w.touch("producer-grid", control, input.Down, 0)
		w.touch("producer-grid", control, input.Up, 0)
		if w.random.IntN(3) == 0 {
			time.Sleep(100 * time.Microsecond)
		}
	}
	w.later(2 * time.Millisecond)
	w.devices.switcher.Hesitate(0)
	return fmt.Sprintf("press %d keys at once; one of %d writes waits", n, every)
}

func letGo(w *world) string {
	w.engine.ReleaseAll("hand")
	clear(w.held)
	return "the link of the hand is lost"
}

func turn(w *world) string {
	dial := pick(w, []string{"dial1", "dial2", "dial3"})
	if w.random.IntN(3) == 0 {
		to := w.random.Float64()
		w.touch("scope-console", "slider1", input.Moves, to)
		return fmt.Sprintf("slide to %.2f", to)
	}
	n := 1 + w.random.IntN(12)
	for range n {
		w.touch("scope-console", dial, input.Turns, float64(w.random.IntN(7)-3))
		time.Sleep(time.Duration(w.random.IntN(8)) * time.Millisecond)
	}
	return fmt.Sprintf("turn %s %d times", dial, n)
}

func network(w *world) string {
	controller, control := w.control()
	gesture := pick(w, []string{input.Press, input.Press, input.Hold, input.Double, input.Turn, input.Slide})
	id := journal.NextID()
	w.journal.Announce(id, time.Now())
	w.announced = append(w.announced, id)
	w.engine.Input(engine.Input{Entry: id, At: time.Now(), Controller: controller, Control: control, Gesture: gesture, Amount: float64(w.random.IntN(5) - 2), Link: "http",
		Via: "http", Actor: "Program", Announced: true})
	return fmt.Sprintf("%s of %s by HTTP, entry %s", gesture, control, id)
}

func (w *world) aMacro() string {
	if all := w.edit.Program().Show.Macros(); len(all) > 0 {
		return pick(w, all).ID
	}
	return ""
}

func runMacro(w *world) string {
	id := w.aMacro()
	if id == "" {
		return ""
	}
	entry := journal.NextID()
	w.journal.Announce(entry, time.Now())
	w.announced = append(w.announced, entry)
	refused := w.engine.RunMacro(engine.Input{Entry: entry, At: time.Now(), Via: "macros", Actor: "Tobin"}, id)
	return fmt.Sprintf("run %s, entry %s %s", id, entry, refused)
}

func halt(w *world) string {
	entry := journal.NextID()
	w.engine.Halt(engine.Halt{Request: engine.Request{Entry: entry, At: time.Now(), Via: "macros", Actor: "Tobin"}})
	return "halt"
}

func putBack(w *world) string {
	if len(w.announced) == 0 {
		return ""
	}
	entry := pick(w, w.announced)
	err := w.engine.PutBack(entry, engine.Input{Entry: journal.NextID(), At: time.Now(), Via: "put back", Actor: "Tobin"})
	return "put back " + entry + errText(err)
}

// action is something that a key or a step can do.
func (w *world) action() edit.Action {
	in := strconv.Itoa(1 + w.random.IntN(6))
	n := strconv.Itoa(1 + w.random.IntN(2))
	a := pick(w, []edit.Action{
		{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": n, "input": in}},
		{Device: "dome-switcher", Action: "put-on-preview", Params: map[string]string{"mix": n, "input": in}},
		{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": n, "input": "77"}},
		{Device: "dome-switcher", Action: "cut", Params: map[string]string{"mix": n}},
		{Device: "dome-switcher", Action: "auto", Params: map[string]string{"mix": n}},
		{Device: "dome-switcher", Action: "keyer-toggle", Params: map[string]string{"keyer": n}},
		{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": in, "level": strconv.Itoa(-w.random.IntN(40))}},
		{Device: "sound-desk", Action: "mute-toggle", Params: map[string]string{"channel": in}},
		{Device: "synaptor", Action: "page-next", Params: map[string]string{"end": "go round"}},
		{Device: "synaptor", Action: "page-home"},
		{Device: "synaptor", Action: "halt"},
	})
	return a
}

// guard puts a guard on a key, or takes it off.
func guard(w *world) string {
	m := w.edit.Program().Show.MappingAt("cut", w.key())
	if m == nil {
		return ""
	}
	c := m.Clone()
	c.Guard = nil
	if kind := pick(w, []string{"", input.GuardHold, input.GuardTwice, input.GuardCover}); kind != "" {
		c.Guard = &show.Guard{Kind: kind, Ms: 300 + w.random.IntN(1500)}
	}
	err := w.edit.Fill(pick(w, people), "Guard a key", func(to *show.Draft) { to.Put(c) })
	return fmt.Sprintf("guard %s: %+v", m.ID, c.Guard) + errText(err)
}

// page is a page, most of the time the one that the hand is on.
func (w *world) page() string {
	if s := w.edit.Program().Show; w.random.IntN(3) > 0 && s.Page("cut") != nil {
		return "cut"
	}
	return pick(w, w.edit.Program().Show.Pages()).ID
}

// key is a key; a few are taken most of the time, so that people get into each other's way.
func (w *world) key() string {
	if w.random.IntN(3) > 0 {
		return pick(w, []string{"a1", "b1", "d4", "a4"})
	}
	return string(rune('a'+w.random.IntN(6))) + strconv.Itoa(1+w.random.IntN(4))
}

func putAction(w *world) string {
	page, key, a := w.page(), w.key(), w.action()
	if w.random.IntN(4) == 0 {
		a.Gesture = pick(w, []string{input.Hold, input.Double, input.Release})
	}
	_, err := w.edit.PutAction(pick(w, people), page, key, a)
	return fmt.Sprintf("put %s on %s of %s %s", a.Action, key, page, a.Gesture) + errText(err)
}

func clearKey(w *world) string {
	page, key := w.page(), w.key()
	return fmt.Sprintf("clear %s of %s", key, page) + errText(w.edit.Clear(pick(w, people), page, []string{key}))
}

func moveKey(w *world) string {
	page := w.page()
	mv := edit.Move{From: w.key(), Controls: nil, To: w.key(), Swap: w.random.IntN(2) == 0, Copy: w.random.IntN(3) == 0}
	mv.Controls = []string{mv.From}
	mv.Linked = mv.Copy && w.random.IntN(2) == 0
	_, err := w.edit.Move(pick(w, people), page, mv)
	return fmt.Sprintf("move on %s %+v", page, mv) + errText(err)
}

func stand(w *world) string {
	all := w.edit.Program().Show.Mappings()
	m, page := pick(w, all), w.page()
	_, err := w.edit.Stand(pick(w, people), m.ID, w.random.IntN(2) == 0, page)
	return fmt.Sprintf("stand %s, on %s", m.ID, page) + errText(err)
}

func renamePage(w *world) string {
	page, name := w.page(), fmt.Sprint("Page ", w.random.IntN(1000))
	return fmt.Sprintf("call %s %q", page, name) + errText(w.edit.RenamePage(pick(w, people), page, name))
}

func pages(w *world) string {
	page := w.page()
	if w.random.IntN(2) == 0 {
		_, err := w.edit.DuplicatePage(pick(w, people), page)
		return "duplicate the page " + page + errText(err)
	}
	return "delete the page " + page + errText(w.edit.DeletePage(pick(w, people), page))
}

func undo(w *world) string {
	name, err := w.edit.Undo(pick(w, people), 0)
	return fmt.Sprintf("undo %q", name) + errText(err)
}

func redo(w *world) string {
	name, err := w.edit.Redo(pick(w, people))
	return fmt.Sprintf("do again %q", name) + errText(err)
}

// undoAtOnce edits and undoes: the bytes are as they were.
func undoAtOnce(w *world) string {
	who := pick(w, people)
	before := w.bytes()
	edits := []func() error{
		func() error { _, err := w.edit.PutAction(who, w.page(), w.key(), w.action()); return err },
		func() error { return w.edit.Clear(who, w.page(), []string{w.key(), w.key()}) },
		func() error { _, err := w.edit.DuplicatePage(who, w.page()); return err },
		func() error { return w.edit.DeletePage(who, w.page()) },
		func() error { _, err := w.edit.DuplicateMacro(who, w.aMacro()); return err },
		func() error {
			_, err := w.edit.Stand(who, pick(w, w.edit.Program().Show.Mappings()).ID, true, w.page())
			return err
		},
		func() error {
			_, err := w.edit.Move(who, w.page(), edit.Move{From: w.key(), To: w.key(), Swap: true})
			return err
		},
	}
	i := w.random.IntN(len(edits))
	if err := edits[i](); err != nil || w.bytes() == before {
		return ""
	}
	name, err := w.edit.Undo(who, 0)
	w.ok(err)
	if w.bytes() != before {
		w.wrong("after %q was undone the show is another one", name)
	}
	return fmt.Sprintf("edit and undo %q", name)
}

func makeMacro(w *world) string {
	who := pick(w, people)
	again := pick(w, []string{"finish", "restart", "stop", "queue", "both"})
	id, err := w.edit.AddMacro(who, edit.MacroFields{Name: fmt.Sprint("Macro ", w.random.IntN(1_000_000)), Again: again, OnError: pick(w, []string{"stop", "go-on", "put-back"}),
		Partly: w.random.IntN(2) == 0})
	if err != nil {
		return "make a macro" + errText(err)
	}
	for range 1 + w.random.IntN(5) {
		f := edit.StepFields{Kind: "do"}
		switch w.random.IntN(5) {
		case 0:
			f = edit.StepFields{Kind: "wait", Ms: w.random.IntN(3000)}
		case 1:
			f = edit.StepFields{Kind: "put-back"}
		default:
			a := w.action()
			f.Action = &a
		}
		_, err = w.edit.AddStep(who, id, edit.Place{}, f)
	}
	if page, key := w.page(), w.key(); w.random.IntN(2) == 0 {
		_, err = w.edit.PutAction(who, page, key, edit.Action{Device: "synaptor", Action: "run", Params: map[string]string{"macro": id}})
	}
	return "make the macro " + id + errText(err)
}

func removeMacro(w *world) string {
	id := w.aMacro()
	return "delete the macro " + id + errText(w.edit.DeleteMacro(pick(w, people), id))
}

func (w *world) device() *show.Device {
	return w.edit.Program().Show.Device(pick(w, []string{"dome-switcher", "sound-desk"}))
}

func park(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	return fmt.Sprintf("park %s: %v", d.ID, !d.Parked) + errText(w.edit.ParkDevice(pick(w, people), d.ID, !d.Parked))
}

func moveAddress(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	port := w.devices.ports[d.ID]
	if d.Port == port {
		port = 9
	}
	err := w.edit.EditDevice(pick(w, people), d.ID, w.edit.Program().Show.Rev(d.Ref()), edit.DeviceFields{Name: d.Name, Type: d.Type, Host: d.Host, Port: port})
	return fmt.Sprintf("move %s to port %d", d.ID, port) + errText(err)
}

// removeDevice takes a device away; somebody undoes it some time.
func removeDevice(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	return "remove " + d.ID + errText(w.edit.RemoveDevice(people[0], d.ID))
}

func cut(w *world) string {
	dev := pick(w, []string{"switcher", "desk"})
	d := w.devices.switcher
	if dev == "desk" {
		d = w.devices.desk
	}
	if w.random.IntN(2) == 0 {
		d.Cut()
		return "cut the cable of the " + dev
	}
	w.ok(d.Open())
	return "mend the cable of the " + dev
}

func jam(w *world) string {
	jammed := w.random.IntN(2) == 0
	w.devices.switcher.Jam(jammed)
	return fmt.Sprintf("the switcher takes nothing: %v", jammed)
}

func restartDevice(w *world) string {
	pick(w, []interface{ Restart() }{w.devices.switcher, w.devices.desk}).Restart()
	return "a device starts anew"
}

// restart ends Synaptor and starts it again: the show is as it was.
func restart(w *world) string {
	before := w.bytes()
	w.close()
	clear(w.held)
	w.open()
	if w.bytes() != before {
		w.wrong("after a restart the show is another one")
	}
	return "restart"
}

func pass(w *world) string {
	d := time.Duration(w.random.IntN(4000)) * time.Millisecond
	w.later(d)
	return fmt.Sprint("wait ", d)
}

// hand operates a device at its front panel.
func hand(w *world) string {
	m := pick(w, []device.Message{
		{Address: "/mix/1/program", Args: []any{1 + w.random.IntN(6)}}, {Address: "/mix/2/preview", Args: []any{1 + w.random.IntN(6)}},
		{Address: "/keyer/1/on", Args: []any{w.random.IntN(2)}}, {Address: "/mix/1/auto"},
	})
	d := w.devices.switcher
	if w.random.IntN(3) == 0 {
		d, m = w.devices.desk, device.Message{Address: "/channel/2/level", Args: []any{-float64(w.random.IntN(30))}}
	}
	err := d.Operate(m)
	return "a hand does " + m.String() + errText(err)
}

// slow has a device take its time, more or less.
func slow(w *world) string {
	f := faults.Faults{LatencyMs: w.random.IntN(90), JitterMs: w.random.IntN(30)}
	w.ok(w.devices.switcher.SetFaults(f))
	return fmt.Sprintf("the switcher takes %d ms, and up to %d more", f.LatencyMs, f.JitterMs)
}

// mend puts everything right that is broken.
func mend(w *world) string {
	w.devices.switcher.Jam(false)
	w.ok(w.devices.switcher.Open())
	w.ok(w.devices.desk.Open())
	for id, port := range w.devices.ports {
		d := w.edit.Program().Show.Device(id)
		if d == nil {
			continue
		}
		if d.Parked {
			w.ok(w.edit.ParkDevice(people[1], id, false))
		}
		if d.Port != port {
			rev := w.edit.Program().Show.Rev(d.Ref())
			w.ok(w.edit.EditDevice(people[1], id, rev, edit.DeviceFields{Name: d.Name, Type: d.Type, Host: d.Host, Port: port}))
		}
	}
	w.later(time.Second)
	return "everything is mended"
}
