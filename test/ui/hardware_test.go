package ui

import "testing"

// TestHardwareIsAttachedTouchedAndPulled: the keys of the bench are found in Rig, attached to a controller, show its page, press its
// keys, and are away once their cable is out.
func TestHardwareIsAttachedTouchedAndPulled(t *testing.T) {
	p := sit(t, "/rig", true)
	p.do(p.See(`[data-loose="BENCH-8K2D"]`), p.Wait(`(() => { const s = document.querySelector('[data-loose="BENCH-8K2D"] select'); s.value = [...s.options].find(o => o.text === "Producer grid").value; s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`))
	p.do(p.See(`[data-of="producer-grid"] .phase.up`), p.Wait(`!document.querySelector('[data-loose="BENCH-8K2D"]')`), p.Click(`[data-of="producer-grid"] .act`), p.See(`[data-link]`), p.Text(".inputs", "Touch it now"))
	p.axe("a controller with its hardware")
	p.do(p.Click("#bench"), p.Click(`[data-standin="keys"]`), p.Wait(`document.querySelector('[data-front="a1"]')?.title.includes("Presenter cam, on air")`))
	p.axe("the keys of the bench")
	p.do(p.Click(`[data-front="c1"]`), p.Wait(`document.querySelector('[data-front="c1"]')?.title.includes("on air")`), p.Click("#bench"), p.Text(".inputs", "c1 down"), p.Text(".inputs", "→ c1"))
	// A control of the hardware is another one of the controller, and back.
	p.do(p.Choose("[data-map]", "d1"), p.Text(".map", "c1 is"), p.Click("#bench"), p.Click(`[data-standin="keys"]`), p.Wait(`document.querySelector('[data-front="c1"]')?.title.includes("Guest cam")`), p.Click(`[data-front="c1"]`), p.Click("#bench"), p.Text(".inputs", "→ d1"), p.Click("#undo"), p.Wait(`!document.querySelector(".map")?.textContent.includes("c1 is")`))
	// Quiet: it does nothing, and says so.
	p.do(p.Click("label[for=quiet]"), p.Click("#bench"), p.Click(`[data-standin="keys"]`), p.Wait(`document.querySelector('[data-front="a1"]')?.title.startsWith("quiet")`), p.Click(`[data-front="a1"]`), p.Click("#bench"), p.Text(".inputs", "quiet while a layout is changed"), p.Click("label[for=quiet]"))
	p.do(p.Click("#bench"), p.Click(`[data-standin="keys"]`), p.Click(`label[for="fault-cut"]`), p.Click("#bench"), p.See(`[data-of="producer-grid"] .phase.down`), p.Text("[data-link]", "away"))
	p.do(p.Click("#bench"), p.Click(`[data-standin="keys"]`), p.Click(`label[for="fault-cut"]`), p.Click("#bench"), p.See(`[data-of="producer-grid"] .phase.up`), p.Text("[data-link]", "here"))
	p.do(p.Click("[data-link] .act"), p.Wait(`!document.querySelector("[data-link]")`), p.See(`[data-loose="BENCH-8K2D"]`))
}
