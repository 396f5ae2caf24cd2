package preflight

import (
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/reach"
	"synaptor/internal/core/show"
)

// TestFindingsOfLinks: a device as it answers, and what is found of it.
func TestFindingsOfLinks(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Device)
		want   string // severity, id and part
	}{
		"all is well":               {func(*Device) {}, ""},
		"away, and used":            {func(d *Device) { d.Down = "refused" }, "stops device-offline "},
		"away, and used by nothing": {func(d *Device) { d.Down, d.Used = "refused", 0 }, "caution device-offline "},
		"parked":                    {func(d *Device) { d.Down, d.Device = "refused", &show.Device{ID: "d", Parked: true} }, ""},
		"not known yet":             {func(d *Device) { d.Down, d.Live = "refused", false }, ""},
		"it keeps something back":   {func(d *Device) { d.Mute = "Model" }, "caution device-unanswered Model"},
		"no password":               {func(d *Device) { d.Password = true }, "caution secret-missing "},
		"a password":                {func(d *Device) { d.Password, d.Device = true, &show.Device{ID: "d", Secret: "s"} }, ""},
		"everybody's password":      {func(d *Device) { d.Factory = true }, "caution secret-missing factory"},
		"slow":                      {func(d *Device) { d.Median, d.P95 = 180*time.Millisecond, 200*time.Millisecond }, "caution link-slow "},
		"now and then":              {func(d *Device) { d.P95 = 150 * time.Millisecond }, "caution link-jittery "},
		"heard of too little":       {func(d *Device) { d.Median, d.P95, d.Count = time.Second, 2*time.Second, 2 }, ""},
	} {
		d := Device{Device: &show.Device{ID: "d", Name: "Dome switcher"}, Used: 3, Live: true, Median: 5 * time.Millisecond, P95: 9 * time.Millisecond, Count: 50}
		c.change(&d)
		var got []string
		for _, f := range Links([]Device{d}) {
			if f.Sure != Measured || !strings.HasSuffix(f.Text, ".") {
				t.Errorf("%s: %+v", name, f)
			}
			got = append(got, f.Severity+" "+f.ID+" "+f.At)
		}
		if strings.Join(got, "; ") != c.want {
			t.Errorf("%s: found is %q, want %q", name, got, c.want)
		}
	}
}

func TestSignInsThatEndInTheNightAreFound(t *testing.T) {
	now := time.Date(2026, 8, 12, 20, 0, 0, 0, time.UTC)
	found := SignIns([]SignIn{{"Late", now.Add(9 * time.Hour)}, {"Tablet", now.Add(3 * time.Hour)}, {"Gone", now.Add(-time.Hour)}}, now)
	if len(found) != 1 || found[0].At != "Tablet" || !strings.Contains(found[0].Text, "23:00") || found[0].Sure != Guessed {
		t.Errorf("found is %+v", found)
	}
}

// grid is a layout of three keys by two.
var grid = (&device.ControllerSheet{Grid: &device.Grid{Columns: 3, Rows: 2}, Zone: "keys"}).Controls()

// keyOn is a key on a control, risky or not.
func keyOn(control string, risky bool) (Key, device.Control) {
	m := &show.Mapping{ID: control, Name: "Key " + control, Placements: []show.Placement{{Page: "p", Control: control}}}
	i := slices.IndexFunc(grid, func(c device.Control) bool { return c.ID == control })
	return Key{Mapping: m, Name: m.Name, Does: []Does{{Gesture: input.Press, Risky: risky, Title: m.Name}}}, grid[i]
}

// TestRisksBesideWhatIsUsedOften: side by side and corner to corner, not two away, and not where it is used more itself.
func TestRisksBesideWhatIsUsedOften(t *testing.T) {
	called := func(control string) string { return control }
	for name, c := range map[string]struct {
		at    string
		risky bool
		used  map[string]int
		free  []string
		want  string // the finding, and its fix
	}{
		"beside":            {"b1", true, map[string]int{"a1": 40}, nil, "a1"},
		"corner to corner":  {"b2", true, map[string]int{"a1": 40}, nil, "a1"},
		"two away":          {"c1", true, map[string]int{"a1": 40}, nil, ""},
		"nothing risky":     {"b1", false, map[string]int{"a1": 40}, nil, ""},
		"seldom":            {"b1", true, map[string]int{"a1": 4}, nil, ""},
		"itself more often": {"b1", true, map[string]int{"a1": 40, "b1": 90}, nil, ""},
		"room elsewhere":    {"b1", true, map[string]int{"a1": 40}, []string{"b2", "c2"}, "a1, to c2"},
	} {
		k, control := keyOn(c.at, c.risky)
		r := Risk{Key: k, Control: control, Page: &show.Page{ID: "p"}, Free: c.free}
		got := ""
		for _, f := range r.Beside(c.used, grid, called) {
			got = strings.TrimSuffix(strings.SplitAfter(strings.SplitAfter(f.Text, "beside ")[1], ",")[0], ",")
			if f.Fix != nil {
				got += ", to " + f.Fix.Title[len(f.Fix.Title)-2:]
			}
		}
		if got != c.want {
			t.Errorf("%s: found is %q, want %q", name, got, c.want)
		}
	}
}

