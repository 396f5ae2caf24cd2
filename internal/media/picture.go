package media

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"

	"golang.org/x/image/draw"
	"golang.org/x/image/webp"
)

// What a picture for a face may be at most. A face is a few hundred pixels wide,
// so a larger picture is a mistake, or meant to do harm.
const (
	MaxBytes  = 8 << 20 // of a file
	MaxSide   = 6000    // pixels of width or height
	MaxPixels = 24 << 20
	MaxFrames = 300
	maxMoving = 64 << 20 // pixels of all frames together
	// keptSide is what a larger picture is made smaller to: more than any face shows.
	keptSide = 1024
)

// RefusedError says why a picture is not taken.
type RefusedError struct{ Text string }

// Error implements error.
func (e *RefusedError) Error() string { return e.Text }

func refused(format string, args ...any) error {
	return &RefusedError{fmt.Sprintf(format, args...)}
}

// File is a picture that was checked and is fit to be kept.
type File struct {
	ID     string // SHA-256 of the body, in hexadecimal
	Kind   string // media type
	Body   []byte
	Width  int
	Height int
	Frames int
}

// Take checks a picture by its content, whatever its file is called: PNG, JPEG,
// WebP, GIF or SVG. Still pictures are written again, so that nothing else in the
// file is kept, and made smaller where they are larger than a face can show. GIFs
// keep moving. It fails with a *RefusedError.
func Take(body []byte) (p File, err error) {
	if len(body) > MaxBytes {
		return p, refused("This file has more than %d MB, and %d MB is the most for a picture.", MaxBytes>>20, MaxBytes>>20)
	}
	switch kind := sniff(body); kind {
	case "image/gif":
		p, err = takeGIF(body)
	case "image/svg+xml":
		p, err = takeSVG(body)
	case "":
		return p, refused("This is not a picture. PNG, JPEG, WebP, GIF and SVG can be used.")
	default:
		p, err = takeStill(kind, body)
	}
	if err != nil {
		return File{}, err
	}
	sum := sha256.Sum256(p.Body)
	p.ID = hex.EncodeToString(sum[:])
	return p, nil
}

// sniff tells what a file is by how it begins; "" where it is no picture.
func sniff(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(b, []byte("\xff\xd8\xff")):
		return "image/jpeg"
	case bytes.HasPrefix(b, []byte("GIF87a")), bytes.HasPrefix(b, []byte("GIF89a")):
		return "image/gif"
	case len(b) > 12 && string(b[:4]) == "RIFF" && string(b[8:12]) == "WEBP":
		return "image/webp"
	case looksLikeSVG(b):
		return "image/svg+xml"
	}
	return ""
}

func checkSize(width, height int) error {
	switch {
	case width < 1 || height < 1:
		return refused("This picture is empty.")
	case width > MaxSide || height > MaxSide:
		return refused("This picture is %d by %d pixels; %d is the most for either side.", width, height, MaxSide)
	case width*height > MaxPixels:
		return refused("This picture has %d million pixels; %d million is the most.", width*height>>20, MaxPixels>>20)
	}
	return nil
}

func takeStill(kind string, body []byte) (File, error) {
	codecs := map[string]struct {
		config func(*bytes.Reader) (image.Config, error)
		decode func(*bytes.Reader) (image.Image, error)
	}{
		"image/png":  {func(r *bytes.Reader) (image.Config, error) { return png.DecodeConfig(r) }, func(r *bytes.Reader) (image.Image, error) { return png.Decode(r) }},
		"image/jpeg": {func(r *bytes.Reader) (image.Config, error) { return jpeg.DecodeConfig(r) }, func(r *bytes.Reader) (image.Image, error) { return jpeg.Decode(r) }},
		"image/webp": {func(r *bytes.Reader) (image.Config, error) { return webp.DecodeConfig(r) }, func(r *bytes.Reader) (image.Image, error) { return webp.Decode(r) }},
	}
	codec := codecs[kind]
	c, err := codec.config(bytes.NewReader(body))
	if err != nil {
		return File{}, refused("This picture is damaged, or of a kind that cannot be read: %v.", err)
	}
	if err := checkSize(c.Width, c.Height); err != nil {
		return File{}, err
	}
	img, err := codec.decode(bytes.NewReader(body))
	if err != nil {
		return File{}, refused("This picture is damaged, or of a kind that cannot be read: %v.", err)
	}
	img = smaller(img)
	var out bytes.Buffer
	if kind == "image/jpeg" {
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 90})
	} else {
		kind = "image/png"
		err = png.Encode(&out, img)
	}
	if err != nil {
		return File{}, err
	}
	size := img.Bounds().Size()
	return File{Kind: kind, Body: out.Bytes(), Width: size.X, Height: size.Y, Frames: 1}, nil
}

// smaller scales a picture down to what is kept.
func smaller(img image.Image) image.Image {
	size := img.Bounds().Size()
	long := max(size.X, size.Y)
	if long <= keptSide {
		return img
	}
	to := image.NewNRGBA(image.Rect(0, 0, max(1, size.X*keptSide/long), max(1, size.Y*keptSide/long)))
	draw.CatmullRom.Scale(to, to.Bounds(), img, img.Bounds(), draw.Src, nil)
	return to
}

// takeGIF keeps an animation as it is. Its frames are counted, before anything is
// unpacked, by walking the blocks of the file (GIF89a).
func takeGIF(body []byte) (File, error) {
	c, err := gif.DecodeConfig(bytes.NewReader(body))
	if err != nil {
		return File{}, refused("This GIF is damaged: %v.", err)
	}
	if err := checkSize(c.Width, c.Height); err != nil {
		return File{}, err
	}
	frames, err := countFrames(body)
	if err != nil {
		return File{}, refused("This GIF is damaged: %v.", err)
	}
	if frames > MaxFrames {
		return File{}, refused("This GIF has %d pictures; %d is the most.", frames, MaxFrames)
	}
	if frames*c.Width*c.Height > maxMoving {
		return File{}, refused("This GIF has %d pictures of %d by %d pixels, which is too much to keep moving. Make it smaller.", frames, c.Width, c.Height)
	}
	if _, err := gif.DecodeAll(bytes.NewReader(body)); err != nil {
		return File{}, refused("This GIF is damaged: %v.", err)
	}
	return File{Kind: "image/gif", Body: body, Width: c.Width, Height: c.Height, Frames: frames}, nil
}

var errShort = errors.New("the file ends too early")

// countFrames counts the image descriptors of a GIF.
func countFrames(b []byte) (n int, err error) {
	if len(b) < 13 {
		return 0, errShort
	}
	at := 13 + table(b[10])
	for at < len(b) {
		switch b[at] {
		case 0x3b: // the end
			return n, nil
		case 0x21: // an extension
			at += 2
		case 0x2c: // a picture
			if at+10 > len(b) {
				return 0, errShort
			}
			n++
			at += 11 + table(b[at+9])
		default:
			return 0, fmt.Errorf("a block of the unknown kind %#x", b[at])
		}
		for at < len(b) && b[at] != 0 {
			at += 1 + int(b[at])
		}
		at++
	}
	return 0, errShort
}

// table is the size of a colour table, in bytes, by the flags that announce it.
func table(flags byte) int {
	if flags&0x80 == 0 {
		return 0
	}
	return 3 << (1 + flags&7)
}
