package osc

import (
	"bufio"
	"errors"
	"io"
)

// The special bytes of SLIP (RFC 1055).
const (
	slipEnd    = 0xC0
	slipEsc    = 0xDB
	slipEscEnd = 0xDC
	slipEscEsc = 0xDD
)

// ErrBadEscape says that a SLIP frame had an escape that means nothing.
var ErrBadEscape = errors.New("a SLIP frame has an escape that means nothing")

// AppendFrame appends a packet to a buffer as a SLIP frame, with an END byte on
// both sides.
func AppendFrame(buf, packet []byte) []byte {
	buf = append(buf, slipEnd)
	for _, b := range packet {
		switch b {
		case slipEnd:
			buf = append(buf, slipEsc, slipEscEnd)
		case slipEsc:
			buf = append(buf, slipEsc, slipEscEsc)
		default:
			buf = append(buf, b)
		}
	}
	return append(buf, slipEnd)
}

// FrameReader reads SLIP frames from a stream.
type FrameReader struct {
	r   *bufio.Reader
	buf []byte
}

// NewFrameReader returns a reader of the frames in a stream.
func NewFrameReader(r io.Reader) *FrameReader {
	return &FrameReader{r: bufio.NewReader(r), buf: make([]byte, 0, 256)}
}

// Next returns the next frame that is not empty; it is valid until the next
// call. ErrOversized and ErrBadEscape leave the stream at the end of the bad
// frame, so that reading can go on. A stream that ends within a frame gives
// io.ErrUnexpectedEOF.
func (f *FrameReader) Next() ([]byte, error) {
	f.buf = f.buf[:0]
	var bad error
	for {
		b, err := f.r.ReadByte()
		if err != nil {
			if err == io.EOF && len(f.buf) > 0 {
				err = io.ErrUnexpectedEOF
			}
			return nil, err
		}
		switch b {
		case slipEnd:
			if bad != nil {
				return nil, bad
			}
			if len(f.buf) > 0 {
				return f.buf, nil
			}
			continue
		case slipEsc:
			if b, err = f.r.ReadByte(); err != nil {
				return nil, io.ErrUnexpectedEOF
			}
			switch b {
			case slipEscEnd:
				b = slipEnd
			case slipEscEsc:
				b = slipEsc
			case slipEnd:
				return nil, ErrBadEscape
			default:
				bad = ErrBadEscape
			}
		}
		switch {
		case bad != nil:
		case len(f.buf) == MaxPacket:
			bad = ErrOversized
		default:
			f.buf = append(f.buf, b)
		}
	}
}
