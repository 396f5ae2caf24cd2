package reading_test

import (
	"slices"
	"testing"

	"synaptor/internal/core/reading"
)

func TestWhatWasAskedIsHeldAgainstWhatADeviceSays(t *testing.T) {
	program, level, lamp := reading.Key{Device: "switcher", Path: "program"}, reading.Key{Device: "switcher", Path: "level"}, reading.Key{Device: "lights", Path: "lamp"}
	says := map[reading.Key]reading.Reading{}
	now := func(k reading.Key) reading.Reading {
		if r, has := says[k]; has {
			return r
		}
		return reading.Reading{Quality: reading.Unknown}
	}
	var a reading.Asked
	if got := a.Differs("switcher", now); len(got) != 0 {
		t.Fatalf("nothing was asked, and %v differs", got)
	}
	a.Ask(program, 1, 0)
	a.Ask(level, -6.0, 0.1)
	a.Ask(program, 2, 0)
	a.Ask(lamp, true, 0)
	if got := a.Differs("switcher", now); len(got) != 0 {
		t.Errorf("nobody knows what it is, and %v differs", got)
	}
	says[program] = reading.Reading{Value: 1, Quality: reading.Confirmed}
	says[level] = reading.Reading{Value: -6.05, Quality: reading.Confirmed}
	if got := a.Differs("switcher", now); !slices.Equal(got, []reading.Difference{{Key: program, Asked: 2, Says: 1}}) {
		t.Errorf("what differs is %v", got)
	}
	if a.Told(level, says[level]) || a.Told(program, reading.Reading{Value: 9, Quality: reading.Pending}) {
		t.Error("what was asked is forgotten though the device agrees, or something is on its way")
	}
	if !a.Told(program, says[program]) {
		t.Error("what somebody has changed since is still asked for")
	}
	if got := a.Differs("switcher", now); len(got) != 0 {
		t.Errorf("%v differs after that", got)
	}
	a.ForgetDevice("switcher")
	if _, has := a.Of(level); has {
		t.Error("a device was forgotten, and its level is remembered")
	}
	if v, has := a.Of(lamp); !has || v != true {
		t.Error("another device was forgotten with it")
	}
}
