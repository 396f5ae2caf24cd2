package reflex

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/reading"
)

var start = time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)

func ms(n int) time.Time { return start.Add(time.Duration(n) * time.Millisecond) }

func TestAReadingDoesWhatOneWaitsFor(t *testing.T) {
	for name, c := range map[string]struct {
		watch  Watch
		values []any
		fires  string // by the number of the value
	}{
		"any change":                           {Watch{}, []any{nil, 1, 1, 2, "2", 3}, "3 5"},
		"it becomes a value":                   {Watch{Edge: Becomes, Value: "true"}, []any{nil, true, false, true, true, false, true}, "3 6"},
		"it leaves a value":                    {Watch{Edge: Leaves, Value: "true"}, []any{nil, true, false, false, true, false}, "2 5"},
		"it rises over a level":                {Watch{Edge: Rises, Level: 10}, []any{nil, 12, 8, 10, 11, 9, 10}, "3 6"},
		"it rises with hysteresis":             {Watch{Edge: Rises, Level: 10, Back: 3}, []any{5.0, 10, 8, 11, 7, 10, 6.9, 10}, "1 7"},
		"it falls under a level":               {Watch{Edge: Falls, Level: -20}, []any{0, -20, -19, -25, -10, -21}, "1 3 5"},
		"it falls with hysteresis":             {Watch{Edge: Falls, Level: -20, Back: 5}, []any{0, -20, -16, -25, -14, -21}, "1 5"},
		"what is no number crosses nothing":    {Watch{Edge: Rises, Level: 1}, []any{"a", "b", nil}, ""},
		"beyond the level from the first time": {Watch{Edge: Rises, Level: 10}, []any{nil, 12, 13, 9, 12}, "4"},
	} {
		var fired []string
		for i := 1; i < len(c.values); i++ {
			if c.watch.See(c.values[i-1], c.values[i], ms(i)) {
				fired = append(fired, fmt.Sprint(i))
			}
		}
		if got := strings.Join(fired, " "); got != c.fires {
			t.Errorf("%s fires at %q, want %q", name, got, c.fires)
		}
	}
}

func TestWhatHasToBeSoForAWhileFiresOnceAfterIt(t *testing.T) {
	w := Watch{Edge: Becomes, Value: "true", For: 500 * time.Millisecond}
	see := func(was, now any, at int) {
		if w.See(was, now, ms(at)) {
			t.Errorf("at %d it fires at once", at)
		}
	}
	see(false, true, 0)
	if w.Due(ms(499)) {
		t.Error("it fires too early")
	}
	see(true, false, 499)
	if w.Due(ms(600)) {
		t.Error("it was not so for long enough, and fires")
	}
	see(false, true, 1000)
	if next, any := w.Next(); !any || !next.Equal(ms(1500)) || !w.Due(ms(1500)) || w.Due(ms(1500)) {
		t.Errorf("it is due at %v, %v", next, any)
	}
	see(true, false, 2000)
	see(false, true, 2100)
	w.Forget()
	if _, any := w.Next(); any || w.Due(ms(9000)) {
		t.Error("what was forgotten fires")
	}
	changes := Watch{For: 100 * time.Millisecond} // a change that is left alone
	for i := range 5 {
		changes.See(i, i+1, ms(i*50))
	}
	if changes.Due(ms(299)) || !changes.Due(ms(300)) {
		t.Error("a change is not due after it was left alone")
	}
}

