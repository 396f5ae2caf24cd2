package ui

import (
	"encoding/json"
	"errors"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bench/mixer"
	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/streaming"
	"synaptor/internal/bench/switcher"
	"synaptor/test/browser"
	"synaptor/web"
)

// The first ten minutes of somebody who has never seen Synaptor: from an empty show to a key that is pressed.
const mostActions = 40

// elsewhere is where the stranger's devices are: no demo that may run beside the test answers there.
const elsewhere = "127.0.0.9"

// stranger sits before an empty show; three devices are at their usual ports, which sheets of the data folder name.
func stranger(t *testing.T) *counter {
	t.Helper()
	t.Parallel()
	data := t.TempDir()
	if err := os.Mkdir(filepath.Join(data, "sheets"), 0o700); err != nil {
		t.Fatal(err)
	}
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: data, Bench: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	at := elsewhere + ":0"
	sw, err1 := switcher.Start(at, at, func() {})
	desk, err2 := mixer.Start(at, func() {})
	stream, err3 := streaming.Start(at, func() {})
	if err := errors.Join(err1, err2, err3); err != nil {
		t.Fatal(err)
	}
	for typ, s := range map[string]panel.StandIn{"switcher.osc": sw, "mixer.osc": desk, "streaming.jsonrpc": stream} {
		t.Cleanup(s.Close)
		_, port, err := net.SplitHostPort(s.Addr())
		if err != nil {
			t.Fatal(err)
		}
		raw, err := os.ReadFile("../../internal/sheet/devices/" + typ + ".json")
		if err != nil {
			t.Fatal(err)
		}
		var sheet map[string]any
		if err := json.Unmarshal(raw, &sheet); err != nil {
			t.Fatal(err)
		}
		n, err := strconv.Atoi(port)
		if err != nil {
			t.Fatal(err)
		}
		sheet["type"], sheet["link"].(map[string]any)["port"] = "own."+typ, n
		if raw, err = json.Marshal(sheet); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(data, "sheets", typ+".json"), raw, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for a.Edit.Program().Sheets.Device("own.switcher.osc") == nil || a.Edit.Program().Sheets.Device("own.mixer.osc") == nil || a.Edit.Program().Sheets.Device("own.streaming.jsonrpc") == nil {
		time.Sleep(10 * time.Millisecond) // until the folder has been looked at
	}
	c := &counter{person: meet(t, a, "/")}
	c.do(c.See("#start-own"))
	return c
}

// done fails where it took too much.
func (c *counter) done() {
	c.Helper()
	c.Logf("%d actions", c.gestures)
	if c.gestures > mostActions {
		c.Errorf("it took %d actions; %d is the most", c.gestures, mostActions)
	}
}

const threeFound = `document.querySelectorAll("[data-found]").length >= 3`

func TestTheFirstTenMinutesByMouse(t *testing.T) {
	c := stranger(t)
	c.do(c.Move(), c.Wait(moves))
	c.click("#start-own")
	c.click("#look-first")
	c.types(elsewhere)
	c.click(`aside form button[type="submit"]`)
	c.do(c.Wait(threeFound))
	c.click(`[data-found="own.streaming.jsonrpc"] input[type="password"]`)
	c.types(streaming.Password)
	c.click(".add button")
	c.do(c.Wait(`document.querySelectorAll(".phase.up").length === 3`))
	c.click(`nav a[href="/patch"]`)
	c.click(`[data-layout="grid-6x4"]`)
	c.do(c.See(`[data-control="a1"] .cross`))
	c.click(".tools .bx--btn--tertiary")
	c.puts("program row", "", "a1")
	c.press("Escape")
	c.click(`[aria-label="Producer grid"] .menu button, .box .menu button`)
	c.click(`[data-menu="rename"]`)
	c.types("Cut\r")
	c.do(c.Text(`[role="tab"][aria-selected="true"]`, "Cut"))
	c.click(`[data-control="b1"]`)
	c.click(".try")
	c.do(c.See(key("b1", ".on-air")))
	c.click("#undo")
	c.done()
}

// tab goes on with Tab until something has the focus; each one counts.
func (c *counter) tab(selector string) {
	c.Helper()
	for range 15 {
		c.press("Tab")
		if at, err := browser.Eval[bool](c.Page, "!!document.activeElement?.matches(`"+selector+"`)"); err == nil && at {
			return
		}
	}
	c.do(c.focused(selector))
}

// kept fails where nothing has the focus.
func (c *counter) kept() {
	c.Helper()
	if lost, err := browser.Eval[bool](c.Page, "document.activeElement === document.body"); err != nil || lost {
		c.Errorf("after %d actions nothing has the focus (%v)", c.gestures, err)
	}
}

func TestTheFirstTenMinutesByKeyboard(t *testing.T) {
	c := stranger(t)
	c.do(c.focused("main"))
	c.tab("#start-own")
	c.types("\r")
	c.do(c.See("#look-first"))
	c.kept()
	c.tab("#look-first")
	c.types("\r")
	c.do(c.focused("#look-host"))
	c.types(elsewhere + "\r")
	c.do(c.Wait(threeFound))
	c.kept()
	c.tab(`[data-found="own.streaming.jsonrpc"] input[type="password"]`)
	c.types(streaming.Password)
	c.tab(".add button")
	c.types("\r")
	c.do(c.Wait(`document.querySelectorAll(".phase.up").length === 3`))
	c.kept()
	c.press("2")
	c.do(c.See("[data-layout]"))
	c.kept()
	c.tab(`[data-layout="grid-6x4"]`)
	c.types("\r")
	c.do(c.See(`[data-control="a1"] .cross`))
	c.kept()
	c.press("a")
	c.puts("program row", "", "a1")
	c.press("Escape")
	c.kept()
	c.press("p")
	c.types("Dome\r")
	c.do(c.Text(`[role="tab"][aria-selected="true"]`, "Dome"))
	c.kept()
	c.press("[")
	c.do(c.See(key("a1", ".on-air")))
	c.press("ArrowUp")
	c.press("ArrowRight")
	c.types(" ")
	c.do(c.See(key("b1", ".on-air")))
	c.kept()
	c.gestures++
	c.do(c.Press("z", 2), c.Wait(`document.querySelectorAll('[aria-label="Producer grid"] [role="tab"]').length === 1`))
	c.kept()
	c.done()
}
