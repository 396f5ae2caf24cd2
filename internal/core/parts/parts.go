// Package parts takes pages, profiles, macros and reflexes of one show into another, with devices and controllers there in the place of
// their own.
package parts

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
)

// self is the id of Synaptor as a device, which every show has.
const self = "synaptor"

// Wish says what of another show is taken. Ids are those of the other show.
type Wish struct {
	Pages    []string `json:"pages"`
	Profiles []string `json:"profiles"` // with all their pages, and what stands on every page
	Macros   []string `json:"macros"`   // as well; those that are run by what is taken come along
	Reflexes []string `json:"reflexes"`
	// Owner is whose rights the reflexes have from then on; empty: those of this computer.
	Owner string `json:"-"`
	// Devices and Controllers are those of this show that stand in for others, by the id of the other; empty: that one comes along.
	Devices     map[string]string `json:"devices"`
	Controllers map[string]string `json:"controllers"`
	// InPlace are the profiles, pages, macros and reflexes that take the place of what has their name here; the others stand beside it,
	// under a name of their own.
	InPlace []string `json:"inPlace"`
}

// What becomes of a part.
const (
	New     = "new"         // nothing here has its name
	InPlace = "in place"    // of what has its name here
	Beside  = "beside"      // what has its name here, as something else
	Along   = "comes along" // because something that is taken needs it
	StandIn = "stands in"   // a device, a controller or a timer here does its work instead
)

// Row is what becomes of one part.
type Row struct {
	Kind  show.Kind `json:"kind"`
	ID    string    `json:"id"` // in the other show
	Title string    `json:"title"`
	What  string    `json:"what"`
	// As is what it is called here: the name beside another, or what stands in.
	As string `json:"as"`
	// Clash says that something here has its name: it can stand beside that or take its place.
	Clash bool `json:"clash"`
	// Note is what does not come as it was, or what it does by itself; empty: nothing.
	Note string `json:"note"`
}

// Sheets gives the sheet of a layout that is known here; nil: it is not.
type Sheets func(layout string) *device.ControllerSheet

// taking is a wish on its way.
type taking struct {
	now, other *show.Show
	wish       Wish
	d          *show.Draft
	newID      func() string
	sheets     Sheets
	rows       []Row
	// The ids here, by those of the other show.
	pages, profiles, macros, steps, devices, controllers, reflexes, timers, overlays map[string]string
	names                                                                            map[string]string // of the devices here that are driven
	spots                                                                            map[string]map[string]string
}

// Take puts what is wished into a draft of this show, and tells what becomes of each part. It fails where the other show has
// something not, or where a device cannot stand in for another one.
func Take(d *show.Draft, now, other *show.Show, w Wish, sheets Sheets, newID func() string) ([]Row, error) {
	t := &taking{now: now, other: other, wish: w, d: d, newID: newID, sheets: sheets, pages: map[string]string{}, profiles: map[string]string{}, macros: map[string]string{},
		steps: map[string]string{}, devices: map[string]string{}, controllers: map[string]string{}, reflexes: map[string]string{}, timers: map[string]string{}, overlays: map[string]string{}, names: map[string]string{}, spots: map[string]map[string]string{}}
	reflexes, err := t.wantedReflexes()
	if err != nil {
		return nil, err
	}
	pages, macros, err := t.wanted(reflexes)
	if err != nil {
		return nil, err
	}
	text := t.textOf(pages, macros, reflexes)
	for _, id := range t.driven(text) {
		if err := t.device(id); err != nil {
			return nil, err
		}
	}
	text += t.overlaysOf(text)
	t.timersOf(text)
	t.timedBy()
	for _, r := range reflexes {
		t.reflexID(r)
	}
	for _, m := range macros {
		t.macroID(m)
	}
	for _, id := range w.Profiles {
		t.profile(t.other.Profile(id))
	}
	if err := t.shownBy(pages); err != nil {
		return nil, err
	}
	if err := t.heardBy(reflexes); err != nil {
		return nil, err
	}
	for _, p := range pages {
		t.page(p)
	}
	for _, m := range macros {
		t.macro(m)
	}
	for _, m := range t.keysOf(pages) {
		t.key(m)
	}
	for _, r := range reflexes {
		t.reflex(r)
	}
	return t.rows, nil
}

// device decides what is driven in the place of a device of the other show.
func (t *taking) device(id string) error {
	was := t.other.Device(id)
	if here := t.now.Device(t.wish.Devices[id]); here != nil {
		if here.Type != was.Type {
			return fmt.Errorf("%s cannot stand in for %s: it is something else", here.Name, was.Name)
		}
		t.devices[id], t.names[here.ID] = here.ID, here.Name
		t.rows = append(t.rows, Row{Kind: show.KindDevice, ID: id, Title: was.Name, What: StandIn, As: here.Name})
		return nil
	}
	c := *was
	c.Secret, c.Position = "", len(t.d.Now().Devices())+1
	if t.now.Device(id) != nil {
		c.ID = t.newID()
	}
	c.Name = free(c.Name, func(name string) bool {
		return slices.ContainsFunc(t.d.Now().Devices(), func(o *show.Device) bool { return strings.EqualFold(o.Name, name) })
	})
	c.Aliases, c.Slug = nil, show.Slug(c.Name, t.d.Now().DeviceSlugTaken)
	t.devices[id], t.names[c.ID] = c.ID, c.Name
	t.d.Put(&c)
	t.rows = append(t.rows, Row{Kind: show.KindDevice, ID: id, Title: was.Name, What: Along, As: c.Name})
	return nil
}

// free gives a name that is not taken: it, or it with a number.
func free(name string, taken func(string) bool) string {
	out := name
	for n := 2; taken(out); n++ {
		out = fmt.Sprintf("%s %d", name, n)
	}
	return out
}
