package paint

import (
	"image"
	"image/color"
	"image/draw"
	"math"
	"strings"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// typeface is the face font in one weight.
type typeface struct {
	parts []*sfnt.Font
	faces map[fontKey]*sized
	buf   sfnt.Buffer
}

type fontKey struct {
	part int
	size fixed.Int26_6
}

// sized is a part of the font in a size. Its height is that of its letters, rounded as browsers do.
type sized struct {
	font.Face
	ascent, descent float64
}

// maxSizes bounds the sizes of a font that are at hand.
//
//limit:count sizes of text that a painter has at hand | nowhere; they are made again
const maxSizes = 400

// at gives the font that has a character, in a size. A character that none has is drawn as the first has it: as a box.
func (t *typeface) at(r rune, size float64) *sized {
	part := 0
	for i, f := range t.parts {
		if g, err := f.GlyphIndex(&t.buf, r); err == nil && g != 0 {
			part = i
			break
		}
	}
	k := fontKey{part, fixed.Int26_6(size * 64)}
	if s := t.faces[k]; s != nil {
		return s
	}
	if len(t.faces) > maxSizes {
		clear(t.faces)
	}
	f, err := opentype.NewFace(t.parts[part], &opentype.FaceOptions{Size: float64(k.size) / 64, DPI: 72, Hinting: font.HintingNone})
	if err != nil {
		panic(err) // of a font that was parsed, in a size that is a number
	}
	m := f.Metrics()
	s := &sized{f, math.Round(float64(m.Ascent) / 64), math.Round(float64(m.Descent) / 64)}
	t.faces[k] = s
	return s
}

// width is how wide text is in a size.
func (t *typeface) width(text string, size float64) float64 {
	w := 0.0
	for _, r := range text {
		if a, ok := t.at(r, size).GlyphAdvance(r); ok {
			w += float64(a) / 64
		}
	}
	return w
}

// baseline is how far below the top of a line its letters stand.
func (t *typeface) baseline(size, height float64) float64 {
	s := t.at('x', size)
	return math.Floor((height-s.ascent-s.descent)/2) + s.ascent // as browsers do
}

// mask draws text into a mask of the size of a picture, its left end and its baseline at a point.
func (t *typeface) mask(into *image.Alpha, text string, size float64, at pt) {
	dot := fixed.Point26_6{X: fixed.Int26_6(at.x * 64), Y: fixed.Int26_6(at.y * 64)}
	for _, r := range text {
		s := t.at(r, size)
		dr, glyph, from, advance, ok := s.Glyph(dot, r)
		if ok {
			draw.DrawMask(into, dr, image.Opaque, image.Point{}, glyph, from, draw.Over)
		}
		dot.X += advance
	}
}

// text draws text in a colour, its left end and the top of its line at a point.
func (c *canvas) text(t *typeface, text string, size, height float64, at pt, col color.NRGBA) {
	m := c.room(at, t.width(text, size), height)
	t.mask(m, text, size, pt{at.x, math.Round(at.y + t.baseline(size, height))})
	c.tint(inked(m, col), image.Point{}, col)
}

// How browsers here correct text: light text on a dark ground is made a little stronger, since it is blended without regard to how
// colours are seen, and dark text a little more.
const (
	inkGamma    = 1.2
	inkContrast = 0.5
)

// inked is a mask of text with that correction for a colour.
func inked(mask *image.Alpha, col color.NRGBA) *image.Alpha {
	src := (0.2126*float64(col.R) + 0.7152*float64(col.G) + 0.0722*float64(col.B)) / 255
	dst := 1 - src
	if math.Abs(src-dst) < 1.0/256 {
		return mask
	}
	table := &inks[uint8(src*255)]
	table.once.Do(func() {
		linSrc, linDst := math.Pow(src, inkGamma), math.Pow(dst, inkGamma)
		for i := range table.of {
			a := float64(i) / 255
			a += (1 - a) * inkContrast * linDst * a
			table.of[i] = uint8(max(0, min(255, 255*(math.Pow(linSrc*a+linDst*(1-a), 1/inkGamma)-dst)/(src-dst)+0.5)))
		}
	})
	out := image.NewAlpha(mask.Bounds())
	for i, a := range mask.Pix {
		out.Pix[i] = table.of[a]
	}
	return out
}

// inks are the corrections, by how light a colour is.
var inks [256]struct {
	once sync.Once
	of   [256]uint8
}

// room is an empty mask for text: its left end, the top of its lines, how wide and how high they are.
func (c *canvas) room(at pt, width, height float64) *image.Alpha {
	const spare = 3 // letters reach beyond their lines
	r := image.Rect(int(at.x)-spare, int(at.y-height*0.3)-spare, int(at.x+width)+spare, int(at.y+height*1.3)+spare)
	return image.NewAlpha(r.Intersect(c.img.Bounds()))
}

// wrapped breaks text into lines no wider than a width, between words; a word that is too wide stands alone.
func (t *typeface) wrapped(text string, size, width float64) (lines []string) {
	now := ""
	for _, word := range strings.Fields(text) {
		longer := word
		if now != "" {
			longer = now + " " + word
		}
		if now != "" && t.width(longer, size) > width {
			lines = append(lines, now)
			longer = word
		}
		now = longer
	}
	if now != "" {
		lines = append(lines, now)
	}
	return lines
}
