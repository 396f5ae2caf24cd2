package midi

import (
	"bytes"
	"reflect"
	"testing"
)

// read gives the messages of bytes that come in pieces of a length.
func read(stream []byte, piece int) (out []Message) {
	var r Reader
	for len(stream) > 0 {
		n := min(piece, len(stream))
		r.Read(stream[:n], func(m Message) {
			m.Data = append([]byte(nil), m.Data...)
			out = append(out, m)
		})
		stream = stream[n:]
	}
	return out
}

func TestBytesAreRead(t *testing.T) {
	on := func(note, v int) Message { return Message{Kind: NoteOn, Channel: 1, Number: note, Value: v} }
	off := func(note, v int) Message { return Message{Kind: NoteOff, Channel: 1, Number: note, Value: v} }
	for name, c := range map[string]struct {
		in   []byte
		want []Message
	}{
		"a note":                               {[]byte{0x90, 60, 100, 0x80, 60, 64}, []Message{on(60, 100), off(60, 64)}},
		"velocity 0 ends it":                   {[]byte{0x90, 60, 0}, []Message{off(60, 0)}},
		"running status":                       {[]byte{0x90, 60, 1, 61, 2, 61, 0}, []Message{on(60, 1), on(61, 2), off(61, 0)}},
		"a clock between the bytes of one":     {[]byte{0x90, 0xF8, 60, 0xFE, 1, 0xF8, 61, 0xFF, 2}, []Message{on(60, 1), on(61, 2)}},
		"no running status after a song":       {[]byte{0x90, 60, 1, 0xF3, 5, 61, 2, 0x90, 62, 3}, []Message{on(60, 1), on(62, 3)}},
		"none after a position":                {[]byte{0x90, 60, 1, 0xF2, 5, 6, 61, 2}, []Message{on(60, 1)}},
		"none after one without data":          {[]byte{0x90, 60, 1, 0xF6, 61, 2}, []Message{on(60, 1)}},
		"none after an exclusive one":          {[]byte{0x90, 60, 1, 0xF0, 1, 0xF7, 61, 2}, []Message{on(60, 1), {Kind: Exclusive, Data: []byte{1}}}},
		"an exclusive one that does not end":   {[]byte{0xF0, 1, 2, 0x90, 60, 1}, []Message{on(60, 1)}},
		"data that belongs to nothing":         {[]byte{1, 2, 3, 0x90, 60, 1}, []Message{on(60, 1)}},
		"half a message, then another":         {[]byte{0x90, 60, 0xB0, 7, 127}, []Message{{Kind: Controller, Channel: 1, Number: 7, Value: 127}}},
		"an end that nothing began":            {[]byte{0xF7, 60, 0x90, 60, 1}, []Message{on(60, 1)}},
		"a status that means nothing":          {[]byte{0xF4, 60, 61, 0x90, 60, 1}, []Message{on(60, 1)}},
		"a bend":                               {[]byte{0xE2, 0x00, 0x40}, []Message{{Kind: Bend, Channel: 3, Value: 8192}}},
		"a program":                            {[]byte{0xCF, 5, 6}, []Message{{Kind: Program, Channel: 16, Number: 5}, {Kind: Program, Channel: 16, Number: 6}}},
		"the pressure of a channel is nothing": {[]byte{0xD0, 5, 0x90, 60, 1}, []Message{on(60, 1)}},
		"a quarter frame":                      {[]byte{0xF1, 0x35}, []Message{{Kind: Quarter, Value: 0x35}}},
	} {
		for piece := 1; piece <= 3; piece++ {
			if got := read(c.in, piece); !reflect.DeepEqual(got, c.want) {
				t.Errorf("%s, in pieces of %d: %+v, not %+v", name, piece, got, c.want)
			}
		}
	}
}

func TestAnExclusiveMessageThatNeverEndsIsReadOver(t *testing.T) {
	var r Reader
	none := func(m Message) { t.Errorf("told %+v", m.Kind) }
	r.Read([]byte{0xF0}, none)
	for range 100 {
		r.Read(make([]byte, 1000), none)
	}
	if len(r.long) > maxExclusive {
		t.Errorf("%d bytes of it are kept", len(r.long))
	}
	got := 0
	r.Read([]byte{0xF7, 0x90, 60, 1}, func(m Message) { got++ })
	if got != 1 {
		t.Errorf("%d messages after it", got)
	}
}

func TestMessagesAreWrittenAsTheyAreRead(t *testing.T) {
	for _, m := range []Message{{Kind: NoteOn, Channel: 16, Number: 127, Value: 127}, {Kind: NoteOff, Channel: 1}, {Kind: Controller, Channel: 2, Number: 7, Value: 99},
		{Kind: Program, Channel: 3, Number: 4}, {Kind: Bend, Channel: 5, Value: 16383}, {Kind: Pressure, Channel: 1, Number: 2, Value: 3}, {Kind: Exclusive, Data: []byte{1, 2}}} {
		if got := read(m.Bytes(), 1); len(got) != 1 || !reflect.DeepEqual(got[0], m) {
			t.Errorf("%+v comes back as %+v", m, got)
		}
	}
	for _, m := range []Message{{Kind: NoteOn, Channel: 0}, {Kind: NoteOn, Channel: 17}, {Kind: Controller, Channel: 1, Number: 128}, {Kind: Controller, Channel: 1, Value: -1},
		{Kind: Bend, Channel: 1, Value: 16384}, {Kind: Quarter}} {
		if b := m.Bytes(); b != nil {
			t.Errorf("%+v is written as % x", m, b)
		}
	}
}

