package wire

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
)

// Hash is that of a picture: SHA-256, as hexadecimal digits.
func Hash(picture []byte) string {
	sum := sha256.Sum256(picture)
	return hex.EncodeToString(sum[:])
}

// Frame is a picture as a binary message: the 32 bytes of its hash, then its own.
func Frame(picture []byte) []byte {
	sum := sha256.Sum256(picture)
	return append(sum[:], picture...)
}

// ReadFrame takes a binary message apart. It fails where the picture is not that of the hash.
func ReadFrame(frame []byte) (hash string, picture []byte, err error) {
	if len(frame) < sha256.Size {
		return "", nil, errors.New("a picture begins with the 32 bytes of its hash")
	}
	hash, picture = hex.EncodeToString(frame[:sha256.Size]), frame[sha256.Size:]
	if Hash(picture) != hash {
		return "", nil, errors.New("the picture is not that of its hash")
	}
	return hash, picture, nil
}

// TypeOf reads the type of a message. It fails where there is none.
func TypeOf(message []byte) (string, error) {
	var m struct {
		Type string `json:"type"`
	}
	if err := json.Unmarshal(message, &m); err != nil {
		return "", fmt.Errorf("this is not a message: %w", err)
	}
	if m.Type == "" {
		return "", errors.New("a message has a type")
	}
	return m.Type, nil
}

// Read reads a message of a bridge: a *Hello, *Input, *Battery, *Trouble, *Ack or *Heartbeat. Members that are not known are ignored. It
// fails with what is wrong, as a sentence.
func Read(message []byte) (any, error) {
	kind, err := TypeOf(message)
	if err != nil {
		return nil, err
	}
	var m interface{ check() error }
	switch kind {
	case TypeHello:
		m = &Hello{}
	case TypeDown, TypeUp, TypeTurn, TypeSlide, TypeSwipe:
		m = &Input{}
	case TypeBattery:
		m = &Battery{}
	case TypeError:
		m = &Trouble{}
	case TypeAck:
		m = &Ack{}
	case TypeBeat:
		m = &Heartbeat{}
	default:
		return nil, fmt.Errorf("a bridge says no %q", cut(kind))
	}
	if err := json.Unmarshal(message, m); err != nil {
		return nil, fmt.Errorf("this is no %s: %w", kind, err)
	}
	return m, m.check()
}

// cut keeps a text to what is shown of it.
func cut(s string) string {
	s = strings.ToValidUTF8(s, "�")
	if r := []rune(s); len(r) > MaxText {
		return string(r[:MaxText-1]) + "…"
	}
	return s
}

func (h *Hello) check() error {
	h.Bridge = cut(strings.TrimSpace(h.Bridge))
	if h.Keeps == 0 {
		h.Keeps = UsualKeeps
	}
	switch {
	case h.Version < 1:
		return errors.New("a hello has the version of the protocol")
	case h.Bridge == "":
		return errors.New("a hello has the name of the bridge")
	case h.Keeps < 0 || h.Keeps > MaxKeeps:
		return fmt.Errorf("a bridge keeps at most %d pictures", MaxKeeps)
	case len(h.Controllers) > MaxControllers:
		return fmt.Errorf("a bridge carries at most %d controllers", MaxControllers)
	}
	seen := map[string]bool{}
	for i := range h.Controllers {
		c := &h.Controllers[i]
		if err := c.check(); err != nil {
			return err
		}
		if seen[c.Serial] {
			return fmt.Errorf("the serial number %q is said twice", c.Serial)
		}
		seen[c.Serial] = true
	}
	return nil
}

func (c *Controller) check() error {
	c.Serial, c.Name = strings.TrimSpace(c.Serial), cut(strings.TrimSpace(c.Name))
	switch {
	case c.Serial == "":
		return errors.New("a controller has a serial number")
	case len([]rune(c.Serial)) > MaxText:
		return fmt.Errorf("a serial number has at most %d characters", MaxText)
	case c.Layout == "" && len(c.Sheet) == 0:
		return fmt.Errorf("%s has the id of a layout, or a sheet", c.Serial)
	case len(c.Shows) > MaxControls:
		return fmt.Errorf("%s describes at most %d controls", c.Serial, MaxControls)
	}
	for control, s := range c.Shows {
		if err := s.check(); err != nil {
			return fmt.Errorf("%s of %s %w", control, c.Serial, err)
		}
	}
	return nil
}

func (s Shows) check() error {
	switch {
	case s.Width < 0 || s.Height < 0 || s.Width > MaxSide || s.Height > MaxSide:
		return fmt.Errorf("has at most %d pixels along a side", MaxSide)
	case s.Picture != "" && (s.Width == 0 || s.Height == 0):
		return errors.New("shows pictures of no size")
	case s.Picture != "" && !slices.Contains([]string{"png", "jpeg", "rgb565"}, s.Picture):
		return fmt.Errorf("shows pictures as %q; they are png, jpeg or rgb565", cut(s.Picture))
	case s.Columns < 0 || s.Rows < 0 || s.Columns > MaxText || s.Rows > MaxText:
		return fmt.Errorf("has at most %d cells along a side", MaxText)
	case len(s.Colours) > MaxText:
		return fmt.Errorf("has at most %d colours", MaxText)
	}
	return nil
}

// maxAmount is the most that one input turns by.
//
//limit:count detents of one turn of a bridge | in an error to the bridge
const maxAmount = 1000

func (in *Input) check() error {
	switch {
	case in.Controller == "" || in.Control == "":
		return fmt.Errorf("a %s names its controller and control", in.Type)
	case in.Seq < 1:
		return fmt.Errorf("a %s has a sequence number, from 1 on", in.Type)
	case math.IsNaN(in.Amount) || math.Abs(in.Amount) > maxAmount:
		return fmt.Errorf("an amount is a number up to %d", maxAmount)
	case in.Type == TypeSlide && (in.Amount < 0 || in.Amount > 1):
		return errors.New("a slide is from 0 to 1")
	case in.Type == TypeSwipe && in.Amount != -1 && in.Amount != 1:
		return errors.New("a swipe is -1, to the left, or 1, to the right")
	case in.Type == TypeTurn && in.Amount == 0:
		return errors.New("a turn has its detents")
	}
	return nil
}

func (b *Battery) check() error {
	if !(b.Level >= 0 && b.Level <= 1) {
		return errors.New("a battery is from 0 to 1")
	}
	return nil
}

func (t *Trouble) check() error {
	if t.Text = cut(strings.TrimSpace(t.Text)); t.Text == "" {
		return errors.New("an error has a text")
	}
	return nil
}

func (a *Ack) check() error {
	if a.Seq < 0 {
		return errors.New("a sequence number is not negative")
	}
	return nil
}

func (*Heartbeat) check() error { return nil }
