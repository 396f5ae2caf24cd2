package preflight

import (
	"errors"

	"synaptor/internal/core/show"
)

// ErrChanged says that what a fix is about is not as it was when it was found.
var ErrChanged = errors.New("what this is about has changed meanwhile")

// Safe is a safe picture as far as findings rest on it.
type Safe struct {
	*show.SafePicture
	Called  string // the output
	Problem string // why it can never be shown; empty: nothing does
}

// SafePictures finds those that can never be shown.
func SafePictures(all []Safe) (out []Finding) {
	for _, s := range all {
		if s.Problem == "" {
			continue
		}
		f := finder{subject: s.Ref()}
		f.add("safe-picture-broken", Stops, "", "The safe picture of %s can never be shown: %s", s.Called, s.Problem)
		out = append(out, f.out...)
	}
	return out
}
