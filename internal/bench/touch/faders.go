//go:build linux

package touch

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/midi"
	"synaptor/internal/core/show"
	"synaptor/internal/core/timecode"
	"synaptor/internal/incident"
)

// row is the row of faders, at its end of the cable.
type row struct {
	*Stand
	near, far *os.File
	touched   map[string]bool
	ended     chan struct{} // of the reader
	clock     chan struct{} // closed when time code stands; nil: it does
}

const (
	faders, dials, pads = 4, 4, 8
	firstDial           = 16  // of its controllers
	firstPad            = 36  // of its notes
	firstTouch          = 104 // of the notes that say that a hand is on a fader
	bendRange           = 1<<14 - 1
	// writeLimit is how long bytes wait for somebody to read them.
	writeLimit = 50 * time.Millisecond
)

// FaderRow is a row of four faders with motors, four dials without ends and eight pads with lamps, by MIDI. It sends time code, too.
func FaderRow(folder string, changed func()) (*Stand, error) {
	r := &row{touched: map[string]bool{}}
	r.Stand = &Stand{id: "faders", title: "Fader row (MIDI of this computer)", path: filepath.Join(folder, "midiC0D0"), changed: changed, values: map[string]any{"timecode": "stands"}}
	for i := range faders {
		r.values[fmt.Sprintf("fader%d", i+1)] = 0.0
	}
	for i := range pads {
		r.values[fmt.Sprintf("pad%d/lamp", i+1)] = 0
	}
	r.about = func() hands.Device {
		return hands.Device{Kind: show.LinkMIDIHost, Name: "Fader row", Place: "bench-3 port 0"}
	}
	r.plug, r.pull, r.operate = r.insert, r.remove, r.touch
	return r.start()
}

// insert makes its file: the far end of a pseudo-terminal.
func (r *row) insert() (err error) {
	if r.near, r.far, err = panel.Pair(); err != nil {
		return fmt.Errorf("make a port for the bench's faders: %w", err)
	}
	r.ended = make(chan struct{})
	near, ended := r.near, r.ended
	go func() {
		defer close(ended)
		incident.Contain("bench", "faders", func() { r.listen(near) })
	}()
	return os.Symlink(r.far.Name(), r.path)
}

// remove takes it away.
func (r *row) remove() error {
	if r.clock != nil {
		close(r.clock)
		r.clock = nil
	}
	near, far := r.near, r.far
	r.near, r.far = nil, nil
	clear(r.touched)
	return errors.Join(near.Close(), far.Close())
}

// listen does what it is told: lamps light, and faders move unless a hand is on them.
func (r *row) listen(near *os.File) {
	var reader midi.Reader
	buf := make([]byte, 1024)
	for {
		n, err := near.Read(buf)
		if err != nil {
			return
		}
		r.mu.Lock()
		reader.Read(buf[:n], r.told)
		r.mu.Unlock()
		r.changed()
	}
}

// told takes a message; the lock is held.
func (r *row) told(m midi.Message) {
	switch {
	case m.Kind == midi.Bend && m.Channel <= faders:
		if name := fmt.Sprintf("fader%d", m.Channel); !r.touched[name] {
			r.values[name] = float64(m.Value) / bendRange
		}
	case (m.Kind == midi.NoteOn || m.Kind == midi.NoteOff) && m.Number >= firstPad && m.Number < firstPad+pads:
		if m.Kind == midi.NoteOff {
			m.Value = 0
		}
		r.values[fmt.Sprintf("pad%d/lamp", m.Number-firstPad+1)] = m.Value
	case m.Kind == midi.Exclusive && slices.Equal(m.Data, []byte{0x7E, 0x7F, 0x06, 0x01}):
		r.send(midi.Message{Kind: midi.Exclusive, Data: []byte{0x7E, 0x00, 0x06, 0x02, 0x7D, 0x01, 0x00, 0x04, 0x00, 1, 0, 0, 0}})
	}
}

// send sends messages, where it is plugged in.
func (r *row) send(all ...midi.Message) {
	if r.near == nil {
		return
	}
	var raw []byte
	for _, m := range all {
		raw = append(raw, m.Bytes()...)
	}
	r.write(raw)
}

