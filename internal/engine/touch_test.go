package engine_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
)

// channel is an action of the sound desk.
func channel(action, n string) show.Call {
	return show.Call{Device: "sound-desk", Action: action, Params: map[string]string{"channel": n}}
}

// key gives the key c1 of the page Cut what it responds to, by gesture.
func (r *rig) key(guard *show.Guard, responses map[string]show.Call) {
	r.Edit(func(d *show.Draft, s *show.Show) {
		m := s.MappingAt("cut", "c1").Clone()
		m.Guard, m.Responses = guard, nil
		for _, g := range input.Gestures {
			if c, ok := responses[g]; ok {
				m.Responses = append(m.Responses, show.Response{Gesture: g, Action: c})
			}
		}
		d.Put(m)
	})
}

// held presses the key for a time.
func (r *rig) hold(control string, d time.Duration) string {
	id := r.touch("producer-grid", control, input.Down, 0)
	time.Sleep(d)
	r.touch("producer-grid", control, input.Up, 0)
	return id
}

const tap = 50 * time.Millisecond

// desk lists what reached the sound desk since a time, without questions.
func (r *rig) desk(since time.Time) (out []string) {
	r.settle()
	for _, m := range got(r.Desk, since) {
		if strings.Contains(m, "mute ") {
			out = append(out, m)
		}
	}
	return out
}

func (r *rig) wants(what string, since time.Time, want ...string) {
	r.Helper()
	time.Sleep(100 * time.Millisecond)
	if g := r.desk(since); !slices.Equal(g, want) {
		r.Errorf("%s: the desk got %q, want %q", what, g, want)
	}
}

const (
	opens5, mutes5 = "/channel/5/mute 0", "/channel/5/mute 1"
	opens6, mutes6 = "/channel/6/mute 0", "/channel/6/mute 1"
)

func TestAGuardThatIsHeldDoesNotFireByTheNetwork(t *testing.T) {
	on(t, func(r *rig) {
		r.key(&show.Guard{Kind: input.GuardHold, Ms: 1000}, map[string]show.Call{input.Press: channel("mute", "5"), input.Repeat: channel("mute", "6")})
		since := time.Now()
		for _, gesture := range []string{input.Press, input.Double, input.Repeat} {
			id := r.fromNetwork("producer-grid", "c1", gesture, 0)
			r.ends(id, journal.Refused, "")
		}
		r.ends(r.fromNetwork("producer-grid", "c1", input.Press, 0), journal.Refused, "Send down, and up after")
		time.Sleep(5 * time.Second)
		r.wants("a press of the network", since)
		down := r.edge(input.Down)
		time.Sleep(1050 * time.Millisecond)
		r.edge(input.Up)
		r.ends(down, journal.Confirmed, "")
		steps := 0
		for _, ev := range r.Events() {
			if ev.Entry == down && ev.Stage == journal.StageInput {
				steps++
			}
		}
		if steps != 1 {
			t.Errorf("the entry has %d inputs", steps)
		}
		r.wants("down and up", since, mutes5)
	})
}

// edge is an edge of the key from the network.
func (r *rig) edge(edge input.Edge) string {
	id := journal.NextID()
	r.Input(engine.Input{Entry: id, At: time.Now(), Controller: "producer-grid", Control: "c1", Edge: edge, Link: "http Program at 10.4.0.9", Via: "http",
		Actor: "Program at 10.4.0.9", Announced: true, Lease: edge == input.Down})
	r.settle()
	return id
}

func TestWhatTheNetworkHoldsIsLetGoUnlessItIsRenewed(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: channel("open", "5"), input.Release: channel("mute", "5")})
		since := time.Now()
		r.edge(input.Down)
		time.Sleep(8 * time.Second)
		renewed := r.edge(input.Down)
		r.ends(renewed, journal.Sent, "")
		time.Sleep(8 * time.Second)
		r.wants("renewed", since, opens5)
		time.Sleep(3 * time.Second)
		r.wants("not renewed", since, opens5, mutes5)
		r.ends(r.edge(input.Up), journal.Sent, "")
		r.wants("let go once", since, opens5, mutes5)
	})
}

func TestAPressOfTheNetworkImpliesItsRelease(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: channel("open", "5"), input.Hold: channel("open", "6"), input.Release: channel("mute", "5")})
		since := time.Now()
		r.ends(r.fromNetwork("producer-grid", "c1", input.Press, 0), journal.Confirmed, "")
		r.wants("a press", since, opens5, mutes5)
		since = time.Now()
		r.ends(r.fromNetwork("producer-grid", "c1", input.Release, 0), journal.Refused, "hold nothing")
		r.ends(r.fromNetwork("producer-grid", "c1", input.Hold, 0), journal.Confirmed, "")
		r.wants("a hold", since, opens6)
		r.ends(r.fromNetwork("producer-grid", "c1", input.Release, 0), journal.Confirmed, "")
		r.wants("its end", since, opens6, mutes5)
	})
}

