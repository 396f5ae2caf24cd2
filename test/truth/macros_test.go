package truth

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"synaptor/internal/core/show"
	"synaptor/test/witness"
)

// rehearsed is what Synaptor foretells of a macro.
type rehearsed struct {
	State, Reason string
	LengthMs      float64
	Changes       []struct{ Key, To, From string }
}

// truthOfMacros makes macros at random, has them rehearsed and run, and holds what was foretold, what is said of
// the run and what is said of the devices against what these lived through.
func (w *world) truthOfMacros(count int) {
	const batch = 20
	defer func() {
		if w.excused > 0 {
			w.Logf("%d of %d macros were not compared with their rehearsal: the machine stood still", w.excused, count)
		}
	}()
	for done := 0; done < count; done += batch {
		var list []*generated
		for i := range batch {
			list = append(list, w.generate(fmt.Sprintf("m%d-%d", done/batch, i), list[:min(len(list), 3)]))
		}
		w.ok(w.app.Edit.Fill(who, "Macros at random", func(d *show.Draft) {
			for _, g := range list {
				d.Put(g.macro)
				for _, s := range g.steps {
					d.Put(s)
				}
			}
		}))
		for i, g := range list {
			if done+i >= count {
				return
			}
			w.settles()
			w.anew()
			w.do("macro %d is %s", done+i, g)
			if w.random.IntN(5) == 0 {
				w.halted(g)
			} else {
				w.ran(g)
			}
		}
	}
}

// settles waits until nothing is on its way to a device any more: one run that failed, was halted or was not compared may have
// written what its device does a moment later. A device does in order what it is told, so each is told once more what it is.
func (w *world) settles() {
	w.Helper()
	w.rest()
	at := func(key string) string { return fmt.Sprint(w.value(key)) }
	filter := "filter-off"
	if witness.Same(w.value("stream-pc:filter/1/on"), true) {
		filter = "filter-on"
	}
	var asked []string
	for _, a := range []action{
		{device: "dome-switcher", name: "put-on-preview", params: map[string]string{"input": at("dome-switcher:mix/1/preview"), "mix": "1"}},
		{device: "sound-desk", name: "main-level", params: map[string]string{"level": at("sound-desk:main/level")}},
		{device: "dome-lights", name: "brightness", params: map[string]string{"lamp": "1", "level": at("dome-lights:lamp/1/brightness")}},
		{device: "talkback", name: "level", params: map[string]string{"line": "1", "level": at("talkback:line/1/level")}},
		{device: "stream-pc", name: filter, params: map[string]string{"filter": "1"}},
		{device: "dome-camera", name: "brightness", params: map[string]string{"level": at("dome-camera:brightness")}},
	} {
		var made struct{ ID string }
		w.call("POST", "/devices/"+a.device+"/try", map[string]any{"action": a.name, "params": a.params}, &made)
		asked = append(asked, made.ID)
	}
	w.soon("every device has done what it was told", func() bool {
		return !slices.ContainsFunc(asked, func(id string) bool {
			var e entry
			return !w.live.get("journal/"+id, &e) || !e.over()
		})
	})
	w.rest()
}

// ran rehearses a macro, runs it, and compares.
func (w *world) ran(g *generated) {
	var want rehearsed
	before := w.snapshot()
	w.call("GET", "/macros/"+g.macro.ID+"/rehearsal", nil, &want)
	w.do("rehearsed: %s after %.0f ms, %v", want.State, want.LengthMs, want.Changes)
	began := time.Now()
	id := w.run(g)
	r, ok := w.ends(id)
	if !ok {
		return
	}
	w.rest()
	if w.still.excuses() {
		w.excused++
		return
	}
	if r.State != want.State {
		w.wrong("it was rehearsed to be %s (%s), and is %s (%s)", want.State, want.Reason, r.State, r.Reason)
	}
	if want.State == "failed" {
		return // its fades have stopped wherever they were
	}
	w.holds(func() string { return w.endsAs(want, before) })
	w.holds(func() string { return w.countsAs(want, g, before, began) })
	if r.State == "ended" && w.offered(id) {
		w.wrong("it ended, and is offered to be put back: %v", w.live.offers())
	}
	w.outcome(id, map[string]string{"ended": "confirmed", "failed": "failed"}[r.State])
}

