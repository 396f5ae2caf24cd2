package find_test

import (
	"testing"
	"time"

	"synaptor/internal/core/find"
	"synaptor/internal/core/reading"
	"synaptor/internal/sheet"
)

type known struct{ *reading.Table }

func (k known) Reading(key reading.Key) reading.Reading { return k.Get(key) }

// dome is the demo's switcher as its search sees it.
func dome(t *testing.T) ([]find.Source, known) {
	t.Helper()
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	k := known{reading.NewTable()}
	say := func(path string, v any) { k.Report(reading.Key{Device: "sw", Path: path}, v, time.Unix(0, 0)) }
	for i, name := range []string{"Presenter cam", "Telescope feed", "All-sky cam", "Guest cam", "Slides", "Replay"} {
		say("input/"+string(rune('1'+i))+"/name", name)
	}
	say("keyer/1/name", "Logo")
	say("keyer/2/name", "Caption")
	say("out/2/name", "Foyer screen")
	return []find.Source{{Device: "sw", Name: "Dome switcher", Type: lib.Device("switcher.osc")}}, k
}

func TestEverydayWordsFindWhatIsMeant(t *testing.T) {
	sources, k := dome(t)
	for words, want := range map[string]string{
		"cam 2 on air":         "Put Telescope feed on program",
		"take telescope":       "Put Telescope feed on program",
		"switch to slides":     "Put Slides on program",
		"slides next":          "Put Slides on preview",
		"guest preview":        "Put Guest cam on preview",
		"guest preview 2":      "Put Guest cam on preview of mix effect 2",
		"cut":                  "Cut",
		"dissolve":             "Auto",
		"logo on":              "Switch Logo on",
		"hide caption":         "Switch Caption off",
		"toggle logo":          "Switch Logo on or off",
		"slides foyer":         "Route Slides to Foyer screen",
		"program row":          "Program row",
		"preview row effect 2": "Preview row of mix effect 2",
		"wipe":                 "Transition wipe",
	} {
		got := find.Search(find.Query{Words: words}, sources, k)
		if len(got) == 0 || got[0].Title != want {
			first := "nothing"
			if len(got) > 0 {
				first = got[0].Title
			}
			t.Errorf("%q finds %s, want %s", words, first, want)
		}
	}
	if got := find.Search(find.Query{Words: "espresso"}, sources, k); len(got) > 0 {
		t.Errorf("espresso finds %s", got[0].Title)
	}
}

func TestWithoutWordsEverythingIsListedOnce(t *testing.T) {
	sources, k := dome(t)
	seen := map[string]bool{}
	for _, r := range find.Search(find.Query{}, sources, k) {
		key := r.Kind + r.ID + r.Params["mix"] + r.Params["output"]
		if seen[key] {
			t.Errorf("%s is listed twice", r.Title)
		}
		seen[key] = true
		if r.Help == "" {
			t.Errorf("%s has no sentence of help", r.Title)
		}
	}
	want := 0
	for _, s := range sources {
		want += len(s.Type.Sheet.Actions)
		for _, kit := range s.Type.Sheet.Kits {
			want += max(1, len(s.Type.Choices(kit.Each, s.Device, nil, k)))
		}
	}
	if len(seen) != want {
		t.Errorf("%d are listed, want %d", len(seen), want)
	}
}

func TestWhatAGestureCannotStartSaysSo(t *testing.T) {
	sources, k := dome(t)
	for _, r := range find.Search(find.Query{Words: "cut", Gesture: "turn"}, sources, k) {
		if r.Kind == "action" && r.Unusable == "" {
			t.Errorf("%s claims to suit a turn", r.Title)
		}
	}
}
