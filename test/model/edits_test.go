package model

import (
	"fmt"
	"strconv"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

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
		a.Gesture = pick(w, []string{input.Hold, input.Double, input.Release, input.Repeat, input.Talk})
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
