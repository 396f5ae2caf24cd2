package inspect

import (
	"fmt"
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/input"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reach"
	"synaptor/internal/core/show"
)

// page is a page that was looked through.
type page struct {
	alike []preflight.Alike
	touch []preflight.Risk // risky keys on controls that cannot be felt
	felt  *preflight.FreeSpot
	keys  reach.Keys
	safe  map[string]bool // the outputs that a key of it makes safe; "" is all
	found []preflight.Finding
}

// judgePages looks the pages through on which something has changed.
func (j *Judged) judgePages(prev *Judged, touched map[string]bool) {
	for _, p := range j.inOrder {
		l, used := j.layouts[p.Layout]
		switch {
		case !used:
		case prev != nil && !touched[p.ID] && prev.pages[p.ID] != nil:
			j.pages[p.ID] = prev.pages[p.ID]
		default:
			j.pages[p.ID] = j.judgePage(p, l)
		}
	}
}

func (j *Judged) judgePage(p *show.Page, l layout) *page {
	out := &page{safe: map[string]bool{}}
	answers := j.Program.OnPage(p)
	out.keys = reach.KeysOn(p, l.controls, func(_ *show.Page, control string) *show.Mapping {
		if m := answers(control); m != nil {
			return m.Source
		}
		return nil
	})
	if p.Scratch {
		return out // it is for trying things out
	}
	stands, over := j.standing(p), map[string]preflight.Alike{} // over: what is on a control on which another one stands
	for _, c := range l.controls {
		if c.Zone != p.Zone {
			continue
		}
		m := answers(c.ID)
		if m == nil {
			if c.Kind != "touch" && out.felt == nil && slices.Contains(c.Gestures, input.Press) {
				out.felt = &preflight.FreeSpot{Page: p.ID, Control: c.ID, Called: fmt.Sprintf("%s of %s (%s)", c.ID, p.Name, l.called)}
			}
			continue
		}
		k := j.keys[m.Source.ID]
		for _, o := range k.safe {
			out.safe[o] = true
		}
		a := preflight.Alike{Key: m.Source, Name: func() string { return k.facts.Called() }, Page: p.Name, Spot: c.ID, Looks: k.looks, Mic: k.mic, Reads: k.reads}
		if _, has := stands[c.ID]; has {
			over[c.ID] = a
		}
		if c.Pictures || c.Kind == "touch" {
			out.alike = append(out.alike, a)
		}
		if c.Kind == "touch" && k.facts.Risky() {
			r := preflight.Risk{Key: k.facts, Control: c}
			if m.Source.PlacementOn(p.ID, c.ID) >= 0 {
				r.Page = p
			}
			out.touch = append(out.touch, r)
		}
	}
	out.found = append(preflight.Alikes(out.alike), preflight.MicsAlike(out.alike)...)
	out.found = append(out.found, preflight.Covered(p, over, stands)...)
	return out
}

// standing is what the keys are called that stand on a page, by control.
func (j *Judged) standing(p *show.Page) map[string]string {
	out := map[string]string{}
	for control, m := range j.Program.StandingOn(p) {
		out[control] = j.keys[m].facts.Called()
	}
	return out
}

// judgeProfiles looks those profiles through on whose pages something has changed.
func (j *Judged) judgeProfiles(prev *Judged, touched map[string]bool) {
	changed := map[string]bool{}
	for id := range touched {
		if p := j.Program.Show.Page(id); p != nil {
			changed[p.Profile] = true
		}
		if prev == nil {
			continue
		}
		if p := prev.Program.Show.Page(id); p != nil {
			changed[p.Profile] = true
		}
	}
	for _, p := range j.Program.Show.Profiles() {
		if prev != nil && !changed[p.ID] {
			j.profiles[p.ID] = prev.profiles[p.ID]
			continue
		}
		j.profiles[p.ID] = j.judgeProfile(p)
	}
}

func (j *Judged) judgeProfile(p *show.Profile) (out []preflight.Finding) {
	sh, maps := j.Program.Show, j.reach(p)
	safe := preflight.SafeReach{Profile: p}
	for _, m := range maps {
		out = append(out, preflight.Pages(sh, j.zoneOf(p, m))...)
		var alike [][]preflight.Alike
		for _, at := range m.Pages {
			alike = append(alike, j.pages[at.ID].alike)
		}
		out = append(out, preflight.AlikeElsewhere(alike)...)
	}
	for _, s := range j.Program.Safe {
		safe.Outputs = append(safe.Outputs, preflight.SafeFar{Output: s.Source.ID, Name: j.Program.Called(s.Key, j.known), Pages: j.far(maps, s.Source.ID)})
	}
	return append(append(out, preflight.FarFromSafe(safe)...), j.onTouch(maps)...)
}

// onTouch finds the risky keys of a profile that cannot be felt, while others that can are free.
func (j *Judged) onTouch(maps []reach.Map) (out []preflight.Finding) {
	var felt *preflight.FreeSpot
	for _, m := range maps {
		for _, p := range m.Pages {
			if felt == nil {
				felt = j.pages[p.ID].felt
			}
		}
	}
	for _, m := range maps {
		for _, p := range m.Pages {
			for _, r := range j.pages[p.ID].touch {
				r.Felt = felt
				out = append(out, r.OnTouch()...)
			}
		}
	}
	return out
}

// reach draws the page graphs of a profile.
func (j *Judged) reach(p *show.Profile) []reach.Map {
	var layouts []*device.ControllerSheet
	for _, c := range j.Program.Show.Controllers() {
		if l, on := j.layouts[c.Layout]; on && !slices.Contains(layouts, l.sheet) {
			layouts = append(layouts, l.sheet)
		}
	}
	return reach.From(j.Program.Show, p.ID, layouts, func(p *show.Page, _ *device.ControllerSheet) reach.Keys { return j.pages[p.ID].keys })
}

// zoneOf is what is known of the pages of a zone.
func (j *Judged) zoneOf(p *show.Profile, m reach.Map) preflight.Zone {
	l, known := j.layouts[m.Layout], map[string][]string{}
	return preflight.Zone{Map: m, Profile: p, Called: l.called, Free: func(page string) []string {
		free, has := known[page]
		if !has {
			free = j.free(j.Program.Show.Page(page), l)
			known[page] = free
		}
		return free
	}}
}

// free lists the controls of a page that nothing is on and that can be pressed.
func (j *Judged) free(p *show.Page, l layout) (out []string) {
	for _, c := range l.controls {
		if p != nil && c.Zone == p.Zone && slices.Contains(c.Gestures, input.Press) && j.Program.On(p, c.ID) == nil {
			out = append(out, c.ID)
		}
	}
	return out
}

// far names the pages on which an output is not made safe with one press: those of the zone in which they are fewest. None where a zone has a key for it
// on all of its pages, since that is there whatever the others show.
func (j *Judged) far(maps []reach.Map, output string) (least []string) {
	for i, m := range maps {
		var without []string
		for _, p := range m.Pages {
			if safe := j.pages[p.ID].safe; !safe[output] && !safe[""] && !j.Program.Show.Page(p.ID).Scratch {
				without = append(without, p.Name)
			}
		}
		if i == 0 || len(without) < len(least) {
			least = without
		}
	}
	return least
}
