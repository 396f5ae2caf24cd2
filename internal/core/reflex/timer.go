package reflex

import (
	"errors"
	"fmt"
	"strings"
	"time"
)

// What a timer does.
const (
	Up   = "up"   // it counts up from nothing
	Down = "down" // it counts down from a time
	To   = "to"   // it counts down to a time of day
)

// TimerKinds lists what timers do.
var TimerKinds = []string{Up, Down, To}

// Timer is where a timer stands. The zero value stands still, at its beginning.
type Timer struct {
	// Since is when it began to run, on the clock on the wall; zero: it stands still.
	Since time.Time `json:"since"`
	// Passed is what had passed by then.
	Passed time.Duration `json:"passed"`
	// Until is what it counts to, where that is a time of day.
	Until time.Time `json:"until"`
	// Length is what it counts down from, where it was set; 0: what the show says.
	Length time.Duration `json:"length,omitempty"`
}

// Runs tells whether it runs.
func (t Timer) Runs() bool { return !t.Since.IsZero() }

// Start has it run from a moment on.
func (t *Timer) Start(now time.Time) {
	if !t.Runs() {
		t.Since = now
	}
}

// Stop has it stand still.
func (t *Timer) Stop(now time.Time) {
	if t.Runs() {
		t.Passed += max(0, now.Sub(t.Since))
		t.Since = time.Time{}
	}
}

// Reset has it begin anew; it goes on running where it runs.
func (t *Timer) Reset(now time.Time) {
	t.Passed = 0
	if t.Runs() {
		t.Since = now
	}
}

// Stood is where it stands as one text, which Stand takes. It is the same as long as nobody touches the timer.
func (t Timer) Stood() string {
	text := "stands after " + t.Passed.String()
	if t.Runs() {
		text = "runs since " + t.Since.Add(-t.Passed).Format(time.RFC3339Nano)
	}
	if t.Length > 0 {
		text += " of " + t.Length.String()
	}
	if !t.Until.IsZero() {
		text += " until " + t.Until.Format(time.RFC3339Nano)
	}
	return text
}

// Stand has it stand as Stood has given it. It fails, and changes nothing, where the text is none of those.
func (t *Timer) Stand(text string) (err error) {
	words := strings.Fields(text)
	var now Timer
	for len(words) > 0 && err == nil {
		n := min(len(words), 2)
		if words[0] == "stands" || words[0] == "runs" {
			n = min(len(words), 3)
		}
		value := words[n-1]
		switch strings.Join(words[:n-1], " ") {
		case "stands after":
			now.Passed, err = time.ParseDuration(value)
		case "runs since":
			now.Since, err = time.Parse(time.RFC3339Nano, value)
		case "of":
			now.Length, err = time.ParseDuration(value)
		case "until":
			now.Until, err = time.Parse(time.RFC3339Nano, value)
		default:
			err = errors.New("not one of them")
		}
		words = words[n:]
	}
	if err != nil || text == "" || now.Passed < 0 || now.Length < 0 {
		return fmt.Errorf("%q is not how a timer stands", text)
	}
	*t = now
	return nil
}

// At is what a timer of a kind and a length shows: what has passed, or what is left, which is never less than nothing.
func (t Timer) At(kind string, length time.Duration, now time.Time) time.Duration {
	passed := t.Passed
	if t.Runs() {
		passed += max(0, now.Sub(t.Since))
	}
	if t.Length > 0 {
		length = t.Length
	}
	switch {
	case kind == Up:
		return passed
	case kind == To && t.Until.IsZero():
		return 0
	case kind == To:
		return max(0, t.Until.Sub(now))
	}
	return max(0, length-passed)
}

// Shown is a time as a timer shows it, as whole seconds or, where it is coarse, minutes until the last one. What is left is rounded up, so that it is 0
// when it has ended and not before.
func Shown(d time.Duration, kind string, coarse bool) string {
	if kind != Up {
		d += time.Second - 1
	}
	s := int(d / time.Second)
	switch h, m := s/3600, s/60%60; {
	case coarse && s > 60 && kind != Up:
		return fmt.Sprintf("%d min", (s+59)/60)
	case coarse && kind == Up:
		return fmt.Sprintf("%d min", s/60)
	case h > 0:
		return fmt.Sprintf("%d:%02d:%02d", h, m, s%60)
	default:
		return fmt.Sprintf("%d:%02d", m, s%60)
	}
}
