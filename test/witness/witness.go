// Package witness is a client of the devices that shares nothing with Synaptor: protocols of its own over
// the bench's sockets. It hears what each device says of itself, with the time, and can be a hand on it. Tests
// and measurements hold what Synaptor says against what it has heard.
package witness

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"sync"
	"time"
)

// Device is a kind of device that the witness knows how to talk to.
type Device string

// The devices of the bench, by the names of their stand-ins.
const (
	Switcher  Device = "switcher"
	Mixer     Device = "mixer"
	Lights    Device = "lights"
	Intercom  Device = "intercom"
	Streaming Device = "streaming"
	Camera    Device = "camera"
)

// Heard is a value that a device told of.
type Heard struct {
	At    time.Time
	Path  string
	Value any // a bool, a float64 or a string
}

// Witness follows one device.
type Witness struct {
	line line
	end  context.CancelFunc
	done chan struct{}

	mu     sync.Mutex
	values map[string]any
	log    []Heard
	moved  chan struct{} // closed when something was heard
	broken error
}

// line is a connection to a device.
type line interface {
	// hear passes on what the device says, until the connection ends.
	hear(tell func(path string, value any)) error
	// set gives a reading a value, as a hand would.
	set(path string, value any) error
	close()
}

// Login is how the witness signs in where a device wants it.
type Login struct{ User, Password string }

// Follow connects to a device and hears everything from then on. It returns when all of what the device is was
// heard.
func Follow(d Device, addr string, login Login) (*Witness, error) {
	ctx, end := context.WithCancel(context.Background())
	l, err := dial(ctx, d, addr, login)
	if err != nil {
		end()
		return nil, fmt.Errorf("the witness of the %s: %w", d, err)
	}
	w := &Witness{line: l, end: end, done: make(chan struct{}), values: map[string]any{}, moved: make(chan struct{})}
	go func() {
		defer close(w.done)
		err := l.hear(w.heard)
		w.mu.Lock()
		defer w.mu.Unlock()
		w.broken = err
		close(w.moved)
		w.moved = make(chan struct{})
	}()
	// The model is what each device tells last.
	if err := w.Until(10*time.Second, func() bool { return w.Value("model") != nil }); err != nil {
		w.Close()
		return nil, fmt.Errorf("the witness of the %s has not heard everything: %w", d, err)
	}
	return w, nil
}

func dial(ctx context.Context, d Device, addr string, login Login) (line, error) {
	switch d {
	case Switcher:
		return dialStream(addr)
	case Mixer:
		return dialDatagrams(addr)
	case Lights:
		return dialBroker(addr, login)
	case Intercom:
		return dialEvents(ctx, addr, login)
	case Streaming:
		return dialCalls(ctx, addr, login)
	case Camera:
		return dialLines(addr)
	}
	return nil, fmt.Errorf("nobody knows how to talk to it")
}

// Close ends the witness.
func (w *Witness) Close() {
	w.end()
	w.line.close()
	<-w.done
}

func (w *Witness) heard(path string, value any) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.values[path] = value
	w.log = append(w.log, Heard{time.Now(), path, value})
	close(w.moved)
	w.moved = make(chan struct{})
}

// Until waits until a condition holds, which is asked again whenever something was heard.
func (w *Witness) Until(limit time.Duration, holds func() bool) error {
	late := time.After(limit)
	for {
		w.mu.Lock()
		moved, broken := w.moved, w.broken
		w.mu.Unlock()
		if holds() {
			return nil
		}
		if broken != nil {
			return broken
		}
		select {
		case <-moved:
		case <-late:
			return fmt.Errorf("%v have passed", limit)
		}
	}
}

// Value is what the device said last of a reading; nil: nothing.
func (w *Witness) Value(path string) any {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.values[path]
}

// Values are all that it said last.
func (w *Witness) Values() map[string]any {
	w.mu.Lock()
	defer w.mu.Unlock()
	return maps.Clone(w.values)
}

// Since gives what was heard at or after a time.
func (w *Witness) Since(at time.Time) []Heard {
	w.mu.Lock()
	defer w.mu.Unlock()
	i, _ := slices.BinarySearchFunc(w.log, at, func(h Heard, at time.Time) int { return cmp.Compare(h.At.UnixNano(), at.UnixNano()) })
	return slices.Clone(w.log[i:])
}

// Set gives a reading of the device a value, as somebody else's hand.
func (w *Witness) Set(path string, value any) error { return w.line.set(path, value) }

// Same reports whether two values mean the same: 1 is true, "4" is 4, and decibels are equal where no fader can tell them apart.
func Same(a, b any) bool { return Within(a, b, 0.06) }

// Within is Same for numbers that may be so far apart.
func Within(a, b any, apart float64) bool {
	x, numbers := number(a)
	y, both := number(b)
	if !numbers || !both {
		return fmt.Sprint(a) == fmt.Sprint(b)
	}
	return x == y || math.Abs(x-y) < apart
}

func number(v any) (float64, bool) {
	switch v := v.(type) {
	case bool:
		if v {
			return 1, true
		}
		return 0, true
	case float64:
		return v, true
	case int:
		return float64(v), true
	case string:
		f, err := strconv.ParseFloat(v, 64)
		return f, err == nil
	}
	return 0, false
}

// leaves passes on the values of a tree of objects, by their paths.
func leaves(prefix string, tree any, tell func(path string, value any)) {
	m, is := tree.(map[string]any)
	if !is {
		tell(prefix, tree)
		return
	}
	for _, k := range slices.Sorted(maps.Keys(m)) {
		path := k
		if prefix != "" {
			path = prefix + "/" + k
		}
		leaves(path, m[k], tell)
	}
}
