package media

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"runtime/debug"
	"time"

	"golang.org/x/image/draw"
	"golang.org/x/image/webp"
)

// What a picture for a face may be at most. A face is a few hundred pixels wide,
// so a larger picture is a mistake, or meant to do harm.
const (
	//limit:bytes a file with a picture | at the upload
	MaxBytes = 8 << 20 // of a file
	//limit:pixels width or height of a picture | at the upload
	MaxSide = 6000 // pixels of width or height
	//limit:pixels all of a picture | at the upload
	MaxPixels = 24 << 20
	//limit:count pictures of a GIF | at the upload
	MaxFrames = 300
	//limit:pixels all pictures of a GIF | at the upload
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

// takeLimit is how long a picture may take to be unpacked and written again.
//
//limit:count time in which a picture is unpacked | at the upload
const takeLimit = 20 * time.Second

// largePicture is what a picture takes, in bytes, to have its memory given back at
// once.
const largePicture = 32 << 20

// Taker takes pictures, one at a time, so that several large ones need the memory
// of one.
type Taker struct{ turn chan struct{} }

// NewTaker returns a taker of pictures.
func NewTaker() *Taker { return &Taker{turn: make(chan struct{}, 1)} }

// Take checks a picture by its content, whatever its file is called: PNG, JPEG,
// WebP, GIF or SVG. Pictures are written again, so that nothing else in the file is
// kept, and made smaller where they are larger than a face can show. GIFs keep
// moving. It waits for its turn, and stops when the context ends. It fails with a
// *RefusedError, or with the context's.
func (t *Taker) Take(ctx context.Context, body []byte) (p File, err error) {
	if len(body) > MaxBytes {
		return p, refused("This file has more than %d MB, and %d MB is the most for a picture.", MaxBytes>>20, MaxBytes>>20)
	}
	select {
	case t.turn <- struct{}{}:
		defer func() { <-t.turn }()
	case <-ctx.Done():
		return p, ctx.Err()
	}
	ctx, cancel := context.WithTimeoutCause(ctx, takeLimit, refused("This picture takes more than %.0f seconds to unpack. Save it again, or make it smaller.", takeLimit.Seconds()))
	defer cancel()
	switch kind := sniff(body); kind {
	case "image/svg+xml":
		p, err = takeSVG(body)
	default:
		p, err = takePixels(ctx, kind, body)
	}
	if ctx.Err() != nil {
		return File{}, context.Cause(ctx)
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

func damaged(err error) error {
	return refused("This picture is damaged, or of a kind that cannot be read: %v.", err)
}

// takePixels unpacks a picture, once its headers say that it may be, and packs it
// again.
func takePixels(ctx context.Context, kind string, body []byte) (File, error) {
	s, err := surveyed(kind, body)
	if err != nil {
		return File{}, err
	}
	if s.memory > largePicture {
		debug.FreeOSMemory()       // so that it finds the memory of what was there before,
		defer debug.FreeOSMemory() // and the next one that of this one
	}
	r := &untilDone{ctx, bytes.NewReader(body)}
	var out bytes.Buffer
	p := File{Kind: kind, Width: s.width, Height: s.height, Frames: s.frames}
	if kind == "image/gif" {
		moving, err := gif.DecodeAll(r)
		if err != nil {
			return File{}, damaged(err)
		}
		if err := gif.EncodeAll(&out, moving); err != nil {
			return File{}, damaged(err)
		}
		p.Body = out.Bytes()
		return p, nil
	}
	decode := map[string]func(io.Reader) (image.Image, error){"image/png": png.Decode, "image/jpeg": jpeg.Decode, "image/webp": webp.Decode}[kind]
	img, err := decode(r)
	if err != nil {
		return File{}, damaged(err)
	}
	img = smaller(img)
	if kind == "image/jpeg" {
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 90})
	} else {
		p.Kind = "image/png"
		err = png.Encode(&out, img)
	}
	if err != nil {
		return File{}, err
	}
	size := img.Bounds().Size()
	p.Body, p.Width, p.Height = out.Bytes(), size.X, size.Y
	return p, nil
}

// untilDone reads a file in small parts, and no longer than a context goes on, so
// that whoever unpacks it can be stopped.
type untilDone struct {
	ctx context.Context
	r   *bytes.Reader
}

// Read implements io.Reader.
func (u *untilDone) Read(p []byte) (int, error) {
	if err := u.ctx.Err(); err != nil {
		return 0, err
	}
	return u.r.Read(p[:min(len(p), 4096)])
}

// smaller scales a picture down to what is kept. It is halved first, which needs
// little memory, each pixel being the mean of four, and scaled with care at the end.
func smaller(img image.Image) image.Image {
	size := img.Bounds().Size()
	long := max(size.X, size.Y)
	if long <= keptSide {
		return img
	}
	for half := long / 2; half >= keptSide; half /= 2 {
		s := img.Bounds().Size()
		to := image.NewNRGBA(image.Rect(0, 0, max(1, s.X/2), max(1, s.Y/2)))
		draw.ApproxBiLinear.Scale(to, to.Bounds(), img, img.Bounds(), draw.Src, nil)
		img = to
	}
	to := image.NewNRGBA(image.Rect(0, 0, max(1, size.X*keptSide/long), max(1, size.Y*keptSide/long)))
	draw.CatmullRom.Scale(to, to.Bounds(), img, img.Bounds(), draw.Src, nil)
	return to
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
