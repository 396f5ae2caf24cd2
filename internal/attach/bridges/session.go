package bridges

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/attach"
	"synaptor/internal/attach/hardware"
	"synaptor/internal/core/hands"
	"synaptor/internal/core/input"
	"synaptor/internal/core/show"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
	"synaptor/internal/wire"
)

const (
	//limit:count time in which a bridge says hello | the connection ends
	helloLimit = 5 * time.Second
	//limit:count time in which a bridge takes a message; the connection ends | nowhere; it connects again
	writeLimit = 5 * time.Second
	// lostAfter is after how long without a message the connection ends; what was held was let go before.
	lostAfter = 15 * time.Second
	// ackLimit is how long an acknowledgement may take before the bridge is told.
	//
	//limit:count time in which a face is acknowledged | in an error to the bridge, and in Rig
	ackLimit = 5 * time.Second
)

// session is one bridge that is connected.
type session struct {
	s       *Service
	ws      *websocket.Conn
	id      string
	name    string // of the bridge
	version int
	token   string        // with which it resumes
	from    attach.Sender // who it presses as
	client  *feed.Client
	said    []wire.Controller
	cancel  context.CancelFunc
	done    chan struct{}
	woken   chan struct{} // what boards are attached to has changed, or the quiet
	room    chan struct{} // faces were acknowledged
	replies chan any      // what the reader has to say
	rate    hardware.Limiter

	heard atomic.Int64 // when a message came last, in nanoseconds
	acked atomic.Int64
	lost  atomic.Bool // nothing was heard for too long: what it held was let go

	mu    sync.Mutex
	hands map[string]*hand // what the reader needs of each board, by serial number

	// Owned by the writer.
	screens []*screen
	edited  json.RawMessage // the edit of the show that was told last
	memory  *memory
	sent    *wire.Last // pictures that the bridge has by now, or is about to have
	faces   []onWay
	beside  []onWay // lost faces: the number is that of the face before
	seq     int64
	late    bool // it was told that it does not acknowledge
}

// hand is what a board that somebody touches needs: what it is attached to, and what came before.
type hand struct {
	attachment
	seq     int64
	dimmed  bool
	touched time.Time
	woke    map[string]bool // controls whose touch has only woken the board: their release does nothing
}

// onWay is a face that was sent and is not acknowledged yet.
type onWay struct {
	seq     int64
	picture string
	at      time.Time
}

var sessions atomic.Int64

// Serve serves one bridge until it is lost. What it held is let go then.
func (s *Service) Serve(ctx context.Context, ws *websocket.Conn) {
	ws.SetReadLimit(wire.MaxMessage)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	one := &session{s: s, ws: ws, id: fmt.Sprintf("wire:%d", sessions.Add(1)), cancel: cancel, done: make(chan struct{}), woken: make(chan struct{}, 1), room: make(chan struct{}, 1),
		replies: make(chan any, 64), hands: map[string]*hand{}}
	defer close(one.done)
	hello, err := one.hello(ctx)
	if err == nil {
		ctx, one.from, err = s.cfg.Lets(ctx, hello.Token)
	}
	if err != nil {
		one.refuse(ctx, err)
		return
	}
	one.name, one.version, one.said = hello.Bridge, hello.Version, hello.Controllers
	s.enter(one, hello.Resume, hello.Keeps)
	one.client = s.cfg.Hub.Join()
	defer s.leave(one)
	defer s.cfg.Hub.Leave(one.client)
	defer one.release()
	var all sync.WaitGroup
	for where, f := range map[string]func(context.Context){"bridge": one.write, "bridge's heartbeat": one.watch} {
		all.Go(func() {
			defer cancel()
			incident.Contain(where, one.name, func() { f(ctx) })
		})
	}
	incident.Contain("bridge's inputs", one.name, func() { one.read(ctx) })
	cancel()
	all.Wait()
}

