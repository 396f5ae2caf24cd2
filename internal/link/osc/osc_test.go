package osc

import (
	"bytes"
	"errors"
	"io"
	"math"
	"math/rand/v2"
	"reflect"
	"testing"

	goosc "github.com/hypebeast/go-osc/osc"

	"synaptor/internal/core/device"
)

func TestMessagesSurviveTheWire(t *testing.T) {
	for _, m := range []device.Message{
		{Address: "/mix/1/program", Args: []any{3}},
		{Address: "/follow"},
		{Address: "/mix/1/transition/position", Args: []any{0.5}},
		{Address: "/input/1/name", Args: []any{"Café “Stern” № 4"}},
		{Address: "/many", Args: []any{-1, "", 0.25, "x"}},
	} {
		b, err := Encode(m)
		if err != nil {
			t.Errorf("%v: %v", m, err)
			continue
		}
		got, err := Decode(b)
		if err != nil || len(got) != 1 || !reflect.DeepEqual(got[0], m) {
			t.Errorf("%v came back as %v (%v)", m, got, err)
		}
	}
}

func TestWhatCannotBeSentIsRefused(t *testing.T) {
	tooLarge := math.MaxInt // where it has 64 bits
	if tooLarge == math.MaxInt32 {
		t.Skip("every int fits here")
	}
	for _, m := range []device.Message{
		{Address: "no/slash"},
		{Address: "/nul\x00l"},
		{Address: "/x", Args: []any{"a\x00b"}},
		{Address: "/x", Args: []any{tooLarge}},
		{Address: "/x", Args: []any{nil}},
		{Address: "/x", Args: []any{string(make([]byte, MaxPacket))}},
	} {
		if b, err := Encode(m); err == nil {
			t.Errorf("%.40v was encoded as %d bytes", m, len(b))
		}
	}
}

func TestABundleGivesItsMessages(t *testing.T) {
	b := goosc.NewBundle(goosc.NewTimetagFromTimetag(1).Time())
	for _, m := range []*goosc.Message{goosc.NewMessage("/a", int32(1)), goosc.NewMessage("/b", true)} {
		if err := b.Append(m); err != nil {
			t.Fatal(err)
		}
	}
	raw, err := b.MarshalBinary()
	if err != nil {
		t.Fatal(err)
	}
	got, err := Decode(raw)
	want := []device.Message{{Address: "/a", Args: []any{1}}, {Address: "/b", Args: []any{1}}}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("got %v (%v), want %v", got, err, want)
	}
}

func TestNonsenseIsAnErrorAndNotAPanic(t *testing.T) {
	for _, b := range [][]byte{nil, []byte("/abc"), []byte("/a\x00\x00,i\x00\x00"), []byte("#bundle\x00"), []byte("hello world!"),
		[]byte("/a\x00\x00,b\x00\x00\xff\xff\xff\xff"), []byte("/a\x00"), make([]byte, MaxPacket+4), []byte("/a\x00\x00,N\x00\x00")} {
		if m, err := Decode(b); err == nil {
			t.Errorf("%.20q was decoded as %v", b, m)
		}
	}
}

func TestFramesAreFoundInAStream(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	var stream []byte
	var want [][]byte
	for range 200 {
		p := make([]byte, 1+r.IntN(300))
		for i := range p {
			p[i] = []byte{slipEnd, slipEsc, slipEscEnd, slipEscEsc, byte(r.IntN(256))}[r.IntN(5)]
		}
		want = append(want, p)
		stream = AppendFrame(stream, p)
	}
	f := NewFrameReader(bytes.NewReader(stream))
	for i, w := range want {
		got, err := f.Next()
		if err != nil || !bytes.Equal(got, w) {
			t.Fatalf("frame %d: %x (%v), want %x", i, got, err, w)
		}
	}
	if _, err := f.Next(); err != io.EOF {
		t.Errorf("after the last frame: %v", err)
	}
}

func TestABadFrameLeavesTheNextOneReadable(t *testing.T) {
	good := AppendFrame(nil, []byte("good"))
	for name, c := range map[string]struct {
		bad  []byte
		want error
	}{
		"too large":              {AppendFrame(nil, make([]byte, MaxPacket+1)), ErrOversized},
		"an escape of nothing":   {[]byte{slipEnd, 'a', slipEsc, 'b', 'c', slipEnd}, ErrBadEscape},
		"an escape at the end":   {[]byte{slipEnd, 'a', slipEsc, slipEnd}, ErrBadEscape},
		"only an escape and end": {[]byte{slipEsc, slipEnd}, ErrBadEscape},
	} {
		f := NewFrameReader(bytes.NewReader(append(c.bad, good...)))
		if _, err := f.Next(); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
		if got, err := f.Next(); err != nil || string(got) != "good" {
			t.Errorf("%s: then %q (%v)", name, got, err)
		}
	}
	for _, half := range [][]byte{{slipEnd, 'a'}, {slipEnd, 'a', slipEsc}} {
		if _, err := NewFrameReader(bytes.NewReader(half)).Next(); err != io.ErrUnexpectedEOF {
			t.Errorf("half a frame: %v", err)
		}
	}
}

// FuzzDecode feeds arbitrary packets; what is decoded must encode again where
// its arguments can be sent.
func FuzzDecode(f *testing.F) {
	for _, m := range []device.Message{{Address: "/mix/1/program", Args: []any{3}}, {Address: "/a", Args: []any{0.5, "x"}}} {
		b, err := Encode(m)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(b)
	}
	f.Add([]byte("#bundle\x00\x00\x00\x00\x00\x00\x00\x00\x01\x00\x00\x00\x08/a\x00\x00,\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, b []byte) {
		msgs, err := Decode(b)
		if err != nil {
			return
		}
		for _, m := range msgs {
			if again, err := Encode(m); err == nil {
				if _, err := Decode(again); err != nil {
					t.Errorf("%v does not survive: %v", m, err)
				}
			}
		}
	})
}

// FuzzFrames feeds arbitrary streams; reading must end, with frames in bounds.
func FuzzFrames(f *testing.F) {
	f.Add(AppendFrame(nil, []byte("hello")))
	f.Add([]byte{slipEnd, slipEsc, slipEnd, 'x', slipEnd})
	f.Fuzz(func(t *testing.T, b []byte) {
		r := NewFrameReader(bytes.NewReader(b))
		for range len(b) + 2 {
			frame, err := r.Next()
			switch {
			case errors.Is(err, ErrOversized), errors.Is(err, ErrBadEscape):
			case err != nil:
				return
			case len(frame) == 0 || len(frame) > MaxPacket:
				t.Fatalf("a frame of %d bytes", len(frame))
			}
		}
		t.Fatal("reading does not end")
	})
}
