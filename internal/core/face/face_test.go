package face

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

var box = Box{Width: 69, Height: 38, Min: 11, Max: 18}

func loaded(t *testing.T) *Font {
	t.Helper()
	f, err := NewFont()
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func TestLabelsAreSetAsLargeAsTheyFit(t *testing.T) {
	f := loaded(t)
	for label, want := range map[string]struct {
		lines int
		max   bool
		cut   bool
	}{
		"Cut":                                {1, true, false},
		"All-sky cam":                        {2, false, false},
		"Telescope feed":                     {2, false, false},
		"Presenter’s monitor in the foyer":   {3, false, false},
		"Donaudampfschifffahrtsgesellschaft": {3, false, false},
		"One two three four five six seven eight nine ten eleven…": {3, false, true},
		"":     {0, true, false},
		"a\nb": {2, false, false},
	} {
		got := f.Fit(label, box)
		if len(got.Lines) != want.lines && !(want.cut && len(got.Lines) <= 3) {
			t.Errorf("%q is set in %q", label, got.Lines)
		}
		if (got.Size == box.Max) != want.max || got.Cut != want.cut {
			t.Errorf("%q: size %v, cut %v", label, got.Size, got.Cut)
		}
	}
}

func TestNoLabelLeavesItsBox(t *testing.T) {
	f := loaded(t)
	words := []string{"Telescope", "feed", "a", "Wolkenkratzer", "Żółć", "観測所", "m", "WWWWWWWWWWWWWWWWWW", "…"}
	for i := range 400 {
		label := strings.Join([]string{words[i%9], words[(i/3)%9], words[(i/7)%9], words[(i/11)%9]}[:1+i%4], " ")
		got := f.Fit(label, box)
		if h := float64(len(got.Lines)) * got.Size * LineHeight; h > box.Height+0.01 && len(got.Lines) > 1 {
			t.Errorf("%q: %d lines at %v are %.1f high", label, len(got.Lines), got.Size, h)
		}
		for _, line := range got.Lines {
			if w := f.Width(line) * got.Size; w > box.Width+0.01 {
				t.Errorf("%q: %q is %.1f wide", label, line, w)
			}
		}
		if got.Size < box.Min || got.Size > box.Max {
			t.Errorf("%q: size %v", label, got.Size)
		}
	}
}

func TestContrastIsTheRatioOfWCAG(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want float64
	}{{"#000000", "#ffffff", 21}, {"#ffffff", "#ffffff", 1}, {"#767676", "#ffffff", 4.54}, {"red", "#ffffff", 0}} {
		if got := Contrast(c.a, c.b); math.Abs(got-c.want) > 0.01 {
			t.Errorf("%s on %s: %.2f, want %.2f", c.a, c.b, got, c.want)
		}
	}
	for role := range tints {
		if c := Contrast(Tint(role), DefaultText); c < 4.5 {
			t.Errorf("labels on a %s tile have a contrast of %.1f", role, c)
		}
	}
}

func TestLampsFollowWhatTheDeviceSays(t *testing.T) {
	lamp := func(role, when string) device.Lamp {
		p, err := expr.Compile(when, expr.Scope{Device: "sw"})
		if err != nil {
			t.Fatal(err)
		}
		return device.Lamp{When: p, Role: role}
	}
	lamps := []device.Lamp{lamp(OnAir, "reading('program') == '2'"), lamp(Preview, "reading('preview') == '2'")}
	program, preview := reading.Key{Device: "sw", Path: "program"}, reading.Key{Device: "sw", Path: "preview"}
	now := time.Unix(0, 0)
	for name, c := range map[string]struct {
		run     func(*reading.Table)
		on      []string
		pending []string
		unknown bool
	}{
		"nothing heard": {func(*reading.Table) {}, nil, nil, true},
		"on air": {func(tb *reading.Table) {
			tb.Report(program, "2", now)
			tb.Report(preview, "1", now)
		}, []string{OnAir}, nil, false},
		"a command that would put it on air": {func(tb *reading.Table) {
			tb.Report(program, "1", now)
			tb.Report(preview, "1", now)
			tb.Expect(reading.Expectation{Key: program, Value: "2"})
		}, nil, []string{OnAir}, false},
		"a command that changes nothing here": {func(tb *reading.Table) {
			tb.Report(program, "1", now)
			tb.Report(preview, "1", now)
			tb.Expect(reading.Expectation{Key: program, Value: "3"})
		}, nil, nil, false},
		"on air when the link went": {func(tb *reading.Table) {
			tb.Report(program, "2", now)
			tb.Report(preview, "2", now)
			tb.Lost("sw")
		}, []string{OnAir}, nil, true},
		"assumed": {func(tb *reading.Table) {
			tb.Assume(program, "2", now, "e")
			tb.Report(preview, "1", now)
		}, []string{OnAir}, nil, false},
	} {
		tb := reading.NewTable()
		c.run(tb)
		got := Evaluate(lamps, tb)
		if !slices.Equal(got.On, c.on) || !slices.Equal(got.Pending, c.pending) || got.Unknown != c.unknown || got.Assumed != (name == "assumed") {
			t.Errorf("%s: %+v", name, got)
		}
	}
}
