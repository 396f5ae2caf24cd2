// Package board is the other end of a bridge's line: a controller that says who it is, what is done to it, and shows what it is told to.
// It stands in for hardware: in the bench, in a terminal, and in tests.
package board

import (
	"bufio"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"sync"
	"time"

	"synaptor/internal/wire"
)

// Board is a controller. Its methods are safe for concurrent use.
type Board struct {
	described wire.Controller

	mu       sync.Mutex
	out      chan []byte // lines to be written; nil: no line is connected
	welcomed bool
	seq      int64
	picture  wire.Picture // that came last: the next face is shown with it
	shown    map[string]Shown
	level    float64
	dimmed   bool
	text     string
	page     map[string]string // the name of the page, by zone
	heard    time.Time
	mute     bool // it acknowledges nothing
	changed  func()
	began    time.Time
}

// Shown is what a control shows.
type Shown struct {
	Face    wire.Face
	Picture []byte // in the format of the face
}

// New makes a board. changed is called after what it shows has changed, without a lock; nil: nobody is.
func New(described wire.Controller, changed func()) *Board {
	if changed == nil {
		changed = func() {}
	}
	return &Board{described: described, shown: map[string]Shown{}, page: map[string]string{}, level: 1, changed: changed, began: time.Now()}
}

const (
	// maxLine is the longest line that a board reads: a picture in base64.
	//
	//limit:bytes a line that a simulated board reads | its line ends
	maxLine = 4 << 20
	// maxWaiting is how many lines wait to be written.
	//
	//limit:count lines of a simulated board that wait | in the answer to what it was told to do
	maxWaiting = 1024
)

// Serve speaks on a line until that ends, and says why it did.
func (b *Board) Serve(port io.ReadWriter) error {
	out, written := make(chan []byte, maxWaiting), make(chan struct{})
	b.mu.Lock()
	b.out, b.welcomed, b.seq = out, false, 0
	b.mu.Unlock()
	go func() {
		defer close(written)
		for line := range out {
			if _, err := port.Write(line); err != nil {
				return // who reads will see
			}
		}
	}()
	defer func() {
		b.mu.Lock()
		if b.out == out {
			b.out, b.welcomed = nil, false
		}
		close(out)
		b.mu.Unlock()
		<-written
	}()
	s := bufio.NewScanner(port)
	s.Buffer(make([]byte, 0, 64<<10), maxLine)
	for s.Scan() {
		if err := b.take(s.Bytes()); err != nil {
			return err
		}
	}
	if err := s.Err(); err != nil {
		return err
	}
	return io.EOF
}

// take takes a message. What is none is left out: a line may begin in the middle of one.
func (b *Board) take(line []byte) error {
	kind, err := wire.TypeOf(line)
	if err != nil {
		return nil
	}
	b.mu.Lock()
	change, err := b.told(kind, line)
	b.mu.Unlock()
	if change {
		b.changed()
	}
	return err
}

// told does what a message says; the lock is held.
func (b *Board) told(kind string, line []byte) (change bool, err error) {
	b.heard = time.Now()
	switch kind {
	case wire.TypeBeat:
		var m wire.Heartbeat
		if err := json.Unmarshal(line, &m); err != nil {
			return false, nil
		}
		if b.welcomed = b.welcomed && !m.Begins; !b.welcomed {
			return false, b.say(wire.Hello{Type: wire.TypeHello, Version: wire.Newest, Bridge: b.described.Name, Controllers: []wire.Controller{b.described}})
		}
		return false, nil
	case wire.TypeWelcome, wire.TypeControllers:
		b.welcomed = true
	case wire.TypePicture:
		return false, json.Unmarshal(line, &b.picture)
	case wire.TypeFace:
		return b.face(line)
	case wire.TypeBrightness:
		var m wire.Brightness
		err = json.Unmarshal(line, &m)
		b.level = m.Level
	case wire.TypeDim:
		var m wire.Dim
		err = json.Unmarshal(line, &m)
		b.dimmed = m.On
	case wire.TypePage:
		var m wire.Page
		err = json.Unmarshal(line, &m)
		b.page[m.Zone] = m.Name
	case wire.TypeText:
		var m wire.Text
		err = json.Unmarshal(line, &m)
		b.text = m.Text
	}
	return true, err
}

// face shows a face, and acknowledges it; the lock is held.
func (b *Board) face(line []byte) (bool, error) {
	var m wire.Face
	if err := json.Unmarshal(line, &m); err != nil {
		return false, err
	}
	s := Shown{Face: m, Picture: m.Data}
	if m.Picture != "" && b.picture.Hash == m.Hash {
		s.Picture = b.picture.Data
	}
	b.shown[m.Control] = s
	if b.mute || m.Seq == 0 {
		return true, nil
	}
	return true, b.say(wire.Ack{Type: wire.TypeAck, Seq: m.Seq})
}

// ErrNotConnected says that nobody is at the other end.
var ErrNotConnected = errors.New("the board is not connected")

// say says a message; the lock is held.
func (b *Board) say(m any) error {
	if b.out == nil {
		return ErrNotConnected
	}
	data, err := json.Marshal(m)
	if err != nil {
		return err
	}
	select {
	case b.out <- append(data, '\n'):
		return nil
	default:
		return errors.New("the line takes nothing more")
	}
}

// Do does something to a control: down, up, turn, slide or swipe.
func (b *Board) Do(kind, control string, amount float64) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.seq++
	return b.say(wire.Input{Type: kind, Controller: b.described.Serial, Control: control, Seq: b.seq, Clock: time.Since(b.began).Milliseconds(), Amount: amount})
}

// Say says any message, also one that makes no sense.
func (b *Board) Say(m any) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.say(m)
}

// Mute has it acknowledge nothing, or again.
func (b *Board) Mute(on bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.mute = on
}

// State is what a board shows.
type State struct {
	Shown    map[string]Shown
	Level    float64
	Dimmed   bool
	Text     string
	Pages    map[string]string
	Welcomed bool
}

// State gives what it shows now.
func (b *Board) State() State {
	b.mu.Lock()
	defer b.mu.Unlock()
	return State{maps.Clone(b.shown), b.level, b.dimmed, b.text, maps.Clone(b.page), b.welcomed}
}

// Describe is how it describes itself.
func (b *Board) Describe() wire.Controller { return b.described }
