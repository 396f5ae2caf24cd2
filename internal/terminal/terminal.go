// Package terminal is a controller that is drawn in a terminal, in 24-bit colour, and pressed by keyboard and mouse: to try the wire
// without hardware. Begin with Run.
package terminal

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"golang.org/x/term"

	"synaptor/internal/board"
	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/wire"
)

// letters are the keys of the keyboard that press the controls, row by row.
const letters = "1234567890qwertyuiopasdfghjklzxcvbnm"

// Terminal is a controller in a terminal.
type Terminal struct {
	Board    *board.Board
	layout   *device.ControllerSheet
	controls []device.Control
	out      io.Writer
	redraw   chan struct{}

	mu   sync.Mutex
	said string
	down map[string]bool
	w, h int // of a key, in characters
}

// New makes a controller of a layout for a terminal so many characters wide and high.
func New(layout *device.ControllerSheet, serial string, out io.Writer, columns, rows int) *Terminal {
	t := &Terminal{layout: layout, controls: layout.Controls(), out: out, redraw: make(chan struct{}, 1), down: map[string]bool{}}
	width, height := device.Extent(t.controls)
	t.w = min(20, max(6, int(float64(columns)/max(1, width))))
	t.h = min(8, max(3, int(float64(rows-3)/max(1, height))))
	shows := map[string]wire.Shows{}
	for _, c := range t.controls {
		shows[c.ID] = wire.Shows{Any: true, Columns: max(1, int(c.Width*float64(t.w))-3), Rows: max(1, int(c.Height*float64(t.h))-2)}
	}
	t.Board = board.New(wire.Controller{Serial: serial, Name: "Terminal", Layout: layout.Type, Shows: shows}, t.wake)
	return t
}

// wake has it drawn again.
func (t *Terminal) wake() {
	select {
	case t.redraw <- struct{}{}:
	default:
	}
}

// Say shows a sentence below the controller.
func (t *Terminal) Say(text string) {
	t.mu.Lock()
	t.said = text
	t.mu.Unlock()
	t.wake()
}

// Run draws it and takes keys and the mouse until the context ends, or somebody presses Ctrl+C.
func (t *Terminal) Run(ctx context.Context, in *os.File) error {
	old, err := term.MakeRaw(int(in.Fd()))
	if err != nil {
		return fmt.Errorf("this is no terminal: %w", err)
	}
	fmt.Fprint(t.out, "\x1b[?1049h\x1b[?25l\x1b[?1002h\x1b[?1006h")
	defer func() {
		fmt.Fprint(t.out, "\x1b[?1006l\x1b[?1002l\x1b[?25h\x1b[?1049l")
		_ = term.Restore(int(in.Fd()), old) // what is left of it is the shell's to put right
	}()
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	go func() {
		defer cancel()
		t.Take(in)
	}()
	for {
		t.Draw()
		select {
		case <-ctx.Done():
			return nil
		case <-t.redraw:
		case <-time.After(time.Second):
		}
	}
}

// Take takes what comes from the keyboard and the mouse (SGR, as of xterm) until it ends, or Ctrl+C comes.
func (t *Terminal) Take(in io.Reader) {
	r := bufio.NewReader(in)
	for {
		b, err := r.ReadByte()
		if err != nil || b == 3 {
			return
		}
		if b == 0x1b {
			t.escape(r)
			continue
		}
		i := strings.IndexByte(letters, b|0x20)
		if b < 'A' { // digits have no capitals
			i = strings.IndexByte(letters, b)
		}
		if i < 0 || i >= len(t.controls) {
			continue
		}
		control := t.controls[i].ID
		if b >= 'A' && b <= 'Z' { // it is held until it is pressed again
			t.press(control, !t.down[control])
			continue
		}
		t.press(control, true)
		t.press(control, false)
	}
}

// escape takes a sequence that begins with Escape: that of the mouse says button, column and row.
func (t *Terminal) escape(r *bufio.Reader) {
	var text strings.Builder
	for range 32 {
		b, err := r.ReadByte()
		if err != nil {
			return
		}
		text.WriteByte(b)
		if b >= '@' && b != '[' {
			break
		}
	}
	rest, mouse := strings.CutPrefix(text.String(), "[<")
	if !mouse {
		return
	}
	parts := strings.Split(strings.TrimRight(rest, "Mm"), ";")
	if len(parts) != 3 {
		return
	}
	var n [3]int
	for i, p := range parts {
		var err error
		if n[i], err = strconv.Atoi(p); err != nil {
			return
		}
	}
	control, ok := t.at(n[1]-1, n[2]-1)
	switch {
	case n[0] == 64 || n[0] == 65:
		if ok {
			t.do(wire.TypeTurn, control.ID, float64(1-2*(n[0]-64)))
		}
	case strings.HasSuffix(rest, "m"):
		for _, c := range t.held() {
			t.press(c, false)
		}
	case n[0] == 0 && ok && control.Kind == "slider":
		x, _, w, _ := t.place(control)
		t.do(wire.TypeSlide, control.ID, min(1, max(0, float64(n[1]-1-x)/float64(max(1, w-1)))))
	case n[0] == 0 && ok:
		t.press(control.ID, true)
	}
}

