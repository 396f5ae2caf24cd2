package timecode

import (
	"testing"
	"time"
)

func TestTimecodesAreThoseOfTheStandard(t *testing.T) {
	for _, c := range []struct {
		rate   Rate
		frames int
		want   string
	}{
		{R25, 0, "00:00:00:00"}, {R25, 24, "00:00:00:24"}, {R25, 25, "00:00:01:00"}, {R50, 50*3600 + 49, "01:00:00:49"},
		{R24, 24 * 86400, "00:00:00:00"}, {R25, -1, "23:59:59:24"}, {R30, 30*60 - 1, "00:00:59:29"}, {R60, 60 * 60, "00:01:00:00"},
		// Two numbers are left out each minute, but not each tenth (ST 12-1, 5.2.2).
		{R30Drop, 1799, "00:00:59;29"}, {R30Drop, 1800, "00:01:00;02"}, {R30Drop, 17981, "00:09:59;29"}, {R30Drop, 17982, "00:10:00;00"},
		{R60Drop, 3599, "00:00:59;59"}, {R60Drop, 3600, "00:01:00;04"}, {R60Drop, 35964, "00:10:00;00"},
		{R30Drop, 107892, "01:00:00;00"},
	} {
		if got := c.rate.Format(c.frames); got != c.want {
			t.Errorf("%d at %+v is %s, want %s", c.frames, c.rate, got, c.want)
		}
	}
}

func TestEveryFrameOfADayComesBack(t *testing.T) {
	for _, r := range []Rate{R24, R25, R30, R50, R60, R30Drop, R60Drop} {
		for f := 0; f < r.day(); f += 101 {
			if got, err := r.Parse(r.Format(f)); err != nil || got != f {
				t.Fatalf("frame %d at %+v came back as %d (%v)", f, r, got, err)
			}
		}
		if got, err := ForFrames(r.Frames()); err != nil || got != r {
			t.Errorf("%v frames a second are %+v (%v)", r.Frames(), got, err)
		}
		for _, f := range []int{0, 1, 999, 123456} {
			if got := r.FromDuration(r.Duration(f)); got != f {
				t.Errorf("frame %d at %+v is shown after %v, which is frame %d", f, r, r.Duration(f), got)
			}
		}
	}
}

func TestWhatIsNoTimecodeIsRefused(t *testing.T) {
	for text, r := range map[string]Rate{"": R25, "1:2:3:4": R25, "24:00:00:00": R25, "00:60:00:00": R25, "00:00:60:00": R25, "00:00:00:25": R25,
		"00:01:00;01": R30Drop, "00:11:00;03": R60Drop, "-1:00:00:00": R25} {
		if f, err := r.Parse(text); err == nil {
			t.Errorf("%q was read as %d", text, f)
		}
	}
	if _, err := ForFrames(23); err == nil {
		t.Error("23 frames a second have no timecode")
	}
}

func TestACountdownStartsWhereItsTimeRemains(t *testing.T) {
	ten := R50.FromDuration(10 * time.Minute)
	for left, want := range map[string]string{"5:00": "00:05:00:00", "0:30": "00:09:30:00", "10:00": "00:00:00:00"} {
		at, err := R50.CountdownFrame(ten, left)
		if err != nil || R50.Format(at) != want {
			t.Errorf("%s remain at %s (%v), want %s", left, R50.Format(at), err, want)
		}
	}
	for _, left := range []string{"10:01", "5", "5:60", "x"} {
		if at, err := R50.CountdownFrame(ten, left); err == nil {
			t.Errorf("%q gave frame %d", left, at)
		}
	}
}
