package model

import (
	"net"
	"strconv"
	"testing"

	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/memory"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/switcher"
	"synaptor/internal/core/device"
	"synaptor/internal/engine/enginetest"
	"synaptor/internal/link"
	"synaptor/internal/link/osc"
)

// simulated is a device of the model, in memory or behind a socket.
type simulated interface {
	Cut()
	Open() error
	Jam(jammed bool)
	Hesitate(every int)
	Restart()
	Operate(device.Message) error
	SetFaults(faults.Faults) error
	View() panel.View
	// Got lists what reached it, where that is known.
	Got() []memory.Got
}

// devices are the simulated ones, with how they are reached.
type devices struct {
	switcher, desk simulated
	ports          map[string]int // by device
	drivers        link.Drivers
	close          func()
}

func inMemory() devices {
	d := enginetest.NewDevices()
	return devices{d.Switcher, d.Desk, map[string]int{"dome-switcher": 7431, "sound-desk": 7432}, enginetest.Drivers(d.Driver), d.Driver.Close}
}

// onSockets starts the stand-ins of the bench.
func onSockets(t *testing.T) devices {
	t.Helper()
	sw, err := switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	mx, err := mixer.Start("127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	drivers := enginetest.Drivers(memory.NewDriver()) // for what is not in the rig
	drivers["osc/tcp-slip"], drivers["osc/udp"] = osc.TCP{}, osc.UDP{}
	return devices{&standIn{core: sw.Core}, &standIn{core: mx.Core}, map[string]int{"dome-switcher": port(t, sw.Addr()), "sound-desk": port(t, mx.Addr())}, drivers,
		func() {
			sw.Close()
			mx.Close()
		}}
}

func port(t *testing.T, address string) int {
	t.Helper()
	_, text, err := net.SplitHostPort(address)
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.Atoi(text)
	if err != nil {
		t.Fatal(err)
	}
	return n
}

// standIn is a device of the bench as the model handles it: its cable and its silence are faults.
type standIn struct {
	core   *panel.Core
	faults faults.Faults
}

func (s *standIn) set(change func(*faults.Faults)) error {
	change(&s.faults)
	return s.core.SetFaults(s.faults)
}

// Cut implements simulated.
func (s *standIn) Cut() { _ = s.set(func(f *faults.Faults) { f.Cut = true }) }

// Open implements simulated.
func (s *standIn) Open() error { return s.set(func(f *faults.Faults) { f.Cut = false }) }

// Jam implements simulated: it is connected, and says nothing.
func (s *standIn) Jam(jammed bool) { _ = s.set(func(f *faults.Faults) { f.Silent = jammed }) }

// Hesitate implements simulated: a socket decides for itself.
func (s *standIn) Hesitate(int) {}

// Restart implements simulated.
func (s *standIn) Restart() { s.core.Restart() }

// Operate implements simulated.
func (s *standIn) Operate(m device.Message) error { return s.core.Operate(m) }

// SetFaults implements simulated.
func (s *standIn) SetFaults(f faults.Faults) error {
	return s.set(func(now *faults.Faults) { now.LatencyMs, now.JitterMs = f.LatencyMs, f.JitterMs })
}

// View implements simulated.
func (s *standIn) View() panel.View { return s.core.View() }

// Got implements simulated: nobody has written it down.
func (s *standIn) Got() []memory.Got { return nil }
