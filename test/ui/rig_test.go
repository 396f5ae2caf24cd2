package ui

import (
	"net"
	"testing"

	"synaptor/internal/bench/switcher"
	"synaptor/test/browser"
)

// TestAnEmptyShowLeadsToAFirstPress starts with nothing: a device is added by
// its address, a controller drawn, a row put, a key pressed.
func TestAnEmptyShowLeadsToAFirstPress(t *testing.T) {
	sw, err := switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(sw.Close)
	host, port, _ := net.SplitHostPort(sw.Addr())

	p := sit(t, "/", false)
	p.do(p.Text("main", "This show is empty"), p.Click("#start-own"), p.Wait(`location.pathname === "/rig"`), p.Text(".empty", "Nothing is connected yet"), p.Click(".empty button"))

	// What is wrong is said at its field.
	p.do(p.Fill("#device-name", " "), p.Fill("#device-host", "my switcher"), p.Fill("#device-port", "70000"), p.Click(`form button[type="submit"]`))
	p.do(p.Text("form", "A name is needed"), p.Text("form", "neither a host name nor an IP address"), p.Text("form", "A port is a number"))

	p.do(p.Choose("#device-role", "switcher"), p.Text("form", "Switch on OSC control"), p.Wait(`document.querySelector("#device-port").value === "7431"`))
	p.do(p.Fill("#device-name", "Dome switcher"), p.Fill("#device-host", host), p.Fill("#device-port", "1"), p.Click("#device-test"), p.Text(".tested", "refuses the connection"),
		p.Fill("#device-port", port), p.Click("#device-test"), p.Text(".tested", "Larkfell bench switcher"), p.Fill("#device-port", "1"), p.Click(`form button[type="submit"]`))
	p.do(p.See(".phase.down"), p.Text(".problem", "refuses the connection"), p.Text(".line", "Dome switcher away"))
	p.do(p.Click(`[data-device="dome-switcher"] .name`), p.Fill("#device-port", port), p.Click(`form button[type="submit"]`))
	p.do(p.See(".phase.up"), p.Text("aside", "Larkfell bench switcher"), p.Click(`[data-part="readings"]`), p.Text(".browse ul", "Telescope feed"))

	p.do(p.Press("2", 0), p.Text(".empty", "No controller yet"), p.Click(`[data-layout="grid-6x4"]`), p.See(`[data-control="a1"] .cross`))
	p.do(p.Press("a", 0), p.See(`[data-find="kit:program-row:1"]`), p.Drag(`[data-find="kit:program-row:1"]`, `[data-control="a1"]`, 0))
	p.do(p.See(key("a1", ".on-air")), p.Press("Escape", 0), p.Click(`[data-control="f1"]`), p.Click(".try"), p.See(key("f1", ".on-air")))
	p.do(p.Wait(`document.querySelectorAll(".first .done").length === 3`), p.Click(".first > :last-child"), p.Wait(`!document.querySelector(".first")`))
}

func TestARemovedDeviceIsSaidToBeUsedAndComesBack(t *testing.T) {
	p := sit(t, "/rig", true)
	// Rows sort by a column, up, down, and as they were.
	first := func(device string) error { return p.See(`tbody tr:first-child[data-device="` + device + `"]`) }
	p.do(p.See(".phase.up"), p.Click("th:last-child button"), first("audience"), p.Click("th:last-child button"), p.See(`th[aria-sort="descending"]`), first("sound-desk"), p.Click("th:last-child button"), first("stream-pc"))
	p.do(p.Click(`[data-device="dome-switcher"] .name`), p.Click("#remove"), p.Text(".removing", "39 keys use it"))
	p.do(p.Click(".removing button"), p.Wait(`!document.querySelector('[data-device="dome-switcher"]')`), p.Press("2", 0), p.See(key("a1", ".away")))
	p.do(p.Press("z", 2), p.See(key("a1", ".on-air:not(.away)")))
}

