package chat

import (
	"testing"
	"time"

	"synaptor/internal/core/device"
)

// TestAnEveningIsPlayed from its beginning to its end, all of it whatever the speed, and stops when it is told to.
func TestAnEveningIsPlayed(t *testing.T) {
	all := len(evening())
	for _, speed := range speeds {
		m := newMachine().(*machine)
		now := time.Date(2026, 8, 12, 20, 0, 0, 0, time.UTC)
		operate := func(address string, n int) {
			if _, err := m.Do(device.Message{Address: address, Args: []any{n}}, now); err != nil {
				t.Fatal(err)
			}
		}
		operate(eveningSpeed, speed)
		operate(eveningOn, 1)
		most, ticks := 0, 0
		for running := true; running; ticks++ {
			now = now.Add(100 * time.Millisecond)
			before := len(m.events)
			_, running = m.Tick(now)
			most = max(most, len(m.events)-before)
		}
		if len(m.events) != all || m.v.Int(eveningOn) != 0 {
			t.Errorf("at %d times its speed %d of %d were said", speed, len(m.events), all)
		}
		if took := time.Duration(ticks) * 100 * time.Millisecond; took < eveningFor/time.Duration(speed)-time.Second || took > eveningFor/time.Duration(speed)+time.Second {
			t.Errorf("at %d times its speed it took %v", speed, took)
		}
		if most > 60 {
			t.Errorf("at %d times its speed %d were said at once: a stream has room for 64", speed, most)
		}
	}
	m := newMachine().(*machine)
	now := time.Now()
	_, _ = m.Do(device.Message{Address: eveningOn, Args: []any{1}}, now)
	m.Tick(now.Add(time.Minute))
	_, _ = m.Do(device.Message{Address: eveningOn, Args: []any{0}}, now)
	said := len(m.events)
	if _, running := m.Tick(now.Add(time.Hour)); running || len(m.events) != said || said == 0 {
		t.Errorf("stopped after %d it has said %d", said, len(m.events))
	}
	if _, err := m.Do(device.Message{Address: eveningSpeed, Args: []any{7}}, now); err == nil {
		t.Error("seven times as fast is taken")
	}
}
