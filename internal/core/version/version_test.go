package version

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
)

func key(id, name string, at ...show.Placement) *show.Mapping {
	return &show.Mapping{ID: id, Name: name, Placements: at}
}

func TestDifferencesAreToldInWords(t *testing.T) {
	cut, dome := &show.Page{ID: "cut", Name: "Cut"}, &show.Page{ID: "dome", Name: "Dome"}
	before := showtest.Of(cut, &show.Device{ID: "sw", Name: "Dome switcher", Host: "a"}, key("k1", "Logo", showtest.At("cut", "a1")), key("k2", "Caption", showtest.At("cut", "b1")),
		&show.Macro{ID: "m", Name: "Meteor!"}, &show.Step{ID: "s", Macro: "m", Kind: "wait", Ms: 4})
	after := showtest.Of(cut, dome, &show.Device{ID: "sw", Name: "Dome switcher", Host: "b", FrameRate: 50}, key("k1", "Logo", showtest.At("cut", "a2")),
		&show.Macro{ID: "m", Name: "Meteor!"}, &show.Step{ID: "s", Macro: "m", Kind: "wait", Ms: 8})
	var got []string
	for _, d := range Compare(before, after) {
		got = append(got, fmt.Sprint(d.What, " ", d.Kind, " ", d.Title, " ", d.Fields))
	}
	want := []string{"changed device Dome switcher [address frame rate]", "added page Dome []", "removed mapping Caption, b1 on Cut []", "changed mapping Logo, a2 on Cut [where it is]",
		"changed step wait in Meteor! [time]"}
	if !slices.Equal(got, want) {
		t.Errorf("told is\n%q, want\n%q", got, want)
	}
	if got := Compare(after, after); len(got) != 0 {
		t.Errorf("a state differs from itself: %v", got)
	}
}

func TestAWholeStateOrAPartOfItComesBack(t *testing.T) {
	cut, dome := &show.Page{ID: "cut", Name: "Cut"}, &show.Page{ID: "dome", Name: "Dome"}
	then := showtest.Of(cut, dome, key("k1", "Logo", showtest.At("cut", "a1"), showtest.At("dome", "a1")), key("k2", "Caption", showtest.At("cut", "b1")), &show.Macro{ID: "m", Name: "Meteor!"},
		&show.Step{ID: "s1", Macro: "m", Position: 0}, &show.Step{ID: "s2", Macro: "m", Position: 1})
	now := showtest.Of(&show.Page{ID: "cut", Name: "Cut 2"}, dome, key("k1", "Logo now", showtest.At("cut", "a1"), showtest.At("dome", "a1")), key("k3", "Count", showtest.At("cut", "c1"), showtest.At("dome", "c1")),
		key("k4", "Only on Dome", showtest.At("dome", "d1")), &show.Macro{ID: "m", Name: "Meteor?"}, &show.Step{ID: "s2", Macro: "m", Position: 0}, &show.Step{ID: "s3", Macro: "m", Position: 1})

	d := show.NewDraft(now)
	Whole(d, now, then)
	if got := d.Now(); string(got.Canonical()) != string(then.Canonical()) {
		t.Errorf("the whole is\n%s, want\n%s", got.Canonical(), then.Canonical())
	}

	d = show.NewDraft(now)
	if !Part(d, now, then, show.Ref{Kind: show.KindPage, ID: "cut"}) {
		t.Fatal("there is no such page")
	}
	got := d.Now()
	k3 := got.Mapping("k3")
	if got.Page("cut").Name != "Cut" || got.Mapping("k1").Name != "Logo" || got.Mapping("k2") == nil || k3 == nil || len(k3.Placements) != 1 || got.Mapping("k4") == nil || got.Macro("m").Name != "Meteor?" {
		t.Errorf("with its page the show is %s", got.Canonical())
	}

	d = show.NewDraft(now)
	Part(d, now, then, show.Ref{Kind: show.KindMacro, ID: "m"})
	got = d.Now()
	var steps []string
	for _, s := range got.StepsOf("m") {
		steps = append(steps, s.ID)
	}
	if got.Macro("m").Name != "Meteor!" || !slices.Equal(steps, []string{"s1", "s2"}) || got.Page("cut").Name != "Cut 2" {
		t.Errorf("with its macro the show is %s", got.Canonical())
	}
	// A page that comes back brings no key to another page that is gone.
	alone := showtest.Of(&show.Page{ID: "other", Name: "Other"})
	d = show.NewDraft(alone)
	Part(d, alone, then, show.Ref{Kind: show.KindPage, ID: "cut"})
	if k := d.Now().Mapping("k1"); k == nil || len(k.Placements) != 1 {
		t.Errorf("the key is %+v", k)
	}
	// A key comes back with its page where that is gone, a step with its macro.
	without := showtest.Of(dome)
	for _, r := range []show.Ref{{Kind: show.KindMapping, ID: "k2"}, {Kind: show.KindStep, ID: "s1"}} {
		if Part(show.NewDraft(without), without, then, r) {
			t.Errorf("%v comes back alone", r)
		}
	}
	for _, c := range Compare(then, without) {
		if want := c.Kind != show.KindMapping && c.Kind != show.KindStep; c.Alone != want {
			t.Errorf("%s %s alone: %v", c.Kind, c.Title, c.Alone)
		}
	}
	if Part(show.NewDraft(now), now, then, show.Ref{Kind: show.KindMacro, ID: "nobody"}) {
		t.Error("something that never was comes back")
	}
}

func TestWhatIsKeptThinsOutWithAge(t *testing.T) {
	now := time.Date(2026, 11, 26, 20, 0, 0, 0, time.UTC)
	var list []Kept
	for h := range 24 * 100 { // one an hour, for a hundred days
		list = append(list, Kept{ID: int64(h), At: now.Add(-time.Duration(h) * time.Hour), Named: h == 1000, Bytes: 10})
	}
	gone := Thin(list, now, 1<<30)
	left := len(list) - len(gone)
	if left < 24+29+9 || left > 26+31+13 {
		t.Errorf("%d are left", left)
	}
	if slices.Contains(gone, 1000) {
		t.Error("one with a name has gone")
	}
	for h := range int64(24) {
		if slices.Contains(gone, h) {
			t.Errorf("one of %d hours ago has gone", h)
		}
	}
	gone = Thin(list, now, 200)
	if left := len(list) - len(gone); left < 20 || left > 21 || slices.Contains(gone, 0) || slices.Contains(gone, 1000) {
		t.Errorf("in 200 bytes %d are left", left)
	}
	// What is left goes on to be left: thinning out again takes nothing more.
	first := Thin(list, now, 1<<30)
	list = slices.DeleteFunc(list, func(k Kept) bool { return slices.Contains(first, k.ID) })
	if again := Thin(list, now, 1<<30); len(again) != 0 {
		t.Errorf("again %d go", len(again))
	}
}
