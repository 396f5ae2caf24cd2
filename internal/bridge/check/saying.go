package check

import (
	"errors"
	"fmt"
	"strings"

	"synaptor/internal/wire"
)

var ofSaying = []rule{
	{"A message that is none is an error, and the connection goes on", wrong(func(t *talk) any { return `{"type":` })},
	{"A message without a type is an error, and the connection goes on", wrong(func(t *talk) any { return `{}` })},
	{"A type that is not known is an error, and the connection goes on", wrong(func(t *talk) any { return `{"type":"dance"}` })},
	{"An input of another's controller is an error", wrong(func(t *talk) any {
		return wire.Input{Type: wire.TypeDown, Controller: "nobody", Control: "a1", Seq: 1}
	})},
	{"A slide beyond its end is an error", wrong(func(t *talk) any {
		return wire.Input{Type: wire.TypeSlide, Controller: t.serial, Control: "a1", Seq: 1, Amount: 2}
	})},
	{"A battery that is more than full is an error", wrong(func(t *talk) any {
		return wire.Battery{Type: wire.TypeBattery, Controller: t.serial, Level: 40}
	})},
	{"An input that is older than the last one is an error", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		for _, seq := range []int64{7, 3} {
			if err := c.say(wire.Input{Type: wire.TypeDown, Controller: t.serial, Control: "a1", Seq: seq}); err != nil {
				return err
			}
			var e wire.Trouble
			if err := c.waits(wire.TypeError, &e); err != nil {
				return fmt.Errorf("number %d: %w", seq, err)
			}
			if seq == 3 && !strings.Contains(e.Text, "3") {
				return fmt.Errorf("it says %q", e.Text)
			}
		}
		return nil
	}},
	{"Members that are not known are ignored", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		if err := c.say(`{"type":"battery","controller":"` + t.serial + `","level":0.5,"colour":"blue"}`); err != nil {
			return err
		}
		for range 2 {
			for {
				h, err := c.next(patience)
				if err != nil {
					return err
				}
				if h.kind == wire.TypeError {
					return errors.New("there is an error")
				}
				if h.kind == wire.TypeBeat {
					break
				}
			}
		}
		return nil
	}},
	{"A second bridge of the same serial number hears so, and gets it after the first", func(t *talk) error {
		first, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		h := t.hello(pictures)
		h.Bridge = "Check too"
		second, w, err := t.welcomed(h)
		if err != nil {
			return err
		}
		if len(w.Controllers) != 1 || !strings.Contains(w.Controllers[0].Reason, "Check") {
			return fmt.Errorf("the second hears %+v", w.Controllers)
		}
		_ = first.ws.CloseNow()
		var m wire.Controllers
		if err := second.waits(wire.TypeControllers, &m); err != nil {
			return err
		}
		if len(m.Controllers) != 1 || strings.Contains(m.Controllers[0].Reason, "Another") {
			return fmt.Errorf("after the first the second hears %+v", m.Controllers)
		}
		return nil
	}},
	{"Who resumes gets no picture again that was acknowledged", func(t *talk) error {
		c, w, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		had := map[string]bool{}
		if err := c.shown(false, func(_ heard, f *wire.Face) error {
			if f != nil && !f.Lost {
				had[f.Hash] = true
			}
			return nil
		}); err != nil {
			return err
		}
		if err := c.quietly(`{}`); err != nil { // what is answered after the acknowledgements was read after them
			return err
		}
		_ = c.ws.CloseNow()
		h := t.hello(pictures)
		h.Resume = w.Resume
		again, _, err := t.welcomed(h)
		if err != nil {
			return err
		}
		return again.shown(false, func(h heard, _ *wire.Face) error {
			if h.kind != "binary" {
				return nil
			}
			if hash, _, err := wire.ReadFrame(h.raw); err != nil || had[hash] {
				return errors.New("one came again")
			}
			return nil
		})
	}},
	{"A message that is too large ends the connection", func(t *talk) error {
		c, _, err := t.welcomed(t.hello(pictures))
		if err != nil {
			return err
		}
		if err := c.say(strings.Repeat(" ", wire.MaxMessage+1)); err != nil {
			return nil // it has ended already
		}
		return c.ends()
	}},
}
