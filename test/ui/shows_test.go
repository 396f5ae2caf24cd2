package ui

import (
	"testing"

	"synaptor/internal/app"
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
	p.do(p.Click(`[data-show="Rehearsal"] .bx--btn--tertiary`), p.Click(".asked .bx--btn--danger"), p.Text("#shows", "Rehearsal"), p.See(key("c1", ".on-air")), p.Text(".left", "opened another show"))

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
	p.do(p.Text("[data-preview]", "Once it is open, it connects to"), p.Text("[data-preview]", "Dome switcher, Video switcher (OSC)"))
	p.axe("an archive that is looked at")
	p.do(p.Fill("#archive-name", "From the archive"), p.Keys("\r"), p.See(`[data-show="From the archive"]`), p.Click(`[data-show="From the archive"] .bx--btn--tertiary`), p.Text("#shows", "From the archive"))
	p.do(p.Click("#shows"), p.Click(`[data-part="copies"]`), p.Click("#back-up"), p.Text("aside .body > ul", "2 shows"))
	p.axe("the copies of the data")
	p.do(p.Fill("#backup-folder", "half/a/path"), p.Keys("\r"), p.Text("aside", "Name the whole path"), p.Press("Escape", 0))
	// Its passwords did not travel.
	p.do(p.Press("1", 0), p.See(`[data-device="stream-pc"] .phase.locked`), p.See(`[data-device="dome-switcher"] .phase.up`))
}
