// Package print draws pages of controllers, and a sheet of what every gesture
// does, as SVG 1.1 documents of A4 size across (297 by 210 mm).
package print

import (
	"encoding/base64"
	"fmt"
	"html"
	"slices"
	"strings"
	"sync"

	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
)

// Page is a page as it is printed.
type Page struct {
	Show       string
	Controller string
	Profile    string
	Name       string
	Controls   []device.Control
	Faces      map[string]face.Face // by control, at rest
	Notes      map[string]string    // what is planned, by control
	Gestures   []Row                // of the cheat sheet
	// Picture gives a picture of the library and its media type; nil where there is
	// none.
	Picture func(id string) ([]byte, string)
}

// Row is one gesture and what it does.
type Row struct{ Control, Gesture, Does, Guard string }

// Sizes of a sheet in units of a tenth of a millimetre.
const (
	sheetWidth  = 2970
	sheetHeight = 2100
	margin      = 120
	headHeight  = 130
	rowHeight   = 46
	rowsOnSheet = (sheetHeight - 2*margin - headHeight) / rowHeight
)

const font = "Synaptor Print, sans-serif"

// fontFace carries the face font in the document, so that labels are set on paper as
// they are on the keys, wherever it is printed.
var fontFace = sync.OnceValue(func() string {
	return `<style>@font-face{font-family:"Synaptor Print";src:url(data:font/ttf;base64,` + base64.StdEncoding.EncodeToString(face.FontFile()) + `)}</style>`
})

// Keys draws the controls of pages with their faces, one sheet each below the
// other.
func Keys(pages []Page) string {
	var sheets []string
	for _, p := range pages {
		sheets = append(sheets, p.keys())
	}
	return document(sheets)
}

// Gestures lists what every gesture of pages does, on as many sheets as needed.
func Gestures(pages []Page) string {
	var sheets []string
	for _, p := range pages {
		rows := slices.Clone(p.Gestures)
		columns := 2 * rowsOnSheet
		for first := 0; first == 0 || first < len(rows); first += columns {
			sheets = append(sheets, p.list(rows[first:min(len(rows), first+columns)]))
		}
	}
	return document(sheets)
}

