package media

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/gif"
	"image/jpeg"
	"image/png"

	"golang.org/x/image/webp"
)

const (
	// MaxScans is how many times a progressive JPEG (ITU-T T.81) may go over its
	// pixels. Encoders use about ten; each more takes its time and shows nothing.
	//limit:count scans of a progressive JPEG | at the upload
	MaxScans = 64
	// MaxUnpacked is how much memory a picture may take while it is unpacked, in
	// bytes.
	//limit:bytes memory for a picture while it is unpacked | at the upload
	MaxUnpacked = 128 << 20
)

// survey is what the headers of a picture say that it takes to unpack it.
type survey struct {
	width, height int // pixels
	frames        int
	memory        int // bytes while it is unpacked, an estimate from above
}

// surveyed reads the headers of a picture, and unpacks nothing. It fails with a
// *RefusedError where the picture is damaged, or takes more than a picture may.
func surveyed(kind string, body []byte) (s survey, err error) {
	config := map[string]func(*bytes.Reader) (image.Config, error){
		"image/png":  func(r *bytes.Reader) (image.Config, error) { return png.DecodeConfig(r) },
		"image/jpeg": func(r *bytes.Reader) (image.Config, error) { return jpeg.DecodeConfig(r) },
		"image/webp": func(r *bytes.Reader) (image.Config, error) { return webp.DecodeConfig(r) },
		"image/gif":  func(r *bytes.Reader) (image.Config, error) { return gif.DecodeConfig(r) },
	}[kind]
	if config == nil {
		return s, refused("This is not a picture. PNG, JPEG, WebP, GIF and SVG can be used.")
	}
	c, err := config(bytes.NewReader(body))
	if err != nil {
		return s, damaged(err)
	}
	if err := checkSize(c.Width, c.Height); err != nil {
		return s, err
	}
	s = survey{width: c.Width, height: c.Height, frames: 1}
	switch kind {
	case "image/png":
		s.memory = pngMemory(body, c.Width*c.Height)
	case "image/jpeg":
		scans, memory := jpegScans(body)
		if scans > MaxScans {
			return s, refused("This JPEG goes over its pixels %d times; %d is the most. Save it again.", scans, MaxScans)
		}
		s.memory = memory
	case "image/webp":
		s.memory = 4 * c.Width * c.Height
	case "image/gif":
		if s.frames, err = countFrames(body); err != nil {
			return s, damaged(err)
		}
		if s.frames > MaxFrames {
			return s, refused("This GIF has %d pictures; %d is the most.", s.frames, MaxFrames)
		}
		if s.memory = s.frames * c.Width * c.Height; s.memory > maxMoving {
			return s, refused("This GIF has %d pictures of %d by %d pixels, which is too much to keep moving. Make it smaller.", s.frames, c.Width, c.Height)
		}
	}
	if s.memory > MaxUnpacked {
		return s, refused("This picture takes %d MB of memory to unpack; %d MB is the most. Make it smaller, or save it with 8 bits for each colour.", s.memory>>20, MaxUnpacked>>20)
	}
	return s, nil
}

// pngMemory is what a PNG of so many pixels is unpacked to: four samples a pixel,
// of one or two bytes, and half as much again where it is interlaced. The IHDR
// chunk is the first, at a fixed place (W3C PNG, 11.2.1).
func pngMemory(body []byte, pixels int) int {
	const depth, interlace = 24, 28
	memory := 4 * pixels
	if body[depth] == 16 {
		memory *= 2
	}
	if body[interlace] != 0 {
		memory += memory / 2
	}
	return memory
}

// jpegScans counts the scans of a JPEG by walking its markers, and adds up what its
// components are unpacked to: a byte a sample, and four more for the coefficients
// of a progressive one.
func jpegScans(b []byte) (scans, memory int) {
	for at := 2; at+4 <= len(b); {
		if b[at] != 0xff {
			at++
			continue
		}
		marker := b[at+1]
		if marker == 0xff {
			at++
			continue
		}
		if marker == 0 || marker == 1 || marker >= 0xd0 && marker <= 0xd9 {
			at += 2 // a byte of the data, or a marker without a length
			continue
		}
		segment := b[at+4 : min(len(b), at+2+max(2, int(binary.BigEndian.Uint16(b[at+2:]))))]
		switch marker {
		case 0xc0, 0xc1, 0xc2:
			memory = jpegMemory(segment, marker == 0xc2)
		case 0xda:
			scans++
		}
		at += 4 + len(segment)
	}
	return scans, memory
}

// jpegMemory reads a frame header (ITU-T T.81, B.2.2).
func jpegMemory(frame []byte, progressive bool) (memory int) {
	if len(frame) < 6 || len(frame) < 6+3*int(frame[5]) {
		return 0
	}
	pixels := int(binary.BigEndian.Uint16(frame[1:])) * int(binary.BigEndian.Uint16(frame[3:]))
	wide, high := 1, 1
	components := frame[6 : 6+3*int(frame[5])]
	for c := 0; c < len(components); c += 3 {
		wide, high = max(wide, int(components[c+1]>>4)), max(high, int(components[c+1]&15))
	}
	for c := 0; c < len(components); c += 3 {
		memory += pixels * int(components[c+1]>>4) * int(components[c+1]&15) / (wide * high)
	}
	if progressive {
		memory *= 5
	}
	return memory
}
