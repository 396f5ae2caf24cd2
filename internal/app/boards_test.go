package app_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/app"
	"synaptor/internal/board"
	"synaptor/internal/bridge"
	"synaptor/internal/core/show"
	"synaptor/internal/wire"
)

// pipe is a port in memory, whose other end is a board.
type pipe struct {
	mu    sync.Mutex
	board *board.Board
	near  net.Conn
	gone  bool
}

// Open implements bridge.Port.
func (p *pipe) Open(context.Context) (io.ReadWriteCloser, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.gone {
		return nil, errors.New("no such port")
	}
	near, far := net.Pipe()
	p.near = far
	go func() {
		_ = p.board.Serve(far)
		_ = far.Close()
	}()
	return near, nil
}

// String implements bridge.Port.
func (p *pipe) String() string { return "a port of the test" }

// pull pulls the cable, or puts it back.
func (p *pipe) pull(out bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.gone = out; out {
		_ = p.near.Close()
	}
}

// TestTheReferenceBridgeCarriesABoard: through a cable that is pulled between down and up, which lets go, and back.
func TestTheReferenceBridgeCarriesABoard(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	one := board.New(eight("8K-1"), nil)
	p := &pipe{board: one}
	ctx, cancel := context.WithCancel(context.Background())
	var done sync.WaitGroup
	done.Go(func() {
		(&bridge.Bridge{URL: "ws" + strings.TrimPrefix(r.base, "http") + "/api/v1/wire", Port: p}).Run(ctx)
	})
	defer done.Wait()
	defer cancel()
	shows := func(control, shape string) func() bool {
		return func() bool {
			s := one.State().Shown[control]
			return strings.Contains(strings.Join(s.Face.Shapes, " "), shape) && len(s.Picture) > 0 && wire.Hash(s.Picture) == s.Face.Hash
		}
	}
	r.eventually("a1 is on air on the board", shows("a1", "on-air"))
	if err := one.Do("down", "c1", 0); err != nil {
		t.Fatal(err)
	}
	r.eventually("c1 is on air on the board", shows("c1", "on-air"))
	p.pull(true)
	r.eventually("the board is away", func() bool { return !r.board("8K-1").Here })
	p.pull(false)
	r.eventually("it is here again", func() bool { return r.board("8K-1").Here })
	// Whoever sees nothing come of a press presses again: what is done in the moment of the return may be lost with the connection before.
	pressed := time.Time{}
	r.eventually("e1 is on air on the board", func() bool {
		if time.Since(pressed) > 3*time.Second {
			pressed = time.Now()
			for _, edge := range []string{"down", "up"} {
				if err := one.Do(edge, "e1", 0); err != nil {
					t.Fatal(err)
				}
			}
		}
		return shows("e1", "on-air")()
	})
}

// TestLinksAreEditedAndUndone: what is wrong is said at its field; a controller that goes takes its links along.
func TestLinksAreEditedAndUndone(t *testing.T) {
	r := start(t)
	grid := r.controller("producer-grid")
	for field, f := range map[string]map[string]any{
		"match":      {"controller": grid, "kind": "wire", "match": " "},
		"controller": {"controller": "nobody", "kind": "wire", "match": "x"},
		"map":        {"controller": grid, "kind": "wire", "match": "x", "map": map[string]string{"1": "z9"}},
	} {
		if p := r.fails(422, "POST", "/api/v1/links", f); p.Field != field {
			t.Errorf("%v: %+v", f, p)
		}
	}
	before := string(r.Edit.Program().Show.Canonical())
	id := r.attach("8K-1")
	if p := r.fails(422, "POST", "/api/v1/links", map[string]any{"controller": grid, "kind": "wire", "match": "8K-1"}); !strings.Contains(p.Detail, "attached to Producer grid already") {
		t.Errorf("attached twice: %+v", p)
	}
	rev := r.Edit.Program().Show.Rev(show.Ref{Kind: show.KindLink, ID: id})
	form := map[string]any{"rev": rev, "controller": grid, "kind": "wire", "match": "8K-1", "name": "On the desk", "map": map[string]string{"1": "a1", "2": ""}, "off": true}
	r.must(204, "PUT", "/api/v1/links/"+id, form, nil)
	r.fails(409, "PUT", "/api/v1/links/"+id, form)
	if l := r.Edit.Program().Show.Link(id); l.Control("1") != "a1" || l.Control("2") != "" || l.Control("b1") != "b1" || !l.Off {
		t.Errorf("the link is %+v", l)
	}
	with := string(r.Edit.Program().Show.Canonical())
	r.must(204, "DELETE", "/api/v1/controllers/"+grid, nil, nil)
	if len(r.Edit.Program().Show.Links()) != 0 {
		t.Error("the link of a controller that is gone stays")
	}
	r.undo()
	if string(r.Edit.Program().Show.Canonical()) != with {
		t.Error("undo does not bring the controller back with its link")
	}
	r.must(204, "DELETE", "/api/v1/links/"+id, nil, nil)
	r.fails(404, "DELETE", "/api/v1/links/"+id, nil)
	for range 3 {
		r.undo()
	}
	if string(r.Edit.Program().Show.Canonical()) != before {
		t.Error("undo does not lead back")
	}
}

// held gives a key that turns something on while it is held, and tells whether it is on.
func (r *rig) held() (on func() bool) {
	r.Helper()
	r.give("a4", "press", "keyer-on", map[string]string{"keyer": "2"})
	r.give("a4", "release", "keyer-off", map[string]string{"keyer": "2"})
	return func() bool { return r.reading("keyer/2/on").Word == "on" }
}

