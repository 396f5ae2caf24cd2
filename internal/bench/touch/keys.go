//go:build linux

package touch

import (
	"encoding/binary"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"time"
	"unsafe"

	"golang.org/x/sys/unix"

	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
)

// The types of events (Linux, input-event-codes.h).
const (
	evSyn, evKey, evAbs = 0, 1, 3
)

// events is the writing end of an input device.
type events struct {
	path string
	out  *os.File // nil: nobody reads
}

// write writes events, and what ends them; where nobody reads, they are lost, as those of a keyboard are.
func (e *events) write(kind, code uint16, value int32) error {
	if e.out == nil {
		out, err := os.OpenFile(e.path, os.O_WRONLY|unix.O_NONBLOCK, 0)
		if errors.Is(err, unix.ENXIO) {
			return nil
		}
		if err != nil {
			return err
		}
		e.out = out
	}
	now := syscall.NsecToTimeval(time.Now().UnixNano())
	var raw []byte
	one := func(kind, code uint16, value int32) {
		raw = append(raw, unsafe.Slice((*byte)(unsafe.Pointer(&now)), unsafe.Sizeof(now))...)
		raw = binary.NativeEndian.AppendUint16(raw, kind)
		raw = binary.NativeEndian.AppendUint16(raw, code)
		raw = binary.NativeEndian.AppendUint32(raw, uint32(value))
	}
	one(kind, code, value)
	one(evSyn, 0, 0)
	if _, err := e.out.Write(raw); err != nil {
		_ = e.close() // whoever read is gone
	}
	return nil
}

func (e *events) close() error {
	if e.out == nil {
		return nil
	}
	out := e.out
	e.out = nil
	return out.Close()
}

// NumericBlock is the numeric block of a keyboard, with the keys F13 to F24 and two modifiers.
func NumericBlock(folder string, changed func()) (*Stand, error) {
	e := &events{path: filepath.Join(folder, "event0")}
	s := &Stand{id: "numeric", title: "Numeric block (keys of this computer)", path: e.path, changed: changed, values: map[string]any{}}
	codes := map[string]uint16{"KEY_KP7": 71, "KEY_KP8": 72, "KEY_KP9": 73, "KEY_KPMINUS": 74, "KEY_KP4": 75, "KEY_KP5": 76, "KEY_KP6": 77, "KEY_KPPLUS": 78, "KEY_KP1": 79, "KEY_KP2": 80,
		"KEY_KP3": 81, "KEY_KP0": 82, "KEY_KPDOT": 83, "KEY_KPENTER": 96, "KEY_KPSLASH": 98, "KEY_KPASTERISK": 55, "KEY_LEFTSHIFT": 42, "KEY_LEFTCTRL": 29, "KEY_A": 30}
	for i := range 12 {
		codes[fmt.Sprintf("KEY_F%d", 13+i)] = uint16(183 + i)
	}
	s.about = func() hands.Device {
		return hands.Device{Kind: show.LinkKeysHost, Name: "Numeric block", Place: "bench-1/input0", Typed: true}
	}
	s.plug = func() error { return unix.Mkfifo(e.path, 0o600) }
	s.pull = e.close
	s.operate = func(control string, arg any) error {
		code, has := codes[control]
		if !has {
			return fmt.Errorf("it has no key %s", control)
		}
		all, err := edges(arg)
		for _, down := range all {
			s.values[control] = down
			value := int32(0)
			if down {
				value = 1
			}
			err = errors.Join(err, e.write(evKey, code, value))
		}
		return err
	}
	return s.start()
}

// pedalRange is the highest value of a pedal; it rests there, as some do.
const pedalRange = 1023

// FootBoard is a board of three pedals.
func FootBoard(folder string, changed func()) (*Stand, error) {
	e := &events{path: filepath.Join(folder, "event1")}
	s := &Stand{id: "foot", title: "Foot board (a game control of this computer)", path: e.path, changed: changed, values: map[string]any{"pedal1": 0.0, "pedal2": 0.0, "pedal3": 0.0}}
	pedals := map[string]uint16{"pedal1": 0, "pedal2": 1, "pedal3": 2}
	raw := func(at float64) float64 { return float64(int(at * pedalRange)) }
	s.about = func() hands.Device {
		a := hands.Device{Kind: show.LinkKeysHost, Name: "Foot board", Place: "bench-2/input0"}
		for i, source := range []string{"ABS_X", "ABS_Y", "ABS_Z"} {
			at := s.values[fmt.Sprintf("pedal%d", i+1)].(float64) // as it was made
			a.Axes = append(a.Axes, hands.Axis{Source: source, High: pedalRange, Value: raw(at)})
		}
		return a
	}
	s.plug = func() error { return unix.Mkfifo(e.path, 0o600) }
	s.pull = e.close
	s.operate = func(control string, arg any) error {
		code, has := pedals[control]
		if !has {
			return fmt.Errorf("it has no pedal %s", control)
		}
		var way []float64
		if all, err := edges(arg); err == nil {
			for _, down := range all {
				if down {
					way = append(way, 0.4, 0.8, 1)
				} else {
					way = append(way, 0.6, 0.2, 0)
				}
			}
		} else if to, err := place(arg); err == nil {
			way = []float64{to}
		} else {
			return err
		}
		for _, at := range way {
			s.values[control] = at
			if err := e.write(evAbs, code, int32(raw(at))); err != nil {
				return err
			}
		}
		return nil
	}
	return s.start()
}
