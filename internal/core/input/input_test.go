package input

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/show"
)

var t0 = time.Date(2026, 8, 12, 22, 0, 0, 0, time.UTC)

func ms(n int) time.Time { return t0.Add(time.Duration(n) * time.Millisecond) }

// play does a list of touches such as "0 down", "200 up", "600 due", "700 turn 2"
// and lists the gestures with their times.
func play(c *Control, mapped Mapped, touches ...string) string {
	var out []string
	for _, touch := range touches {
		var at int
		var what, link string
		_, _ = fmt.Sscan(touch, &at, &what, &link)
		if link == "" {
			link = "panel"
		}
		var events []Event
		switch what {
		case "down":
			events = c.Down(link, ms(at), mapped, Usual)
		case "up":
			events = c.Up(link, ms(at))
		case "due":
			events = c.Due(ms(at))
		case "turn":
			steps, _ := strconv.Atoi(link)
			events = c.Turned(float64(steps), mapped)
		}
		for _, e := range events {
			if e.Gesture == Talk && !e.Ends {
				c.Opened()
			}
			word := e.Gesture
			if e.Ends {
				word += " ends"
			}
			if e.Amount != 0 {
				word += fmt.Sprintf(" %v", e.Amount)
			}
			out = append(out, fmt.Sprintf("%d %s", at, word))
		}
	}
	return strings.Join(out, ", ")
}

