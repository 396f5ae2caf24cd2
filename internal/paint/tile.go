package paint

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"math"
	"slices"
	"time"

	xdraw "golang.org/x/image/draw"
	"golang.org/x/image/math/f64"

	"synaptor/internal/core/face"
)

// corner is the radius of a tile's corners.
const corner = 6

// tile draws a face as a key shows it. The layers and their measures are those of the interface's tile (web/src/parts/Tile.svelte):
// a test compares the two.
func (p *Painter) tile(c *canvas, f face.Face, m Moment) {
	fg, spine := hex(f.Text), roleColour(f.Role)
	c.ground(hex(f.Background))
	defer c.rounded(corner)
	pictured := p.picture(c, f, m)
	if f.Mapping != "" {
		c.field(box{0, 0, max(3, c.cw(4.2)), c.h}, spine)
	}
	if !pictured && f.Mapping != "" {
		p.glyph(c, f.Glyph, f.Away, pt{c.cw(17.5), c.ch(16)}, c.cw(17), mix(fg, spine, 0.3))
	}
	if !f.Unknown && f.Unsent == 0 {
		p.where(c, f, faint(fg, 0.75), pictured)
	}
	p.label(c, f, fg, pictured)
	c.states(f)
	p.run(c, f, m.Now)
	if f.Unsent > 0 {
		p.unsent(c, f.Unsent)
	}
	if f.Unknown {
		p.unknown(c)
	}
	if f.Forced {
		size := max(8, c.cw(9))
		c.field(box{0, 0, c.w, size * 1.3}, chosen)
		c.text(p.strong, "tried out", size, size*1.3, pt{(c.w - p.strong.width("tried out", size)) / 2, 0}, black)
	}
	if f.Refusal != "" {
		p.refusal(c, f.Refusal, box{0, 0, c.w, c.h}, c.cw(10.5), c.cw(6), c.cw(7))
	}
	switch {
	case m.Pressed:
		c.brightness(1.5)
	case m.Dark && f.Blink:
		c.brightness(0.35)
	}
}

// picture draws the picture of a face, or its live one, and tells whether it has one.
func (p *Painter) picture(c *canvas, f face.Face, m Moment) bool {
	if f.Picture == "" && f.Live == nil {
		return false
	}
	if f.Picture != "" {
		c.place(p.pictures(f.Picture), f.Fit != "fit")
	}
	if f.Live != nil {
		c.place(m.Live, true)
	}
	return true
}

// place draws a picture in the middle, as large as it fits; covers: as large as it covers everything.
func (c *canvas) place(img image.Image, covers bool) {
	if img == nil || img.Bounds().Empty() {
		return
	}
	w, h := float64(img.Bounds().Dx()), float64(img.Bounds().Dy())
	by := min(c.w/w, c.h/h)
	if covers {
		by = max(c.w/w, c.h/h)
	}
	at := img.Bounds().Min
	to := f64.Aff3{by, 0, (c.w-w*by)/2 - float64(at.X)*by, 0, by, (c.h-h*by)/2 - float64(at.Y)*by}
	xdraw.BiLinear.Transform(c.img, to, img, img.Bounds(), draw.Over, nil)
}

func (p *Painter) where(c *canvas, f face.Face, col color.NRGBA, pictured bool) {
	if f.Where == "" {
		return
	}
	size := c.cw(12)
	mask := c.room(pt{c.w - c.cw(18.5) - p.strong.width(f.Where, size), c.ch(16.5)}, p.strong.width(f.Where, size), size*1.2)
	if pictured {
		mask = image.NewAlpha(c.img.Bounds()) // its shadow reaches far
	}
	at := pt{c.w - c.cw(18.5) - p.strong.width(f.Where, size), math.Round(c.ch(16.5) + p.strong.baseline(size, size*1.2))}
	p.strong.mask(mask, f.Where, size, at)
	c.shadows(mask, pictured)
	c.tint(inked(mask, col), image.Point{}, col)
}