// hello waits for the first message.
func (o *session) hello(ctx context.Context) (*wire.Hello, error) {
	c, cancel := context.WithTimeout(ctx, helloLimit)
	defer cancel()
	kind, data, err := o.ws.Read(c)
	if err != nil {
		return nil, err
	}
	o.heard.Store(time.Now().UnixNano())
	if kind != websocket.MessageText {
		return nil, errors.New("the first message is a hello")
	}
	if v := versionOf(data); v > wire.Newest {
		return nil, fmt.Errorf("this Synaptor speaks the versions %d to %d of the wire, and the bridge version %d", wire.Oldest, wire.Newest, v)
	}
	m, err := wire.Read(data)
	if err != nil {
		return nil, err
	}
	h, is := m.(*wire.Hello)
	if !is {
		return nil, errors.New("the first message is a hello")
	}
	return h, nil
}

// versionOf is the version of a hello, whatever else may be in it: that of a later one is not known here.
func versionOf(data []byte) int {
	var m struct {
		Version int `json:"version"`
	}
	_ = json.Unmarshal(data, &m) // what is no hello is told otherwise
	return m.Version
}

func (o *session) refuse(ctx context.Context, err error) {
	var closed websocket.CloseError
	if errors.As(err, &closed) || ctx.Err() != nil {
		return
	}
	var served []int
	for v := wire.Oldest; v <= wire.Newest; v++ {
		served = append(served, v)
	}
	if o.send(ctx, wire.Refused{Type: wire.TypeRefused, Text: show.Sentence(err), Versions: served}) == nil {
		_ = o.ws.Close(websocket.StatusPolicyViolation, "refused")
	}
}

// look has the writer look at everything again.
func (o *session) look() {
	select {
	case o.woken <- struct{}{}:
	default:
	}
}

// end ends the session.
func (o *session) end() { o.cancel() }

// release lets go of everything that is held.
func (o *session) release() {
	o.mu.Lock()
	defer o.mu.Unlock()
	for serial, h := range o.hands {
		h.woke = map[string]bool{}
		o.s.cfg.Engine.ReleaseAll(o.holds(serial))
	}
}

// holds is what tells apart who holds a control.
func (o *session) holds(serial string) string { return o.id + "/" + serial }

// read takes what the bridge says. Inputs go to the engine at once.
func (o *session) read(ctx context.Context) {
	for {
		kind, data, err := o.ws.Read(ctx)
		if err != nil {
			return
		}
		at := time.Now()
		o.heard.Store(at.UnixNano())
		o.lost.Store(false)
		if kind != websocket.MessageText {
			o.reply("", "A bridge sends texts; pictures only come to it.")
			continue
		}
		m, err := wire.Read(data)
		if err != nil {
			o.reply("", show.Sentence(err))
			continue
		}
		switch m := m.(type) {
		case *wire.Input:
			o.input(m, at)
		case *wire.Ack:
			o.ack(m.Seq)
		case *wire.Battery:
			o.s.change(o, m.Controller, func(b *board) { b.row.Battery = &m.Level })
		case *wire.Trouble:
			for _, c := range o.said {
				if m.Controller == "" || m.Controller == c.Serial {
					o.s.change(o, c.Serial, func(b *board) { b.row.Problem = m.Text })
				}
			}
		case *wire.Hello:
			o.reply("", "A hello was said already.")
		}
	}
}

// reply tells the bridge what is wrong; where it does not listen, nothing waits for it.
func (o *session) reply(serial, text string) {
	o.say(wire.Trouble{Type: wire.TypeError, Controller: serial, Text: text})
}

func (o *session) ack(seq int64) {
	if seq > o.acked.Load() {
		o.acked.Store(seq)
		select {
		case o.room <- struct{}{}:
		default:
		}
	}
}

// edges are those of the types of inputs.
var edges = map[string]input.Edge{wire.TypeDown: input.Down, wire.TypeUp: input.Up, wire.TypeTurn: input.Turns, wire.TypeSlide: input.Moves, wire.TypeSwipe: input.Wipes}

// input takes what somebody did to a control.
func (o *session) input(m *wire.Input, at time.Time) {
	if m.Type != wire.TypeUp && !o.rate.Allows(at) {
		if o.rate.Tells(at) {
			o.reply(m.Controller, fmt.Sprintf("More than %d inputs a second: those beyond are not done.", hardware.InputsPerSecond))
		}
		return
	}
	t := hardware.Touch{At: at, Control: m.Control, Edge: m.Type, Amount: m.Amount}
	if e, is := said(m); is && o.s.cfg.Learns(func() hardware.Row { return o.s.row(m.Controller) }, e) {
		t.Why = hardware.Learned
		o.learned(m)
		o.s.touched(o, m.Controller, t)
		return
	}
	t.To, t.Why = o.act(m, at)
	if t.Why != "" && m.Type != wire.TypeUp {
		o.reply(m.Controller, t.Why)
	}
	o.s.touched(o, m.Controller, t)
}

