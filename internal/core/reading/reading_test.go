package reading

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"
)

var (
	start   = time.Date(2026, 8, 12, 21, 0, 0, 0, time.UTC)
	program = Key{"sw", "mix/1/program"}
)

func at(ms int) time.Time { return start.Add(time.Duration(ms) * time.Millisecond) }

func expect(t *Table, command uint64, v Value, sentMs, afterMs int) {
	t.Expect(Expectation{Key: program, Value: v, Command: command, Entry: "e", Sent: at(sentMs), After: time.Duration(afterMs) * time.Millisecond,
		Limit: at(sentMs + afterMs + 2000)})
}

func TestACommandIsPendingUntilTheDeviceConfirms(t *testing.T) {
	tb := NewTable()
	if r := tb.Reading(program); r.Quality != Unknown {
		t.Errorf("before anything was heard: %+v", r)
	}
	tb.Report(program, "1", at(0))
	expect(tb, 1, "2", 10, 0)
	if r := tb.Reading(program); r.Quality != Pending || r.Value != "1" || r.Expected != "2" {
		t.Errorf("while the command is on its way: %+v", r)
	}
	changed, settled := tb.Report(program, "2", at(14))
	if !changed || len(settled) != 1 || settled[0].Outcome != Matched || settled[0].Latency != 4*time.Millisecond {
		t.Errorf("the report gave %v, %+v", changed, settled)
	}
	if r := tb.Reading(program); r.Quality != Confirmed || r.Value != "2" || r.Source != "e" || !r.Since.Equal(at(14)) {
		t.Errorf("after the report: %+v", r)
	}
}

func TestHowExpectationsEnd(t *testing.T) {
	for name, c := range map[string]ending{
		"the first of two is confirmed first": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			expect(tb, 2, "3", 1, 0)
			_, a := tb.Report(program, "2", at(5))
			_, b := tb.Report(program, "3", at(6))
			return append(a, b...)
		}, []end{{1, Matched}, {2, Matched}}},
		"an answer to a question is no word on the next command": {func(tb *Table) []Settled {
			tb.Asked(program, at(0))
			tb.Expect(Expectation{Key: program, Value: "1", Command: 1, Sent: at(0), Limit: at(2000), NoSample: true})
			_, a := tb.Report(program, "1", at(5)) // the device repeats it
			expect(tb, 2, "3", 6, 0)
			_, b := tb.Report(program, "1", at(7)) // and answers
			_, c := tb.Report(program, "3", at(9))
			return append(append(a, b...), c...)
		}, []end{{1, Matched}, {2, Matched}}},
		"unless another value is reported": {func(tb *Table) []Settled {
			tb.Asked(program, at(0))
			tb.Expect(Expectation{Key: program, Value: "1", Command: 1, Sent: at(0), Limit: at(2000), NoSample: true})
			_, a := tb.Report(program, "1", at(5))
			expect(tb, 2, "3", 6, 0)
			_, b := tb.Report(program, "4", at(7))
			return append(a, b...)
		}, []end{{1, Matched}, {2, Disagreed}}},
		"a report of the second overtakes the first": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			expect(tb, 2, "3", 1, 0)
			_, s := tb.Report(program, "3", at(5))
			return s
		}, []end{{1, Overtaken}, {2, Matched}}},
		"the same value twice settles the older": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			expect(tb, 2, "2", 1, 0)
			_, s := tb.Report(program, "2", at(5))
			return s
		}, []end{{1, Matched}}},
		"another value is a disagreement": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			_, s := tb.Report(program, "6", at(5))
			return s
		}, []end{{1, Disagreed}}},
		"another value before a transition ends is none": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 1000)
			_, s := tb.Report(program, "6", at(5))
			_, more := tb.Report(program, "2", at(1003))
			return append(s, more...)
		}, []end{{1, Matched}}},
		"silence expires": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			if _, early := tb.Expire(at(1999), quick); len(early) > 0 {
				return nil
			}
			_, s := tb.Expire(at(2000), quick)
			return s
		}, []end{{1, Expired}}},
		"a lost link drops": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			_, s := tb.Lost("sw")
			return s
		}, []end{{1, Dropped}}},
	} {
		c.check(t, name)
	}
}

// ending is how expectations end when something is done with a table.
type ending struct {
	run  func(*Table) []Settled
	want []end
}

type end struct {
	command uint64
	outcome Outcome
}

func (c ending) check(t *testing.T, name string) {
	t.Helper()
	tb := NewTable()
	tb.Report(program, "1", at(-1))
	got := c.run(tb)
	if len(got) != len(c.want) {
		t.Errorf("%s: %+v", name, got)
		return
	}
	for i, w := range c.want {
		if got[i].Command != w.command || got[i].Outcome != w.outcome {
			t.Errorf("%s: %d is %+v, want %+v", name, i, got[i], w)
		}
	}
}

