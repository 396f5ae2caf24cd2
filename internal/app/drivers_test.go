package app_test

import (
	"maps"
	"slices"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/core/device"
)

func TestEveryProtocolThatASheetMayNameHasADriver(t *testing.T) {
	if have := slices.Sorted(maps.Keys(app.Drivers(nil))); !slices.Equal(have, device.Pairs()) {
		t.Errorf("there are drivers for %v, sheets may name %v", have, device.Pairs())
	}
}
