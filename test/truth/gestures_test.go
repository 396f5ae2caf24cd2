package truth

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"synaptor/test/witness"
)

// burst is a number of gestures, with what hands and mishaps do meanwhile.
type burst struct {
	*world
	keys   []key
	dials  []dial
	before map[string]any
	turned map[string]float64 // by reading: where the dials are to have gone
	hands  map[string]bool    // readings that a hand has set
	pulled map[string]bool    // devices whose cable was out
	began  time.Time
}

// truthOfGestures touches controls at random, and holds what is said of them against what the devices lived
// through, each few gestures.
func (w *world) truthOfGestures(count int) {
	w.soon("there are faces", func() bool {
		_, there := w.live.face("k-a1")
		return there
	})
	for done := 0; done < count; {
		w.anew()
		b := &burst{world: w, keys: keys(), dials: dials(), before: w.snapshot(), turned: map[string]float64{}, hands: map[string]bool{}, pulled: map[string]bool{}, began: time.Now()}
		n := 1 + w.random.IntN(8)
		for range n {
			b.something()
		}
		done += n
		b.end()
		b.check()
	}
}

// something does something at random: mostly a gesture.
func (b *burst) something() {
	switch n := b.random.IntN(20); {
	case n < 9:
		b.press(b.keys[b.random.IntN(len(b.keys))], time.Duration(b.random.IntN(30))*time.Millisecond)
	case n == 9:
		b.press(b.keys[b.random.IntN(len(b.keys))], 350*time.Millisecond)
	case n < 12:
		b.overHTTP(b.keys[b.random.IntN(len(b.keys))])
	case n < 16:
		b.turn(b.dials[b.random.IntN(len(b.dials))])
	case n == 16:
		b.slow()
	case n == 17 && len(b.pulled) == 0:
		b.pull()
	default:
		b.hand()
	}
	if b.random.IntN(3) == 0 {
		time.Sleep(time.Duration(b.random.IntN(25)) * time.Millisecond)
	}
}

// edge sends an edge of a control, as a panel does.
func (b *burst) edge(controller, page, control, edge string, amount float64) {
	b.live.seq++
	b.live.say(b.world, map[string]any{"input": map[string]any{"controller": controller, "control": control, "edge": edge, "amount": amount, "page": page, "via": "panel", "seq": b.live.seq}})
}

func (b *burst) press(k key, long time.Duration) {
	b.do("press %s (%s %s) for %v", k.control, k.action.device, k.action.name, long)
	b.edge(grid, keysPage, k.control, "down", 0)
	time.Sleep(long)
	b.edge(grid, keysPage, k.control, "up", 0)
}

func (b *burst) overHTTP(k key) {
	gesture := k.gesture
	if gesture == "" {
		gesture = "press"
	}
	b.do("%s of %s (%s %s) over HTTP", gesture, k.control, k.action.device, k.action.name)
	b.call("POST", fmt.Sprintf("/input/%s/%s/%s", grid, k.control, gesture), map[string]any{"page": keysPage}, nil)
}

func (b *burst) turn(c dial) {
	if c.step == 0 {
		to := math.Round(b.random.Float64()*100) / 100
		b.do("slide %s to %v", c.control, to)
		b.turned[c.action.key] = c.least + to*(c.most-c.least)
		b.edge(console, dialsPage, c.control, "slide", to)
		return
	}
	for range 1 + b.random.IntN(6) {
		by := float64(1 + b.random.IntN(3))
		if b.random.IntN(2) == 0 {
			by = -by
		}
		at, turned := b.turned[c.action.key]
		if !turned {
			at = decibels(b.before[c.action.key])
		}
		b.turned[c.action.key] = min(c.most, max(c.least, at+by*c.step))
		b.do("turn %s by %v", c.control, by)
		b.edge(console, dialsPage, c.control, "turn", by)
		if b.random.IntN(2) == 0 {
			time.Sleep(time.Duration(b.random.IntN(8)) * time.Millisecond)
		}
	}
}

func decibels(v any) float64 {
	if f, is := v.(float64); is {
		return f
	}
	return math.Inf(-1)
}

// slow has a device answer late from now on.
func (b *burst) slow() {
	d := b.devices[b.random.IntN(len(b.devices))]
	late, jitter := time.Duration(b.random.IntN(80))*time.Millisecond, time.Duration(b.random.IntN(20))*time.Millisecond
	b.do("%s answers %v later, and up to %v more", d.id, late, jitter)
	d.cable.Slow(late, jitter)
}

// pull takes the cable of a device out.
func (b *burst) pull() {
	d := b.devices[b.random.IntN(len(b.devices))]
	b.do("the cable of %s is pulled", d.id)
	d.cable.Pull()
	b.pulled[d.id] = true
}