func TestAControllerIsCalledSomethingElseAndItsPanelStays(t *testing.T) {
	p := sit(t, "/rig", true)
	panel := meet(t, p.app, "/panel/saskias-tablet")
	panel.do(panel.Text("header b", "Saskia's tablet"))
	p.do(p.Click(`[data-of="saskias-tablet"] .name`), p.Fill("#controller-name", " "), p.Keys("\r"), p.Text("aside", "A name is needed"))
	p.do(p.Fill("#controller-name", "Guest tablet"), p.Keys("\r"), p.Text(`[data-of="saskias-tablet"]`, "Guest tablet"))
	panel.do(panel.Text("header b", "Guest tablet"), panel.Goto("/panel/saskias-tablet"), panel.Text("header b", "Guest tablet"))
	p.do(p.Click("#undo"), p.Text(`[data-of="saskias-tablet"]`, "Saskia's tablet"))
}

func TestThePageSaysWhenSynaptorIsGone(t *testing.T) {
	p := sit(t, "/patch", true)
	panel := meet(t, p.app, "/panel/producer-grid")
	panel.do(panel.See(key("a1", ".on-air")))
	p.do(p.See(key("a1", ".on-air")))
	p.app.Close()
	p.do(p.Text(".line", "not connected to this page"))
	panel.do(panel.Text(`[role="alert"]`, "Not connected"))
}

func TestNothingIsFetchedFromElsewhere(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Wait(`document.fonts.status === "loaded"`))
	foreign, err := browser.Eval[[]string](p.Page, `performance.getEntriesByType("resource").map(e => e.name).filter(n => !n.startsWith(location.origin))`)
	if err != nil || len(foreign) > 0 {
		t.Errorf("fetched from elsewhere: %v (%v)", foreign, err)
	}
	ok, err := browser.Eval[bool](p.Page, `document.fonts.check('600 16px "IBM Plex Sans Condensed"') && [...document.fonts].some(f => f.family.includes("Condensed") && f.status === "loaded")`)
	if err != nil || !ok {
		t.Errorf("the face font is not there (%v)", err)
	}
}

// TestMicrophonesOnKeys puts the sound desk's channels on a row of keys and
// works them from both ends.
func TestMicrophonesOnKeys(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click(`[data-control="a4"]`), p.Press("a", 0), p.See(`[data-find="kit:channel-row:"]`))
	p.do(p.Keys("mics"), p.Text(".result.active .title", "Channel row"), p.Keys("\r"), p.Text(key("f4", ".label"), "Replay"), p.Text(key("a4", ".label"), "Imke"))
	p.do(p.Press("Escape", 0), p.Click(`[data-control="a4"]`), p.Click(".try"), p.See(key("a4", ".tile.set")))
	p.do(p.Click("#bench"), p.Click(`[data-standin="mixer"]`), p.See(`[data-front="open/1"].lit`), p.Click(`[data-front="open/1"]`))
	p.do(p.See(key("a4", ".tile:not(.set)")), p.Click(`[data-front="open/5"]`), p.See(key("e4", ".tile.set")))
	p.do(p.Click(`label[for="fault-cut"]`), p.See(key("e4", ".unknown.away")), p.See(key("a1", ".on-air:not(.unknown)")))
}

// TestControllersAreRowsWithThePageThatTheyShow, which is turned from there.
func TestControllersAreRowsWithThePageThatTheyShow(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Press("ArrowRight", 0), p.Press(" ", 0), p.See(key("b1", ".on-air")), p.Press("1", 0))
	row := `[data-of="producer-grid"]`
	p.do(p.Text(row, "Put Telescope feed on program"), p.Text(row, "of 216"), p.Choose(row+" select", "dome"), p.Click(row+" .name"), p.Text("aside", "/synaptor/producer-grid/a1/press"))
	panel := meet(t, p.app, "/panel/producer-grid")
	panel.do(panel.Text("body", "Dome"), panel.See(`[data-control="a1"]`))
	p.do(p.Choose(row+" select", "cut"), panel.See(`[data-control="a1"]`))
}
