package ui

import "testing"

// nothingAsked is true once a page has asked its server for nothing for a second and a half.
const nothingAsked = `(() => { performance.setResourceTimingBufferSize(100000);
	const n = performance.getEntriesByType("resource").filter((r) => r.name.includes("/api/v1/")).length, now = performance.now();
	if (window.askedSoFar?.n !== n) window.askedSoFar = {n, at: now};
	return now - window.askedSoFar.at > 1500; })()`

// A view that nothing happens in asks for nothing: what it shows comes by its live connection. One that follows a wire or shows a picture is another matter.
func TestAViewThatNothingHappensInAsksForNothing(t *testing.T) {
	p := sit(t, "/rig", true)
	for _, view := range []struct{ path, seen, open string }{
		{"/rig", "[data-device]", ""},
		{"/patch", key("a1", ".on-air"), key("a1", "")},
		{"/macros/meteor", "[data-step]", "[data-step]"},
		{"/macros/open-the-night", "[data-step]", ""},
		{"/reflexes", "[data-reflex]", "[data-reflex]"},
		{"/preflight", "[data-finding]", ""},
		{"/desk", "[data-control]", ""},
		{"/journal", "table", ""},
	} {
		p.do(p.Goto(view.path), p.See(view.seen))
		if view.open != "" {
			p.do(p.Click(view.open))
		}
		p.do(p.Wait(nothingAsked))
	}
}
