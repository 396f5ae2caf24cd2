package app_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/journal"
	"synaptor/internal/wire"
)

// TestABridgeIsWelcomedShowsFacesAndPresses goes through the conversation: attached while it is connected, its keys show the page as
// pictures, colours and text; a press is confirmed and shows.
func TestABridgeIsWelcomedShowsFacesAndPresses(t *testing.T) {
	r := start(t).ready()
	b := r.wire()
	b.say(hello(eight("8K-1")))
	w := b.hears("welcome", nil)
	if one := w["controllers"].([]any)[0].(map[string]any); one["controller"] != nil || !strings.Contains(one["reason"].(string), "Rig, Controllers") || w["version"] != 2.0 || w["resume"] == "" {
		t.Fatalf("the welcome is %v", w)
	}
	b.hears("face", func(m map[string]any) bool { return m["lost"] == true })
	link := r.attach("8K-1")
	if one := b.hears("controllers", nil)["controllers"].([]any)[0].(map[string]any); one["controller"] != "producer-grid" || one["reason"] != nil {
		t.Errorf("once attached it is %v", one)
	}
	b.hears("page", func(m map[string]any) bool { return m["name"] == "Cut" })
	face := b.hears("face", shaped("a1", "on-air"))
	if face["picture"] != "png" || len(face["hash"].(string)) != 64 || face["words"] == "" || len(face["lines"].([]any)) == 0 {
		t.Errorf("a1 shows %v", face)
	}
	for found := false; !found; {
		hash, picture, err := wire.ReadFrame(<-b.shots)
		if err != nil {
			t.Fatal(err)
		}
		if found = hash == face["hash"]; found {
			if img, err := png.Decode(bytes.NewReader(picture)); err != nil || img.Bounds() != image.Rect(0, 0, 48, 48) {
				t.Errorf("the picture: %v, %v", img.Bounds(), err)
			}
		}
	}
	if m := b.hears("face", of("d3")); m["picture"] != nil || m["colour"] == nil {
		t.Errorf("a lamp shows %v", m)
	}
	b.hears("face", func(m map[string]any) bool { return of("e3")(m) && fmt.Sprint(m["cells"]) == "[Caption]" })
	b.input("down", "c1", 0)
	b.hears("face", func(m map[string]any) bool {
		return shaped("c1", "on-air")(m) && !strings.Contains(fmt.Sprint(m["shapes"]), "pending")
	})
	b.input("up", "c1", 0)
	r.eventually("the journal has the press", func() bool {
		rows := r.byHand()
		return len(rows) > 0 && rows[0].Via == "wire" && rows[0].Actor == "Bridge Tests" && rows[0].Outcome == journal.Confirmed
	})
	r.eventually("the board has what was touched last", func() bool { // the release comes after the press that the journal has
		row := r.board("8K-1")
		return row.Here && row.Link == link && row.Last != nil && row.Last.Edge == "up" && row.Last.To == "c1" && row.Via == "Tests"
	})
	b.say(wire.Battery{Type: "battery", Controller: "8K-1", Level: 0.25})
	b.say(wire.Trouble{Type: "error", Controller: "8K-1", Text: "The third key sticks."})
	r.eventually("the battery and the trouble are told", func() bool {
		row := r.board("8K-1")
		return row.Battery != nil && *row.Battery == 0.25 && row.Problem == "The third key sticks."
	})
	r.must(204, "PUT", "/api/v1/controllers/"+r.controller("producer-grid")+"/light", map[string]any{"brightness": 40, "dimAfterS": 0, "wakeActs": false}, nil)
	b.hears("brightness", func(m map[string]any) bool { return m["level"] == 0.4 })
	r.undo()
	b.hears("brightness", func(m map[string]any) bool { return m["level"] == 1.0 })
	r.must(204, "PUT", "/api/v1/quiet", map[string]any{"on": true}, nil)
	b.hears("text", func(m map[string]any) bool { return strings.Contains(m["text"].(string), "quiet") })
	b.input("down", "a1", 0)
	b.hears("error", func(m map[string]any) bool { return strings.Contains(m["text"].(string), "quiet") })
	r.must(204, "PUT", "/api/v1/quiet", map[string]any{"on": false}, nil)
	b.hears("face", of("a1"))
	_ = b.ws.Close(websocket.StatusNormalClosure, "")
	r.eventually("it is away", func() bool { row := r.board("8K-1"); return !row.Here && row.Link == link })
}

