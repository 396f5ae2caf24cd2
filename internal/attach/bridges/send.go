package bridges

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/face"
	"synaptor/internal/core/show"
	"synaptor/internal/paint"
	"synaptor/internal/wire"
)

// light says how bright a board is to be, which pages it shows, and what is to be read on it, where that is otherwise than it was.
func (o *session) light(ctx context.Context, s *screen, now time.Time) error {
	serial := s.described.Serial
	c := &show.Controller{} // attached to nothing it is as bright as it can be
	if to := o.s.cfg.Shows.Program().Show.Controller(s.controller); to != nil {
		c = to
	}
	level := float64(c.Brightness) / 100
	if level == 0 {
		level = 1
	}
	if level != s.level {
		s.level = level
		if err := o.send(ctx, wire.Brightness{Type: wire.TypeBrightness, Controller: serial, Level: level}); err != nil {
			return err
		}
	}
	if dimmed := o.dims(serial, time.Duration(c.DimAfterS)*time.Second, now); dimmed != s.dimmed {
		s.dimmed = dimmed
		o.s.change(o, serial, func(b *board) { b.row.Dimmed = dimmed })
		if err := o.send(ctx, wire.Dim{Type: wire.TypeDim, Controller: serial, On: dimmed}); err != nil {
			return err
		}
	}
	for zone, pages := range s.row.Zones {
		if len(pages) == 0 || s.pages[zone] == pages[len(pages)-1] {
			continue
		}
		s.pages[zone] = pages[len(pages)-1]
		if p := o.s.cfg.Shows.Program().Show.Page(s.pages[zone]); p != nil {
			if err := o.send(ctx, wire.Page{Type: wire.TypePage, Controller: serial, Zone: zone, Page: p.Slug, Name: p.Name}); err != nil {
				return err
			}
		}
	}
	text := cmp.Or(o.s.said(), s.reason)
	if text == "" && o.s.quiet.Load() {
		text = hardware.Quiet
	}
	return o.tell(ctx, s, text)
}

// tell gives a board a sentence to show, where it is another one than before.
func (o *session) tell(ctx context.Context, s *screen, text string) error {
	if text == s.text {
		return nil
	}
	s.text = text
	return o.send(ctx, wire.Text{Type: wire.TypeText, Controller: s.described.Serial, Text: text})
}

// dims tells whether a board is to be dimmed: nobody has touched it for so long; 0: it never is.
func (o *session) dims(serial string, after time.Duration, now time.Time) bool {
	o.mu.Lock()
	defer o.mu.Unlock()
	h := o.hands[serial]
	if h == nil {
		return false
	}
	h.dimmed = after > 0 && now.Sub(h.touched) >= after
	return h.dimmed
}

// pump sends what is to be seen, as far as the bridge has acknowledged what was sent before: what waits longest first.
func (o *session) pump(ctx context.Context, now time.Time) error {
	o.confirm()
	for _, s := range o.screens {
		if err := o.light(ctx, s, now); err != nil {
			return err
		}
		if err := o.lostFaces(ctx, s); err != nil {
			return err
		}
	}
	for len(o.faces) < wire.Window {
		s, id := o.next(now)
		if s == nil {
			return nil
		}
		if err := o.face(ctx, s, id, now); err != nil {
			return err
		}
	}
	if !o.late && len(o.faces) > 0 && now.Sub(o.faces[0].at) > ackLimit {
		o.late = true
		text := fmt.Sprintf("It has not acknowledged %d faces for %d seconds: no others are sent until it does.", len(o.faces), int(ackLimit.Seconds()))
		o.trouble(text)
		return o.send(ctx, wire.Trouble{Type: wire.TypeError, Text: text})
	}
	return nil
}

// trouble notes at all boards what is wrong with their bridge; empty: nothing is any more.
func (o *session) trouble(text string) {
	for _, s := range o.screens {
		o.s.change(o, s.described.Serial, func(b *board) { b.row.Problem = text })
	}
}

// confirm forgets the faces that were acknowledged; the bridge has their pictures from now on.
func (o *session) confirm() {
	acked := o.acked.Load()
	n := 0
	for n < len(o.faces) && o.faces[n].seq <= acked {
		if p := o.faces[n].picture; p != "" {
			o.memory.pictures.Add(p)
		}
		n++
	}
	o.beside = slices.DeleteFunc(o.beside, func(w onWay) bool {
		if w.picture != "" && w.seq < acked { // what came after it has arrived
			o.memory.pictures.Add(w.picture)
		}
		return w.seq < acked
	})
	if o.faces = o.faces[n:]; n > 0 && o.late {
		o.late = false
		o.trouble("")
	}
}

