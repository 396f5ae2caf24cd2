package ui

import (
	"fmt"
	"net"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/bench/switcher"
	"synaptor/web"
)

// TestTheDemoIsTriedFromAnEmptyShow: its devices start with it, and the empty show is kept.
func TestTheDemoIsTriedFromAnEmptyShow(t *testing.T) {
	t.Parallel()
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	p := meet(t, a, "/")
	p.do(p.Click("#start-demo"), p.See(key("a1", ".on-air")), p.Text("#shows", "Meteor Night"), p.Click("#bench"), p.See(".front"))
	p.do(p.Press("Escape", 0), p.Click("#shows"), p.Click(`[data-show="New show"] .bx--btn--tertiary`), p.Text("main", "This show is empty"), p.Text("#shows", "New show"))
}

func TestShowsAreAddedOpenedRenamedDeletedAndBroughtBack(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click("#shows"), p.Fill("#show-name", "Rehearsal"))
	p.do(p.Wait(`(() => { const s = document.querySelector("aside form select"); if (s.options.length < 2) return false; s.value = [...s.options].at(-1).value; s.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`), p.Click(`aside form button[type="submit"]`))
	p.axe("the list of shows")
	// Something goes on: that is asked about, with what it means.
	p.do(p.Goto("/macros/meteor"), p.Click("#run-macro"), p.See("#halt-macro"))
	p.do(p.Click("#shows"), p.Click(`[data-show="Rehearsal"] .bx--btn--tertiary`), p.Text(".asked", "The run of Meteor! is halted"), p.Text(".asked", "stay connected"))
	p.do(p.Click(".asked .bx--btn--ghost"), p.Wait(`!document.querySelector(".asked")`), p.Text("#shows", "Meteor Night"))
	// On a busy machine the run may have ended by now: it goes on, or begins again.
	p.do(p.Wait(`document.querySelector("#halt-macro") || (document.querySelector("#run-macro")?.click(), false)`))
	p.do(p.Click(`[data-show="Rehearsal"] .bx--btn--tertiary`), p.Click(".asked .bx--btn--danger"), p.Text("#shows", "Rehearsal"), p.See(key("c1", ".on-air")), p.Text(".decisions", "opened another show"))

	p.do(p.Click("#shows"), p.Click(`[data-show="Rehearsal"] .bx--overflow-menu`), p.Click(".bx--overflow-menu-options li:first-child button"), p.Fill(`[data-show="Rehearsal"] input`, "Saturday"), p.Keys("\r"), p.Text("#shows", "Saturday"))
	p.do(p.Click(`[data-show="Meteor Night"] .bx--overflow-menu`), p.Click(".bx--overflow-menu-options li:last-child button"), p.Wait(`!document.querySelector('[data-show="Meteor Night"]')`), p.Text("aside", "kept until"))
	p.do(p.Click("aside ul:last-of-type .act"), p.See(`[data-show="Meteor Night"]`))
}

func TestAVersionIsKeptLookedAtAndComesBack(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click("#shows"), p.Click(`[data-part="versions"]`), p.Text("aside", "None yet"), p.Fill("#version-name", "Before the rehearsal"), p.Keys("\r"), p.See("[data-version].now"))
	p.do(p.Press("Escape", 0), p.Click(`[data-control="b1"]`), p.Press("Delete", 0))
	p.empty("b1")
	p.do(p.Click("#shows"), p.Click(`[data-part="versions"]`), p.Click("[data-version] .title"), p.Text(".changes", "b1 on Cut: removed"))
	p.axe("the versions")
	p.do(p.Click(".changes > button"), p.See(key("b1", ".tile")), p.Text(".changes", "Nothing has changed"), p.Press("Escape", 0), p.Click("#undo"))
	p.empty("b1")
}

func TestAnArchiveIsLookedAtAndAdded(t *testing.T) {
	p := sit(t, "/patch", true)
	p.do(p.See(key("a1", ".on-air")), p.Click("#shows"), p.Click(`[data-part="archive"]`), p.Text("aside", "Passwords are not in it"))
	choose := func(part string) {
		t.Helper()
		p.do(p.Wait(`(() => { window.sent = false; fetch("/api/v1/archive").then(r => r.arrayBuffer()).then(b => {
			const d = new DataTransfer(); d.items.add(new File([`+part+`], "meteor.synaptor.zip", {type: "application/zip"}));
			const i = document.querySelector("[data-archive] input, aside input[type=file]"); i.files = d.files; i.dispatchEvent(new Event("change", {bubbles: true})); window.sent = true; }); return true; })()`), p.Wait("window.sent"))
	}
	choose("b.slice(0, 900)")
	p.do(p.Text("aside .wrong", "Nothing was changed"))
	choose("b")
	p.do(p.Text("[data-preview]", "Once it is open, it connects to"), p.Text("[data-preview]", "Dome switcher, Video switcher (OSC)"),
		p.Text("[data-fires]", "Duck the music"), p.Click("aside .body > .act"), p.Click(".parts fieldset:nth-child(4) label"), p.Wait(`document.querySelectorAll(".parts fieldset:nth-child(4) input:checked").length === 7`), p.Text(".parts ul", "fires by itself"), p.Choose(`select[data-clash="duck"]`, "in place"), p.See(`[data-told="now"]`))
	p.axe("an archive that is looked at")
	p.do(p.Fill("#archive-name", "From the archive"), p.Keys("\r"), p.See(`[data-show="From the archive"]`), p.Click(`[data-show="From the archive"] .bx--btn--tertiary`), p.Text("#shows", "From the archive"), p.Wait(`!document.querySelector("aside [data-part]")`))
	p.do(p.Click("#shows"), p.Click(`[data-part="copies"]`), p.Click("#back-up"), p.Text("aside .body > ul", "2 shows"))
	p.axe("the copies of the data")
	p.do(p.Fill("#backup-folder", "half/a/path"), p.Keys("\r"), p.Text("aside", "Name the whole path"), p.Press("Escape", 0))
	// Its passwords did not travel.
	p.do(p.Press("1", 0), p.See(`[data-device="stream-pc"] .phase.locked`), p.See(`[data-device="dome-switcher"] .phase.up`))
}