func TestADeviceSaysWhatItIs(t *testing.T) {
	answer := func(data ...byte) Message { return Message{Kind: Exclusive, Data: data} }
	got, ok := ReadIdentity(answer(0x7E, 0, 6, 2, 0x00, 0x20, 0x33, 1, 2, 3, 4, 1, 0, 0, 9))
	if want := (Identity{Maker: "002033", Family: 257, Model: 515, Version: "1.0.0.9"}); !ok || got != want {
		t.Errorf("it is %+v", got)
	}
	if got, ok := ReadIdentity(answer(0x7E, 0, 6, 2, 0x43, 1, 0, 2, 0, 1, 2, 3, 4)); !ok || got.String() != "43-0001-0002" {
		t.Errorf("it is %v", got)
	}
	for _, m := range []Message{answer(), answer(0x7E, 0, 6, 1, 5), answer(0x7E, 0, 6, 2, 0), answer(0x7E, 0, 6, 2, 0x43, 1, 2, 3), {Kind: NoteOn}} {
		if id, ok := ReadIdentity(m); ok {
			t.Errorf("%+v is taken for %+v", m, id)
		}
	}
	asked := read(AskIdentity(), 1)
	if len(asked) != 1 || !bytes.Equal(asked[0].Data, []byte{0x7E, 0x7F, 6, 1}) {
		t.Errorf("asked is %+v", asked)
	}
}

// quarters are the quarter frames that say a time.
func quarters(rate, h, m, s, f int) (out []Message) {
	for i, n := range []int{f & 15, f >> 4, s & 15, s >> 4, m & 15, m >> 4, h & 15, h>>4 | rate<<1} {
		out = append(out, Message{Kind: Quarter, Value: i<<4 | n})
	}
	return out
}

func TestTimeCodeIsHeard(t *testing.T) {
	var c Clock
	hear := func(all []Message) (said []string) {
		for _, m := range all {
			if at, ok := c.Heard(m); ok {
				said = append(said, at)
			}
		}
		return said
	}
	if got := hear(quarters(1, 19, 58, 4, 22)); !reflect.DeepEqual(got, []string{"19:58:04:24"}) {
		t.Errorf("at 25 frames: %v", got)
	}
	if got := hear(quarters(2, 0, 0, 59, 28)); !reflect.DeepEqual(got, []string{"00:01:00;02"}) {
		t.Errorf("two frames on, at a minute with dropped ones: %v", got)
	}
	late := quarters(1, 1, 2, 3, 4)[3:] // the cable was put in while it ran
	if got := hear(append(late, quarters(1, 1, 2, 3, 6)...)); !reflect.DeepEqual(got, []string{"01:02:03:08"}) {
		t.Errorf("after half a time: %v", got)
	}
	back := quarters(1, 1, 2, 3, 4)
	for i, j := 0, len(back)-1; i < j; i, j = i+1, j-1 {
		back[i], back[j] = back[j], back[i]
	}
	if got := hear(back); got != nil {
		t.Errorf("backwards: %v", got)
	}
	if got := hear([]Message{{Kind: Exclusive, Data: []byte{0x7F, 0x7F, 1, 1, 0x20 | 10, 0, 0, 5}}}); !reflect.DeepEqual(got, []string{"10:00:00:05"}) {
		t.Errorf("a whole one: %v", got)
	}
	if got := hear(append(quarters(1, 30, 0, 0, 0), Message{Kind: Exclusive, Data: []byte{0x7F, 0x7F, 1, 1, 99, 99, 99, 99}})); got != nil {
		t.Errorf("times that cannot be: %v", got)
	}
}

func FuzzReader(f *testing.F) {
	f.Add([]byte{0x90, 60, 100, 0xF8, 61, 0}, 1)
	f.Add([]byte{0xF0, 0x7E, 0, 6, 2, 0, 0x20, 0x33, 1, 2, 3, 4, 1, 0, 0, 9, 0xF7, 0xF1, 0x35, 0xE0, 1, 2}, 3)
	f.Fuzz(func(t *testing.T, stream []byte, piece int) {
		piece = max(1, min(piece, 64))
		whole := read(stream, max(1, len(stream)))
		if cut := read(stream, piece); !reflect.DeepEqual(whole, cut) {
			t.Fatalf("in pieces of %d it is %+v, and %+v whole", piece, cut, whole)
		}
		var c Clock
		for _, m := range whole {
			if m.Channel < 0 || m.Channel > 16 || m.Number > 127 || m.Value > 16383 {
				t.Fatalf("no message is %+v", m)
			}
			c.Heard(m)
			ReadIdentity(m)
			if b := m.Bytes(); b != nil {
				if again := read(b, 1); len(again) != 1 || !reflect.DeepEqual(again[0], m) {
					t.Fatalf("%+v comes back as %+v", m, again)
				}
			}
		}
	})
}
