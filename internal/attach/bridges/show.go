package bridges

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/face"
	"synaptor/internal/mirror"
	"synaptor/internal/wire"
)

const (
	// pace is the shortest time between two faces of one control.
	pace = 40 * time.Millisecond
	// blinks is half of a blink, progress how often a bar that empties is drawn.
	blinks   = 500 * time.Millisecond
	progress = 200 * time.Millisecond
)

// screen is what a board shows. It is the writer's own.
type screen struct {
	described wire.Controller
	attachment
	controls []string
	kinds    map[string]string // of the controls of the controller, by the control of the board
	row      mirror.ControllerRow
	shown    map[string]*shown
	level    float64 // of its light; 0: not said yet
	dimmed   bool
	pages    map[string]string // said last, by zone
	text     string            // said last
	lost     bool              // the faces for when Synaptor is lost were sent
}

// shown is what a control of a board shows, and is to show.
type shown struct {
	raw    json.RawMessage // of the face; nil: it has none
	notice string          // instead of a face
	face   face.Face
	dirty  bool
	since  time.Time // when it became so
	last   time.Time // when it was sent last
	said   string    // the hash of what was sent last, with all that is said beside the picture
	drawn  time.Time // when it was drawn last
}

// write says what a bridge is to hear: the welcome, faces, the heartbeat, and what is wrong.
func (o *session) write(ctx context.Context) {
	o.pages()
	err := o.send(ctx, wire.Welcome{Type: wire.TypeWelcome, Version: min(o.version, wire.Newest), Resume: o.token, BeatMs: wire.Beat.Milliseconds(), MissedMs: wire.Missed.Milliseconds(),
		Window: wire.Window, Controllers: o.attachments()})
	tick := time.NewTicker(pace)
	defer tick.Stop()
	for err == nil {
		if err = o.pump(ctx, time.Now()); err != nil {
			return
		}
		select {
		case <-ctx.Done():
			return
		case m := <-o.replies:
			err = o.send(ctx, m)
		case <-o.client.Wake:
			if d, ok := o.client.Take(); ok {
				err = o.took(ctx, d.Values)
			}
		case <-o.room: // faces were acknowledged
		case <-o.woken:
			if o.pages() {
				err = o.send(ctx, wire.Controllers{Type: wire.TypeControllers, Controllers: o.attachments()})
			}
		case now := <-tick.C:
			o.timed(now)
		}
	}
}

// attachments says which controller each board is.
func (o *session) attachments() (out []wire.Attached) {
	for _, s := range o.screens {
		out = append(out, wire.Attached{Serial: s.described.Serial, Controller: s.slug, Name: s.name, Reason: s.reason})
	}
	return out
}

// pages looks anew at what each board is attached to, and follows what that shows; true: something of it is otherwise. Where the show
// was edited meanwhile it looks again: what is followed anew begins with what is so by then.
func (o *session) pages() (changed bool) {
	for again := true; again; {
		seen := o.edited
		changed = o.attachAll() || changed
		again = !bytes.Equal(seen, o.edited)
	}
	return changed
}

// attachAll finds what each board is attached to, and follows that.
func (o *session) attachAll() (changed bool) {
	taken := o.s.claim(o, o.said)
	if o.screens == nil {
		for _, c := range o.said {
			o.screens = append(o.screens, &screen{described: c, shown: map[string]*shown{}, pages: map[string]string{}})
		}
	}
	hands := map[string]*hand{}
	for _, s := range o.screens {
		serial := s.described.Serial
		a := o.s.attached(serial)
		if other := taken[serial]; other != "" {
			a = attachment{reason: fmt.Sprintf("Another bridge, %s, carries it.", other)}
		}
		changed = changed || s.controller != a.controller || s.reason != a.reason || s.name != a.name
		if s.controller != a.controller {
			s.row = mirror.ControllerRow{}
		}
		s.attachment = a
		o.describe(s)
		hands[serial] = &hand{attachment: a, woke: map[string]bool{}, touched: time.Now()}
		link := ""
		if a.link != nil {
			link = a.link.ID
		}
		o.s.change(o, serial, func(b *board) { b.row.Link, b.row.Controller = link, a.controller })
	}
	o.handOver(hands)
	o.follow()
	return changed
}

// handOver gives the reader what it needs of each board. What was held on another controller is let go.
func (o *session) handOver(hands map[string]*hand) {
	o.mu.Lock()
	defer o.mu.Unlock()
	for serial, h := range hands {
		was := o.hands[serial]
		if was == nil {
			continue
		}
		h.seq, h.dimmed, h.touched, h.woke = was.seq, was.dimmed, was.touched, was.woke
		if was.controller != h.controller {
			o.s.cfg.Engine.ReleaseAll(o.holds(serial))
		}
	}
	o.hands = hands
}