// run starts a macro and gives the entry of its run.
func (w *world) run(g *generated) string {
	var run struct{ ID string }
	w.call("POST", "/macros/"+g.macro.ID+"/run", nil, &run)
	return run.ID
}

// ends waits until a run has ended. ok is false where it was refused because a device was away: on a machine that
// stood still, a link may have been given up.
func (w *world) ends(id string) (r runRow, ok bool) {
	w.Helper()
	var e entry
	w.soon("the run has ended", func() bool {
		return w.live.run(id).Ended || w.live.get("journal/"+id, &e) && e.Outcome == "refused"
	})
	if r = w.live.run(id); !r.Ended {
		if !w.still.lately() {
			w.wrong("it was refused: %s", e.Reason)
		}
		w.excused++
		w.rest()
		return r, false
	}
	w.do("the run: %s %s, left %v", r.State, r.Reason, r.Left)
	return r, true
}

// outcome waits until the journal says what became of an entry.
func (w *world) outcome(id, want string) {
	w.Helper()
	var e entry
	w.soon("entry "+id+" has an outcome", func() bool { return w.live.get("journal/"+id, &e) && e.over() })
	if e.Outcome != want {
		w.wrong("the journal says %s (%s), not %s: %+v", e.Outcome, e.Reason, want, e.Steps)
	}
}

// endsAs says what differs between the devices and the end of a rehearsal: what it changed, and nothing else.
func (w *world) endsAs(want rehearsed, before map[string]any) string {
	last := map[string]string{}
	for _, c := range want.Changes {
		last[c.Key] = c.To
	}
	for _, key := range slices.Sorted(maps.Keys(w.snapshot())) {
		dev, path, _ := strings.Cut(key, ":")
		said := w.live.reading(dev, path)
		to, foretold := last[key]
		switch {
		case foretold && said.Word != to:
			return fmt.Sprintf("%s was rehearsed to end as %s, and the device says %v (%s)", key, to, w.value(key), said.Word)
		case !foretold && !witness.Same(before[key], w.value(key)):
			return fmt.Sprintf("%s was not rehearsed to change, and went from %v to %v", key, before[key], w.value(key))
		}
	}
	return w.differences()
}

// countsAs says where a reading has changed more or less often than in the rehearsal.
func (w *world) countsAs(want rehearsed, g *generated, before map[string]any, began time.Time) string {
	if g.faded["*"] {
		return ""
	}
	foretold := map[string]int{}
	for _, c := range want.Changes {
		if c.From != c.To {
			foretold[c.Key]++
		}
	}
	for key, n := range w.changesSince(began, before) {
		if !g.faded[key] && n != foretold[key] {
			return fmt.Sprintf("%s has changed %d times, and was rehearsed to do so %d times", key, n, foretold[key])
		}
	}
	return ""
}

// changesSince counts how often each reading has changed since a time, as the witnesses have heard it.
func (w *world) changesSince(at time.Time, before map[string]any) map[string]int {
	out, now := map[string]int{}, maps.Clone(before)
	for _, d := range w.devices {
		for _, h := range d.eye.Since(at) {
			key := d.id + ":" + h.Path
			if !witness.Same(now[key], h.Value) {
				now[key] = h.Value
				out[key]++
			}
		}
	}
	return out
}

// plan is what would be put back.
type plan struct {
	Returns []struct{ Title, From, To string }
	Left    []struct{ Title, Why string }
}

// halted runs a macro, halts it somewhere, looks at what is offered, and has it put back.
func (w *world) halted(g *generated) {
	before := w.snapshot()
	id := w.run(g)
	time.Sleep(time.Duration(w.random.IntN(150)) * time.Millisecond) // anywhere: this is what is tried
	w.call("POST", "/halt", nil, nil)
	halted := time.Now()
	r, ok := w.ends(id)
	if !ok {
		return
	}
	w.rest()
	if r.State == "halted" {
		w.silentSince(halted, before)
	}
	var changed []string
	for key, now := range w.snapshot() {
		if !same(key, before[key], now) {
			changed = append(changed, key)
		}
	}
	slices.Sort(changed)
	w.do("changed: %v", changed)
	var p plan
	refused := w.tell("GET", "/putback/"+id, nil, &p)
	if len(changed) > 0 && refused != "" {
		w.wrong("it has changed something, and cannot be put back: %s", refused)
	}
	offered := w.offered(id)
	if r.State == "halted" && offered != (len(changed) > 0) {
		w.wrong("it was halted and has changed %v; that it is offered is %v", changed, offered)
	}
	w.foretells(p, changed)
	if refused != "" {
		return
	}
	w.putBack(id, p, before)
}

