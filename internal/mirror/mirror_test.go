package mirror_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/feed"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/mirror"
)

// rig is an engine with a mirror, and what the mirror has had stored.
type rig struct {
	*enginetest.Rig
	*mirror.Mirror
	hub   *feed.Hub
	lived []engine.LiveState
}

func on(t *testing.T, f func(r *rig)) {
	t.Helper()
	enginetest.On(t, func(t *testing.T, base *enginetest.Rig) {
		r := &rig{Rig: base, hub: feed.NewHub()}
		var err error
		r.Mirror, err = mirror.New(base.Program, mirror.Config{Changes: base.Changes(), Sync: base.Sync, Journal: base, Hub: r.hub,
			KeepLive: func(l engine.LiveState) { r.lived = append(r.lived, l) }})
		if err != nil {
			t.Fatal(err)
		}
		defer r.Mirror.Close()
		r.until("the devices are there", func(v *mirror.View) bool {
			return v.Link("dome-switcher").Phase == link.Up && v.Link("sound-desk").Phase == link.Up
		})
		f(r)
	})
}

func (r *rig) until(what string, holds func(v *mirror.View) bool) {
	r.Helper()
	for range 6000 {
		r.Settle()
		if holds(r.View()) {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	r.Fatalf("within a minute it was not so that %s", what)
}

func (r *rig) press(control string) {
	for _, edge := range []input.Edge{input.Down, input.Up} {
		r.Input(engine.Input{Entry: journal.NextID(), At: time.Now(), Controller: "producer-grid", Control: control, Edge: edge, Link: "hand", Via: "panel", Actor: "Tobin"})
	}
	r.Settle()
}

var programPicture = reading.Key{Device: "dome-switcher", Path: "mix/1/program"}

func TestAViewThatWasHandedOutNeverChanges(t *testing.T) {
	on(t, func(r *rig) {
		before := r.View()
		was, paths := before.Reading(programPicture).Value, len(before.Paths("dome-switcher"))
		r.press("b1")
		r.until("the picture is another one", func(v *mirror.View) bool { return v.Reading(programPicture).Value == "2" })
		r.Edit(func(d *show.Draft, s *show.Show) { d.Delete(s.Device("dome-switcher").Ref()) })
		r.until("the device is gone", func(v *mirror.View) bool { return len(v.Paths("dome-switcher")) == 0 })
		if before.Reading(programPicture).Value != was || len(before.Paths("dome-switcher")) != paths || before.Link("dome-switcher").Phase != link.Up {
			t.Errorf("the view from before has %v, %d readings, %v", before.Reading(programPicture), len(before.Paths("dome-switcher")), before.Link("dome-switcher"))
		}
		if f, ok := before.FaceIn(before.Program.Mappings["cut-a1"], "rest"); !ok || f.Label != "Presenter cam" {
			t.Errorf("a face of before: %+v", f)
		}
	})
}

func TestAViewIsAsGoodAsWhatWasHandedToTheEngineBefore(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "a1").Clone()
			m.Name = "Imke"
			d.Put(m)
		})
		if got := r.Current().Program.Mappings["cut-a1"].Source.Name; got != "Imke" {
			t.Errorf("right after an edit the mapping is called %q", got)
		}
	})
}

func TestARehearsalEndsWithItsContext(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, _ *show.Show) {
			d.Put(&show.Macro{ID: "m", Name: "Long"})
			for i := range 1900 {
				d.Put(&show.Step{ID: "s" + string(rune('a'+i%26)) + time.Duration(i).String(), Macro: "m", Position: i, Kind: macro.Do,
					Action: &show.Call{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": "1"}}})
			}
		})
		v := r.Current()
		ctx, cancel := context.WithCancel(context.Background())
		if out, err := v.Rehearse(ctx, "m", 0); err != nil || len(out.Steps) != 1900 {
			t.Fatalf("%v", err)
		}
		cancel()
		if _, err := v.Rehearse(ctx, "m", 0); !errors.Is(err, context.Canceled) {
			t.Errorf("a rehearsal nobody waits for ended with %v", err)
		}
		if _, err := v.Findings(ctx, v.Program.Macros["m"]); !errors.Is(err, context.Canceled) {
			t.Errorf("findings nobody waits for ended with %v", err)
		}
	})
}

// faces gives the face of a mapping as live clients have it.
func (r *rig) face(c *feed.Client, id string) (raw string) {
	r.Settle()
	return string(r.hub.Follow(c, []string{"page:cut", "page:home", "standing:meteor-night", "findings"}).Values["face/"+id])
}

func TestARefusalStaysThreeSecondsAfterTheFingerHasLeft(t *testing.T) {
	on(t, func(r *rig) {
		c := r.hub.Join()
		if err := r.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		time.Sleep(time.Second)
		r.press("b1")
		if raw := r.face(c, "cut-b1"); !strings.Contains(raw, "Nothing was sent") {
			t.Errorf("right after the press: %s", raw)
		}
		time.Sleep(2900 * time.Millisecond)
		if raw := r.face(c, "cut-b1"); !strings.Contains(raw, "Nothing was sent") {
			t.Errorf("after 2.9 s: %s", raw)
		}
		time.Sleep(300 * time.Millisecond)
		if raw := r.face(c, "cut-b1"); strings.Contains(raw, "Nothing was sent") {
			t.Errorf("after 3.2 s: %s", raw)
		}
	})
}

