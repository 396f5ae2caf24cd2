package hands

import (
	"cmp"
	"fmt"
	"sync"
	"time"

	"synaptor/internal/attach"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/input"
	"synaptor/internal/core/midi"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Plug describes hardware that is here.
type Plug struct {
	Kind string // of link
	// Name is how it calls itself, Place where it is plugged in: one alone does not tell two equal ones apart.
	Name, Place string
	// Via is what carries it, for people.
	Via string
	// Controller is, of the keys of a browser, the slug of the controller that it shows.
	Controller string
	// Private says that people may type on it.
	Private bool
	// Problem is what is wrong with it, in a sentence: then nothing comes from it.
	Problem string
	// Stands is where its axes stand, Down which of its keys are down: nothing is done because of these.
	Stands []hands.Event
	Down   []string
	// From is whoever carries it; the zero value: this computer.
	From attach.Sender
	// Send sends bytes of MIDI to it; nil: nothing can be sent.
	Send func([]byte) error
	// Grab keeps it from other programs, or gives it back; nil: it cannot be kept.
	Grab func(on bool) error
}

// Port is a piece of hardware that is plugged in.
type Port struct {
	s     *Service
	plug  Plug
	id    string
	holds string // what tells apart who holds a control
	actor string
	back  *sender // nil: nothing can be sent

	mu         sync.Mutex
	translator *hands.Translator
	stands     map[string]hands.Event // where its axes stand now, and which keys are down since it was plugged in
	reader     midi.Reader
	clock      midi.Clock
	rate       hardware.Limiter
	link       *show.Link
	slug       string // of the controller
	reason     string // why nothing is done
	bindings   []show.Binding
	row        hardware.Row
	touches    hardware.Touches
	moved      map[string]time.Time // by source: when a hand moved it last
	stuck      bool
	grabbed    bool
	confirm    *time.Timer // lets go of it unless somebody says that all is well; nil: it is not taken for a trial
	gone       bool
}

// Plug takes hardware up. What it says is handed to the port.
func (s *Service) Plug(plug Plug) *Port {
	p := &Port{s: s, plug: plug, id: hardware.ID(plug.Kind, plug.Name+plug.Controller, plug.Place), translator: hands.NewTranslator(nil), moved: map[string]time.Time{}, stands: map[string]hands.Event{}}
	for _, e := range plug.Stands {
		p.stands[e.Source] = e
	}
	for _, key := range plug.Down {
		p.stands[key] = hands.Event{Source: key, Sort: hands.On}
	}
	p.actor = cmp.Or(plug.Name, "Keys of "+plug.Via)
	p.row = hardware.Row{ID: p.id, Kind: plug.Kind, Match: plug.Name, Place: plug.Place, Name: cmp.Or(plug.Name, "Keys"), Via: plug.Via, Here: true, Since: time.Now(), Problem: plug.Problem,
		CanTake: plug.Grab != nil, Private: plug.Private}
	if plug.Send != nil {
		p.back = newSender(plug.Send)
	}
	s.mu.Lock()
	s.count++
	p.holds = fmt.Sprintf("hands:%d", s.count)
	s.ports = append(s.ports, p)
	delete(s.away, p.id)
	s.mu.Unlock()
	s.attachAll()
	s.wake()
	return p
}

// Unplug takes it away: what it holds is let go.
func (p *Port) Unplug() {
	p.mu.Lock()
	p.gone = true
	p.letGoOfGrab()
	row := p.row
	p.mu.Unlock()
	p.s.cfg.Engine.ReleaseAll(p.holds)
	if p.back != nil {
		p.back.close()
	}
	s := p.s
	s.mu.Lock()
	for i, other := range s.ports {
		if other == p {
			s.ports = append(s.ports[:i:i], s.ports[i+1:]...)
			break
		}
	}
	if row.Link == "" || row.Kind == show.LinkKeysHere {
		hardware.Forget(s.cfg.Hub, p.id)
	} else {
		row.Here, row.Since, row.Problem, row.Taken, row.TakenUntil = false, time.Now(), "", false, nil
		s.away[p.id] = row
		hardware.Publish(s.cfg.Hub, row)
	}
	s.mu.Unlock()
	s.attachAll() // another one of its name may be the only one now
	s.timed.lost(p)
}

// Row is what is told of it.
func (p *Port) Row() hardware.Row {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.row
}

// change changes what is told of it; the lock is held.
func (p *Port) change(f func(r *hardware.Row)) {
	was := p.row
	f(&p.row)
	if was != p.row && !p.gone {
		hardware.Publish(p.s.cfg.Hub, p.row)
	}
}

// attach has it move the controls of what a link attaches it to; nil: nothing does.
func (p *Port) attach(prog *program.Program, l *show.Link) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.gone {
		return
	}
	slug, controller, reason := "", "", ""
	var bindings []show.Binding
	switch {
	case l == nil:
		reason = "It is attached to no controller of this show."
	case l.Off:
		reason = "Its link is switched off."
	}
	if l != nil {
		if c := prog.Show.Controller(l.Controller); c != nil {
			slug, controller = c.Slug, c.ID
			bindings = prog.Sheets.Controller(c.Layout).Bound(l)
		}
	}
	next := p.fresh(bindings)
	if slug != p.slug || reason != "" {
		p.s.cfg.Engine.ReleaseAll(p.holds)
	} else {
		for _, m := range next.Keep(p.translator) {
			_ = p.do(prog, m, time.Now()) // where its control is gone, so is what it held
		}
	}
	p.translator, p.link, p.slug, p.reason, p.bindings = next, l, slug, reason, bindings
	p.grabAsLinked()
	p.tellStuck()
	p.change(func(r *hardware.Row) {
		r.Link, r.Controller, r.Layout = "", controller, ""
		for _, sheet := range prog.Sheets.Controllers() {
			if sheet.Fits(p.plug.Kind, p.plug.Name) {
				r.Layout = sheet.Type
				break
			}
		}
		if l != nil {
			r.Link = l.ID
		}
	})
	if p.row.Link == "" { // so far nobody was told of it
		hardware.Publish(p.s.cfg.Hub, p.row)
	}
}