// describe finds which controls a board has, and of which kind they are: those of the controller, else those that it describes.
func (o *session) describe(s *screen) {
	s.kinds, s.controls = map[string]string{}, nil
	back := map[string]string{} // the control of the board, by that of the controller
	if c := o.s.cfg.Shows.Program().Controllers[s.controller]; c != nil {
		for id := range c.Controls {
			back[id] = id
		}
		for from, to := range s.link.Map {
			if back[from] == from {
				delete(back, from)
			}
			if _, has := c.Controls[to]; has {
				back[to] = from
			}
		}
		for id, control := range c.Controls {
			if hardware := back[id]; hardware != "" {
				s.kinds[hardware] = control.Kind
			}
		}
	}
	if s.controller == "" { // its own controls, to say on them that it is attached to nothing
		if l, _ := o.s.sheetOf(s.described); l != nil {
			for _, c := range l.Controls() {
				s.kinds[c.ID] = c.Kind
			}
		}
	}
	for id := range s.described.Shows {
		if _, has := s.kinds[id]; !has && id != "*" {
			s.kinds[id] = ""
		}
	}
	s.controls = slices.Sorted(maps.Keys(s.kinds))
	maps.DeleteFunc(s.shown, func(id string, _ *shown) bool { _, has := s.kinds[id]; return !has })
	for _, id := range s.controls {
		if s.shown[id] == nil && s.described.Of(id).Anything() {
			s.shown[id] = &shown{}
		}
	}
}

// follow asks the feed for the show, the controllers, and the pages that the boards show, and takes what it says now.
func (o *session) follow() {
	topics := []string{"show", "controllers"}
	for _, s := range o.screens {
		if s.row.Profile == "" {
			continue
		}
		topics = append(topics, "standing:"+s.row.Profile)
		for _, pages := range s.row.Zones {
			for _, p := range pages {
				topics = append(topics, "page:"+p)
			}
		}
	}
	values := o.s.cfg.Hub.Follow(o.client, topics).Values
	o.edited = values["show"]
	again := false
	for _, s := range o.screens {
		again = o.turned(s, values["controller/"+s.controller]) || again
	}
	if again { // now it is known which pages
		o.follow()
		return
	}
	for _, s := range o.screens {
		o.dress(s, values)
	}
}

// turned takes which pages a controller shows; true: they are others.
func (o *session) turned(s *screen, raw json.RawMessage) bool {
	var row mirror.ControllerRow
	if raw == nil || json.Unmarshal(raw, &row) != nil {
		return false
	}
	same := row.Profile == s.row.Profile && maps.EqualFunc(row.Zones, s.row.Zones, slices.Equal)
	s.row = row
	return !same
}

// dress gives each control the face that is to be seen on it.
func (o *session) dress(s *screen, values map[string]json.RawMessage) {
	quiet, says := o.s.quiet.Load(), o.s.said()
	first := true
	for _, id := range s.controls {
		sh := s.shown[id]
		if sh == nil {
			continue
		}
		switch {
		case first && says != "":
			sh.want(nil, says)
		case s.reason != "":
			notice := ""
			if first {
				notice = s.reason
			}
			sh.want(nil, notice)
		case quiet:
			sh.want(nil, "quiet")
		default:
			mapping := s.row.Controls[s.link.Control(id)]
			if raw, has := values["face/"+mapping]; mapping != "" && has {
				sh.want(raw, "")
			} else if mapping == "" {
				sh.want(nil, "")
			}
		}
		first = false
	}
}

// want notes what a control is to show.
func (sh *shown) want(raw json.RawMessage, notice string) {
	if bytes.Equal(raw, []byte("null")) {
		raw = nil
	}
	if bytes.Equal(raw, sh.raw) && notice == sh.notice && sh.said != "" {
		return
	}
	sh.raw, sh.notice, sh.face = raw, notice, face.Face{}
	if raw != nil && json.Unmarshal(raw, &sh.face) != nil {
		sh.raw = nil
	}
	sh.stale()
}

func (sh *shown) stale() {
	if !sh.dirty {
		sh.dirty, sh.since = true, time.Now()
	}
}

// took takes what has changed.
func (o *session) took(ctx context.Context, values map[string]json.RawMessage) error {
	if raw, edited := values["show"]; edited {
		o.edited = raw
		if o.pages() {
			return o.send(ctx, wire.Controllers{Type: wire.TypeControllers, Controllers: o.attachments()})
		}
		return nil
	}
	other := false
	for _, s := range o.screens {
		if raw := values["controller/"+s.controller]; raw != nil {
			o.turned(s, raw)
			other = true // also on the same pages another mapping may answer
		}
	}
	if other {
		o.follow()
		return nil
	}
	for _, s := range o.screens {
		o.dress(s, values)
	}
	return nil
}

// timed has what blinks or moves be drawn again.
func (o *session) timed(now time.Time) {
	for _, s := range o.screens {
		for _, sh := range s.shown {
			if sh.raw == nil {
				continue
			}
			every := time.Duration(0)
			switch {
			case sh.face.Run != nil && sh.face.Run.State == "running" && !sh.face.Run.Open:
				every = progress
			case sh.face.Live != nil:
				every = progress
			case sh.face.Blink:
				every = blinks
			}
			if every > 0 && now.Sub(sh.drawn) >= every {
				sh.stale()
			}
		}
	}
}