func TestAKeyShowsTheRunOfItsMacroAndForAMomentHowItEnded(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			d.Put(&show.Macro{ID: "m", Name: "Slow"})
			d.Put(&show.Step{ID: "w", Macro: "m", Position: 1, Kind: macro.Wait, Ms: 4000})
			m := s.MappingAt("cut", "a3").Clone()
			m.Responses[0].Action = show.Call{Device: "synaptor", Action: "run", Params: map[string]string{"macro": "m"}}
			d.Put(m)
		})
		c := r.hub.Join()
		r.press("a3")
		for _, at := range []struct {
			after time.Duration
			shows string
		}{{time.Second, `"state":"running"`}, {3100 * time.Millisecond, `"state":"done"`}, {2800 * time.Millisecond, `"state":"done"`}, {time.Second, ""}} {
			time.Sleep(at.after)
			raw := r.face(c, "cut-a3")
			if at.shows == "" && strings.Contains(raw, `"run"`) || !strings.Contains(raw, at.shows) {
				t.Errorf("%v later: %s", at.after, raw)
			}
		}
	})
}

func TestAStateThatIsTriedOutEndsByItself(t *testing.T) {
	on(t, func(r *rig) {
		c := r.hub.Join()
		if !r.Force("cut-a1", "away", time.Now().Add(2*time.Second)) || r.Force("cut-a1", "lamp-9", time.Now()) || r.Force("nobody", "away", time.Now()) {
			t.Error("which states there are is not known")
		}
		if raw := r.face(c, "cut-a1"); !strings.Contains(raw, `"forced":true`) {
			t.Errorf("tried out: %s", raw)
		}
		time.Sleep(2200 * time.Millisecond)
		if raw := r.face(c, "cut-a1"); strings.Contains(raw, "forced") {
			t.Errorf("after its time: %s", raw)
		}
	})
}

func TestFindingsFollowTheLinksOfTheDevicesThatAMacroNeeds(t *testing.T) {
	on(t, func(r *rig) {
		away := func(v *mirror.View) bool {
			list, err := v.Findings(context.Background(), v.Program.Macros["corner-camera"])
			return err == nil && slices.ContainsFunc(list, func(f macro.Finding) bool { return strings.Contains(f.Text, "Dome switcher is away") })
		}
		if away(r.View()) {
			t.Error("the switcher is away")
		}
		if err := r.Switcher.SetFaults(faults.Faults{Cut: true}); err != nil {
			t.Fatal(err)
		}
		r.until("its macros say so", away)
		c, stops := r.hub.Join(), ""
		r.until("the count says so too", func(*mirror.View) bool {
			stops = string(r.hub.Follow(c, []string{"findings"}).Values["findings"])
			return strings.Contains(stops, `"corner-camera"`)
		})
	})
}

func TestWhatLivesIsHandedOutToBeStoredAsItWas(t *testing.T) {
	on(t, func(r *rig) {
		r.Ask(engine.ShowPage{Request: engine.Request{Entry: "page", At: time.Now()}, Controller: "producer-grid", Page: "sound"})
		time.Sleep(time.Second)
		r.Settle()
		n := len(r.lived)
		if n == 0 || !slices.ContainsFunc(r.lived[n-1].Zones, func(z engine.KeptZone) bool { return z.Controller == "producer-grid" && z.Pages.Current == "sound" }) {
			t.Fatalf("stored %+v", r.lived)
		}
		kept := slices.Clone(r.lived[n-1].Zones)
		r.Ask(engine.ShowPage{Request: engine.Request{Entry: "back", At: time.Now()}, Controller: "producer-grid", Page: "cut"})
		time.Sleep(time.Second)
		synctest.Wait()
		for i, z := range kept {
			if z.Pages.Current != r.lived[n-1].Zones[i].Pages.Current {
				t.Error("what was handed out changed afterwards")
			}
		}
	})
}

func TestALongTextOfADeviceIsCutOnItsFace(t *testing.T) {
	on(t, func(r *rig) {
		r.Edit(func(d *show.Draft, s *show.Show) {
			m := s.MappingAt("cut", "a1").Clone()
			m.Face.Label = "{name('dome-switcher:input/1')}"
			d.Put(m)
		})
		_ = r.Switcher.Operate(device.Message{Address: "/input/1/name", Args: []any{strings.Repeat("x", 80)}})
		r.Settle()
		if f, _ := r.View().FaceIn(r.View().Program.Mappings["cut-a1"], "rest"); len(f.Lines) > 3 || len([]rune(f.Label)) > face.MaxLabel+1 {
			t.Errorf("%d lines, %d characters", len(f.Lines), len(f.Label))
		}
	})
}

func TestAFaceThatFailsInsideLeavesTheOthersAsTheyAre(t *testing.T) {
	on(t, func(r *rig) {
		c := r.hub.Join()
		r.face(c, "cut-a1")
		r.Sabotage(func(ev journal.Event) bool {
			return ev.Stage == journal.StageFace && strings.HasPrefix(ev.Text, "Telescope feed")
		})
		r.press("b1")
		r.until("the picture is another one", func(v *mirror.View) bool { return v.Reading(programPicture).Value == "2" })
		if r.Incidents() == 0 {
			t.Error("nothing was noted")
		}
		if raw := r.face(c, "cut-a1"); strings.Contains(raw, `"on":["on-air"]`) {
			t.Errorf("the face beside it: %s", raw)
		}
		r.Sabotage(func(journal.Event) bool { return false })
		r.press("c1")
		r.until("the mirror goes on", func(v *mirror.View) bool { return v.Reading(programPicture).Value == "3" })
		if raw := r.face(c, "cut-c1"); !strings.Contains(raw, `"on":["on-air"]`) {
			t.Errorf("the next face: %s", raw)
		}
	})
}
