package media

import (
	"bytes"
	"context"
	"errors"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"
)

func pngOf(t *testing.T, w, h int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewPaletted(image.Rect(0, 0, w, h), color.Palette{color.Black})); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func gifOf(t *testing.T, side, frames int) []byte {
	t.Helper()
	g := &gif.GIF{}
	for i := range frames {
		img := image.NewPaletted(image.Rect(0, 0, side, side), color.Palette{color.Black, color.White})
		img.SetColorIndex(i%side, 0, 1)
		g.Image = append(g.Image, img)
		g.Delay = append(g.Delay, 4)
	}
	var b bytes.Buffer
	if err := gif.EncodeAll(&b, g); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func take(body []byte) (File, error) { return NewTaker().Take(context.Background(), body) }

func svg(inside string) []byte {
	return []byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 40 20">` + inside + `</svg>`)
}

func TestPicturesAreTakenByTheirContent(t *testing.T) {
	var photo bytes.Buffer
	if err := jpeg.Encode(&photo, image.NewNRGBA(image.Rect(0, 0, 2048, 512)), nil); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		body         []byte
		kind         string
		width, heigh int
		frames       int
	}{
		"png":              {pngOf(t, 30, 20), "image/png", 30, 20, 1},
		"a large photo":    {photo.Bytes(), "image/jpeg", 1024, 256, 1},
		"an animation":     {gifOf(t, 8, 5), "image/gif", 8, 8, 5},
		"a drawing":        {svg(`<path d="M0 0L9 9"/>`), "image/svg+xml", 40, 20, 1},
		"the longest loop": {gifOf(t, 8, MaxFrames), "image/gif", 8, 8, MaxFrames},
	} {
		p, err := take(c.body)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if p.Kind != c.kind || p.Width != c.width || p.Height != c.heigh || p.Frames != c.frames || len(p.ID) != 64 {
			t.Errorf("%s: %s of %d by %d, %d frames, id %q", name, p.Kind, p.Width, p.Height, p.Frames, p.ID)
		}
		again, err := take(c.body)
		if err != nil || again.ID != p.ID {
			t.Errorf("%s has another id the second time", name)
		}
	}
}

func TestPicturesThatAreTooMuchAreRefusedWithTheLimit(t *testing.T) {
	for name, c := range map[string]struct {
		body []byte
		says string
	}{
		"20 MB":                   {append(pngOf(t, 2, 2), make([]byte, 20<<20)...), "8 MB is the most"},
		"20,000 pixels wide":      {pngOf(t, 20000, 1), "6000 is the most"},
		"too many pixels":         {pngOf(t, 5800, 5000), "24 million is the most"},
		"3,000 frames":            {gifOf(t, 4, 3000), "300 is the most"},
		"an animation too large":  {gifOf(t, 900, 100), "too much to keep moving"},
		"a text named .png":       {[]byte("Meteor Night\n"), "not a picture"},
		"a page":                  {[]byte("<html><body>hi</body></html>"), "not a picture"},
		"nothing":                 {nil, "not a picture"},
		"half a png":              {pngOf(t, 30, 30)[:40], "damaged"},
		"half a gif":              {gifOf(t, 8, 5)[:60], "damaged"},
		"a script":                {svg(`<script>alert(1)</script>`), "script"},
		"a script in a corner":    {svg(`<metadata><x:Script xmlns:x="y">1</x:Script></metadata>`), "Script"},
		"a handler":               {svg(`<g onload="alert(1)"/>`), "onload"},
		"a link outside":          {svg(`<use xlink:href="http://198.51.100.1/x.svg#a"/>`), "outside of itself"},
		"a link that is a script": {svg(`<use href="JavaScript:alert(1)"/>`), "outside of itself"},
		"a page inside":           {svg(`<foreignObject><p>hi</p></foreignObject>`), "foreignObject"},
		"an svg that is huge":     {[]byte(`<svg xmlns="http://www.w3.org/2000/svg" width="20000" height="10"/>`), "6000 is the most"},
		"nested without end":      {svg(strings.Repeat("<g>", 300) + strings.Repeat("</g>", 300)), "200 deep"},
		"not closed":              {svg(`<g>`), "cannot be read"},
	} {
		_, err := take(c.body)
		var r *RefusedError
		if !errors.As(err, &r) || !strings.Contains(r.Text, c.says) {
			t.Errorf("%s: %v, want a refusal with %q", name, err, c.says)
		}
	}
}

func TestDrawingsAreCleaned(t *testing.T) {
	p, err := take(svg(`<!-- made by hand --><metadata><rdf>x</rdf></metadata><style>p{}</style>
		<image href="#a"/><g style="fill:#f00;background:url(http://198.51.100.1/)" data-x="1"><path d="M0 0" fill="url(http://198.51.100.1/)"/><path stroke="url(#g)"/></g><text>5 &lt; 6</text>`))
	if err != nil {
		t.Fatal(err)
	}
	got := string(p.Body)
	for _, bad := range []string{"metadata", "rdf", "style", "image", "data-x", "198.51", "<!--"} {
		if strings.Contains(got, bad) {
			t.Errorf("%s is left in %s", bad, got)
		}
	}
	for _, good := range []string{`fill="#f00"`, `stroke="url(#g)"`, "5 &lt; 6", `viewBox="0 0 40 20"`, `xmlns="http://www.w3.org/2000/svg"`} {
		if !strings.Contains(got, good) {
			t.Errorf("%s is missing in %s", good, got)
		}
	}
	if again, err := take(p.Body); err != nil || again.ID != p.ID {
		t.Errorf("cleaned again it changes: %v\n%s", err, again.Body)
	}
}

func TestWhatAStyleSheetColoursStaysColoured(t *testing.T) {
	p, err := take(svg(`<defs><style>.a, .b{fill:#f00} .b { stroke: url(http://198.51.100.1/); stroke-width:2 } g{opacity:0}</style></defs><path class="a" fill="#000" d="M0 0"/><path class="b a" style="fill:#0f0"/>`))
	if err != nil {
		t.Fatal(err)
	}
	got := string(p.Body)
	for _, want := range []string{`<path fill="#f00" d="M0 0">`, `fill="#0f0"`, `stroke-width="2"`} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is missing in %s", want, got)
		}
	}
	if strings.Contains(got, "198.51") || strings.Contains(got, "class") || strings.Contains(got, "opacity") {
		t.Errorf("too much is left in %s", got)
	}
}

func FuzzTake(f *testing.F) {
	f.Add(svg(`<g onload="x"/>`))
	f.Add([]byte("GIF89a\x01\x00\x01\x00\x80\x00\x00"))
	f.Add([]byte("\x89PNG\r\n\x1a\n"))
	f.Fuzz(func(t *testing.T, body []byte) {
		p, err := take(body)
		if err == nil && (p.Width > MaxSide || p.Height > MaxSide || p.Frames > MaxFrames || bytes.Contains(bytes.ToLower(p.Body), []byte("<script"))) {
			t.Errorf("%d by %d, %d frames", p.Width, p.Height, p.Frames)
		}
	})
}
