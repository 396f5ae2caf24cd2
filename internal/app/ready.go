package app

import "synaptor/internal/core/preflight"

// signIns are those of people and panels that end by themselves.
func (a *App) signIns() (out []preflight.SignIn) {
	for _, w := range a.People.All() {
		if w.Until != nil {
			out = append(out, preflight.SignIn{Who: w.Name, Ends: *w.Until})
		}
	}
	return out
}
