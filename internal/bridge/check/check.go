// Package check talks every message of the wire with a Synaptor, wrong ones too, and reports what did not hold. It presses no key: its
// controllers are attached to nothing.
package check

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/wire"
)

// Result is what came of one rule.
type Result struct {
	Rule string
	Err  error // why it did not hold; nil: it did
}

// Report checks the wire at an address, and writes what came of each rule. It fails where one did not hold.
func Report(ctx context.Context, url, token string, out io.Writer) error {
	failed := 0
	for _, r := range All(ctx, url, token) {
		mark := "holds"
		if r.Err != nil {
			mark, failed = "DOES NOT HOLD: "+r.Err.Error(), failed+1
		}
		fmt.Fprintf(out, "%-70s %s\n", r.Rule, mark)
	}
	if failed > 0 {
		return fmt.Errorf("%d of %d rules did not hold", failed, len(rules))
	}
	fmt.Fprintf(out, "All %d rules hold.\n", len(rules))
	return nil
}

// All checks each rule, in a connection of its own.
func All(ctx context.Context, url, token string) []Result { return some(ctx, url, token, "") }

// Some checks the rules that have some words in them.
func Some(ctx context.Context, url, words string) []Result { return some(ctx, url, "", words) }

// atOnce is how many rules are checked at the same time.
const atOnce = 8

func some(ctx context.Context, url, token, words string) []Result {
	var chosen []rule
	for _, r := range rules {
		if strings.Contains(r.text, words) {
			chosen = append(chosen, r)
		}
	}
	out := make([]Result, len(chosen))
	var all sync.WaitGroup
	turns := make(chan struct{}, atOnce)
	for i, r := range chosen {
		all.Go(func() {
			turns <- struct{}{}
			defer func() { <-turns }()
			out[i] = Result{r.text, run(ctx, url, token, r.holds)}
		})
	}
	all.Wait()
	return out
}

// patience is how long something may take that has to come.
const patience = 6 * time.Second

// talk is what a rule talks with.
type talk struct {
	ctx    context.Context
	url    string
	token  string
	serial string
	open   []*conn
}

// run checks one rule.
func run(ctx context.Context, url, token string, holds func(*talk) error) (err error) {
	ctx, cancel := context.WithTimeout(ctx, 4*patience)
	defer cancel()
	t := &talk{ctx: ctx, url: url, token: token, serial: "check-" + rand.Text()[:10]}
	defer func() {
		for _, c := range t.open {
			_ = c.ws.CloseNow()
			<-c.ended
		}
	}()
	return holds(t)
}

// conn is one connection.
type conn struct {
	t     *talk
	ws    *websocket.Conn
	heard chan heard
	ended chan struct{}
}

// heard is something that Synaptor said: a message, or a binary one.
type heard struct {
	kind string // binary, or the type of the message
	raw  []byte
}

func (t *talk) connect() (*conn, error) {
	d, cancel := context.WithTimeout(t.ctx, patience)
	defer cancel()
	ws, _, err := websocket.Dial(d, t.url, nil)
	if err != nil {
		return nil, fmt.Errorf("nothing answers at %s", t.url)
	}
	ws.SetReadLimit(16 << 20)
	c := &conn{t, ws, make(chan heard, 4096), make(chan struct{})}
	t.open = append(t.open, c)
	go c.hear()
	return c, nil
}

func (c *conn) hear() {
	defer close(c.ended)
	defer close(c.heard)
	for {
		kind, data, err := c.ws.Read(c.t.ctx)
		if err != nil {
			return
		}
		h := heard{"binary", data}
		if kind == websocket.MessageText {
			if h.kind, err = wire.TypeOf(data); err != nil {
				h.kind = "not a message"
			}
		}
		select {
		case c.heard <- h:
		case <-c.t.ctx.Done():
			return
		}
	}
}

func (c *conn) say(m any) error {
	text, is := m.(string)
	if !is {
		raw, err := json.Marshal(m)
		if err != nil {
			return err
		}
		text = string(raw)
	}
	return c.ws.Write(c.t.ctx, websocket.MessageText, []byte(text))
}

