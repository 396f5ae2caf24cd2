package showtest

import (
	"fmt"

	"synaptor/internal/core/show"
)

// How much Enlarge adds: 4,992 mappings on pages of 24, macros of ten steps, reflexes.
const (
	largePages    = 208
	largeMacros   = 300
	largeReflexes = 200
)

// Enlarge adds to a draft of the demo what makes it a large show: 5,000 mappings, 300 macros and 200 reflexes. Its mappings are large-PAGE-CONTROL.
func Enlarge(d *show.Draft) {
	for p := range largePages {
		page := fmt.Sprint("large-", p)
		d.Put(&show.Page{ID: page, Slug: page, Name: fmt.Sprint("Large ", p), Profile: "meteor-night", Layout: "grid-6x4", Zone: "keys", Position: 100 + p})
		for i := range 24 {
			control := fmt.Sprintf("%c%d", 'a'+i%6, 1+i/6)
			d.Put(&show.Mapping{ID: page + "-" + control, Placements: []show.Placement{At(page, control)}, Responses: []show.Response{{Gesture: "press",
				Action: show.Call{Device: "dome-switcher", Action: "put-on-program", Params: map[string]string{"mix": "1", "input": fmt.Sprint(1 + i%6)}}}}})
		}
	}
	for m := range largeMacros {
		id := fmt.Sprint("large-macro-", m)
		d.Put(&show.Macro{ID: id, Slug: id, Name: fmt.Sprint("Large ", m), Position: 100 + m})
		for s := range 10 {
			d.Put(&show.Step{ID: fmt.Sprint(id, "-", s), Macro: id, Position: s + 1, Kind: "do",
				Action: &show.Call{Device: "dome-switcher", Action: "put-on-preview", Params: map[string]string{"mix": "1", "input": fmt.Sprint(1 + s%6)}}})
		}
	}
	for r := range largeReflexes {
		id := fmt.Sprint("large-reflex-", r)
		d.Put(&show.Reflex{ID: id, Name: id, Position: 100 + r, On: show.On{Kind: "signal", Signal: id},
			Then: show.Call{Device: "sound-desk", Action: "mute", Params: map[string]string{"channel": fmt.Sprint(1 + r%6)}}})
	}
}