// TestPlacementAdviceSaysWhatItGains: what is used often and far away goes to a free control of the first page; what is risky stays.
func TestPlacementAdviceSaysWhatItGains(t *testing.T) {
	used := func(control string, presses, count int, risky bool) Used {
		k, c := keyOn(control, risky)
		return Used{Key: k, Page: &show.Page{ID: "p", Name: "Far"}, Control: c, Presses: presses, Count: count}
	}
	z := Zone{Map: reach.Map{Home: "home", Pages: []reach.Page{{ID: "home", Name: "Home"}, {ID: "p", Name: "Far", Presses: 2}}}, Free: func(string) []string { return []string{"c1", "c2"} }}
	z.Pages[0].Presses = 0
	list := Placement(z, []Used{used("a1", 2, 50, false), used("b1", 2, 90, true), used("a2", 1, 30, false), used("b2", 1, 3, false), used("c2", 0, 100, false)})
	if len(list) != 2 || list[0].Subject.ID != "a1" || list[0].Gain != 100 || list[1].Subject.ID != "a2" || list[1].Gain != 30 {
		t.Fatalf("advised is %+v", list)
	}
	if a := list[0]; a.MeanAfter >= a.MeanBefore || a.Fix == nil || !strings.Contains(a.Text, "On c1 there it would have saved 100 presses.") {
		t.Errorf("it says %+v", a)
	}
	d := show.NewDraft(show.Empty())
	d.Put(&show.Page{ID: "home"})
	d.Put(&show.Page{ID: "p"})
	d.Put(list[0].moved())
	moved := show.NewDraft(d.Now())
	if err := list[0].Fix.Make(moved, nil); err != nil || moved.Mapping("a1").PlacementOn("home", "c1") < 0 {
		t.Errorf("it was moved to %+v, %v", moved.Mapping("a1"), err)
	}
	if err := list[0].Fix.Make(show.NewDraft(moved.Now()), nil); err != ErrChanged {
		t.Errorf("it was moved again: %v", err)
	}
}

// moved is the key that advice is about, as it stands.
func (a Advice) moved() *show.Mapping {
	return &show.Mapping{ID: a.Subject.ID, Placements: []show.Placement{{Page: "p", Control: a.Subject.ID}}}
}

func TestTheVerdictIsThatOfTheWorst(t *testing.T) {
	of := func(all ...string) (out []Finding) {
		for _, s := range all {
			out = append(out, Finding{Severity: s})
		}
		return out
	}
	for want, all := range map[string][]Finding{Ready: of(Note, Note), ReadyBut: of(Note, Caution), NotReady: of(Caution, Stops, Note)} {
		if got := Verdict(all); got != want {
			t.Errorf("the verdict is %s, want %s", got, want)
		}
	}
	if Verdict(nil) != Ready {
		t.Error("with nothing found it is not ready")
	}
}

// TestAlikeAtTheSamePlaceOfTwoPages: the same look, another deed.
func TestAlikeAtTheSamePlaceOfTwoPages(t *testing.T) {
	one := func(id, looks, action string) Alike {
		m := &show.Mapping{ID: id, Responses: []show.Response{{Gesture: input.Press, Action: show.Call{Device: "d", Action: action}}}}
		return Alike{Key: m, Name: m.Title, Page: "Page " + id, Spot: "a1", Looks: looks}
	}
	for name, c := range map[string]struct {
		other Alike
		want  int
	}{
		"another deed":   {one("b", "Cut", "fly"), 1},
		"the same deed":  {one("b", "Cut", "cut"), 0},
		"another look":   {one("b", "Fly", "fly"), 0},
		"nobody can say": {one("b", "", "fly"), 0},
		"the same key":   {one("a", "Cut", "fly"), 0},
	} {
		pages := [][]Alike{{one("a", "Cut", "cut")}, {c.other}}
		if got := AlikeElsewhere(pages); len(got) != c.want {
			t.Errorf("%s: found is %+v", name, got)
		}
		if got := Alikes(slices.Concat(pages...)); len(got) != c.want {
			t.Errorf("%s, on one page: found is %+v", name, got)
		}
	}
}
