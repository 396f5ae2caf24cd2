package bridge

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net"
	"testing"
	"time"

	"synaptor/internal/board"
	"synaptor/internal/wire"
)

// served is a board at the other end of a line in memory, which goes on whoever is at this end.
func served(t *testing.T) net.Conn {
	t.Helper()
	near, far := net.Pipe()
	b := board.New(wire.Controller{Serial: "s", Name: "Eight keys", Layout: "l"}, nil)
	go func() { _ = b.Serve(near) }()
	t.Cleanup(func() { _ = far.Close(); _ = near.Close() })
	return far
}

func soon(t *testing.T) context.Context {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	t.Cleanup(cancel)
	return ctx
}

// TestABoardThatAnswersLateHasNotBegunAnew: it is asked again before Synaptor has welcomed it, and what it says then is no news. Once it has
// been welcomed, and every question is answered, it is.
func TestABoardThatAnswersLateHasNotBegunAnew(t *testing.T) {
	ctx, l := soon(t), newLine(served(t))
	if _, err := l.hello(ctx); err != nil {
		t.Fatal(err)
	}
	c := &carrier{b: &Bridge{}, line: l}
	if err := l.beat(); err != nil { // Synaptor has not answered yet
		t.Fatal(err)
	}
	late := <-l.lines
	if err := c.pass(ctx, nil, late); err != nil {
		t.Errorf("a second answer: %v", err)
	}
	if err := l.write(json.RawMessage(`{"type":"welcome","version":2}`)); err != nil {
		t.Fatal(err)
	}
	var gone *goneError
	if err := c.pass(ctx, nil, late); !errors.As(err, &gone) {
		t.Errorf("a board that began anew: %v", err)
	}
}

// TestABoardThatHadABridgeIsHeardByTheNext: a board keeps its power while its bridge begins again, and has been welcomed before.
func TestABoardThatHadABridgeIsHeardByTheNext(t *testing.T) {
	far := served(t)
	first := make([]byte, 4096)
	for _, text := range []string{`{"type":"beat"}`, `{"type":"welcome","version":2}`} {
		if _, err := far.Write([]byte(text + "\n")); err != nil {
			t.Fatal(err)
		}
		if text == `{"type":"beat"}` {
			if n, err := far.Read(first); err != nil || !bytes.Contains(first[:n], []byte("hello")) {
				t.Fatalf("it says %s (%v)", first[:n], err)
			}
		}
	}
	h, err := newLine(far).hello(soon(t))
	if err != nil || h.Controllers[0].Serial != "s" {
		t.Errorf("the next bridge hears %v (%v)", h, err)
	}
}
