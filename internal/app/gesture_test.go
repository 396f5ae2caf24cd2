package app_test

import (
	"fmt"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
)

// give puts an action on a gesture of a key of the page Cut.
func (r *rig) give(control, gesture, action string, params map[string]string) {
	r.Helper()
	r.must(201, "PUT", "/api/v1/pages/cut/controls/"+control,
		map[string]any{"device": "dome-switcher", "action": action, "params": params, "gesture": gesture}, nil)
}

// made lists what the last inputs of a control were, the oldest first.
func (r *rig) made(control string) (out []string) {
	for _, e := range r.byHand() {
		if e.Control == control {
			out = append(out, e.Gesture)
		}
	}
	slices.Reverse(out)
	return out
}

func (r *rig) makes(control string, gestures ...string) {
	r.Helper()
	var got []string
	r.eventually(control+" made "+strings.Join(gestures, ", "), func() bool {
		got = r.made(control)
		return slices.Equal(got, gestures)
	})
}

func TestAHoldADoubleAndAReleaseShareAKey(t *testing.T) {
	r := start(t).ready()
	keyer := func(n string) map[string]string { return map[string]string{"keyer": n} }
	r.give("a4", "press", "keyer-on", keyer("1"))
	r.give("a4", "hold", "keyer-on", keyer("2"))
	r.give("a4", "release", "keyer-off", keyer("2"))
	h := r.hand("producer-grid")
	h.do("a4", "down", 0)
	h.word("dome-switcher:keyer/2/on", "on") // nothing but time makes a hold
	h.do("a4", "up", 0)
	h.word("dome-switcher:keyer/2/on", "off")
	r.makes("a4", "hold", "release")
	h.do("a4", "down", 0)
	h.do("a4", "up", 0) // let go before its time, it is a press
	h.word("dome-switcher:keyer/1/on", "on")
	r.makes("a4", "hold", "release", "press", "release")

	r.give("b4", "press", "keyer-off", keyer("1"))
	r.give("b4", "double", "keyer-on", keyer("3"))
	h.do("b4", "down", 0)
	h.do("b4", "up", 0)
	h.do("b4", "down", 0)
	h.do("b4", "up", 0)
	h.word("dome-switcher:keyer/3/on", "on")
	h.do("b4", "down", 0)
	h.do("b4", "up", 0) // after the window, it is a press
	h.word("dome-switcher:keyer/1/on", "off")
	r.makes("b4", "double", "press")

	var path struct {
		Gestures []struct {
			Gesture      string
			AddedDelayMs int
			UntilRelease bool
		}
	}
	r.must(200, "GET", "/api/v1/pages/cut/controls/b4/path", nil, &path)
	if g := path.Gestures[0]; g.Gesture != "press" || g.AddedDelayMs != 250 {
		t.Errorf("the delay is told as %+v", g)
	}
	r.must(200, "GET", "/api/v1/pages/cut/controls/a4/path", nil, &path)
	if !path.Gestures[0].UntilRelease {
		t.Error("it is not told that the press waits for the release")
	}
}

func TestAReleaseFollowsItsPressWhateverThePageDoes(t *testing.T) {
	r := start(t).ready()
	r.give("a4", "press", "keyer-on", map[string]string{"keyer": "1"})
	r.give("a4", "release", "keyer-off", map[string]string{"keyer": "1"})
	h := r.hand("producer-grid")
	h.do("a4", "down", 0)
	h.word("dome-switcher:keyer/1/on", "on")
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "lights"}, nil)
	h.shows("keys", "lights")
	h.do("a4", "up", 0)
	h.word("dome-switcher:keyer/1/on", "off")
	r.makes("a4", "press", "release") // the other page's key made nothing
	// Removed while it is held, it still ends what it began.
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]string{"page": "cut"}, nil)
	h.shows("keys", "cut")
	h.do("a4", "down", 0)
	h.word("dome-switcher:keyer/1/on", "on")
	r.must(204, "DELETE", "/api/v1/pages/cut/controls/a4", nil, nil)
	h.do("a4", "up", 0)
	h.word("dome-switcher:keyer/1/on", "off")
}