func TestTouchesMakeGestures(t *testing.T) {
	for name, c := range map[string]struct {
		mapped  []string
		touches []string
		want    string
	}{
		"a press fires at once":                       {[]string{Press}, []string{"0 down", "80 up"}, "0 press, 80 release"},
		"two links hold one control":                  {[]string{Press}, []string{"0 down a", "10 down b", "20 up a", "30 up b"}, "0 press, 30 release"},
		"what is not down cannot go up":               {[]string{Press}, []string{"0 up"}, ""},
		"with a hold, a press waits for the release":  {[]string{Press, Hold}, []string{"0 down", "200 up"}, "200 press, 200 release"},
		"a hold fires when its time is reached":       {[]string{Press, Hold}, []string{"0 down", "499 due", "500 due", "900 due", "1000 up"}, "500 hold, 1000 release"},
		"with a double, a press waits for its window": {[]string{Press, Double}, []string{"0 down", "80 up", "249 due", "250 due"}, "250 press, 250 release"},
		"a second press makes a double":               {[]string{Press, Double}, []string{"0 down", "80 up", "200 down", "260 up", "500 due"}, "200 double, 260 release"},
		"a second press after the window is a press":  {[]string{Press, Double}, []string{"0 down", "80 up", "250 due", "400 down", "650 due", "700 up"}, "250 press, 250 release, 650 press, 700 release"},
		"hold, double and press on one control":       {[]string{Press, Double, Hold}, []string{"0 down", "250 due", "500 due", "600 up", "900 down", "950 up", "1149 due", "1150 due"}, "500 hold, 600 release, 1150 press, 1150 release"},
		"a control repeats while it is held":          {[]string{Press, Repeat}, []string{"0 down", "399 due", "400 due", "500 due", "520 due", "530 up", "700 due"}, "0 press, 400 repeat, 520 repeat, 530 release"},
		"a short tap latches a talk":                  {[]string{Talk}, []string{"0 down", "100 up", "3000 down", "3050 up"}, "0 talk, 100 release, 3000 talk ends, 3050 release"},
		"a longer talk closes when it is let go":      {[]string{Talk}, []string{"0 down", "900 up"}, "0 talk, 900 talk ends, 900 release"},
		"a press that waits is let go after it":       {[]string{Press, Release, Double}, []string{"0 down", "300 due", "600 up"}, "300 press, 600 release"},
		"a dial turns":                                {[]string{Turn}, []string{"0 turn 2", "10 turn -1"}, "0 turn 2, 10 turn -1"},
		"left and right may differ":                   {[]string{TurnLeft, TurnRight}, []string{"0 turn 2", "10 turn -1"}, "0 turn 2, 0 turn-right 2, 10 turn -1, 10 turn-left -1"},
		"a push that turned is not a push":            {[]string{Press, PushTurn}, []string{"0 down", "50 turn 1", "100 up"}, "50 push-turn 1"},
		"a push of a dial that did not turn":          {[]string{Press, PushTurn}, []string{"0 down", "100 up"}, "100 press, 100 release"},
		"a hold that turned is no hold":               {[]string{Hold, PushTurn}, []string{"0 down", "50 turn 1", "500 due", "600 up"}, "50 push-turn 1"},
	} {
		mapped := Mapped{}
		for _, g := range c.mapped {
			mapped[g] = true
		}
		var control Control
		if got := play(&control, mapped, c.touches...); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
}

func TestWhateverIsDoneADownGetsItsUpAndNothingStaysDue(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 500 {
		mapped := Mapped{}
		for _, g := range Gestures {
			mapped[g] = r.IntN(3) == 0
		}
		var c Control
		at, presses, releases := 0, 0, 0
		count := func(events []Event) {
			for _, e := range events {
				switch e.Gesture {
				case Press, Hold, Double, Talk:
					if mapped[e.Gesture] {
						presses++
					}
				case Release:
					releases++
				}
			}
		}
		for range 40 {
			at += r.IntN(300)
			switch r.IntN(3) {
			case 0:
				count(c.Down("a", ms(at), mapped, Usual))
			case 1:
				count(c.Up("a", ms(at)))
			}
			count(c.Due(ms(at)))
		}
		count(c.Up("a", ms(at+10)))
		count(c.Due(ms(at + 5000)))
		if next, due := c.Next(); due {
			t.Fatalf("something is still due at %v", next)
		}
		follows := mapped[Press] || mapped[Hold] || mapped[Double] || mapped[Talk] || mapped[Repeat]
		if follows && !mapped[Repeat] && releases != presses {
			t.Fatalf("%d presses and %d releases with %v", presses, releases, mapped)
		}
	}
}

func TestTheAddedDelayIsKnownInAdvance(t *testing.T) {
	for _, c := range []struct {
		mapped  Mapped
		gesture string
		wait    time.Duration
		release bool
	}{
		{Mapped{Press: true}, Press, 0, false},
		{Mapped{Press: true, Hold: true}, Press, 0, true},
		{Mapped{Press: true, Double: true}, Press, 250 * time.Millisecond, false},
		{Mapped{Press: true, Double: true, Hold: true}, Press, 250 * time.Millisecond, true},
		{Mapped{Hold: true}, Hold, 500 * time.Millisecond, false},
	} {
		if wait, release := c.mapped.AddedDelay(c.gesture, Usual); wait != c.wait || release != c.release {
			t.Errorf("%s with %v waits %v, %v", c.gesture, c.mapped, wait, release)
		}
	}
}

func TestGuardsLetThroughWhatIsMeant(t *testing.T) {
	twice := Guard{Kind: GuardTwice, For: 2 * time.Second}
	for _, s := range []struct {
		at   int
		want Verdict
	}{{0, Armed}, {1999, Fire}, {2500, Armed}, {5000, Armed}, {5500, Fire}} {
		if got := twice.Press(Press, ms(s.at), ms(s.at)); got != s.want {
			t.Errorf("press twice at %d: %s, want %s", s.at, got, s.want)
		}
	}
	twice.Press(Press, ms(6000), ms(6000))
	if v := twice.Press(Hold, ms(6100), ms(6600)); v != Armed {
		t.Errorf("armed by a press, a hold is told %s", v)
	}
	hold := Guard{Kind: GuardHold, For: time.Second}
	if v := hold.Press(Press, ms(0), ms(100)); v != Waits {
		t.Errorf("a hold: %s", v)
	}
	if _, due := hold.Due(ms(999)); due || !hold.LetGo() {
		t.Error("letting go in time does not cancel")
	}
	if _, due := hold.Due(ms(2000)); due {
		t.Error("a cancelled hold fires")
	}
	hold.Press(Press, ms(3000), ms(3000))
	if v, due := hold.Due(ms(4000)); v != Fire || !due || hold.LetGo() {
		t.Errorf("a hold that is full: %s", v)
	}
	if v := hold.Press(Press, time.Time{}, ms(5000)); v != Unheld {
		t.Errorf("what nobody holds is told %s", v)
	}
	cover := Guard{Kind: GuardCover, For: time.Second}
	cover.Press(Press, ms(0), ms(0))
	if v, due := cover.Due(ms(1000)); v != Closed || !due {
		t.Errorf("a cover closes: %s", v)
	}
	if v := (&Guard{}).Press(Press, ms(0), ms(0)); v != Fire {
		t.Errorf("without a guard: %s", v)
	}
}

func TestATurnThatArmsAGuardDoesNotFireIt(t *testing.T) {
	g := Guard{Kind: GuardTwice, For: 5 * time.Second}
	for _, s := range []struct {
		at   int
		want Verdict
	}{{0, Armed}, {100, Kept}, {500, Kept}, {1200, Fire}, {1300, Fire}, {1700, Fire}, {2300, Armed}, {9000, Armed}, {9600, Fire}} {
		if v, due := g.Due(ms(s.at)); due && v != Closed {
			t.Errorf("at %d: %s", s.at, v)
		}
		if got := g.Turn(Turn, ms(s.at)); got != s.want {
			t.Errorf("a turn at %d: %s, want %s", s.at, got, s.want)
		}
	}
}

func TestPagesKnowTheirWayBack(t *testing.T) {
	all := []string{"home", "cut", "sound"}
	var p Pages
	if !p.Settle(all) || p.Current != "home" {
		t.Errorf("it starts at %q", p.Current)
	}
	p.To("cut")
	p.Home(all)
	p.Home(all) // home, pressed at home, goes back
	if p.Current != "cut" {
		t.Errorf("home twice leads to %q", p.Current)
	}
	p.Step(all, 1, false)
	p.Step(all, 1, false)
	if p.Current != "sound" {
		t.Errorf("the end is %q", p.Current)
	}
	p.Step(all, 1, true)
	p.Hold("cut", "a1")
	if got := strings.Join(p.Shown(), " "); got != "cut home" {
		t.Errorf("while it is held %q answer", got)
	}
	if !p.LetGo("a1") || p.LetGo("a1") {
		t.Error("a held page goes once")
	}
	p.To("sound")
	if !p.Settle([]string{"home", "cut"}) || p.Current != "home" {
		t.Errorf("a page that is gone falls to %q", p.Current)
	}
	for p.GoBack() {
		if p.Current == "sound" {
			t.Error("one can go back to a page that is gone")
		}
	}
}

func TestWhichMappingAnswers(t *testing.T) {
	standing := Layer{"a1": {Mapping: "safe"}, "b1": {Mapping: "home"}}
	held := Layer{"c1": {Mapping: "held"}, "b1": {Mapping: "never"}}
	page := Layer{"a1": {Mapping: "cover", Covers: true}, "b1": {Mapping: "hidden"}, "c1": {Mapping: "camera"}}
	for control, want := range map[string]string{"a1": "cover", "b1": "home", "c1": "camera", "d1": ""} {
		if got, ok := Answers(control, standing, page); got != want || ok != (want != "") {
			t.Errorf("%s: %q, %v, want %q", control, got, ok, want)
		}
	}
	if got, _ := Answers("c1", standing, held, page); got != "held" {
		t.Errorf("while a page is held %q answers", got)
	}
	if got, _ := Answers("b1", standing, held, page); got != "home" {
		t.Errorf("a standing mapping wins over a held page, not %q", got)
	}
}

func TestLayersHoldEveryPlacement(t *testing.T) {
	at := show.Standing{Profile: "p", Layout: "l", Zone: "keys"}
	d := show.NewDraft(show.Empty())
	d.Put(&show.Mapping{ID: "linked", Placements: []show.Placement{{Page: "x", Control: "a1"}, {Page: "y", Control: "b2", Covers: true}, {Standing: &at, Control: "c3"}}})
	s, err := show.Empty().Apply(d.Edit("put", 1))
	if err != nil {
		t.Fatal(err)
	}
	pages, standing := Layers(s, nil, nil, nil)
	if pages["x"]["a1"].Mapping != "linked" || !pages["y"]["b2"].Covers || standing[at]["c3"].Mapping != "linked" {
		t.Errorf("pages %v, standing %v", pages, standing)
	}
}

func TestAPressOnLiftIsCancelledBySlidingOff(t *testing.T) {
	at := time.Unix(100, 0)
	lift := Usual
	lift.Lift = true
	press := func(mapped Mapped, timing Timing, after time.Duration, cancel bool) (out []string) {
		c := &Control{}
		add := func(list []Event) {
			for _, e := range list {
				if e.Gesture == Talk && !e.Ends {
					c.Opened()
				}
				out = append(out, e.Gesture)
			}
		}
		add(c.Down("x", at, mapped, timing))
		add(c.Due(at.Add(after)))
		if cancel {
			add(c.Cancel("x", at.Add(after)))
		} else {
			add(c.Up("x", at.Add(after)))
		}
		add(c.Due(at.Add(after + time.Second)))
		if !c.Rests() {
			t.Errorf("%v: it does not rest", mapped)
		}
		return out
	}
	short, long := 50*time.Millisecond, 700*time.Millisecond
	for name, c := range map[string]struct {
		mapped Mapped
		timing Timing
		after  time.Duration
		cancel bool
		want   []string
	}{
		"at once":                 {Mapped{Press: true}, Usual, short, false, []string{Press, Release}},
		"on lift":                 {Mapped{Press: true}, lift, short, false, []string{Press, Release}},
		"slid off":                {Mapped{Press: true}, lift, short, true, nil},
		"too late to cancel":      {Mapped{Press: true}, Usual, short, true, []string{Press, Release}},
		"with a hold, slid off":   {Mapped{Press: true, Hold: true}, Usual, short, true, nil},
		"held, slid off":          {Mapped{Press: true, Hold: true}, lift, long, true, []string{Hold, Release}},
		"with a double, slid off": {Mapped{Press: true, Double: true}, lift, short, true, nil},
		"a tap does not latch":    {Mapped{Talk: true}, Usual, short, true, []string{Talk, Talk, Release}},
	} {
		if got := press(c.mapped, c.timing, c.after, c.cancel); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
	if _, until := (Mapped{Press: true}).AddedDelay(Press, lift); !until {
		t.Error("it is not told that the press waits for the lift")
	}
}

func TestRiskyActionsOnTouchKeysFireOnLift(t *testing.T) {
	m := func(fires string, guard string, gestures ...string) *show.Mapping {
		m := &show.Mapping{Fires: fires}
		if guard != "" {
			m.Guard = &show.Guard{Kind: guard, Ms: 1000}
		}
		for _, g := range append(gestures, Press) {
			m.Responses = append(m.Responses, show.Response{Gesture: g})
		}
		return m
	}
	for _, c := range []struct {
		m     *show.Mapping
		kind  string
		risky bool
		want  bool
	}{
		{m("", ""), "touch", true, true}, {m("", ""), "touch", false, false}, {m("", ""), "key", true, false}, {m("touch", ""), "touch", true, false},
		{m("lift", ""), "key", false, true}, {m("", GuardTwice), "touch", true, true}, {m("", GuardHold), "touch", true, false}, {m("", "", Talk), "touch", true, false},
		{m("lift", "", Repeat), "touch", true, false},
	} {
		if got := Lifts(c.m, c.kind, c.risky); got != c.want {
			t.Errorf("%+v on a %s, risky %v: %v", c.m, c.kind, c.risky, got)
		}
	}
	if errs := Check(m("lift", GuardHold)); len(errs) != 1 || errs[0].Field != "fires" {
		t.Errorf("a held guard and a lift: %v", errs)
	}
}

// TestAnUrgentPressFiresAtOnceAndAHoldComesBesides: a frightened hand presses, presses twice, and holds.
func TestAnUrgentPressFiresAtOnceAndAHoldComesBesides(t *testing.T) {
	mapped, timing := Mapped{Press: true, Hold: true, Double: true, Release: true}, Usual
	timing.Urgent, timing.Lift = true, true
	if wait, release := mapped.AddedDelay(Press, timing); wait != 0 || release {
		t.Errorf("it waits %v, %v", wait, release)
	}
	var c Control
	var got []string
	take := func(events []Event) {
		for _, e := range events {
			got = append(got, e.Gesture)
		}
	}
	now := time.Unix(0, 0)
	take(c.Down("a", now, mapped, timing))
	take(c.Up("a", now.Add(50*time.Millisecond)))
	take(c.Down("a", now.Add(100*time.Millisecond), mapped, timing))
	at, ok := c.Next()
	if want := now.Add(100*time.Millisecond + timing.Hold); !ok || !at.Equal(want) {
		t.Errorf("next is at %v (%v), want %v", at, ok, want)
	}
	take(c.Due(at))
	take(c.Due(at.Add(time.Second)))
	take(c.Up("a", at.Add(2*time.Second)))
	if want := []string{Press, Release, Press, Hold, Release}; !slices.Equal(got, want) {
		t.Errorf("it made %v, want %v", got, want)
	}
}
