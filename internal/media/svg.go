package media

import (
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

const svgSpace = "http://www.w3.org/2000/svg"

// What of SVG 2 a picture is drawn with. Other elements are left out, with what
// is in them.
var svgElements = words(`svg g path rect circle ellipse line polyline polygon text tspan defs linearGradient radialGradient stop
	clipPath mask pattern symbol use title desc marker`)

// svgAttributes are kept; others are left out.
var svgAttributes = words(`id d x y x1 y1 x2 y2 cx cy r rx ry fx fy width height points viewBox preserveAspectRatio transform
	fill fill-opacity fill-rule stroke stroke-width stroke-opacity stroke-linecap stroke-linejoin stroke-miterlimit stroke-dasharray
	stroke-dashoffset opacity color offset stop-color stop-opacity clip-path clip-rule mask gradientUnits gradientTransform spreadMethod
	patternUnits patternTransform maskUnits clipPathUnits font-size font-family font-weight font-style text-anchor dx dy letter-spacing
	display visibility href version markerWidth markerHeight refX refY orient marker-start marker-mid marker-end vector-effect`)

func words(list string) map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(list) {
		out[w] = true
	}
	return out
}

// looksLikeSVG tells whether the first element of a text is svg.
func looksLikeSVG(b []byte) bool {
	d := xml.NewDecoder(bytes.NewReader(b[:min(len(b), 4096)]))
	for {
		t, err := d.Token()
		if err != nil {
			return false
		}
		if s, ok := t.(xml.StartElement); ok {
			return s.Name.Local == "svg"
		}
	}
}

// takeSVG writes an SVG picture again with what it is drawn with, and nothing
// else. One that carries a script, an event handler or an address outside of
// itself is refused: whoever made it meant more than a picture.
func takeSVG(body []byte) (File, error) {
	p := File{Kind: "image/svg+xml", Frames: 1, Width: 100, Height: 100}
	if len(body) > MaxDrawing {
		return p, refused("This SVG has more than %d MB, and %d MB is the most for a drawing.", MaxDrawing>>20, MaxDrawing>>20)
	}
	var out bytes.Buffer
	c := &copier{out: xml.NewEncoder(&out), rules: map[string]string{}, file: &p}
	d := xml.NewDecoder(bytes.NewReader(body))
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return p, refused("This SVG cannot be read: %v.", err)
		}
		if err := c.take(t); err != nil {
			return p, err
		}
	}
	if err := c.out.Flush(); err != nil || out.Len() == 0 {
		return p, refused("This SVG is empty.")
	}
	if err := c.work.check(); err != nil {
		return p, err
	}
	p.Body = out.Bytes()
	return p, nil
}

// copier writes a drawing again, token by token.
type copier struct {
	out     *xml.Encoder
	file    *File
	work    weights
	rules   map[string]string // of style sheets before their use: declarations by class
	sheet   *strings.Builder  // the style sheet that is being read
	roots   int
	depth   int
	skipped int // how deep in what is left out
}

func (c *copier) take(t xml.Token) (err error) {
	switch t := t.(type) {
	case xml.StartElement:
		return c.start(t)
	case xml.EndElement:
		c.depth--
		if c.sheet != nil && t.Name.Local == "style" {
			readRules(c.sheet.String(), c.rules)
			c.sheet = nil
		}
		if c.skipped > 0 {
			c.skipped--
			return nil
		}
		c.work.end()
		err = c.out.EncodeToken(xml.EndElement{Name: xml.Name{Local: t.Name.Local}})
	case xml.CharData:
		if c.sheet != nil {
			c.sheet.Write(t)
		}
		if c.skipped == 0 && c.depth > 0 {
			err = c.out.EncodeToken(t)
		}
	}
	if err != nil {
		return refused("This SVG cannot be read: %v.", err)
	}
	return nil
}

