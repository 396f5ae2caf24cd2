package show

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// What a binding makes of its source.
const (
	AsKey    = "key"
	AsDial   = "dial"
	AsSlider = "slider"
)

// How a dial says that it was turned, and a slider that it says its place in two halves.
const (
	Twos     = "twos"     // two's complement: 1 and 127
	Offset   = "offset"   // around 64: 65 and 63
	Sign     = "sign"     // sign and magnitude: 1 and 65
	Absolute = "absolute" // it has ends, and says where it stands
	Pair     = "pair"     // the upper half, and the lower half as the controller 32 above
)

// Encodings lists those of a dial, Pair apart.
var Encodings = []string{Twos, Offset, Sign, Absolute}

// Binding says which control something on the hardware is.
type Binding struct {
	Source string `json:"source"`
	// Control is that of the controller; empty: it does nothing.
	Control  string `json:"control"`
	As       string `json:"as"` // key, dial or slider
	Encoding string `json:"encoding,omitempty"`
	// Low and High are where it stands at its ends, as it was moved once; Low above High turns it round. Both 0: the hardware says.
	Low  float64 `json:"low,omitempty"`
	High float64 `json:"high,omitempty"`
	// Dead is the share at each end where nothing changes.
	Dead float64 `json:"dead,omitempty"`
	// Touched is the source that says whether a hand is on it.
	Touched string `json:"touched,omitempty"`
	// Lamps is what is sent back to the source: by role, and by "any" and "off".
	Lamps map[string]int `json:"lamps,omitempty"`
	// Level says that its level goes back to it: a fader with a motor, a ring of lamps.
	Level bool `json:"level,omitempty"`
}

// LampAny and LampOff are what a lamp shows where no role of its table is lit, and where none is.
const (
	LampAny = "any"
	LampOff = "off"
)

// deadest is the largest share at an end where nothing changes.
const deadest = 0.4

// MaxSource is how long the name of a source may be.
//
//limit:count characters of the name of a key or an axis of hardware | at the edit
const MaxSource = 80

// Check says what is wrong with a binding, in a sentence; empty: nothing.
func (b Binding) Check() string {
	switch {
	case strings.TrimSpace(b.Source) == "":
		return "Say what is touched on the hardware."
	case len(b.Source) > MaxSource || len(b.Touched) > MaxSource:
		return fmt.Sprintf("The name of what is touched has at most %d characters.", MaxSource)
	case b.As != AsKey && b.As != AsDial && b.As != AsSlider:
		return fmt.Sprintf("%s can be a key, a dial or a slider.", b.Source)
	case b.As == AsKey && b.Encoding != "", b.As == AsDial && b.Encoding != "" && !slices.Contains(Encodings, b.Encoding), b.As == AsSlider && b.Encoding != "" && b.Encoding != Pair:
		return fmt.Sprintf("A %s does not say its moves as %q.", b.As, b.Encoding)
	case !(math.Abs(b.Low) < 1e12) || !(math.Abs(b.High) < 1e12) || b.Low == b.High && b.Low != 0:
		return fmt.Sprintf("The ends of %s are the same place.", b.Source)
	case !(b.Dead >= 0 && b.Dead <= deadest):
		return fmt.Sprintf("At most %d percent at each end can be dead.", int(deadest*100))
	}
	for role, v := range b.Lamps {
		if v < 0 || v > 127 || role == "" || len(b.Lamps) > 20 {
			return "A lamp is told a number from 0 to 127, for at most 20 roles."
		}
	}
	return ""
}

// Lamp is what the lamp of a key is told while roles are lit, most important first; false: it has no lamp.
func (b Binding) Lamp(roles []string) (value int, ok bool) {
	if b.Lamps == nil {
		return 0, false
	}
	for _, r := range roles {
		if v, has := b.Lamps[r]; has {
			return v, true
		}
	}
	if v, has := b.Lamps[LampAny]; has && len(roles) > 0 {
		return v, true
	}
	return b.Lamps[LampOff], true
}
