package reflex

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"
)

// TestOfManyThatHoldTheLeastCounts for generated beginnings and ends: the least holds as long as any does, and the original returns with the last; what a
// hand has moved stays.
func TestOfManyThatHoldTheLeastCounts(t *testing.T) {
	r := rand.New(rand.NewPCG(19, 2))
	for round := range 300 {
		var h Holding
		original := float64(-r.IntN(20))
		now, by, moved := original, map[string]float64{}, false
		for range 60 {
			id := fmt.Sprint(r.IntN(4))
			if down, held := by[id]; held {
				to, changes, wasMoved := h.End(id, now, 0.01)
				if delete(by, id); wasMoved != moved {
					t.Fatalf("round %d: that a hand moved it is %v, want %v", round, wasMoved, moved)
				}
				if changes {
					now = to.(float64)
				}
				_ = down
			} else {
				by[id] = float64(1 + r.IntN(20))
				to, changes := h.Begin(id, nil, by[id], now, 0.01)
				if changes && moved {
					t.Fatalf("round %d: what a hand has moved is brought to %v", round, to)
				}
				if changes {
					now = to.(float64)
				}
			}
			want := original
			for _, down := range by {
				want = min(want, original-down)
			}
			if !moved && now != want {
				t.Fatalf("round %d: it is at %v, want %v, with %v", round, now, want, by)
			}
			if len(by) > 0 && r.IntN(40) == 0 {
				now, moved = 5, true
			}
			if len(by) == 0 {
				moved, original = false, now
			}
		}
	}
}

// TestWhatIsNoNumberIsHeldByTheLast that asks for it.
func TestWhatIsNoNumberIsHeldByTheLast(t *testing.T) {
	var h Holding
	for _, s := range []struct {
		id   string
		at   any
		want any
	}{{"a", "red", "red"}, {"b", "blue", "blue"}, {"b", nil, "red"}, {"a", nil, "green"}} {
		now := h.Given
		if now == nil {
			now = "green"
		}
		if s.at != nil {
			h.Begin(s.id, s.at, 0, now, 0)
		} else if _, _, moved := h.End(s.id, now, 0); moved {
			t.Error("it is said to be moved")
		}
		if h.Given != s.want {
			t.Errorf("it is held at %v, want %v", h.Given, s.want)
		}
	}
	if to, changes := h.Begin("c", nil, 12, "green", 0); changes || to != nil && to != "green" {
		t.Errorf("what is no number is taken down to %v", to)
	}
}

// TestATableFillsTheEvent by its row, whatever the case of letters, and by the row for anyone.
func TestATableFillsTheEvent(t *testing.T) {
	table := &Table{By: "who", Columns: []string{"clip"}, Rows: [][]string{{"Imke", "1"}, {"imke", "2"}}}
	for who, want := range map[string]any{"Imke": "1", " IMKE ": "1", "Tobin": nil, "": nil} {
		filled, ok := table.Fill(map[string]any{"who": who, "text": "x"})
		if ok != (want != nil) || filled["clip"] != want || filled["text"] != "x" {
			t.Errorf("%q gives %v, %v", who, filled, ok)
		}
	}
	table.Rows = append(table.Rows, []string{Anyone, "9"})
	if filled, ok := table.Fill(nil); !ok || filled["clip"] != "9" {
		t.Errorf("an event without the field gives %v, %v", filled, ok)
	}
}

// TestTablesAreCSV and come back as they were; what is none is refused with a sentence.
func TestTablesAreCSV(t *testing.T) {
	table := &Table{By: "who", Columns: []string{"clip", "greeting"}, Rows: [][]string{{"Imke", "1", "Welcome, \"captain\""}, {"*", "2", "Good evening,\nall"}}}
	var b strings.Builder
	if err := table.CSV(&b); err != nil {
		t.Fatal(err)
	}
	back, why := ReadCSV(b.String())
	if why != "" || fmt.Sprint(*back) != fmt.Sprint(*table) {
		t.Errorf("%+v became %+v, %v", table, back, why)
	}
	if semi, why := ReadCSV("\ufeffwho;Clip\nImke;1\n"); why != "" || semi.Columns[0] != "clip" || semi.Rows[0][1] != "1" {
		t.Errorf("with semicolons: %+v, %v", semi, why)
	}
	for text, want := range map[string]string{
		"": "empty", "who": "columns", "who,clip\nImke": "is no CSV", "who,a b\nx,1": "needs a name", "who,who\nx,1": "called who", "who,clip\n\"x": "is no CSV", "who,\xff\nx,1": "UTF-8",
		"who,clip\n" + strings.Repeat("x,1\n", maxRows+1): "rows", "who,clip\nx," + strings.Repeat("é", maxCell+1): "longer than",
	} {
		if _, why := ReadCSV(text); !strings.Contains(why, want) {
			t.Errorf("%.40q gives %q, want … %s …", text, why, want)
		}
	}
}

