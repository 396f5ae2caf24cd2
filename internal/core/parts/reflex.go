package parts

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/show"
)

// wantedReflexes gives the reflexes of a wish.
func (t *taking) wantedReflexes() (out []*show.Reflex, err error) {
	for _, id := range t.wish.Reflexes {
		if t.other.Reflex(id) == nil {
			return nil, fmt.Errorf("the other show has no reflex %q", id)
		}
	}
	for _, r := range t.other.Reflexes() {
		if slices.Contains(t.wish.Reflexes, r.ID) {
			out = append(out, r)
		}
	}
	return out, nil
}

// reflexID decides under which id and name a reflex is taken.
func (t *taking) reflexID(r *show.Reflex) {
	c := *r
	row, here := placed(t, r, t.d.Now().Reflexes())
	if row.What == InPlace {
		c.ID, c.Position = here.ID, here.Position
	} else {
		c.ID, c.Name, c.Position = t.newID(), row.As, len(t.d.Now().Reflexes())
	}
	if !r.Off {
		row.Note = "fires by itself from then on"
	}
	t.reflexes[r.ID], c.Owner = c.ID, t.wish.Owner
	t.d.Put(&c)
	t.rows = append(t.rows, row)
}

// reflex has a reflex that is taken wait for what is here, and answer with it.
func (t *taking) reflex(r *show.Reflex) {
	c := *t.d.Now().Reflex(t.reflexes[r.ID])
	c.On.Path = t.pathOf(r.On.Device, r.On.Path)
	c.On.Device = t.deviceOf(r.On.Device)
	c.On.Controller, c.On.Macro = either(t.controllers, r.On.Controller), either(t.macros, r.On.Macro)
	c.When, c.Unless, c.Then = t.text(r.When), t.text(r.Unless), t.call(r.Then)
	t.d.Put(&c)
}

// heardBy decides which controllers here the reflexes listen to.
func (t *taking) heardBy(reflexes []*show.Reflex) error {
	for _, r := range reflexes {
		if was := t.other.Controller(r.On.Controller); was != nil {
			if err := t.controller(was, was.Profile); err != nil {
				return err
			}
		}
	}
	return nil
}

// timersOf takes the timers that something asks or drives: one here of the same name stands in.
func (t *taking) timersOf(text string) {
	for _, was := range t.other.Timers() {
		if !strings.Contains(text, `"timer":"`+was.ID+`"`) && !strings.Contains(text, "timer/"+was.ID+"/") {
			continue
		}
		row := Row{Kind: show.KindTimer, ID: was.ID, Title: was.Name, What: StandIn, As: was.Name}
		if here, has := named(t.d.Now().Timers(), was.Name); has {
			t.timers[was.ID] = here.ID
		} else {
			c := *was
			c.ID, c.Position, row.What = t.newID(), len(t.d.Now().Timers()), Along
			t.timers[was.ID] = c.ID
			t.d.Put(&c)
		}
		t.rows = append(t.rows, row)
	}
}

// overlaysOf takes the overlays that something shows: one here of the same name stands in. What those that are taken need is given as text.
func (t *taking) overlaysOf(text string) (needs string) {
	for _, was := range t.other.Overlays() {
		if !strings.Contains(text, `"overlay":"`+was.ID+`"`) && !strings.Contains(text, "overlay/"+was.ID+"/") {
			continue
		}
		row := Row{Kind: show.KindOverlay, ID: was.ID, Title: was.Name, What: StandIn, As: was.Name}
		if here, has := named(t.d.Now().Overlays(), was.Name); has {
			t.overlays[was.ID] = here.ID
		} else {
			c := *was
			c.ID, c.Position, row.What = t.newID(), len(t.d.Now().Overlays()), Along
			t.overlays[was.ID] = c.ID
			t.d.Put(&c)
			needs += `"timer":"` + was.Timer + `"`
		}
		t.rows = append(t.rows, row)
	}
	return needs
}

// timedBy has the overlays that were taken show the timers that are here.
func (t *taking) timedBy() {
	for _, id := range t.overlays {
		if o := t.d.Now().Overlay(id); t.timers[o.Timer] != "" {
			c := *o
			c.Timer = t.timers[o.Timer]
			t.d.Put(&c)
		}
	}
}

// own are the ids here of what Synaptor's own readings and actions name, by the kind.
func (t *taking) own() map[string]map[string]string {
	return map[string]map[string]string{"macro": t.macros, "page": t.pages, "profile": t.profiles, "device": t.devices, "controller": t.controllers, "reflex": t.reflexes, "timer": t.timers, "overlay": t.overlays}
}

// pathOf is the path of a reading here: one of Synaptor's own names what it is about.
func (t *taking) pathOf(device, path string) string {
	if device != self {
		return path
	}
	kind, rest, _ := strings.Cut(path, "/")
	id, rest, more := strings.Cut(rest, "/")
	if here, has := t.own()[kind][id]; has && more {
		return kind + "/" + here + "/" + rest
	}
	return path
}

func either(ids map[string]string, id string) string {
	if here, has := ids[id]; has {
		return here
	}
	return id
}
