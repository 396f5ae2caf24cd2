package attach

import (
	"context"
	"encoding/json"
	"fmt"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/access"
	"synaptor/internal/core/input"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
)

const (
	//limit:bytes a message of a live client; the connection ends | in the closing message
	maxMessage = 64 << 10
	//limit:count time in which a live client takes a message; the connection ends | nowhere; it connects again
	writeLimit = 5 * time.Second
	//limit:count topics of a live client | in the answer
	maxTopics = 500
)

// LiveMessage is what a live client sends: the topics it follows from now on,
// or a touch.
type LiveMessage struct {
	Topics []string   `json:"topics,omitempty"`
	Input  *LiveInput `json:"input,omitempty"`
}

// LiveInput is an edge of a control of a panel or of the drawing.
type LiveInput struct {
	Controller string     `json:"controller"`
	Control    string     `json:"control"`
	Edge       input.Edge `json:"edge"` // down, up, cancel, turn, slide, swipe or type
	// Amount is the steps of a turn, the position of a slide from 0 to 1, or -1 or
	// 1 for a swipe to the left or the right.
	Amount float64 `json:"amount,omitempty"`
	// Text is what was typed at a press; the edge is type then, which is a whole press.
	Text string `json:"text,omitempty"`
	Page string `json:"page,omitempty"`
	Via  string `json:"via"` // panel, patch or desk
	Seq  int64  `json:"seq"` // counts up; an older one is ignored
}

// liveError is what a live client is told about a message that made no sense.
type liveError struct {
	Type string `json:"type"` // error
	Text string `json:"text"`
}

// follow asks the writer for a snapshot of topics.
type follow []string

var sockets atomic.Int64

// Sender is who sends something: somebody who has signed in, or a program with a token; else a browser, by the first letters of its
// session, or a program at an address.
type Sender struct {
	Person, Browser, Address string
	// ID is that of the person, panel or program; empty: nobody has to be known.
	ID string
	// Watches says that it may press nothing.
	Watches bool
	// Rights narrow what it may press and change; nil: nothing does.
	Rights *access.Rights
	// SkipsGuards says that what it presses passes no guard.
	SkipsGuards bool
	// Touch notes what it touches; may be nil.
	Touch func(controller, control string, at time.Time)
	// Spend counts an input; false: it sends more than it may. Nil: it sends as much as it likes.
	Spend func() bool
}

// String names the sender, for the journal.
func (s Sender) String() string {
	if s.Person != "" {
		return s.Person
	}
	if s.Browser != "" {
		return "Browser " + s.Browser
	}
	return "Program at " + s.Address
}

// through names the sender of a touch that came by a link: a panel is a page in a browser.
func (s Sender) through(via string) string {
	if s.Person == "" && s.Browser != "" && via == "panel" {
		return "Panel " + s.Browser
	}
	return s.String()
}

// Live serves one live socket until it is lost; what it holds down is released
// then.
func Live(ctx context.Context, ws *websocket.Conn, from Sender, hub *feed.Hub, shows Programs, e *engine.Engine) {
	ws.SetReadLimit(maxMessage)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	l := &liveSocket{ws: ws, name: fmt.Sprintf("live:%d", sockets.Add(1)), from: from, hub: hub, client: hub.Join(), shows: shows, engine: e,
		replies: make(chan any, 16), pulse: NewPulse(), held: map[string]bool{}}
	defer hub.Leave(l.client)
	defer e.ReleaseAll(l.name)
	go func() {
		defer cancel()
		incident.Contain("live", l.name, func() { l.write(ctx) })
	}()
	go func() {
		defer cancel()
		incident.Contain("live", l.name, func() { Beat(ctx, ws, l.pulse, func() { e.ReleaseAll(l.name) }) })
	}()
	l.read(ctx)
}

type liveSocket struct {
	ws      *websocket.Conn
	name    string
	from    Sender
	hub     *feed.Hub
	client  *feed.Client
	shows   Programs
	engine  *engine.Engine
	replies chan any
	pulse   *Pulse
	held    map[string]bool // what is down, by controller and control: the reader's own
	seq     int64
}

