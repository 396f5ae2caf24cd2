package lines

import (
	"context"
	"errors"
	"io"
	"net"
	"strings"
	"testing"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

func TestLinesAreReadWhateverEndsThem(t *testing.T) {
	r := NewReader(strings.NewReader("AT 1\r\n\n  \nPRESET 2 NAME Lectern für Imke\nhalf"))
	for _, want := range []string{"AT 1", "PRESET 2 NAME Lectern für Imke"} {
		if got, err := r.Next(); err != nil || got != want {
			t.Errorf("read %q (%v), want %q", got, err, want)
		}
	}
	if got, err := r.Next(); err != io.ErrUnexpectedEOF {
		t.Errorf("half a line: %q, %v", got, err)
	}
}

func TestABadLineLeavesTheNextOneReadable(t *testing.T) {
	for name, c := range map[string]struct {
		bad  string
		want error
	}{
		"too long":    {strings.Repeat("x", 3*MaxLine), ErrLong},
		"no UTF-8":    {"caf\xe9", ErrText},
		"a null byte": {"a\x00b", ErrText},
	} {
		r := NewReader(strings.NewReader(c.bad + "\nAT 1\n"))
		if got, err := r.Next(); !errors.Is(err, c.want) {
			t.Errorf("%s: %q, %v", name, got, err)
		}
		if got, err := r.Next(); err != nil || got != "AT 1" {
			t.Errorf("%s: then %q (%v)", name, got, err)
		}
	}
}

func TestALineWithoutEndEndsTheConnection(t *testing.T) {
	r := NewReader(endlessX{})
	if _, err := r.Next(); err == nil || errors.Is(err, ErrLong) {
		t.Errorf("reading gave %v", err)
	}
}

type endlessX struct{}

func (endlessX) Read(b []byte) (int, error) {
	for i := range b {
		b[i] = 'x'
	}
	return len(b), nil
}

func TestWhatIsNoLineIsNotSent(t *testing.T) {
	for _, text := range []string{"A\nB", "A\rB", "a\x00", "\xff", strings.Repeat("x", MaxLine+1)} {
		if b, err := (TCP{}).Encode(device.Message{Address: text}); err == nil {
			t.Errorf("%.20q was encoded as %d bytes", text, len(b))
		}
	}
	b, err := TCP{}.Encode(device.Message{Address: "GOTO 1"}, device.Message{Address: "STOP"})
	if err != nil || string(b) != "GOTO 1\nSTOP\n" {
		t.Errorf("encoded %q (%v)", b, err)
	}
	if got := (TCP{}).Show(b); len(got) != 2 || got[1] != "STOP" {
		t.Errorf("shown as %q", got)
	}
}

func TestALineGoesThereAndBack(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	go func() {
		c, err := l.Accept()
		if err == nil {
			_, _ = io.Copy(c, c)
		}
	}()
	c, err := TCP{}.Dial(context.Background(), link.Target{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Stale: time.Second})
	if err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	if ok, err := c.TryWrite([]byte("PLAY\n"), 1); !ok || err != nil {
		t.Fatalf("not written at once: %v", err)
	}
	if b, err := c.Read(); err != nil || len(b.Messages) != 1 || b.Messages[0].Address != "PLAY" {
		t.Errorf("read %+v (%v)", b, err)
	}
}

// FuzzReader feeds arbitrary streams; reading must end, with lines in bounds.
func FuzzReader(f *testing.F) {
	f.Add([]byte("AT 1\r\nMOVING 0\n"))
	f.Add([]byte(strings.Repeat("y", MaxLine+2) + "\nOK\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		r := NewReader(strings.NewReader(string(b)))
		for range len(b) + 2 {
			line, err := r.Next()
			switch {
			case errors.Is(err, ErrLong), errors.Is(err, ErrText):
			case err != nil:
				return
			case line == "" || len(line) > MaxLine || strings.ContainsAny(line, "\n\x00"):
				t.Fatalf("a line of %d bytes: %q", len(line), line)
			}
		}
		t.Fatal("reading does not end")
	})
}