// next is the control that waits longest for its face to be sent, and may be sent one; nil: there is none.
func (o *session) next(now time.Time) (best *screen, control string) {
	var since time.Time
	for _, s := range o.screens {
		for id, sh := range s.shown {
			if sh.dirty && now.Sub(sh.last) >= pace && (best == nil || sh.since.Before(since)) {
				best, control, since = s, id, sh.since
			}
		}
	}
	return best, control
}

// face sends what a control shows.
func (o *session) face(ctx context.Context, s *screen, id string, now time.Time) error {
	sh := s.shown[id]
	sh.dirty, sh.drawn = false, now
	f := sh.face
	key := []byte(sh.raw)
	if sh.raw == nil {
		f = o.s.notice(sh.notice)
		key = []byte("notice " + sh.notice)
	}
	dark := f.Blink && now.UnixMilli()/blinks.Milliseconds()%2 == 1
	if f.Run != nil || f.Live != nil {
		key = nil
	}
	at := paint.Moment{Dark: dark, Now: now}
	if f.Live != nil {
		at.Live = o.s.live.latest(*f.Live, now)
	}
	m, picture, err := o.made(s, id, f, key, at)
	if err != nil {
		o.reply(s.described.Serial, show.Sentence(err))
		return nil
	}
	said := m.Hash + strings.Join(m.Shapes, ",") + m.Words
	if said == sh.said {
		return nil
	}
	sh.said, sh.last = said, now
	return o.sendFace(ctx, m, picture, now)
}

// sendFace sends a face, and before it its picture, unless the bridge has that.
func (o *session) sendFace(ctx context.Context, m wire.Face, picture []byte, now time.Time) error {
	way := onWay{at: now}
	if !m.Lost { // which is not shown now, and not acknowledged
		o.seq++
		m.Seq, way.seq = o.seq, o.seq
	}
	if picture != nil {
		switch {
		case o.version < 2:
			m.Data = picture
		case !o.sent.Has(m.Hash):
			o.sent.Add(m.Hash)
			way.picture = m.Hash
			if err := o.within(ctx, websocket.MessageBinary, wire.Frame(picture)); err != nil {
				return err
			}
		}
	}
	if m.Lost {
		o.beside = append(o.beside, onWay{seq: o.seq, picture: way.picture})
	} else {
		o.faces = append(o.faces, way)
	}
	return o.send(ctx, m)
}

// made makes the message of a face for a control, and its picture, where the control shows pictures.
func (o *session) made(s *screen, id string, f face.Face, key []byte, at paint.Moment) (m wire.Face, picture []byte, err error) {
	shows := s.described.Of(id)
	m = wire.Face{Type: wire.TypeFace, Controller: s.described.Serial, Control: id, Lines: f.Lines, Words: f.Words, Background: f.Background, Colour: f.Text, Shapes: f.Shapes(), Blink: f.Blink}
	if shows.Columns > 0 {
		m.Cells = f.Cells(shows.Columns, shows.Rows)
	}
	switch {
	case shows.Any:
		m.Colour = f.LampColour(nil)
	case len(shows.Colours) > 0:
		m.Colour = f.LampColour(shows.Colours)
	}
	if shows.Picture == "" {
		raw, err := json.Marshal(m)
		m.Hash = wire.Hash(raw)
		return m, nil, err
	}
	m.Picture = shows.Picture
	picture, err = o.s.book.Get(paint.Page{Face: f, Key: key, Kind: s.kinds[id], Width: shows.Width, Height: shows.Height, Format: shows.Picture, Moment: at})
	m.Hash = wire.Hash(picture)
	return m, picture, err
}

// lostFaces gives a board the faces that it shows when Synaptor is lost: that what it shows else is not true any more.
func (o *session) lostFaces(ctx context.Context, s *screen) error {
	if s.lost || len(s.shown) == 0 {
		return nil
	}
	s.lost = true
	const text = "not connected"
	for i, id := range s.controls {
		if s.shown[id] == nil {
			continue
		}
		notice := ""
		if i == 0 || s.kinds[id] == paint.Dial {
			notice = text
		}
		f := o.s.notice(notice)
		m, picture, err := o.made(s, id, f, []byte("notice "+notice), paint.Moment{})
		if err != nil {
			return nil
		}
		m.Lost = true
		if err := o.sendFace(ctx, m, picture, time.Now()); err != nil {
			return err
		}
	}
	return nil
}
