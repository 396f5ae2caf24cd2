package check

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/png"
	"slices"
	"strings"
	"time"

	"synaptor/internal/wire"
)

// rule is one thing that the document says.
type rule struct {
	text  string
	holds func(t *talk) error
}

// rules are all rules: of the hello and what is shown, and of what is said and what is lost.
var rules = slices.Concat(ofShowing, ofSaying)

var ofShowing = []rule{
	{"A hello is answered by a welcome of its version", func(t *talk) error {
		_, w, err := t.welcomed(t.hello(pictures))
		if err == nil && w.Version != wire.Newest {
			return fmt.Errorf("the version is %d", w.Version)
		}
		return err
	}},
	{"A welcome says what resumes it", func(t *talk) error {
		_, w, err := t.welcomed(t.hello(pictures))
		if err == nil && w.Resume == "" {
			return errors.New("it does not")
		}
		return err
	}},
	{"A welcome says the rhythm of the heartbeat and the window", func(t *talk) error {
		_, w, err := t.welcomed(t.hello(pictures))
		if err == nil && (w.BeatMs <= 0 || w.MissedMs <= w.BeatMs || w.Window < 1) {
			return fmt.Errorf("it says %d, %d and %d", w.BeatMs, w.MissedMs, w.Window)
		}
		return err
	}},
	{"A welcome names each controller, and why it is none", func(t *talk) error {
		h := t.hello(pictures)
		h.Controllers = append(h.Controllers, wire.Controller{Serial: t.serial + "-2", Layout: "grid-6x4"})
		_, w, err := t.welcomed(h)
		if err != nil {
			return err
		}
		for _, c := range h.Controllers {
			i := slices.IndexFunc(w.Controllers, func(a wire.Attached) bool { return a.Serial == c.Serial })
			if i < 0 {
				return fmt.Errorf("it does not name %s", c.Serial)
			}
			if a := w.Controllers[i]; a.Controller == "" && strings.TrimSpace(a.Reason) == "" {
				return errors.New("it gives no reason")
			}
		}
		return nil
	}},
	{"A version of the future is refused with those that are served", func(t *talk) error {
		h := t.hello(pictures)
		h.Version = 99
		return t.refused(h)
	}},
	{"Whoever does not begin with a hello is refused", func(t *talk) error {
		return t.refused(wire.Heartbeat{Type: wire.TypeBeat})
	}},
	{"A hello without a name is refused", func(t *talk) error {
		h := t.hello(pictures)
		h.Bridge = ""
		return t.refused(h)
	}},
	{"The heartbeat comes every second", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		var b wire.Heartbeat
		if err := c.waits(wire.TypeBeat, &b); err != nil {
			return err
		}
		first := time.Now()
		if err := c.waits(wire.TypeBeat, &b); err != nil {
			return err
		}
		if d := time.Since(first); d > wire.Missed {
			return fmt.Errorf("the second came %s after the first", d.Round(time.Millisecond))
		}
		return nil
	}},
	{"Each control shows a face, numbered one after the other", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		last := int64(0)
		return c.shown(false, func(_ heard, f *wire.Face) error {
			if f == nil || f.Lost {
				return nil
			}
			if f.Seq != last+1 {
				return fmt.Errorf("%d came after %d", f.Seq, last)
			}
			last = f.Seq
			return nil
		})
	}},
	{"A picture comes before the face that shows it, is that of its hash, and once", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		had := map[string]bool{}
		return c.shown(false, func(h heard, f *wire.Face) error {
			if h.kind == "binary" {
				hash, _, err := wire.ReadFrame(h.raw)
				if err != nil {
					return err
				}
				if had[hash] {
					return errors.New("one came twice")
				}
				had[hash] = true
			}
			if f != nil && !had[f.Hash] {
				return fmt.Errorf("that of %s had not come", f.Control)
			}
			return nil
		})
	}},
	{"A picture has the size and the format that were asked for", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		return c.shown(false, func(h heard, f *wire.Face) error {
			if f != nil && f.Picture != "png" {
				return fmt.Errorf("a face says %q", f.Picture)
			}
			if h.kind != "binary" {
				return nil
			}
			_, body, err := wire.ReadFrame(h.raw)
			if err != nil {
				return err
			}
			img, err := png.Decode(bytes.NewReader(body))
			if err == nil && img.Bounds() != image.Rect(0, 0, 40, 32) {
				err = fmt.Errorf("it is %v", img.Bounds())
			}
			return err
		})
	}},
	{"RGB565 has two bytes a pixel", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(wire.Shows{Width: 40, Height: 32, Picture: "rgb565"}))
		if err != nil {
			return err
		}
		return c.shown(false, func(h heard, _ *wire.Face) error {
			if h.kind == "binary" && len(h.raw) != 32+40*32*2 {
				return fmt.Errorf("it has %d bytes", len(h.raw)-32)
			}
			return nil
		})
	}},
	{"Each control gets a face for when Synaptor is lost, without a number", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		return c.shown(true, func(_ heard, f *wire.Face) error {
			if f != nil && f.Lost && f.Seq != 0 {
				return fmt.Errorf("that of %s has number %d", f.Control, f.Seq)
			}
			return nil
		})
	}},
	{"No more faces are on their way than the window, and the others come then", func(t *talk) error {
		c, w, err := t.welcomed(t.hello(wire.Shows{Any: true}))
		if err != nil {
			return err
		}
		n, last := 0, int64(0)
		for {
			var f wire.Face
			h, err := c.next(time.Second)
			if errors.Is(err, errSilent) || err == nil && h.kind == wire.TypeBeat && n > 0 {
				break
			}
			if err != nil {
				return err
			}
			if h.kind != wire.TypeFace {
				continue
			}
			if err := read(h, &f); err != nil {
				return err
			}
			if !f.Lost {
				n, last = n+1, f.Seq
			}
		}
		if n > w.Window || n < min(w.Window, len(controls())) {
			return fmt.Errorf("%d came", n)
		}
		if err := c.say(wire.Ack{Type: wire.TypeAck, Seq: last}); err != nil {
			return err
		}
		var f wire.Face
		return c.waits(wire.TypeFace, &f)
	}},
	{"A lamp has one of its colours", func(t *talk) error {
		colours := []string{"#00ff00", "#ff0000"}
		c, _, err := t.welcomed(t.hello(wire.Shows{Colours: colours}))
		if err != nil {
			return err
		}
		return c.shown(false, func(_ heard, f *wire.Face) error {
			if f != nil && !slices.Contains(colours, f.Colour) {
				return fmt.Errorf("%s has %q", f.Control, f.Colour)
			}
			return nil
		})
	}},
	{"Cells have room for what is in them", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(wire.Shows{Columns: 6, Rows: 2}))
		if err != nil {
			return err
		}
		return c.shown(false, func(_ heard, f *wire.Face) error {
			if f == nil {
				return nil
			}
			if len(f.Cells) > 2 || slices.ContainsFunc(f.Cells, func(s string) bool { return len([]rune(s)) > 6 }) {
				return fmt.Errorf("%s shows %q", f.Control, f.Cells)
			}
			return nil
		})
	}},
	{"The first version has its pictures in the faces", func(t *talk) error {
		h := t.hello(pictures)
		h.Version = 1
		c, w, err := t.welcomed(h)
		if err != nil {
			return err
		}
		if w.Version != 1 {
			return fmt.Errorf("the welcome says version %d", w.Version)
		}
		return c.shown(false, func(h heard, f *wire.Face) error {
			if h.kind == "binary" {
				return errors.New("a binary message came")
			}
			if f != nil && wire.Hash(f.Data) != f.Hash {
				return fmt.Errorf("the picture of %s is not that of its hash", f.Control)
			}
			return nil
		})
	}},
}

func read(h heard, into any) error { return json.Unmarshal(h.raw, into) }

// wrong is a rule that something wrong is an error, and nothing more.
func wrong(m func(t *talk) any) func(t *talk) error {
	return func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		return c.quietly(m(t))
	}
}

// refused holds that a first message is refused with a sentence and the versions, and that the connection ends.
func (t *talk) refused(m any) error {
	c, err := t.connect()
	if err != nil {
		return err
	}
	if err := c.say(m); err != nil {
		return err
	}
	var r wire.Refused
	if err := c.waits(wire.TypeRefused, &r); err != nil {
		return err
	}
	if strings.TrimSpace(r.Text) == "" || !slices.Contains(r.Versions, wire.Newest) {
		return fmt.Errorf("it says %+v", r)
	}
	return c.ends()
}
