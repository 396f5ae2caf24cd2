// Package host finds what can be touched on the computer that Synaptor runs on, and hands on what it says: input devices, which are
// keyboards, pedals, button boxes and game controls, and ports of MIDI. Begin with Watch. system_linux.go has the system calls; above it
// everything is the same for the simulated ones of the bench, whose files are pipes and pseudo-terminals.
package host

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"path/filepath"
	"sync"
	"time"

	"github.com/fsnotify/fsnotify"

	"synaptor/internal/attach/hands"
	core "synaptor/internal/core/hands"
	"synaptor/internal/core/midi"
	"synaptor/internal/core/show"
	"synaptor/internal/incident"
)

// Stream is a device that is open.
type Stream interface {
	io.ReadWriteCloser
	// Grab keeps it from other programs, or gives it back.
	Grab(on bool) error
}

// Folder is one that has files of devices.
type Folder struct {
	Path, Pattern string
	Describe      func(path string) (core.Device, error)
	Open          func(path string) (Stream, error)
}

// Watcher watches folders for devices that come and go.
type Watcher struct {
	service *hands.Service
	folders []Folder
	notify  *fsnotify.Watcher
	ended   sync.WaitGroup

	mu     sync.Mutex
	open   map[string]*device // by path
	closed bool
}

// device is one that is open.
type device struct {
	stream Stream // nil: it cannot be read, and its port says why
	port   *hands.Port
}

// Watch watches folders until it is closed. One that is not there is left out.
func Watch(service *hands.Service, folders []Folder) (*Watcher, error) {
	n, err := fsnotify.NewWatcher()
	if err != nil {
		return nil, fmt.Errorf("watch for devices that are plugged in: %w", err)
	}
	w := &Watcher{service: service, notify: n, open: map[string]*device{}}
	for _, f := range folders {
		if err := n.Add(f.Path); err != nil {
			if !errors.Is(err, fs.ErrNotExist) {
				slog.Warn("devices that are plugged in are not seen", "folder", f.Path, "err", err)
			}
			continue
		}
		w.folders = append(w.folders, f)
	}
	w.ended.Go(func() { incident.Contain("host", "", w.run) })
	return w, nil
}

// Close lets go of all devices.
func (w *Watcher) Close() {
	_ = w.notify.Close()
	w.ended.Wait()
}

func (w *Watcher) run() {
	defer func() {
		w.mu.Lock()
		w.closed = true
		var all []string
		for path := range w.open {
			all = append(all, path)
		}
		w.mu.Unlock()
		for _, path := range all {
			w.lose(path)
		}
	}()
	for _, f := range w.folders {
		all, _ := filepath.Glob(filepath.Join(f.Path, f.Pattern)) // the pattern is right
		for _, path := range all {
			w.look(path)
		}
	}
	for {
		select {
		case e, ok := <-w.notify.Events:
			if !ok {
				return
			}
			if e.Has(fsnotify.Remove) || e.Has(fsnotify.Rename) {
				w.lose(e.Name)
			} else {
				w.look(e.Name) // it is there, or its rights have changed
			}
		case _, ok := <-w.notify.Errors:
			if !ok {
				return
			}
		}
	}
}

// folderOf is the folder that a file of a device is in; nil: it is none.
func (w *Watcher) folderOf(path string) *Folder {
	for i, f := range w.folders {
		if match, _ := filepath.Match(f.Pattern, filepath.Base(path)); match && filepath.Dir(path) == filepath.Clean(f.Path) {
			return &w.folders[i]
		}
	}
	return nil
}

// look opens a device that is there, unless it is open.
func (w *Watcher) look(path string) {
	f := w.folderOf(path)
	if f == nil {
		return
	}
	w.mu.Lock()
	old := w.open[path]
	w.mu.Unlock()
	if old != nil && old.stream != nil {
		return
	}
	found, err := f.Describe(path)
	var stream Stream
	if err == nil {
		stream, err = f.Open(path)
	}
	switch {
	case errors.Is(err, fs.ErrPermission):
		if old == nil && found.Name != "" {
			plug := plugOf(found, nil)
			plug.Problem = "Synaptor may not read it. " + Permission
			w.keep(path, &device{port: w.service.Plug(plug)})
		}
		return
	case err != nil:
		return // it is gone again, or no device that can be touched
	}
	if old != nil {
		w.lose(path)
	}
	d := &device{stream: stream, port: w.service.Plug(plugOf(found, stream))}
	w.keep(path, d)
	w.ended.Go(func() {
		incident.Contain("host", found.Name, func() { read(found, stream, d.port) })
		w.loseIf(path, d)
	})
}

// Permission says how somebody lets Synaptor read input devices.
const Permission = "Install packaging/70-synaptor.rules and put the user that it runs as into the group synaptor, or into the group input; then plug it in again."

func (w *Watcher) keep(path string, d *device) {
	w.mu.Lock()
	closed := w.closed
	if !closed {
		w.open[path] = d
	}
	w.mu.Unlock()
	if closed {
		d.end()
	}
}

// lose lets go of a device that is gone.
func (w *Watcher) lose(path string) {
	w.mu.Lock()
	d := w.open[path]
	w.mu.Unlock()
	if d != nil {
		w.loseIf(path, d)
	}
}

// loseIf lets go of a device, unless another one is there in its place by now.
func (w *Watcher) loseIf(path string, d *device) {
	w.mu.Lock()
	is := w.open[path] == d
	if is {
		delete(w.open, path)
	}
	w.mu.Unlock()
	if is {
		d.end()
	}
}

func (d *device) end() {
	if d.stream != nil {
		_ = d.stream.Close() // it is gone
	}
	d.port.Unplug()
}

// plugOf describes what was found to the service.
func plugOf(f core.Device, s Stream) hands.Plug {
	p := hands.Plug{Kind: f.Kind, Name: f.Name, Place: f.Place, Via: "this computer", Private: f.Typed, Down: f.Down}
	for _, a := range f.Axes {
		p.Stands = append(p.Stands, core.Event{Source: a.Source, Sort: core.At, Value: a.Value, Low: a.Low, High: a.High})
	}
	if s == nil {
		return p
	}
	if f.Kind == show.LinkMIDIHost {
		p.Send = func(b []byte) error {
			_, err := s.Write(b)
			return err
		}
	} else {
		p.Grab = s.Grab
	}
	return p
}

// read hands on what a device says until it is gone.
func read(f core.Device, s Stream, port *hands.Port) {
	buf := make([]byte, 4096)
	if f.Kind == show.LinkMIDIHost {
		_, _ = s.Write(midi.AskIdentity()) // one that does not know it says nothing
		for {
			n, err := s.Read(buf)
			port.MIDI(buf[:n], time.Now())
			if err != nil {
				return
			}
		}
	}
	d := newDecoder(f.Axes)
	var events []core.Event
	for {
		n, err := s.Read(buf)
		at := time.Now()
		events = events[:0]
		if d.read(buf[:n], func(e core.Event) { events = append(events, e) }) {
			port.Released() // the system has dropped some: who knows what is down
		}
		port.Take(events, at)
		if err != nil {
			return
		}
	}
}
