package app_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/attach/hardware"
	"synaptor/internal/wire"
)

// talk is a bridge made by hand: it says what a test wants, and hears what Synaptor says.
type talk struct {
	*testing.T
	ws     *websocket.Conn
	said   chan map[string]any
	shots  chan []byte
	acks   bool
	seq    int64
	beats  sync.Once
	mu     sync.Mutex
	acked  map[string]bool           // hashes of faces
	silent atomic.Bool               // it says no heartbeat
	faces  map[string]map[string]any // what each control shows, as far as a test has heard
}

// bridges connects to the wire.
func (r *rig) wire() *talk {
	r.Helper()
	ws, _, err := websocket.Dial(context.Background(), "ws"+strings.TrimPrefix(r.base, "http")+"/api/v1/wire", nil)
	if err != nil {
		r.Fatal(err)
	}
	ws.SetReadLimit(8 << 20)
	t := &talk{T: r.T, ws: ws, said: make(chan map[string]any, 10_000), shots: make(chan []byte, 10_000), acks: true, faces: map[string]map[string]any{}, acked: map[string]bool{}}
	r.Cleanup(func() { _ = ws.CloseNow() })
	go func() {
		defer close(t.said)
		for {
			kind, data, err := ws.Read(context.Background())
			if err != nil {
				return
			}
			if kind == websocket.MessageBinary {
				t.shots <- data
				continue
			}
			var m map[string]any
			if json.Unmarshal(data, &m) == nil {
				if seq, numbered := m["seq"].(float64); numbered && m["type"] == "face" && t.acks {
					_ = ws.Write(context.Background(), websocket.MessageText, []byte(fmt.Sprintf(`{"type":"ack","seq":%d}`, int64(seq))))
					t.mu.Lock()
					t.acked[m["hash"].(string)] = true
					t.mu.Unlock()
				}
				t.said <- m
			}
		}
	}()
	return t
}

// shown are the hashes of the faces that were acknowledged.
func (t *talk) shown() map[string]bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	return maps.Clone(t.acked)
}

// say says a message, or a text as it is.
func (t *talk) say(m any) {
	t.Helper()
	data, is := m.(string)
	if !is {
		raw, err := json.Marshal(m)
		if err != nil {
			t.Fatal(err)
		}
		data = string(raw)
	}
	if err := t.ws.Write(context.Background(), websocket.MessageText, []byte(data)); err != nil {
		t.Fatal(err)
	}
	t.beats.Do(func() { // after the hello
		go func() {
			for !t.silent.Load() && t.ws.Write(context.Background(), websocket.MessageText, []byte(`{"type":"beat"}`)) == nil {
				time.Sleep(wire.Beat)
			}
		}()
	})
}

// hears waits for a message of a type that a test wants; a face may have come before, and still be shown.
func (t *talk) hears(kind string, want func(m map[string]any) bool) map[string]any {
	t.Helper()
	for _, m := range t.faces {
		if kind == "face" && want(m) {
			return m
		}
	}
	limit := time.After(patience)
	for {
		select {
		case m, open := <-t.said:
			if !open {
				t.Fatalf("no %s came before the end", kind)
			}
			if control, is := m["control"].(string); is && m["type"] == "face" && m["lost"] == nil {
				t.faces[control] = m
			}
			if m["type"] == kind && (want == nil || want(m)) {
				return m
			}
		case <-limit:
			t.Fatalf("no %s came", kind)
		}
	}
}

// ends waits until Synaptor has ended the connection.
func (t *talk) ends() {
	t.Helper()
	limit := time.After(patience)
	for {
		select {
		case _, open := <-t.said:
			if !open {
				return
			}
		case <-limit:
			t.Fatal("the connection goes on")
		}
	}
}

func (t *talk) input(kind, control string, amount float64) {
	t.Helper()
	t.seq++
	t.say(wire.Input{Type: kind, Controller: "8K-1", Control: control, Seq: t.seq, Amount: amount})
}

// eight is a board like the producer's grid, with small pictures.
func eight(serial string) wire.Controller {
	return wire.Controller{Serial: serial, Name: "Eight", Layout: "grid-6x4", Shows: map[string]wire.Shows{"*": {Width: 48, Height: 48, Picture: "png"}, "d3": {Colours: []string{"#000000", "#ff0000", "#00ff00"}}, "e3": {Columns: 8, Rows: 2}}}
}

func hello(all ...wire.Controller) wire.Hello {
	return wire.Hello{Type: "hello", Version: wire.Newest, Bridge: "Tests", Controllers: all}
}

// attach attaches a serial number to the producer's grid.
func (r *rig) attach(serial string) string {
	r.Helper()
	return r.adds("POST", "/api/v1/links", map[string]any{"controller": r.controller("producer-grid"), "kind": "wire", "match": serial})
}

func (r *rig) controller(slug string) string {
	r.Helper()
	for _, c := range r.Edit.Program().Show.Controllers() {
		if c.Slug == slug {
			return c.ID
		}
	}
	r.Fatalf("there is no controller %s", slug)
	return ""
}

func (r *rig) board(serial string) (b hardware.Row) {
	r.Helper()
	var all []hardware.Row
	r.must(200, "GET", "/api/v1/hardware", nil, &all)
	for _, b := range all {
		if b.Match == serial {
			return b
		}
	}
	return b
}

func of(control string) func(m map[string]any) bool {
	return func(m map[string]any) bool { return m["control"] == control && m["lost"] == nil }
}

func shaped(control, shape string) func(m map[string]any) bool {
	return func(m map[string]any) bool { return of(control)(m) && strings.Contains(fmt.Sprint(m["shapes"]), shape) }
}
