// Package demotest changes the demo show for tests of the whole application: see Clear.
package demotest

import (
	"errors"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// Clear takes what stands in the way of a test out of the demo show: the keys that stand in the last row of the producer grid, so that a test has a
// row to itself, and what answers that the sound desk is back. Where a machine stands still for a moment the desk is lost, and comes back in the
// middle of any test.
func Clear(e *edit.Service) error {
	who := edit.Who{Session: "setup", Actor: "Setup"}
	errs := []error{e.Fill(who, "No recall", func(d *show.Draft) {
		r := *d.Now().Reflex("recall")
		r.Off = true
		d.Put(&r)
	})}
	for _, key := range []string{"d4", "e4", "f4"} {
		_, err := e.Stand(who, "standing-meteor-night-grid-6x4-"+key, false, "cut")
		errs = append(errs, err, e.Clear(who, "cut", []string{key}))
	}
	return errors.Join(errs...)
}
