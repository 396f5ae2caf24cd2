// Package paint draws faces as pictures, as the interface draws them, for controllers whose keys show pictures of their own. It is
// pure: the same face, size and moment give the same picture. Lengths are in pixels; a length of a face counts in hundredths of its
// width or height, as in the interface.
package paint

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"strconv"
	"time"

	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"

	"synaptor/internal/core/face"
)

// The colours of the dark theme, as in tokens.css: what a face shows is not for its theme to change.
var (
	onAir   = hex(face.RoleColours[face.OnAir])
	preview = hex(face.RoleColours[face.Preview])
	armed   = hex(face.RoleColours[face.Armed])
	line    = hex("#3a4048")
	chosen  = hex("#33c8d8")
	white   = hex("#ffffff")
	black   = hex("#000000")

	roles = map[string]color.NRGBA{
		"streaming": hex("#a08cd8"), "switcher": hex("#7d9fd6"), "sound": hex("#5fb3ad"), "intercom": hex("#d69a63"), "lights": hex("#cfc06a"),
		"camera": hex("#d088b8"), "player": hex("#b08d74"), "chat": hex("#8b92dc"), "computer": hex("#9aa2ab"),
		"titles": hex("#a8b46a"), "slides": hex("#7fb0c4"), "prompter": hex("#b8a890"), "meeting": hex("#c79ad0"), "music": hex("#86b89a"),
	}
)

func roleColour(role string) color.NRGBA {
	if c, has := roles[role]; has {
		return c
	}
	return hex("#9aa2ab")
}

// hex reads a colour written #rrggbb; what is none is black.
func hex(s string) color.NRGBA {
	if len(s) != 7 || s[0] != '#' {
		return color.NRGBA{A: 255}
	}
	n, err := strconv.ParseUint(s[1:], 16, 24)
	if err != nil {
		return color.NRGBA{A: 255}
	}
	return color.NRGBA{R: uint8(n >> 16), G: uint8(n >> 8), B: uint8(n), A: 255}
}

// mix is a colour with a share of another one, as CSS mixes them in sRGB.
func mix(a, b color.NRGBA, share float64) color.NRGBA {
	m := func(x, y uint8) uint8 { return uint8(float64(x)*(1-share) + float64(y)*share + 0.5) }
	return color.NRGBA{R: m(a.R, b.R), G: m(a.G, b.G), B: m(a.B, b.B), A: m(a.A, b.A)}
}

// faint is a colour that lets through what is behind it.
func faint(c color.NRGBA, opacity float64) color.NRGBA {
	c.A = uint8(float64(c.A)*opacity + 0.5)
	return c
}

// Pictures gives a picture of the library by its id; nil: it has none.
type Pictures func(id string) image.Image

// Painter draws faces. It is for one goroutine.
type Painter struct {
	strong, light *typeface
	glyphs        map[glyphKey]*image.Alpha
	corners       map[cornersKey]*image.Alpha
	pictures      Pictures
}

// New makes a painter. pictures may be nil.
func New(pictures Pictures) (*Painter, error) {
	if pictures == nil {
		pictures = func(string) image.Image { return nil }
	}
	p := &Painter{glyphs: map[glyphKey]*image.Alpha{}, corners: map[cornersKey]*image.Alpha{}, pictures: pictures}
	for _, f := range []struct {
		into  **typeface
		light bool
	}{{&p.strong, false}, {&p.light, true}} {
		t := &typeface{faces: map[fontKey]*sized{}}
		for _, file := range face.FontFiles(f.light) {
			part, err := opentype.Parse(file)
			if err != nil {
				return nil, fmt.Errorf("load the face font: %w", err)
			}
			t.parts = append(t.parts, (*sfnt.Font)(part))
		}
		*f.into = t
	}
	return p, nil
}

// Moment is what a face looks like besides what it is: held down, in the dark half of a blink, and when.
type Moment struct {
	Pressed bool
	Dark    bool
	Now     time.Time
	// Live is the newest frame of a face with a live picture; nil: there is none yet.
	Live image.Image
}

// Kinds of control that are drawn otherwise than as a tile.
const (
	Dial   = "dial"
	Slider = "slider"
	Ribbon = "ribbon"
)

// Draw draws a face as a kind of control shows it, so many pixels wide and high.
func (p *Painter) Draw(f face.Face, kind string, width, height int, m Moment) *image.RGBA {
	c := &canvas{Blank(width, height), float64(width), float64(height), p.corners}
	switch kind {
	case Dial, Slider, Ribbon:
		p.dial(c, f, kind, m)
	default:
		p.tile(c, f, m)
	}
	return c.img
}

// Blank is what a control without a face shows.
func Blank(width, height int) *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, width, height))
	draw.Draw(img, img.Bounds(), image.NewUniform(black), image.Point{}, draw.Src)
	return img
}
