package bridges

import (
	"synaptor/internal/core/face"
)

// notice is what a control shows instead of a face: a sentence on black, or nothing.
func (s *Service) notice(text string) face.Face {
	f := face.Face{Label: text, Words: text, Background: "#000000", Text: "#aab3bc", Position: "middle"}
	if text != "" {
		fitted := s.font.Fit(text, face.Box{Width: 66, Height: 60, Min: 10, Max: 16})
		f.Lines, f.Size = fitted.Lines, fitted.Size
	}
	return f
}