// fresh makes a translator by bindings, to which nothing has happened yet; the lock is held.
func (p *Port) fresh(bindings []show.Binding) *hands.Translator {
	t := hands.NewTranslator(bindings)
	for _, e := range p.stands {
		t.Stand(e, e.Sort == hands.On)
	}
	return t
}

// MIDI takes bytes as they come.
func (p *Port) MIDI(bytes []byte, at time.Time) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.reader.Read(bytes, func(m midi.Message) {
		if t, ok := p.clock.Heard(m); ok {
			p.s.timed.heard(p, t)
		}
		if id, ok := midi.ReadIdentity(m); ok {
			p.change(func(r *hardware.Row) { r.Via = p.plug.Via + ", " + id.String() })
		}
		for _, e := range hands.OfMIDI(m) {
			p.take(e, at)
		}
	})
}

// Take takes events as they come.
func (p *Port) Take(events []hands.Event, at time.Time) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for _, e := range events {
		p.take(e, at)
	}
}

// take takes an event; the lock is held.
func (p *Port) take(e hands.Event, at time.Time) {
	if p.gone {
		return
	}
	switch _, stands := p.stands[e.Source]; {
	case stands && e.Sort == hands.At:
		p.stands[e.Source] = e
	case e.Sort == hands.Off:
		delete(p.stands, e.Source)
	}
	if e.Sort != hands.Off && !p.rate.Allows(at) {
		if p.rate.Tells(at) {
			p.change(func(r *hardware.Row) {
				r.Problem = fmt.Sprintf("More than %d inputs a second came from it: those beyond were not done.", hardware.InputsPerSecond)
			})
		}
		return
	}
	touch := hardware.Touch{At: at, Control: hands.Combination(e.Mods, e.Source), Edge: edges[e.Sort], Amount: e.Value}
	if p.s.Learns(func() hardware.Row { return p.row }, e) {
		touch.Why = hardware.Learned
		p.tell(touch, false)
		return
	}
	if p.reason != "" {
		touch.Why = p.reason
		p.tell(touch, false)
		return
	}
	moves, known := p.translator.Take(e)
	prog := p.s.cfg.Shows.Program()
	if e.Sort == hands.At && len(moves) > 0 && p.back != nil {
		p.moved[e.Source] = at
		p.back.forget(e.Source + " level")
	}
	for _, m := range moves {
		touch.To = m.Control
		if p.s.quiet.Load() && m.Edge != input.Up {
			touch.Why = hardware.Quiet
			continue
		}
		if err := p.do(prog, m, at); err != nil {
			touch.To, touch.Why = "", err.Error()
		}
	}
	if len(moves) == 0 {
		if touch.Why = "Nothing is bound to it."; known {
			touch.Why = "Nothing comes of it."
		}
		if e.Sort == hands.Off && !known {
			return // that it went down was told
		}
	}
	p.tell(touch, known)
	if p.stuck {
		p.tellStuck()
	}
}

var edges = map[hands.Sort]string{hands.On: "down", hands.Off: "up", hands.At: "at", hands.By: "by"}

// do does a move; it fails where there is no such control.
func (p *Port) do(prog *program.Program, m hands.Move, at time.Time) error {
	in, err := attach.Address{Controller: p.slug, Control: m.Control}.Resolve(prog)
	in.Edge, in.Amount = m.Edge, m.Amount
	if err == nil {
		in, err = attach.By(in, p.plug.From, prog)
	}
	if err != nil {
		return err
	}
	if !attach.GoodAmount(in.Amount) {
		return fmt.Errorf("%v is too far", in.Amount)
	}
	p.s.cfg.Engine.Input(attach.Stamp(in, at, p.plug.Kind, p.holds, p.actor))
	return nil
}

// tell tells what came in. What people type is told only to who looks, and not kept.
func (p *Port) tell(t hardware.Touch, bound bool) {
	if p.plug.Private && !bound {
		if p.s.cfg.Hub.Followed([]string{hardware.Typed(p.id)}) {
			p.touches.Pass(p.s.cfg.Hub, p.id, t)
		}
		return
	}
	p.touches.Add(p.s.cfg.Hub, p.id, t)
	p.change(func(r *hardware.Row) { r.Last = &t })
}

// tellStuck says what was down when it was plugged in, and does nothing until it was let go; the lock is held.
func (p *Port) tellStuck() {
	stuck := p.translator.Stuck()
	text := p.plug.Problem
	if p.stuck = len(stuck) > 0; p.stuck {
		text = fmt.Sprintf("%s has been down since it was plugged in: it does nothing until it is let go.", stuck[0])
	}
	p.change(func(r *hardware.Row) { r.Problem = text })
}

// release lets go of everything that it holds.
func (p *Port) release() {
	p.s.cfg.Engine.ReleaseAll(p.holds)
	p.mu.Lock()
	defer p.mu.Unlock()
	p.translator = p.fresh(p.bindings)
}

// Released lets go of everything that it holds: its window has lost the focus.
func (p *Port) Released() { p.release() }
