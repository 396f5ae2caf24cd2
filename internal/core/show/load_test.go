package show

import (
	"bytes"
	"strings"
	"testing"
)

func TestAnEntityThatCannotBeReadIsLeftOutAndTheRestIsThere(t *testing.T) {
	stored := []Change{
		{Ref: Ref{KindProfile, "a"}, Next: 1, After: []byte(`{"id":"a","name":"A"}`)},
		{Ref: Ref{KindProfile, "b"}, Next: 2, After: []byte(`{"id":"b","na`)},
		{Ref: Ref{KindProfile, "c"}, Next: 3, After: []byte(`{"id":"d","name":"D"}`)},
		{Ref: Ref{"colour", "e"}, Next: 4, After: []byte(`{"id":"e"}`)},
	}
	l, err := Load(stored, 9)
	if err != nil || len(l.Show.Profiles()) != 1 || len(l.Unread) != 3 || len(l.Notes) != 3 || len(l.Repair.Changes) != 0 {
		t.Fatalf("%+v, %v", l, err)
	}
	for i, id := range []string{"b", "c", "e"} {
		if l.Unread[i].ID != id || !strings.Contains(l.Notes[i], "("+id+") cannot be read and was set aside") {
			t.Errorf("%s: %+v, %q", id, l.Unread[i], l.Notes[i])
		}
	}
}

// FuzzLoad: whatever is stored, a show comes of it, and the same comes of that one.
func FuzzLoad(f *testing.F) {
	f.Add("mapping", []byte(`{"id":"x","placements":[{"page":"p","control":"a1"}]}`), []byte(`{"id":"y","placements":[{"page":"p","control":"a1"}]}`))
	f.Add("step", []byte(`{"id":"x","macro":"m"}`), []byte(`{"id":"y","macro":"m","parent":"x"}`))
	f.Add("page", []byte(`{`), []byte(`null`))
	f.Fuzz(func(t *testing.T, kind string, first, second []byte) {
		l, err := Load([]Change{{Ref: Ref{Kind(kind), "x"}, Next: 1, After: first}, {Ref: Ref{Kind(kind), "y"}, Next: 2, After: second}}, 3)
		if err != nil {
			t.Fatalf("no show comes of it: %v", err)
		}
		var again []Change
		for _, k := range []Kind{KindSettings, KindDevice, KindController, KindProfile, KindPage, KindMapping, KindMacro, KindStep} {
			for _, id := range []string{"x", "y"} {
				if e := l.Show.Get(Ref{k, id}); e != nil {
					again = append(again, Change{Ref: e.Ref(), Next: l.Show.Rev(e.Ref()), After: Encode(e)})
				}
			}
		}
		next, err := Load(again, 4)
		if err != nil || len(next.Repair.Changes) > 0 || !bytes.Equal(next.Show.Canonical(), l.Show.Canonical()) {
			t.Fatalf("stored again it is another one: %v\n%s\n%s", err, l.Show.Canonical(), next.Show.Canonical())
		}
	})
}
