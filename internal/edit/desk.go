package edit

import (
	"synaptor/internal/core/show"
)

// Desk gives how somebody sees the Desk: as they have arranged it, else as it was arranged at this computer, else as suits the show.
func (s *Service) Desk(person string) (show.Desk, error) {
	d, err := s.base().Desk(person)
	return s.Program().Show.DeskOf(d), err
}

// ArrangeDesk stores how somebody wants the Desk. It is no edit of the show.
func (s *Service) ArrangeDesk(person string, d show.Desk) error {
	if errs := s.Program().Show.CheckDesk(d); len(errs) > 0 {
		return FieldErrors(errs)
	}
	return s.base().SetDesk(person, d)
}
