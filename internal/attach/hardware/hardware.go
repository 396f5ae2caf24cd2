// Package hardware is what is told of hardware that is here, whichever way it comes: rows, and what came in from it and where it went.
package hardware

import (
	"fmt"
	"hash/fnv"
	"slices"
	"time"

	"synaptor/internal/feed"
)

// Row is a piece of hardware as the API and the live feed have it.
type Row struct {
	ID   string `json:"id"`
	Kind string `json:"kind"` // of the link that attaches it
	// Match and Place are what a link to it says.
	Match string `json:"match"`
	Place string `json:"place,omitempty"`
	Name  string `json:"name"`
	Via   string `json:"via"` // what carries it
	// Layout is the id of its layout; Own says that its bridge brings the sheet of it.
	Layout string `json:"layout"`
	Own    bool   `json:"own"`
	// Here says that it is here, Since since when it is or is not.
	Here  bool      `json:"here"`
	Since time.Time `json:"since"`
	// Link and Controller are those of the show that it is attached by and to; empty: it is not.
	Link       string `json:"link"`
	Controller string `json:"controller"`
	// Problem is what is wrong with it, in a sentence; empty: nothing is known.
	Problem string   `json:"problem"`
	Battery *float64 `json:"battery,omitempty"`
	Last    *Touch   `json:"last,omitempty"`
	Dimmed  bool     `json:"dimmed"`
	// CanTake says that it can be kept from other programs, Taken that it is; TakenUntil is when it is let go again unless somebody
	// says that all is well.
	CanTake    bool       `json:"canTake,omitempty"`
	Taken      bool       `json:"taken,omitempty"`
	TakenUntil *time.Time `json:"takenUntil,omitempty"`
	// Private says that people may type on it: what is not mapped is told only to who looks.
	Private bool `json:"private,omitempty"`
}

// Touch is what came in from hardware, and where it went.
type Touch struct {
	At      time.Time `json:"at"`
	Control string    `json:"control"` // as the hardware calls it
	Edge    string    `json:"edge"`
	Amount  float64   `json:"amount,omitempty"`
	// To is the control of the controller that it went to; empty: it went nowhere, and Why says why.
	To  string `json:"to"`
	Why string `json:"why,omitempty"`
}

// maxTouches is how many of the last inputs of a piece of hardware are told.
//
//limit:count inputs of hardware that its live view shows | nowhere; older ones are in the journal
const maxTouches = 30

// Why hardware does nothing while it is told to, or while somebody learns what is touched.
const (
	Quiet   = "Real controllers are quiet while a layout is changed."
	Learned = "It is being learned."
)

// ID is that of a piece of hardware.
func ID(kind, match, place string) string {
	h := fnv.New64a()
	fmt.Fprintf(h, "%s\x00%s\x00%s", kind, match, place)
	return fmt.Sprintf("%016x", h.Sum64())
}

// Publish tells whoever follows of a row.
func Publish(hub *feed.Hub, row Row) { hub.Publish("hardware/"+row.ID, []string{"hardware"}, row) }

// Forget has nobody be told of a row any more.
func Forget(hub *feed.Hub, id string) {
	hub.Remove("hardware/" + id)
	hub.Remove("touches/" + id)
}

// Touches are the last inputs of a piece of hardware. The zero value has none.
type Touches struct{ all []Touch }

// Add notes one, and tells whoever looks at the hardware.
func (t *Touches) Add(hub *feed.Hub, id string, one Touch) {
	if t.all = append(t.all, one); len(t.all) > maxTouches {
		t.all = slices.Clone(t.all[1:])
	}
	hub.Publish("touches/"+id, []string{"touches:" + id}, t.all)
}

// Pass tells whoever asks for what is typed of one that is not kept.
func (t *Touches) Pass(hub *feed.Hub, id string, one Touch) {
	hub.Announce("touches/"+id, []string{Typed(id)}, append(slices.Clip(t.all), one))
}

// Typed is the topic of what people type on a piece of hardware, where nothing is bound to it.
func Typed(id string) string { return "typed:" + id }
