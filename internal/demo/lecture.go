package demo

import (
	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/input"
	"synaptor/internal/program"
)

// lecture is for the evenings with a talk: slides, what Imke reads, name plates and the guests in the meeting, and the music before and after.
func (k desk) lecture() {
	k.key("home", "b4", program.SelfID, "page", params{"page": "lecture"})
	k.put("lecture", "a1", does(input.Press, "talk-slides", "start", nil), does(input.Hold, "talk-slides", "end", nil))
	k.key("lecture", "b1", "talk-slides", "previous", nil)
	k.key("lecture", "c1", "talk-slides", "next", nil)
	k.key("lecture", "d1", "talk-slides", "blank-toggle", nil)
	k.put("lecture", "e1", does(input.Press, "talk-slides", "timer-reset", nil))
	k.key("lecture", "f1", "talk-slides", "goto", params{"slide": "16"})
	k.key("lecture", "a2", "lectern-prompter", "run-toggle", nil)
	k.put("lecture", "b2", does(input.Press, "lectern-prompter", "back-line", nil), does(input.Repeat, "lectern-prompter", "back-line", nil))
	k.key("lecture", "c2", "lectern-prompter", "back-page", nil)
	k.row("lecture", 3, 1, 2, "lectern-prompter", "load", "script", nil)
	k.key("music", "f2", "lectern-prompter", "load", params{"script": "3"})
	k.key("lecture", "a3", "name-plates", "toggle", nil)
	k.key("lecture", "b3", "name-plates", "show-for", params{"seconds": "8"})
	k.key("lecture", "d3", "name-plates", "previous", nil)
	k.key("lecture", "e3", "name-plates", "next", nil)
	k.put("lecture", "a4", does(input.Press, "guest-room", "me-toggle", nil), does(input.Hold, "guest-room", "camera-toggle", nil))
	k.key("lecture", "b4", "guest-room", "silence-others", nil)
	join := k.put("lecture", "c4", does(input.Press, "guest-room", "join", nil), does(input.Hold, "guest-room", "leave", nil))
	join.Face.Label = "Guest\nroom"

	name := k.key("lecture", "f3", "name-plates", "write", params{"field": "1", "words": "{" + expr.Typed + "}"})
	name.Face.Label = "Type a\nname"
	k.key("lecture", "f2", program.SelfID, "page", params{"page": "music"})
	k.row("music", 0, 0, 3, "record-shelf", "list", "list", nil)
	k.key("music", "d1", "record-shelf", "previous", nil)
	k.key("music", "e1", "record-shelf", "toggle", nil)
	k.key("music", "f1", "record-shelf", "next", nil)
	for i, level := range []string{"20", "40", "60"} {
		k.key("music", device.CellID(i, 1), "record-shelf", "volume", params{"level": level})
	}
	k.key("music", "d2", "record-shelf", "mute-toggle", nil)
	k.row("music", 0, 2, 2, "guest-room", "hand-down", "guest", nil)

	k.put("lecture-dials", "dial1", does(input.Turn, "talk-slides", "step", params{"step": "1"}), does(input.Press, "talk-slides", "next", nil))
	k.put("lecture-dials", "dial2", does(input.Turn, "lectern-prompter", "speed", params{"speed": "30"}), does(input.Press, "lectern-prompter", "run-toggle", nil))
	k.put("lecture-dials", "dial3", does(input.Turn, "record-shelf", "volume", params{"level": "50"}), does(input.Press, "record-shelf", "mute-toggle", nil),
		does(input.Hold, program.SelfID, "page-next", nil))
}
