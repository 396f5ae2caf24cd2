// Package face works out how a control looks: its label, set in lines at the
// largest size that fits, and the states that its lamps show.
package face

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-600-normal.woff fonts/plex-condensed-600-latin.ttf
//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-ext-600-normal.woff fonts/plex-condensed-600-latin-ext.ttf
//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-400-normal.woff fonts/plex-condensed-400-latin.ttf
//go:generate go run synaptor/tools/sfnt ../../../web/node_modules/@fontsource/ibm-plex-sans-condensed/files/ibm-plex-sans-condensed-latin-ext-400-normal.woff fonts/plex-condensed-400-latin-ext.ttf

var (
	//go:embed fonts/plex-condensed-600-latin.ttf
	latin []byte
	//go:embed fonts/plex-condensed-600-latin-ext.ttf
	latinExt []byte
	//go:embed fonts/plex-condensed-400-latin.ttf
	lightLatin []byte
	//go:embed fonts/plex-condensed-400-latin-ext.ttf
	lightLatinExt []byte
)

// FontFile is the face font, for those who draw pictures of text.
func FontFile() []byte { return latin }

// FontFiles are the files of the face font, the first with most characters, the next with those that it has not. light: of light text.
func FontFiles(light bool) [][]byte {
	if light {
		return [][]byte{lightLatin, lightLatinExt}
	}
	return [][]byte{latin, latinExt}
}

// Font measures text as the interface sets it, without kerning. It is safe for
// concurrent use, and remembers labels that it has set, since they repeat.
type Font struct {
	parts []*sfnt.Font

	mu    sync.Mutex
	buf   sfnt.Buffer
	cache map[rune]float64
	fits  map[fitKey]Fitted
}

// fitKey is a label and the room it has.
type fitKey struct {
	label string
	box   Box
}

// What a font remembers at most.
const (
	//limit:count widths of characters that a font remembers | nowhere; they are measured again
	maxAdvances = 5000
	//limit:count labels whose setting a font remembers | nowhere; they are set again
	maxFits = 10_000
)

// MaxLabel is how many characters of a label are set at most; the rest is cut off.
//
//limit:count characters of a label that are set | the rest is cut off
const MaxLabel = 200

// measured at this size; advances scale
const unitsSize = 1000

// NewFont loads the shipped face font.
func NewFont() (*Font, error) {
	f := &Font{cache: map[rune]float64{}, fits: map[fitKey]Fitted{}}
	for _, data := range [][]byte{latin, latinExt} {
		p, err := sfnt.Parse(data)
		if err != nil {
			return nil, fmt.Errorf("load the face font: %w", err)
		}
		f.parts = append(f.parts, p)
	}
	return f, nil
}

// advance is the width of a character at size 1; the lock is held.
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
	if len(f.cache) > maxAdvances {
		clear(f.cache)
	}
	f.cache[r] = a
	return a
}

// Width measures text at size 1, in multiples of the size.
func (f *Font) Width(text string) float64 {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.width(text)
}

// width is Width; the lock is held.
func (f *Font) width(text string) float64 {
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
//
//limit:count lines of a label | the rest is cut off, with an ellipsis
const maxLines = 3

// Fitted is a label as it is set.
type Fitted struct {
	Lines []string
	Size  float64 // in the box's unit
	Cut   bool    // shortened with an ellipsis
}

// Fit sets a label: in at most three lines at the largest size at which no word
// is broken, else with words broken at the smallest size, else shortened.
// A line break in the label is kept. What it takes grows with the length of the label,
// of which MaxLabel characters count.
func (f *Font) Fit(label string, b Box) Fitted {
	label, long := cutLabel(strings.ToValidUTF8(label, "\ufffd"))
	if strings.TrimSpace(label) == "" {
		return Fitted{Lines: []string{}, Size: b.Max}
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	key := fitKey{label, b}
	fitted, known := f.fits[key]
	if !known {
		fitted = f.set(f.paragraphs(label), b)
		if len(f.fits) >= maxFits {
			clear(f.fits)
		}
		f.fits[key] = fitted
	}
	fitted.Lines = slices.Clone(fitted.Lines)
	fitted.Cut = fitted.Cut || long
	return fitted
}

// cutLabel keeps a label to MaxLabel characters.
func cutLabel(label string) (kept string, cut bool) {
	n := 0
	for i := range label {
		if n++; n > MaxLabel {
			return strings.TrimRight(label[:i], " ") + "…", true
		}
	}
	return label, false
}

// word is a word of a label with its width at size 1.
type word struct {
	text  string
	width float64
}

// paragraphs cuts a label at its line breaks, and each of those into words.
func (f *Font) paragraphs(label string) (out [][]word) {
	for _, para := range strings.Split(strings.ReplaceAll(label, "\r", ""), "\n") {
		var words []word
		for _, w := range strings.Fields(para) {
			words = append(words, word{w, f.width(w)})
		}
		out = append(out, words)
	}
	return out
}

func (f *Font) set(paras [][]word, b Box) Fitted {
	for size := b.Max; size >= b.Min; size -= 0.5 {
		if lines, ok := f.wrap(paras, b, size, false); ok {
			return Fitted{Lines: lines, Size: size}
		}
	}
	lines, ok := f.wrap(paras, b, b.Min, true)
	if ok {
		return Fitted{Lines: lines, Size: b.Min}
	}
	n := room(b, b.Min)
	lines = lines[:n]
	lines[n-1] = f.shorten(lines[n-1], b.Width/b.Min)
	return Fitted{Lines: lines, Size: b.Min, Cut: true}
}

// room is the number of lines that the box holds at a size.
func room(b Box, size float64) int {
	return max(1, min(maxLines, int(b.Height/(size*LineHeight))))
}

// wrap breaks paragraphs into lines greedily. ok is false when a word is too wide
// (unless broken words are allowed) or there are too many lines; it stops then.
func (f *Font) wrap(paras [][]word, b Box, size float64, breakWords bool) (lines []string, ok bool) {
	width, most, space := b.Width/size, room(b, size), f.advance(' ')
	for _, words := range paras {
		line, wide := "", 0.0
		for _, w := range words {
			if line != "" && wide+space+w.width <= width {
				line, wide = line+" "+w.text, wide+space+w.width
				continue
			}
			if line != "" {
				lines = append(lines, line)
			}
			for w.width > width {
				if !breakWords || len(lines) > most {
					return lines, false
				}
				head := f.head(w.text, width)
				lines = append(lines, head)
				w = word{w.text[len(head):], w.width - f.width(head)}
			}
			line, wide = w.text, w.width
		}
		if line != "" {
			lines = append(lines, line)
		}
		if len(lines) > most {
			return lines, false
		}
	}
	return lines, true
}

// head is the longest beginning of a word that fits, at least one character.
func (f *Font) head(text string, width float64) string {
	w, end := 0.0, 0
	for i, r := range text {
		if w += f.advance(r); w > width && i > 0 {
			return text[:i]
		}
		end = i + utf8.RuneLen(r)
	}
	return text[:end]
}

// shorten keeps as much of a line as fits before an ellipsis.
func (f *Font) shorten(line string, width float64) string {
	w, end := f.advance('…'), 0
	for i, r := range line {
		if w += f.advance(r); w > width {
			break
		}
		end = i + utf8.RuneLen(r)
	}
	return strings.TrimRight(line[:end], " ") + "…"
}
