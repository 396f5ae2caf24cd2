package show

import "testing"

// TestScratchPagesAreLeftOut with what is only on them; what stands elsewhere too stays there, and controllers begin elsewhere.
func TestScratchPagesAreLeftOut(t *testing.T) {
	d := NewDraft(Empty())
	d.Put(&Page{ID: "p"})
	if s := d.Now(); s.WithoutScratch() != s {
		t.Error("a show without scratch pages is another one")
	}
	d.Put(&Page{ID: "s", Scratch: true})
	d.Put(&Controller{ID: "c", Start: []string{"s", "p"}})
	d.Put(&Mapping{ID: "there", Placements: []Placement{{Page: "s", Control: "a1"}}})
	d.Put(&Mapping{ID: "both", Placements: []Placement{{Page: "s", Control: "b1"}, {Page: "p", Control: "b1"}}})
	d.Put(&Mapping{ID: "here", Placements: []Placement{{Page: "p", Control: "c1"}}})
	s := d.Now()
	for id, want := range map[string]bool{"there": true, "both": false, "here": false} {
		if got := s.OnScratch(s.Mapping(id)); got != want {
			t.Errorf("%s is only on scratch pages: %v, want %v", id, got, want)
		}
	}
	left := s.WithoutScratch()
	if left.Page("s") != nil || left.Page("p") == nil || left.Mapping("there") != nil || left.Mapping("here") == nil {
		t.Errorf("left are %v", left.Refs())
	}
	if m := left.Mapping("both"); len(m.Placements) != 1 || m.Placements[0].Page != "p" {
		t.Errorf("what is on both stands at %v", m.Placements)
	}
	if c := left.Controller("c"); len(c.Start) != 1 || c.Start[0] != "p" {
		t.Errorf("the controller begins with %v", c.Start)
	}
}
