package engine_test

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// opened lists the entries that were opened since so many events, with the gesture that they say.
func (r *rig) opened(after int) (out []string) {
	for _, ev := range r.Events()[after:] {
		if ev.Origin != nil {
			out = append(out, ev.Entry+" "+ev.Origin.Gesture)
		}
	}
	return out
}

// fromNetwork hands in a finished gesture whose entry is announced.
func (r *rig) fromNetwork(controller, control, gesture string, amount float64) string {
	id := journal.NextID()
	r.Input(engine.Input{Entry: id, At: time.Now(), Controller: controller, Control: control, Gesture: gesture, Amount: amount, Link: "http", Via: "http", Announced: true})
	r.settle()
	return id
}

func TestTheTurnsOfOneTouchAreOneEntry(t *testing.T) {
	on(t, func(r *rig) {
		before := len(r.Events())
		first := r.touch("scope-console", "dial1", input.Turns, 1)
		for range 9 {
			time.Sleep(4 * time.Millisecond)
			r.touch("scope-console", "dial1", input.Turns, 1)
		}
		r.ends(first, journal.Confirmed, "")
		if got := r.opened(before); !slices.Equal(got, []string{first + " turn"}) {
			t.Errorf("the entries are %v", got)
		}
		time.Sleep(time.Second)
		second := r.touch("scope-console", "dial1", input.Turns, -1)
		r.ends(second, journal.Confirmed, "")
		if got := r.opened(before); !slices.Equal(got, []string{first + " turn", second + " turn"}) {
			t.Errorf("after a pause the entries are %v", got)
		}
	})
}

func TestASlideIsASlideAndSaysThatItWaits(t *testing.T) {
	on(t, func(r *rig) {
		r.hand(r.Desk, "/main/level", 0.0)
		before := len(r.Events())
		id := r.touch("scope-console", "slider1", input.Moves, 0.05)
		if o, why := r.outcome(id); o != journal.Guarded || !strings.Contains(why, "Sound desk") {
			t.Errorf("it is %q, %q", o, why)
		}
		for at := 0.1; at < 1; at += 0.1 {
			time.Sleep(10 * time.Millisecond)
			r.touch("scope-console", "slider1", input.Moves, at)
		}
		r.ends(id, journal.Confirmed, "")
		if got := r.opened(before); !slices.Equal(got, []string{id + " slide"}) {
			t.Errorf("the entries are %v", got)
		}
	})
}

func TestEveryTurnThatIsAnnouncedHasAnOutcome(t *testing.T) {
	on(t, func(r *rig) {
		var ids []string
		for range 5 {
			ids = append(ids, r.fromNetwork("scope-console", "dial1", input.Turn, 1))
			time.Sleep(3 * time.Millisecond)
		}
		r.ends(ids[0], journal.Confirmed, "")
		r.ends(ids[1], journal.Overtaken, "A later turn")
		r.ends(ids[4], journal.Confirmed, "")
		if !slices.ContainsFunc(r.Events(), func(ev journal.Event) bool { return ev.Entry == ids[4] && ev.Confirms }) {
			t.Error("the last turn has no latency")
		}
		r.ends(ids[2], journal.Overtaken, "")
		r.hand(r.Desk, "/main/level", 0.0)
		if o, _ := r.outcome(r.fromNetwork("scope-console", "slider1", input.Slide, 0.1)); o != journal.Guarded {
			t.Errorf("a slide that waits is %q", o)
		}
		r.ends(r.fromNetwork("scope-console", "nothing", input.Press, 0), journal.Refused, "")
	})
}

func TestATurnFromTheNetworkIsOneToItsSide(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("faders", "dial1").Clone()
			m.Responses = []show.Response{{Gesture: input.TurnRight, Action: *program1("3").Action}}
			d.Put(m)
		})
		since := time.Now()
		r.ends(r.fromNetwork("scope-console", "dial1", input.Turn, 2), journal.Confirmed, "")
		if g := got(r.Switcher, since); len(g) != 1 || g[0] != "/mix/1/program 3" {
			t.Errorf("the switcher got %v", g)
		}
		r.ends(r.fromNetwork("scope-console", "dial1", input.Turn, -2), journal.Refused, "does nothing")
	})
}

