package preflight

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reach"
	"synaptor/internal/core/show"
)

// Zone is the pages of one zone of a layout in a profile, as far as findings rest on them.
type Zone struct {
	reach.Map
	Profile *show.Profile
	Called  string // the controllers that have the layout
	// Free lists the controls of a page on which nothing stands and that a hand can press, in their order.
	Free func(page string) []string
}

// Pages finds the pages of a zone that nobody gets to, and from which nobody gets back.
func Pages(sh *show.Show, z Zone) (out []Finding) {
	for _, p := range z.Pages {
		page := sh.Page(p.ID)
		if page == nil || page.Scratch {
			continue
		}
		f := finder{subject: page.Ref()}
		if p.Presses == reach.Unreachable && p.Used > 0 {
			f.add("page-unreachable", Caution, "", "No key leads to the page %s of %s.", p.Name, z.Called).Fix = z.key(z.Home, p.Name, "page", map[string]string{"page": p.ID})
		}
		if !p.WayBack && p.Presses > 0 {
			f.add("page-no-way-back", Caution, "", "No key leads back from the page %s of %s.", p.Name, z.Called).Fix = z.key(p.ID, "home", "page-home", nil)
		}
		out = append(out, f.out...)
	}
	return out
}

// key puts a key that changes pages on the last free control of a page; nil where there is none.
func (z Zone) key(page, to, action string, params map[string]string) *Fix {
	free := z.Free(page)
	if len(free) == 0 {
		return nil
	}
	control := free[len(free)-1]
	return &Fix{fmt.Sprintf("Put a key to %s on %s", to, control), func(d *show.Draft, newID func() string) error {
		if d.Page(page) == nil || d.MappingAt(page, control) != nil {
			return ErrChanged
		}
		d.Put(&show.Mapping{ID: newID(), Placements: []show.Placement{{Page: page, Control: control}},
			Responses: []show.Response{{Gesture: input.Press, Action: show.Call{Device: reach.Self, DeviceName: "Synaptor", Action: action, Params: params}}}})
		return nil
	}}
}

// Covered finds the keys of pages that cover one which stands on all of them.
func Covered(page *show.Page, keys map[string]Alike, standing map[string]string) (out []Finding) {
	for _, control := range sortedKeys(keys) {
		k := keys[control]
		was, stands := standing[control]
		at := k.Key.PlacementOn(page.ID, control)
		if !stands || at < 0 || !k.Key.Placements[at].Covers {
			continue
		}
		f := finder{subject: k.Key.Ref()}
		f.add("standing-covered", Note, page.ID+" "+control, "On %s, %s covers %s, which stands on every other page.", page.Name, k.Name(), was)
		out = append(out, f.out...)
	}
	return out
}

// SafeReach is from where one gets to the safe pictures of the outputs in a profile.
type SafeReach struct {
	Profile *show.Profile
	// Far are the pages on which no controller of the same desk has a key for it in one press, by output.
	Outputs []SafeFar
}

// SafeFar is an output with the pages that are shown while its safe picture is more than one press away.
type SafeFar struct {
	Output string // its id
	Name   string
	Pages  []string
}

// FarFromSafe finds the outputs whose safe picture is more than one press away on some page: one finding for all that have the same pages.
func FarFromSafe(r SafeReach) []Finding {
	f := finder{subject: r.Profile.Ref()}
	groups := map[string][]SafeFar{}
	var order []string
	for _, o := range r.Outputs {
		if len(o.Pages) == 0 {
			continue
		}
		at := strings.Join(o.Pages, ", ")
		if groups[at] == nil {
			order = append(order, at)
		}
		groups[at] = append(groups[at], o)
	}
	for _, at := range order {
		var names, ids []string
		for _, o := range groups[at] {
			names, ids = append(names, o.Name), append(ids, o.Output)
		}
		what := "the safe picture of " + names[0] + " is"
		if len(names) > 1 {
			what = fmt.Sprintf("the safe pictures of %d outputs are", len(names))
		}
		f.add("safe-picture-far", Caution, strings.Join(ids, " "), "In %s, %s more than one press away on %s.", r.Profile.Name, what, some(groups[at][0].Pages))
	}
	return f.out
}

// some names the first of several.
func some(names []string) string {
	if n := len(names); n > 3 {
		return fmt.Sprintf("%s and %d more pages", strings.Join(names[:3], ", "), n-3)
	}
	return strings.Join(names, ", ")
}

func sortedKeys[V any](m map[string]V) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}