// TestAPageTurnsAndAResumedBridgeGetsNoPictureTwice.
func TestAPageTurnsAndAResumedBridgeGetsNoPictureTwice(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	b := r.wire()
	b.say(hello(eight("8K-1")))
	resume := b.hears("welcome", nil)["resume"].(string)
	b.hears("face", shaped("a1", "on-air"))
	r.must(202, "PUT", "/api/v1/controllers/"+r.controller("producer-grid")+"/page", map[string]any{"page": "dome"}, nil)
	b.hears("page", func(m map[string]any) bool { return m["page"] == "dome" })
	b.hears("face", of("b1"))
	r.must(202, "PUT", "/api/v1/controllers/"+r.controller("producer-grid")+"/page", map[string]any{"page": "cut"}, nil)
	b.hears("face", shaped("a1", "on-air"))
	had := b.shown() // and acknowledged; what is answered after that was read after it
	b.say("{}")
	b.hears("error", nil)
	twice := map[string]bool{}
	for len(b.shots) > 0 {
		hash, _, _ := wire.ReadFrame(<-b.shots)
		if twice[hash] {
			t.Errorf("%s came twice", hash)
		}
		twice[hash] = true
	}
	if len(had) < 10 {
		t.Errorf("%d were shown", len(had))
	}
	again := r.wire()
	h := hello(eight("8K-1"))
	h.Resume = resume
	again.say(h)
	again.hears("welcome", nil)
	b.ends()
	again.hears("face", shaped("a1", "on-air"))
	for len(again.shots) > 0 {
		if hash, _, _ := wire.ReadFrame(<-again.shots); had[hash] {
			t.Errorf("%s came again", hash)
		}
	}
}

// TestWhatABridgeSaysWrongIsASentenceAndNothingStaysDown.
func TestWhatABridgeSaysWrongIsASentenceAndNothingStaysDown(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	for text, says := range map[string]string{
		`{"type":"hello","version":9,"who":true}`:  "versions 1 to 2",
		`{"type":"down","controller":"8K-1"}`:      "names its controller and control",
		`{"type":"hello","version":2,"bridge":""}`: "name of the bridge",
		`{"type":`:               "not a message",
		`{"type":"ack","seq":1}`: "is a hello",
		`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"x"}]}`: "layout",
	} {
		b := r.wire()
		b.say(text)
		if m := b.hears("refused", nil); !strings.Contains(m["text"].(string), says) || fmt.Sprint(m["versions"]) != "[1 2]" {
			t.Errorf("%s is answered %v", text, m)
		}
		b.ends()
	}
	b := r.wire()
	b.say(hello(eight("8K-1")))
	b.hears("face", shaped("a1", "on-air"))
	wrong := func(m any, says string) {
		t.Helper()
		b.say(m)
		b.hears("error", func(m map[string]any) bool { return strings.Contains(m["text"].(string), says) })
	}
	wrong(`{"type":"dance"}`, `no "dance"`)
	wrong(`half a mess`, "not a message")
	wrong(hello(), "already")
	wrong(wire.Input{Type: "down", Controller: "8K-1", Control: "z9", Seq: 1}, "no control")
	wrong(wire.Input{Type: "down", Controller: "nobody", Control: "a1", Seq: 2}, "carries no controller")
	wrong(wire.Input{Type: "slide", Controller: "8K-1", Control: "a1", Seq: 3, Amount: 3}, "from 0 to 1")
	wrong(wire.Input{Type: "down", Controller: "8K-1", Control: "a1", Seq: 1}, "came after")
	b.seq = 10
	// The future may say more: it is ignored.
	b.say(`{"type":"down","controller":"8K-1","control":"e1","seq":11,"colour":"blue"}`)
	b.hears("face", shaped("e1", "on-air"))
	b.say(strings.Repeat(" ", wire.MaxMessage+1))
	b.ends()
	r.eventually("nothing is held", func() bool { return !r.holding() })
}

// holding tells whether any control is held.
func (r *rig) holding() bool { return r.Engine.UnderWay() > 0 }

