//go:build tinygo

package main

import "machine"

// A key between each of the first pins and ground, a lamp at each of the others.
var (
	line = machine.Serial
	pins = []machine.Pin{machine.GP2, machine.GP3, machine.GP4, machine.GP5, machine.GP6, machine.GP7, machine.GP8, machine.GP9}
)

func init() {
	for i, p := range pins {
		p.Configure(machine.PinConfig{Mode: []machine.PinMode{machine.PinInputPullup, machine.PinOutput}[i/4]})
	}
}

func pressed(key int) bool         { return !pins[key].Get() }
func light(key int, colour string) { pins[4+key].Set(colour > "#7fffff") }
