// Package timecode is time and control code as SMPTE ST 12-1 defines it: hours,
// minutes, seconds and frames, with the drop-frame counts of 29.97 and 59.94.
package timecode

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"time"
)

// Rate is how frames are counted.
type Rate struct {
	// Count is the number of frames a second as they are counted: 24, 25, 30, 50
	// or 60.
	Count int
	// Drop leaves out frame numbers so that the count stays with the clock: the
	// rates 29.97 (count 30) and 59.94 (count 60).
	Drop bool
}

// The rates.
var (
	R24     = Rate{Count: 24}
	R25     = Rate{Count: 25}
	R30     = Rate{Count: 30}
	R50     = Rate{Count: 50}
	R60     = Rate{Count: 60}
	R30Drop = Rate{Count: 30, Drop: true}
	R60Drop = Rate{Count: 60, Drop: true}
)

// ForFrames gives the rate of a number of frames a second, such as 25 or 29.97.
func ForFrames(perSecond float64) (Rate, error) {
	for _, r := range []Rate{R24, R25, R30, R50, R60, R30Drop, R60Drop} {
		if math.Abs(r.Frames()-perSecond) < 0.005 {
			return r, nil
		}
	}
	return Rate{}, fmt.Errorf("there is no timecode for %v frames a second", perSecond)
}

// Frames is the number of frames that really pass in a second.
func (r Rate) Frames() float64 {
	if r.Drop {
		return float64(r.Count) * 1000 / 1001
	}
	return float64(r.Count)
}

// dropped is how many numbers are left out each minute but every tenth.
func (r Rate) dropped() int {
	if !r.Drop {
		return 0
	}
	return r.Count / 15
}

// day is how many frames a day of timecode has.
func (r Rate) day() int { return 24 * (60*60*r.Count - 54*r.dropped()) }

// Format writes a number of frames as HH:MM:SS:FF, with a semicolon before the
// frames where numbers are dropped. It wraps after a day.
func (r Rate) Format(frames int) string {
	frames = ((frames % r.day()) + r.day()) % r.day()
	mark := ":"
	if d := r.dropped(); d > 0 {
		mark = ";"
		minute, ten := 60*r.Count-d, 600*r.Count-9*d
		tens, rest := frames/ten, frames%ten
		frames += 9 * d * tens
		if rest >= 60*r.Count {
			frames += d * (1 + (rest-60*r.Count)/minute)
		}
	}
	s := frames / r.Count
	return fmt.Sprintf("%02d:%02d:%02d%s%02d", s/3600, s/60%60, s%60, mark, frames%r.Count)
}

var form = regexp.MustCompile(`^(\d{2}):(\d{2}):(\d{2})[:;](\d{2})$`)

// Parse reads a timecode as a number of frames. A number that is left out at
// the rate, and one that cannot be, is an error.
func (r Rate) Parse(text string) (int, error) {
	m := form.FindStringSubmatch(text)
	if m == nil {
		return 0, fmt.Errorf("%q is not a timecode such as 01:23:45:12", text)
	}
	var n [4]int
	for i := range n {
		n[i], _ = strconv.Atoi(m[i+1]) // two digits each
	}
	h, min, s, f := n[0], n[1], n[2], n[3]
	d := r.dropped()
	switch {
	case h > 23 || min > 59 || s > 59 || f >= r.Count:
		return 0, fmt.Errorf("%q is not a timecode at %d frames a second", text, r.Count)
	case s == 0 && f < d && min%10 != 0:
		return 0, fmt.Errorf("%q is left out in drop-frame timecode", text)
	}
	minutes := 60*h + min
	return (minutes*60+s)*r.Count + f - d*(minutes-minutes/10), nil
}

// FromDuration gives the frame that is shown after a time.
func (r Rate) FromDuration(d time.Duration) int {
	return int(math.Floor(d.Seconds()*r.Frames() + 1e-6))
}

// Duration gives the time after which a frame is shown.
func (r Rate) Duration(frames int) time.Duration {
	return time.Duration(math.Round(float64(frames) / r.Frames() * float64(time.Second)))
}

var remaining = regexp.MustCompile(`^(\d{1,3}):([0-5]\d)$`)

// CountdownFrame gives the frame of a clip, as long as it is in frames, from
// which minutes and seconds (M:SS) remain. A clip that is too short is an error.
func (r Rate) CountdownFrame(clip int, left string) (int, error) {
	m := remaining.FindStringSubmatch(left)
	if m == nil {
		return 0, fmt.Errorf("%q is not a time such as 5:00", left)
	}
	min, _ := strconv.Atoi(m[1])
	s, _ := strconv.Atoi(m[2])
	at := clip - r.FromDuration(time.Duration(60*min+s)*time.Second)
	if at < 0 {
		return 0, fmt.Errorf("the clip is too short: it has %s, not %s", r.Format(clip), left)
	}
	return at, nil
}
