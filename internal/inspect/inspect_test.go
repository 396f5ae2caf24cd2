package inspect

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
	"synaptor/internal/demo"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// library are the sheets that Synaptor brings.
var library = sync.OnceValues(func() (*sheet.Library, error) { return sheet.Load(nil) })

// now is when shows of the tests are looked through.
var now = time.Date(2026, 8, 12, 18, 0, 0, 0, time.UTC)

// demoShow is the demo show as it stands on the disk.
func demoShow() *show.Show {
	d := show.NewDraft(show.Empty())
	ports, secrets := map[string]int{}, map[string]string{}
	for i, id := range []string{"streaming", "switcher", "mixer", "intercom", "lights", "camera", "player", "chat", "workstation"} {
		ports[id], secrets[id] = 7430+i, "secret-"+id
	}
	demo.Build(d, ports, secrets)
	return d.Now()
}

// judging looks the states of a show through, one after the other.
type judging struct {
	testing.TB
	*Inspector
	*Judged
}

func judge(t testing.TB, s *show.Show) *judging {
	t.Helper()
	font, err := face.NewFont()
	if err != nil {
		t.Fatal(err)
	}
	j := &judging{TB: t, Inspector: New(font, func() map[string]bool { return map[string]bool{"moon": true} })}
	j.Judged = j.Judge(nil, j.compile(s), now)
	return j
}

