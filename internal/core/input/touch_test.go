package input

import (
	"fmt"
	"slices"
	"testing"
	"time"
)

// mapped is a mapping of the tests: a name, and what it responds to.
type mapped struct {
	id    string
	to    Mapped
	guard *Guard
}

// fired is a response that was carried out.
type fired struct {
	by      *mapped
	gesture string
	ends    bool
	at      time.Time
	touch   time.Time // when the touch that it belongs to began
	down    bool
}

// desk plays touches on one control as the engine does.
type desk struct {
	Control
	shown   *mapped // what answers on the page in force
	mapping *mapped // what the touch began with
	waits   string  // the gesture that waits for a guard that is held
	touches int
	done    []fired
}

func (d *desk) take(now time.Time, events []Event) {
	for _, e := range events {
		switch {
		case !d.mapping.to[e.Gesture]:
		case e.Ends:
			d.done = append(d.done, fired{d.mapping, Talk, true, now, d.down, d.IsDown()})
		default:
			verdict := d.Ask(e.Gesture, d.mapping.guard, now)
			if verdict == Waits {
				d.waits = e.Gesture
			}
			if verdict == Fire {
				d.fire(now, e.Gesture)
			}
		}
	}
}

func (d *desk) fire(now time.Time, gesture string) {
	d.done = append(d.done, fired{d.mapping, gesture, false, now, d.down, d.IsDown()})
	if gesture == Talk {
		d.Opened()
	}
}

// pass lets time pass until a moment.
func (d *desk) pass(now time.Time) {
	for d.mapping != nil {
		at, ok := d.Next()
		g := d.mapping.guard
		if g != nil {
			if next, has := g.Next(); has && (!ok || next.Before(at)) {
				at, ok = next, true
			}
		}
		if !ok || at.After(now) {
			return
		}
		d.take(at, d.Due(at))
		if g == nil {
			continue
		}
		if v, due := g.Due(at); due && v == Fire {
			d.LetThrough()
			d.fire(at, d.waits)
		}
	}
}

func (d *desk) press(now time.Time) {
	if d.Awaits(now) && d.shown.id != d.mapping.id {
		d.take(now, d.EndWait())
	}
	if !d.GoesOn(now) {
		d.mapping = d.shown
	}
	d.touches++
	d.take(now, d.Down("hand", now, d.mapping.to, Usual))
}

func (d *desk) letGo(now time.Time, events []Event) {
	d.take(now, events)
	if d.mapping != nil && d.mapping.guard != nil {
		d.mapping.guard.LetGo()
	}
}

// wrong says what must not be, whatever was touched: the oracle knows nothing of how it is decided.
func (d *desk) wrong(guard string) string {
	var open, owed *mapped
	through := map[time.Time]bool{}
	for _, f := range d.done {
		switch {
		case f.ends && open != f.by:
			return f.by.id + " closes what it has not opened"
		case f.gesture == Talk && !f.ends && open != nil:
			return f.by.id + " opens while " + open.id + " is open"
		case f.gesture == Release && owed != f.by && len(f.by.to) > 1:
			return "a release of " + f.by.id + " follows nothing that was fired"
		case f.gesture != Release && owed != nil && owed != f.by && owed.to[Release]:
			return f.gesture + " of " + f.by.id + " came before the release of " + owed.id
		case guard == GuardHold && f.gesture != Release && !f.ends && (!f.down || f.at.Sub(f.touch) < time.Second):
			return fmt.Sprintf("%s fired %v after its touch, down %v", f.gesture, f.at.Sub(f.touch), f.down)
		}
		if f.gesture == Talk {
			if open = f.by; f.ends {
				open = nil
			}
		}
		if owed = f.by; f.gesture == Release {
			owed = nil
		}
		if !f.ends {
			through[f.touch] = true
		}
	}
	switch {
	case open != nil:
		return open.id + " is open at the end"
	case owed != nil && owed.to[Release]:
		return "the release of " + owed.id + " never came"
	case (guard == GuardTwice || guard == GuardCover) && 2*len(through) > d.touches+1:
		return fmt.Sprintf("%d of %d touches fired", len(through), d.touches)
	}
	return ""
}

