//go:build linux

package host

import (
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"syscall"
	"testing"
	"unsafe"

	"golang.org/x/sys/unix"

	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
)

// raw are the bytes of events: type, code and value each.
func raw(all ...[3]int32) (out []byte) {
	for _, e := range all {
		out = append(out, make([]byte, unsafe.Sizeof(syscall.Timeval{}))...)
		out = binary.NativeEndian.AppendUint16(out, uint16(e[0]))
		out = binary.NativeEndian.AppendUint16(out, uint16(e[1]))
		out = binary.NativeEndian.AppendUint32(out, uint32(e[2]))
	}
	return out
}

// decoded are the events of bytes that come in pieces, as text.
func decoded(d *decoder, bytes []byte, piece int) (out []string, dropped bool) {
	for len(bytes) > 0 {
		n := min(piece, len(bytes))
		dropped = d.read(bytes[:n], func(e hands.Event) {
			text := hands.Combination(e.Mods, e.Source)
			switch e.Sort {
			case hands.On:
				text += " down"
			case hands.Off:
				text += " up"
			case hands.At:
				text += fmt.Sprintf(" at %v of %v to %v", e.Value, e.Low, e.High)
			case hands.By:
				text += fmt.Sprintf(" by %v", e.Value)
			}
			out = append(out, text)
		}) || dropped
		bytes = bytes[n:]
	}
	return out, dropped
}

func TestInputEventsAreRead(t *testing.T) {
	const key, rel, abs = 1, 2, 3
	for name, c := range map[string]struct {
		in      []byte
		want    []string
		dropped bool
	}{
		"a key":                        {raw([3]int32{4, 4, 458756}, [3]int32{key, 71, 1}, [3]int32{}, [3]int32{key, 71, 0}), []string{"KEY_KP7 down", "KEY_KP7 up"}, false},
		"the system repeats it":        {raw([3]int32{key, 71, 1}, [3]int32{key, 71, 2}, [3]int32{key, 71, 2}, [3]int32{key, 71, 0}), []string{"KEY_KP7 down", "KEY_KP7 up"}, false},
		"a combination":                {raw([3]int32{key, 29, 1}, [3]int32{key, 42, 1}, [3]int32{key, 183, 1}, [3]int32{key, 42, 0}, [3]int32{key, 183, 0}), []string{"KEY_LEFTCTRL down", "KEY_LEFTSHIFT down", "Ctrl+Shift+KEY_F13 down", "KEY_LEFTSHIFT up", "Ctrl+KEY_F13 up"}, false},
		"an axis":                      {raw([3]int32{abs, 0, 700}), []string{"ABS_X at 700 of 0 to 1023"}, false},
		"a hat":                        {raw([3]int32{abs, 16, -1}, [3]int32{abs, 16, 1}, [3]int32{abs, 16, 0}), []string{"ABS_HAT0X - down", "ABS_HAT0X - up", "ABS_HAT0X + down", "ABS_HAT0X + up"}, false},
		"a wheel, in fine steps too":   {raw([3]int32{rel, 8, -1}, [3]int32{rel, 11, -120}), []string{"REL_WHEEL by -1"}, false},
		"the pointer is not for us":    {raw([3]int32{rel, 0, 5}, [3]int32{rel, 1, 5}), nil, false},
		"the system had no room":       {raw([3]int32{key, 42, 1}, [3]int32{0, 3, 0}, [3]int32{key, 183, 1}), []string{"KEY_LEFTSHIFT down", "KEY_F13 down"}, true},
		"a key without a name":         {raw([3]int32{key, 0x2fe, 1}), []string{"EV_KEY 766 down"}, false},
		"a type that nobody has heard": {raw([3]int32{77, 1, 1}), nil, false},
	} {
		for _, piece := range []int{1, 7, eventSize, 1000} {
			got, dropped := decoded(newDecoder([]hands.Axis{{Source: "ABS_X", High: 1023}}), c.in, piece)
			if !reflect.DeepEqual(got, c.want) || dropped != c.dropped {
				t.Errorf("%s, in pieces of %d: %q, %v", name, piece, got, dropped)
			}
		}
	}
}

func FuzzInputEvents(f *testing.F) {
	f.Add(raw([3]int32{1, 71, 1}, [3]int32{3, 16, -1}, [3]int32{0, 3, 0}), 5)
	f.Fuzz(func(t *testing.T, stream []byte, piece int) {
		axes := []hands.Axis{{Source: "ABS_X", High: 1023}}
		whole, _ := decoded(newDecoder(axes), stream, len(stream)+1)
		cut, _ := decoded(newDecoder(axes), stream, max(1, min(piece, 64)))
		if !reflect.DeepEqual(whole, cut) {
			t.Fatalf("in pieces of %d it is %q, and %q whole", piece, cut, whole)
		}
	})
}

// plugged makes the file of a simulated device, and gives its writing end.
func plugged(t *testing.T, folder, file string, about hands.Device) *os.File {
	t.Helper()
	path := filepath.Join(folder, file)
	body, err := json.Marshal(about)
	if err == nil {
		err = os.WriteFile(DescriptionOf(path), body, 0o600)
	}
	if err == nil {
		err = unix.Mkfifo(path, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	out, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { out.Close() })
	return out
}

func TestOneProgramHasATakenDeviceAlone(t *testing.T) {
	folder := t.TempDir()
	plugged(t, folder, "event3", hands.Device{Kind: show.LinkKeysHost, Name: "Numeric block"})
	open := Simulated(folder)[0].Open
	a, err := open(filepath.Join(folder, "event3"))
	if err != nil {
		t.Fatal(err)
	}
	b, err := open(filepath.Join(folder, "event3"))
	if err != nil {
		t.Fatal(err)
	}
	if err := a.Grab(true); err != nil {
		t.Fatal(err)
	}
	if err := b.Grab(true); err == nil || !strings.Contains(err.Error(), "busy") {
		t.Errorf("another one takes it too: %v", err)
	}
	if err := errors.Join(a.Grab(false), b.Grab(true), b.Close(), a.Grab(true), a.Close()); err != nil {
		t.Errorf("given back: %v", err)
	}
}

// TestARealDeviceFileIsGrabbedByAnIoctl: a pipe is none, and says so instead of doing something else.
func TestARealDeviceFileIsGrabbedByAnIoctl(t *testing.T) {
	folder := t.TempDir()
	plugged(t, folder, "event3", hands.Device{})
	f, err := openFile(filepath.Join(folder, "event3"))
	if err != nil {
		t.Fatal(err)
	}
	if err := f.Grab(true); !errors.Is(err, unix.ENOTTY) && !errors.Is(err, unix.EINVAL) {
		t.Errorf("a pipe is grabbed: %v", err)
	}
	go f.Close()
	if _, err := f.Read(make([]byte, 1)); err == nil { // closing ends it
		t.Error("something was read")
	}
	if _, err := describeMIDI("/dev/snd/nonsense"); err == nil {
		t.Error("a file of another name is a port of MIDI")
	}
	if found, err := describeMIDI("/dev/snd/midiC7D1"); err != nil || found.Name != "MIDI 7" {
		t.Errorf("a port without a name is %+v, %v", found, err)
	}
	if _, err := describeInput(filepath.Join(folder, "event3")); err == nil {
		t.Error("a pipe is an input device")
	}
}
