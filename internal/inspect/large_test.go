package inspect

import (
	"fmt"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/core/show/showtest"
)

// BenchmarkALargeShow looks 5,000 mappings, 300 macros and 200 reflexes through, all of them and after one edit.
func BenchmarkALargeShow(b *testing.B) {
	d := show.NewDraft(demoShow())
	showtest.Enlarge(d)
	j := judge(b, d.Now())
	b.Run("all", func(b *testing.B) {
		for b.Loop() {
			j.Judge(nil, j.Program, now)
		}
	})
	n := 0
	b.Run("one edit", func(b *testing.B) {
		for b.Loop() {
			b.StopTimer()
			d := show.NewDraft(j.Program.Show)
			m := j.Program.Show.Mapping("large-7-b2").Clone()
			n++
			m.Face.Label = fmt.Sprint("Label ", n)
			d.Put(m)
			next, err := j.Program.Show.Apply(d.Edit("edit", int64(n)))
			if err != nil {
				b.Fatal(err)
			}
			p := j.compile(next)
			b.StartTimer()
			j.Judged = j.Judge(j.Judged, p, now)
		}
	})
}