func TestAGuardGuardsEveryResponse(t *testing.T) {
	on(t, func(r *rig) {
		all := map[string]show.Call{input.Press: channel("open", "5"), input.Repeat: channel("open", "6"), input.Release: channel("mute", "5")}
		r.key(&show.Guard{Kind: input.GuardTwice, Ms: 3000}, all)
		since := time.Now()
		r.hold("c1", 900*time.Millisecond)
		r.wants("the press that arms", since)
		r.hold("c1", 450*time.Millisecond)
		r.wants("the one that fires", since, opens5, opens6, mutes5)
		all[input.Hold] = channel("mute", "6")
		delete(all, input.Repeat)
		r.key(&show.Guard{Kind: input.GuardTwice, Ms: 3000}, all)
		since = time.Now()
		r.hold("c1", tap)
		r.hold("c1", 700*time.Millisecond)
		r.wants("armed by a press, then held", since)
		r.hold("c1", 700*time.Millisecond)
		r.wants("held again", since, mutes6, mutes5)
	})
}

// TestTheGuardOfALinkedKeyFillsForTheHandThatHoldsIt: another hand that lets go of the same mapping
// elsewhere does not end it.
func TestTheGuardOfALinkedKeyFillsForTheHandThatHoldsIt(t *testing.T) {
	on(t, func(r *rig) {
		r.key(&show.Guard{Kind: input.GuardHold, Ms: 1000}, map[string]show.Call{input.Press: channel("open", "5")})
		r.Edit(func(d *show.Draft, s *show.Show) {
			d.Delete(s.MappingAt("cut", "d1").Ref())
			m := s.MappingAt("cut", "c1").Clone()
			m.Placements = append(m.Placements, show.Placement{Page: "cut", Control: "d1"})
			d.Put(m)
		})
		since := time.Now()
		r.touch("producer-grid", "c1", input.Down, 0)
		time.Sleep(200 * time.Millisecond)
		r.touch("producer-grid", "d1", input.Down, 0)
		time.Sleep(200 * time.Millisecond)
		r.touch("producer-grid", "c1", input.Up, 0)
		time.Sleep(1000 * time.Millisecond)
		r.wants("the second hand holds on", since, opens5)
		r.touch("producer-grid", "d1", input.Up, 0)
	})
}

func TestATurnIsGuardedAsOneTouch(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("faders", "dial1").Clone()
			m.Guard = &show.Guard{Kind: input.GuardTwice, Ms: 3000}
			d.Put(m)
		})
		turn := func(n int) (ids []string) {
			for range n {
				ids = append(ids, r.touch("scope-console", "dial1", input.Turns, 1))
				time.Sleep(50 * time.Millisecond)
			}
			return ids
		}
		was := r.value("sound-desk:channel/1/level")
		armed := turn(10)
		r.is("sound-desk:channel/1/level", was)
		if o, why := r.outcome(armed[0]); o != journal.Guarded || !strings.Contains(why, "again") {
			t.Errorf("the turn that arms is %q, %q", o, why)
		}
		time.Sleep(600 * time.Millisecond)
		turn(10)
		time.Sleep(time.Second)
		if now := r.value("sound-desk:channel/1/level"); now == was {
			t.Error("the second turn is not let through")
		}
	})
}

func TestTheTapThatLiftsACoverIsNoTapOfTalk(t *testing.T) {
	on(t, func(r *rig) {
		r.key(&show.Guard{Kind: input.GuardCover, Ms: 3000}, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		since := time.Now()
		r.hold("c1", tap)
		r.wants("the tap that lifts", since)
		r.hold("c1", tap)
		r.wants("the tap that opens", since, opens5)
		r.hold("c1", tap)
		r.wants("the tap that closes", since, opens5, mutes5)
	})
}

func TestAReleaseFollowsItsPressWhateverWaits(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: channel("open", "5"), input.Release: channel("mute", "5"), input.Double: channel("open", "6")})
		since := time.Now()
		r.hold("c1", tap)
		time.Sleep(500 * time.Millisecond)
		r.wants("a tap", since, opens5, mutes5)
	})
}

func TestAReleaseOfARefusedPressDoesNothing(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Press: {Device: "dome-switcher", Action: "cut"}, input.Release: channel("mute", "5")})
		r.Change("dome-switcher", func(d *show.Device) { d.Parked = true })
		since := time.Now()
		r.ends(r.hold("c1", tap), journal.Refused, "parked")
		r.wants("a press that was refused", since)
	})
}

