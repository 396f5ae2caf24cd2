package face

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
)

//go:generate sh -c "cd ../../../web && node ../tools/glyphs/glyphs.mjs > ../internal/core/face/glyphs.carbon.json"

var (
	// ownGlyphs are Synaptor's line drawings in a field of 24 by 24, by name.
	//go:embed glyphs.own.json
	ownGlyphs []byte
	// carbonGlyphs are from Carbon's icons, in a field of 32 by 32.
	//go:embed glyphs.carbon.json
	carbonGlyphs []byte
)

// glyphs is the inside of a symbol, with its field, by name.
var glyphs = loadGlyphs()

type glyph struct {
	side int
	body string
}

func loadGlyphs() map[string]glyph {
	out := map[string]glyph{}
	var own, carbon map[string]string
	for _, f := range []struct {
		body []byte
		into *map[string]string
	}{{ownGlyphs, &own}, {carbonGlyphs, &carbon}} {
		if err := json.Unmarshal(f.body, f.into); err != nil {
			panic(fmt.Sprintf("the glyphs are damaged: %v", err)) // they are part of the program
		}
	}
	for name, body := range carbon {
		out[name] = glyph{32, `<g fill="currentColor">` + body + `</g>`}
	}
	for name, path := range own {
		out[name] = glyph{24, `<path fill="none" stroke="currentColor" stroke-width="1.8" stroke-linejoin="round" stroke-linecap="round" d="` + path + `"/>`}
	}
	return out
}

// Glyphs lists the names of all glyphs.
func Glyphs() []string { return slices.Sorted(maps.Keys(glyphs)) }

// IsGlyph tells whether there is a glyph of a name.
func IsGlyph(name string) bool { _, ok := glyphs[name]; return ok }

// Glyph draws a glyph as an SVG symbol; one that does not exist is drawn as any
// other thing.
func Glyph(name string) string {
	g, ok := glyphs[name]
	if !ok {
		g = glyphs["other"]
	}
	return fmt.Sprintf(`<symbol id="%s" viewBox="0 0 %d %d">%s</symbol>`, name, g.side, g.side, g.body)
}

// Sprite is an SVG with all glyphs as symbols, by name.
func Sprite() string {
	var b strings.Builder
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg">`)
	for _, name := range Glyphs() {
		b.WriteString(Glyph(name))
	}
	b.WriteString("</svg>")
	return b.String()
}