// shadows have text stand out from a picture.
func (c *canvas) shadows(mask *image.Alpha, pictured bool) {
	if pictured { // the second is that of the text with the first
		first := blurred(mask, c.cw(1.5))
		c.shadow(under(mask, first), c.cw(3))
		c.tint(first, image.Point{}, black)
	}
}

// label draws the lines of a label where the face has it.
func (p *Painter) label(c *canvas, f face.Face, col color.NRGBA, pictured bool) {
	t := p.strong
	if f.Light {
		t = p.light
	}
	size := c.cw(f.Size)
	height := size * face.LineHeight
	top := c.h - c.ch(27) - height*float64(len(f.Lines))
	switch f.Position {
	case "middle":
		top = c.ch(53) - height*float64(len(f.Lines))/2
	case "top":
		top = c.ch(35)
	}
	if f.Unknown && !slices.Contains(f.On, face.OnAir) {
		col = faint(col, 0.85)
	}
	mask := c.room(pt{0, top}, c.w, height*float64(len(f.Lines)))
	if pictured {
		mask = image.NewAlpha(c.img.Bounds())
	}
	for i, text := range f.Lines {
		text += " " // as the interface has it, which counts it in
		x := c.cw(16.5)
		switch room := c.w - 2*x - t.width(text, size); f.Align {
		case "centre":
			x += room / 2
		case "right":
			x += room
		}
		y := math.Round(top + float64(i)*height + t.baseline(size, height))
		t.mask(mask, text, size, pt{x, y})
		if f.Gone {
			thick := max(1, size*0.12)
			at := int(math.Floor(y - t.at('x', size).ascent/3 - thick/2))
			draw.Draw(mask, image.Rect(int(x), at, int(x+t.width(text, size)), at+int(thick+0.5)), image.Opaque, image.Point{}, draw.Over)
		}
	}
	c.shadows(mask, pictured)
	c.tint(inked(mask, col), image.Point{}, col)
}

// states draws what the lamps show: each role has a place and a shape of its own.
func (c *canvas) states(f face.Face) {
	on := func(role string) bool { return slices.Contains(f.On, role) }
	pending := func(role string) bool { return slices.Contains(f.Pending, role) }
	side := min(c.w, c.h)
	n := func(v float64) float64 { return v * side / 100 }
	at := func(x, y, w, h float64) box { return box{(c.w-side)/2 + n(x), (c.h-side)/2 + n(y), n(w), n(h)} }
	from := func(x, y float64) pt { b := at(x, y, 0, 0); return pt{b.x, b.y} }
	opacity := func(role string, less float64) float64 {
		if pending(role) {
			return less
		}
		return 1
	}
	frame := at(10.4, 10.4, 79.2, 79.2)
	if on(face.Preview) {
		c.rect(stroke{width: n(8.33)}, faint(preview, opacity(face.Preview, 0.3)), frame)
	}
	if pending(face.Preview) {
		c.rect(dashed(n(5), frame), preview, frame)
	}
	if on(face.Armed) {
		for _, b := range [][3]pt{{{9, 26}, {9, 9}, {26, 9}}, {{74, 9}, {91, 9}, {91, 26}}, {{91, 74}, {91, 91}, {74, 91}}, {{26, 91}, {9, 91}, {9, 74}}} {
			c.lines(stroke{width: n(5)}, armed, false, from(b[0].x, b[0].y), from(b[1].x, b[1].y), from(b[2].x, b[2].y))
		}
	}
	if on(face.Running) {
		c.fill(at(6.25, 6.25, 87.5, 6), armed)
	}
	if on(face.OnAir) {
		c.fill(at(6.25, 75, 87.5, 18.75), faint(onAir, opacity(face.OnAir, 0.35)))
	}
	if on(face.Set) {
		c.fill(at(6.25, 81, 43.75, 12.75), white)
	}
	if f.Assumed {
		for x := 6.0; x < 80; x += 16 {
			c.lines(stroke{width: n(3)}, black, false, from(x, 94), from(x+19, 75))
		}
	}
	for role, col := range map[string]color.NRGBA{face.OnAir: onAir, face.Set: white, face.Running: armed} {
		if pending(role) {
			c.rect(dashed(n(3.5), at(8, 76.75, 84, 15.25)), col, at(8, 76.75, 84, 15.25))
		}
	}
}

