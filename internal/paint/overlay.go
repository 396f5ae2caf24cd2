package paint

import (
	"image"
	"image/color"
	"math"

	"golang.org/x/image/draw"

	"synaptor/internal/core/overlay"
)

// The looks of overlays, as in overlay.css.
var (
	bandGround  = color.NRGBA{0x0d, 0x10, 0x16, 0xe0}
	bandEdge    = hex("#c9d27a")
	boardGround = color.NRGBA{0xf6, 0xf3, 0xea, 0xf2}
	boardInk    = hex("#14181f")
	whoGround   = hex("#5b6bd0")
)

// overlayLines is how many lines an overlay has at most.
const overlayLines = 4

// Overlays draws what the audience reads onto a picture.
func (p *Painter) Overlays(onto *image.RGBA, page overlay.Page) {
	b := onto.Bounds()
	c := &canvas{onto, float64(b.Dx()), float64(b.Dy()), p.corners}
	for _, e := range page.Elements {
		switch {
		case !e.Shown:
		case e.Picture != "":
			p.overlayPicture(c, e)
		default:
			p.overlayWords(c, e)
		}
	}
}

func (p *Painter) overlayPicture(c *canvas, e overlay.Element) {
	img := p.pictures(e.Picture)
	if img == nil {
		return // it is gone, and nothing is shown in its place
	}
	side := img.Bounds()
	scale := min(c.ch(e.Size)/float64(side.Dy()), c.cw(e.Width)/float64(side.Dx()))
	w, h := float64(side.Dx())*scale, float64(side.Dy())*scale
	x, y := c.overlayLeft(e, w), c.ch(e.Y)
	draw.ApproxBiLinear.Scale(c.img, image.Rect(int(x), int(y), int(x+w), int(y+h)), img, side, draw.Over, nil)
}

// overlayLeft is where something of a width begins, as its overlay has it.
func (c *canvas) overlayLeft(e overlay.Element, width float64) float64 {
	switch e.Align {
	case "middle":
		return c.cw(e.X+e.Width/2) - width/2
	case "right":
		return c.cw(e.X+e.Width) - width
	}
	return c.cw(e.X)
}

// overlayWords draws words: a text, and what is below it, or who has said it above it.
func (p *Painter) overlayWords(c *canvas, e overlay.Element) {
	size, ink := c.ch(e.Size), white
	padX, padY, first := 0.0, 0.0, 0.0 // first is what stands before the words
	switch e.Look {
	case "band":
		padX, padY = 0.6*size, 0.2*size
	case "board":
		padX, padY, ink = 0.7*size, 0.3*size, boardInk
	}
	comment := e.Kind == "comment"
	text, second := p.strong, p.light
	if comment {
		text, first = p.light, 2.1*size
	}
	room := c.cw(e.Width) - 2*padX - first
	lines := text.wrapped(e.Text, size, room)
	if len(lines) > overlayLines {
		lines = lines[:overlayLines]
	}
	height, wide := 1.2*size*float64(len(lines)), 0.0
	for _, l := range lines {
		wide = max(wide, text.width(l, size))
	}
	if e.Second != "" {
		height += 1.2 * 0.7 * size
		wide = max(wide, second.width(e.Second, 0.7*size))
	}
	wide = min(wide, room)
	w, h := wide+2*padX+first, height+2*padY
	x, y := c.overlayLeft(e, w), c.ch(e.Y)
	switch e.Look {
	case "band":
		c.field(box{x, y, w, h}, bandGround)
		c.field(box{x, y, math.Max(1, 0.18*size), h}, bandEdge)
	case "board":
		c.field(box{x, y, w, h}, boardGround)
	}
	x, y = x+padX, y+padY
	if comment {
		c.disc(pt{x + 0.8*size, y + 0.8*size}, 0.8*size, whoGround)
		c.text(p.strong, e.Initial, size, 1.2*size, pt{x + 0.8*size - p.strong.width(e.Initial, size)/2, y + 0.2*size}, white)
		if e.Whose != "" {
			c.portrait(p.pictures(e.Whose), pt{x + 0.8*size, y + 0.8*size}, 0.8*size)
		}
		x += first
		y = c.overlayLine(second, e.Second, 0.7*size, x, y, ink)
	}
	for _, l := range lines {
		if e.Look == "edged" || e.Look == "plain" {
			c.text(text, l, size, 1.2*size, pt{x + 1, y + 1}, black)
		}
		y = c.overlayLine(text, l, size, x, y, ink)
	}
	if !comment {
		c.overlayLine(second, e.Second, 0.7*size, x, y, ink)
	}
}

// overlayLine draws a line, and gives where the next one begins.
func (c *canvas) overlayLine(t *typeface, line string, size, x, y float64, ink color.NRGBA) float64 {
	if line == "" {
		return y
	}
	c.text(t, line, size, 1.2*size, pt{x, y}, ink)
	return y + 1.2*size
}

// portrait draws the middle of a picture as a circle; nil: nothing.
func (c *canvas) portrait(img image.Image, middle pt, radius float64) {
	if img == nil {
		return
	}
	side := min(img.Bounds().Dx(), img.Bounds().Dy())
	from := image.Rect(0, 0, side, side).Add(img.Bounds().Min).Add(image.Pt((img.Bounds().Dx()-side)/2, (img.Bounds().Dy()-side)/2))
	to := image.Rect(int(middle.x-radius), int(middle.y-radius), int(middle.x+radius), int(middle.y+radius))
	square := image.Rectangle{Max: to.Size()}
	face, round := image.NewRGBA(square), image.NewRGBA(square)
	draw.ApproxBiLinear.Scale(face, square, img, from, draw.Src, nil)
	(&canvas{round, float64(square.Dx()), float64(square.Dy()), c.kept}).disc(pt{radius, radius}, radius, white)
	draw.DrawMask(c.img, to, face, image.Point{}, round, image.Point{}, draw.Over)
}

// disc fills a circle.
func (c *canvas) disc(middle pt, radius float64, col color.NRGBA) {
	const corners = 40
	points := make([]pt, corners)
	for i := range points {
		a := 2 * math.Pi * float64(i) / corners
		points[i] = pt{middle.x + radius*math.Cos(a), middle.y + radius*math.Sin(a)}
	}
	c.polygon(col, points...)
}
