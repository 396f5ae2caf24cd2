package bridge

import (
	"bytes"
	"context"
	"errors"
	"io"
	"strings"
	"testing"
	"time"

	"synaptor/internal/board"
	"synaptor/internal/wire"
)

// tape is a port that plays what is on it, and keeps what is written.
type tape struct {
	io.Reader
	wrote bytes.Buffer
}

// Write implements io.Writer.
func (t *tape) Write(p []byte) (int, error) { return t.wrote.Write(p) }

// Close implements io.Closer.
func (*tape) Close() error { return nil }

// hears is what a bridge makes of a line: the board's hello, or why there is none.
func hears(t *testing.T, text []byte) (*wire.Hello, error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	l := newLine(&tape{Reader: bytes.NewReader(text)})
	defer l.drain()
	return l.hello(ctx)
}

func TestABoardIsHeardThroughNoise(t *testing.T) {
	const hello = `{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l"}]}`
	for text, want := range map[string]string{
		"\x00\xffboot 1.2\r\n" + `seq":4}` + "\n" + hello + "\n":                          "",
		`{"type":"down","controller":"s","control":"a1","seq":1}` + "\n" + hello + "\r\n": "",
		strings.Replace(hello, `}]}`, `},{"serial":"t","layout":"l"}]}`, 1) + "\n":        "2 controllers",
		"": "was pulled", strings.Repeat("x", maxLine+1): "too long",
	} {
		h, err := hears(t, []byte(text))
		if (err == nil) != (want == "") || err != nil && !strings.Contains(err.Error(), want) {
			t.Errorf("%.60q: %v, %v, want %q", text, h, err, want)
		}
	}
}

// FuzzLine: whatever comes on a line, neither a bridge nor a board comes to harm.
func FuzzLine(f *testing.F) {
	f.Add([]byte(`{"type":"hello","version":2,"bridge":"b","controllers":[{"serial":"s","layout":"l"}]}` + "\n"))
	f.Add([]byte(`{"type":"beat"}` + "\n" + `{"type":"picture","hash":"x","data":"aGFsbG8="}` + "\n" + `{"type":"face","control":"a1","seq":1,"hash":"x","picture":"png"}` + "\n"))
	f.Add([]byte(`{"type":"welcome"}` + "\n" + `{"type":"brightness","level":1e400}` + "\n\x00{"))
	f.Fuzz(func(t *testing.T, text []byte) {
		if h, err := hears(t, text); err == nil && len(h.Controllers) != 1 {
			t.Errorf("heard is %+v", h)
		}
		b := board.New(wire.Controller{Serial: "s", Name: "Board", Layout: "l"}, nil)
		if err := b.Serve(&tape{Reader: bytes.NewReader(text)}); err == nil {
			t.Error("a line that has ended has not")
		} else if errors.Is(err, board.ErrNotConnected) {
			t.Error("it was not connected")
		}
	})
}