// TestTimersShowWhatTheyShould at every moment of their life.
func TestTimersShowWhatTheyShould(t *testing.T) {
	var down Timer
	at := func(ms int) string {
		return Shown(down.At(Down, 90*time.Second, start.Add(time.Duration(ms)*time.Millisecond)), Down, false)
	}
	if got := at(0); got != "1:30" {
		t.Errorf("it begins with %s", got)
	}
	down.Start(start)
	for ms, want := range map[int]string{0: "1:30", 1: "1:30", 999: "1:30", 1000: "1:29", 89_999: "0:01", 90_000: "0:00", 500_000: "0:00"} {
		if got := at(ms); got != want {
			t.Errorf("after %d ms it shows %s, want %s", ms, got, want)
		}
	}
	down.Stop(start.Add(30 * time.Second))
	down.Start(start.Add(time.Hour))
	if got := at(3_600_000 + 30_000); got != "0:30" {
		t.Errorf("after a rest it shows %s", got)
	}
	down.Start(start.Add(2 * time.Hour)) // it runs
	down.Stop(start)                     // the clock was set back
	if got := down.At(Down, 90*time.Second, start); got != time.Minute {
		t.Errorf("after the clock was set back it shows %v", got)
	}
	for _, c := range []struct {
		d      time.Duration
		kind   string
		coarse bool
		want   string
	}{{61 * time.Second, Down, true, "2 min"}, {time.Minute, Down, true, "1:00"}, {61 * time.Second, Up, true, "1 min"}, {time.Hour + time.Minute, Up, false, "1:01:00"}, {0, To, false, "0:00"}} {
		if got := Shown(c.d, c.kind, c.coarse); got != c.want {
			t.Errorf("%v (%s, %v) is shown as %s, want %s", c.d, c.kind, c.coarse, got, c.want)
		}
	}
}

// TestTimeCodePassesAPoint when it runs over it, and not when it jumps.
func TestTimeCodePassesAPoint(t *testing.T) {
	const point = "10:00:00:00"
	for pair, want := range map[[2]string]bool{
		{"09:59:59:24", "10:00:00:00"}: true, {"09:59:59:20", "10:00:00:05"}: true, {"10:00:00:00", "10:00:00:01"}: false, {"09:00:00:00", "10:00:00:05"}: false,
		{"10:00:00:01", "09:59:59:24"}: false, {"", "10:00:00:00"}: false, {"nothing", "10:00:00:00"}: false,
	} {
		if got := Passes(pair[0], pair[1], point); got != want {
			t.Errorf("from %s to %s it passes: %v", pair[0], pair[1], got)
		}
	}
}

// TestATimerStandsAsItStood, whatever was done to it meanwhile.
func TestATimerStandsAsItStood(t *testing.T) {
	now := time.Date(2026, 8, 12, 22, 0, 0, 123_456_789, time.UTC)
	for _, c := range []struct {
		was  Timer
		kind string
	}{
		{Timer{}, Up}, {Timer{Passed: 83 * time.Minute}, Up}, {Timer{Since: now.Add(-time.Hour), Passed: 83*time.Minute + time.Nanosecond}, Up},
		{Timer{Since: now.Add(-time.Second), Length: 5 * time.Minute}, Down}, {Timer{Passed: 7 * time.Second, Length: time.Minute}, Down},
		{Timer{Since: now, Until: now.Add(30 * time.Minute)}, To},
	} {
		later := now.Add(10 * time.Second)
		is := Timer{Since: now, Passed: time.Hour, Length: 3 * time.Second}
		if err := is.Stand(c.was.Stood()); err != nil || is.Runs() != c.was.Runs() || is.At(c.kind, time.Hour, later) != c.was.At(c.kind, time.Hour, later) {
			t.Errorf("%+v came back as %+v from %q: %v", c.was, is, c.was.Stood(), err)
		}
		if is.Stood() != c.was.Stood() {
			t.Errorf("%q is then %q", c.was.Stood(), is.Stood())
		}
	}
	as := Timer{Passed: time.Minute}
	for _, wrong := range []string{"", "stands", "stands after", "stands after it", "runs since yesterday", "stands after 1s of", "stands after -1s", "hangs after 1s"} {
		is := as
		if err := is.Stand(wrong); err == nil || is != as {
			t.Errorf("%q is taken: %+v, %v", wrong, is, err)
		}
	}
}