// refusals lists the refusals that faces were told of, as the control that is held.
func (r *rig) refusals() []string {
	r.settle()
	held := r.held
	r.held = nil
	return held
}

// TestARefusalWaitsForTheLiftOnlyWhereThereWillBeOne: a face keeps it for ever otherwise.
func TestARefusalWaitsForTheLiftOnlyWhereThereWillBeOne(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			m.Responses = append(m.Responses, show.Response{Gesture: input.Double, Action: m.Responses[0].Action})
			d.Put(m)
		})
		for _, id := range []string{"dome-switcher", "sound-desk"} {
			r.Change(id, func(d *show.Device) { d.Parked = true })
		}
		r.refusals()
		r.touch("producer-grid", "b1", input.Down, 0)
		if got := r.refusals(); !slices.Equal(got, []string{"producer-grid/b1"}) {
			t.Errorf("under a finger: %q", got)
		}
		r.touch("producer-grid", "b1", input.Up, 0)
		r.touch("producer-grid", "c1", input.Down, 0)
		r.touch("producer-grid", "c1", input.Up, 0)
		time.Sleep(time.Second) // the press waits for a second one, and fires after the lift
		r.touch("scope-console", "dial1", input.Turns, 1)
		r.fromNetwork("producer-grid", "c1", input.Double, 0)
		if got := r.refusals(); !slices.Equal(got, []string{"", "", ""}) {
			t.Errorf("without a finger: %q", got)
		}
	})
}

// TestAPressThatWaitsForItsGuardEnds, also where it is pressed anew, or its key is taken away.
func TestAPressThatWaitsForItsGuardEnds(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "c1").Clone()
			m.Guard = &show.Guard{Kind: input.GuardHold, Ms: 1000}
			d.Put(m)
		})
		first := r.press("c1")
		if o, why := r.outcome(first); o != journal.Guarded || !strings.Contains(why, "before its time") {
			t.Errorf("the first is %q, %q", o, why)
		}
		second := r.touch("producer-grid", "c1", input.Down, 0)
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.MappingAt("cut", "c1").Ref()) })
		if o, why := r.outcome(second); o != journal.Guarded || !strings.Contains(why, "taken away") {
			t.Errorf("the second is %q, %q", o, why)
		}
	})
}

// TestADialThatIsTurnedAllNightFillsNoMemory: what is made for one value is not remembered.
func TestADialThatIsTurnedAllNightFillsNoMemory(t *testing.T) {
	on(t, func(r *rig) {
		r.ends(r.press("a1"), journal.Confirmed, "")
		before := r.Remembered()
		for i := range 300 {
			r.touch("scope-console", "dial1", input.Turns, float64(i%2*2-1))
			time.Sleep(11 * time.Millisecond)
		}
		if n := r.Remembered(); before == 0 || n > before+1 {
			t.Errorf("%d are remembered, %d before", n, before)
		}
	})
}

func TestTheNextCommandStartsFromWhatWasAskedForLast(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: channel("mute-toggle", "5")})
		r.slow(300)
		since := time.Now()
		var presses []string
		for range 4 {
			presses = append(presses, r.hold("c1", tap))
		}
		r.wants("four toggles", since, opens5, mutes5, opens5, mutes5)
		for _, p := range presses {
			r.ends(p, journal.Confirmed, "")
		}
		r.key(nil, map[string]show.Call{input.Press: {Device: "dome-switcher", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": "3"}},
			input.Release: {Device: "dome-switcher", Action: "cut", Params: map[string]string{"mix": "1"}}})
		before := len(r.Events())
		r.ends(r.hold("c1", tap), journal.Confirmed, "")
		time.Sleep(2 * time.Second)
		for _, ev := range r.Events()[before:] {
			if ev.Outcome != "" && ev.Outcome != journal.Confirmed && ev.Outcome != journal.UnderWay {
				t.Errorf("%s: %s", ev.Outcome, ev.Reason)
			}
		}
		r.is("dome-switcher:mix/1/program", "3")
	})
}

