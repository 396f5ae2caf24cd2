// Package bridge is the reference bridge: it carries controllers on a line of text, as of a serial port, to a Synaptor. The line has
// the messages of the wire as JSON, each on a line of its own. Begin with Bridge.Run; line.go has the line, link.go the way to Synaptor.
package bridge

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"time"

	"synaptor/internal/incident"
	"synaptor/internal/wire"
)

// Port is where a controller is: a line that can be opened again and again.
type Port interface {
	// Open opens it. What comes from it are lines.
	Open(ctx context.Context) (io.ReadWriteCloser, error)
	// String says which it is.
	String() string
}

// Bridge carries the controller at a port to a Synaptor.
type Bridge struct {
	// URL is the address of the wire, as ws://127.0.0.1:7420/api/v1/wire.
	URL   string
	Token string
	// Name is what the bridge is called; empty: as the board calls itself.
	Name string
	Port Port
	// Say hears what goes on, in sentences; nil: nobody does.
	Say func(text string)
}

// Pauses between two tries: short at first, since a restart of Synaptor is short.
const (
	firstPause = 100 * time.Millisecond
	lastPause  = 2 * time.Second
)

// Run carries it for ever: whatever ends is begun again. It returns when the context ends.
func (b *Bridge) Run(ctx context.Context) {
	if b.Say == nil {
		b.Say = func(string) {}
	}
	pause, said := firstPause, ""
	for ctx.Err() == nil {
		began := time.Now()
		err := error(nil)
		incident.Contain("bridge", b.Port.String(), func() { err = b.once(ctx) })
		if text := fmt.Sprintf("%s: %v.", b.Port, err); err != nil && text != said && ctx.Err() == nil {
			said = text
			b.Say(text)
		}
		if time.Since(began) > lastPause {
			pause, said = firstPause, ""
		}
		select {
		case <-ctx.Done():
		case <-time.After(pause):
		}
		pause = min(2*pause, lastPause)
	}
}

// once opens the port, and carries what is there until one of the two ends is lost.
func (b *Bridge) once(ctx context.Context) error {
	port, err := b.Port.Open(ctx)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	l := newLine(port)
	stop := context.AfterFunc(ctx, func() {
		if err := port.Close(); err != nil {
			slog.Debug("a port was not closed well", "port", b.Port.String(), "err", err)
		}
	})
	defer stop()
	defer cancel() // the port is closed
	hello, err := l.hello(ctx)
	if err != nil {
		return err
	}
	b.Say(fmt.Sprintf("%s: %s is here.", b.Port, hello.Controllers[0].Serial))
	c := &carrier{b: b, line: l, hello: *hello, pictures: map[string][]byte{}, last: wire.NewLast(keeps), lost: map[string]lostFace{}}
	return c.run(ctx)
}
