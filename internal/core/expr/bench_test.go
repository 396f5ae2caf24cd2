package expr

import "testing"

// BenchmarkHolds is the precondition that stands between a touch and its
// command.
func BenchmarkHolds(b *testing.B) {
	p, err := Compile("reading('input/'+input+'/gone') != true", Scope{Device: "sw", Bind: map[string]string{"input": "2"}})
	if err != nil {
		b.Fatal(err)
	}
	b.ReportAllocs()
	for b.Loop() {
		if !p.Holds(dome) {
			b.Fatal("it holds")
		}
	}
}
