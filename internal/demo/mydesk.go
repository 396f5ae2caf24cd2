package demo

import "synaptor/internal/core/show"

// Desk is how Tobin has arranged the Desk: what he presses at the left, what goes on at the right, counting down to the peak of the shower.
func Desk() show.Desk {
	return show.Desk{Controllers: []string{"producer-grid", "scope-console", "treadle", "thumb-pad"}, Parts: []string{"clocks", "now", "presses", "markers"}, Side: "right", CountTo: "23:30"}
}
