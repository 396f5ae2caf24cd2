package markers_test

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/core/timecode"
)

var began = time.Date(2026, 8, 12, 20, 0, 0, 0, time.UTC)

func at(d time.Duration, kind, text string) markers.Marker {
	return markers.Marker{ID: strings.Fields(text)[0], At: began.Add(d), Kind: kind, Text: text, By: "Tobin"}
}

func TestALeadPointsAtWhatWasBefore(t *testing.T) {
	m := markers.New("1", "night", "highlight", "Fireball", "Tobin", "", began.Add(time.Minute), 8*time.Second)
	if !m.At.Equal(began.Add(52*time.Second)) || m.LeadMs != 8000 {
		t.Errorf("it is %+v", m)
	}
	if m := markers.New("1", "", "nonsense", strings.Repeat("é", 300), "", "", began, 48*time.Hour); m.Kind != "note" || m.LeadMs != 3_600_000 || len(m.Text) > 400 {
		t.Errorf("what is too much gives %s, %d ms, %d bytes", m.Kind, m.LeadMs, len(m.Text))
	}
}

func TestAMarkerIsChecked(t *testing.T) {
	good := at(0, "note", "Fireball")
	for field, spoil := range map[string]func(*markers.Marker){
		"":       func(*markers.Marker) {},
		"text":   func(m *markers.Marker) { m.Text = " " },
		"kind":   func(m *markers.Marker) { m.Kind = "red" },
		"leadMs": func(m *markers.Marker) { m.LeadMs = -1 },
		"at":     func(m *markers.Marker) { m.At = time.Time{} },
	} {
		m := good
		spoil(&m)
		if got, why := m.Check(); got != field || (why == "") != (field == "") {
			t.Errorf("a wrong %q is said at %q: %q", field, got, why)
		}
	}
}

func TestATimecodeThatDropFrameDoesNotHaveIsRefused(t *testing.T) {
	r := markers.Recording{Began: began, Rate: timecode.R30Drop}
	if _, err := r.At("00:01:00;00"); err == nil {
		t.Error("00:01:00;00 was taken, which drop frame does not have")
	}
	got, err := r.At("00:01:00;02")
	if err != nil || r.Timecode(got) != "00:01:00;02" {
		t.Errorf("00:01:00;02 is %v (%v)", got, err)
	}
	r.Start = 30 * 3600
	if _, err := r.At("00:00:10;00"); err == nil {
		t.Error("a timecode from before the recording was taken")
	}
}

// What is written is read back by a parser that knows nothing of how it was written.
func TestEditListsAreReadBack(t *testing.T) {
	line := regexp.MustCompile(`^(\d{3})  (\S+) +V +C +(\S{11}) (\S{11}) (\S{11}) (\S{11})$`)
	rng := rand.New(rand.NewPCG(1, 2))
	for _, rate := range []timecode.Rate{timecode.R24, timecode.R25, timecode.R30, timecode.R30Drop, timecode.R50, timecode.R60Drop} {
		var list []markers.Marker
		for i := range 200 {
			list = append(list, at(time.Duration(rng.Int64N(int64(5*time.Hour))), "note", fmt.Sprint("Märker ", i)))
		}
		list = append(list, at(-time.Second, "note", "too early"))
		var b bytes.Buffer
		r := markers.Recording{Began: began, Rate: rate}
		if err := markers.CMX3600(&b, "Meteor Night", list, r); err != nil {
			t.Fatal(err)
		}
		text := b.String()
		if rate.Drop != strings.Contains(text, "FCM: DROP FRAME\r\n") || !strings.HasPrefix(text, "TITLE: Meteor Night\r\n") {
			t.Fatalf("at %+v it begins %.60q", rate, text)
		}
		seconds := map[string]float64{}
		now := 0.0
		for l := range strings.SplitSeq(text, "\r\n") {
			if m := line.FindStringSubmatch(l); m != nil {
				from, to := secondsOf(t, m[5], rate), secondsOf(t, m[6], rate)
				if from < now || to <= from || m[3] != m[5] || m[4] != m[6] {
					t.Fatalf("at %+v: %q does not come after %v", rate, l, now)
				}
				now = from
			} else if text, is := strings.CutPrefix(l, "* COMMENT: NOTE: Marker "); is {
				seconds[text] = now
			}
		}
		for i, m := range list[:200] {
			got, has := seconds[fmt.Sprint(i)]
			if want := m.At.Sub(began).Seconds(); !has || math.Abs(got-want) > 2/24.0 {
				t.Errorf("at %+v marker %d is at %v s, not %v", rate, i, got, want)
			}
		}
		if strings.Contains(text, "too early") {
			t.Error("a marker from before the recording is in it")
		}
	}
}

