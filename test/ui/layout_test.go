package ui

import (
	"fmt"
	"net"
	"strconv"
	"testing"

	"synaptor/internal/app"
	"synaptor/internal/bench/intercom"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/edit"
	"synaptor/web"
)

// counter counts what a person does: clicks, drags, keys, and texts that are typed.
type counter struct {
	*person
	gestures int
}

func (c *counter) click(selector string) {
	c.Helper()
	c.gestures++
	c.do(c.Click(selector))
}

func (c *counter) press(key string) {
	c.Helper()
	c.gestures++
	c.do(c.Press(key, 0))
}

func (c *counter) types(text string) {
	c.Helper()
	c.gestures++
	c.do(c.Keys(text))
}

// puts looks for something and puts it on the selected key; sees is on the keys
// then.
func (c *counter) puts(words, title, sees string) {
	c.Helper()
	c.types(words)
	c.do(c.Text(".result.active .title", title), c.Wait(`document.querySelector(".bx--search-input").value === `+fmt.Sprintf("%q", words)), c.See(`.all[aria-busy="false"]`))
	c.types("\r")
	c.do(c.See(key(sees, ":is(.tile, .dial)")))
}

// TestThePagesOfTheNightAreLaidOutInUnderSixtyGestures lays out the demo's pages Cut,
// Dome, Sound and Stream from a show with devices and nothing else.
func TestThePagesOfTheNightAreLaidOutInUnderSixtyGestures(t *testing.T) {
	t.Parallel()
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Bench: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	var rig []edit.DeviceFields
	for _, d := range []struct{ name, typ, standIn, user, password string }{
		{"Stream PC", "streaming.jsonrpc", "streaming", "", streaming.Password}, {"Dome switcher", "switcher.osc", "switcher", "", ""},
		{"Sound desk", "mixer.osc", "mixer", "", ""}, {"Talkback", "intercom.http", "intercom", intercom.User, intercom.Password},
		{"Dome camera", "camera.lines", "camera", "", ""}} {
		host, port, err := net.SplitHostPort(a.Bench.StandIn(d.standIn).Addr())
		if err != nil {
			t.Fatal(err)
		}
		n, err := strconv.Atoi(port)
		if err != nil {
			t.Fatal(err)
		}
		f := edit.DeviceFields{Name: d.name, Type: d.typ, Host: host, Port: n, User: d.user}
		if d.password != "" {
			f.Password = &d.password
		}
		rig = append(rig, f)
	}
	if _, err := a.Edit.AddDevices(edit.Who{Session: "rigger", Actor: "Rigger"}, rig); err != nil {
		t.Fatal(err)
	}

	c := &counter{person: meet(t, a, "/rig")}
	c.do(c.Wait(`document.querySelectorAll(".phase.up").length === 5`), c.Goto("/patch"))
	c.click(`[data-layout="grid-6x4"]`)
	c.do(c.See(key("a1", ".cross")))
	c.press("p")
	c.do(c.See(`[data-field="Name of the page"]`))
	c.types("Cut, Dome, Sound, Stream")
	c.types("\r")
	tab := func(n int) string { return fmt.Sprintf(`[role="tab"]:nth-child(%d)`, n) }
	c.do(c.Wait(`document.querySelector('` + tab(2) + `')?.getAttribute("aria-selected") === "true"`))

	page := func(n int) {
		if n > 2 {
			c.click(tab(n))
			c.do(c.See(key("a1", ".cross")))
		}
		c.click(`[data-control="a1"]`)
		c.press("a")
		c.do(c.See(`[data-result="0"]`))
	}
	// Cut: two rows, what cuts between them, Home on every page, and the keyers.
	page(2)
	c.puts("program row", "Program row", "f1")
	c.puts("preview row", "Preview row", "f2")
	c.puts("cut", "Cut", "a3")
	c.puts("auto", "Auto", "b3")
	c.puts("home", "Home", "c3")
	c.puts("keyers", "Downstream keyers", "f3")
	c.click(`[data-control="c3"]`)
	c.do(c.Text(".does", "Home"))
	c.click(".does .stand")
	c.do(c.Text(key("c3", ".marks"), "standing"))
	// Dome: a row for each output, and where the camera looks.
	page(3)
	c.puts("row projector", "Dome projector", "a1")
	c.puts("row foyer", "Foyer screen", "a2")
	c.puts("row monitor", "Presenter", "a3")
	c.puts("camera presets", "Camera presets", "a4")
	// Sound: channels, headphones, party lines.
	page(4)
	c.puts("channel row", "Channel row", "f1")
	c.puts("cue row", "Cue row", "f2")
	c.puts("talk row", "Talk keys", "a3")
	c.puts("listen keys", "Listen keys", "d3")
	// Stream: scenes, sound inputs, what is recorded, filters, and the sources of a scene.
	page(5)
	c.puts("scenes meteor", "Scenes of Meteor Night", "b2")
	c.puts("sound inputs kit", "Sound inputs", "d2")
	c.puts("stream record", "Stream, record and look-back", "a3")
	c.puts("filters kit", "Filters", "e3")
	c.puts("sources of presenter", "Sources of Presenter", "e4")
	if c.gestures >= 60 {
		t.Errorf("it took %d gestures", c.gestures)
	}
	t.Logf("%d gestures", c.gestures)

	// What was laid out is what the demo has on these pages.
	counts := map[string]int{}
	snap := a.Edit.Program()
	for _, p := range snap.Show.Pages() {
		counts[p.Name] = len(snap.AllOn(p))
	}
	if counts["Cut"] != 18 || counts["Dome"] < 20 || counts["Sound"] < 19 || counts["Stream"] < 22 {
		t.Errorf("keys on the pages: %v", counts)
	}
	// And it is in force: a key takes the picture.
	c.do(c.Click(tab(2)), c.Click(`[data-control="d1"]`), c.Click(".try"), c.See(key("d1", ".on-air")))
}
