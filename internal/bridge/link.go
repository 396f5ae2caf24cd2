package bridge

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/incident"
	"synaptor/internal/wire"
)

const (
	//limit:count time in which Synaptor answers a bridge | in what the bridge says; it tries again
	dialLimit = 5 * time.Second
	//limit:count time in which Synaptor takes a message of a bridge | in what the bridge says; it connects again
	writeLimit = 5 * time.Second
	// maxPicture is the largest message that is taken from Synaptor: a picture of the largest control.
	//
	//limit:bytes a message of Synaptor to a bridge | in what the bridge says; it connects again
	maxPicture = 8 << 20
	// keeps is how many pictures are kept.
	keeps = 512
	// maxKept bounds the pictures that are kept for the board.
	//
	//limit:bytes pictures that a bridge keeps for its board | it asks for them again
	maxKept = 64 << 20
)

// carrier carries one board to Synaptor, for as long as the board is there.
type carrier struct {
	b      *Bridge
	line   *line
	hello  wire.Hello
	resume string
	// pictures are the last that came, by hash.
	pictures map[string][]byte
	last     *wire.Last
	kept     int // bytes of them
	// lost are the faces that the board shows when Synaptor is lost, by control.
	lost map[string]lostFace
	told bool // the board shows them
	said string
}

type lostFace struct {
	face    wire.Face
	picture []byte
}

// run connects to Synaptor again and again until the board is lost.
func (c *carrier) run(ctx context.Context) error {
	defer c.line.drain()
	defer func() { _ = c.line.port.Close() }() // what is read ends with it
	pause := firstPause
	for {
		began := time.Now()
		err := c.connected(ctx)
		var gone *goneError
		if errors.As(err, &gone) {
			return gone.err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if text := fmt.Sprintf("Synaptor is not there: %v. Trying again.", err); text != c.said {
			c.said = text
			c.b.Say(text)
		}
		if err := c.showLost(); err != nil {
			return err
		}
		if time.Since(began) > lastPause {
			pause = firstPause
		}
		if err := c.wait(ctx, pause); err != nil {
			return err
		}
		pause = min(2*pause, lastPause)
	}
}

// wait waits for a pause, while it hears whether the board is still there. What it says meanwhile is for nobody.
func (c *carrier) wait(ctx context.Context, pause time.Duration) error {
	t := time.NewTimer(pause)
	defer t.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-t.C:
			return c.line.beat()
		case _, ok := <-c.line.lines:
			if !ok {
				return c.line.err
			}
		}
	}
}

// goneError says that the board is lost.
type goneError struct{ err error }

// Error implements error.
func (e *goneError) Error() string { return e.err.Error() }

// showLost has the board show that Synaptor is lost.
func (c *carrier) showLost() error {
	if c.told {
		return nil
	}
	c.told = true
	for _, f := range c.lost {
		f.face.Lost = false
		if err := c.show(f.face, f.picture); err != nil {
			return err
		}
	}
	return nil
}

// show has the board show a face: before it comes its picture, since a board need not keep any.
func (c *carrier) show(f wire.Face, picture []byte) error {
	if picture != nil {
		if err := c.line.write(wire.Picture{Type: wire.TypePicture, Hash: f.Hash, Data: picture}); err != nil {
			return err
		}
	}
	return c.line.write(f)
}

// connected carries the board for as long as Synaptor is there. It fails with a *goneError when the board is lost.
func (c *carrier) connected(ctx context.Context) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	d, stop := context.WithTimeout(ctx, dialLimit)
	ws, _, err := websocket.Dial(d, c.b.URL, nil)
	stop()
	if err != nil {
		return errors.New("nothing answers at " + c.b.URL)
	}
	defer func() { _ = ws.CloseNow() }()
	ws.SetReadLimit(maxPicture)
	h := c.hello
	h.Bridge = cmp.Or(c.b.Name, h.Bridge)
	h.Version, h.Token, h.Resume, h.Keeps = wire.Newest, c.b.Token, c.resume, keeps
	if err := c.send(ctx, ws, h); err != nil {
		return err
	}
	heard, ended := make(chan error, 1), make(chan struct{})
	alive := make(chan struct{}, 1)
	go func() {
		defer close(ended)
		err := errors.New("the connection has failed")
		incident.Contain("bridge", c.b.Port.String(), func() { err = c.hear(ctx, ws, alive) })
		heard <- err
	}()
	err = c.speak(ctx, ws, heard, alive)
	cancel()
	_ = ws.CloseNow()
	<-ended
	return err
}

func (c *carrier) send(ctx context.Context, ws *websocket.Conn, m any) error {
	data, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return c.write(ctx, ws, data)
}

