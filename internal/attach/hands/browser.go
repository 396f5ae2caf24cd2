package hands

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/attach"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/show"
	"synaptor/internal/incident"
)

// Message is what a browser says of the hardware that it carries, on a socket of its own.
type Message struct {
	// Plug lists what it carries from now on; null: the same as before.
	Plug []Carried `json:"plug"`
	// From is the id of what says something: bytes of MIDI, or events; Release says that its window has lost the focus.
	From    string  `json:"from,omitempty"`
	MIDI    []byte  `json:"midi,omitempty"` // in base64
	Events  []Event `json:"events,omitempty"`
	Release bool    `json:"release,omitempty"`
}

// Carried is a piece of hardware that a browser carries.
type Carried struct {
	ID   string `json:"id"`   // by which the browser calls it here
	Kind string `json:"kind"` // keys-here, midi-here or gamepad
	Name string `json:"name,omitempty"`
	// Place tells those apart that are called the same.
	Place string `json:"place,omitempty"`
	// Controller is, of keys, the slug of the controller that is shown.
	Controller string `json:"controller,omitempty"`
	// Axes are where its axes stand now.
	Axes []Event `json:"axes,omitempty"`
}

// Event is an event of a key, a button or an axis.
type Event struct {
	Source string   `json:"source"`
	Edge   string   `json:"edge"` // down, up or at
	Value  float64  `json:"value,omitempty"`
	Low    float64  `json:"low,omitempty"`
	High   float64  `json:"high,omitempty"`
	Mods   []string `json:"mods,omitempty"` // Ctrl, Alt, Shift, Meta
}

// Answer is what a browser is told: bytes for a device that it carries, or what is wrong.
type Answer struct {
	To    string `json:"to,omitempty"`
	MIDI  []byte `json:"midi,omitempty"` // in base64
	Error string `json:"error,omitempty"`
}

const (
	//limit:count pieces of hardware that a browser carries | in the answer
	maxCarried = 32
	//limit:bytes a message of a browser that carries hardware | the connection ends
	maxMessage = 64 << 10
	//limit:count time in which a browser takes a message for its hardware; the connection ends | nowhere; it connects again
	writeLimit = 5 * time.Second
)

// browser is one that carries hardware.
type browser struct {
	s     *Service
	ws    *websocket.Conn
	via   string
	from  attach.Sender
	place string // tells its windows apart
	out   chan Answer

	mu    sync.Mutex
	ports map[string]*Port
}

var windows atomic.Int64

// Serve serves a browser that carries hardware until it is lost. What its hardware holds is let go then.
func (s *Service) Serve(ctx context.Context, ws *websocket.Conn, from attach.Sender) {
	via := from.String()
	ws.SetReadLimit(maxMessage)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	b := &browser{s: s, ws: ws, via: via, from: from, place: fmt.Sprintf("window %d", windows.Add(1)), ports: map[string]*Port{}, out: make(chan Answer, 16)}
	defer b.plug(ctx, []Carried{})
	for where, f := range map[string]func(context.Context){"browser's hardware": b.write, "browser's heartbeat": func(c context.Context) { attach.Beat(c, ws, nil, b.release) }} {
		go func() {
			defer cancel()
			incident.Contain(where, via, func() { f(ctx) })
		}()
	}
	incident.Contain("browser's inputs", via, func() { b.read(ctx) })
}

func (b *browser) read(ctx context.Context) {
	for {
		_, data, err := b.ws.Read(ctx)
		if err != nil {
			return
		}
		at := time.Now()
		var m Message
		if err := json.Unmarshal(data, &m); err != nil {
			b.say(ctx, Answer{Error: "This is not a message: " + err.Error()})
			continue
		}
		if m.Plug != nil {
			b.plug(ctx, m.Plug)
		}
		if m.From == "" {
			continue
		}
		b.mu.Lock()
		p := b.ports[m.From]
		b.mu.Unlock()
		if p == nil {
			b.say(ctx, Answer{Error: fmt.Sprintf("It carries no %q.", m.From)})
			continue
		}
		if m.Release {
			p.Released()
		}
		if p.plug.Kind == show.LinkMIDIHere {
			p.MIDI(m.MIDI, at)
			continue
		}
		events, err := read(m.Events)
		if err != nil {
			b.say(ctx, Answer{Error: show.Sentence(err)})
		}
		p.Take(events, at)
	}
}

// read makes events of what a browser says; it fails where one of them is none.
func read(all []Event) (out []hands.Event, err error) {
	sorts := map[string]hands.Sort{"down": hands.On, "up": hands.Off, "at": hands.At}
	for _, e := range all {
		one := hands.Event{Source: e.Source, Sort: sorts[e.Edge], Value: e.Value, Low: e.Low, High: e.High}
		for _, name := range e.Mods {
			one.Mods |= hands.ModOf(name)
		}
		if one.Sort == 0 || e.Source == "" || len(e.Source) > show.MaxSource {
			err = errors.Join(err, fmt.Errorf("%q of %q is no event", e.Edge, e.Source))
			continue
		}
		out = append(out, one)
	}
	return out, err
}

// plug takes up what a browser carries now, and lets go of what it does not any more.
func (b *browser) plug(ctx context.Context, all []Carried) {
	if len(all) > maxCarried {
		b.say(ctx, Answer{Error: fmt.Sprintf("A browser carries at most %d pieces of hardware.", maxCarried)})
		all = all[:maxCarried]
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	for id, p := range b.ports {
		if !slices.ContainsFunc(all, func(c Carried) bool { return c.ID == id }) {
			p.Unplug()
			delete(b.ports, id)
		}
	}
	for _, c := range all {
		if b.ports[c.ID] != nil {
			continue
		}
		if c.Kind != show.LinkKeysHere && c.Kind != show.LinkMIDIHere && c.Kind != show.LinkGamepad || c.ID == "" || len(c.Name)+len(c.Place)+len(c.Controller) > 3*show.MaxMatch || c.Kind != show.LinkKeysHere && c.Name == "" {
			b.say(ctx, Answer{Error: fmt.Sprintf("%q of kind %q is no hardware that a browser carries.", c.Name, c.Kind)})
			continue
		}
		stands, _ := read(c.Axes) // what is none stands nowhere
		p := Plug{Kind: c.Kind, Name: c.Name, Place: c.Place, Via: b.via, From: b.from, Stands: stands}
		switch c.Kind {
		case show.LinkKeysHere:
			p.Controller, p.Private, p.Name, p.Place = c.Controller, true, "", b.place
		case show.LinkMIDIHere:
			p.Send = func(data []byte) error {
				select {
				case b.out <- Answer{To: c.ID, MIDI: data}:
					return nil
				case <-ctx.Done():
					return ctx.Err()
				}
			}
		}
		b.ports[c.ID] = b.s.Plug(p)
	}
}

// say has a browser be told something.
func (b *browser) say(ctx context.Context, a Answer) {
	select {
	case b.out <- a:
	case <-ctx.Done():
	}
}

func (b *browser) write(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case a := <-b.out:
			data, err := json.Marshal(a)
			if err != nil {
				return
			}
			c, cancel := context.WithTimeout(ctx, writeLimit)
			err = b.ws.Write(c, websocket.MessageText, data)
			cancel()
			if err != nil {
				return
			}
		}
	}
}

// release lets go of what all of its hardware holds: it has vanished.
func (b *browser) release() {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, p := range b.ports {
		p.Released()
	}
}
