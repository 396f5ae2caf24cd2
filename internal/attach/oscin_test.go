package attach

import (
	"math"
	"net/netip"
	"testing"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/demo"
	"synaptor/internal/link/osc"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// demoProgram is the demo show, compiled.
func demoProgram(t *testing.T) *program.Program {
	t.Helper()
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	d := show.NewDraft(show.Empty())
	demo.Build(d, nil, nil)
	return program.Compile(nil, d.Now(), lib, program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
}

func TestAnAmountByOSCIsANumberThatCanBeCalculatedWith(t *testing.T) {
	p := demoProgram(t)
	for _, c := range []struct {
		arg  any
		good bool
	}{{1, true}, {-2.5, true}, {1000, true}, {1001, false}, {math.MaxInt, false}, {math.NaN(), false}, {math.Inf(1), false}, {math.Inf(-1), false}} {
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

func TestDownAndUpAreEdgesOfWhatCanBePressed(t *testing.T) {
	p := demoProgram(t)
	for gesture, lease := range map[string]bool{"down": true, "up": false} {
		in, err := inputOf(device.Message{Address: "/synaptor/producer-grid/a1/" + gesture}, p)
		if err != nil || string(in.Edge) != gesture || in.Gesture != "" || in.Lease != lease {
			t.Errorf("%s is %+v, %v", gesture, in, err)
		}
		if in, err := inputOf(device.Message{Address: "/synaptor/scope-console/slider1/" + gesture}, p); err == nil {
			t.Errorf("%s of a slider is %+v", gesture, in)
		}
	}
}

// TestADatagramThatCameBeforeMeansWhatItMeansNow: what is remembered of it ends with the show,
// what makes no sense is not remembered, and nothing is remembered without end.
func TestADatagramThatCameBeforeMeansWhatItMeansNow(t *testing.T) {
	lib, err := sheet.Load(nil)
	if err != nil {
		t.Fatal(err)
	}
	compile := func(s *show.Show) *program.Program {
		return program.Compile(nil, s, lib, program.Sources{Encode: func(*device.Type, ...device.Message) ([]byte, error) { return nil, nil }})
	}
	packet := func(address string, args ...any) []byte {
		data, err := osc.Encode(device.Message{Address: address, Args: args})
		if err != nil {
			t.Fatal(err)
		}
		return data
	}
	d := show.NewDraft(show.Empty())
	demo.Build(d, nil, nil)
	first := compile(d.Now())
	o := &OSCIn{}
	press := packet("/synaptor/producer-grid/a1/press")
	for range 2 {
		if ins := o.inputs(press, netip.AddrPort{}, first); len(ins) != 1 || ins[0].Control != "a1" || ins[0].Gesture != "press" {
			t.Fatalf("a press is %+v", ins)
		}
	}
	wrong := packet("/synaptor/producer-grid/z9/press")
	for range 3 {
		if ins := o.inputs(wrong, netip.AddrPort{}, first); len(ins) != 0 {
			t.Fatalf("a press of nothing is %+v", ins)
		}
	}
	if o.Bad() != 3 {
		t.Errorf("%d datagrams made no sense, wanted 3", o.Bad())
	}
	if ins := o.inputs(press, netip.AddrPort{}, compile(show.Empty())); len(ins) != 0 {
		t.Errorf("in a show without the controller the press is %+v", ins)
	}
	for i := range 3 * maxKnown {
		o.inputs(packet("/synaptor/scope-console/dial1/turn", float64(i)/100), netip.AddrPort{}, first)
		if len(o.known) > maxKnown {
			t.Fatalf("%d datagrams are remembered", len(o.known))
		}
	}
}
