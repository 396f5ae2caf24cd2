package host

import (
	"encoding/binary"
	"fmt"
	"strings"
	"syscall"
	"unsafe"

	"github.com/holoplot/go-evdev"

	"synaptor/internal/core/hands"
)

// eventSize is that of an input_event: the time, the type, the code and the value (Linux, input.h).
const eventSize = int(unsafe.Sizeof(syscall.Timeval{})) + 8

// decoder makes events of the bytes of an input device, cut anywhere.
type decoder struct {
	axes map[string]hands.Axis
	part []byte
	mods map[evdev.EvCode]hands.Mods // modifiers that are down
	hats map[evdev.EvCode]string     // the key that a hat stands for now
}

func newDecoder(axes []hands.Axis) *decoder {
	d := &decoder{axes: map[string]hands.Axis{}, mods: map[evdev.EvCode]hands.Mods{}, hats: map[evdev.EvCode]string{}}
	for _, a := range axes {
		d.axes[a.Source] = a
	}
	return d
}

// read reads bytes. dropped says that the system had no room for some events.
func (d *decoder) read(bytes []byte, got func(hands.Event)) (dropped bool) {
	d.part = append(d.part, bytes...)
	for ; len(d.part) >= eventSize; d.part = d.part[eventSize:] {
		e := d.part[eventSize-8 : eventSize]
		kind, code, value := evdev.EvType(binary.NativeEndian.Uint16(e)), evdev.EvCode(binary.NativeEndian.Uint16(e[2:])), int32(binary.NativeEndian.Uint32(e[4:]))
		if kind == evdev.EV_SYN && code == evdev.SYN_DROPPED {
			dropped = true
			clear(d.mods)
			continue
		}
		d.event(kind, code, value, got)
	}
	d.part = append([]byte(nil), d.part...) // not for ever the beginning of all that came
	return dropped
}

func (d *decoder) event(kind evdev.EvType, code evdev.EvCode, value int32, got func(hands.Event)) {
	source := nameOf(kind, code)
	switch kind {
	case evdev.EV_KEY:
		d.key(source, code, value, got)
	case evdev.EV_REL:
		if code == evdev.REL_X || code == evdev.REL_Y || strings.HasSuffix(source, "_HI_RES") {
			return // the pointer, and what is said in whole steps too
		}
		got(hands.Event{Source: source, Sort: hands.By, Value: float64(value)})
	case evdev.EV_ABS:
		if code >= evdev.ABS_HAT0X && code <= evdev.ABS_HAT3Y {
			d.hat(source, code, value, got)
			return
		}
		a := d.axes[source]
		got(hands.Event{Source: source, Sort: hands.At, Value: float64(value), Low: a.Low, High: a.High})
	}
}

func (d *decoder) key(source string, code evdev.EvCode, value int32, got func(hands.Event)) {
	e := hands.Event{Source: source, Sort: hands.On}
	switch value {
	case 0:
		e.Sort = hands.Off
	case 1:
	default:
		return // the system repeats it
	}
	mod := hands.Modifier(source)
	if mod != 0 && e.Sort == hands.Off {
		delete(d.mods, code)
	}
	for _, m := range d.mods {
		e.Mods |= m
	}
	if mod != 0 && e.Sort == hands.On {
		d.mods[code] = mod
	}
	got(e)
}

// hat makes keys of an axis that has a middle and two sides.
func (d *decoder) hat(source string, code evdev.EvCode, value int32, got func(hands.Event)) {
	if was := d.hats[code]; was != "" {
		delete(d.hats, code)
		got(hands.Event{Source: was, Sort: hands.Off})
	}
	if value != 0 {
		side := source + " +"
		if value < 0 {
			side = source + " -"
		}
		d.hats[code] = side
		got(hands.Event{Source: side, Sort: hands.On})
	}
}

// nameOf is how Linux calls a key or an axis; one without a name goes by its number.
func nameOf(kind evdev.EvType, code evdev.EvCode) string {
	if name := evdev.CodeName(kind, code); name != "unknown" {
		return name
	}
	return fmt.Sprintf("%s %d", evdev.TypeName(kind), code)
}
