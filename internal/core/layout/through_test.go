package layout

import (
	"testing"

	"synaptor/internal/core/device"
)

func TestPagesAreGoneThroughByGesturesThatNothingUses(t *testing.T) {
	row := func(ids ...string) (out []device.Control) {
		for _, id := range ids {
			out = append(out, device.Control{ID: id, Kind: "key", Gestures: device.Can["key"]})
		}
		return out
	}
	press, held := Use{Gestures: []string{"press"}}, Use{Gestures: []string{"press", "hold"}}
	for name, c := range map[string]struct {
		controls   []device.Control
		pages      []map[string]Use
		next, back Way
		ok         bool
	}{
		"two free ones":        {row("a1", "b1", "c1"), []map[string]Use{{"b1": press}, {}}, Way{"c1", "hold"}, Way{"a1", "hold"}, true},
		"all are pressed":      {row("a1", "b1", "c1"), []map[string]Use{{"a1": press, "b1": press, "c1": press}}, Way{"c1", "hold"}, Way{"a1", "hold"}, true},
		"one waits on a page":  {row("a1", "b1"), []map[string]Use{{"a1": press}, {}}, Way{"b1", "hold"}, Way{"a1", "hold"}, true},
		"holds are taken":      {row("a1", "b1"), []map[string]Use{{"a1": held, "b1": held}}, Way{"b1", "double"}, Way{"a1", "double"}, true},
		"one has room":         {row("a1", "b1"), []map[string]Use{{"a1": held, "b1": press}}, Way{"b1", "hold"}, Way{}, true},
		"it stands":            {row("a1", "b1"), []map[string]Use{{"a1": {Gestures: []string{"press"}, Standing: true}}}, Way{"b1", "hold"}, Way{}, true},
		"a guard holds":        {row("a1", "b1"), []map[string]Use{{"a1": {Gestures: []string{"press"}, Guarded: true}}}, Way{"b1", "hold"}, Way{}, true},
		"talks and repeats":    {row("a1", "b1"), []map[string]Use{{"a1": {Gestures: []string{"talk"}}}, {"b1": {Gestures: []string{"repeat"}}}}, Way{}, Way{}, false},
		"nothing can be held":  {[]device.Control{{ID: "slider1", Kind: "slider", Gestures: device.Can["slider"]}}, nil, Way{}, Way{}, false},
		"a dial can be pushed": {[]device.Control{{ID: "dial1", Kind: "dial", Gestures: device.Can["dial"]}}, []map[string]Use{{"dial1": {Gestures: []string{"turn"}}}}, Way{"dial1", "hold"}, Way{}, true},
	} {
		next, back, ok := Through(c.controls, c.pages)
		if next != c.next || back != c.back || ok != c.ok {
			t.Errorf("%s: %v, %v, %v", name, next, back, ok)
		}
	}
}
