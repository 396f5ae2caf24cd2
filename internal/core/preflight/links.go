// Package preflight finds what is wrong with a show before it goes on air. A file has the findings of one family.
package preflight

import (
	"fmt"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// How much a finding matters.
const (
	Caution = "caution"
	Note    = "note"
)

// Finding is something that somebody should look at.
type Finding struct {
	ID       string   `json:"id"` // of what it finds: binding-gone
	Severity string   `json:"severity"`
	Subject  show.Ref `json:"subject"`
	Text     string   `json:"text"` // a sentence
}

// Link finds what is wrong with a link of a controller; layout gives the sheet of a layout, or nil.
func Link(sh *show.Show, l *show.Link, layout func(string) *device.ControllerSheet) (out []Finding) {
	add := func(id, severity, format string, args ...any) {
		out = append(out, Finding{id, severity, l.Ref(), fmt.Sprintf(format, args...)})
	}
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
			add("binding-gone", Caution, "%s is mapped to %s, which %s does not have any more.", from, to, c.Name)
		}
	}
	bound := sheet.Bound(l)
	for _, b := range bound {
		k, has := sheet.Control(b.Control)
		switch {
		case b.Control == "":
		case !has:
			add("binding-gone", Caution, "%s is bound to %s, which %s does not have any more.", b.Source, b.Control, c.Name)
		case !device.Suits(b.As, k.Kind):
			add("binding-unfit", Caution, "%s is a %s and cannot move %s, which is a %s now.", b.Source, b.As, b.Control, k.Kind)
		}
	}
	if len(bound) == 0 && l.Kind != show.LinkWire {
		add("link-empty", Caution, "Nothing of %s is bound to a control of %s yet.", l.Title(), c.Name)
	}
	if l.Off {
		add("link-off", Note, "%s is switched off.", l.Title())
	}
	return out
}
