package main

import (
	"context"
	"io"
	"net"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"synaptor/internal/app"
	"synaptor/internal/bridge"
	"synaptor/internal/edit"
	"synaptor/web"
)

// port is one end of a line in memory, at whose other end is the sketch.
type port struct{ far net.Conn }

// String implements bridge.Port.
func (port) String() string { return "the sketch" }

// Open implements bridge.Port.
func (p port) Open(context.Context) (io.ReadWriteCloser, error) { return p.far, nil }

// TestTheSketchIsAController: carried by the reference bridge, it lights its lamps as its page says, and its keys press.
func TestTheSketchIsAController(t *testing.T) {
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Demo: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	near, far := net.Pipe()
	var down atomic.Bool
	var lit atomic.Pointer[string]
	go run(near, func(key int) bool { return key == 0 && down.Load() }, func(key int, colour string) {
		if key == 0 {
			lit.Store(&colour)
		}
	})
	ctx, cancel := context.WithCancel(context.Background())
	var carried sync.WaitGroup
	carried.Go(func() { (&bridge.Bridge{URL: "ws://" + a.Addr + "/api/v1/wire", Port: port{far}}).Run(ctx) })
	defer carried.Wait()
	defer cancel()
	eventually := func(what string, is func() bool) {
		t.Helper()
		for limit := time.Now().Add(30 * time.Second); !is(); time.Sleep(10 * time.Millisecond) {
			if time.Now().After(limit) {
				t.Fatal(what + " does not come true")
			}
		}
	}
	eventually("it is attached to the producer's grid", func() bool {
		for _, b := range a.Bridges.Boards() {
			if b.Match == "my-board-1" && b.Here {
				for _, c := range a.Edit.Program().Show.Controllers() {
					if c.Slug == "producer-grid" {
						_, err := a.Edit.AddLink(edit.Who{Session: "test", Actor: "test"}, edit.LinkForm{Controller: c.ID, Kind: "wire", Match: b.Match, Map: map[string]string{"a1": "c1"}})
						return err == nil
					}
				}
			}
		}
		return false
	})
	eventually("its lamp has a colour", func() bool {
		c := lit.Load()
		return c != nil && strings.HasPrefix(*c, "#") && *c != "#000000" && *c != "#ff3b3b"
	})
	down.Store(true)
	eventually("its lamp is on air", func() bool { return *lit.Load() == "#ff3b3b" })
}
