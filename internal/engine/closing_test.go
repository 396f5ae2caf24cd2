package engine_test

import (
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
)

// deaf has the desk lose what it is sent, and what it says; questions it answers.
func (r *rig) deaf(on bool) {
	r.Helper()
	if err := r.Desk.SetFaults(faults.Faults{LossPercent: map[bool]int{true: 100}[on]}); err != nil {
		r.Fatal(err)
	}
}

func talks() map[string]show.Call {
	return map[string]show.Call{input.Talk: channel("mute-toggle", "5")}
}

func TestWhatClosesIsSentAgainUntilTheDeviceAgrees(t *testing.T) {
	for name, responses := range map[string]map[string]show.Call{
		"a talk":    talks(),
		"a release": {input.Press: channel("open", "5"), input.Release: channel("mute", "5")},
	} {
		t.Run(name, func(t *testing.T) {
			on(t, func(r *rig) {
				r.key(nil, responses)
				r.touch("producer-grid", "c1", input.Down, 0)
				time.Sleep(time.Second)
				r.is("sound-desk:channel/5/mute", false)
				r.deaf(true) // what is sent is lost, and it answers questions
				up := r.touch("producer-grid", "c1", input.Up, 0)
				time.Sleep(6 * time.Second)
				if o, _ := r.outcome(up); o != journal.UnderWay {
					t.Errorf("while the device has not agreed it is %q", o)
				}
				r.deaf(false)
				time.Sleep(3 * time.Second)
				r.is("sound-desk:channel/5/mute", true)
				r.ends(up, journal.Confirmed, "")
				since := time.Now()
				time.Sleep(20 * time.Second)
				r.wants("once it has agreed", since)
			})
		})
	}
}

// unheardClosing opens a talk and closes it while the desk is deaf.
func (r *rig) unheardClosing() (entry string) {
	r.key(nil, talks())
	r.hold("c1", tap)
	r.deaf(true)
	entry = r.hold("c1", tap)
	time.Sleep(3 * time.Second)
	return entry
}

func TestWhatClosesIsNotSentAgainOnceSomethingElseWasAsked(t *testing.T) {
	on(t, func(r *rig) {
		closes := r.unheardClosing()
		r.deaf(false)
		r.ends(r.hold("c1", tap), journal.Confirmed, "") // it opens again
		since := time.Now()
		r.ends(closes, journal.Overtaken, "later command")
		time.Sleep(20 * time.Second)
		r.wants("after it was opened again", since)
		r.is("sound-desk:channel/5/mute", false)
	})
}

func TestWhatClosesIsNotSentAgainAfterTheLinkWasLost(t *testing.T) {
	on(t, func(r *rig) {
		closes := r.unheardClosing()
		for _, cut := range []bool{true, false} {
			if err := r.Desk.SetFaults(faults.Faults{Cut: cut}); err != nil {
				t.Fatal(err)
			}
			time.Sleep(3 * time.Second)
		}
		r.ends(closes, journal.Unconfirmed, "")
		since := time.Now()
		time.Sleep(20 * time.Second)
		r.wants("after the link was lost", since)
	})
}

func TestAToggleOnReleaseIsNeverSentAgain(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: channel("open", "5"), input.Release: channel("mute-toggle", "5")})
		r.deaf(true)
		since := time.Now()
		r.hold("c1", tap)
		time.Sleep(20 * time.Second)
		if n := len(r.desk(since)); n != 2 {
			t.Errorf("%d commands were sent", n)
		}
	})
}

// TestASlowDeviceIsNotUnconfirmed: its answers take longer than they ever did, and Synaptor waits for
// them while it says nothing else.
func TestASlowDeviceIsNotUnconfirmed(t *testing.T) {
	on(t, func(r *rig) {
		for _, key := range []string{"a1", "b1", "a1", "b1"} {
			for range 8 {
				r.ends(r.press(key), journal.Confirmed, "")
			}
		}
		for _, ms := range []int{300, 900} {
			r.slow(ms)
			time.Sleep(20 * time.Second)
			r.settle()
			since := len(r.lost)
			for _, key := range []string{"c1", "d1"} {
				r.ends(r.press(key), journal.Confirmed, "")
				time.Sleep(5 * time.Second)
			}
			if len(r.lost) != since {
				t.Errorf("at %d ms links were lost: %v", ms, r.lost[since:])
			}
		}
	})
}

// TestADeviceThatHangsGetsNothingMore, and what it does later is said to be late.
func TestADeviceThatHangsGetsNothingMore(t *testing.T) {
	on(t, func(r *rig) {
		for range 30 {
			r.ends(r.press("a1"), journal.Confirmed, "")
			r.ends(r.press("b1"), journal.Confirmed, "")
		}
		r.Switcher.Hang(true)
		began := time.Now()
		var sent, refused []string
		for at := 0; at <= 300; at += 50 {
			time.Sleep(time.Until(began.Add(time.Duration(at) * time.Millisecond)))
			if id := r.press("c1"); at < 250 {
				sent = append(sent, id)
			} else if at > 250 {
				refused = append(refused, id)
			}
		}
		time.Sleep(time.Until(began.Add(560 * time.Millisecond)))
		r.Switcher.Hang(false)
		time.Sleep(3 * time.Second)
		for _, id := range refused {
			if o, why := r.outcome(id); o != journal.Dropped || !strings.Contains(why, "had not answered for") {
				t.Errorf("pressed while it hung: %q, %q", o, why)
			}
		}
		if o, why := r.outcome(sent[0]); o != journal.Confirmed || !strings.Contains(why, "late") {
			t.Errorf("the first, which it carried out when it went on: %q, %q", o, why)
		}
		for _, g := range r.Switcher.Got() {
			if g.Command != 0 && g.At.After(began.Add(300*time.Millisecond)) && g.At.Before(began.Add(550*time.Millisecond)) {
				t.Errorf("%v after it hung it was written to: %v", g.At.Sub(began), g.Message)
			}
		}
		r.ends(r.press("a1"), journal.Confirmed, "")
	})
}
