// Package lines speaks protocols of text lines over TCP: one message a line,
// ended by LF or CR LF, in UTF-8.
package lines

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
)

const (
	// MaxLine is the longest line, in bytes, that is read or written.
	//limit:bytes a line of text | in the wire view
	MaxLine = 4096
	// endless is how much may come without the end of a line before the
	// connection is given up.
	endless = 1 << 20
)

// TCP is the driver.
type TCP struct{}

// Encode implements link.Driver.
func (TCP) Encode(msgs ...device.Message) ([]byte, error) {
	var out []byte
	for _, m := range msgs {
		switch {
		case strings.ContainsAny(m.Address, "\r\n\x00") || !utf8.ValidString(m.Address):
			return nil, fmt.Errorf("encode a line: %q is not one line of text", m.Address)
		case len(m.Address) > MaxLine:
			return nil, fmt.Errorf("encode a line: %d bytes are more than %d", len(m.Address), MaxLine)
		}
		out = append(append(out, m.Address...), '\n')
	}
	return out, nil
}

// Show implements link.Driver.
func (TCP) Show(payload []byte) []string {
	return strings.Split(strings.TrimSuffix(string(payload), "\n"), "\n")
}

// Dial implements link.Driver.
func (TCP) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	tcp, err := socket.Dial(ctx, to.Host, to.Port, to.Stale)
	if err != nil {
		return nil, err
	}
	return &conn{tcp: tcp, r: NewReader(tcp)}, nil
}

type conn struct {
	tcp *socket.Conn
	r   *Reader
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) {
	line, err := c.r.Next()
	if errors.Is(err, ErrLong) || errors.Is(err, ErrText) {
		return link.Batch{}, &link.BadInput{Err: err}
	}
	if err != nil {
		return link.Batch{}, err
	}
	return link.Batch{Messages: []device.Message{{Address: line}}}, nil
}

// Write implements link.Conn.
func (c *conn) Write(payload []byte, _ uint64, deadline time.Time) error {
	if err := c.tcp.SetWriteDeadline(deadline); err != nil {
		return err
	}
	_, err := c.tcp.Write(payload)
	return errors.Join(err, c.tcp.SetWriteDeadline(time.Time{}))
}

// TryWrite implements link.Conn.
func (c *conn) TryWrite(payload []byte, _ uint64) (ok bool, err error) {
	return c.tcp.TryWrite(payload)
}

// Close implements link.Conn.
func (c *conn) Close() error { return c.tcp.Close() }

// What can be wrong with a line; the next one can be read.
var (
	ErrLong = fmt.Errorf("a line is longer than %d bytes", MaxLine)
	ErrText = errors.New("a line is not UTF-8 text")
)

// Reader reads lines from a stream.
type Reader struct{ r *bufio.Reader }

// NewReader returns a reader of the lines in a stream.
func NewReader(r io.Reader) *Reader { return &Reader{bufio.NewReaderSize(r, MaxLine)} }

// Next returns the next line that is not empty, without its end. ErrLong and
// ErrText leave the stream at the end of the bad line. A line that never ends
// is an error that ends the stream.
func (r *Reader) Next() (string, error) {
	for {
		b, err := r.r.ReadSlice('\n')
		if errors.Is(err, bufio.ErrBufferFull) {
			return "", r.skip()
		}
		if err != nil {
			if err == io.EOF && len(b) > 0 {
				err = io.ErrUnexpectedEOF
			}
			return "", err
		}
		line := strings.TrimRight(string(b), "\r\n")
		switch {
		case !utf8.ValidString(line) || strings.ContainsRune(line, 0):
			return "", ErrText
		case strings.TrimSpace(line) != "":
			return line, nil
		}
	}
}

// skip passes over the rest of a line that is too long.
func (r *Reader) skip() error {
	for n := 0; n < endless; n += MaxLine {
		_, err := r.r.ReadSlice('\n')
		if err == nil {
			return ErrLong
		}
		if !errors.Is(err, bufio.ErrBufferFull) {
			return err
		}
	}
	return link.Problem("It sends a line without end.")
}