// offered tells whether a run is offered to be put back.
func (w *world) offered(id string) bool {
	return slices.ContainsFunc(w.live.offers(), func(o struct{ Entry, Title, Reason string }) bool { return o.Entry == id })
}

// same tells whether a reading is as it was; the levels of the streaming software are a table, and a fifth of a decibel is
// none to it.
func same(key string, a, b any) bool {
	if strings.HasPrefix(key, "stream-pc:") && strings.HasSuffix(key, "/level") {
		return witness.Within(a, b, 0.21)
	}
	return witness.Same(a, b)
}

// silentSince holds that nothing is set any more: a halt came. What left before it may be heard of a moment after, and what
// is only said again is no news: a device whose link was given up meanwhile is asked for everything.
func (w *world) silentSince(at time.Time, before map[string]any) {
	w.Helper()
	for _, d := range w.devices {
		known := maps.Clone(before)
		for _, h := range d.eye.Since(w.since) {
			key := d.id + ":" + h.Path
			was, had := known[key]
			known[key] = h.Value
			if had && !same(key, was, h.Value) && h.At.After(at.Add(300*time.Millisecond)) {
				w.wrong("%v after the halt %s became %v", h.At.Sub(at), key, h.Value)
			}
		}
	}
}

// foretells holds the plan of a put back against what has changed.
func (w *world) foretells(p plan, changed []string) {
	w.Helper()
	var named []string
	for _, r := range p.Returns {
		named = append(named, r.Title)
	}
	for _, l := range p.Left {
		named = append(named, l.Title)
	}
	for _, key := range changed {
		dev, path, _ := strings.Cut(key, ":")
		title := w.live.reading(dev, path).Title
		if !slices.ContainsFunc(named, func(n string) bool { return strings.Contains(n, title) }) {
			w.wrong("%s (%s) has changed, and the plan to put back names only %q", key, title, named)
		}
	}
	if len(p.Returns) > len(changed) {
		w.wrong("%v have changed, and the plan returns more: %v", changed, p.Returns)
	}
}

// putBack takes what is offered; afterwards all is as before but what the plan leaves.
func (w *world) putBack(id string, p plan, before map[string]any) {
	w.Helper()
	var back struct{ ID string }
	if text := w.tell("POST", "/putback/"+id, nil, &back); text != "" {
		if len(p.Returns) > 0 {
			w.wrong("the plan returns %v, and it is refused: %s", p.Returns, text)
		}
		return
	}
	w.do("put back %v, left %v", p.Returns, p.Left)
	w.soon("the put back has an outcome", func() bool {
		var e entry
		return w.live.get("journal/"+back.ID, &e) && e.over()
	})
	w.holds(func() string {
		for key, now := range w.snapshot() {
			dev, path, _ := strings.Cut(key, ":")
			title := w.live.reading(dev, path).Title
			left := slices.ContainsFunc(p.Left, func(l struct{ Title, Why string }) bool { return strings.Contains(l.Title, title) })
			if !left && !same(key, before[key], now) {
				return fmt.Sprintf("after the put back %s is %v, and was %v before", key, now, before[key])
			}
		}
		return w.differences()
	})
	if len(p.Returns) > 0 {
		w.outcome(back.ID, "confirmed")
	}
	w.soon("it is not offered any more", func() bool { return !w.offered(id) })
}

// entry is what the journal says of an input.
type entry struct {
	ID, Control, Device, Mapping, Outcome, Reason string
	At                                            time.Time
	Steps                                         []struct {
		Stage, Text string
		OffsetUs    int64
	}
}

// over tells whether nothing is under way any more.
func (e entry) over() bool { return e.Outcome != "" && e.Outcome != "under way" }