func TestALostLinkMakesEverythingUnknownAndKeepsTheLastValue(t *testing.T) {
	tb := NewTable()
	tb.Report(program, "2", at(0))
	tb.Report(Key{"sw", "keyer/1/on"}, true, at(0))
	tb.Report(Key{"other", "x"}, 1, at(0))
	keys, _ := tb.Lost("sw")
	if len(keys) != 2 {
		t.Errorf("changed: %v", keys)
	}
	if r := tb.Reading(program); r.Quality != Unknown || r.Value != "2" {
		t.Errorf("%+v", r)
	}
	if r := tb.Reading(Key{"other", "x"}); r.Quality != Confirmed {
		t.Error("another device lost its readings too")
	}
	expect(tb, 1, "3", 1, 0)
	if r := tb.Reading(program); r.Quality != Unknown {
		t.Errorf("an expectation of an unknown reading: %+v", r)
	}
	if changed, _ := tb.Report(program, "2", at(3)); !changed {
		t.Error("the same value after a loss is news")
	}
}

func TestAWithdrawnCommandExpectsNothing(t *testing.T) {
	tb := NewTable()
	tb.Report(program, "1", at(0))
	expect(tb, 7, "2", 1, 0)
	if keys := tb.Withdraw(7); len(keys) != 1 {
		t.Errorf("changed: %v", keys)
	}
	if r := tb.Reading(program); r.Quality != Confirmed || r.Expected != nil {
		t.Errorf("%+v", r)
	}
	if _, any := tb.NextLimit(); any {
		t.Error("something still expires")
	}
}

func TestWhateverComesNothingStaysPendingForGood(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 300 {
		tb := NewTable()
		tb.Report(program, "1", at(0))
		open := map[uint64]bool{}
		settle := func(list []Settled) {
			for _, s := range list {
				if !open[s.Command] {
					t.Fatalf("command %d ended twice", s.Command)
				}
				delete(open, s.Command)
			}
		}
		for i := range 60 {
			switch r.IntN(4) {
			case 0, 1:
				id := uint64(i + 1)
				open[id] = true
				expect(tb, id, string(rune('1'+r.IntN(4))), i*50, 0)
			case 2:
				_, s := tb.Report(program, string(rune('1'+r.IntN(4))), at(i*50))
				settle(s)
			case 3:
				_, s := tb.Expire(at(i*50), quick)
				settle(s)
			}
		}
		_, s := tb.Expire(at(1_000_000), quick)
		settle(s)
		if len(open) > 0 || tb.Reading(program).Quality == Pending {
			t.Fatalf("still open: %v, %+v", open, tb.Reading(program))
		}
	}
}

func TestEqualKnowsTolerancesAndMinusInfinity(t *testing.T) {
	inf := math.Inf(-1)
	for _, c := range []struct {
		a, b Value
		tol  float64
		want bool
	}{
		{1.0, 1.0005, 0.001, true}, {1.0, 1.01, 0.001, false}, {1, 1.0, 0, true}, {inf, inf, 0.1, true}, {inf, -100.0, 1e9, false},
		{"2", "2", 0, true}, {"2", 2, 0, false}, {true, true, 0, true}, {nil, nil, 0, true}, {nil, false, 0, false},
	} {
		if got := Equal(c.a, c.b, c.tol); got != c.want {
			t.Errorf("Equal(%v, %v, %v) = %v", c.a, c.b, c.tol, got)
		}
	}
}

func TestLatencyCoversTheLastTwoHundred(t *testing.T) {
	var l Latency
	if s := l.Stats(); s.Count != 0 || s.SettleLimit() != 2*time.Second || s.AskLimit() != 100*time.Millisecond {
		t.Errorf("without samples: %+v", s)
	}
	for i := range 300 {
		l.Add(time.Duration(101+i*77%200) * time.Millisecond) // 101 to 300, in no order
	}
	s := l.Stats()
	want := Stats{Count: 200, Median: 200 * time.Millisecond, Lately: 200 * time.Millisecond, P95: 290 * time.Millisecond, P99: 298 * time.Millisecond, Last: 124 * time.Millisecond}
	if s != want {
		t.Errorf("%+v, want %+v", s, want)
	}
	if s.SettleLimit() != 894*time.Millisecond || s.AskLimit() != 894*time.Millisecond {
		t.Errorf("limits %v and %v", s.SettleLimit(), s.AskLimit())
	}
	var quick Latency
	for range 20 {
		quick.Add(time.Millisecond)
	}
	if got := quick.Stats().SettleLimit(); got != 250*time.Millisecond {
		t.Errorf("a quick device has %v", got)
	}
}
