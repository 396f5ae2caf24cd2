package ui

import "testing"

// With text twice as large there is half the room: all of the frame is still there, and each view can be reached to its end.
func TestTextTwiceAsLargeFits(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.Resize(640, 400))
	for path, ends := range map[string]string{"/patch": ".path section:last-of-type", "/macros/meteor": "aside", "/rig": "tbody tr:last-child", "/journal": ".trace"} {
		p.do(p.Goto(path), p.See(ends))
		p.do(p.Wait(`[...document.querySelectorAll(".frame > header :is(a, button), .line .more")].every(e => { const r = e.getBoundingClientRect(); return r.right <= innerWidth && r.left >= 0 && r.height > 0; })`))
		p.do(p.Wait(`(() => { const e = document.querySelector(` + "`" + ends + "`" + `); e.scrollIntoView({block: "end"}); const r = e.getBoundingClientRect(); return r.bottom > 80 && r.bottom <= innerHeight + 1; })()`))
	}
}