func (t *Terminal) held() (all []string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for c, down := range t.down {
		if down {
			all = append(all, c)
		}
	}
	slices.Sort(all)
	return all
}

// press presses a control, or lets it go.
func (t *Terminal) press(control string, down bool) {
	t.mu.Lock()
	same := t.down[control] == down
	t.down[control] = down
	t.mu.Unlock()
	if same {
		return
	}
	kind := wire.TypeUp
	if down {
		kind = wire.TypeDown
	}
	t.do(kind, control, 0)
}

func (t *Terminal) do(kind, control string, amount float64) {
	if err := t.Board.Do(kind, control, amount); err != nil {
		t.Say("Not connected: this did nothing.")
	}
	t.wake()
}

// place is where a control is drawn, in characters.
func (t *Terminal) place(c device.Control) (x, y, w, h int) {
	return int(c.X * float64(t.w)), int(c.Y * float64(t.h)), max(4, int(c.Width*float64(t.w))), max(2, int(c.Height*float64(t.h)))
}

// at is the control at a character.
func (t *Terminal) at(x, y int) (device.Control, bool) {
	for _, c := range t.controls {
		if cx, cy, w, h := t.place(c); x >= cx && x < cx+w && y >= cy && y < cy+h {
			return c, true
		}
	}
	return device.Control{}, false
}

// Draw draws everything.
func (t *Terminal) Draw() {
	t.mu.Lock()
	defer t.mu.Unlock()
	var b strings.Builder
	b.WriteString("\x1b[H\x1b[2J")
	state := t.Board.State()
	bottom := 0
	for i, c := range t.controls {
		key := ""
		if i < len(letters) {
			key = letters[i : i+1]
		}
		_, y, _, h := t.place(c)
		bottom = max(bottom, y+h)
		t.control(&b, c, key, state)
	}
	line := func(text string) {
		bottom++
		fmt.Fprintf(&b, "\x1b[%d;1H\x1b[0m%s", bottom, text)
	}
	var pages []string
	for _, zone := range t.layout.Zones() {
		if p := state.Pages[zone]; p != "" {
			pages = append(pages, p)
		}
	}
	line(strings.Join(append(pages, state.Text, t.said), "  "))
	line("Its letter presses a key, Shift with it holds it, the mouse does both, the wheel turns. Ctrl+C ends it.")
	fmt.Fprint(t.out, b.String())
}

// marks are what a lit role is drawn as, on the last row of a key; the one that matters most first.
var marks = []struct{ shape, colour, text string }{
	{"refused", "#ffffff", "refused"}, {face.OnAir, face.RoleColours[face.OnAir], "on air"}, {"pending-on-air", "#8a2a2a", "…"}, {face.Armed, face.RoleColours[face.Armed], "armed"}, {face.Preview, face.RoleColours[face.Preview], "preview"},
	{"pending-preview", "#1f6a33", "…"}, {face.Running, face.RoleColours[face.Running], "running"}, {face.Set, face.RoleColours[face.Set], "set"}, {"pending-set", "#777777", "…"}, {"unknown", "#555555", "?"}, {"away", "#555555", "away"},
}

// control draws one control.
func (t *Terminal) control(b *strings.Builder, c device.Control, key string, state board.State) {
	x, y, w, h := t.place(c)
	w-- // a gap
	f := state.Shown[c.ID].Face
	ground := f.Background
	if ground == "" {
		ground = "#1d2126"
	}
	if t.down[c.ID] {
		ground = "#5a6570"
	}
	light := state.Level
	if state.Dimmed {
		light *= 0.3
	}
	row := func(i int, text, fg, bg string) {
		if r := []rune(text); len(r) > w {
			text = string(r[:w])
		}
		fmt.Fprintf(b, "\x1b[%d;%dH%s%s%-*s", y+i+1, x+1, colour(38, fg, light), colour(48, bg, light), w, text)
	}
	for i := range h - 1 {
		text := ""
		if i < len(f.Cells) {
			text = " " + f.Cells[i]
		}
		row(i, text, "#f4f4f4", ground)
	}
	last, fg, bg := " "+key, "#8a949e", ground
	for _, m := range marks {
		if slices.Contains(f.Shapes, m.shape) {
			last, fg, bg = fmt.Sprintf(" %s %s", key, m.text), "#000000", m.colour
			break
		}
	}
	row(h-1, last, fg, bg)
}

// colour is the sequence that sets a colour: 38 that of text, 48 that of the ground.
func colour(which int, hex string, light float64) string {
	if len(hex) != 7 {
		hex = "#000000"
	}
	n, _ := strconv.ParseUint(hex[1:], 16, 32) // what is no colour is black
	at := func(shift int) int { return int(float64(n>>shift&255) * light) }
	return fmt.Sprintf("\x1b[%d;2;%d;%d;%dm", which, at(16), at(8), at(0))
}
