// Package face works out how a control looks: its label, set in lines at the
// largest size that fits, and the states that its lamps show.
package face

import (
	_ "embed"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-600-normal.woff fonts/plex-condensed-600-latin.ttf
//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-ext-600-normal.woff fonts/plex-condensed-600-latin-ext.ttf

var (
	//go:embed fonts/plex-condensed-600-latin.ttf
	latin []byte
	//go:embed fonts/plex-condensed-600-latin-ext.ttf
	latinExt []byte
)

// FontFile is the face font, for those who draw pictures of text.
func FontFile() []byte { return latin }

// Font measures text as the interface sets it, without kerning.
type Font struct {
	parts []*sfnt.Font
	buf   sfnt.Buffer
	cache map[rune]float64
}

// measured at this size; advances scale
const unitsSize = 1000

// NewFont loads the shipped face font. A Font is not safe for concurrent use.
func NewFont() (*Font, error) {
	f := &Font{cache: map[rune]float64{}}
	for _, data := range [][]byte{latin, latinExt} {
		p, err := sfnt.Parse(data)
		if err != nil {
			return nil, fmt.Errorf("load the face font: %w", err)
		}
		f.parts = append(f.parts, p)
	}
	return f, nil
}

// advance is the width of a character at size 1.
func (f *Font) advance(r rune) float64 {
	if a, ok := f.cache[r]; ok {
		return a
	}
	a := 0.6 // a character the font lacks is set in a fallback of about this width
	for _, p := range f.parts {
		g, err := p.GlyphIndex(&f.buf, r)
		if err != nil || g == 0 {
			continue
		}
		if adv, err := p.GlyphAdvance(&f.buf, g, fixed.I(unitsSize), font.HintingNone); err == nil {
			a = float64(adv) / 64 / unitsSize
			break
		}
	}
	if len(f.cache) > 5000 {
		clear(f.cache)
	}
	f.cache[r] = a
	return a
}

// Width measures text at size 1, in multiples of the size.
func (f *Font) Width(text string) float64 {
	w := 0.0
	for _, r := range text {
		w += f.advance(r)
	}
	return w
}

// Box is the room a label has and the sizes it may be set in, all in the same
// unit.
type Box struct {
	Width, Height float64
	Min, Max      float64
}

// LineHeight is the distance between lines in multiples of the size.
const LineHeight = 1.12

// maxLines is the most lines a label is set in.
const maxLines = 3

// Fitted is a label as it is set.
type Fitted struct {
	Lines []string
	Size  float64 // in the box's unit
	Cut   bool    // shortened with an ellipsis
}

// Fit sets a label: in at most three lines at the largest size at which no word
// is broken, else with words broken at the smallest size, else shortened.
// A line break in the label is kept.
func (f *Font) Fit(label string, b Box) Fitted {
	label = strings.Join(strings.FieldsFunc(label, func(r rune) bool { return r == '\r' }), "")
	if strings.TrimSpace(label) == "" {
		return Fitted{Lines: []string{}, Size: b.Max}
	}
	for size := b.Max; size >= b.Min; size -= 0.5 {
		if lines, ok := f.wrap(label, b, size, false); ok {
			return Fitted{Lines: lines, Size: size}
		}
	}
	lines, ok := f.wrap(label, b, b.Min, true)
	if ok {
		return Fitted{Lines: lines, Size: b.Min}
	}
	n := f.room(b, b.Min)
	lines = lines[:n]
	lines[n-1] = f.shorten(lines[n-1]+"…", b.Width/b.Min)
	return Fitted{Lines: lines, Size: b.Min, Cut: true}
}

// room is the number of lines that the box holds at a size.
func (f *Font) room(b Box, size float64) int {
	return max(1, min(maxLines, int(b.Height/(size*LineHeight))))
}

// wrap breaks a label into lines greedily. ok is false when a word is too wide
// (unless broken words are allowed) or there are too many lines.
func (f *Font) wrap(label string, b Box, size float64, breakWords bool) (lines []string, ok bool) {
	width := b.Width / size
	for _, para := range strings.Split(label, "\n") {
		line := ""
		for _, word := range strings.Fields(para) {
			joined := strings.TrimPrefix(line+" "+word, " ")
			if f.Width(joined) <= width {
				line = joined
				continue
			}
			if line != "" {
				lines = append(lines, line)
			}
			for f.Width(word) > width {
				if !breakWords {
					return nil, false
				}
				head := f.head(word, width)
				lines = append(lines, head)
				word = word[len(head):]
			}
			line = word
		}
		if line != "" {
			lines = append(lines, line)
		}
	}
	return lines, len(lines) <= f.room(b, size)
}

// head is the longest beginning of a word that fits, at least one character.
func (f *Font) head(word string, width float64) string {
	w, end := 0.0, 0
	for i, r := range word {
		if w += f.advance(r); w > width && i > 0 {
			return word[:i]
		}
		end = i + utf8.RuneLen(r)
	}
	return word[:end]
}

func (f *Font) shorten(text string, width float64) string {
	body := []rune(strings.TrimSuffix(text, "…"))
	for len(body) > 0 && f.Width(string(body)+"…") > width {
		body = body[:len(body)-1]
	}
	return strings.TrimRight(string(body), " ") + "…"
}