// TestWhateverEndsABridgeLetsGoOfWhatItHolds: a cable that is pulled between down and up, a bridge that says nothing any more, quiet,
// a link that is switched off, a board that is attached elsewhere, a controller that is gone.
func TestWhateverEndsABridgeLetsGoOfWhatItHolds(t *testing.T) {
	for what, end := range map[string]func(r *rig, b *talk, link string){
		"the cable is pulled":      func(_ *rig, b *talk, _ string) { _ = b.ws.CloseNow() },
		"it is silent":             func(_ *rig, b *talk, _ string) { b.silent.Store(true) },
		"controllers are quiet":    func(r *rig, _ *talk, _ string) { r.must(204, "PUT", "/api/v1/quiet", map[string]any{"on": true}, nil) },
		"the link is gone":         func(r *rig, _ *talk, link string) { r.must(204, "DELETE", "/api/v1/links/"+link, nil, nil) },
		"the attachment is undone": func(r *rig, _ *talk, _ string) { r.undo() },
		"the controller is gone": func(r *rig, _ *talk, _ string) {
			r.must(204, "DELETE", "/api/v1/controllers/"+r.controller("producer-grid"), nil, nil)
		},
	} {
		t.Run(what, func(t *testing.T) {
			r := start(t).ready()
			on := r.held()
			link := r.attach("8K-1")
			b := r.wire()
			b.say(hello(eight("8K-1")))
			b.hears("page", nil)
			b.input("down", "a4", 0)
			r.eventually("it is held", on)
			end(r, b, link)
			r.eventually("it is let go", func() bool { return !on() })
		})
	}
}

// TestSynaptorIsRestartedUnderAHeldKey: nothing is held after, and the bridge carries its board again.
func TestSynaptorIsRestartedUnderAHeldKey(t *testing.T) {
	data := t.TempDir()
	r := startIn(t, data).ready()
	on := r.held()
	r.attach("8K-1")
	one := board.New(eight("8K-1"), nil)
	port := r.base
	ctx, cancel := context.WithCancel(context.Background())
	var done sync.WaitGroup
	done.Go(func() {
		(&bridge.Bridge{URL: "ws" + strings.TrimPrefix(port, "http") + "/api/v1/wire", Port: &pipe{board: one}}).Run(ctx)
	})
	defer done.Wait()
	defer cancel()
	r.eventually("the board shows its page", func() bool { return len(one.State().Shown["a1"].Picture) > 0 })
	if err := one.Do("down", "a4", 0); err != nil {
		t.Fatal(err)
	}
	r.eventually("it is held", on)
	r.Close()
	r.eventually("the board says that Synaptor is lost", func() bool {
		return strings.Join(one.State().Shown["a1"].Face.Lines, " ") == "not connected"
	})
	a, err := app.Start(app.Options{Listen: strings.TrimPrefix(port, "http://"), OSC: "127.0.0.1:0", Data: data, Demo: true, Files: files})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	again := (&rig{T: t, App: a, base: port}).another()
	again.eventually("the board is here again", func() bool { return again.board("8K-1").Here })
	again.eventually("it shows its page again", func() bool {
		return len(one.State().Shown["a1"].Face.Shapes) > 0 || one.State().Shown["a1"].Face.Background != "#000000"
	})
	if again.holding() {
		t.Error("something is held")
	}
}

// TestASlowBridgeSlowsNobody: one that reads nothing is beside one that does, which hears of each press at once.
func TestASlowBridgeSlowsNobody(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	r.attach("slow")
	raw, _, err := websocket.Dial(context.Background(), "ws"+strings.TrimPrefix(r.base, "http")+"/api/v1/wire", nil)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = raw.CloseNow() }()
	large := eight("slow")
	large.Shows = map[string]wire.Shows{"*": {Width: 400, Height: 400, Picture: "rgb565"}}
	text, err := json.Marshal(hello(large))
	if err != nil {
		t.Fatal(err)
	}
	if err := raw.Write(context.Background(), websocket.MessageText, text); err != nil { // and never reads
		t.Fatal(err)
	}
	b := r.wire()
	b.say(hello(eight("8K-1")))
	b.hears("face", shaped("a1", "on-air"))
	for i := range 20 {
		control := []string{"c1", "e1"}[i%2]
		began := time.Now()
		b.input("down", control, 0)
		b.input("up", control, 0)
		b.hears("face", func(m map[string]any) bool {
			return shaped(control, "on-air")(m) && !strings.Contains(fmt.Sprint(m["shapes"]), "pending")
		})
		if took := time.Since(began); took > 3*time.Second {
			t.Errorf("a press shows after %v", took)
		}
	}
}

// TestOneBridgeCarriesSeveralControllers, each attached to one of its own.
func TestOneBridgeCarriesSeveralControllers(t *testing.T) {
	r := start(t).ready()
	r.attach("8K-1")
	r.adds("POST", "/api/v1/links", map[string]any{"controller": r.controller("treadle"), "kind": "wire", "match": "feet", "map": map[string]string{"1": "pedal1"}})
	b := r.wire()
	feet := wire.Controller{Serial: "feet", Layout: "pedals-4", Shows: map[string]wire.Shows{"1": {Any: true}}}
	b.say(hello(eight("8K-1"), feet))
	w := b.hears("welcome", nil)
	if all := w["controllers"].([]any); len(all) != 2 || all[1].(map[string]any)["controller"] != "treadle" {
		t.Errorf("the welcome is %v", w)
	}
	b.hears("face", shaped("a1", "on-air"))
	b.hears("face", func(m map[string]any) bool {
		return m["controller"] == "feet" && m["control"] == "1" && fmt.Sprint(m["lines"]) == "[Meteor!]"
	})
}
