package media

import (
	"bytes"
	"errors"
	"fmt"
	"image"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
)

// svgSide is how large a drawing is painted, along its longer side: as large as the keys of controllers are at most.
const svgSide = 512

// Decode gives a picture of the library as its pixels: of one that moves the first.
func Decode(body []byte, kind string) (image.Image, error) {
	if kind != "image/svg+xml" {
		img, _, err := image.Decode(bytes.NewReader(body))
		return img, err
	}
	icon, err := oksvg.ReadIconStream(bytes.NewReader(body), oksvg.IgnoreErrorMode)
	if err != nil {
		return nil, fmt.Errorf("paint the drawing: %w", err)
	}
	w, h := icon.ViewBox.W, icon.ViewBox.H
	if !(w > 0 && h > 0) {
		return nil, errors.New("paint the drawing: it has no size")
	}
	by := svgSide / max(w, h)
	width, height := max(1, int(w*by)), max(1, int(h*by))
	img := image.NewRGBA(image.Rect(0, 0, width, height))
	icon.SetTarget(0, 0, float64(width), float64(height))
	icon.Draw(rasterx.NewDasher(width, height, rasterx.NewScannerGV(width, height, img, img.Bounds())), 1)
	return img, nil
}