// dashed is the stroke of what is not so yet: around a rectangle, a fifth of it is left out.
func dashed(width float64, b box) stroke {
	round := 2 * (b.w + b.h)
	return stroke{width: width, dashes: []float64{0.8 * round, 0.2 * round}}
}

// run draws how the macro of a key goes on, or how it ended.
func (p *Painter) run(c *canvas, f face.Face, now time.Time) {
	if f.Run == nil {
		return
	}
	bar := box{c.cw(6.25), c.ch(6.25), c.w - 2*c.cw(6.25), c.ch(6)}
	switch {
	case f.Run.State == "running" && f.Run.Open:
		bar.w *= 0.25
		c.field(bar, armed)
	case f.Run.State == "running":
		gone := 1.0
		if f.Run.LengthMs > 0 {
			gone = min(1, max(0, float64(now.Sub(f.Run.Started).Milliseconds())/float64(f.Run.LengthMs)))
		}
		bar.w *= 1 - gone
		c.field(bar, armed)
	default:
		p.outcome(c, f.Run.State, hex(f.Text))
	}
}

// outcome draws how a run ended: a tick, a square, or a mark in a field.
func (p *Painter) outcome(c *canvas, state string, fg color.NRGBA) {
	side := c.cw(20)
	x, y := (c.w-side)/2, c.ch(3)
	at := func(px, py float64) pt { return pt{x + px*side/100, y + py*side/100} }
	switch state {
	case "done":
		c.lines(stroke{width: side * 0.14}, fg, false, at(12, 55), at(40, 82), at(90, 20))
	case "halted":
		c.fill(box{x + side*0.15, y + side*0.15, side * 0.7, side * 0.7}, fg)
	default:
		c.fill(box{x - side*0.3, y, side * 1.6, side}, white)
		c.fill(box{x + side*0.42, y + side*0.12, side * 0.16, side * 0.5}, black)
		c.fill(box{x + side*0.42, y + side*0.72, side * 0.16, side * 0.16}, black)
	}
}

func (p *Painter) unsent(c *canvas, n int) {
	size := max(7, c.cw(9))
	text := fmt.Sprintf("%d not sent", n)
	w, x := p.strong.width(text, size), c.w-c.cw(6.25)-c.cw(3)
	c.field(box{x - w - c.cw(3), c.ch(15), w + 2*c.cw(3), size * 1.2}, white)
	c.text(p.strong, text, size, size*1.2, pt{x - w, c.ch(15)}, black)
}

func (p *Painter) unknown(c *canvas) {
	size := c.cw(36)
	mask := image.NewAlpha(c.img.Bounds())
	p.strong.mask(mask, "?", size, pt{c.w - c.cw(15) - p.strong.width("?", size), math.Round(c.ch(4) + p.strong.baseline(size, size))})
	c.shadow(mask, c.cw(2)) // a text-shadow is blurred by half of what it says (CSS Text Decoration 3)
	c.tint(inked(mask, white), image.Point{}, white)
}

// refusal says in a field why a press was refused.
func (p *Painter) refusal(c *canvas, text string, field box, size, left, top float64) {
	c.field(field, white)
	for i, l := range p.strong.wrapped(text, size, field.w-2*left) {
		if y := field.y + top + float64(i)*size*1.15; y < field.y+field.h {
			c.text(p.strong, l, size, size*1.15, pt{field.x + left, y}, black)
		}
	}
}
