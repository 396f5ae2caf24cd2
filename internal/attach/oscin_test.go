package attach

import (
	"math"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

func TestAnAmountByOSCIsANumberThatCanBeCalculatedWith(t *testing.T) {
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	d := show.NewDraft(show.Empty())
	demo.Build(d, nil, nil)
	p := program.Compile(nil, d.Now(), lib, program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
	for _, c := range []struct {
		arg  any
		good bool
	}{{1, true}, {-2.5, true}, {1000, true}, {1001, false}, {math.MaxInt64, false}, {math.NaN(), false}, {math.Inf(1), false}, {math.Inf(-1), false}} {
		in, err := inputOf(device.Message{Address: "/synaptor/scope-console/dial1/turn", Args: []any{c.arg}}, p)
		if (err == nil) != c.good {
			t.Errorf("%v gave %v, %v", c.arg, in.Amount, err)
		}
	}
	for _, address := range []string{"/synaptor/scope-console/dial1", "/elsewhere/scope-console/dial1/turn", "/synaptor/nobody/dial1/turn", "/synaptor/scope-console/dial9/turn"} {
		if _, err := inputOf(device.Message{Address: address}, p); err == nil {
			t.Errorf("%s was taken", address)
		}
	}
}
