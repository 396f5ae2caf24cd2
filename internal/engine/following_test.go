package engine_test

import (
	"testing"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
)

// ducks has music down while a microphone is open.
func (r *rig) ducks(id, channel string, by float64) {
	r.reflex(id, "", show.On{Kind: reflex.OnWhile}, func(x *show.Reflex) {
		x.When = "reading('sound-desk:channel/" + channel + "/mute') == false"
		x.Then = show.Call{Device: "sound-desk", Action: "level", Params: map[string]string{"channel": "5", "level": "-30"}}
		x.Hold = &show.Hold{By: by, OverMs: 200, AfterMs: 800, BackMs: 400}
	})
}

// level is where the music is, as it is told.
func (r *rig) music(want float64) {
	r.Helper()
	if got, _ := r.value("sound-desk:channel/5/level").(float64); got < want-0.1 || got > want+0.1 {
		r.Errorf("music is at %v dB, want %v", got, want)
	}
}

// silent has the microphones closed and music at a level.
func (r *rig) silent(level float64) {
	r.hand(r.Desk, "/channel/1/mute", 1)
	r.hand(r.Desk, "/channel/2/mute", 1)
	r.hand(r.Desk, "/channel/5/level", level)
	time.Sleep(time.Second)
}

// TestMusicDucksWhileAMicrophoneIsOpen and comes back a while after it has closed; opened again before that, it stays down.
func TestMusicDucksWhileAMicrophoneIsOpen(t *testing.T) {
	on(t, func(r *rig) {
		r.silent(-6)
		r.ducks("duck", "1", 12)
		r.hand(r.Desk, "/channel/1/mute", 0)
		time.Sleep(100 * time.Millisecond)
		if got := r.value("sound-desk:channel/5/level").(float64); got < -17 || got > -7 {
			r.Errorf("half way it is at %v", got)
		}
		time.Sleep(400 * time.Millisecond)
		r.music(-18)
		r.hand(r.Desk, "/channel/1/mute", 1)
		time.Sleep(600 * time.Millisecond)
		r.music(-18)
		r.hand(r.Desk, "/channel/1/mute", 0)
		time.Sleep(5 * time.Second)
		r.music(-18)
		r.hand(r.Desk, "/channel/1/mute", 1)
		time.Sleep(1000 * time.Millisecond) // on its way back
		r.hand(r.Desk, "/channel/1/mute", 0)
		time.Sleep(2 * time.Second)
		r.music(-18) // and not twice as far down
		r.hand(r.Desk, "/channel/1/mute", 1)
		time.Sleep(3 * time.Second)
		r.music(-6)
	})
}

// TestWhatAHandHasMovedStays, where the reflex would have given it back.
func TestWhatAHandHasMovedStays(t *testing.T) {
	on(t, func(r *rig) {
		r.silent(-6)
		r.ducks("duck", "1", 12)
		for _, at := range []time.Duration{100 * time.Millisecond, time.Second} { // during the fade, and after it
			r.hand(r.Desk, "/channel/1/mute", 0)
			time.Sleep(at)
			r.hand(r.Desk, "/channel/5/level", -40.0)
			time.Sleep(2 * time.Second)
			r.music(-40)
			r.hand(r.Desk, "/channel/1/mute", 1)
			time.Sleep(3 * time.Second)
			r.music(-40)
			r.hand(r.Desk, "/channel/5/level", -6.0)
		}
	})
}

// TestOfSeveralThatFollowTheLargestReductionHolds, and the original returns with the last.
func TestOfSeveralThatFollowTheLargestReductionHolds(t *testing.T) {
	on(t, func(r *rig) {
		r.silent(-6)
		r.ducks("a little", "1", 6)
		r.ducks("a lot", "2", 20)
		step := func(address string, mute int, want float64) {
			r.Helper()
			r.hand(r.Desk, address, mute)
			time.Sleep(3 * time.Second)
			r.music(want)
		}
		step("/channel/1/mute", 0, -12)
		step("/channel/2/mute", 0, -26)
		step("/channel/1/mute", 1, -26)
		step("/channel/1/mute", 0, -26)
		step("/channel/2/mute", 1, -12)
		step("/channel/1/mute", 1, -6)
	})
}

// TestWhatIsHeldIsGivenBack when its reflex is switched off, changed or taken away, after a restart, and once its device is there again.
func TestWhatIsHeldIsGivenBack(t *testing.T) {
	for name, end := range map[string]func(r *rig){
		"switched off": func(r *rig) { r.own("reflex", map[string]string{"reflex": "duck", "to": "off"}) },
		"all off":      func(r *rig) { r.own("reflexes", map[string]string{"to": "off"}) },
		"taken away":   func(r *rig) { r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Reflex("duck").Ref()) }) },
		"changed": func(r *rig) {
			r.Edit(func(d *show.Draft, s *show.Show) {
				c := *s.Reflex("duck")
				c.When = "reading('sound-desk:channel/2/mute') == false"
				d.Put(&c)
			})
		},
		"restarted": func(r *rig) {
			r.restart(r.live)
			time.Sleep(2 * time.Second)
			r.music(-18)
			r.hand(r.Desk, "/channel/1/mute", 1)
		},
		"the desk was away": func(r *rig) {
			r.Desk.Cut()
			time.Sleep(time.Second)
			r.hand(r.Desk, "/channel/1/mute", 1)
			_ = r.Desk.Open()
			r.until("the desk is back", func() bool { return r.links["sound-desk"].Phase == "up" })
		},
	} {
		t.Run(name, func(t *testing.T) {
			on(t, func(r *rig) {
				r.silent(-6)
				r.ducks("duck", "1", 12)
				r.hand(r.Desk, "/channel/1/mute", 0)
				time.Sleep(time.Second)
				r.music(-18)
				end(r)
				time.Sleep(5 * time.Second)
				r.music(-6)
			})
		})
	}
}

// TestOneThatFlapsIsBroken and gives back what it holds.
func TestOneThatFlapsIsBroken(t *testing.T) {
	on(t, func(r *rig) {
		r.silent(-6)
		r.ducks("duck", "1", 12)
		r.Edit(func(d *show.Draft, s *show.Show) {
			c := *s.Reflex("duck")
			c.Hold = &show.Hold{By: 12}
			d.Put(&c)
		})
		for i := range 60 {
			r.hand(r.Desk, "/channel/1/mute", i%2)
			time.Sleep(25 * time.Millisecond)
		}
		time.Sleep(3 * time.Second)
		r.settle()
		if st := r.reflexes["duck"]; st.On || st.Broken == "" || st.Holds || st.Count > reflex.BreakAfter+1 {
			t.Errorf("it stands at %+v", st)
		}
		r.music(-6)
	})
}
