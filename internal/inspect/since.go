package inspect

import (
	"slices"

	"synaptor/internal/core/show"
)

// since are the pages that are not as they were.
type since struct {
	changed map[string]bool        // by id; those that came and went too
	zones   map[show.Standing]bool // theirs
	moved   bool                   // some came or went
}

// pagesSince finds the pages that are not as they were.
func (j *Judged) pagesSince(prev *Judged) since {
	out := since{changed: map[string]bool{}, zones: map[show.Standing]bool{}}
	if prev == nil || j.Program.Show.Alike(prev.Program.Show, show.KindPage) {
		return out
	}
	note := func(p *show.Page) {
		out.changed[p.ID] = true
		out.zones[show.Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}] = true
	}
	for _, p := range j.inOrder {
		if was := prev.Program.Show.Page(p.ID); was != p {
			note(p)
			out.moved = out.moved || was == nil
		}
	}
	for _, p := range prev.inOrder {
		if j.Program.Show.Page(p.ID) == nil {
			note(p)
			out.moved = true
		}
	}
	return out
}

// matter reports whether the pages that have changed matter to a key.
func (s since) matter(k *key) bool {
	if len(s.changed) == 0 {
		return false
	}
	return s.moved && k.turns || slices.ContainsFunc(k.facts.Placements, func(at show.Placement) bool {
		return s.changed[at.Page] || at.Standing != nil && s.zones[*at.Standing]
	})
}
