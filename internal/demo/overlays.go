package demo

import (
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// overlays are those of the night: on keys, and a viewer's question by a reflex.
func (k desk) overlays() {
	put := func(o show.Overlay) { k.d.Put(&o) }
	put(show.Overlay{ID: "corner-clock", Name: "Corner clock", Kind: show.OverlayTimer, X: 78, Y: 6, Width: 16, Size: 5, Align: "right", Look: "edged", FadeMs: 400, Timer: "peak"})
	put(show.Overlay{ID: "name-plate", Name: "Name plate", Position: 1, Kind: show.OverlayCaption, X: 6, Y: 76, Width: 46, Size: 6, Align: "left", Look: "band", FadeMs: 300,
		Lines: []show.OverlayLine{{Text: "Imke Vardal", Second: "Presenter"}, {Text: "Oyelaran Bassey", Second: "At the telescope"}, {Text: "{reading('talk-slides:title')}", Second: "Why meteors burn"}}})
	put(show.Overlay{ID: "viewers-question", Name: "Viewer's question", Position: 2, Kind: show.OverlayComment, X: 6, Y: 50, Width: 60, Size: 5, Align: "left", Look: "board", FadeMs: 300})

	s := k.macro(11, show.Macro{ID: "show-question", Name: "Show a viewer's question", Group: "Pictures", Again: "restart"})
	of := params{"overlay": "viewers-question"}
	s.step("", show.Step{Kind: macro.Do, Action: call(program.SelfID, "overlay-write", params{"overlay": "viewers-question", "words": "{event.text}", "second": "{event.who}", "picture": "{event.picture}"})})
	s.do("", program.SelfID, "overlay-show-for", params{"overlay": "viewers-question", "seconds": "12"})

	k.key("music", "d3", program.SelfID, "overlay", params{"overlay": "corner-clock"})
	k.put("music", "e3", does(input.Press, program.SelfID, "overlay", params{"overlay": "name-plate"}), does(input.Hold, program.SelfID, "overlay-next", params{"overlay": "name-plate"}))
	k.key("music", "f3", program.SelfID, "overlay-hide", of)
}
