package paint

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"testing"
	"time"

	"synaptor/internal/core/face"
)

func sample(label string) face.Face {
	return face.Face{Mapping: "m", Label: label, Lines: []string{label, "cam"}, Size: 16, Glyph: "camera", Where: "PGM 1", Role: "switcher", Background: face.Tint("switcher"), Text: face.DefaultText,
		Lamps: face.Lamps{On: []string{face.OnAir}}}
}

func painter(t testing.TB) *Painter {
	t.Helper()
	p, err := New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestPicturesAreWrittenInEachFormat(t *testing.T) {
	img := painter(t).Draw(sample("Presenter"), "key", 72, 60, Moment{})
	for _, format := range Formats {
		body, err := Encode(img, format)
		if err != nil {
			t.Fatal(err)
		}
		switch format {
		case PNG:
			got, err := png.Decode(bytes.NewReader(body))
			if err != nil || got.Bounds() != image.Rect(0, 0, 72, 60) || got.At(36, 50) != color.Color(color.RGBA{255, 59, 59, 255}) {
				t.Errorf("png: %v, %v", got.At(36, 50), err)
			}
		case JPEG:
			if got, err := jpeg.Decode(bytes.NewReader(body)); err != nil || got.Bounds() != image.Rect(0, 0, 72, 60) {
				t.Errorf("jpeg: %v", err)
			}
		case RGB565:
			at := 2 * (50*72 + 36) // on the red band: 255, 59, 59
			if len(body) != 72*60*2 || body[at] != 0b11111_001 || body[at+1] != 0b110_00111 {
				t.Errorf("rgb565: %d bytes, %08b %08b", len(body), body[at], body[at+1])
			}
		}
	}
	if _, err := Encode(img, "bmp"); err == nil {
		t.Error("a format that there is not is written")
	}
}

func TestABookPaintsTheSameFaceOnce(t *testing.T) {
	painted := 0
	b := NewBook(func(string) image.Image { painted++; return nil })
	page := func(change func(p *Page)) []byte {
		t.Helper()
		f := sample("Logo")
		f.Picture = "p"
		p := Page{Face: f, Key: []byte("logo"), Kind: "key", Width: 72, Height: 72, Format: PNG}
		if change != nil {
			change(&p)
		}
		body, err := b.Get(p)
		if err != nil {
			t.Fatal(err)
		}
		return body
	}
	first := page(nil)
	if !bytes.Equal(page(nil), first) || painted != 1 {
		t.Errorf("painted %d times", painted)
	}
	for _, change := range []func(p *Page){func(p *Page) { p.Width = 73 }, func(p *Page) { p.Format = JPEG }, func(p *Page) { p.Kind = Dial }, func(p *Page) { p.Moment.Pressed = true }, func(p *Page) { p.Key = []byte("other") }} {
		before := painted
		if page(change); painted == before && b.bytes == 0 {
			t.Error("another picture is the same")
		}
	}
	for range 3 {
		page(func(p *Page) { p.Key = nil })
	}
	if len(b.kept) != 6 {
		t.Errorf("kept are %d", len(b.kept))
	}
	for i := range 2000 { // 64 MB and no more
		b.keep([32]byte{1, byte(i), byte(i >> 8)}, make([]byte, 64<<10))
	}
	if b.bytes > maxBook || len(b.order) != len(b.kept) {
		t.Errorf("kept are %d bytes", b.bytes)
	}
}

func TestNoSizeAndNoFaceIsTooMuch(t *testing.T) {
	p := painter(t)
	f := sample("日食 \u2028 \x00 e\u0301 🔭 and a very long line that goes on beyond what there is room for")
	f.Lines, f.Run, f.Refusal = []string{f.Label, "", f.Label}, &face.Run{State: "running", Started: time.Now(), LengthMs: -5}, "Away."
	f.Dial = &face.Dial{Text: "?", Share: 7}
	f.Background, f.Text, f.Glyph, f.Position, f.Align = "no colour", "#12", "nothing", "elsewhere", "nowhere"
	for _, kind := range []string{"key", Dial, Slider, Ribbon, "pedal"} {
		for _, size := range [][2]int{{1, 1}, {2, 900}, {900, 2}, {7, 7}, {1024, 1024}} {
			for _, withDial := range []bool{true, false} {
				g := f
				if !withDial {
					g.Dial = nil
				}
				if img := p.Draw(g, kind, size[0], size[1], Moment{Pressed: true, Dark: true}); img.Bounds().Dx() != size[0] {
					t.Errorf("%s of %v is %v", kind, size, img.Bounds())
				}
			}
		}
	}
}

func BenchmarkFace(b *testing.B) {
	p := painter(b)
	faces := make([]face.Face, 24)
	for i := range faces {
		faces[i] = sample(fmt.Sprint("Face ", i))
	}
	for _, size := range []int{72, 120} {
		b.Run(fmt.Sprintf("one of %d pixels", size), func(b *testing.B) {
			for i := range b.N {
				p.Draw(faces[i%24], "key", size, size, Moment{})
			}
		})
		b.Run(fmt.Sprintf("one of %d pixels as PNG", size), func(b *testing.B) {
			for i := range b.N {
				if _, err := Encode(p.Draw(faces[i%24], "key", size, size, Moment{}), PNG); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
