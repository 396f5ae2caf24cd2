package model

import (
	"fmt"
	"strconv"
	"time"

	"synaptor/internal/core/input"
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
	long := time.Duration(w.random.IntN(80)) * time.Millisecond
	if w.random.IntN(8) == 0 {
		long = time.Duration(w.random.IntN(2000)) * time.Millisecond
	}
	time.Sleep(long)
	w.touch(controller, control, input.Up, 0)
	return fmt.Sprintf("press %s for %v", control, long)
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
	gesture := pick(w, []string{input.Press, input.Press, input.Hold, input.Release, input.Double, input.Repeat, input.Talk, input.Turn, input.Slide, "down", "up"})
	id := journal.NextID()
	w.journal.Announce(id, time.Now())
	w.announced = append(w.announced, id)
	in := engine.Input{Entry: id, At: time.Now(), Controller: controller, Control: control, Gesture: gesture, Amount: float64(w.random.IntN(5) - 2), Link: "http",
		Via: "http", Actor: "Program", Announced: true}
	if gesture == "down" || gesture == "up" {
		in.Gesture, in.Edge, in.Lease = "", input.Edge(gesture), gesture == "down"
	}
	w.engine.Input(in)
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

func pass(w *world) string {
	d := time.Duration(w.random.IntN(4000)) * time.Millisecond
	w.later(d)
	return fmt.Sprint("wait ", d)
}
