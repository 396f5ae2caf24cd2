package reading

import (
	"testing"
	"time"
)

var level = Key{"sw", "level"}

// ramp expects a level from a command that takes its time.
func ramp(tb *Table, command uint64, v float64, ms, delay, over int) {
	all := time.Duration(delay+over) * time.Millisecond
	tb.Expect(Expectation{Key: level, Value: v, Tolerance: 0.01, Command: command, Sent: at(ms), After: all, Over: time.Duration(over) * time.Millisecond,
		Limit: at(ms + delay + over + 2000)})
}

func TestWhatIsNoWordOnACommand(t *testing.T) {
	for name, c := range map[string]ending{
		"an answer to a question that was asked before": {func(tb *Table) []Settled {
			tb.Asked(program, at(0))
			expect(tb, 1, "2", 10, 0)
			_, a := tb.Report(program, "9", at(40)) // how it was when it was asked
			_, b := tb.Report(program, "2", at(70))
			return append(a, b...)
		}, []end{{1, Matched}}},
		"an answer to a question for everything": {func(tb *Table) []Settled {
			tb.Asked(Key{Device: "sw"}, at(0))
			expect(tb, 1, "2", 10, 0)
			_, a := tb.Report(program, "1", at(40))
			_, b := tb.Report(program, "2", at(70))
			return append(a, b...)
		}, []end{{1, Matched}}},
		"but one to a later question is": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			tb.Asked(program, at(10))
			_, a := tb.Report(program, "1", at(40))
			return a
		}, []end{{1, Disagreed}}},
		"and one that comes too late to be an answer": {func(tb *Table) []Settled {
			tb.Asked(program, at(0))
			expect(tb, 1, "2", 1900, 0)
			_, a := tb.Report(program, "1", at(2100))
			return a
		}, []end{{1, Disagreed}}},
		"the last word decides, when nothing follows an answer": {func(tb *Table) []Settled {
			tb.Asked(program, at(0))
			expect(tb, 1, "2", 10, 0)
			tb.Report(program, "1", at(40))
			_, a := tb.Expire(at(2010), quick)
			return a
		}, []end{{1, Disagreed}}},
		"an answer that says what a later command is to bring about": {func(tb *Table) []Settled {
			tb.Report(program, "2", at(0))
			expect(tb, 1, "2", 10, 0) // it is so already, and is asked for
			tb.Asked(program, at(11))
			expect(tb, 2, "1", 20, 0)
			expect(tb, 3, "2", 30, 0)
			var all []Settled
			for i, v := range []string{"2", "2", "1", "2"} { // the first one's report, the answer, and the others'
				_, s := tb.Report(program, v, at(40+i))
				all = append(all, s...)
			}
			return all
		}, []end{{1, Matched}, {2, Matched}, {3, Matched}}},
		"a word on one that was waited for in vain": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			_, a := tb.Expire(at(2000), quick)
			expect(tb, 2, "3", 2100, 0)
			_, b := tb.Report(program, "2", at(2110))
			_, c := tb.Report(program, "3", at(2120))
			return append(append(a, b...), c...)
		}, []end{{1, Expired}, {2, Matched}}},
		"nor was what never left done, whoever did the same": {func(tb *Table) []Settled {
			tb.Expect(Expectation{Key: program, Value: "2", Command: 1, Sent: at(0), Limit: at(2000), Unsent: true})
			_, a := tb.Report(program, "2", at(5))
			_, b := tb.Expire(at(2010), quick)
			return append(a, b...)
		}, []end{{1, Expired}}},
		"a report while it waits to be written": {func(tb *Table) []Settled {
			tb.Expect(Expectation{Key: program, Value: "2", Command: 1, Sent: at(0), Limit: at(2000), Unsent: true})
			_, a := tb.Report(program, "2", at(5)) // a hand did the same
			_, b := tb.Report(program, "3", at(6))
			tb.Left(1)
			_, c := tb.Report(program, "2", at(9))
			return append(append(a, b...), c...)
		}, []end{{1, Matched}}},
	} {
		c.check(t, name)
	}
}