func (j *judging) compile(s *show.Show) *program.Program {
	lib, err := library()
	if err != nil {
		j.Fatal(err)
	}
	var prev *program.Program
	if j.Judged != nil {
		prev = j.Program
	}
	return program.Compile(prev, s, lib, program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
}

// edit makes an edit, looks through what it has touched, and holds that against looking through everything.
func (j *judging) edit(change func(d *show.Draft, s *show.Show)) show.Edit {
	j.Helper()
	d := show.NewDraft(j.Program.Show)
	change(d, j.Program.Show)
	e := d.Edit("edit", 1+rand.Int64N(1<<40))
	j.apply(e)
	return e
}

func (j *judging) apply(e show.Edit) {
	j.Helper()
	next, err := j.Program.Show.Apply(e)
	if err != nil {
		j.Fatal(err)
	}
	j.Judged = j.Judge(j.Judged, j.compile(next), now)
	if anew := j.Judge(nil, j.Program, now).said(); !slices.Equal(j.said(), anew) {
		j.Errorf("what the edit touched was looked through, and is\n%v\nlooked through as a whole it is\n%v", strings.Join(j.said(), "\n"), strings.Join(anew, "\n"))
	}
}

// said is what was found, in its order.
func (j *Judged) said() []string {
	out := []string{}
	for _, f := range j.Findings {
		fix := ""
		if f.Fix != nil {
			fix = f.Fix.Title
		}
		out = append(out, fmt.Sprint(f.Severity, " ", f.ID, " ", f.Subject, " ", f.At, ": ", f.Text, " ", f.Sure, " ", fix))
	}
	return out
}

// verdict is that of the show, with what was accepted.
func (j *Judged) verdict() string {
	return preflight.Verdict(preflight.Open(preflight.Weigh(j.Program.Show, j.Findings)))
}

// TestTheDemoHasWhatItIsToHave: the camera's hue, which was accepted, and a recording that a touch starts.
func TestTheDemoHasWhatItIsToHave(t *testing.T) {
	j := judge(t, demoShow())
	var got []string
	for _, w := range preflight.Weigh(j.Program.Show, j.Findings) {
		got = append(got, fmt.Sprint(w.ID, " ", w.Subject.ID, " ", w.Counts()))
	}
	if want := []string{"option-unsupported dome-c1 false", "risk-unguarded stream-a3 true"}; !slices.Equal(got, want) {
		t.Errorf("found is %v, want %v", got, want)
	}
}

// TestWhatWasAcceptedComesBackWithItsSubject: as it was it does not count, and once it has changed it does.
func TestWhatWasAcceptedComesBackWithItsSubject(t *testing.T) {
	j := judge(t, demoShow())
	hue := func() preflight.Weighed {
		for _, w := range preflight.Weigh(j.Program.Show, j.Findings) {
			if w.ID == "option-unsupported" {
				return w
			}
		}
		return preflight.Weighed{}
	}
	j.edit(func(d *show.Draft, s *show.Show) {
		m := s.Mapping("cut-a1").Clone()
		m.Name = "Presenter"
		d.Put(m)
	})
	if hue().Counts() {
		t.Error("it counts after something else was changed")
	}
	e := j.edit(func(d *show.Draft, s *show.Show) {
		m := s.Mapping("dome-c1").Clone()
		m.Responses[0].Action.Params["hue"] = "12"
		d.Put(m)
	})
	if w := hue(); !w.Counts() || !w.Stale {
		t.Errorf("its subject was changed, and it is %+v", w)
	}
	j.apply(e.Inverse())
	if hue().Counts() {
		t.Error("it counts though its subject is as it was")
	}
}

// TestEveryFixPutsItsFindingRight: with the fix it is found no more, the verdict is no worse, and undo restores the bytes.
func TestEveryFixPutsItsFindingRight(t *testing.T) {
	fixed := map[string]bool{}
	for name, c := range spoiled {
		j := judge(t, demoShow())
		j.edit(c.change)
		for _, f := range j.Findings {
			if f.Fix == nil {
				continue
			}
			fixed[f.ID] = true
			before, worse := j.Program.Show.Canonical(), j.verdict()
			n := 0
			e := j.edit(func(d *show.Draft, _ *show.Show) {
				if err := f.Fix.Make(d, func() string { n++; return fmt.Sprint("made-", n) }); err != nil {
					t.Errorf("%s: %s: %v", name, f.Fix.Title, err)
				}
			})
			if len(e.Changes) == 0 {
				t.Errorf("%s: %s changes nothing", name, f.Fix.Title)
			}
			if slices.ContainsFunc(j.Findings, f.Same) {
				t.Errorf("%s: after “%s” it is found still: %s", name, f.Fix.Title, f.Text)
			}
			if order := []string{preflight.NotReady, preflight.ReadyBut, preflight.Ready}; slices.Index(order, j.verdict()) < slices.Index(order, worse) {
				t.Errorf("%s: “%s” makes the verdict %s, and it was %s", name, f.Fix.Title, j.verdict(), worse)
			}
			j.apply(e.Inverse())
			if !bytes.Equal(before, j.Program.Show.Canonical()) {
				t.Errorf("%s: undo of “%s” does not restore the show", name, f.Fix.Title)
			}
		}
	}
	if len(fixed) < 12 {
		t.Errorf("only these had fixes: %v", fixed)
	}
}

// TestAllFixesTogetherEndInAShowThatIsNoWorse: one after the other, as long as there is one.
func TestAllFixesTogetherEndInAShowThatIsNoWorse(t *testing.T) {
	j := judge(t, demoShow())
	for _, name := range []string{"a face that is dark on dark", "a gesture that cannot happen", "no response", "a coarse dial", "a page without a way back", "a page that nothing leads to", "a toggle in a macro"} {
		j.edit(spoiled[name].change)
	}
	was := j.verdict()
	for n := 0; ; n++ {
		i := slices.IndexFunc(j.Findings, func(f preflight.Finding) bool { return f.Fix != nil && f.ID != "option-unsupported" })
		if i < 0 {
			break
		}
		if n > 50 {
			t.Fatalf("there is always another: %s", j.Findings[i].Text)
		}
		j.edit(func(d *show.Draft, _ *show.Show) {
			if err := j.Findings[i].Fix.Make(d, func() string { return fmt.Sprint("made-", n) }); err != nil {
				t.Error(err)
			}
		})
	}
	if order := []string{preflight.NotReady, preflight.ReadyBut, preflight.Ready}; slices.Index(order, j.verdict()) < slices.Index(order, was) {
		t.Errorf("the verdict is %s, and it was %s: %v", j.verdict(), was, j.said())
	}
}

// TestWhatAnEditTouchesIsAllThatIsLookedAt: edits at random, each of which is held against looking through everything.
func TestWhatAnEditTouchesIsAllThatIsLookedAt(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	defer func() {
		if t.Failed() {
			t.Logf("seed %d", seed)
		}
	}()
	rng := rand.New(rand.NewPCG(seed, 0))
	j := judge(t, demoShow())
	names := slices.Sorted(func(yield func(string) bool) {
		for n := range spoiled {
			if !yield(n) {
				return
			}
		}
	})
	var done []show.Edit
	for range 150 {
		switch rng.IntN(5) {
		case 0:
			if len(done) > 0 {
				j.apply(done[len(done)-1].Inverse())
				done = done[:len(done)-1]
			}
		case 1, 2:
			done = append(done, j.edit(spoiled[names[rng.IntN(len(names))]].change))
		default:
			done = append(done, j.edit(func(d *show.Draft, s *show.Show) { anyEdit(rng, d, s) }))
		}
		if t.Failed() {
			return
		}
	}
}

// anyEdit moves, renames or removes something.
func anyEdit(rng *rand.Rand, d *show.Draft, s *show.Show) {
	all := s.Mappings()
	m := all[rng.IntN(len(all))].Clone()
	pages := s.Pages()
	p := *pages[rng.IntN(len(pages))]
	switch rng.IntN(7) {
	case 0:
		d.Delete(m.Ref())
		return
	case 5:
		p.Scratch = !p.Scratch
		d.Put(&p)
		return
	case 6:
		d.Delete(p.Ref())
		return
	case 1:
		m.Name = fmt.Sprint("Name ", rng.IntN(4))
	case 2:
		m.Face.Label = fmt.Sprint("Label ", rng.IntN(4))
	case 3:
		p.Name = fmt.Sprint("Page ", rng.IntN(100))
		d.Put(&p)
		return
	case 4:
		m.Guard = &show.Guard{Kind: "twice", Ms: 2000}
	}
	d.Put(m)
}

// TestAnyShowCanBeLookedThrough: whatever the form of a show allows, with nothing that fits together.
func TestAnyShowCanBeLookedThrough(t *testing.T) {
	for seed := range uint64(150) {
		rng := rand.New(rand.NewPCG(seed, 7))
		j := judge(t, showtest.Generate(rng))
		for _, m := range j.Program.Show.Mappings() {
			j.edit(func(d *show.Draft, _ *show.Show) { d.Delete(m.Ref()) })
		}
		if t.Failed() {
			t.Fatalf("seed %d", seed)
		}
	}
}