var errEnded = errors.New("the connection has ended")

// next waits for what is said next.
func (c *conn) next(limit time.Duration) (heard, error) {
	select {
	case h, open := <-c.heard:
		if !open {
			return heard{}, errEnded
		}
		return h, nil
	case <-time.After(limit):
		return heard{}, errSilent
	}
}

var errSilent = errors.New("nothing came")

// waits waits for a message of a type, and reads it.
func (c *conn) waits(kind string, into any) error {
	for limit := time.Now().Add(patience); ; {
		h, err := c.next(time.Until(limit))
		if err != nil {
			return fmt.Errorf("no %s came: %w", kind, err)
		}
		if h.kind == kind {
			return json.Unmarshal(h.raw, into)
		}
	}
}

// ends waits until Synaptor has ended the connection.
func (c *conn) ends() error {
	for limit := time.Now().Add(patience); ; {
		if _, err := c.next(time.Until(limit)); errors.Is(err, errEnded) {
			return nil
		} else if err != nil {
			return errors.New("the connection goes on")
		}
	}
}

// quietly says something that is wrong, and waits for the error; then the connection has to go on.
func (c *conn) quietly(m any) error {
	if err := c.say(m); err != nil {
		return err
	}
	var e wire.Trouble
	if err := c.waits(wire.TypeError, &e); err != nil {
		return err
	}
	if strings.TrimSpace(e.Text) == "" {
		return errors.New("the error says nothing")
	}
	var b wire.Heartbeat
	return c.waits(wire.TypeBeat, &b)
}

// hello is that of a bridge with a grid of 24 keys, of which each shows the same.
func (t *talk) hello(shows wire.Shows) wire.Hello {
	return wire.Hello{Type: wire.TypeHello, Version: wire.Newest, Bridge: "Check", Token: t.token, Controllers: []wire.Controller{
		{Serial: t.serial, Name: "Check", Layout: "grid-6x4", Shows: describes(shows)}}}
}

// controls are those of the grid.
func controls() (all []string) {
	for row := range 4 {
		for _, column := range "abcdef" {
			all = append(all, fmt.Sprintf("%c%d", column, row+1))
		}
	}
	return all
}

func describes(shows wire.Shows) map[string]wire.Shows {
	out := map[string]wire.Shows{}
	for _, id := range controls() {
		out[id] = shows
	}
	return out
}

// welcomed connects and says hello.
func (t *talk) welcomed(h wire.Hello) (*conn, wire.Welcome, error) {
	var w wire.Welcome
	c, err := t.connect()
	if err != nil {
		return nil, w, err
	}
	if err := c.say(h); err != nil {
		return nil, w, err
	}
	return c, w, c.waits(wire.TypeWelcome, &w)
}

// pictures are small ones.
var pictures = wire.Shows{Width: 40, Height: 32, Picture: "png"}

// shown collects what is said until each control has shown something, and acknowledges it; lost: until each has its lost face.
func (c *conn) shown(lost bool, each func(h heard, f *wire.Face) error) error {
	waiting := map[string]bool{}
	for _, id := range controls() {
		waiting[id] = true
	}
	for limit := time.Now().Add(patience); len(waiting) > 0; {
		h, err := c.next(time.Until(limit))
		if err != nil {
			return fmt.Errorf("%d controls show nothing: %w", len(waiting), err)
		}
		var f *wire.Face
		if h.kind == wire.TypeFace {
			f = &wire.Face{}
			if err := json.Unmarshal(h.raw, f); err != nil {
				return err
			}
		}
		if err := each(h, f); err != nil {
			return err
		}
		if f == nil {
			continue
		}
		if f.Lost == lost {
			delete(waiting, f.Control)
		}
		if f.Seq > 0 {
			if err := c.say(wire.Ack{Type: wire.TypeAck, Seq: f.Seq}); err != nil {
				return err
			}
		}
	}
	return nil
}
