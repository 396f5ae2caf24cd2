package truth

import "synaptor/internal/core/show"

// The controllers of the test have one page each.
const (
	keysPage  = "truth-keys"
	dialsPage = "truth-dials"
)

func addKeys(d *show.Draft) {
}