// said makes an event of an input, for who learns; a swipe is none.
func said(m *wire.Input) (e hands.Event, ok bool) {
	e = hands.Event{Source: m.Control, Value: m.Amount, High: 1}
	e.Sort, ok = map[string]hands.Sort{wire.TypeDown: hands.On, wire.TypeUp: hands.Off, wire.TypeTurn: hands.By, wire.TypeSlide: hands.At}[m.Type]
	return e, ok
}

// learned takes in that an input was learned: it counts, and what its board holds is let go.
func (o *session) learned(m *wire.Input) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if h := o.hands[m.Controller]; h != nil && m.Seq > h.seq {
		h.seq = m.Seq
	}
	o.s.cfg.Engine.ReleaseAll(o.holds(m.Controller))
}

// act does what an input asks for, and tells to which control it went, or why it went nowhere.
func (o *session) act(m *wire.Input, at time.Time) (to, why string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	h := o.hands[m.Controller]
	if h == nil {
		return "", fmt.Sprintf("This bridge carries no controller %s.", m.Controller)
	}
	edge := edges[m.Type]
	if m.Seq <= h.seq {
		why := fmt.Sprintf("Sequence number %d came after %d: it is not done.", m.Seq, h.seq)
		if edge == input.Up { // whatever it was, nothing stays down
			o.s.cfg.Engine.ReleaseAll(o.holds(m.Controller))
		}
		return "", why
	}
	h.seq = m.Seq
	if h.wakes(m, at) {
		return "", "It has only woken the controller."
	}
	if h.reason != "" {
		return "", h.reason
	}
	control := h.link.Control(m.Control)
	switch {
	case control == "":
		return "", fmt.Sprintf("%s is mapped to nothing.", m.Control)
	case o.s.quiet.Load():
		return control, hardware.Quiet
	}
	p := o.s.cfg.Shows.Program()
	in, err := attach.Address{Controller: h.slug, Control: control}.Resolve(p)
	in.Edge, in.Amount = edge, m.Amount
	if err == nil {
		in, err = attach.By(in, o.from, p)
	}
	if err != nil {
		return "", err.Error()
	}
	o.s.cfg.Engine.Input(attach.Stamp(in, at, "wire", o.holds(m.Controller), "Bridge "+o.name))
	return control, ""
}

// wakes tells whether a touch only wakes a dimmed board, or ends one that did. It notes when the board was touched last.
func (h *hand) wakes(m *wire.Input, at time.Time) bool {
	h.touched = at
	dimmed := h.dimmed
	h.dimmed = false
	switch {
	case m.Type == wire.TypeUp && h.woke[m.Control]:
		delete(h.woke, m.Control)
		return true
	case dimmed && m.Type != wire.TypeUp && !h.acts:
		if m.Type == wire.TypeDown {
			h.woke[m.Control] = true
		}
		return true
	}
	return false
}

// watch says that Synaptor is there, and lets go of what a bridge holds that does not say the same.
func (o *session) watch(ctx context.Context) {
	t := time.NewTicker(wire.Beat)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case now := <-t.C:
			silent := now.Sub(time.Unix(0, o.heard.Load()))
			if silent > lostAfter {
				return
			}
			if silent > wire.Missed && !o.lost.Swap(true) {
				o.release()
			}
			o.say(wire.Heartbeat{Type: wire.TypeBeat, Clock: now.UnixMilli()})
		}
	}
}

// say has the writer send a message, where it has room.
func (o *session) say(m any) {
	select {
	case o.replies <- m:
	default:
	}
}

func (o *session) send(ctx context.Context, m any) error {
	data, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return o.within(ctx, websocket.MessageText, data)
}

func (o *session) within(ctx context.Context, kind websocket.MessageType, data []byte) error {
	c, cancel := context.WithTimeout(ctx, writeLimit)
	defer cancel()
	return o.ws.Write(c, kind, data)
}
