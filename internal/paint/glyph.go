package paint

import (
	"image"
	"image/color"
	"strings"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"

	"synaptor/internal/core/face"
)

type glyphKey struct {
	name string
	side int // in sixteenths of a pixel
	x, y int // where it begins within a pixel, likewise
}

// maxGlyphs bounds the glyphs that are at hand.
//
//limit:count glyphs that a painter has at hand | nowhere; they are drawn again
const maxGlyphs = 1000

// glyph draws a glyph into a square, in a colour; struck: with a line through it.
func (p *Painter) glyph(c *canvas, name string, struck bool, at pt, side float64, col color.NRGBA) {
	if name == "" {
		name = "other"
	}
	left, top := int(at.x), int(at.y)
	k := glyphKey{name, int(side * 16), int((at.x - float64(left)) * 16), int((at.y - float64(top)) * 16)}
	m := p.glyphs[k]
	if m == nil {
		if len(p.glyphs) > maxGlyphs {
			clear(p.glyphs)
		}
		m = drawnGlyph(name, at.x-float64(left), at.y-float64(top), side)
		p.glyphs[k] = m
	}
	c.tint(m, image.Pt(left, top), col)
	if struck {
		c.lines(stroke{width: 3, round: true}, col, false, pt{at.x + 0.12*side, at.y + 0.88*side}, pt{at.x + 0.88*side, at.y + 0.12*side})
	}
}

// drawnGlyph is a glyph as a mask.
func drawnGlyph(name string, x, y, side float64) *image.Alpha {
	n := int(side) + 2
	img := image.NewRGBA(image.Rect(0, 0, n, n))
	svg := face.Glyph(name)
	svg = strings.Replace(svg, "<symbol", `<svg xmlns="http://www.w3.org/2000/svg"`, 1)
	svg = strings.ReplaceAll(strings.Replace(svg, "</symbol>", "</svg>", 1), "currentColor", "#ffffff")
	icon, err := oksvg.ReadIconStream(strings.NewReader(svg), oksvg.IgnoreErrorMode)
	if err == nil {
		icon.SetTarget(x, y, side, side)
		for i := range icon.SVGPaths { // it scales lines, but not how wide they are
			icon.SVGPaths[i].LineWidth *= side / icon.ViewBox.W
		}
		icon.Draw(rasterx.NewDasher(n, n, rasterx.NewScannerGV(n, n, img, img.Bounds())), 1)
	}
	out := image.NewAlpha(img.Bounds())
	for i := range out.Pix {
		out.Pix[i] = img.Pix[4*i+3]
	}
	return out
}