func TestWhatTakesItsTimeHasAGrace(t *testing.T) {
	for name, c := range map[string]ending{
		"a report just after its time is no disagreement": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 500)
			_, a := tb.Report(program, "6", at(590))
			_, b := tb.Report(program, "2", at(610))
			return append(a, b...)
		}, []end{{1, Matched}}},
		"one after its grace is": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 500)
			_, a := tb.Report(program, "6", at(610))
			return a
		}, []end{{1, Disagreed}}},
		"the grace is a tenth of what takes long": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 5000)
			_, a := tb.Report(program, "6", at(5490))
			_, b := tb.Report(program, "6", at(5510))
			return append(a, b...)
		}, []end{{1, Disagreed}}},
		"or what the sheet says": {func(tb *Table) []Settled {
			tb.Expect(Expectation{Key: program, Value: "2", Command: 1, Sent: at(0), After: 500 * time.Millisecond, Grace: 20 * time.Millisecond, Limit: at(3000)})
			_, a := tb.Report(program, "6", at(530))
			return a
		}, []end{{1, Disagreed}}},
	} {
		c.check(t, name)
	}
}

func TestANumberOnItsWayIsNoDisagreement(t *testing.T) {
	tb := NewTable()
	tb.Report(level, 0.0, at(0))
	ramp(tb, 1, 10, 0, 0, 0)
	for i, v := range []float64{2, 5, 9} {
		if _, s := tb.Report(level, v, at(300*i+100)); len(s) > 0 {
			t.Errorf("at %v: %+v", v, s)
		}
	}
	if _, s := tb.Report(level, 10.0, at(1000)); len(s) != 1 || s[0].Outcome != Matched {
		t.Errorf("at its end: %+v", s)
	}
	ramp(tb, 2, 20, 2000, 0, 0)
	if _, s := tb.Report(level, 15.0, at(2100)); len(s) > 0 {
		t.Errorf("on its way: %+v", s)
	}
	if _, s := tb.Expire(at(4000), quick); len(s) != 1 || s[0].Outcome != Disagreed || s[0].Got != 15.0 {
		t.Errorf("when it stays there: %+v", s)
	}
	ramp(tb, 3, 0, 5000, 0, 0)
	if _, s := tb.Report(level, 16.0, at(5100)); len(s) != 1 || s[0].Outcome != Disagreed {
		t.Errorf("when it goes the other way: %+v", s)
	}
}

func TestAMoveThatTakesItsTimeTellsWhenItBegins(t *testing.T) {
	tb := NewTable()
	tb.Report(level, 0.0, at(-1))
	ramp(tb, 1, 10, 0, 200, 1000)
	if _, s := tb.Report(level, 0.1, at(150)); len(s) > 0 {
		t.Errorf("before it can have begun: %+v", s)
	}
	_, s := tb.Report(level, 0.5, at(240))
	if len(s) != 1 || s[0].Outcome != Began || s[0].Latency != 40*time.Millisecond {
		t.Errorf("its first step: %+v", s)
	}
	if _, s = tb.Report(level, 3.0, at(400)); len(s) > 0 {
		t.Errorf("its second: %+v", s)
	}
	if _, s = tb.Report(level, 10.0, at(1260)); len(s) != 1 || s[0].Outcome != Matched {
		t.Errorf("its end: %+v", s)
	}
}

// TestWhatIsSaidBesideTheAnswersComesInNoOrder: what a device says on one connection about the command before may come after the answer on another, and so
// after the next command. Whether it contradicts that is known at its limit.
func TestWhatIsSaidBesideTheAnswersComesInNoOrder(t *testing.T) {
	apart := func(tb *Table, command uint64, v Value, ms int) {
		tb.Expect(Expectation{Key: program, Value: v, Command: command, Sent: at(ms), Limit: at(ms + 300), Apart: true})
	}
	say := func(tb *Table, values map[int]Value) (all []Settled) {
		for ms := range 4000 {
			if v, says := values[ms]; says {
				_, s := tb.Report(program, v, at(ms))
				all = append(all, s...)
			}
			_, s := tb.Expire(at(ms), quick)
			all = append(all, s...)
			if ms == 60 {
				apart(tb, 2, "1", ms)
			}
		}
		return all
	}
	for name, c := range map[string]ending{
		"the command before is told of twice": {func(tb *Table) []Settled {
			apart(tb, 1, "2", 0)
			return say(tb, map[int]Value{40: "2", 65: "2", 70: "1"})
		}, []end{{1, Matched}, {2, Matched}}},
		"so is one before that, which it has taken late": {func(tb *Table) []Settled {
			apart(tb, 1, "3", 0)
			apart(tb, 0, "2", 5)
			return say(tb, map[int]Value{40: "2", 50: "3", 65: "2", 70: "1"})
		}, []end{{1, Overtaken}, {0, Matched}, {2, Matched}}},
		"but what it does not go back on is so": {func(tb *Table) []Settled {
			apart(tb, 1, "2", 0)
			return say(tb, map[int]Value{40: "2", 65: "2"})
		}, []end{{1, Matched}, {2, Disagreed}}},
		"one that was told to do nothing else means it": {func(tb *Table) []Settled {
			tb.Report(program, "2", at(1))
			return say(tb, map[int]Value{65: "2"})
		}, []end{{2, Disagreed}}},
		"so does one that says all in one order": {func(tb *Table) []Settled {
			expect(tb, 1, "2", 0, 0)
			tb.Report(program, "2", at(40))
			expect(tb, 2, "1", 60, 0)
			_, s := tb.Report(program, "2", at(65))
			return s
		}, []end{{2, Disagreed}}},
	} {
		c.check(t, name)
	}
}