func (l *liveSocket) read(ctx context.Context) {
	for {
		_, data, err := l.ws.Read(ctx)
		if err != nil {
			return
		}
		at := time.Now()
		var m LiveMessage
		if err := json.Unmarshal(data, &m); err != nil {
			l.reply(ctx, liveError{"error", "This is not a message: " + err.Error()})
			continue
		}
		if m.Topics != nil {
			if len(m.Topics) > maxTopics {
				l.reply(ctx, liveError{"error", fmt.Sprintf("At most %d topics can be followed.", maxTopics)})
				continue
			}
			l.reply(ctx, follow(m.Topics))
		}
		if m.Input != nil {
			l.input(ctx, *m.Input, at)
		}
	}
}

func (l *liveSocket) input(ctx context.Context, in LiveInput, at time.Time) {
	if in.Seq <= l.seq {
		return
	}
	l.seq = in.Seq
	typed := in.Edge == input.Types
	switch in.Edge {
	case input.Types, input.Down, input.Up, input.Cancel, input.Turns, input.Moves, input.Wipes:
	default:
		l.reply(ctx, liveError{"error", fmt.Sprintf("%q is not an edge; it is down, up, cancel, turn, slide, swipe or type.", in.Edge)})
		return
	}
	if l.from.Watches {
		l.reply(ctx, liveError{"error", "A viewer presses nothing."})
		return
	}
	if !GoodAmount(in.Amount) {
		l.reply(ctx, liveError{"error", "An amount is a number up to 1000."})
		return
	}
	if in.Via != "patch" && in.Via != "desk" {
		in.Via = "panel"
	}
	p := l.shows.Program()
	r, err := Address{Controller: in.Controller, Control: in.Control, Page: in.Page}.Resolve(p)
	if r.Edge, r.Amount = in.Edge, in.Amount; typed && err == nil {
		r.Edge, r.Gesture = "", input.Press
		r, err = Valued(r, in.Text)
	}
	if err == nil {
		r, err = By(r, l.from, p)
	}
	if err != nil {
		l.reply(ctx, liveError{"error", err.Error()})
		return
	}
	l.holds(in)
	l.engine.Input(Stamp(r, at, in.Via, l.name, l.from.through(in.Via)))
}

// holds notes what is down.
func (l *liveSocket) holds(in LiveInput) {
	key := in.Controller + "/" + in.Control
	switch in.Edge {
	case input.Down:
		l.held[key] = true
	case input.Up, input.Cancel:
		delete(l.held, key)
	default:
		return
	}
	l.pulse.Holds(len(l.held))
}

func (l *liveSocket) reply(ctx context.Context, m any) {
	select {
	case l.replies <- m:
	case <-ctx.Done():
	}
}

// write sends replies and what the feed has. While a write is under way the
// feed merges what comes.
func (l *liveSocket) write(ctx context.Context) {
	wake, later, told := l.client.Wake, (<-chan time.Time)(nil), time.Time{}
	for {
		var data []byte
		select {
		case m := <-l.replies:
			switch m := m.(type) {
			case follow:
				// Here, so that no delta overtakes its snapshot.
				data = l.hub.Follow(l.client, m).Encode()
			case liveError:
				data, _ = json.Marshal(m) // two texts cannot fail
			}
		case <-wake:
			if wait := time.Until(told.Add(l.hub.Pace())); wait > 0 {
				wake, later = nil, time.After(wait)
				continue
			}
			data, told = l.take(), time.Now()
		case <-later:
			wake, later = l.client.Wake, nil
			data, told = l.take(), time.Now()
		case <-ctx.Done():
			return
		}
		if data == nil {
			continue
		}
		if l.within(ctx, func(c context.Context) error { return l.ws.Write(c, websocket.MessageText, data) }) != nil {
			return
		}
	}
}

// take is what the feed has; nil: nothing.
func (l *liveSocket) take() []byte {
	d, ok := l.client.Take()
	if !ok {
		return nil
	}
	return d.Encode()
}

func (l *liveSocket) within(ctx context.Context, f func(context.Context) error) error {
	c, cancel := context.WithTimeout(ctx, writeLimit)
	defer cancel()
	return f(c)
}
