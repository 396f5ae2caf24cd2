package media

import (
	"encoding/xml"
	"strings"
)

const (
	// MaxDrawing is the largest SVG, in bytes.
	//limit:bytes a file with an SVG | at the upload
	MaxDrawing = 2 << 20
	// MaxDrawn is how much may be drawn for an SVG: elements and the corners of
	// their paths, each as often as it is used.
	//limit:count elements and corners that an SVG draws | at the upload
	MaxDrawn = 200_000
)

// weights adds up what a browser draws for an SVG. An element that uses another, as
// a copy, a pattern, a mask or a marker, draws that one too; so a text of 1 kB can
// mean millions of elements.
type weights struct {
	all  []*weight
	open []*weight
	byID map[string]*weight
}

// weight is an element, what is in it and what it uses.
type weight struct {
	own    int64 // with the corners of its path
	parts  []*weight
	uses   []string // drawn once for it: copies, masks
	paints []string // drawn for each element and corner in it: patterns, markers
	total  int64
	seen   bool
	within bool // it is being added up
}

func (w *weights) begin(t xml.StartElement) {
	e := &weight{own: 1}
	switch t.Name.Local {
	case "linearGradient", "radialGradient", "stop":
		e.own = 0 // a colour, however often it is used
	}
	if len(w.open) > 0 {
		above := w.open[len(w.open)-1]
		above.parts = append(above.parts, e)
	}
	w.open, w.all = append(w.open, e), append(w.all, e)
	for _, a := range t.Attr {
		switch name := a.Name.Local; {
		case name == "id":
			if w.byID == nil {
				w.byID = map[string]*weight{}
			}
			if w.byID[a.Value] == nil {
				w.byID[a.Value] = e
			}
		case name == "d" || name == "points":
			e.own += corners(a.Value)
		case name == "fill" || name == "stroke" || strings.HasPrefix(name, "marker-"):
			e.paints = append(e.paints, pointsTo(name, a.Value)...)
		default:
			e.uses = append(e.uses, pointsTo(name, a.Value)...)
		}
	}
}

func (w *weights) end() { w.open = w.open[:len(w.open)-1] }

// corners is how many points a path may have at most: each has a number of its own.
func corners(path string) (n int64) {
	number := false
	for _, c := range []byte(path) {
		digit := c >= '0' && c <= '9'
		if digit && !number {
			n++
		}
		number = digit
	}
	return n
}

// check adds up what each element draws. It refuses a drawing that uses itself, and
// one that is more than MaxDrawn.
func (w *weights) check() error {
	for _, e := range w.all {
		if err := w.add(e, 0); err != nil {
			return err
		}
	}
	if len(w.all) > 0 && w.all[0].total > MaxDrawn {
		return refused("This SVG draws more than %d elements and corners, as it uses its parts again and again. Make it simpler.", MaxDrawn)
	}
	return nil
}

// maxChain is how deep elements may be in each other and use each other.
//
//limit:count parts of an SVG that are in each other or use each other | at the upload
const maxChain = 2000

// add works out what an element draws, with what is in it and what it uses.
func (w *weights) add(e *weight, depth int) error {
	if e.seen {
		return nil
	}
	if e.within || depth > maxChain {
		return refused("This SVG uses a part of itself within that part, which has no end.")
	}
	e.within = true
	defer func() { e.within = false }()
	total := e.own
	draw := func(part *weight, times int64) error {
		if part == nil {
			return nil
		}
		if err := w.add(part, depth+1); err != nil {
			return err
		}
		total = min(total+part.total*times, MaxDrawn+1)
		return nil
	}
	for _, p := range e.parts {
		if err := draw(p, 1); err != nil {
			return err
		}
	}
	for _, id := range e.uses {
		if err := draw(w.byID[id], 1); err != nil {
			return err
		}
	}
	for _, id := range e.paints {
		if err := draw(w.byID[id], max(1, total)); err != nil {
			return err
		}
	}
	e.total, e.seen = min(total, MaxDrawn+1), true
	return nil
}
