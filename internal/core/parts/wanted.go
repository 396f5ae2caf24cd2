package parts

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// wantedPages gives the pages of a wish, and those of the profiles that are taken whole.
func (t *taking) wantedPages() (pages []*show.Page, err error) {
	for _, id := range t.wish.Profiles {
		if t.other.Profile(id) == nil {
			return nil, fmt.Errorf("the other show has no profile %q", id)
		}
	}
	for _, id := range t.wish.Pages {
		if t.other.Page(id) == nil {
			return nil, fmt.Errorf("the other show has no page %q", id)
		}
	}
	for _, p := range t.other.Pages() {
		if slices.Contains(t.wish.Pages, p.ID) || slices.Contains(t.wish.Profiles, p.Profile) {
			pages = append(pages, p)
		}
	}
	return pages, nil
}

// wanted gives the pages and macros of a wish, and the macros that those run or that its reflexes run or wait for.
func (t *taking) wanted(reflexes []*show.Reflex) (pages []*show.Page, macros []*show.Macro, err error) {
	if pages, err = t.wantedPages(); err != nil {
		return nil, nil, err
	}
	has := map[string]bool{}
	var add func(id string, wished bool) error
	add = func(id string, wished bool) error {
		m := t.other.Macro(id)
		if m == nil && wished {
			return fmt.Errorf("the other show has no macro %q", id)
		}
		if m == nil || has[id] {
			return nil
		}
		has[id] = true
		macros = append(macros, m)
		for _, st := range t.other.StepsOf(id) {
			for _, run := range []string{st.Run, ranBy(st.Action)} {
				if err := add(run, false); err != nil {
					return err
				}
			}
		}
		return nil
	}
	for _, id := range t.wish.Macros {
		if err := add(id, true); err != nil {
			return nil, nil, err
		}
	}
	for _, m := range t.keysOf(pages) {
		for i := range m.Responses {
			if err := add(ranBy(&m.Responses[i].Action), false); err != nil {
				return nil, nil, err
			}
		}
	}
	for _, r := range reflexes {
		for _, id := range []string{ranBy(&r.Then), r.On.Macro} {
			if err := add(id, false); err != nil {
				return nil, nil, err
			}
		}
	}
	return pages, macros, nil
}

// ranBy is the macro that an action runs; empty: it runs none.
func ranBy(c *show.Call) string {
	if !c.IsRun() {
		return ""
	}
	return c.Params["macro"]
}

// keysOf lists the mappings that are on some of the pages, or stand on all of a profile that is taken whole.
func (t *taking) keysOf(pages []*show.Page) (out []*show.Mapping) {
	wanted := map[string]bool{}
	for _, p := range pages {
		wanted[p.ID] = true
	}
	for _, m := range t.other.Mappings() {
		if t.standsIn(m) || slices.ContainsFunc(m.Placements, func(at show.Placement) bool { return wanted[at.Page] }) {
			out = append(out, m)
		}
	}
	return out
}

// textOf is all that is taken, as JSON.
func (t *taking) textOf(pages []*show.Page, macros []*show.Macro, reflexes []*show.Reflex) string {
	var text strings.Builder
	for _, m := range t.keysOf(pages) {
		text.Write(show.Encode(m))
	}
	for _, m := range macros {
		for _, st := range t.other.StepsOf(m.ID) {
			text.Write(show.Encode(st))
		}
	}
	for _, r := range reflexes {
		text.Write(show.Encode(r))
	}
	return text.String()
}

// driven lists the devices that a text drives or asks, in the order of the other show.
func (t *taking) driven(text string) (ids []string) {
	for _, d := range t.other.Devices() {
		if mentions(text, d.ID) {
			ids = append(ids, d.ID)
		}
	}
	return ids
}

// mentions tells whether the JSON of something names a device: as a value, or in an expression.
func mentions(text, device string) bool {
	return strings.Contains(text, `"`+device+`"`) || strings.Contains(text, `'`+device+`:`) || strings.Contains(text, `\"`+device+`:`)
}
