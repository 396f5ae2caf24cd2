package parts

import (
	"fmt"
	"slices"
	"testing"

	"synaptor/internal/core/show"
)

// watchful is evening with reflexes, a timer and a controller that one of them listens to.
func watchful() *show.Show {
	s := evening()
	d := show.NewDraft(s)
	for _, e := range []show.Entity{
		&show.Controller{ID: "grid1", Name: "Producer grid", Slug: "producer-grid", Layout: "grid", Profile: "night"},
		&show.Timer{ID: "long", Name: "To the shower", Kind: "down", Seconds: 60},
		&show.Reflex{ID: "r1", Name: "Quiet under replay", Owner: "saskia", On: show.On{Kind: "reading", Device: "sw", Path: "mix/1/program"},
			When: "reading('synaptor:timer/long/running') == true and reading('synaptor:macro/meteor/running') == false", Then: does(self, "run", map[string]string{"macro": "meteor"})},
		&show.Reflex{ID: "r2", Name: "Dome light", Off: true, On: show.On{Kind: "gesture", Controller: "grid1", Control: "a1"}, Then: does(self, "reflex-on", map[string]string{"reflex": "r1", "timer": "long"})},
		&show.Reflex{ID: "r3", Name: "After all", On: show.On{Kind: "macro", Macro: "after"}, Unless: "reading('synaptor:page/cut/shown')", Then: does("desk", "mute", nil)},
		&show.Reflex{ID: "r4", Name: "Own", On: show.On{Kind: "reading", Device: self, Path: "macro/after/running"}, Then: does("desk", "mute", nil)},
	} {
		d.Put(e)
	}
	return d.Now()
}

func TestReflexesAreTakenWithWhatTheyStartAndWaitFor(t *testing.T) {
	now, n := studio(), 0
	d := show.NewDraft(now)
	d.Put(&show.Reflex{ID: "mine", Name: "quiet under replay", Position: 3, On: show.On{Kind: "start"}, Then: does(self, "safe", nil)})
	d.Put(&show.Controller{ID: "here", Name: "Grid", Slug: "grid", Layout: "grid", Profile: "main"})
	now = d.Now()
	take := func(w Wish) (*show.Show, []string) {
		d := show.NewDraft(now)
		list, err := Take(d, now, watchful(), w, layouts, func() string { n++; return fmt.Sprint("new", n) })
		if err != nil {
			t.Fatal(err)
		}
		var rows []string
		for _, r := range list {
			rows = append(rows, fmt.Sprint(r.Title, " ", r.What, " ", r.As, "; ", r.Note))
		}
		return d.Now(), rows
	}
	s, rows := take(Wish{Reflexes: []string{"r1", "r2", "r3", "r4"}, Pages: []string{"cut"}, Owner: "mila", Devices: map[string]string{"sw": "studio"}, Controllers: map[string]string{"grid1": "here"}, InPlace: []string{"cut"}})
	for _, want := range []string{"Quiet under replay beside Quiet under replay 2; fires by itself from then on", "Dome light new Dome light; ", "To the shower comes along To the shower; ", "Meteor! comes along Meteor!; ",
		"Producer grid stands in Grid; "} {
		if !slices.Contains(rows, want) {
			t.Errorf("told is %q, without %q", rows, want)
		}
	}
	by := map[string]*show.Reflex{}
	for _, r := range s.Reflexes() {
		by[r.Name] = r
	}
	ids := map[string]string{"timer": s.Timers()[0].ID}
	for _, m := range s.Macros() {
		ids[m.Name] = m.ID
	}
	quiet, dome, after, own := by["Quiet under replay 2"], by["Dome light"], by["After all"], by["Own"]
	if len(by) != 5 || by["quiet under replay"].Then.Action != "safe" {
		t.Fatalf("there are %+v", by)
	}
	when := "reading('synaptor:timer/" + ids["timer"] + "/running') == true and reading('synaptor:macro/" + ids["Meteor!"] + "/running') == false"
	if quiet.Owner != "mila" || quiet.On.Device != "studio" || quiet.When != when || quiet.Then.Params["macro"] != ids["Meteor!"] {
		t.Errorf("%+v", quiet)
	}
	if dome.On.Controller != "here" || dome.Then.Params["reflex"] != quiet.ID || dome.Then.Params["timer"] != ids["timer"] || !dome.Off {
		t.Errorf("%+v", dome)
	}
	if after.On.Macro != ids["After"] || after.Unless != "reading('synaptor:page/p/shown')" || own.On.Path != "macro/"+ids["After"]+"/running" {
		t.Errorf("%+v, %+v", after, own)
	}
	s, _ = take(Wish{Reflexes: []string{"r1"}, InPlace: []string{"r1"}})
	if all := s.Reflexes(); len(all) != 1 || all[0].ID != "mine" || all[0].Position != 3 || all[0].On.Device != "sw" || s.Device("sw") == nil {
		t.Errorf("in place there are %+v", all)
	}
	// A timer of the same name stands in; the controller that it listens to comes along.
	d = show.NewDraft(now)
	d.Put(&show.Timer{ID: "short", Name: "to the shower", Kind: "up"})
	now = d.Now()
	if s, _ = take(Wish{Reflexes: []string{"r2"}}); len(s.Timers()) != 1 || s.Reflexes()[0].Then.Params["timer"] != "short" || s.ControllerBySlug("producer-grid") == nil {
		t.Errorf("the timers are %+v", s.Timers())
	}
	if _, err := Take(show.NewDraft(now), now, watchful(), Wish{Reflexes: []string{"nobody"}}, layouts, nil); err == nil {
		t.Error("a reflex that is not there is taken")
	}
}
