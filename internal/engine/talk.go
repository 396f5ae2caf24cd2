package engine

import (
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// openTalk is what a talk has opened. It belongs to the control, whatever page it shows by now: what
// was opened is what is closed.
type openTalk struct {
	kept    KeptRun          // what opened it, and how things stood before
	mapping *program.Mapping // as it was when it was opened
	closes  *program.Response
	title   string
}

// OpenTalk is a talk that is open, for live clients: the next tap of its control closes it, whatever
// the control shows by then.
type OpenTalk struct {
	Mapping string `json:"mapping"` // that opened it
	Title   string `json:"title"`
}

// openTalks lists the talks that controls of a controller have opened.
func (e *Engine) openTalks(c *program.Controller) (open map[string]OpenTalk) {
	for _, h := range e.controls {
		if h.talk == nil || h.in.Controller != c.ID {
			continue
		}
		if open == nil {
			open = map[string]OpenTalk{}
		}
		open[h.in.Control] = OpenTalk{h.talk.mapping.Source.ID, h.talk.title}
	}
	return open
}

// tellTalks tells live clients which talks are open.
func (e *Engine) tellTalks(h *held) {
	if c := e.program.Controllers[h.in.Controller]; c != nil && c.Layout != nil {
		e.publishPages(c)
	}
}

// talkOpened takes in that a touch has opened a talk. It survives a restart: it is offered then.
func (e *Engine) talkOpened(in Input, h *held) {
	r := h.mapping.Responses[input.Talk]
	if r.Closes == nil {
		return // the action cannot be taken back
	}
	h.Opened()
	h.talk = &openTalk{mapping: h.mapping, closes: r.Closes, title: e.title(r.Opens)}
	e.tellTalks(h)
	p := e.restorableOf(in.Entry)
	if p == nil || p.bases[0] == nil {
		return
	}
	h.talk.kept = KeptRun{Entry: in.Entry, Title: h.talk.title, At: in.At, Changed: p.bases[0].Kept()}
	if e.cfg.Intents != nil {
		e.cfg.Intents.Will(h.talk.kept)
	}
	e.stream.push(RunKept{h.talk.kept})
}

// closeTalk closes what the control has opened. What cannot be closed now stays open, and the next tap
// tries again.
func (e *Engine) closeTalk(in Input, c *program.Controller, h *held, decided time.Time) {
	t := h.talk
	if t == nil {
		return
	}
	in.closes = true
	if e.carryOut(in, c, t.mapping, t.closes, input.Talk, decided) || e.program.Devices[t.closes.Device] == nil {
		e.forgetTalk(h)
		return
	}
	h.StaysOpen()
}

// forgetTalk takes in that what a control has opened is closed.
func (e *Engine) forgetTalk(h *held) {
	if k := h.talk.kept; k.Entry != "" {
		k.Changed = nil
		e.fulfilled(k.Entry)
		e.stream.push(RunKept{k})
	}
	h.talk = nil
	e.tellTalks(h)
}

// isSo reports whether devices say that what closes a talk has been done already.
func (e *Engine) isSo(t *openTalk) bool {
	if t == nil || t.closes.Bound == nil {
		return false
	}
	effects := t.closes.Bound.Effects(e.table)
	for _, f := range effects {
		now := e.table.Reading(f.Key)
		if now.Quality != reading.Confirmed || !reading.Equal(now.Value, f.Value, f.Tolerance) {
			return false
		}
	}
	return len(effects) > 0
}