func TestTurnsComeByHTTPAndOSC(t *testing.T) {
	r := start(t)
	r.connected("sound-desk")
	h := r.hand("scope-console")
	h.word("sound-desk:channel/1/level", "-10 dB")
	turn := "/api/v1/input/scope-console/dial1/turn"
	r.must(202, "POST", turn, map[string]any{"value": 3}, nil)
	h.word("sound-desk:channel/1/level", "-7 dB")
	for _, bad := range []any{"three", true, 1e9} {
		if p := r.fails(422, "POST", turn, map[string]any{"value": bad}); p.Field != "value" {
			t.Errorf("%v: %+v", bad, p)
		}
	}
	r.fails(422, "POST", "/api/v1/input/scope-console/dial1/press", map[string]any{"value": 1})

	c, err := net.Dial("udp", r.OSCAddr)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	p, err := osc.Encode(device.Message{Address: "/synaptor/scope-console/dial1/turn", Args: []any{-2.0}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := c.Write(p); err != nil {
		t.Fatal(err)
	}
	h.word("sound-desk:channel/1/level", "-9 dB")
}

func TestAFloodOfTurnsEndsAtItsLastValue(t *testing.T) {
	r := start(t)
	r.connected("sound-desk")
	h := r.hand("scope-console")
	h.word("sound-desk:channel/5/level", "-10 dB")
	before := len(r.Bench.StandIn("mixer").View().Recent)
	began := time.Now()
	for range 200 {
		h.do("dial2", "turn", 0.1)
	}
	took := time.Since(began)
	h.word("sound-desk:channel/5/level", "10 dB") // the end of the fader's way
	sent := len(r.Bench.StandIn("mixer").View().Recent) - before
	if most := int(took/(10*time.Millisecond)) + 12; sent > most {
		t.Errorf("%d messages left for 200 turns in %v, wanted at most %d", sent, took, most)
	}
}

func TestAJogAddsUpAndPlaysNothingBack(t *testing.T) {
	r := start(t)
	r.connected("replay-player")
	h := r.hand("scope-console")
	r.must(202, "PUT", "/api/v1/controllers/scope-console/page", map[string]string{"page": "jog"}, nil)
	h.shows("dials", "jog")
	if got := h.pages().Zones["keys"]; !slices.Equal(got, []string{"scope-keys"}) {
		t.Errorf("the keys went along: %v", got)
	}
	h.do("dial1", "turn", 3)
	r.eventually("the player was told to jog by 3", func() bool {
		return slices.ContainsFunc(r.Bench.StandIn("player").View().Recent, func(line string) bool { return strings.HasSuffix(line, " 3") })
	})
}

func TestARibbonIsSwipedAndSlidOffTouchesAreCancelled(t *testing.T) {
	r := start(t).ready()
	r.must(201, "POST", "/api/v1/sheets", map[string]any{"sheet": "synaptor.controller/1", "type": "own.ribbon", "title": "A ribbon", "groups": []map[string]any{
		{"id": "ribbon", "kind": "ribbon", "zone": "keys", "columns": 1, "rows": 1, "x": 0, "y": 0, "width": 4},
		{"id": "touch", "kind": "touch", "zone": "keys", "columns": 2, "rows": 1, "x": 0, "y": 1}}}, nil)
	r.adds("POST", "/api/v1/controllers", map[string]string{"name": "Lectern", "layout": "own.ribbon"})
	var home string
	for id, p := range r.pages("meteor-night") {
		if p.Layout == "own.ribbon" {
			home = id
		}
	}
	put := func(control, gesture, device, action string, params map[string]string) {
		t.Helper()
		r.must(201, "PUT", "/api/v1/pages/"+home+"/controls/"+control, map[string]any{"device": device, "action": action, "params": params, "gesture": gesture}, nil)
	}
	put("ribbon1", "swipe-right", "dome-switcher", "keyer-on", map[string]string{"keyer": "1"})
	put("ribbon1", "swipe-left", "dome-switcher", "keyer-off", map[string]string{"keyer": "1"})
	h := r.hand("lectern")
	h.do("ribbon1", "swipe", 1)
	h.word("dome-switcher:keyer/1/on", "on")
	h.do("ribbon1", "swipe", -1)
	h.word("dome-switcher:keyer/1/on", "off")

	// A risky action on a touch key waits for the lift, and sliding off cancels it.
	put("touch1", "", "stream-pc", "stream-start", nil)
	put("touch2", "", "dome-switcher", "keyer-on", map[string]string{"keyer": "2"})
	var path struct {
		Gestures []struct{ UntilRelease bool }
	}
	r.must(200, "GET", "/api/v1/pages/"+home+"/controls/touch1/path", nil, &path)
	if !path.Gestures[0].UntilRelease {
		t.Fatal("starting the stream does not wait for the lift")
	}
	r.connected("stream-pc")
	h.do("touch1", "down", 0)
	h.do("touch1", "cancel", 0)
	h.do("touch2", "down", 0)
	h.do("touch2", "cancel", 0)
	h.word("dome-switcher:keyer/2/on", "on") // what fires at once cannot be cancelled
	if got := r.made("touch1"); len(got) != 0 {
		t.Errorf("slid off, it made %v", got)
	}
	h.do("touch1", "down", 0)
	h.do("touch1", "up", 0)
	h.word("stream-pc:stream/on", "on")
	// A link that breaks while it is down fires nothing either.
	r.must(200, "PUT", "/api/v1/mappings/"+r.pages("")[home].Controls["touch2"], map[string]any{"rev": r.rev(r.pages("")[home].Controls["touch2"]), "name": "", "face": map[string]any{}, "fires": "lift"}, nil)
	r.must(200, "GET", "/api/v1/pages/"+home+"/controls/touch2/path", nil, &path)
	if !path.Gestures[0].UntilRelease {
		t.Error("told to, it does not wait for the lift")
	}
	before := len(r.made("touch2"))
	h.do("touch2", "down", 0)
	h.close()
	l := r.follow("controllers")
	defer l.close()
	r.makes("touch1", "press")
	if got := r.made("touch2"); len(got) != before {
		t.Errorf("a lost link made %v", got)
	}
}

// TestAPanelThatVanishesHoldsNothing: nobody closed its socket, it only says nothing more.
func TestAPanelThatVanishesHoldsNothing(t *testing.T) {
	r := start(t).ready()
	r.give("a4", "press", "keyer-on", map[string]string{"keyer": "2"})
	r.give("a4", "release", "keyer-off", map[string]string{"keyer": "2"})
	h := r.hand("producer-grid")
	h.do("a4", "down", 0)
	h.word("dome-switcher:keyer/2/on", "on")
	h.cable.dead.Store(true) // it answers no heartbeat
	began := time.Now()
	r.eventually("what it held is let go", func() bool { return r.reading("keyer/2/on").Word == "off" })
	if after := time.Since(began); after > 8*time.Second {
		t.Errorf("it took %v", after) // 15 s before there was a heartbeat
	}
}

// TestTheNetworkHoldsWithDownAndLetsGoWithUp, and what is held by a guard fires for it too.
func TestTheNetworkHoldsWithDownAndLetsGoWithUp(t *testing.T) {
	r := start(t).ready()
	r.give("c1", "release", "keyer-off", map[string]string{"keyer": "2"})
	post := func(gesture string) string {
		var c struct{ ID string }
		r.must(202, "POST", "/api/v1/input/producer-grid/c1/"+gesture, nil, &c)
		return c.ID
	}
	r.entry(post("down"), journal.Confirmed)
	r.entry(post("up"), journal.Confirmed)
	for _, m := range r.doc().Mappings {
		if m.ID == "cut-c1" {
			guard := map[string]any{"kind": "hold", "ms": 300}
			r.must(200, "PUT", "/api/v1/mappings/cut-c1", map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{}, "guard": guard}, nil)
		}
	}
	if e := r.entry(post("press"), journal.Refused); !strings.Contains(e.Reason, "Send down, and up after") {
		t.Errorf("a press of what has to be held: %s", e.Reason)
	}
	r.entry(post("down"), journal.Confirmed) // nothing but time makes a hold
	post("up")
	r.makes("c1", "press", "release", "press", "press", "release")
}

// TestNoDetentIsLostOnASlowDevice: a dial that moves something by so much starts from where it is going.
func TestNoDetentIsLostOnASlowDevice(t *testing.T) {
	r := start(t).ready()
	r.connected("dome-camera")
	r.must(204, "PUT", "/api/v1/bench/camera/faults", faults.Faults{LatencyMs: 80}, nil)
	var made struct{ ID string }
	r.must(201, "POST", "/api/v1/pages", map[string]any{"name": "Look", "profile": "meteor-night", "layout": "console-3x3", "zone": "dials"}, &made)
	r.must(201, "PUT", "/api/v1/pages/"+made.ID+"/controls/dial1", map[string]any{"device": "dome-camera", "action": "brightness-by", "gesture": "turn"}, nil)
	h := r.hand("scope-console")
	h.word("dome-camera:brightness", "50 %")
	for range 30 {
		r.must(202, "POST", "/api/v1/input/scope-console/dial1/turn", map[string]any{"value": 1, "page": made.ID}, nil)
	}
	h.word("dome-camera:brightness", "80 %")
}

// TestATalkOnASlowIntercomIsOpenedAndClosed, as the intercom itself has it.
func TestATalkOnASlowIntercomIsOpenedAndClosed(t *testing.T) {
	r := start(t).ready()
	r.connected("talkback")
	r.must(204, "PUT", "/api/v1/bench/intercom/faults", faults.Faults{LatencyMs: 300}, nil)
	h := r.hand("treadle")
	for held := 0; held < 6; {
		// What was refused since the link was late, on a machine that is busy, says nothing of the gesture.
		began, late := time.Now(), false
		until := func(what string, ok func() bool) {
			t.Helper()
			r.eventually(what, func() bool {
				late = late || slices.ContainsFunc(r.lost(began), func(e journal.Entry) bool { return e.Control == "pedal2" })
				return late || ok()
			})
		}
		h.do("pedal2", "down", 0)
		until("the line is open at the intercom", func() bool { return r.atStandIn("intercom", "/line/1/talk") == true })
		down := time.Now()
		r.eventually("it was held for longer than a tap", func() bool { return time.Since(down) > 350*time.Millisecond })
		h.do("pedal2", "up", 0)
		until("the line is closed at the intercom", func() bool { return r.atStandIn("intercom", "/line/1/talk") == false })
		if !late {
			held++
			continue
		}
		r.connected("talkback")
		r.operateOn("intercom", "/line/1/talk", false)
		r.eventually("it is known to be closed", func() bool { return r.readingOf("talkback", "line/1/talk").Word == "off" })
	}
}

// lost lists what was not done, of late, since a link was lost.
func (r *rig) lost(since time.Time) (out []journal.Entry) {
	for _, e := range r.byHand() {
		if e.At.After(since) && (e.Outcome == journal.Refused || e.Outcome == journal.Unconfirmed) {
			out = append(out, e)
		}
	}
	return out
}

// lately is what the journal has of the last presses, the newest first, for a test that fails.
func (r *rig) lately() string {
	r.Helper()
	var rows []journal.Entry
	r.must(200, "GET", "/api/v1/journal", nil, &rows)
	var out []string
	for _, e := range rows[:min(8, len(rows))] {
		out = append(out, fmt.Sprintf("%s %s %s %s %s %s %s", e.At.Format("05.000"), e.Control, e.Gesture, e.Via, e.Title, e.Outcome, e.Reason))
	}
	return strings.Join(out, "; ")
}
