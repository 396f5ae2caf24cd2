package engine

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"strconv"
	"time"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/overlay"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// OverlaysChanged says how overlays stand, by id: they survive a restart.
type OverlaysChanged struct{ All map[string]overlay.State }

// overlayAction carries out an action of an overlay.
func (e *Engine) overlayAction(r *program.Response) (string, error) {
	src := e.program.Show.Overlay(r.Bound.Params["overlay"])
	if src == nil {
		return "", errors.New("this overlay is gone")
	}
	o, now := e.overlays[src.ID], time.Now().Round(0)
	text, err := e.changeOverlay(&o, src, r, now)
	if err != nil {
		return "", err
	}
	e.overlays[src.ID] = o
	e.stream.push(OverlaysChanged{maps.Clone(e.overlays)})
	e.publishOverlay(src, now, e.reportOwn)
	return fmt.Sprintf("The overlay %s %s", src.Name, text), nil
}

// changeOverlay does what an action says, and says so.
func (e *Engine) changeOverlay(o *overlay.State, src *show.Overlay, r *program.Response, now time.Time) (text string, err error) {
	given, err := e.given(r)
	if err != nil {
		return "", err
	}
	entries := len(src.Lines)
	o.Settle(entries)
	switch action := r.Call.Action; {
	case action == "overlay-hide", action == "overlay" && o.Shown:
		o.Hide()
		return "is hidden", nil
	case action == "overlay-show", action == "overlay":
		o.Show(time.Time{})
	case action == "overlay-show-for":
		s, err := strconv.ParseFloat(given[1], 64)
		if err != nil {
			return "", errors.New("how long it is shown is a number of seconds")
		}
		o.Show(now.Add(time.Duration(s * float64(time.Second))))
		return fmt.Sprintf("is shown for %g s", s), nil
	case action == "overlay-next" && o.At+1 >= entries:
		return "", fmt.Errorf("this is the last entry of the list of %s", src.Name)
	case action == "overlay-previous" && o.At == 0:
		return "", fmt.Errorf("this is the first entry of the list of %s", src.Name)
	case action == "overlay-next":
		return "goes through its list", o.Go(o.At+2, entries)
	case action == "overlay-previous":
		return "goes through its list", o.Go(o.At, entries)
	case action == "overlay-entry":
		n, err := strconv.Atoi(given[1])
		if err != nil {
			return "", errors.New("an entry is a number")
		}
		return "is at entry " + given[1], o.Go(n, entries)
	case action == "overlay-said":
		return "says what was asked for", o.Say(given[1], entries)
	case action == "overlay-write":
		if _, _, err := e.program.Portrait(given[3]); given[3] != "" && err != nil {
			return "", err
		}
		return "says something else", o.Write(given[1], given[2], given[3])
	}
	return "is shown", nil
}

// given are the parameters of an own action as things stand, in the order of its sheet.
func (e *Engine) given(r *program.Response) (out []string, err error) {
	msgs, err := r.Bound.Messages(e.ahead())
	if err != nil {
		return nil, err
	}
	for _, arg := range msgs[0].Args {
		out = append(out, expr.Text(arg))
	}
	return out, nil
}

// publishOverlay says how an overlay stands as readings of Synaptor; one whose time is over is hidden.
func (e *Engine) publishOverlay(src *show.Overlay, at time.Time, say func(path string, v any)) {
	o, now := e.overlays[src.ID], at.Round(0)
	if o.Expire(now) {
		e.overlays[src.ID] = o
		e.stream.push(OverlaysChanged{maps.Clone(e.overlays)})
	}
	if !o.Until.IsZero() {
		e.armReflex(at.Add(cmp.Or(o.Until.Sub(now)%time.Second, time.Second)), true)
	}
	o.Settle(len(src.Lines))
	path, line := "overlay/"+src.ID, o.Line(src.Lines)
	say(path+"/name", src.Name)
	say(path+"/shown", o.Shown)
	say(path+"/at", o.At+1)
	say(path+"/entries", len(src.Lines))
	say(path+"/written", o.Written)
	say(path+"/said", o.Said())
	say(path+"/text", line.Text)
	say(path+"/second", line.Second)
	say(path+"/picture", o.Picture)
	say(path+"/left", o.Left(now))
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
		maps.DeleteFunc(e.overlays, func(id string, _ overlay.State) bool { return e.program.Show.Overlay(id) == nil })
	}
	for _, src := range e.program.Show.Overlays() {
		e.publishOverlay(src, time.Now(), say)
	}
}
