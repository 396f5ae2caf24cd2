package paint

import (
	"bytes"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"sync"
)

// Formats of pictures.
const (
	PNG    = "png"
	JPEG   = "jpeg"
	RGB565 = "rgb565" // two bytes a pixel, the more significant first, row by row: rrrrrggg gggbbbbb
)

// Formats lists them.
var Formats = []string{PNG, JPEG, RGB565}

// jpegQuality keeps text clean.
const jpegQuality = 90

// buffers are those of the PNG encoder, which are large.
var buffers pool

type pool struct{ sync.Pool }

// Get implements png.EncoderBufferPool.
func (p *pool) Get() *png.EncoderBuffer {
	b, _ := p.Pool.Get().(*png.EncoderBuffer)
	return b
}

// Put implements png.EncoderBufferPool.
func (p *pool) Put(b *png.EncoderBuffer) { p.Pool.Put(b) }

// Encode writes a picture in a format. It fails where there is no such format.
func Encode(img *image.RGBA, format string) ([]byte, error) {
	var b bytes.Buffer
	switch format {
	case PNG:
		enc := png.Encoder{CompressionLevel: png.BestSpeed, BufferPool: &buffers}
		if err := enc.Encode(&b, img); err != nil {
			return nil, err
		}
	case JPEG:
		if err := jpeg.Encode(&b, img, &jpeg.Options{Quality: jpegQuality}); err != nil {
			return nil, err
		}
	case RGB565:
		out := make([]byte, 0, len(img.Pix)/2)
		for i := 0; i < len(img.Pix); i += 4 {
			r, g, b := img.Pix[i], img.Pix[i+1], img.Pix[i+2]
			out = append(out, r&0xf8|g>>5, g<<3&0xe0|b>>3)
		}
		return out, nil
	default:
		return nil, fmt.Errorf("there is no format %q of pictures; it is one of %v", format, Formats)
	}
	return b.Bytes(), nil
}