// TestRatesAreNeverExceeded for generated events: of no key two fire within the time; what waits fires in its order.
func TestRatesAreNeverExceeded(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 1))
	for round := range 200 {
		g := Gate[int]{Every: time.Duration(1+r.IntN(50)) * time.Millisecond, Beyond: Beyonds[r.IntN(3)], Length: r.IntN(5)}
		last, order := map[int]time.Time{}, map[int]int{}
		fire := func(n int, at time.Time) {
			key := n % 3
			if was, has := last[key]; has && at.Sub(was) < g.Every {
				t.Fatalf("round %d: key %d fires %v after it has", round, key, at.Sub(was))
			}
			if n < order[key] {
				t.Fatalf("round %d: %d fires after %d", round, n, order[key])
			}
			last[key], order[key] = at, n
		}
		at, fired, dropped := start, 0, 0
		for n := range 200 {
			at = at.Add(time.Duration(r.IntN(20)) * time.Millisecond)
			for _, w := range g.Due(at) {
				fire(w, at)
				fired++
			}
			switch g.Ask(fmt.Sprint(n%3), n, at) {
			case Fires:
				fire(n, at)
				fired++
			case Dropped, Replaced:
				dropped++
			}
		}
		if g.Waiting() > max(1, g.Length) {
			t.Fatalf("round %d: %d wait", round, g.Waiting())
		}
		if fired+dropped+g.Waiting() != 200 {
			t.Fatalf("round %d: %d fired, %d were dropped, %d wait", round, fired, dropped, g.Waiting())
		}
		for next, any := g.Next(); any; next, any = g.Next() {
			if len(g.Due(next.Add(-time.Nanosecond))) > 0 {
				t.Fatalf("round %d: what waits fires before its time", round)
			}
			for _, w := range g.Due(next) {
				fire(w, next)
			}
		}
	}
}

func TestAGateWithoutARateLetsAllThrough(t *testing.T) {
	var g Gate[string]
	for range 100 {
		if g.Ask("", "", start) != Fires {
			t.Fatal("it does not")
		}
	}
	people := Gate[string]{Every: 24 * time.Hour}
	for i := range 5 * maxKeys { // a person with very many names, within a day
		at := start.Add(time.Duration(i) * time.Millisecond)
		if people.Ask(fmt.Sprint(i), "", at) != Fires || people.Ask(fmt.Sprint(max(0, i-maxKeys/2)), "", at) == Fires {
			t.Fatalf("the %d. name does not fire once", i)
		}
	}
	if n := len(people.last) + len(people.old); n > 2*maxKeys {
		t.Errorf("%d people are remembered", n)
	}
}

func TestWhatFiresTooOftenIsStoppedWithinTwoSeconds(t *testing.T) {
	var b Breaker
	for i := range BreakAfter {
		if b.Fired(ms(i * 90)) {
			t.Fatalf("firing %d breaks", i)
		}
	}
	if !b.Fired(ms(1900)) {
		t.Error("twenty one firings within two seconds do not break")
	}
	var slow Breaker
	for i := range 1000 {
		if slow.Fired(ms(i * 110)) {
			t.Fatal("nine a second break")
		}
	}
}

func TestCirclesOfReflexesAreNamed(t *testing.T) {
	k := func(paths ...string) (out []reading.Key) {
		for _, p := range paths {
			out = append(out, reading.Key{Device: "d", Path: p})
		}
		return out
	}
	got := Loops([]Node{{"self", k("a"), k("a")}, {"one", k("b"), k("c")}, {"two", k("c"), k("d", "x")}, {"three", k("d"), k("b")}, {"out", k("x"), k("y")}})
	want := [][]string{{"self"}, {"one", "two", "three"}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("the circles are %v", got)
	}
	var many []Node
	for i := range 100 {
		many = append(many, Node{fmt.Sprint(i), k("a"), k("a")})
	}
	if n := len(Loops(many)); n != maxLoops {
		t.Errorf("of very many, %d are named", n)
	}
	many = nil
	for i := range 2000 { // in rings longer than a chain may be: none can go round
		many = append(many, Node{fmt.Sprint(i), k(fmt.Sprint(i % 9)), k(fmt.Sprint((i + 1) % 9))})
	}
	if got := Loops(many); len(got) != 0 {
		t.Errorf("in long rings there are %d circles", len(got))
	}
	if len(Loops(nil)) != 0 || slices.Contains(Kinds, "") {
		t.Error("nothing is a circle")
	}
}
