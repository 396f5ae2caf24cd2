package paint_test

import (
	"image"
	"image/color"
	"strings"
	"testing"

	"synaptor/internal/core/overlay"
	"synaptor/internal/paint"
)

// TestOverlaysArePaintedWhereTheyAre: each look leaves something where it is and nothing elsewhere, whatever it says; what is hidden leaves nothing.
func TestOverlaysArePaintedWhereTheyAre(t *testing.T) {
	logo := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for i := range logo.Pix {
		logo.Pix[i] = 0xff
	}
	p, err := paint.New(func(id string) image.Image {
		if id == "logo" {
			return logo
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for _, text := range []string{"Imke Vardal", "", "🌠 מה זה <b>", strings.Repeat("Perseids ", 200), strings.Repeat("x", 2000)} {
		for _, look := range []string{"plain", "edged", "band", "board"} {
			for _, kind := range []string{"caption", "timer", "comment"} {
				for _, align := range []string{"left", "middle", "right"} {
					e := overlay.Element{Kind: kind, Look: look, Align: align, X: 20, Y: 30, Width: 50, Size: 6, Shown: true, Text: text, Second: "Okular"}
					img := image.NewRGBA(image.Rect(0, 0, 320, 180))
					p.Overlays(img, overlay.Page{Elements: []overlay.Element{e}})
					if inked(img, image.Rect(64, 54, 224, 180)) == 0 || inked(img, image.Rect(0, 0, 320, 45)) > 0 || inked(img, image.Rect(0, 0, 55, 180)) > 0 {
						t.Errorf("%s %s %s %.20q is not where it should be", kind, look, align, text)
					}
				}
			}
		}
	}
	for picture, want := range map[string]bool{"logo": true, "gone": false} {
		img := image.NewRGBA(image.Rect(0, 0, 320, 180))
		p.Overlays(img, overlay.Page{Elements: []overlay.Element{{Kind: "picture", X: 50, Y: 50, Width: 40, Size: 20, Shown: true, Picture: picture}, {Kind: "caption", Look: "band", Width: 50, Size: 9, Text: "hidden"}}})
		if got := inked(img, img.Bounds()) > 0; got != want {
			t.Errorf("the picture %s is painted: %v", picture, got)
		}
	}
}

// TestAPortraitIsPaintedInACircle, and the first letter where there is none.
func TestAPortraitIsPaintedInACircle(t *testing.T) {
	green := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for i := range green.Pix {
		green.Pix[i] = [4]uint8{0, 0xff, 0, 0xff}[i%4]
	}
	p, err := paint.New(func(id string) image.Image {
		if id == "audience:viewer-v3" {
			return green
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for whose, want := range map[string]bool{"audience:viewer-v3": true, "audience:viewer-gone": false, "": false} {
		img := image.NewRGBA(image.Rect(0, 0, 320, 180))
		p.Overlays(img, overlay.Page{Elements: []overlay.Element{{Kind: "comment", Look: "edged", Width: 90, Size: 20, Shown: true, Text: "where?", Second: "Okular", Initial: "O", Whose: whose}}})
		isGreen := func(x, y int) bool { c := img.RGBAAt(x, y); return c.G > 200 && c.R < 60 && c.B < 60 }
		if side := 58; isGreen(side/2, side/2) != want || isGreen(1, 1) || isGreen(side-2, 1) || inked(img, image.Rect(0, 0, side, side)) == 0 {
			t.Errorf("%q: the middle is %v, the corner %v", whose, img.RGBAAt(side/2, side/2), img.RGBAAt(1, 1))
		}
	}
}

// inked counts the pixels of a part of a picture that something was painted on.
func inked(img *image.RGBA, r image.Rectangle) (n int) {
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			if img.RGBAAt(x, y) != (color.RGBA{}) {
				n++
			}
		}
	}
	return n
}
