package model

import (
	"errors"
	"fmt"
	"syscall"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

func (w *world) device() *show.Device {
	return w.edit.Program().Show.Device(pick(w, []string{"dome-switcher", "sound-desk"}))
}

func park(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	return fmt.Sprintf("park %s: %v", d.ID, !d.Parked) + errText(w.edit.ParkDevice(pick(w, people), d.ID, !d.Parked))
}

func moveAddress(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	port := w.devices.ports[d.ID]
	if d.Port == port {
		port = 9
	}
	err := w.edit.EditDevice(pick(w, people), d.ID, w.edit.Program().Show.Rev(d.Ref()), edit.DeviceFields{Name: d.Name, Type: d.Type, Host: d.Host, Port: port})
	return fmt.Sprintf("move %s to port %d", d.ID, port) + errText(err)
}

// removeDevice takes a device away; somebody undoes it some time.
func removeDevice(w *world) string {
	d := w.device()
	if d == nil {
		return ""
	}
	return "remove " + d.ID + errText(w.edit.RemoveDevice(people[0], d.ID))
}

func cut(w *world) string {
	dev := pick(w, []string{"switcher", "desk"})
	d := w.devices.switcher
	if dev == "desk" {
		d = w.devices.desk
	}
	if w.random.IntN(2) == 0 {
		d.Cut()
		return "cut the cable of the " + dev
	}
	w.opens(d)
	return "mend the cable of the " + dev
}

func jam(w *world) string {
	jammed := w.random.IntN(2) == 0
	w.devices.switcher.Jam(jammed)
	return fmt.Sprintf("the switcher takes nothing: %v", jammed)
}

// slow has a device take its time, more or less.
func slow(w *world) string {
	f := faults.Faults{LatencyMs: w.random.IntN(90), JitterMs: w.random.IntN(30)}
	w.ok(w.devices.switcher.SetFaults(f))
	return fmt.Sprintf("the switcher takes %d ms, and up to %d more", f.LatencyMs, f.JitterMs)
}

// opens puts the cable of a device back. Over sockets another program may have been given its port
// meanwhile; what would follow says nothing about Synaptor.
func (w *world) opens(d simulated) {
	err := d.Open()
	if errors.Is(err, syscall.EADDRINUSE) {
		w.Skip("another program has the port of a simulated device by now")
	}
	w.ok(err)
}

// mend puts everything right that is broken.
func mend(w *world) string {
	w.devices.switcher.Jam(false)
	w.opens(w.devices.switcher)
	w.opens(w.devices.desk)
	for id, port := range w.devices.ports {
		d := w.edit.Program().Show.Device(id)
		if d == nil {
			continue
		}
		if d.Parked {
			w.ok(w.edit.ParkDevice(people[1], id, false))
		}
		if d.Port != port {
			rev := w.edit.Program().Show.Rev(d.Ref())
			w.ok(w.edit.EditDevice(people[1], id, rev, edit.DeviceFields{Name: d.Name, Type: d.Type, Host: d.Host, Port: port}))
		}
	}
	w.later(time.Second)
	return "everything is mended"
}

func restartDevice(w *world) string {
	pick(w, []interface{ Restart() }{w.devices.switcher, w.devices.desk}).Restart()
	return "a device starts anew"
}

// restart ends Synaptor and starts it again: the show is as it was.
func restart(w *world) string {
	before := w.bytes()
	w.close()
	clear(w.held)
	w.open()
	if w.bytes() != before {
		w.wrong("after a restart the show is another one")
	}
	return "restart"
}

// hand operates a device at its front panel.
func hand(w *world) string {
	m := pick(w, []device.Message{
		{Address: "/mix/1/program", Args: []any{1 + w.random.IntN(6)}}, {Address: "/mix/2/preview", Args: []any{1 + w.random.IntN(6)}},
		{Address: "/keyer/1/on", Args: []any{w.random.IntN(2)}}, {Address: "/mix/1/auto"},
	})
	d := w.devices.switcher
	if w.random.IntN(3) == 0 {
		d, m = w.devices.desk, device.Message{Address: "/channel/2/level", Args: []any{-float64(w.random.IntN(30))}}
	}
	err := d.Operate(m)
	return "a hand does " + m.String() + errText(err)
}