func (c *copier) start(t xml.StartElement) error {
	if c.depth++; c.depth > 200 {
		return refused("This SVG is nested more than 200 deep.")
	}
	if c.depth == 1 {
		c.roots++
	}
	if c.roots > 1 {
		return refused("This SVG has two drawings in it, one after the other. Only one can be used.")
	}
	if err := harmless(t); err != nil {
		return err
	}
	if t.Name.Local == "style" {
		c.sheet = &strings.Builder{}
	}
	if c.skipped > 0 || !svgElements[t.Name.Local] || t.Name.Space != svgSpace && t.Name.Space != "" {
		c.skipped++
		return nil
	}
	start := xml.StartElement{Name: xml.Name{Local: t.Name.Local}}
	if c.depth == 1 {
		c.file.Width, c.file.Height = svgSize(t)
		if err := checkSize(c.file.Width, c.file.Height); err != nil {
			return err
		}
		start.Attr = append(start.Attr, xml.Attr{Name: xml.Name{Local: "xmlns"}, Value: svgSpace})
	}
	start.Attr = append(start.Attr, drawn(t, c.rules)...)
	c.work.begin(start)
	if err := c.out.EncodeToken(start); err != nil {
		return refused("This SVG cannot be read: %v.", err)
	}
	return nil
}

// drawn lists the attributes that an element is drawn with: its own, then what its
// classes and its style say, which win as in CSS.
func drawn(t xml.StartElement, rules map[string]string) (out []xml.Attr) {
	set := func(a xml.Attr) {
		if i := slices.IndexFunc(out, func(o xml.Attr) bool { return o.Name == a.Name }); i >= 0 {
			out[i] = a
		} else {
			out = append(out, a)
		}
	}
	style := ""
	for _, a := range t.Attr {
		switch name := a.Name.Local; {
		case name == "class":
			for _, class := range strings.Fields(a.Value) {
				style = rules[class] + ";" + style
			}
		case name == "style":
			style += ";" + a.Value
		case name != "xmlns" && svgAttributes[name] && plain(a.Value):
			set(xml.Attr{Name: xml.Name{Local: name}, Value: a.Value})
		}
	}
	for _, a := range styles(style) {
		set(a)
	}
	return out
}

// rule is a rule of a style sheet, as drawing programs write them.
var rule = regexp.MustCompile(`([^{}]+)\{([^{}]*)\}`)

// readRules takes in the rules of a style sheet whose selectors are classes.
func readRules(sheet string, rules map[string]string) {
	for _, m := range rule.FindAllStringSubmatch(sheet, 200) {
		for _, selector := range strings.Split(m[1], ",") {
			if class, is := strings.CutPrefix(strings.TrimSpace(selector), "."); is {
				rules[class] += m[2] + ";"
			}
		}
	}
}

// harmless refuses what makes an SVG more than a picture.
func harmless(t xml.StartElement) error {
	switch strings.ToLower(t.Name.Local) {
	case "script", "foreignobject", "iframe", "object", "embed", "handler":
		return refused("This SVG has a %s in it, which a picture needs not. Only drawings can be used.", t.Name.Local)
	}
	for _, a := range t.Attr {
		name, value := strings.ToLower(a.Name.Local), strings.ToLower(strings.TrimSpace(a.Value))
		switch {
		case strings.HasPrefix(name, "on"):
			return refused("This SVG has a script in it (%s). Only drawings can be used.", a.Name.Local)
		case name == "href" && value != "" && !strings.HasPrefix(value, "#"):
			return refused("This SVG points outside of itself (%.40s). Only drawings can be used.", a.Value)
		case strings.Contains(value, "javascript:"):
			return refused("This SVG has a script in it (%s). Only drawings can be used.", a.Name.Local)
		}
	}
	return nil
}

// styles turns the properties of a style attribute into attributes.
func styles(text string) (out []xml.Attr) {
	for _, one := range strings.Split(text, ";") {
		name, value, ok := strings.Cut(one, ":")
		name, value = strings.TrimSpace(name), strings.TrimSpace(value)
		if ok && svgAttributes[name] && name != "href" && plain(value) {
			out = append(out, xml.Attr{Name: xml.Name{Local: name}, Value: value})
		}
	}
	return out
}

// svgSize reads the size of a drawing: its width and height, else its viewBox.
func svgSize(t xml.StartElement) (width, height int) {
	var box []string
	for _, a := range t.Attr {
		switch a.Name.Local {
		case "width":
			width = pixels(a.Value)
		case "height":
			height = pixels(a.Value)
		case "viewBox":
			box = strings.FieldsFunc(a.Value, func(r rune) bool { return r == ' ' || r == ',' })
		}
	}
	if len(box) == 4 && (width == 0 || height == 0) {
		width, height = pixels(box[2]), pixels(box[3])
	}
	if width == 0 || height == 0 {
		return 100, 100
	}
	return width, height
}

func pixels(text string) int {
	f, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(text), "px"), 64)
	if err != nil || f < 0 || f > 1e6 {
		return 0
	}
	return max(1, int(f))
}