// document puts sheets below each other.
func document(sheets []string) string {
	var b strings.Builder
	height := len(sheets) * sheetHeight
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="297mm" height="%dmm" viewBox="0 0 %d %d" font-family="%s">`, 210*len(sheets), sheetWidth, height, font)
	b.WriteString(fontFace())
	for i, s := range sheets {
		fmt.Fprintf(&b, `<g transform="translate(0 %d)"><rect width="%d" height="%d" fill="#fff"/>%s</g>`, i*sheetHeight, sheetWidth, sheetHeight, s)
	}
	b.WriteString("</svg>")
	return b.String()
}

func text(b *strings.Builder, x, y, size float64, weight int, fill, s string) {
	// A white edge keeps it readable over a picture.
	fmt.Fprintf(b, `<text x="%.1f" y="%.1f" font-size="%.1f" font-weight="%d" fill="%s" stroke="#fff" stroke-width="%.1f" paint-order="stroke">%s</text>`,
		x, y, size, weight, fill, size/6, html.EscapeString(strings.Map(inXML, s)))
}

// inXML leaves out what XML 1.0 has no place for: a picture with one of these is none.
func inXML(r rune) rune {
	if r < ' ' && r != '\n' && r != '\t' || r == '\ufffe' || r == '\uffff' {
		return -1
	}
	return r
}

func (p Page) head(b *strings.Builder) {
	text(b, margin, margin+50, 64, 600, "#000", p.Name)
	text(b, margin, margin+100, 36, 400, "#444", fmt.Sprintf("%s · %s · %s", p.Controller, p.Profile, p.Show))
}

// keys draws the controls as large as they fit.
func (p Page) keys() string {
	var b strings.Builder
	p.head(&b)
	width, height := device.Extent(p.Controls)
	side := min((sheetWidth-2*margin)/width, (sheetHeight-2*margin-headHeight)/height)
	for _, c := range p.Controls {
		x, y := margin+c.X*side, margin+headHeight+c.Y*side
		w, h := c.Width*side*0.94, c.Height*side*0.94
		fmt.Fprintf(&b, `<g transform="translate(%.1f %.1f)">`, x, y)
		f, mapped := p.Faces[c.ID]
		if mapped {
			p.face(&b, f, w, h)
		} else {
			fmt.Fprintf(&b, `<rect width="%.1f" height="%.1f" rx="12" fill="none" stroke="#bbb" stroke-width="3" stroke-dasharray="10 10"/>`, w, h)
			for i, line := range wrap(p.Notes[c.ID], w/22) {
				text(&b, 20, 60+float64(i)*44, 36, 400, "#555", line)
			}
		}
		text(&b, w-14-float64(len(c.ID))*15, 34, 28, 400, "#777", c.ID)
		b.WriteString("</g>")
	}
	return b.String()
}

// face draws a face on white, so that it costs little ink: spine, glyph, where it
// goes, and its label.
func (p Page) face(b *strings.Builder, f face.Face, w, h float64) {
	side := min(w, h)
	fmt.Fprintf(b, `<rect width="%.1f" height="%.1f" rx="12" fill="#fff" stroke="#000" stroke-width="4"/>`, w, h)
	if body, kind := p.picture(f.Picture); body != nil {
		fmt.Fprintf(b, `<image x="0" y="0" width="%.1f" height="%.1f" preserveAspectRatio="xMidYMid meet" href="data:%s;base64,%s"/>`, w, h, kind, base64.StdEncoding.EncodeToString(body))
	}
	fmt.Fprintf(b, `<rect width="%.1f" height="%.1f" fill="%s"/>`, side*0.05, h, hue(f.Role))
	if f.Picture == "" {
		symbol := face.Glyph(f.Glyph)
		box := symbol[strings.Index(symbol, "viewBox"):strings.Index(symbol, ">")]
		inside := strings.TrimSuffix(symbol[strings.Index(symbol, ">")+1:], "</symbol>")
		fmt.Fprintf(b, `<svg x="%.1f" y="%.1f" width="%.1f" height="%.1f" %s color="#333">%s</svg>`, side*0.12, side*0.1, side*0.2, side*0.2, box, inside)
	}
	text(b, side*0.5, side*0.24, side*0.1, 400, "#444", f.Where)
	lines := f.Lines
	if len(lines) == 0 && f.Label == "" {
		lines = []string{f.Name}
	}
	size := side * f.Size / 100
	for i, line := range lines {
		text(b, side*0.12, h*0.9-float64(len(lines)-1-i)*size*face.LineHeight, size, 600, "#000", line)
	}
}

func (p Page) picture(id string) ([]byte, string) {
	if id == "" || p.Picture == nil {
		return nil, ""
	}
	return p.Picture(id)
}

// hue is the printed colour of a role's spine.
func hue(role string) string {
	hues := map[string]string{"streaming": "#8a6fd1", "switcher": "#4f7fd6", "sound": "#1f9a94", "intercom": "#d9822b", "lights": "#c9ac1f",
		"camera": "#cf5f9f", "player": "#8f6a4f", "chat": "#5a61c9", "computer": "#7f868e",
		"titles": "#7d8a2e", "slides": "#3d86a3", "prompter": "#8c7a5c", "meeting": "#a05fb0", "music": "#4f8f68"}
	if h, ok := hues[role]; ok {
		return h
	}
	return "#7f868e"
}

// list writes rows in two columns.
func (p Page) list(rows []Row) string {
	var b strings.Builder
	p.head(&b)
	if len(rows) == 0 {
		text(&b, margin, margin+headHeight+rowHeight, 36, 400, "#555", "Nothing is on this page yet.")
	}
	for i, r := range rows {
		x := float64(margin + i/rowsOnSheet*(sheetWidth-2*margin)/2)
		y := float64(margin + headHeight + (i%rowsOnSheet+1)*rowHeight)
		text(&b, x, y, 32, 600, "#000", r.Control)
		text(&b, x+190, y, 32, 400, "#444", r.Gesture)
		does := r.Does
		if r.Guard != "" {
			does += " (" + r.Guard + ")"
		}
		text(&b, x+420, y, 32, 400, "#000", clip(does, 58))
	}
	return b.String()
}

func clip(s string, n int) string {
	r := []rune(s)
	if len(r) <= n {
		return s
	}
	return string(r[:n-1]) + "…"
}

// wrap breaks a note into at most four lines of so many characters.
func wrap(s string, width float64) (lines []string) {
	line := ""
	for _, w := range strings.Fields(s) {
		if line != "" && float64(len([]rune(line+" "+w))) > width {
			lines = append(lines, line)
			line = ""
		}
		line = strings.TrimSpace(line + " " + w)
	}
	if line != "" {
		lines = append(lines, line)
	}
	return lines[:min(len(lines), 4)]
}
