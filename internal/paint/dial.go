package paint

import (
	"image/color"
	"math"
	"slices"

	"synaptor/internal/core/face"
)

// The quiet colours of dials and sliders.
var (
	dialGround  = hex("#1d2126")
	dialPressed = hex("#39424c")
	dialName    = hex("#d3d9df")
	hairline    = hex("#aab3bc")
)

// dial draws a face as a dial, a slider or a ribbon shows it, with the measures of the interface's (web/src/parts/Dial.svelte).
func (p *Painter) dial(c *canvas, f face.Face, kind string, m Moment) {
	ground := dialGround
	if m.Pressed {
		ground = dialPressed
	}
	c.ground(ground)
	hue := roleColour(f.Role)
	share, known := 0.0, f.Dial != nil && f.Dial.Text != "?" && !f.Unknown
	if f.Dial != nil {
		share = min(1, max(0, f.Dial.Share))
	}
	wide := c.w >= 1.5*c.h
	switch {
	case kind == Dial:
		defer c.rounded(min(c.w, c.h) / 2)
		p.arcs(c, share, known, hue)
	case kind == Ribbon && f.Dial == nil:
		defer c.rounded(corner)
		c.hairline()
	default:
		defer c.rounded(corner)
		c.slot(share, known, wide, hue)
	}
	p.value(c, f, kind)
	c.lamp(f, kind)
	if f.Away {
		c.brightness(0.6)
	}
	if f.Refusal != "" {
		p.refusal(c, f.Refusal, box{c.cw(15), c.ch(15), c.w - 2*c.cw(15), c.h - 2*c.ch(15)}, max(10, c.cw(9)), 3, 3)
	}
}

// arcs draws the track of a dial, its value and its hand: 270 degrees, open below.
func (p *Painter) arcs(c *canvas, share float64, known bool, hue color.NRGBA) {
	side := min(c.w, c.h)
	n := func(v float64) float64 { return v * side / 100 }
	centre := pt{c.w / 2, c.h / 2}
	c.arc(stroke{width: n(7)}, line, centre, n(40), 135, 270)
	if !known {
		return
	}
	if share > 0 {
		c.arc(stroke{width: n(7)}, hue, centre, n(40), 135, 270*share)
	}
	sin, cos := math.Sincos((share*270 - 225) * math.Pi / 180)
	c.lines(stroke{width: n(4)}, white, false, pt{centre.x + n(44)*cos, centre.y + n(44)*sin}, pt{centre.x + n(32)*cos, centre.y + n(32)*sin})
}

// slot draws the track of a slider with its value.
func (c *canvas) slot(share float64, known, wide bool, hue color.NRGBA) {
	if wide {
		b := box{c.cw(6), c.ch(14), c.w - 2*c.cw(6), c.ch(30)}
		c.field(b, line)
		if known {
			w := min(b.w*share, b.w-4)
			c.field(box{b.x, b.y, w, b.h}, hue)
			c.field(box{b.x + w, b.y, 4, b.h}, white)
		}
		return
	}
	w := max(10, c.cw(18))
	b := box{c.w/2 - w/2, c.ch(6), w, c.h - c.ch(6) - max(48, c.ch(24))}
	c.field(b, line)
	if known {
		h := max(4, b.h*share)
		c.field(box{b.x, b.y + b.h - h, w, h}, hue)
		c.field(box{b.x, b.y + b.h - h - 4, w, 4}, white)
	}
}

// hairline draws a ribbon that has no value: something to swipe along.
func (c *canvas) hairline() {
	by := min(c.w/100, c.h/20)
	at := func(x, y float64) pt { return pt{(c.w-100*by)/2 + x*by, (c.h-20*by)/2 + y*by} }
	s := stroke{width: 1.5 * by}
	c.lines(s, hairline, false, at(12, 10), at(88, 10))
	c.lines(s, hairline, false, at(18, 4), at(12, 10), at(18, 16))
	c.lines(s, hairline, false, at(82, 4), at(88, 10), at(82, 16))
}

// value writes the value and what it is of.
func (p *Painter) value(c *canvas, f face.Face, kind string) {
	text, name := "", f.Label
	if f.Dial != nil {
		text = f.Dial.Text
	}
	if name == "" {
		name = f.Name
	}
	if f.Mapping == "" {
		return
	}
	big, small, left := max(11, c.cw(15)), max(10, c.cw(12.5)), c.cw(19)
	if kind != Dial {
		big = max(10.5, min(c.cw(17), 26))
		small, left = big, 4
	}
	lines := p.strong.wrapped(name, small, c.w-2*left)
	if len(lines) > 2 {
		lines = lines[:2]
		lines[1] += "…"
	}
	height := big*1.15 + float64(len(lines))*small*1.15
	y := (c.h - height) / 2
	if kind != Dial {
		y = c.h - 5 - height
	}
	write := func(text string, size float64, col color.NRGBA) {
		c.text(p.strong, text, size, size*1.15, pt{(c.w - p.strong.width(text, size)) / 2, y}, col)
		y += size * 1.15
	}
	write(text, big, white)
	for _, l := range lines {
		write(l, small, dialName)
	}
}

// lamp draws the lamp of a dial.
func (c *canvas) lamp(f face.Face, kind string) {
	h := max(5, 7*min(c.w, c.h)/100)
	b := box{c.cw(36), c.h - c.ch(6) - h, c.w - 2*c.cw(36), h}
	if kind != Dial {
		b = box{0, 0, c.w, 6}
	}
	for _, l := range []struct {
		role string
		col  color.NRGBA
	}{{face.Set, white}, {face.OnAir, onAir}, {face.Armed, armed}} {
		if slices.Contains(f.On, l.role) {
			c.field(b, l.col)
		}
		if slices.Contains(f.Pending, l.role) {
			in := box{b.x + 1, b.y + 1, b.w - 2, b.h - 2}
			c.rect(stroke{width: 2, dashes: []float64{4, 4}}, white, in)
		}
	}
}