// write writes bytes; where nobody reads, they are lost.
func (r *row) write(raw []byte) {
	if r.near.SetWriteDeadline(time.Now().Add(writeLimit)) == nil {
		_, _ = r.near.Write(raw)
	}
}

// touch does what a hand does; the lock is held.
func (r *row) touch(control string, arg any) error {
	name, what, _ := strings.Cut(control, "/")
	var n int
	switch {
	case control == "timecode":
		return r.runTimecode(arg)
	case scan(name, "fader", faders, &n) && what == "touch":
		all, err := edges(arg)
		for _, down := range all {
			r.hand(n, down)
		}
		return err
	case scan(name, "fader", faders, &n):
		at, err := place(arg)
		if err != nil {
			return err
		}
		alone := !r.touched[name]
		if alone {
			r.hand(n, true)
		}
		r.values[name] = at
		r.send(midi.Message{Kind: midi.Bend, Channel: n, Value: int(at*bendRange + 0.5)})
		if alone {
			r.hand(n, false)
		}
		return nil
	case scan(name, "dial", dials, &n):
		by, is := arg.(int)
		if !is || by < -60 || by > 60 {
			return fmt.Errorf("%v is no number of detents", arg)
		}
		r.send(midi.Message{Kind: midi.Controller, Channel: 1, Number: firstDial + n - 1, Value: by & 0x7F})
		return nil
	case scan(name, "pad", pads, &n):
		all, err := edges(arg)
		for _, down := range all {
			m := midi.Message{Kind: midi.NoteOff, Channel: 1, Number: firstPad + n - 1}
			if down {
				m.Kind, m.Value = midi.NoteOn, 100
			}
			r.send(m)
		}
		return err
	}
	return fmt.Errorf("it has no %s", control)
}

// hand puts a hand on a fader, or takes it off.
func (r *row) hand(n int, on bool) {
	m := midi.Message{Kind: midi.NoteOff, Channel: 1, Number: firstTouch + n - 1}
	if on {
		m.Kind, m.Value = midi.NoteOn, 127
	}
	r.touched[fmt.Sprintf("fader%d", n)] = on
	r.values[fmt.Sprintf("fader%d/touched", n)] = on
	r.send(m)
}

// scan tells whether a name is that of one of so many, and which.
func scan(name, of string, most int, n *int) bool {
	number, is := strings.CutPrefix(name, of)
	if _, err := fmt.Sscan(number, n); !is || err != nil {
		return false
	}
	return *n >= 1 && *n <= most
}

// runTimecode has it send time code from 10:00:00:00, or stop.
func (r *row) runTimecode(arg any) error {
	switch {
	case arg == "run" && r.clock == nil && r.near != nil:
		r.clock = make(chan struct{})
		r.values["timecode"] = "runs"
		stop := r.clock
		go incident.Contain("bench", "faders", func() { r.quarterFrames(stop) })
	case arg == "stop" && r.clock != nil:
		close(r.clock)
		r.clock = nil
		r.values["timecode"] = "stands"
	}
	return nil
}

// quarterFrames sends four of them a frame, at 25 frames a second, until it is stopped.
func (r *row) quarterFrames(stop <-chan struct{}) {
	const perFrame = 4
	rate := timecode.R25
	tick := time.NewTicker(time.Second / time.Duration(rate.Count*perFrame))
	defer tick.Stop()
	for n, frame := 0, 10*60*60*rate.Count; ; n = (n + 1) % 8 {
		select {
		case <-stop:
			return
		case <-tick.C:
		}
		s := frame / rate.Count
		of := [4]int{frame % rate.Count, s % 60, s / 60 % 60, s/3600%24 | 1<<5}
		nibble := of[n/2] & 15
		if n%2 == 1 {
			nibble = of[n/2] >> 4
		}
		r.mu.Lock()
		if r.near != nil {
			r.write([]byte{0xF1, byte(n<<4 | nibble)})
		}
		r.mu.Unlock()
		if n == 7 {
			frame += 2
		}
	}
}