// TestTwoBridgesClaimOneSerialNumber: the first keeps it, the second hears who has it, and gets it when the first goes.
func TestTwoBridgesClaimOneSerialNumber(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	first := r.wire()
	first.say(hello(eight("8K-1")))
	first.hears("face", shaped("a1", "on-air"))
	second := r.wire()
	second.say(hello(eight("8K-1"), eight("8K-2")))
	if one := second.hears("welcome", nil)["controllers"].([]any)[0].(map[string]any); one["reason"] != "Another bridge, Tests, carries it." {
		t.Errorf("the second is %v", one)
	}
	_ = first.ws.CloseNow()
	second.hears("controllers", func(m map[string]any) bool {
		return m["controllers"].([]any)[0].(map[string]any)["controller"] == "producer-grid"
	})
	second.hears("face", shaped("a1", "on-air"))
}

// TestABridgeThatAcknowledgesNothingIsToldAndItsInputsGoOn, and one that floods is held back.
func TestABridgeThatAcknowledgesNothingIsToldAndItsInputsGoOn(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	b := r.wire()
	b.acks = false
	b.say(hello(eight("8K-1")))
	b.hears("error", func(m map[string]any) bool { return strings.Contains(m["text"].(string), "acknowledged") })
	if row := r.board("8K-1"); !strings.Contains(row.Problem, "acknowledged") {
		t.Errorf("the board is %+v", row)
	}
	b.input("down", "c1", 0)
	b.input("up", "c1", 0)
	r.eventually("the press is confirmed", func() bool {
		rows := r.byHand()
		return len(rows) > 0 && rows[0].Via == "wire" && rows[0].Outcome == journal.Confirmed
	})
	for range 3000 {
		b.input("turn", "a1", 1)
	}
	b.hears("error", func(m map[string]any) bool { return strings.Contains(m["text"].(string), "1000 inputs a second") })
	b.input("down", "d1", 0)
	b.say(wire.Ack{Type: "ack", Seq: 1 << 40})
	b.hears("face", of("a1"))
}

// TestTheFirstVersionIsServed: pictures are in the faces.
func TestTheFirstVersionIsServed(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	b := r.wire()
	h := hello(eight("8K-1"))
	h.Version = 1
	b.say(h)
	if m := b.hears("welcome", nil); m["version"] != 1.0 {
		t.Errorf("the welcome is %v", m)
	}
	if m := b.hears("face", shaped("a1", "on-air")); len(m["data"].(string)) < 100 {
		t.Errorf("a1 shows %v", m)
	}
	if len(b.shots) > 0 {
		t.Error("a binary message came")
	}
}

// TestADimmedControllerIsWokenByATouchThatDoesNothing.
func TestADimmedControllerIsWokenByATouchThatDoesNothing(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	grid := r.controller("producer-grid")
	r.must(204, "PUT", "/api/v1/controllers/"+grid+"/light", map[string]any{"brightness": 100, "dimAfterS": 1, "wakeActs": false}, nil)
	b := r.wire()
	b.say(hello(eight("8K-1")))
	b.hears("dim", func(m map[string]any) bool { return m["on"] == true })
	b.input("down", "c1", 0)
	b.input("up", "c1", 0)
	b.hears("dim", func(m map[string]any) bool { return m["on"] == false })
	if row := r.board("8K-1"); row.Last == nil || row.Last.To != "" || !strings.Contains(row.Last.Why, "woken") {
		t.Errorf("the last touch is %+v", row.Last)
	}
	b.input("down", "c1", 0)
	b.hears("face", shaped("c1", "on-air"))
}

// TestALivePictureIsOnAKeyOfABridge, and stands still where its device is slow.
func TestALivePictureIsOnAKeyOfABridge(t *testing.T) {
	r := start(t).ready()
	m := r.at("b1")
	r.must(200, "PUT", "/api/v1/mappings/"+m.ID, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"live": map[string]any{"device": "dome-switcher", "source": "input-2", "rate": 5}}}, nil)
	r.attach("8K-1")
	b := r.wire()
	b.say(hello(eight("8K-1")))
	seen := map[string]bool{}
	limit := time.After(patience)
	for len(seen) < 3 { // blank, then frames
		select {
		case m := <-b.said:
			if m["type"] == "face" && m["control"] == "b1" && m["lost"] == nil {
				seen[m["hash"].(string)] = true
			}
		case <-limit:
			t.Fatalf("%d pictures came", len(seen))
		}
	}
}
