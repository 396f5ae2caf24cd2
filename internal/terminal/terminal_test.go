package terminal

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/wire"
)

// drawn is a terminal of a small layout, whose other end is the test: what was said is read from said.
func drawn(t *testing.T) (term *Terminal, screen *bytes.Buffer, tell func(m any), said func() string) {
	t.Helper()
	layout := &device.ControllerSheet{Type: "small", Title: "Small", Zone: "keys", Grid: &device.Grid{Columns: 3, Rows: 2, Pictures: true},
		Groups: []device.Group{{ID: "dial", Kind: "dial", Zone: "keys", Columns: 1, Rows: 1, X: 3.2}, {ID: "fader", Kind: "slider", Zone: "keys", Columns: 1, Rows: 1, Width: 2, X: 0, Y: 2.2}}}
	screen = &bytes.Buffer{}
	term = New(layout, "t-1", screen, 80, 24)
	near, far := net.Pipe()
	t.Cleanup(func() { _ = near.Close() })
	go func() { _ = term.Board.Serve(far) }()
	lines := make(chan string, 100)
	go func() {
		for s := bufio.NewScanner(near); s.Scan(); {
			lines <- s.Text()
		}
	}()
	tell = func(m any) {
		t.Helper()
		raw, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := near.Write(append(raw, '\n')); err != nil {
			t.Fatal(err)
		}
	}
	said = func() string {
		t.Helper()
		select {
		case l := <-lines:
			var m struct {
				Type, Control string
				Amount        float64
				Seq           int64
			}
			if err := json.Unmarshal([]byte(l), &m); err != nil {
				t.Fatal(err)
			}
			text := strings.TrimSpace(m.Type + " " + m.Control)
			if m.Amount != 0 {
				text += fmt.Sprintf(" %.2g", m.Amount)
			}
			return text
		case <-time.After(10 * time.Second):
			t.Fatal("it says nothing")
		}
		return ""
	}
	tell(wire.Heartbeat{Type: wire.TypeBeat})
	if got := said(); got != "hello" {
		t.Fatalf("first it says %s", got)
	}
	tell(wire.Welcome{Type: wire.TypeWelcome})
	return term, screen, tell, said
}

func TestTheKeyboardAndTheMousePressAndTurn(t *testing.T) {
	term, _, _, said := drawn(t)
	x, y, _, _ := term.place(term.controls[4])
	dx, dy, _, _ := term.place(term.controls[6])
	fx, fy, w, _ := term.place(term.controls[7])
	mouse := func(button, x, y int, end string) string {
		return fmt.Sprintf("\x1b[<%d;%d;%d%s", button, x+1, y+1, end)
	}
	for keys, want := range map[string][]string{
		"1":                     {"down a1", "up a1"},
		"6":                     {"down c2", "up c2"},
		"\x1b[A\x1bOP\x1b[<0;1": nil, // an arrow, a function key, a sequence that is cut off
		mouse(0, x, y, "M") + mouse(0, 70, 20, "m"):     {"down b2", "up b2"},
		mouse(64, dx, dy, "M") + mouse(65, dx, dy, "M"): {"turn dial1 1", "turn dial1 -1"},
		mouse(0, fx+w-1, fy, "M"):                       {"slide fader1 1"},
		mouse(0, 79, 22, "M"):                           nil,
		"9":                                             nil, // a letter without a control
	} {
		term.Take(strings.NewReader(keys + "\x03 and no more"))
		for _, w := range want {
			if got := said(); got != w {
				t.Errorf("%q says %q, want %q", keys, got, w)
			}
		}
	}
}

func TestShiftHoldsAKeyUntilItIsPressedAgain(t *testing.T) {
	layout := &device.ControllerSheet{Type: "large", Title: "Large", Zone: "keys", Grid: &device.Grid{Columns: 6, Rows: 4}}
	term := New(layout, "t-2", io.Discard, 120, 40)
	near, far := net.Pipe()
	t.Cleanup(func() { _ = near.Close() })
	go func() { _ = term.Board.Serve(far) }()
	lines := bufio.NewScanner(near)
	if _, err := near.Write([]byte(`{"type":"welcome"}` + "\n")); err != nil {
		t.Fatal(err)
	}
	for limit := time.Now().Add(10 * time.Second); !term.Board.State().Welcomed; time.Sleep(time.Millisecond) {
		if time.Now().After(limit) {
			t.Fatal("it is not welcomed")
		}
	}
	go term.Take(strings.NewReader("QQ"))
	var got []string
	for len(got) < 2 && lines.Scan() {
		var m struct{ Type, Control string }
		if err := json.Unmarshal(lines.Bytes(), &m); err != nil {
			t.Fatal(err)
		}
		got = append(got, m.Type+" "+m.Control)
	}
	if !slices.Equal(got, []string{"down e2", "up e2"}) {
		t.Errorf("it says %v", got)
	}
}

func TestWhatKeysShowIsDrawnInTheirColours(t *testing.T) {
	term, screen, tell, _ := drawn(t)
	tell(wire.Face{Type: wire.TypeFace, Control: "a1", Background: "#242c3a", Colour: "#ff3b3b", Shapes: []string{"on-air"}, Cells: []string{"Presenter", "cam"}})
	tell(wire.Page{Type: wire.TypePage, Zone: "keys", Name: "Cut"})
	tell(wire.Brightness{Type: wire.TypeBrightness, Level: 0.5})
	for limit := time.Now().Add(10 * time.Second); term.Board.State().Level != 0.5; time.Sleep(time.Millisecond) {
		if time.Now().After(limit) {
			t.Fatal("it is not told")
		}
	}
	term.Say("Synaptor is there.")
	term.Draw()
	out := screen.String()
	for _, want := range []string{" Presenter", " cam", "1 on air", "Cut", "Synaptor is there.", "\x1b[48;2;18;22;29m", "\x1b[48;2;127;29;29m"} {
		if !strings.Contains(out, want) {
			t.Errorf("it does not draw %q", want)
		}
	}
	if err := New(term.layout, "x", io.Discard, 5, 2).Board.Do("down", "a1", 0); err == nil {
		t.Error("a press without a line is one")
	}
}