// secondsOf reads a timecode by counting: every number that there is, from the first on, is one frame.
func secondsOf(t *testing.T, text string, rate timecode.Rate) float64 {
	t.Helper()
	count := rate.Count
	if count > 30 {
		count /= 2
	}
	var n [4]int
	for i, part := range regexp.MustCompile(`[:;]`).Split(text, 4) {
		n[i], _ = strconv.Atoi(part)
	}
	minutes := n[0]*60 + n[1]
	frames := (minutes*60+n[2])*count + n[3]
	perSecond := float64(count)
	if rate.Drop {
		if n[2] == 0 && n[3] < 2 && n[1]%10 != 0 {
			t.Errorf("%s is no number of drop frame", text)
		}
		for m := 1; m <= minutes; m++ {
			if m%10 != 0 {
				frames -= 2
			}
		}
		perSecond = 30000.0 / 1001
	}
	return float64(frames) / perSecond
}

func TestAnEditListHasNoThousandEvents(t *testing.T) {
	var list []markers.Marker
	for i := range 1000 {
		list = append(list, at(time.Duration(i)*time.Second, "note", "x"))
	}
	r := markers.Recording{Began: began, Rate: timecode.R25}
	if err := markers.CMX3600(&bytes.Buffer{}, "x", list, r); !errors.Is(err, markers.ErrTooMany) {
		t.Errorf("a thousand gave %v", err)
	}
	if err := markers.CMX3600(&bytes.Buffer{}, "x", list[1:], r); err != nil {
		t.Error(err)
	}
}

func TestCuesAreReadBack(t *testing.T) {
	list := []markers.Marker{at(-time.Second, "note", "early"), at(time.Second, "chapter", "Opening"), at(2*time.Second, "note", "a < b & c --> d"),
		at(time.Minute, "chapter", "Clouds\nrolled in"), at(time.Minute, "highlight", "Same moment")}
	var b bytes.Buffer
	if err := markers.WebVTT(&b, list, markers.Recording{Began: began, Rate: timecode.R25}); err != nil {
		t.Fatal(err)
	}
	blocks := strings.Split(strings.TrimSuffix(b.String(), "\n"), "\n\n")
	if blocks[0] != "WEBVTT" || !strings.HasPrefix(blocks[1], "NOTE 1 ") || len(blocks) != 6 {
		t.Fatalf("it is %q", b.String())
	}
	want := [][2]string{{"00:00:01.000 --> 00:01:00.000", "chapter: Opening"}, {"00:00:02.000 --> 00:00:07.000", "note: a &lt; b &amp; c --&gt; d"},
		{"00:01:00.000 --> 00:01:05.000", "chapter: Clouds rolled in"}, {"00:01:00.000 --> 00:01:05.000", "highlight: Same moment"}}
	for i, w := range want {
		lines := strings.Split(blocks[i+2], "\n")
		if len(lines) != 3 || lines[1] != w[0] || lines[2] != w[1] {
			t.Errorf("cue %d is %q", i, lines)
		}
	}
}

func TestATableIsReadBackAndHasNoFormulas(t *testing.T) {
	list := []markers.Marker{at(90*time.Second, "note", `=1+1, "quoted"`), at(-time.Second, "mistake", "early")}
	var b bytes.Buffer
	if err := markers.CSV(&b, list, markers.Recording{Began: began, Rate: timecode.R25}); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&b).ReadAll()
	if err != nil || len(rows) != 3 {
		t.Fatalf("%v, %d rows", err, len(rows))
	}
	if rows[1][1] != "00:01:30:00" || rows[1][3] != `'=1+1, "quoted"` || rows[2][1] != "" || rows[0][3] != "text" {
		t.Errorf("the rows are %q", rows)
	}
}
