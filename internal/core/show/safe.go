package show

import "strings"

// SafePicture is what an output shows when everything has to be safe: an action that puts a picture on it.
type SafePicture struct {
	ID   string `json:"id"` // of the output
	Then Call   `json:"then"`
}

// Ref implements Entity.
func (e *SafePicture) Ref() Ref { return Ref{KindSafe, e.ID} }

// Title implements Entity.
func (e *SafePicture) Title() string { return "Safe picture of " + e.ID }

// SafePicture returns the safe picture of an output by its id, or nil.
func (s *Show) SafePicture(output string) *SafePicture {
	p, _ := s.entities[KindSafe][output].(*SafePicture)
	return p
}

// SafePictures returns all safe pictures, in the order of their outputs' ids.
func (s *Show) SafePictures() []*SafePicture {
	return sorted(s, KindSafe, func(a, b *SafePicture) int { return strings.Compare(a.ID, b.ID) })
}
