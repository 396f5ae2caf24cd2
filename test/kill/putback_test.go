package kill

import (
	"math/rand/v2"
	"testing"
	"time"
)

// TestWhatAKilledRunHasChangedIsPutBackAllOfIt: the switcher lives on, and is as it was before the run once
// somebody takes what is offered.
func TestWhatAKilledRunHasChangedIsPutBackAllOfIt(t *testing.T) {
	p, sw, device := rigged(t)
	var macro struct{ ID string }
	p.call("POST", "/api/v1/macros", map[string]any{"name": "Long"}, &macro)
	at := 0
	step := func(s map[string]any) {
		s["at"], s["parent"] = at, ""
		at++
		p.call("POST", "/api/v1/macros/"+macro.ID+"/steps", s, nil)
	}
	changes := []string{"/mix/1/program", "/keyer/1/on", "/keyer/2/on", "/mix/1/preview", "/keyer/3/on", "/mix/1/transition/frames"}
	for i, s := range []map[string]any{
		{"action": "put-on-program", "params": map[string]string{"input": "5"}}, {"action": "keyer-on", "params": map[string]string{"keyer": "1"}},
		{"action": "keyer-on", "params": map[string]string{"keyer": "2"}}, {"action": "put-on-preview", "params": map[string]string{"input": "6"}},
		{"action": "keyer-on", "params": map[string]string{"keyer": "3"}}, {"action": "transition-frames", "params": map[string]string{"frames": "77"}},
	} {
		s["device"] = device
		step(map[string]any{"kind": "do", "action": s})
		if i > 0 {
			step(map[string]any{"kind": "wait", "ms": 7})
		}
	}
	step(map[string]any{"kind": "wait", "ms": 60_000})
	was := map[string]any{}
	for _, a := range changes {
		was[a] = sw.View().Values[a]
	}
	random := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 2))
	for life := range kills(t) / 3 {
		waitConnected(t, p)
		var run struct{ ID string }
		p.call("POST", "/api/v1/macros/"+macro.ID+"/run", nil, &run)
		time.Sleep(time.Duration(random.IntN(50)) * time.Millisecond)
		p.Kill()
		p = p.again()
		waitConnected(t, p)
		p.call("POST", "/api/v1/putback/"+run.ID, nil, nil)
		back := func() (wrong string) {
			now := sw.View().Values
			for _, a := range changes {
				if now[a] != was[a] {
					wrong += a + " "
				}
			}
			return wrong
		}
		for limit := time.Now().Add(10 * time.Second); back() != ""; time.Sleep(5 * time.Millisecond) {
			if time.Now().After(limit) {
				t.Fatalf("life %d: after the kill and the put back these are others than before: %s", life, back())
			}
		}
	}
	p.Kill()
}
