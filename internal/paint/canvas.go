package paint

import (
	"image"
	"image/color"
	"image/draw"
	"math"

	"github.com/srwiley/rasterx"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"
)

// canvas is a picture that is being drawn.
type canvas struct {
	img  *image.RGBA
	w, h float64
	kept map[cornersKey]*image.Alpha
}

// cw and ch are hundredths of the width and the height.
func (c *canvas) cw(n float64) float64 { return n * c.w / 100 }
func (c *canvas) ch(n float64) float64 { return n * c.h / 100 }

// box is a rectangle with edges between pixels.
type box struct{ x, y, w, h float64 }

// field fills a rectangle whose edges are put on whole pixels, as browsers do with the boxes of a page.
func (c *canvas) field(b box, col color.NRGBA) {
	x, y := math.Round(b.x), math.Round(b.y)
	c.fill(box{x, y, math.Round(b.x+b.w) - x, math.Round(b.y+b.h) - y}, col)
}

// fill fills a rectangle; what it covers of a pixel is what it colours of it.
func (c *canvas) fill(b box, col color.NRGBA) {
	if whole(b.x) && whole(b.y) && whole(b.w) && whole(b.h) {
		r := image.Rect(int(b.x), int(b.y), int(b.x+b.w), int(b.y+b.h))
		draw.Draw(c.img, r, image.NewUniform(col), image.Point{}, draw.Over)
		return
	}
	c.polygon(col, pt{b.x, b.y}, pt{b.x + b.w, b.y}, pt{b.x + b.w, b.y + b.h}, pt{b.x, b.y + b.h})
}

func whole(f float64) bool { return f == math.Trunc(f) }

type pt struct{ x, y float64 }

func (c *canvas) polygon(col color.NRGBA, points ...pt) {
	low, high := points[0], points[0]
	for _, p := range points {
		low, high = pt{min(low.x, p.x), min(low.y, p.y)}, pt{max(high.x, p.x), max(high.y, p.y)}
	}
	r := image.Rect(int(math.Floor(low.x)), int(math.Floor(low.y)), int(math.Ceil(high.x)), int(math.Ceil(high.y))).Intersect(c.img.Bounds())
	if r.Empty() {
		return
	}
	z := vector.NewRasterizer(r.Dx(), r.Dy())
	at := func(p pt) (x, y float32) { return float32(p.x - float64(r.Min.X)), float32(p.y - float64(r.Min.Y)) }
	z.MoveTo(at(points[0]))
	for _, p := range points[1:] {
		z.LineTo(at(p))
	}
	z.ClosePath()
	z.Draw(c.img, r, image.NewUniform(col), image.Point{})
}

// ground fills the whole picture with a colour.
func (c *canvas) ground(col color.NRGBA) {
	draw.Draw(c.img, c.img.Bounds(), image.NewUniform(col), image.Point{}, draw.Src)
}

// cornersKey is a mask with round corners: its width, height and radius.
type cornersKey struct{ width, height, radius float64 }

// maxCorners bounds the masks with round corners that are at hand.
//
//limit:count masks of corners that a painter has at hand | nowhere; they are made again
const maxCorners = 32

// rounded makes black what is outside of round corners.
func (c *canvas) rounded(radius float64) {
	key := cornersKey{c.w, c.h, radius}
	in := c.kept[key]
	if in == nil {
		if len(c.kept) >= maxCorners {
			clear(c.kept)
		}
		in = c.corners(radius)
		c.kept[key] = in
	}
	for i, a := range in.Pix {
		if a == 255 {
			continue
		}
		for j := range 3 {
			c.img.Pix[4*i+j] = uint8(int(c.img.Pix[4*i+j]) * int(a) / 255)
		}
	}
}

func (c *canvas) corners(radius float64) *image.Alpha {
	z := vector.NewRasterizer(int(c.w), int(c.h))
	const k = 0.5522847498 // of a circle's quarter as a Bézier curve
	r, q, w, h := float32(radius), float32(radius*(1-k)), float32(c.w), float32(c.h)
	z.MoveTo(r, 0)
	z.LineTo(w-r, 0)
	z.CubeTo(w-q, 0, w, q, w, r)
	z.LineTo(w, h-r)
	z.CubeTo(w, h-q, w-q, h, w-r, h)
	z.LineTo(r, h)
	z.CubeTo(q, h, 0, h-q, 0, h-r)
	z.LineTo(0, r)
	z.CubeTo(0, q, q, 0, r, 0)
	z.ClosePath()
	in := image.NewAlpha(c.img.Bounds())
	z.Draw(in, in.Bounds(), image.Opaque, image.Point{})
	return in
}

// stroke is how a line is drawn. dashes alternate between drawn and not drawn.
type stroke struct {
	width  float64
	dashes []float64
	round  bool // at its ends
}

