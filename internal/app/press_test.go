package app_test

import (
	"net"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/faults"
	"synaptor/internal/core/device"
	"synaptor/internal/journal"
	"synaptor/internal/link/osc"
)

func TestAPressCutsAndTheKeyTurnsRedBecauseTheSwitcherSaidSo(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	l.until("a1 is on air", func() bool { return l.face("a1").is("on-air") })

	e := r.entry(r.press("b1"), journal.Confirmed)
	if e.Title != "Put Telescope feed on program" || e.Device != "Dome switcher" || e.LatencyUs <= 0 {
		t.Errorf("the journal has %+v", e)
	}
	l.until("b1 is on air and a1 is not", func() bool { return l.face("b1").is("on-air") && !l.face("a1").is("on-air") })
	r.eventually("the trace is complete", func() bool {
		var stages []string
		for _, s := range r.entry(e.ID).Steps {
			stages = append(stages, s.Stage)
		}
		at := 0
		for _, want := range []string{"input", "decision", "dispatch", "wire", "confirmation", "face"} {
			i := slices.Index(stages[at:], want)
			if i < 0 {
				return false
			}
			at += i
		}
		return true
	})
	if got := r.reading("mix/1/program"); got.Value != 2.0 || got.Word != "Telescope feed" || got.Quality != "confirmed" {
		t.Errorf("the reading is %+v", got)
	}
}

func TestAFaceIsPendingUntilTheSwitcherConfirms(t *testing.T) {
	r := start(t).ready()
	r.fault(faults.Faults{LatencyMs: 300})
	l := r.follow("page:cut")
	id := r.press("c1")
	l.until("c1 is pending", func() bool {
		return slices.Equal(l.face("c1").Pending, []string{"on-air"}) && !l.face("c1").is("on-air")
	})
	l.until("what is to go off air is still on it", func() bool {
		return l.face("a1").is("on-air") && slices.Equal(l.face("a1").Pending, []string{"on-air"})
	})
	l.until("c1 is on air", func() bool { return l.face("c1").is("on-air") && len(l.face("c1").Pending) == 0 })
	r.entry(id, journal.Confirmed)
}

func TestTheFrontPanelMovesTheKeysAndRenamesThem(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut", "readings")
	r.operate("/mix/1/program", 4)
	l.until("d1 is on air", func() bool { return l.face("d1").is("on-air") })
	r.operate("/input/4/name", "Door cam")
	l.until("the keys follow the name", func() bool { return l.face("d1").Label == "Door cam" && l.face("d2").Label == "Door cam" })
	l.until("the reading is known by the new name", func() bool {
		return strings.Contains(string(l.values["reading/dome-switcher:mix/1/program"]), "Door cam")
	})
	r.operate("/input/4/gone", 1)
	r.eventually("the input is gone", func() bool { return r.reading("input/4/gone").Value == true })
	if e := r.entry(r.press("d2"), journal.Refused); !strings.Contains(e.Reason, "no longer has input 4") {
		t.Errorf("the reason is %q", e.Reason)
	}
}

func TestAnAutoIsOnAirOnBothSidesWhileItRuns(t *testing.T) {
	r := start(t).ready()
	r.operate("/mix/1/transition/frames", 12)
	l := r.follow("page:cut")
	id := r.press("b3")
	l.until("both are on air", func() bool {
		return l.face("a1").is("on-air") && l.face("b1").is("on-air") && l.face("b3").is("running")
	})
	if e := r.entry(r.press("a3"), journal.Refused); !strings.Contains(e.Reason, "transition is under way") {
		t.Errorf("a cut meanwhile: %q", e.Reason)
	}
	l.until("it has ended", func() bool {
		return !l.face("a1").is("on-air") && l.face("b1").is("on-air") && !l.face("b3").is("running")
	})
	if e := r.entry(id, journal.Confirmed); e.LatencyUs < 400_000 {
		t.Errorf("confirmed after %d µs, before its 12 frames", e.LatencyUs)
	}
}

func TestEveryWayInReachesTheSameKey(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")

	c, err := net.Dial("udp", r.OSCAddr)
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	for _, address := range []string{"/synaptor/producer-grid/z9/press", "/elsewhere", "/synaptor/producer-grid/c1/press"} {
		p, err := osc.Encode(device.Message{Address: address})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := c.Write(p); err != nil {
			t.Fatal(err)
		}
	}
	l.until("OSC put c1 on air", func() bool { return l.face("c1").is("on-air") })

	l.touch("d1", "down", 1)
	l.until("a panel put d1 on air", func() bool { return l.face("d1").is("on-air") })
	l.touch("d1", "up", 2)
	r.entry(r.press("e1"), journal.Confirmed)
	l.until("HTTP put e1 on air", func() bool { return l.face("e1").is("on-air") })
	resp, err := http.Post(r.base+"/api/v1/input/producer-grid/f1/press", "application/json", nil)
	if err != nil || resp.StatusCode != http.StatusAccepted {
		t.Fatalf("a program's press: %+v (%v)", resp, err)
	}
	_ = resp.Body.Close()
	l.until("a program put f1 on air", func() bool { return l.face("f1").is("on-air") })

	var via []string
	for _, e := range r.byHand() {
		who, _, _ := strings.Cut(e.Actor, " ")
		via = append(via, e.Via+" "+who)
	}
	if !slices.Equal(via, []string{"http Program", "http Browser", "panel Panel", "osc OSC"}) {
		t.Errorf("the journal says they came by %v", via)
	}
}

