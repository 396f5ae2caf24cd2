package link_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/memory"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// passed lists the phases that were told.
func (w *watcher) passed() []link.Phase {
	w.mu.Lock()
	defer w.mu.Unlock()
	return slices.Clone(w.phases)
}

func (w *watcher) value(path string) any {
	w.mu.Lock()
	defer w.mu.Unlock()
	return w.values[path]
}

const inMemory = "127.0.0.1:7431"

// dials is a driver whose tries to connect go as a test says.
type dials struct {
	*memory.Driver
	mu    sync.Mutex
	at    []time.Time
	first func(context.Context) error
}

func (d *dials) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	d.mu.Lock()
	d.at = append(d.at, time.Now())
	first := d.first
	d.mu.Unlock()
	if first != nil {
		if err := first(ctx); err != nil {
			return nil, err
		}
	}
	return d.Driver.Dial(ctx, to)
}

func (d *dials) before(f func(context.Context) error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.first, d.at = f, nil
}

// gaps lists how long after each other the tries were made, in seconds.
func (d *dials) gaps() (out []int) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for i, at := range d.at[1:] {
		out = append(out, int(at.Sub(d.at[i]).Round(time.Second).Seconds()))
	}
	return out
}

// inBubble runs a test with a device in memory, in time that is synctest's.
func inBubble(t *testing.T, f func(t *testing.T, d *dials, dev *memory.Device, open func() *watcher)) {
	t.Helper()
	synctest.Test(t, func(t *testing.T) {
		d := &dials{Driver: memory.NewDriver()}
		dev := d.Add(inMemory, 20*time.Millisecond, switcher.NewMachine)
		defer func() { d.Close(); time.Sleep(time.Minute) }()
		var links []*link.Link
		f(t, d, dev, func() *watcher {
			w := newWatcher()
			links = append(links, link.Open(link.Config{Device: "sw", Name: "Dome switcher", Target: link.Target{Host: "127.0.0.1", Port: 7431}, Type: switcherType(t), Driver: d, Sink: w}))
			return w
		})
		for _, l := range links {
			l.Close()
		}
	})
}

func TestASignInThatWasRightBeforeIsTriedAgainSoon(t *testing.T) {
	refused := func(context.Context) error { return &link.AuthError{Text: "the password is wrong"} }
	inBubble(t, func(t *testing.T, d *dials, dev *memory.Device, open func() *watcher) {
		w := open()
		time.Sleep(time.Second)
		d.before(refused)
		dev.Cut()
		time.Sleep(2 * time.Minute)
		if got := d.gaps(); !slices.Equal(got, []int{1, 2, 5, 10, 30, 30, 30}) {
			t.Errorf("it is tried again after %v s", got)
		}
		if err := dev.Open(); err != nil {
			t.Fatal(err)
		}
		d.before(nil)
		time.Sleep(40 * time.Second)
		if w.now().Phase != link.Up {
			t.Fatalf("it is %s, though it is let in again", w.now().Phase)
		}
		d.before(refused)
		dev.Cut()
		time.Sleep(1900 * time.Millisecond)
		if got := d.gaps(); !slices.Equal(got, []int{1}) {
			t.Errorf("the next time it is tried again after %v s", got)
		}
	})
	inBubble(t, func(t *testing.T, d *dials, _ *memory.Device, open func() *watcher) {
		d.before(refused)
		open()
		time.Sleep(100 * time.Second)
		if got := d.gaps(); !slices.Equal(got, []int{30, 30, 30}) {
			t.Errorf("a password that was never right is tried again after %v s", got)
		}
	})
}

func TestATryThatHangsKeepsNothingUp(t *testing.T) {
	inBubble(t, func(t *testing.T, d *dials, _ *memory.Device, open func() *watcher) {
		back := time.Now().Add(7300 * time.Millisecond)
		d.before(func(ctx context.Context) error {
			if time.Now().Before(back) {
				<-ctx.Done() // what it was sent before, a device that hung never answers
				return ctx.Err()
			}
			return nil
		})
		w := open()
		time.Sleep(time.Until(back.Add(time.Second)))
		if w.now().Phase != link.Up {
			t.Errorf("a second after it is back it is %s", w.now().Phase)
		}
	})
	inBubble(t, func(t *testing.T, d *dials, _ *memory.Device, open func() *watcher) {
		d.before(func(ctx context.Context) error {
			select {
			case <-time.After(2700 * time.Millisecond):
				return nil
			case <-ctx.Done():
				return fmt.Errorf("sign in: %w", ctx.Err())
			}
		})
		w := open()
		time.Sleep(5 * time.Second)
		if w.now().Phase != link.Up {
			t.Errorf("a device that takes 2.7 s to let Synaptor in is %s", w.now().Phase)
		}
	})
}

func TestAfterSilenceEverythingIsRightWithinASecond(t *testing.T) {
	for ms := 700; ms < 3000; ms += 130 {
		inBubble(t, func(t *testing.T, _ *dials, dev *memory.Device, open func() *watcher) {
			w := open()
			time.Sleep(1234 * time.Millisecond)
			faulty(t, dev, faults.Faults{Silent: true})
			time.Sleep(100 * time.Millisecond)
			if err := dev.Operate(device.Message{Address: "/mix/1/program", Args: []any{4}}); err != nil {
				t.Fatal(err)
			}
			time.Sleep(time.Duration(ms) * time.Millisecond)
			faulty(t, dev, faults.Faults{})
			time.Sleep(time.Second)
			if got := w.value("mix/1/program"); got != "4" || w.now().Phase != link.Up {
				t.Errorf("a second after a silence of %d ms the program is %v, the link %s", ms+100, got, w.now().Phase)
			}
		})
	}
}

func faulty(t *testing.T, dev *memory.Device, f faults.Faults) {
	t.Helper()
	if err := dev.SetFaults(f); err != nil {
		t.Fatal(err)
	}
}

// TestALinkThatIsSlowIsNotLost, once it is known how slow it is.
func TestALinkThatIsSlowIsNotLost(t *testing.T) {
	for _, f := range []faults.Faults{{LatencyMs: 300}, {LatencyMs: 400, JitterMs: 40}, {LatencyMs: 900, JitterMs: 90}, {LatencyMs: 2000}} {
		inBubble(t, func(t *testing.T, _ *dials, dev *memory.Device, open func() *watcher) {
			faulty(t, dev, f)
			w := open()
			time.Sleep(time.Minute)
			if !slices.Equal(w.passed(), []link.Phase{link.Connecting, link.Syncing, link.Up}) {
				t.Errorf("at %d ms: %v (%s)", f.LatencyMs, w.passed(), w.now().Problem)
			}
		})
	}
}

var errRefused = errors.New("connection refused")

func TestADeviceThatRefusesIsTriedAgainSoon(t *testing.T) {
	inBubble(t, func(t *testing.T, d *dials, _ *memory.Device, open func() *watcher) {
		d.before(func(context.Context) error { return errRefused })
		w := open()
		time.Sleep(30 * time.Second)
		d.before(nil)
		time.Sleep(700 * time.Millisecond)
		if w.now().Phase != link.Up {
			t.Errorf("0.7 s after it is back it is %s", w.now().Phase)
		}
	})
}