// lines strokes a path that goes from point to point; closed: and back to the first.
func (c *canvas) lines(s stroke, col color.NRGBA, closed bool, points ...pt) {
	c.strokes(s, col, func(to rasterx.Adder) {
		to.Start(rasterx.ToFixedP(points[0].x, points[0].y))
		for _, p := range points[1:] {
			to.Line(rasterx.ToFixedP(p.x, p.y))
		}
		to.Stop(closed)
	})
}

// arc strokes a part of a circle, from an angle on and so far; angles in degrees, clockwise from the right.
func (c *canvas) arc(s stroke, col color.NRGBA, centre pt, radius, from, length float64) {
	const steps = 64
	var points []pt
	for i := range steps + 1 {
		sin, cos := math.Sincos((from + length*float64(i)/steps) * math.Pi / 180)
		points = append(points, pt{centre.x + radius*cos, centre.y + radius*sin})
	}
	c.lines(s, col, false, points...)
}

func (c *canvas) strokes(s stroke, col color.NRGBA, path func(rasterx.Adder)) {
	w, h := int(c.w), int(c.h)
	d := rasterx.NewDasher(w, h, rasterx.NewScannerGV(w, h, c.img, c.img.Bounds()))
	ends := rasterx.ButtCap
	if s.round {
		ends = rasterx.RoundCap
	}
	d.SetStroke(fixed.Int26_6(s.width*64), fixed.Int26_6(4*64), ends, ends, rasterx.RoundGap, rasterx.Miter, s.dashes, 0)
	d.SetColor(col)
	path(d)
	d.Draw()
}

// rect strokes a rectangle, beginning at its upper left corner and clockwise.
func (c *canvas) rect(s stroke, col color.NRGBA, b box) {
	c.lines(s, col, true, pt{b.x, b.y}, pt{b.x + b.w, b.y}, pt{b.x + b.w, b.y + b.h}, pt{b.x, b.y + b.h})
}

// tint draws a mask in a colour, moved by so much.
func (c *canvas) tint(mask *image.Alpha, by image.Point, col color.NRGBA) {
	r := mask.Bounds().Add(by)
	draw.DrawMask(c.img, r, image.NewUniform(col), image.Point{}, mask, mask.Bounds().Min, draw.Over)
}

// brightness multiplies every colour, as the filter of CSS does.
func (c *canvas) brightness(by float64) {
	for i := 0; i < len(c.img.Pix); i += 4 {
		for j := range 3 {
			c.img.Pix[i+j] = uint8(min(255, float64(c.img.Pix[i+j])*by+0.5))
		}
	}
}

// shadow draws the blurred shadow of a mask in black. deviation is that of the blur.
func (c *canvas) shadow(mask *image.Alpha, deviation float64) {
	c.tint(blurred(mask, deviation), image.Point{}, black)
}

// under is a mask with another one under it.
func under(over, below *image.Alpha) *image.Alpha {
	out := image.NewAlpha(over.Bounds())
	for i, o := range over.Pix {
		out.Pix[i] = uint8(int(o) + int(below.Pix[i])*(255-int(o))/255)
	}
	return out
}

// blurred blurs a mask with three box blurs, which come near enough to a Gaussian (W3C Filter Effects, feGaussianBlur).
func blurred(mask *image.Alpha, deviation float64) *image.Alpha {
	d := int(deviation*3*math.Sqrt(2*math.Pi)/4 + 0.5)
	out := image.NewAlpha(mask.Bounds())
	copy(out.Pix, mask.Pix)
	if d < 1 {
		return out
	}
	w, h := mask.Bounds().Dx(), mask.Bounds().Dy()
	row := make([]uint8, max(w, h))
	for pass := range 3 {
		before := d / 2
		after := d - before - 1
		if d%2 == 0 { // an even box is first set to one side, then to the other, then one larger
			switch pass {
			case 1:
				before, after = before-1, after+1
			case 2:
				before, after = d/2, d/2
			}
		}
		for y := range h {
			smooth(out.Pix[y*out.Stride:], 1, w, before, after, row)
		}
		for x := range w {
			smooth(out.Pix[x:], out.Stride, h, before, after, row)
		}
	}
	return out
}

// smooth gives each of n values, which are so far apart, the mean of those around it.
func smooth(v []uint8, apart, n, before, after int, row []uint8) {
	sum, size := 0, before+after+1
	for i := range min(after, n) {
		sum += int(v[i*apart])
	}
	for i := range n {
		if j := i + after; j < n {
			sum += int(v[j*apart])
		}
		row[i] = uint8(sum / size)
		if j := i - before; j >= 0 {
			sum -= int(v[j*apart])
		}
	}
	for i := range n {
		v[i*apart] = row[i]
	}
}