// TestWhatATalkHasOpenedIsWhatItCloses, by the control that opened it, whatever happened meanwhile.
func TestWhatATalkHasOpenedIsWhatItCloses(t *testing.T) {
	for name, meanwhile := range map[string]func(r *rig){
		"nothing": func(*rig) {},
		"another page": func(r *rig) {
			r.Ask(engine.ShowPage{Request: r.request("page"), Controller: "producer-grid", Page: "sound"})
			r.settle()
		},
		"an edit":          func(r *rig) { r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "6")}) },
		"a press instead":  func(r *rig) { r.key(nil, map[string]show.Call{input.Press: channel("open", "6")}) },
		"its key is gone":  func(r *rig) { r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.MappingAt("cut", "c1").Ref()) }) },
		"the panel's link": func(r *rig) { r.ReleaseAll("hand"); r.settle() },
		"another profile": func(r *rig) {
			r.Ask(engine.UseProfile{Request: r.request("profile"), Controller: "producer-grid", Profile: "sound-check"})
			r.settle()
		},
		"the device's link": func(r *rig) {
			for _, cut := range []bool{true, false} {
				if err := r.Desk.SetFaults(faults.Faults{Cut: cut}); err != nil {
					r.Fatal(err)
				}
				time.Sleep(3 * time.Second)
			}
		},
	} {
		t.Run(name, func(t *testing.T) {
			on(t, func(r *rig) {
				r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
				since := time.Now()
				r.hold("c1", tap)
				r.wants("a tap", since, opens5)
				if meanwhile(r); r.open["c1"].Title != "Open Music" {
					t.Errorf("clients are told that there is open: %+v", r.open)
				}
				since = time.Now()
				r.hold("c1", tap)
				if r.wants("the tap that closes", since, mutes5); len(r.open) != 0 {
					t.Errorf("clients are still told that there is open: %+v", r.open)
				}
			})
		})
	}
}

// TestWhatIsPressedAfterALinkHasLetGoIsHeld, also where the engine was busy meanwhile: hardware lets go of everything when it is attached, and a hand may be
// on it at once.
func TestWhatIsPressedAfterALinkHasLetGoIsHeld(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		since := time.Now()
		free := r.Occupy()
		r.ReleaseAll("hand")
		r.Input(engine.Input{Entry: journal.NextID(), At: time.Now(), Controller: "producer-grid", Control: "c1", Edge: input.Down, Link: "hand", Via: "panel", Actor: "Tobin"})
		free()
		r.settle()
		r.wants("a touch after that", since, opens5)
		r.ReleaseAll("hand")
		r.settle()
		r.wants("and letting go after it", since, opens5, mutes5)
	})
}

func TestATalkThatSomebodyElseHasClosedIsOpenedByTheNextTap(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		r.hold("c1", tap)
		r.hand(r.Desk, "/channel/5/mute", 1)
		since := time.Now()
		r.hold("c1", tap)
		r.wants("the next tap", since, opens5)
	})
}

func TestASecondTalkOfTheNetworkEndsTheFirst(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		since := time.Now()
		for range 2 {
			r.ends(r.fromNetwork("producer-grid", "c1", input.Talk, 0), journal.Confirmed, "")
		}
		r.wants("two of them", since, opens5, mutes5)
	})
}

// TestAHoldOfTheNetworkDoesNotTakeWhatIsOpen: the line would be open, and no tap would close it.
func TestAHoldOfTheNetworkDoesNotTakeWhatIsOpen(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, talks())
		since := time.Now()
		r.hold("c1", tap)
		r.key(nil, map[string]show.Call{input.Hold: channel("open", "6"), input.Release: channel("mute", "6")})
		r.ends(r.fromNetwork("producer-grid", "c1", input.Hold, 0), journal.Refused, "is open")
		r.hold("c1", tap)
		r.wants("the tap that closes", since, opens5, mutes5)
	})
}

func TestATalkWhoseControllerIsTakenAwayIsClosed(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		since := time.Now()
		r.hold("c1", tap)
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Controller("producer-grid").Ref()) })
		r.wants("its controller is gone", since, opens5, mutes5)
	})
}

func TestATalkThatIsOpenWhenSynaptorEndsIsOffered(t *testing.T) {
	on(t, func(r *rig) {
		r.key(nil, map[string]show.Call{input.Talk: channel("mute-toggle", "5")})
		id := r.hold("c1", tap)
		kept := r.kept()
		if len(kept) != 1 || kept[0].Entry != id {
			t.Fatalf("kept: %+v", kept)
		}
		r.restart(engine.LiveState{Runs: kept})
		if len(r.left) != 1 || r.left[0].Entry != id {
			t.Fatalf("offered: %+v", r.left)
		}
		since := time.Now()
		if err := r.PutBack(id, engine.Input{Entry: "back", At: time.Now()}); err != nil {
			t.Fatal(err)
		}
		r.wants("it is put back", since, mutes5)
		r.hold("c1", tap)
		r.hold("c1", tap)
		if kept := r.kept(); len(kept) != 0 {
			t.Errorf("after it was closed there is kept %+v", kept)
		}
	})
}

// kept lists what is to be offered after a restart.
func (r *rig) kept() (out []engine.KeptRun) {
	r.settle()
	for _, k := range r.runsKept {
		if len(k.Changed) > 0 {
			out = append(out, k)
		}
	}
	return out
}