func (c *carrier) write(ctx context.Context, ws *websocket.Conn, data []byte) error {
	w, cancel := context.WithTimeout(ctx, writeLimit)
	defer cancel()
	return ws.Write(w, websocket.MessageText, data)
}

// speak says what the board says, and the heartbeat.
func (c *carrier) speak(ctx context.Context, ws *websocket.Conn, heard <-chan error, alive <-chan struct{}) error {
	beat := time.NewTicker(wire.Beat)
	defer beat.Stop()
	missed := time.NewTimer(wire.Missed)
	defer missed.Stop()
	for {
		select {
		case err := <-heard:
			return err
		case <-alive:
			missed.Reset(wire.Missed)
		case <-missed.C:
			return errors.New("it has not said anything for too long")
		case now := <-beat.C:
			if err := c.send(ctx, ws, wire.Heartbeat{Type: wire.TypeBeat, Clock: now.UnixMilli()}); err != nil {
				return err
			}
			if err := c.line.beat(); err != nil {
				return &goneError{err}
			}
		case text, ok := <-c.line.lines:
			if !ok {
				return &goneError{c.line.err}
			}
			if err := c.pass(ctx, ws, text); err != nil {
				return err
			}
		}
	}
}

// pass says to Synaptor what the board says, unless it is nothing to say there.
func (c *carrier) pass(ctx context.Context, ws *websocket.Conn, text []byte) error {
	m, err := wire.Read(text)
	if err != nil {
		return c.gone(c.line.write(wire.Trouble{Type: wire.TypeError, Text: err.Error()}))
	}
	switch m := m.(type) {
	case *wire.Hello:
		if c.line.answered() {
			return nil
		}
		return &goneError{errors.New("the board has begun anew")} // it knows nothing any more
	case *wire.Heartbeat:
		return nil // the bridge says its own
	case *wire.Input:
		return c.send(ctx, ws, m)
	}
	return c.write(ctx, ws, text)
}

// gone makes of a failure to write to the board that it is lost.
func (c *carrier) gone(err error) error {
	if err == nil {
		return nil
	}
	return &goneError{err}
}

// hear has the board show what Synaptor says.
func (c *carrier) hear(ctx context.Context, ws *websocket.Conn, alive chan<- struct{}) error {
	for {
		kind, data, err := ws.Read(ctx)
		if err != nil {
			return errors.New("the connection has ended")
		}
		select {
		case alive <- struct{}{}:
		default:
		}
		if kind == websocket.MessageBinary {
			hash, picture, err := wire.ReadFrame(data)
			if err != nil {
				return err
			}
			c.keep(hash, picture)
			continue
		}
		if err := c.heard(data); err != nil {
			return err
		}
	}
}

func (c *carrier) keep(hash string, picture []byte) {
	if c.kept += len(picture); c.kept > maxKept { // those that were acknowledged are asked for again with a hello that resumes nothing
		c.pictures, c.last, c.kept, c.resume = map[string][]byte{}, wire.NewLast(keeps), len(picture), ""
	}
	if gone := c.last.Add(hash); gone != "" {
		c.kept -= len(c.pictures[gone])
		delete(c.pictures, gone)
	}
	c.pictures[hash] = picture
}

// heard takes a message of Synaptor.
func (c *carrier) heard(data []byte) error {
	kind, err := wire.TypeOf(data)
	if err != nil {
		return err
	}
	switch kind {
	case wire.TypeRefused:
		var m wire.Refused
		if err := json.Unmarshal(data, &m); err != nil {
			return err
		}
		return errors.New(m.Text)
	case wire.TypeWelcome:
		var m wire.Welcome
		if err := json.Unmarshal(data, &m); err != nil {
			return err
		}
		c.resume, c.told, c.said = m.Resume, false, ""
		for _, a := range m.Controllers {
			if a.Reason != "" {
				c.b.Say(a.Serial + ": " + a.Reason)
			} else {
				c.b.Say(a.Serial + " is " + a.Name + ".")
			}
		}
	case wire.TypeFace:
		var m wire.Face
		if err := json.Unmarshal(data, &m); err != nil {
			return err
		}
		return c.face(m)
	case wire.TypeBeat:
		return nil
	}
	return c.gone(c.line.write(json.RawMessage(data)))
}

// face has the board show a face, or keeps one for when Synaptor is lost.
func (c *carrier) face(m wire.Face) error {
	picture := c.pictures[m.Hash]
	if m.Picture != "" && picture == nil {
		return errors.New("a picture has not come") // it comes again with a new hello
	}
	if m.Lost {
		c.lost[m.Control] = lostFace{m, picture}
		return nil
	}
	return c.gone(c.show(m, picture))
}