// TestEveryMixOfGesturesHolds plays every pair and triple of gestures of a key, with every guard, on a
// page that changes, under an edit and with a link that is lost, at every moment of every way to touch it.
func TestEveryMixOfGesturesHolds(t *testing.T) {
	gestures := []string{Press, Hold, Double, Release, Repeat, Talk}
	var mixes []Mapped
	for i, a := range gestures {
		for j, b := range gestures[i:] {
			for _, c := range gestures[i+j:] {
				mixes = append(mixes, Mapped{a: true, b: true, c: true})
			}
		}
	}
	hands := [][]int{{60}, {700}, {1600}, {60, -100, 60}, {60, -400, 60}, {60, -100, 1600}, {1600, -300, 60}, {60, -600, 60, -600, 60}, {60, -80, 60, -80, 60, -80, 60}}
	played := 0
	for _, mix := range mixes {
		for _, guard := range []string{"", GuardHold, GuardTwice, GuardCover} {
			if guard == GuardHold && mix[Hold] {
				continue // they cannot share a control
			}
			for _, what := range []string{"nothing", "page", "edit", "lost"} {
				for _, hand := range hands {
					for when := 0; when <= len(hand) && (what != "nothing" || when == 0); when++ {
						if wrong, d := playTouches(mix, guard, what, hand, when); wrong != "" {
							t.Fatalf("%v, guard %q, %s at %d of %v: %s\n%s", keysOf(mix), guard, what, when, hand, wrong, d.told())
						}
						played++
					}
				}
			}
		}
	}
	if played < 10_000 {
		t.Errorf("%d were played", played)
	}
}

// playTouches plays one way to touch a key: so many milliseconds down, and up where negative; at one of
// its moments something happens. At the end every hand lets go, and what is open is closed with a tap.
func playTouches(mix Mapped, guard, what string, hand []int, when int) (string, *desk) {
	guarded := func(id string, to Mapped) *mapped {
		m := &mapped{id: id, to: to}
		if guard != "" {
			m.guard = &Guard{Kind: guard, For: time.Second}
		}
		return m
	}
	d := &desk{shown: guarded("first", mix)}
	now := t0
	happen := func(i int) {
		if i != when {
			return
		}
		switch what {
		case "page":
			d.shown = guarded("second", Mapped{Press: true, Release: true})
		case "edit":
			d.shown = guarded("first", Mapped{Press: true, Talk: mix[Press]})
		case "lost":
			d.letGo(now, d.Cancel("hand", now))
		}
	}
	for i, ms := range hand {
		if happen(i); ms < 0 {
			now = now.Add(time.Duration(-ms) * time.Millisecond)
			d.pass(now)
			continue
		}
		d.press(now)
		now = now.Add(time.Duration(ms) * time.Millisecond)
		d.pass(now)
		if what == "lost" && i == when-1 {
			happen(when)
		}
		d.letGo(now, d.Up("hand", now))
	}
	happen(len(hand))
	d.pass(now.Add(10 * time.Second))
	if now = now.Add(20 * time.Second); d.Latched() {
		d.press(now)
		d.letGo(now.Add(50*time.Millisecond), d.Up("hand", now.Add(50*time.Millisecond)))
		d.pass(now.Add(10 * time.Second))
	}
	if !d.Rests() {
		return "it does not rest", d
	}
	return d.wrong(guard), d
}

func keysOf(m Mapped) (out []string) {
	for g := range m {
		out = append(out, g)
	}
	slices.Sort(out)
	return out
}

// told lists what was fired.
func (d *desk) told() (out string) {
	for _, f := range d.done {
		out += fmt.Sprintf("  %v %s %s", f.at.Sub(t0), f.by.id, f.gesture)
		if f.ends {
			out += " ends"
		}
		out += "\n"
	}
	return out
}
