package preflight

import (
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// Link finds what is wrong with a link of a controller; layout gives the sheet of a layout, or nil.
func Link(sh *show.Show, l *show.Link, layout func(string) *device.ControllerSheet) []Finding {
	f := finder{subject: l.Ref()}
	c := sh.Controller(l.Controller)
	if c == nil {
		return nil
	}
	sheet := layout(c.Layout)
	if sheet == nil {
		return nil // that it has no layout is found elsewhere
	}
	for from, to := range l.Map {
		if _, has := sheet.Control(to); to != "" && !has {
			f.add("binding-gone", Caution, from, "%s is mapped to %s, which %s does not have any more.", from, to, c.Name)
		}
	}
	bound := sheet.Bound(l)
	for _, b := range bound {
		k, has := sheet.Control(b.Control)
		switch {
		case b.Control == "":
		case !has:
			f.add("binding-gone", Caution, b.Source, "%s is bound to %s, which %s does not have any more.", b.Source, b.Control, c.Name)
		case !device.Suits(b.As, k.Kind):
			f.add("binding-unfit", Caution, b.Source, "%s is a %s and cannot move %s, which is a %s now.", b.Source, b.As, b.Control, k.Kind)
		}
	}
	if len(bound) == 0 && l.Kind != show.LinkWire {
		f.add("link-empty", Caution, "", "Nothing of %s is bound to a control of %s yet.", l.Title(), c.Name)
	}
	if l.Off {
		f.add("link-off", Note, "", "%s is switched off.", l.Title())
	}
	return f.out
}

// TakenTwice finds what two controls would have at once: keys of a browser that links of several controllers bind, and names by which open control
// reaches more than one controller.
func TakenTwice(sh *show.Show, layout func(string) *device.ControllerSheet) (out []Finding) {
	type taken struct {
		link    *show.Link
		control string
	}
	first := map[string]taken{}
	for _, l := range sh.Links() {
		c := sh.Controller(l.Controller)
		if l.Kind != show.LinkKeysHere || l.Off || c == nil {
			continue
		}
		f := finder{subject: l.Ref()}
		for _, b := range layout(c.Layout).Bound(l) {
			other, twice := first[b.Source]
			switch {
			case b.Control == "":
			case !twice:
				first[b.Source] = taken{l, b.Control}
			case other.link.Controller != l.Controller || other.control != b.Control:
				f.add("input-taken-twice", Caution, b.Source, "%s is %s of %s and %s of %s: where a browser shows both, one touch does both.",
					b.Source, other.control, sh.Controller(other.link.Controller).Name, b.Control, c.Name)
			}
		}
		out = append(out, f.out...)
	}
	slugs := map[string]*show.Controller{}
	for _, c := range sh.Controllers() {
		for _, slug := range append([]string{c.Slug}, c.Aliases...) {
			if other := slugs[slug]; other != nil && other != c {
				f := finder{subject: c.Ref()}
				f.add("input-taken-twice", Caution, slug, "%s and %s are both called %s by open control: what is sent there reaches only one of them.", other.Name, c.Name, slug)
				out = append(out, f.out...)
			}
			slugs[slug] = c
		}
	}
	return out
}
