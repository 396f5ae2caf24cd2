package macro

import (
	"math/rand/v2"
	"reflect"
	"testing"

	"synaptor/internal/core/reading"
)

func confirmed(v reading.Value) reading.Reading {
	return reading.Reading{Value: v, Quality: reading.Confirmed}
}

func TestAPutBackReturnsWhatIsStillOurs(t *testing.T) {
	k := func(path string) reading.Key { return reading.Key{Device: "d", Path: path} }
	unknown := reading.Reading{Quality: reading.Unknown}
	for name, c := range map[string]struct {
		was  reading.Reading
		gave []reading.Value
		now  reading.Reading
		set  bool
		back any // nil: it does not return
		left string
	}{
		"still ours":              {confirmed("1"), []reading.Value{"3"}, confirmed("3"), true, "1", ""},
		"given twice":             {confirmed("1"), []reading.Value{"3", "4"}, confirmed("4"), true, "1", ""},
		"by hand to another":      {confirmed("1"), []reading.Value{"3"}, confirmed("5"), true, nil, ByHand},
		"by hand, back already":   {confirmed("1"), []reading.Value{"3"}, confirmed("1"), true, nil, ""},
		"on its way":              {confirmed("1"), []reading.Value{"3"}, reading.Reading{Value: "1", Expected: "3", Quality: reading.Pending}, true, "1", ""},
		"another is on its way":   {confirmed("1"), []reading.Value{"3"}, reading.Reading{Value: "2", Expected: "4", Quality: reading.Pending}, true, nil, ByHand},
		"the device is gone":      {confirmed("1"), []reading.Value{"3"}, unknown, true, nil, NotKnown},
		"unknown before":          {unknown, []reading.Value{"3"}, confirmed("3"), true, nil, WasOpen},
		"no setter":               {confirmed("1"), []reading.Value{"3"}, confirmed("3"), false, nil, NoSetter},
		"it was so before":        {confirmed("3"), []reading.Value{"3"}, confirmed("3"), true, nil, ""},
		"never given anything":    {confirmed("1"), nil, confirmed("3"), true, nil, ""},
		"a level, nearly the one": {confirmed(-10.0), []reading.Value{0.0}, confirmed(0.04), true, -10.0, ""},
	} {
		b := &Baseline{}
		b.Capture([]reading.Key{k("x")}, func(reading.Key) reading.Reading { return c.was })
		b.Capture([]reading.Key{k("x")}, func(reading.Key) reading.Reading { return confirmed("later") }) // the first counts
		for _, v := range c.gave {
			b.Gave(k("x"), v, 0.1)
		}
		b.Gave(k("never captured"), "9", 0)
		back, left := b.Back(func(reading.Key) reading.Reading { return c.now }, func(reading.Key) bool { return c.set }, nil)
		if (len(back) == 1) != (c.back != nil) || c.back != nil && !reflect.DeepEqual(back[0].To, c.back) {
			t.Errorf("%s: returns %v", name, back)
		}
		if (len(left) == 1) != (c.left != "") || c.left != "" && left[0].Why != c.left {
			t.Errorf("%s: left %v", name, left)
		}
	}
}

// TestPuttingBackRestoresEverything runs macros by chance on a world where nobody
// else touches anything: what is put back is as it was, whatever was done and however
// often the run started over.
func TestPuttingBackRestoresEverything(t *testing.T) {
	for seed := range uint64(2000) {
		r := rand.New(rand.NewPCG(seed, 14))
		world := map[reading.Key]reading.Value{}
		var keys []reading.Key
		for i := range 1 + r.IntN(6) {
			k := reading.Key{Device: "d", Path: string(rune('a' + i))}
			keys = append(keys, k)
			world[k] = string(rune('0' + r.IntN(4)))
		}
		before := map[reading.Key]reading.Value{}
		for k, v := range world {
			before[k] = v
		}
		now := func(k reading.Key) reading.Reading { return confirmed(world[k]) }
		b := &Baseline{}
		b.Capture(keys, now)
		for range r.IntN(20) {
			k := keys[r.IntN(len(keys))]
			world[k] = string(rune('0' + r.IntN(4)))
			b.Gave(k, world[k], 0)
			if r.IntN(10) == 0 {
				b.Capture(keys, now) // started over: the first baseline stays
			}
		}
		back, left := b.Back(now, func(reading.Key) bool { return true }, nil)
		for _, o := range back {
			if world[o.Key] != o.From {
				t.Fatalf("seed %d: %v is %v", seed, o, world[o.Key])
			}
			world[o.Key] = o.To
		}
		if len(left) > 0 || !reflect.DeepEqual(world, before) {
			t.Fatalf("seed %d: %v, was %v, left %v", seed, world, before, left)
		}
	}
}

// TestARunInTheMiddleReturnsWhatTheOneWithinItChanged: three deep, and each finds what was there before it.
func TestARunInTheMiddleReturnsWhatTheOneWithinItChanged(t *testing.T) {
	light := reading.Key{Device: "lights", Path: "lamp/2/brightness"}
	at := 75
	now := func(reading.Key) reading.Reading { return reading.Reading{Value: at, Quality: reading.Confirmed} }
	all := Baselines{}
	set := func(runs []int, to int) {
		all.Capture(runs, []reading.Key{light}, now)
		at = to
		all.Gave(runs, light, to, 0)
	}
	set([]int{0}, 80)
	set([]int{0, 1, 2}, 90)
	for run, want := range map[int]int{0: 75, 1: 80, 2: 80} {
		back, left := all.Back(run, now, func(reading.Key) bool { return true }, nil)
		if len(back) != 1 || back[0].To != want || len(left) > 0 {
			t.Errorf("run %d returns %v and leaves %v, not to %d", run, back, left, want)
		}
	}
}
