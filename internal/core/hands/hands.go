// Package hands makes what hardware says into what is done to the controls of a controller: keys, dials and sliders of keyboards, MIDI
// devices, pedals and game controls. Begin with Translator; Learner finds out what was touched.
package hands

import "math"

// Sort is what an event says.
type Sort byte

// The sorts of events.
const (
	On  Sort = iota + 1 // a key is down
	Off                 // it is up
	At                  // something stands at Value
	By                  // it was turned by Value
)

// Event is what hardware says of one of its keys, dials, faders or axes.
type Event struct {
	Source string // what it was, as MIDI, the system or the browser calls it
	Sort   Sort
	Value  float64 // in the hardware's own units
	// Low and High are the ends of what Value can be, where it is a place.
	Low, High float64
	Mods      Mods // that are held, where it is a key of a keyboard
}

// Device is what a device file of the system stands for.
type Device struct {
	Kind string `json:"kind"` // of link
	Name string `json:"name"`
	// Place is where it is plugged in.
	Place string `json:"place"`
	// Typed says that it has letters, so that people may type on it.
	Typed bool `json:"typed,omitempty"`
	// Axes are those that it has, with where they stand; Down its keys that are down.
	Axes []Axis   `json:"axes,omitempty"`
	Down []string `json:"down,omitempty"`
}

// Axis is one that an input device has.
type Axis struct {
	Source string  `json:"source"`
	Low    float64 `json:"low"`
	High   float64 `json:"high"`
	Value  float64 `json:"value"`
}

// Mods are the modifier keys that are held.
type Mods byte

// The modifier keys, in the order in which they are written.
const (
	Ctrl Mods = 1 << iota
	Alt
	Shift
	Meta
)

var modNames = []string{"Ctrl", "Alt", "Shift", "Meta"}

// Combination is the canonical spelling of a key that is pressed while others are held: Ctrl+Shift+F13. A modifier goes by itself.
func Combination(mods Mods, key string) string {
	if Modifier(key) != 0 {
		return key
	}
	for i := len(modNames) - 1; i >= 0; i-- {
		if mods&(1<<i) != 0 {
			key = modNames[i] + "+" + key
		}
	}
	return key
}

// modifiers are the keys that are such, as UI Events (KeyboardEvent.code) and Linux call them.
var modifiers = map[string]Mods{
	"ControlLeft": Ctrl, "ControlRight": Ctrl, "AltLeft": Alt, "AltRight": Alt, "ShiftLeft": Shift, "ShiftRight": Shift, "MetaLeft": Meta, "MetaRight": Meta,
	"KEY_LEFTCTRL": Ctrl, "KEY_RIGHTCTRL": Ctrl, "KEY_LEFTALT": Alt, "KEY_RIGHTALT": Alt, "KEY_LEFTSHIFT": Shift, "KEY_RIGHTSHIFT": Shift, "KEY_LEFTMETA": Meta, "KEY_RIGHTMETA": Meta,
}

// Modifier tells which modifier a key is; 0: none.
func Modifier(key string) Mods { return modifiers[key] }

func finite(n float64) bool { return !math.IsNaN(n) && math.Abs(n) < 1e12 }

// ModOf is the modifier of a name, as Combination writes it; 0: none.
func ModOf(name string) Mods {
	for i, n := range modNames {
		if n == name {
			return 1 << i
		}
	}
	return 0
}
