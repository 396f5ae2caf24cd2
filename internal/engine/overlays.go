package engine

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Overlay is how an overlay stands.
type Overlay struct {
	Shown bool      `json:"shown,omitempty"`
	Until time.Time `json:"until"` // when it goes by itself; zero: it stays
	At    int       `json:"at"`    // the entry of its list that it shows, from 0
	// Written says that somebody has written Text and Second, in place of its list; they are shown as they are, whatever is in them.
	Written bool   `json:"written,omitempty"`
	Text    string `json:"text,omitempty"`
	Second  string `json:"second,omitempty"`
}

// OverlaysChanged says how overlays stand, by id: they survive a restart.
type OverlaysChanged struct{ All map[string]Overlay }

// overlayAction carries out an action of an overlay.
func (e *Engine) overlayAction(r *program.Response) (string, error) {
	params := r.Bound.Params
	src := e.program.Show.Overlay(params["overlay"])
	if src == nil {
		return "", errors.New("this overlay is gone")
	}
	o, now, text := e.overlays[src.ID], time.Now().Round(0), ""
	switch r.Call.Action {
	case "overlay":
		o.Shown, o.Until, text = !o.Shown, time.Time{}, "is shown"
		if !o.Shown {
			text = "is hidden"
		}
	case "overlay-show":
		o.Shown, o.Until, text = true, time.Time{}, "is shown"
	case "overlay-hide":
		o.Shown, o.Until, text = false, time.Time{}, "is hidden"
	case "overlay-show-for":
		s, err := strconv.ParseFloat(params["seconds"], 64)
		if err != nil {
			return "", errors.New("how long it is shown is a number of seconds")
		}
		o.Shown, o.Until, text = true, now.Add(time.Duration(s*float64(time.Second))), fmt.Sprintf("is shown for %g s", s)
	case "overlay-next", "overlay-previous":
		by := 1
		if r.Call.Action == "overlay-previous" {
			by = -1
		}
		if n := o.At + by; n < 0 || n >= len(src.Lines) {
			return "", fmt.Errorf("this is the %s entry of the list of %s", map[int]string{1: "last", -1: "first"}[by], src.Name)
		}
		o.At, o.Written, text = o.At+by, false, "goes through its list"
	case "overlay-entry":
		n, err := strconv.Atoi(params["number"])
		if err != nil || n < 1 || n > len(src.Lines) {
			return "", fmt.Errorf("%s has no entry %s; it has %d", src.Name, params["number"], len(src.Lines))
		}
		o.At, o.Written, text = n-1, false, "is at entry "+params["number"]
	case "overlay-said":
		words, err := e.textsOf(r)
		if err != nil {
			return "", err
		}
		first, second, two := strings.Cut(words[1], "\n")
		o.Written, o.Text, o.Second, text = two || first != itsList, first, second, "says something else"
		if !o.Written {
			o.Text, text = "", "goes on with its list"
		}
	case "overlay-write":
		words, err := e.textsOf(r)
		if err != nil {
			return "", err
		}
		o.Written, o.Text, o.Second, text = true, words[1], words[2], "says something else"
	}
	e.overlays[src.ID] = o
	e.stream.push(OverlaysChanged{maps.Clone(e.overlays)})
	e.publishOverlay(src, now, e.reportOwn)
	return fmt.Sprintf("The overlay %s %s", src.Name, text), nil
}

// itsList is what an overlay has been given where nothing was written into it.
const itsList = "its list"

// textsOf are the texts of an own action as things stand, in the order of its sheet.
func (e *Engine) textsOf(r *program.Response) (out []string, err error) {
	msgs, err := r.Bound.Messages(e.ahead())
	if err != nil {
		return nil, err
	}
	for _, arg := range msgs[0].Args {
		text := expr.Text(arg)
		if utf8.RuneCountInString(text) > show.MaxOverlayText {
			return nil, fmt.Errorf("a text has at most %d characters", show.MaxOverlayText)
		}
		out = append(out, text)
	}
	return out, nil
}

// publishOverlay says how an overlay stands as readings of Synaptor; one whose time is over is hidden.
func (e *Engine) publishOverlay(src *show.Overlay, at time.Time, say func(path string, v any)) {
	o, now := e.overlays[src.ID], at.Round(0)
	if !o.Until.IsZero() && !now.Before(o.Until) {
		o.Shown, o.Until = false, time.Time{}
		e.overlays[src.ID] = o
		e.stream.push(OverlaysChanged{maps.Clone(e.overlays)})
	}
	o.At = min(o.At, max(0, len(src.Lines)-1))
	line, said := show.OverlayLine{}, itsList
	if len(src.Lines) > 0 {
		line = src.Lines[o.At]
	}
	if o.Written {
		line = show.OverlayLine{Text: o.Text, Second: o.Second}
		said = o.Text + "\n" + o.Second
	}
	path, left := "overlay/"+src.ID, 0
	if !o.Until.IsZero() {
		rest := o.Until.Sub(now)
		left = int((rest + time.Second - 1) / time.Second)
		e.armReflex(at.Add(cmp.Or(rest%time.Second, time.Second)), true)
	}
	say(path+"/name", src.Name)
	say(path+"/shown", o.Shown)
	say(path+"/at", o.At+1)
	say(path+"/entries", len(src.Lines))
	say(path+"/written", o.Written)
	say(path+"/said", said)
	say(path+"/text", line.Text)
	say(path+"/second", line.Second)
	say(path+"/left", left)
}

// dueOverlays hides those whose time is over.
func (e *Engine) dueOverlays(now time.Time) {
	for _, src := range e.program.Show.Overlays() {
		if !e.overlays[src.ID].Until.IsZero() {
			e.publishOverlay(src, now, e.reportOwn)
		}
	}
}

// publishOverlays says how all overlays stand; those of other shows are kept, as far as there is room.
func (e *Engine) publishOverlays(say func(path string, v any)) {
	if len(e.overlays) > maxForeign {
		maps.DeleteFunc(e.overlays, func(id string, _ Overlay) bool { return e.program.Show.Overlay(id) == nil })
	}
	for _, src := range e.program.Show.Overlays() {
		e.publishOverlay(src, time.Now(), say)
	}
}