// quick is a device that has said something since.
func quick(string, time.Time) bool { return false }

// TestOneReportEndsAllRampsToOnePlace: each command has the device begin anew, and it says once that it is there.
func TestOneReportEndsAllRampsToOnePlace(t *testing.T) {
	twice := func(second int) func(tb *Table) []Settled {
		return func(tb *Table) []Settled {
			tb.Report(level, 60.0, at(0))
			ramp(tb, 1, 0, 0, 0, 200)
			ramp(tb, 2, 0, second, 0, 200)
			_, got := tb.Report(level, 0.0, at(second+210))
			return got
		}
	}
	for name, c := range map[string]ending{
		"the first has been taken over":         {twice(100), []end{{1, Overtaken}, {2, Matched}}},
		"the first had time to come to its end": {twice(300), []end{{1, Matched}}},
		"what goes elsewhere contradicts nothing": {func(tb *Table) []Settled {
			tb.Report(level, 60.0, at(0))
			ramp(tb, 1, 0, 0, 0, 200)
			ramp(tb, 2, 80, 100, 0, 400)
			_, a := tb.Report(level, 70.0, at(350)) // long after the first one was to be there
			_, b := tb.Report(level, 80.0, at(500))
			return append(a, b...)
		}, []end{{1, Overtaken}, {2, Began}, {2, Matched}}},
		"nor does what was said on the way, before it was told to be elsewhere": {func(tb *Table) (all []Settled) {
			tb.Report(level, 0.0, at(0))
			ramp(tb, 1, 77, 0, 0, 200)
			tb.Report(level, 5.0, at(40))
			ramp(tb, 2, 0, 50, 0, 0)
			for i, v := range []float64{13, 20, 0} {
				_, s := tb.Report(level, v, at(60+i))
				all = append(all, s...)
			}
			return all
		}, []end{{1, Overtaken}, {2, Matched}}},
		"nor does what nothing is heard of": {func(tb *Table) []Settled {
			tb.Report(level, 60.0, at(0))
			ramp(tb, 1, 0, 0, 0, 200)
			ramp(tb, 2, 80, 100, 0, 4000)
			_, a := tb.Expire(at(2300), quick)
			return a
		}, []end{{1, Overtaken}}},
	} {
		c.check(t, name)
	}
}

func TestASlowDeviceIsWaitedForLonger(t *testing.T) {
	k := Key{"mixer", "level"}
	for _, c := range []struct {
		speaks int // when the device says anything, in milliseconds
		until  int // when the expectation has ended
	}{{0, 300}, {450, 500}, {99_999, 10_000}} {
		tb := NewTable()
		tb.Report(k, 1, at(-100))
		tb.Expect(Expectation{Key: k, Value: 2, Command: 1, Sent: at(0), Limit: at(300)})
		ended := 0
		for now := 0; now <= 12_000 && ended == 0; now += 50 {
			if _, s := tb.Expire(at(now), func(string, time.Time) bool { return now < c.speaks }); len(s) > 0 {
				ended = now
			}
		}
		if ended < c.until-100 || ended > c.until+100 {
			t.Errorf("one that speaks after %d ms is waited for until %d, want %d", c.speaks, ended, c.until)
		}
	}
}

// TestWhatCannotExpireYetIsNotDue: whoever asks when to come back would come back at once, again and
// again.
func TestWhatCannotExpireYetIsNotDue(t *testing.T) {
	k, tb := Key{"mixer", "level"}, NewTable()
	for i, limit := range []int{900, 300} {
		tb.Expect(Expectation{Key: k, Value: i, Command: uint64(i), Sent: at(i), Limit: at(limit)})
	}
	for range 2 {
		due, any := tb.NextLimit()
		if _, ended := tb.Expire(due, quick); any && len(ended) == 0 {
			t.Fatalf("at %v nothing is to be done", due.Sub(at(0)))
		}
	}
}
