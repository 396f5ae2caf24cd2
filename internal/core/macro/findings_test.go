package macro

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// facts are those of the bench world: its program is a picture, a device called away
// is not connected, one called d7 toggles, one called d9 names what is gone.
type facts struct {
	benchWorld
	locked bool // nothing can be put back
}

func (f facts) Gone(s *show.Step) string {
	c := s.Action
	if c.Device == "d9" {
		return "The scene Good night"
	}
	return ""
}
func (f facts) Silent(s *show.Step) string   { return s.Action.Params["muted"] }
func (f facts) IsToggle(s *show.Step) bool   { return s.Action.Device == "d7" }
func (f facts) IsPicture(k reading.Key) bool { return k == program }
func (f facts) CanSet(reading.Key) bool      { return !f.locked }
func (f facts) Called(reading.Key) string    { return "Program" }

func TestWhatIsWrongWithAMacroIsFound(t *testing.T) {
	for name, c := range map[string]struct {
		steps string
		want  []string
		fix   string
	}{
		"nothing":                 {"do d5\n\t\twait 1000\n\t\tdo d40", nil, ""},
		"nothing in it":           {"wait 5", []string{Empty}, ""},
		"a device that is away":   {"do away", []string{Unsent}, ""},
		"something that is gone":  {"do d9", []string{Gone}, ""},
		"a toggle":                {"do d7", []string{Toggle}, "set"},
		"two devices":             {"do d5\n\t\tdo d180", []string{Apart, Overwrites}, "together"},
		"together":                {"together\n\t\t\tdo d5\n\t\t\tdo d180", []string{Overwrites}, "wait"},
		"the second picture":      {"do d5\n\t\twait 100\n\t\tdo d5", []string{Overwrites}, "wait"},
		"long enough":             {"do d5\n\t\twait 600\n\t\tdo d5", nil, ""},
		"a transition cut short":  {"do d5 1000\n\t\twait 300\n\t\tdo d5 2000", []string{TooShort}, "wait"},
		"a transition that ends":  {"do d5 1000\n\t\twait 1600\n\t\tdo d5", nil, ""},
		"a branch that never is":  {"if\n\t\t\tbranch\n\t\t\t\tdo d5\n\t\t\tbranch\n\t\t\t\tdo d5", []string{Never}, ""},
		"what runs in a circle":   {"run m", []string{Cycle}, ""},
		"a step that cannot be":   {"branch", []string{Unsent}, ""},
		"put back, all of it":     {"do d5\n\t\twait 900\n\t\tput-back", nil, ""},
		"neighbours, equal":       {"do d5\n\t\twait 600\n\t\tdo d6", nil, ""},
		"inside of a branch, too": {"turns\n\t\t\tbranch\n\t\t\t\tdo d5\n\t\t\t\tdo d180", []string{Apart, Overwrites}, "together"},
	} {
		got := Find(script(t, "m", c.steps), "m", facts{}, 1)
		var ids []string
		for _, f := range got {
			ids = append(ids, f.ID)
			if f.Text == "" || !strings.HasSuffix(f.Text, ".") || f.Severity == "" {
				t.Errorf("%s: %+v is no sentence", name, f)
			}
		}
		if !slices.Equal(ids, c.want) || len(got) > 0 && got[0].Fix != c.fix {
			t.Errorf("%s: %v", name, got)
		}
	}
	got := Find(script(t, "m", "do d5\n\t\twait 900\n\t\tput-back"), "m", facts{locked: true}, 1)
	if len(got) != 1 || got[0].ID != Incomplete || !strings.Contains(got[0].Text, "Program") {
		t.Errorf("what cannot be put back: %v", got)
	}
	got = Find(script(t, "m", "do d5 1000\n\t\twait 300\n\t\tdo d5 2000"), "m", facts{}, 1)
	if got[0].Wait != 705*time.Millisecond {
		t.Errorf("the wait is %v too short", got[0].Wait)
	}
}

// TestAWaitAsLongAsTheFixSaysIsEnough applies the fix of every wait that is too short
// and looks again.
func TestAWaitAsLongAsTheFixSaysIsEnough(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 13))
		text := strings.Join([]string{"do d" + []string{"5", "40"}[r.IntN(2)] + " " + []string{"0", "400", "1500"}[r.IntN(3)], "wait " + []string{"0", "100", "900"}[r.IntN(3)], "do d5"}, "\n\t\t")
		s := script(t, "m", text)
		for range 3 {
			got := Find(s, "m", facts{}, seed)
			at := slices.IndexFunc(got, func(f Finding) bool { return f.Fix == "wait" })
			if at < 0 {
				break
			}
			w := *s.StepsOf("m")[1]
			w.Ms += int(got[at].Wait.Milliseconds()) + 1
			d := show.NewDraft(s)
			d.Put(&w)
			s = d.Now()
		}
		if got := Find(s, "m", facts{}, seed); slices.ContainsFunc(got, func(f Finding) bool { return f.Fix == "wait" }) {
			t.Fatalf("seed %d: %v is left of\n%s", seed, got, text)
		}
	}
}