// TestANightIsTakenAlong goes from an empty show to a pressed key, exports, deletes, and takes a page of the archive into a show
// with another switcher, where the key works; then it is undone.
func TestANightIsTakenAlong(t *testing.T) {
	first, second := standIn(t), standIn(t)
	p := sit(t, "/", false)
	p.do(p.Click("#start-own"), p.Click(".empty button"), p.Choose("#device-role", "switcher"), p.Fill("#device-name", "Dome switcher"), p.Fill("#device-host", first.host), p.Fill("#device-port", first.port),
		p.Click(`form button[type="submit"]`), p.See(`[data-step="A device that answers"].done`))
	p.do(p.Click(`[data-step="A controller"] button`), p.Click(`[data-layout="grid-6x4"]`), p.See(`[data-step="A controller"].done`))
	p.do(p.Press("a", 0), p.See(`[data-find="kit:program-row:1"]`), p.Drag(`[data-find="kit:program-row:1"]`, `[data-control="a1"]`, 0), p.See(key("a1", ".on-air")), p.Press("Escape", 0))
	p.do(p.Click(`[data-control="c1"]`), p.Click(".try"), p.See(key("c1", ".on-air")), p.See(`[data-step="A key, pressed and confirmed"].done`))

	p.do(p.Wait(`(() => { window.kept = undefined; fetch("/api/v1/archive").then(r => r.arrayBuffer()).then(b => window.kept = b); return true; })()`), p.Wait("window.kept"))
	p.do(p.Click("#shows"), p.Fill("#show-name", "Studio"), p.Keys("\r"), p.Click(`[data-show="Studio"] .bx--btn--tertiary`), p.Text("main", "This show is empty"))
	p.do(p.Click("#shows"), p.Click(`[data-show="New show"] .bx--overflow-menu`), p.Click(".bx--overflow-menu-options li:last-child button"), p.Wait(`!document.querySelector('[data-show="New show"]')`), p.Press("Escape", 0))

	p.do(p.Press("1", 0), p.Click(".empty button"), p.Choose("#device-role", "switcher"), p.Fill("#device-name", "Studio switcher"), p.Fill("#device-host", second.host), p.Fill("#device-port", second.port),
		p.Click(`form button[type="submit"]`), p.See(".phase.up"), p.Press("Escape", 0), p.Press("2", 0), p.Click(`[data-layout="grid-6x4"]`), p.See(`[data-control="a1"] .cross`))
	p.do(p.Click("#shows"), p.Click(`[data-part="archive"]`), p.Wait(`(() => { const d = new DataTransfer(); d.items.add(new File([window.kept], "night.synaptor.zip", {type: "application/zip"}));
		const i = document.querySelector("aside input[type=file]"); i.files = d.files; i.dispatchEvent(new Event("change", {bubbles: true})); return true; })()`), p.See("[data-preview]"))
	p.do(p.Click("aside .body > .act"), p.Click(`.parts fieldset:nth-child(2) label`), p.Text(".parts ul", "is Studio switcher here"), p.Text(".parts ul", "beside it, as Home 2"))
	p.do(p.Choose("select[data-clash]", "in place"), p.See(`[data-told="now"]`), p.Choose("select[data-clash]", "beside"), p.Text(".parts ul", "as Home 2"), p.See(`[data-told="now"]`))
	p.axe("parts of an archive")
	p.do(p.Click("#take-parts"), p.Press("Escape", 0), p.Click(`[role="tab"]:nth-child(2)`), p.Text(`[role="tab"][aria-selected="true"]`, "Home 2"), p.See(key("a1", ".on-air")))
	p.do(p.Click(`[data-control="d1"]`), p.Click(".try"), p.See(key("d1", ".on-air")), p.Text(".path", "Studio switcher"))
	// The switcher of the other show is left alone: it is where its own last press has put it.
	if one, two := first.View().Values["/mix/1/program"], second.View().Values["/mix/1/program"]; fmt.Sprint(one) != "3" || fmt.Sprint(two) != "4" {
		t.Errorf("the switchers are at %v and %v", one, two)
	}
	p.do(p.Click("#undo"), p.Wait(`document.querySelectorAll('[role="tablist"][aria-label="Pages"] [role="tab"]').length === 1`))
}

// at is a stand-in with its address.
type at struct {
	*switcher.Server
	host, port string
}

func standIn(t *testing.T) at {
	t.Helper()
	sw, err := switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(sw.Close)
	host, port, err := net.SplitHostPort(sw.Addr())
	if err != nil {
		t.Fatal(err)
	}
	return at{sw, host, port}
}