// hand sets something at a device itself.
func (b *burst) hand() {
	k := b.keys[b.random.IntN(len(b.keys))]
	dev, path, _ := strings.Cut(k.action.key, ":")
	if k.role == "" || dev == "dome-camera" {
		return
	}
	var to any = b.random.IntN(2) == 0
	if strings.HasPrefix(path, "mix/") {
		to = float64(1 + b.random.IntN(6))
	}
	b.do("a hand sets %s to %v", k.action.key, to)
	b.hands[k.action.key] = true
	b.ok(b.device(dev).eye.Set(path, to))
}

// end mends what is broken, and waits until all has come to rest.
func (b *burst) end() {
	b.Helper()
	b.do("all is mended")
	for _, d := range b.devices {
		d.cable.Slow(0, 0)
		if b.pulled[d.id] {
			b.soon("it is noticed that "+d.id+" is gone", func() bool { return b.live.phase(d.id) != "up" })
			d.cable.Plug()
		}
	}
	// What was sent on the live socket has arrived once what is sent after it has been answered.
	b.live.arrived(b.world)
	b.toldOf()
	b.soon("every entry has its outcome", func() bool {
		return !slices.ContainsFunc(b.entries(), func(e entry) bool { return !e.over() })
	})
	for _, c := range b.dials {
		// The last turns are gathered for a moment before they leave.
		if want, turned := b.turned[c.action.key]; turned && !b.pulled[c.action.device] {
			b.soon(fmt.Sprintf("%s is at %v, where %s was turned to", c.action.key, want, c.control), func() bool { return witness.Same(want, b.value(c.action.key)) })
		}
	}
	b.rest()
}

// toldOf waits until the journal has told of everything so far: it tells of things in their order.
func (b *burst) toldOf() {
	b.Helper()
	var last struct{ ID string }
	b.call("POST", "/input/"+console+"/a1/press", map[string]any{}, &last)
	b.soon("the journal has told of everything", func() bool {
		var e entry
		return b.live.get("journal/"+last.ID, &e) && e.over()
	})
}

// check holds what Synaptor says against what the devices lived through.
func (b *burst) check() {
	b.Helper()
	written := map[string]int{} // by mapping
	for _, e := range b.entries() {
		if slices.ContainsFunc(e.Steps, wasWritten) {
			written[e.Mapping]++
		}
	}
	for _, k := range b.keys {
		b.confirmedWasLived("k-"+k.control, k.action.key)
		if k.toggles && !b.hands[k.action.key] && !b.pulled[k.action.device] {
			odd := written["k-"+k.control]%2 == 1
			if witness.Same(b.before[k.action.key], b.value(k.action.key)) == odd {
				b.wrong("%s was told %d times to change, and went from %v to %v", k.action.key, written["k-"+k.control], b.before[k.action.key], b.value(k.action.key))
			}
		}
	}
	for _, c := range b.dials {
		b.confirmedWasLived("d-"+c.control, c.action.key)
	}
	b.nothingElse()
	b.soon("the faces are true", func() bool { return b.faces() == "" })
}

// wasWritten tells whether a step of a trace says that a command has left.
func wasWritten(s struct {
	Stage, Text string
	OffsetUs    int64
}) bool {
	return s.Stage == "wire" && !strings.Contains(s.Text, "Not sent")
}

// confirmedWasLived holds what is called confirmed against the device: it has told of that since.
func (b *burst) confirmedWasLived(mapping, reading string) {
	b.Helper()
	dev, path, _ := strings.Cut(reading, ":")
	for _, e := range b.entries() {
		if e.Mapping != mapping || e.Outcome != "confirmed" {
			continue
		}
		if !slices.ContainsFunc(b.device(dev).eye.Since(e.At), func(h witness.Heard) bool { return h.Path == path }) {
			b.wrong("%s is called confirmed, and %s has not told of %s since: %+v", e.ID, dev, path, e.Steps)
		}
	}
}

// nothingElse holds that what nobody has touched is as it was.
func (b *burst) nothingElse() {
	b.Helper()
	touched := map[string]bool{"dome-switcher:mix/1/preview": true, "dome-switcher:mix/2/preview": true}
	for _, k := range b.keys {
		touched[k.action.key] = true
	}
	for _, c := range b.dials {
		touched[c.action.key] = true
	}
	for _, at := range slices.Sorted(maps.Keys(b.before)) {
		if strings.HasSuffix(at, "/members") {
			continue // counts who listens
		}
		if !touched[at] && !witness.Same(b.before[at], b.value(at)) {
			b.wrong("nobody has touched %s, and it went from %v to %v", at, b.before[at], b.value(at))
		}
	}
}

// faces gives the keys that show something else than the devices are; "" when all are true.
func (b *burst) faces() string {
	var out []string
	for _, k := range b.keys {
		f, there := b.live.face("k-" + k.control)
		lit := slices.Contains(f.On, k.role)
		if !there || f.Unknown || f.Away || len(f.Pending) > 0 || k.role != "" && lit != k.holds(b.value(k.action.key)) {
			raw, _ := json.Marshal(f)
			out = append(out, fmt.Sprintf("%s shows %s, and %s is %v", k.control, raw, k.action.key, b.value(k.action.key)))
		}
	}
	return strings.Join(out, "; ")
}
