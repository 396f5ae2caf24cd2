package device

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Called is the title of an action with its parameters still open, so that it reads as a
// sentence: each stands there by its own title, with an article where it is a thing or a
// number, and not at all where its word is there already. A unit goes with its number.
func (a *ActionSpec) Called() string {
	title, said := a.Title, strings.ToLower(placeholders.ReplaceAllString(a.Title, ""))
	for _, p := range a.Params {
		before, after, found := strings.Cut(title, "{"+p.ID+"}")
		switch {
		case !found:
			continue
		case !strings.Contains(said, strings.ToLower(p.Title)):
			title = before + p.opened(before) + p.withoutUnit(after)
		case strings.TrimSpace(p.withoutUnit(after)) == "":
			title = strings.TrimSuffix(strings.TrimSuffix(before, " to "), " by ")
		default:
			title = before + after
		}
	}
	for {
		head, rest, open := strings.Cut(title, "{")
		_, tail, closed := strings.Cut(rest, "}")
		if !open || !closed {
			return strings.Join(strings.Fields(title), " ")
		}
		title = head + tail
	}
}

// opened is what stands for a parameter without a value, behind what comes before it.
func (p ParamSpec) opened(before string) string {
	plural := strings.HasSuffix(p.Title, "s") && !strings.HasSuffix(p.Title, "ss")
	if len(p.Options) > 0 || plural || strings.HasSuffix(before, "“") || strings.HasSuffix(before, " the ") {
		return p.Title
	}
	return withArticle(p.Title)
}

// withoutUnit is what follows a parameter, without its unit.
func (p ParamSpec) withoutUnit(after string) string {
	if rest, is := strings.CutPrefix(strings.TrimPrefix(after, " "), p.Unit); is && p.Unit != "" {
		return rest
	}
	return after
}

// placeholders are what a title leaves open.
var placeholders = regexp.MustCompile(`\{[^}]*\}`)

// Refusal says why the action cannot be sent as things stand, or "".
func (b *Bound) Refusal(w expr.World) string {
	for _, n := range b.needs {
		if !n.when.Holds(w) {
			return n.say.Text(w)
		}
	}
	return ""
}

// RefusalKeys lists the readings that Refusal depends on; each may stand there twice.
func (b *Bound) RefusalKeys() (out []reading.Key) {
	for _, n := range b.needs {
		out = append(out, n.when.Deps...)
	}
	return out
}

// Constant reports whether the messages are the same at every press, so that
// they can be encoded in advance.
func (b *Bound) Constant() bool {
	for _, s := range b.sends {
		if !s.constant() {
			return false
		}
	}
	for _, e := range b.effects {
		if e.set != nil && (!e.to.Constant() || !e.set.constant()) {
			return false
		}
	}
	return true
}

// Messages gives what to send. It evaluates what depends on readings against
// the state before the action.
func (b *Bound) Messages(w expr.World) ([]Message, error) {
	var out []Message
	for _, s := range b.sends {
		m, err := s.eval(w, nil)
		if err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	for _, e := range b.effects {
		if e.set == nil {
			continue
		}
		v, err := e.to.Eval(w)
		if err != nil {
			return nil, err
		}
		if v == nil {
			return nil, fmt.Errorf("%s has no value yet", e.to.Source)
		}
		whole := v
		if v, err = e.def.normal(v); err != nil {
			return nil, err
		}
		if e.def.Type == "text" { // what a device says is cut, not what it is told
			v = expr.Text(whole)
		}
		if v, err = e.def.toWire(v); err != nil {
			return nil, err
		}
		m, err := e.set.eval(w, v)
		if err != nil {
			return nil, err
		}
		out = append(out, m)
	}
	return out, nil
}

// Effects gives what the action brings about, computed from the state before
// it. An effect that cannot be computed yet is left out: nothing is expected
// then.
func (b *Bound) Effects(w expr.World) []Effect {
	var out []Effect
	for _, e := range b.effects {
		v, err := e.to.Eval(w)
		if err != nil || v == nil {
			continue
		}
		if v, err = e.def.normal(v); err != nil {
			continue
		}
		after, err := parseDuration(e.after.Text(w), b.frames)
		if err != nil {
			continue
		}
		over, err := parseDuration(e.over.Text(w), b.frames)
		if err != nil {
			continue
		}
		out = append(out, Effect{Key: e.key, Value: v, Tolerance: e.def.Tolerance, After: after + over, Over: over, Grace: e.grace, Assumed: e.def.Assumed})
	}
	return out
}

// Gone reports whether something that the action was given is not there any more: an
// input, a scene, a page.
func (b *Bound) Gone(w expr.World) bool {
	return slices.ContainsFunc(b.gone, func(k reading.Key) bool { return w.Reading(k).Value == true })
}

// GoneKeys lists the readings that Gone depends on.
func (b *Bound) GoneKeys() []reading.Key { return b.gone }

// Plays is how long what the action starts goes on; 0 when that is not known.
func (b *Bound) Plays(w expr.World) time.Duration {
	d, _ := parseDuration(b.plays.Text(w), b.frames)
	return d
}

// Busy is how long the device is at it; nothing should follow before.
func (b *Bound) Busy(w expr.World) time.Duration {
	d, _ := parseDuration(b.busy.Text(w), b.frames)
	return d
}

// Affects lists the readings that the action changes.
func (b *Bound) Affects() []reading.Key { return b.affects }

// Uses lists the readings that what the action brings about is computed from, besides
// those that it changes: a cut is computed from what is on preview.
func (b *Bound) Uses() (out []reading.Key) {
	for _, e := range b.effects {
		if e.to != nil {
			out = append(out, e.to.Deps...)
		}
	}
	slices.SortFunc(out, func(a, b reading.Key) int { return strings.Compare(a.Path, b.Path) })
	return slices.Compact(out)
}

// Moves reports whether the action moves a reading from where it is, such as a
// jog, instead of setting it.
func (b *Bound) Moves() bool {
	return slices.ContainsFunc(b.effects, func(e boundEffect) bool { return e.to != nil && slices.Contains(e.to.Deps, e.key) })
}

// Absolute reports whether the action sets what it sets whatever it was: to send it again does no more.
func (b *Bound) Absolute() bool {
	return len(b.effects) > 0 && !slices.ContainsFunc(b.effects, func(e boundEffect) bool { return e.to == nil || !e.to.Constant() })
}

// parseDuration reads 2s, 40ms or 25f (frames at the given rate); empty is 0.
func parseDuration(s string, frameRate float64) (time.Duration, error) {
	if s == "" {
		return 0, nil
	}
	if n, ok := strings.CutSuffix(s, "f"); ok {
		f, err := strconv.ParseFloat(n, 64)
		if err != nil || frameRate <= 0 {
			return 0, fmt.Errorf("%q is not a number of frames", s)
		}
		return time.Duration(f / frameRate * float64(time.Second)), nil
	}
	return time.ParseDuration(s)
}
