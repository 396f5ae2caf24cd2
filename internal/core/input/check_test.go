package input

import (
	"testing"

	"synaptor/internal/core/show"
)

func TestGuardsAndTimingsHaveLimits(t *testing.T) {
	held := []show.Response{{Gesture: Hold}}
	for _, c := range []struct {
		m     show.Mapping
		field string // empty: all is well
	}{
		{show.Mapping{}, ""},
		{show.Mapping{Guard: &show.Guard{Kind: GuardTwice, Ms: 200}, HoldMs: 100, DoubleMs: 2000}, ""},
		{show.Mapping{Guard: &show.Guard{Kind: "prayer", Ms: 1000}}, "guard"},
		{show.Mapping{Guard: &show.Guard{Kind: GuardCover, Ms: 199}}, "guard"},
		{show.Mapping{Guard: &show.Guard{Kind: GuardHold, Ms: 20_001}}, "guard"},
		{show.Mapping{Guard: &show.Guard{Kind: GuardHold, Ms: 1000}, Responses: held}, "guard"},
		{show.Mapping{Guard: &show.Guard{Kind: GuardTwice, Ms: 1000}, Responses: held}, ""},
		{show.Mapping{Guard: &show.Guard{Kind: GuardHold, Ms: 1000}, Responses: []show.Response{{Gesture: Slide}}}, "guard"},
		{show.Mapping{HoldMs: 99}, "holdMs"},
		{show.Mapping{DoubleMs: 2001}, "doubleMs"},
	} {
		errs := Check(&c.m)
		if c.field == "" && len(errs) > 0 || c.field != "" && (len(errs) != 1 || errs[0].Field != c.field || errs[0].Text == "") {
			t.Errorf("%+v: %v, want %q", c.m, errs, c.field)
		}
	}
}