// dial has the first dial of the scope console turn something.
func (r *rig) dial(gesture string, dial *show.Dial, call show.Call) (control string) {
	control = map[bool]string{true: "slider2", false: "dial1"}[gesture == input.Slide]
	r.Edit(func(d *show.Draft, s *show.Show) {
		m := s.MappingAt("faders", control).Clone()
		m.Responses = []show.Response{{Gesture: gesture, Action: call, Dial: dial}}
		d.Put(m)
	})
	return control
}

func TestADialTakesAHandOnTheDeviceAtOnce(t *testing.T) {
	on(t, func(r *rig) {
		level := show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "0"}}
		dial := r.dial(input.Turn, &show.Dial{Step: 0.5}, level)
		r.hand(r.Desk, "/channel/5/level", 0.0)
		turn := func(n int) {
			for range n {
				r.touch("scope-console", dial, input.Turns, 1)
				time.Sleep(15 * time.Millisecond)
			}
		}
		turn(1)
		r.hand(r.Desk, "/channel/5/level", 0.5)
		by := r.value("sound-desk:channel/5/level").(float64)
		turn(1)
		time.Sleep(time.Second)
		if now := r.value("sound-desk:channel/5/level").(float64); math.Abs(now-by-0.5) > 0.06 {
			t.Errorf("from %v, where a hand has put it, one detent leads to %v", by, now)
		}
		r.slow(80)
		was := r.value("sound-desk:channel/5/level").(float64)
		turn(10)
		time.Sleep(time.Second)
		if now := r.value("sound-desk:channel/5/level").(float64); math.Abs(now-was-5) > 0.06 {
			t.Errorf("ten detents on a slow device lead from %v to %v", was, now)
		}
	})
}

func TestADialOnAChoiceStartsFromWhatIsChosen(t *testing.T) {
	on(t, func(r *rig) {
		dial := r.dial(input.Turn, &show.Dial{Param: "input", Wrap: true}, show.Call{Device: "dome-switcher", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": "1"}})
		turn := func(by float64, want any) {
			t.Helper()
			r.touch("scope-console", dial, input.Turns, by)
			time.Sleep(time.Second)
			r.is("dome-switcher:mix/1/preview", want)
		}
		r.hand(r.Switcher, "/mix/1/preview", 3)
		turn(1, "4")
		r.hand(r.Switcher, "/mix/1/preview", 1)
		turn(1, "2")
		r.hand(r.Switcher, "/mix/1/preview", 1)
		r.touch("scope-console", dial, input.Turns, -1)
		time.Sleep(time.Second)
		if got := r.value("dome-switcher:mix/1/preview"); got == "1" || got == "2" {
			t.Errorf("before the first one comes %v, although it wraps", got)
		}
	})
}

func TestASliderHasToMeetTheValueAgainAfterSomebodyElseMovedIt(t *testing.T) {
	on(t, func(r *rig) {
		slider := r.dial(input.Slide, nil, show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "0"}})
		slide := func(to float64) {
			r.touch("scope-console", slider, input.Moves, to)
			time.Sleep(300 * time.Millisecond)
		}
		r.hand(r.Desk, "/channel/5/level", 0.5)
		for p := range 51 {
			slide(float64(p) / 50)
		}
		if now := r.value("sound-desk:channel/5/level"); now != 10.0 {
			t.Fatalf("picked up and moved to the end it is %v", now)
		}
		r.hand(r.Desk, "/channel/5/level", 0.3)
		was := r.value("sound-desk:channel/5/level")
		slide(0.96)
		r.is("sound-desk:channel/5/level", was)
		r.hand(r.Desk, "/channel/5/level", math.Inf(-1))
		r.is("sound-desk:channel/5/level", math.Inf(-1))
		slide(0.0)
		slide(0.1)
		if now := r.value("sound-desk:channel/5/level"); now != -80.0 {
			t.Errorf("from silence it is picked up at %v", now)
		}
		dial := r.dial(input.Turn, nil, show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "6", "level": "0"}})
		r.hand(r.Desk, "/channel/6/level", math.Inf(-1))
		r.touch("scope-console", dial, input.Turns, -1)
		time.Sleep(time.Second)
		r.is("sound-desk:channel/6/level", math.Inf(-1))
	})
}
