package input

import (
	"math"
	"testing"
	"time"
)

func TestDialsAndSliders(t *testing.T) {
	fader := Dial{Step: 0.5, Min: -60, Max: 10, Acceleration: 1}
	for _, c := range []struct {
		from, detents, speed float64
		fine                 bool
		want                 float64
	}{{-10, 2, 0, false, -9}, {9.8, 3, 0, false, 10}, {math.Inf(-1), 1, 0, false, -59.5}, {math.Inf(-1), -1, 0, false, math.Inf(-1)}, {0, 1, 10, false, 1}, {0, 1, 10, true, 0.05}} {
		if got := fader.Turn(c.from, c.detents, c.speed, c.fine); got != c.want {
			t.Errorf("%v turned by %v is %v, want %v", c.from, c.detents, got, c.want)
		}
	}
	if got := (Dial{Step: 1, Max: 4, Wrap: true}).Turn(3, 2, 0, false); got != 1 {
		t.Errorf("wrapped to %v", got)
	}
	if got := (Dial{Step: 1, Max: 100}).Turns(24); math.Abs(got-100.0/24) > 1e-9 {
		t.Errorf("%v turns", got)
	}
	s := Slider{Min: 0, Max: 100}
	for _, c := range []struct {
		position, device float64
		value            float64
		ok               bool
	}{{0.9, 40, 90, false}, {0.6, 40, 60, false}, {0.3, 40, 30, true}, {0.7, 30, 70, true}} {
		if v, ok := s.Move(c.position, c.device); v != c.value || ok != c.ok {
			t.Errorf("at %v with %v: %v, %v", c.position, c.device, v, ok)
		}
	}
	if _, ok := s.Move(0.69, 40); ok {
		t.Error("after somebody else moved it, it must meet the value again")
	}
	if v, ok := s.Move(0.3, 40); v != 30 || !ok {
		t.Errorf("once it has met it again: %v, %v", v, ok)
	}
	if _, ok := (&Slider{Min: -60, Max: 10}).Move(0.01, math.Inf(-1)); !ok {
		t.Error("silence is not met at the lower end")
	}
	for _, c := range []struct {
		n, from, by int
		wrap        bool
		want        int
	}{{4, 3, 1, false, 3}, {4, 3, 1, true, 0}, {4, 0, -1, true, 3}, {4, 0, -1, false, 0}, {4, -1, 1, false, 0}, {4, -1, -1, true, 3}, {4, 2, -7, true, 3}} {
		if got := StepChoice(c.n, c.from, c.by, c.wrap); got != c.want {
			t.Errorf("%d steps from %d of %d: %d, want %d", c.by, c.from, c.n, got, c.want)
		}
	}
	if v := (Slider{Max: 1, Inverted: true, DeadZone: 0.1}).Value(0.05); v != 1 {
		t.Errorf("inverted in the dead zone: %v", v)
	}
}

func TestAFloodIsMergedAndItsLastValueIsSent(t *testing.T) {
	m := Merge{Every: 10 * time.Millisecond}
	sent := 0
	for at := range 1000 {
		if m.Now(ms(at)) {
			sent++
		}
	}
	if next, due := m.Next(); sent != 100 || !due || next != ms(1000) {
		t.Errorf("%d were sent in a second; the last one is due at %v (%v)", sent, next, due)
	}
}
