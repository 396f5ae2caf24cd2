package bridge

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"sync"
	"time"

	"synaptor/internal/wire"
)

// maxLine is the longest line that is read.
//
//limit:bytes a line of a board | the connection to it begins again
const maxLine = wire.MaxMessage

// line is a controller at the other end of a line.
type line struct {
	port  io.ReadWriteCloser
	lines chan []byte
	err   error // why there are no more, once lines is closed

	mu       sync.Mutex // of what is written
	welcomed bool
	asked    int // questions who it is that it has not answered: it answers each until it is welcomed
}

func newLine(port io.ReadWriteCloser) *line {
	l := &line{port: port, lines: make(chan []byte, 64)}
	go l.read()
	return l
}

// read gives each line on. Noise before the first line, as of a port that was just opened, is no line of JSON and is left out by those
// who read.
func (l *line) read() {
	defer close(l.lines)
	s := bufio.NewScanner(l.port)
	s.Buffer(make([]byte, 0, 4096), maxLine)
	for s.Scan() {
		text := append([]byte(nil), s.Bytes()...)
		if len(text) > 0 {
			l.lines <- text
		}
	}
	if l.err = s.Err(); l.err == nil {
		l.err = errors.New("it was pulled")
	}
}

// drain lets the reader end.
func (l *line) drain() {
	for range l.lines {
	}
}

// write writes a message as a line.
func (l *line) write(m any) error {
	data, err := json.Marshal(m)
	if err != nil {
		return err
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	switch kind, _ := wire.TypeOf(data); {
	case kind == wire.TypeBeat && !l.welcomed:
		l.asked++
	case kind == wire.TypeWelcome:
		l.welcomed = true
	}
	_, err = l.port.Write(append(data, '\n'))
	return err
}

// beat writes the heartbeat.
func (l *line) beat() error { return l.write(wire.Heartbeat{Type: wire.TypeBeat}) }

// begin asks a board who it is, also one that another bridge has had before.
func (l *line) begin() error { return l.write(wire.Heartbeat{Type: wire.TypeBeat, Begins: true}) }

// answered takes a hello, and tells whether it answers a question; else the board has begun anew.
func (l *line) answered() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.asked == 0 {
		return false
	}
	l.asked--
	return true
}

const (
	// asks is how often a board is asked who it is.
	asks = time.Second
	//limit:count time in which a board says who it is | in what the bridge says; it tries again
	helloLimit = 30 * time.Second
)

// hello waits until the board has said who it is: a heartbeat asks it to.
func (l *line) hello(ctx context.Context) (*wire.Hello, error) {
	again := time.NewTicker(asks)
	defer again.Stop()
	limit := time.After(helloLimit)
	if err := l.begin(); err != nil {
		return nil, err
	}
	for {
		select {
		case <-ctx.Done():
			return nil, ctx.Err()
		case <-limit:
			return nil, errors.New("nothing there says hello")
		case <-again.C:
			if err := l.begin(); err != nil {
				return nil, err
			}
		case text, ok := <-l.lines:
			if !ok {
				return nil, l.err
			}
			m, err := wire.Read(text)
			if err != nil {
				continue // the end of a line that began before, or something else
			}
			if h, is := m.(*wire.Hello); is {
				l.answered()
				if len(h.Controllers) != 1 {
					return nil, fmt.Errorf("it says that it is %d controllers; on a line there is one", len(h.Controllers))
				}
				return h, nil
			}
		}
	}
}
