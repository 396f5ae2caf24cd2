package program

import (
	"slices"
	"strings"

	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
)

// SafePicture is a safe picture compiled for sending. It never changes.
type SafePicture struct {
	Source *show.SafePicture
	Key    reading.Key // the reading that is the picture of the output
	Then   *Response
	// Problem says why it can never be shown; empty: nothing does.
	Problem string
}

// OutputKey is the reading of an output, by the output's id.
func OutputKey(id string) reading.Key {
	device, path, _ := strings.Cut(id, ".")
	return reading.Key{Device: device, Path: strings.ReplaceAll(path, ".", "/")}
}

// compileSafe compiles the safe pictures.
func (n *Program) compileSafe() {
	n.Safe = nil
	for _, source := range n.Show.SafePictures() {
		p := &SafePicture{Source: source, Key: OutputKey(source.ID), Then: n.CompileCall(source.Then)}
		switch {
		case p.Then.Problem != "":
			p.Problem = p.Then.Problem
		case !slices.Contains(p.Then.Bound.Affects(), p.Key):
			p.Problem = "Its action shows nothing on this output."
		}
		n.Safe = append(n.Safe, p)
	}
}
