package face

import (
	"math"
	"slices"
	"strconv"
	"strings"
)

// RoleColours are those of the lamp roles, #rrggbb, in the dark theme: what a state looks like is not for a theme to change where it is
// painted or lit.
var RoleColours = map[string]string{OnAir: "#ff3b3b", Preview: "#34d058", Armed: "#ffb000", Running: "#ffb000", Set: "#ffffff"}

// weights are the lamp roles, the one that matters most first.
var weights = []string{OnAir, Armed, Running, Preview, Set}

// Shapes are the roles that a face shows lit, and what it is besides: those that are not so yet begin with pending-.
func (f Face) Shapes() []string {
	out := slices.Clone(f.On)
	for _, r := range f.Pending {
		out = append(out, "pending-"+r)
	}
	for _, s := range []struct {
		is   bool
		name string
	}{{f.Unknown, "unknown"}, {f.Away, "away"}, {f.Gone, "gone"}, {f.Refusal != "", "refused"}, {f.Run != nil, "run"}} {
		if s.is {
			out = append(out, s.name)
		}
	}
	return out
}

// Cells set the label in rows of so many characters: between words, and cut off where there are no rows left.
func (f Face) Cells(columns, rows int) (out []string) {
	now := ""
	for _, word := range strings.Fields(f.Label) {
		if r := []rune(word); len(r) > columns {
			word = string(r[:columns])
		}
		switch {
		case now == "":
			now = word
		case len([]rune(now))+1+len([]rune(word)) <= columns:
			now += " " + word
		default:
			out, now = append(out, now), word
		}
	}
	if now != "" {
		out = append(out, now)
	}
	return out[:min(len(out), max(1, rows))]
}

// LampColour is the colour of a lamp that stands for the face: that of the role which is lit, else the background. Of those that the lamp
// can have it is the one that comes nearest; none: it can have all.
func (f Face) LampColour(can []string) string {
	want := f.Background
	for _, role := range weights {
		if slices.Contains(f.On, role) {
			want = RoleColours[role]
			break
		}
	}
	if len(can) == 0 {
		return want
	}
	return slices.MinFunc(can, func(a, b string) int {
		switch d := apart(want, a) - apart(want, b); {
		case d < 0:
			return -1
		case d > 0:
			return 1
		}
		return 0
	})
}

// apart tells how far two colours written #rrggbb are from each other.
func apart(a, b string) float64 {
	sum := 0.0
	for i := range 3 {
		sum += math.Pow(channel(a, i)-channel(b, i), 2)
	}
	return sum
}

// channel is red, green or blue of a colour; what is no colour is black.
func channel(colour string, i int) float64 {
	if len(colour) != 7 {
		return 0
	}
	n, _ := strconv.ParseUint(colour[1+2*i:3+2*i], 16, 8)
	return float64(n)
}
