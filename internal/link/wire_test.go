package link

import (
	"strings"
	"testing"

	"synaptor/internal/core/device"
)

func TestTheWireViewKeepsSoManyBytesAndNoMore(t *testing.T) {
	w := &Wire{}
	w.Mask("eyepiece")
	huge := strings.Repeat("x", 300) + "eyepiece" + strings.Repeat("y", 50_000)
	for range 100 {
		w.received([]device.Message{{Address: "/note", Args: []any{huge}}})
		w.received([]device.Message{{Address: "/body", Body: map[string]any{"list": []any{huge, huge}}}})
		w.received([]device.Message{{Address: "/small", Args: []any{1}}})
	}
	size := 0
	for _, e := range w.kept {
		size += e.size
		for _, m := range e.in {
			size += m.Size()
		}
	}
	if len(w.kept) > wireLines || w.bytes > wireBytes || size > 2*wireBytes {
		t.Errorf("%d messages of %d (%d) bytes are kept", len(w.kept), w.bytes, size)
	}
	lines := w.Lines(0)
	if len(lines) == 0 {
		t.Fatal("nothing is kept")
	}
	for _, l := range lines {
		if len(l.Text) > wireShown+10 || strings.Contains(l.Text, "eyepiece") || l.Dir != "in" {
			t.Fatalf("a line of %d bytes, %s: %.60s", len(l.Text), l.Dir, l.Text)
		}
	}
}