func TestAPressOnWhatIsAlreadySoIsConfirmedByAsking(t *testing.T) {
	r := start(t).ready()
	e := r.entry(r.press("a1"), journal.Confirmed)
	if e.LatencyUs <= 0 {
		t.Errorf("%+v", e)
	}
	var path struct {
		Drives []struct {
			Latency struct{ Count int }
		}
	}
	r.must(200, "GET", "/api/v1/pages/cut/controls/a1/path", nil, &path)
	if path.Drives[0].Latency.Count != 0 {
		t.Error("an answer to a question was taken for the latency of a cut")
	}
}

func TestASwitcherThatStopsWhileKeysArePressed(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut", "devices")
	l.until("a1 is on air", func() bool { return l.face("a1").is("on-air") })
	r.fault(faults.Faults{Cut: true})
	l.until("the faces are unknown and what was on air stays so", func() bool {
		return l.face("a1").Unknown && l.face("a1").is("on-air") && l.face("b2").Unknown && !l.face("b2").is("preview") && l.face("a3").Away
	})

	e := r.entry(r.press("c1"), journal.Refused)
	if !strings.Contains(e.Reason, "Dome switcher does not answer at 127.0.0.1") || !strings.Contains(e.Reason, "Nothing was sent") {
		t.Errorf("the reason is %q", e.Reason)
	}
	l.until("the key says so", func() bool { return strings.Contains(l.face("c1").Refusal, "does not answer") })

	r.operate("/mix/1/program", 6) // somebody at the device
	back := time.Now()
	r.fault(faults.Faults{})
	l.until("the keys are right again", func() bool { return l.face("f1").is("on-air") && !l.face("f1").Unknown && !l.face("a1").is("on-air") })
	t.Logf("right %v after the return", time.Since(back).Round(time.Millisecond))
	if got := r.Bench.Switcher.View(); got.Values["/mix/1/program"] != 6 || slices.ContainsFunc(got.Recent, func(m string) bool { return strings.Contains(m, "program 3") }) {
		t.Errorf("the press of the time without a link was sent: %v", got.Recent)
	}
	l.until("the refusal is gone", func() bool { return l.face("c1").Refusal == "" })
}

func TestASilentSwitcherLeavesACommandUnconfirmed(t *testing.T) {
	r := start(t).ready()
	l := r.follow("devices")
	r.fault(faults.Faults{Silent: true})
	e := r.entry(r.press("c1"), journal.Unconfirmed)
	if !strings.Contains(e.Reason, "link was lost before") {
		t.Errorf("the reason is %q", e.Reason)
	}
	l.until("the link is down", func() bool { return l.device("dome-switcher")["phase"] == "down" })
	r.fault(faults.Faults{})
	l.until("the link is up", func() bool { return l.device("dome-switcher")["phase"] == "up" })
	if got := r.reading("mix/1/program"); got.Value != 1.0 {
		t.Errorf("program is %v: what was given up arrived late", got.Value)
	}
}

func TestALostPanelLetsGoOfWhatItHeld(t *testing.T) {
	r := start(t).ready()
	watch := r.follow("page:cut")
	l := r.follow("page:cut")
	l.touch("c1", "down", 1)
	watch.until("c1 is on air", func() bool { return watch.face("c1").is("on-air") })
	r.operate("/mix/1/program", 1)
	watch.until("c1 is off air", func() bool { return !watch.face("c1").is("on-air") })
	l.close()
	// Held by nobody, the key takes a new press.
	other := r.follow("page:cut")
	seq := 0
	r.eventually("a new press is taken", func() bool {
		seq += 2
		other.touch("c1", "down", seq-1)
		other.touch("c1", "up", seq)
		return r.reading("mix/1/program").Value == 3.0
	})
}

func TestALiveClientIsToldWhatMadeNoSense(t *testing.T) {
	r := start(t).ready()
	l := r.follow("page:cut")
	if err := l.ws.Write(t.Context(), 1, []byte("{")); err != nil {
		t.Fatal(err)
	}
	l.touch("z9", "down", 1)
	l.send(map[string]any{"input": map[string]any{"controller": "producer-grid", "control": "a1", "edge": "sideways", "seq": 2}})
	l.send(map[string]any{"topics": make([]string, 501)})
	l.until("four things made no sense", func() bool { return len(l.errs) == 4 })
	l.touch("c1", "down", 3)
	l.until("the socket still works", func() bool { return l.face("c1").is("on-air") })
}
