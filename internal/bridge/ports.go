package bridge

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"path/filepath"
	"slices"
	"strings"

	"go.bug.st/serial"
)

// SerialPort is a serial port by its path. A pattern, as /dev/ttyACM*, is whichever of those is there: a port that is pulled and put back may
// be called otherwise.
type SerialPort struct {
	Path string
	Baud int
}

// String implements Port.
func (p SerialPort) String() string { return p.Path }

// Open implements Port.
func (p SerialPort) Open(context.Context) (io.ReadWriteCloser, error) {
	paths := []string{p.Path}
	if strings.ContainsAny(p.Path, "*?[") {
		var err error
		if paths, err = filepath.Glob(p.Path); err != nil {
			return nil, fmt.Errorf("%q is no pattern: %w", p.Path, err)
		}
		slices.Sort(paths)
	}
	errs := []error{}
	for _, path := range paths {
		port, err := serial.Open(path, &serial.Mode{BaudRate: p.Baud})
		if err == nil {
			if err = port.SetReadTimeout(looks); err == nil {
				return hold(port), nil
			}
			err = errors.Join(err, port.Close())
		}
		errs = append(errs, fmt.Errorf("%s cannot be opened: %w", path, err))
	}
	if len(errs) == 0 {
		return nil, errors.New("there is no such port")
	}
	return nil, errors.Join(errs...)
}

// TCPPort is a board at a TCP address.
type TCPPort string

// String implements Port.
func (p TCPPort) String() string { return string(p) }

// Open implements Port.
func (p TCPPort) Open(ctx context.Context) (io.ReadWriteCloser, error) {
	var d net.Dialer
	conn, err := d.DialContext(ctx, "tcp", string(p))
	if err != nil {
		return nil, errors.New("nothing answers there")
	}
	return conn, nil
}

// Board is what answers at a port in memory: see MemoryPort.
type Board interface {
	// Serve speaks on a line until that ends.
	Serve(line io.ReadWriter) error
}

// MemoryPort is a board in this process.
type MemoryPort struct {
	Name  string
	Board Board
}

// String implements Port.
func (p MemoryPort) String() string { return p.Name }

// Open implements Port.
func (p MemoryPort) Open(context.Context) (io.ReadWriteCloser, error) {
	near, far := net.Pipe()
	go func() {
		_ = p.Board.Serve(far) // it ends when the other side does
		_ = far.Close()
	}()
	return near, nil
}
