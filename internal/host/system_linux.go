package host

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/holoplot/go-evdev"
	"golang.org/x/sys/unix"

	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
)

// Unread says why no hardware of this computer itself is here to be touched; empty: it can be.
const Unread = ""

// Folders are those of this computer. What reads them is untried where there is no hardware; docs/controllers.md says what.
func Folders() []Folder {
	return []Folder{
		{Path: "/dev/input", Pattern: "event*", Describe: describeInput, Open: openFile},
		{Path: "/dev/snd", Pattern: "midiC*D*", Describe: describeMIDI, Open: openFile},
	}
}

// file is a device file that is open.
type file struct{ *os.File }

// openFile opens one so that closing it ends a read.
func openFile(path string) (Stream, error) {
	f, err := os.OpenFile(path, os.O_RDWR|unix.O_NONBLOCK, 0)
	if os.IsPermission(err) {
		f, err = os.OpenFile(path, os.O_RDONLY|unix.O_NONBLOCK, 0)
	}
	if err != nil {
		return nil, err
	}
	return file{f}, nil
}

// Grab implements Stream.
func (f file) Grab(on bool) error {
	const eviocgrab = 0x40044590 // _IOW('E', 0x90, int), input.h
	n := 0
	if on {
		n = 1
	}
	c, err := f.SyscallConn()
	if err != nil {
		return err
	}
	var failed error
	if err := c.Control(func(fd uintptr) { failed = unix.IoctlSetInt(int(fd), eviocgrab, n) }); err != nil {
		return err
	}
	return failed
}

// describeInput says what an input device is. One that may not be read is told by its name alone.
func describeInput(path string) (found hands.Device, err error) {
	found = hands.Device{Kind: show.LinkKeysHost, Name: line("/sys/class/input/" + filepath.Base(path) + "/device/name"), Place: line("/sys/class/input/" + filepath.Base(path) + "/device/phys")}
	d, err := evdev.OpenWithFlags(path, os.O_RDONLY)
	if err != nil {
		return found, err
	}
	defer func() { _ = d.Close() }()
	if name, err := d.Name(); err == nil {
		found.Name = name
	}
	keys := d.CapableEvents(evdev.EV_KEY)
	axes, _ := d.AbsInfos() // one without has none
	if len(keys) == 0 && len(axes) == 0 {
		return found, fmt.Errorf("%s has no keys and no axes", found.Name)
	}
	found.Typed = slices.Contains(keys, evdev.KEY_A) && slices.Contains(keys, evdev.KEY_Z)
	down, _ := d.State(evdev.EV_KEY)
	for code, is := range down {
		if is {
			found.Down = append(found.Down, nameOf(evdev.EV_KEY, code))
		}
	}
	for code, a := range axes {
		found.Axes = append(found.Axes, hands.Axis{Source: nameOf(evdev.EV_ABS, code), Low: float64(a.Minimum), High: float64(a.Maximum), Value: float64(a.Value)})
	}
	return found, nil
}

// describeMIDI says what a port of MIDI is, by what the sound system says of it.
func describeMIDI(path string) (hands.Device, error) {
	var card, port int
	if _, err := fmt.Sscanf(filepath.Base(path), "midiC%dD%d", &card, &port); err != nil {
		return hands.Device{}, err
	}
	name := line(fmt.Sprintf("/proc/asound/card%d/midi%d", card, port))
	if name == "" {
		name = fmt.Sprintf("MIDI %d", card)
	}
	place, _ := filepath.EvalSymlinks(fmt.Sprintf("/sys/class/sound/card%d/device", card)) // "" where it is of no bus
	return hands.Device{Kind: show.LinkMIDIHost, Name: name, Place: fmt.Sprintf("%s port %d", filepath.Base(place), port)}, nil
}

// line is the first line of a file of the system; empty: there is none.
func line(path string) string {
	raw, _ := os.ReadFile(path) // where it is not, nothing is said
	first, _, _ := strings.Cut(string(raw), "\n")
	return strings.TrimSpace(first)
}
