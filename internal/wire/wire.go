// Package wire is the wire: the open protocol by which a bridge attaches controllers of any kind to Synaptor. It has the messages, and
// what is wrong with one; docs/wire-protocol.md describes the conversation. Messages are JSON texts (RFC 8259), pictures are binary
// messages of a WebSocket (RFC 6455), or JSON too where there is only a line of text.
package wire

import (
	"encoding/json"
	"time"
)

// The versions of the protocol that are served. A message of a later one is refused with a sentence.
const (
	Oldest = 1
	Newest = 2
)

// Rhythm of the heartbeat.
const (
	// Beat is how often each side says that it is there.
	Beat = time.Second
	// Missed is after how long without a message the other side is taken for lost: what it held is let go, or the lost faces are
	// shown.
	Missed = 3 * time.Second
)

// Limits of what a bridge says.
const (
	//limit:bytes a message of a bridge; the connection ends | in the closing message
	MaxMessage = 256 << 10
	//limit:count controllers of a bridge | in the answer to its hello
	MaxControllers = 32
	//limit:count controls that a bridge describes of one controller | in the answer to its hello
	MaxControls = 500
	//limit:count pixels of a control, along one side | in the answer to its hello
	MaxSide = 1024
	//limit:count characters of a name or a text of a bridge | the rest is cut off
	MaxText = 200
	// Window is how many faces are on their way before one is acknowledged.
	Window = 16
)

// Types of messages.
const (
	TypeHello       = "hello"
	TypeWelcome     = "welcome"
	TypeRefused     = "refused"
	TypeControllers = "controllers"
	TypeDown        = "down"
	TypeUp          = "up"
	TypeTurn        = "turn"
	TypeSlide       = "slide"
	TypeSwipe       = "swipe"
	TypeBattery     = "battery"
	TypeError       = "error"
	TypeAck         = "ack"
	TypeBeat        = "beat"
	TypeFace        = "face"
	TypePicture     = "picture"
	TypePage        = "page"
	TypeBrightness  = "brightness"
	TypeDim         = "dim"
	TypeText        = "text"
)

// Hello is the first message of a bridge.
type Hello struct {
	Type    string `json:"type"`    // hello
	Version int    `json:"version"` // of the protocol
	Bridge  string `json:"bridge"`  // what it is called
	// Token lets it in where one is asked for.
	Token string `json:"token,omitempty"`
	// Resume is what the last welcome said: pictures that were sent then are not sent again.
	Resume string `json:"resume,omitempty"`
	// Keeps is how many pictures it keeps, the last that came; none: 256.
	Keeps       int          `json:"keeps,omitempty"`
	Controllers []Controller `json:"controllers"`
}

// Controller is a controller that a bridge carries.
type Controller struct {
	Serial string `json:"serial"` // tells it apart, for good
	Name   string `json:"name,omitempty"`
	// Layout is the id of a controller sheet, or Sheet is one.
	Layout string          `json:"layout,omitempty"`
	Sheet  json.RawMessage `json:"sheet,omitempty"`
	// Shows is what each control can show, by its id; "*" is for all others. A control that is not in it shows nothing.
	Shows map[string]Shows `json:"shows,omitempty"`
}

// Shows is what a control can show: pictures, colours, or text.
type Shows struct {
	// Width and Height are pixels of pictures in a format: png, jpeg or rgb565.
	Width   int    `json:"width,omitempty"`
	Height  int    `json:"height,omitempty"`
	Picture string `json:"picture,omitempty"`
	// Colours are those that its lamp can have, as #rrggbb; one of them is named in the face. Any says that it can have all.
	Colours []string `json:"colours,omitempty"`
	Any     bool     `json:"any,omitempty"`
	// Columns and Rows are cells of text.
	Columns int `json:"columns,omitempty"`
	Rows    int `json:"rows,omitempty"`
}

// Anything tells whether it shows anything at all.
func (s Shows) Anything() bool {
	return s.Picture != "" || len(s.Colours) > 0 || s.Any || s.Columns > 0
}

// Of gives what a control can show.
func (c Controller) Of(control string) Shows {
	if s, has := c.Shows[control]; has {
		return s
	}
	return c.Shows["*"]
}

// Input is what somebody did to a control.
type Input struct {
	Type       string `json:"type"` // down, up, turn, slide or swipe
	Controller string `json:"controller"`
	Control    string `json:"control"`
	// Seq counts up for each controller; an older one is not done.
	Seq int64 `json:"seq"`
	// Clock is the bridge's clock in milliseconds.
	Clock int64 `json:"clock,omitempty"`
	// Amount is the detents of a turn, the position of a slide from 0 to 1, or -1 or 1 for a swipe to the left or the right.
	Amount float64 `json:"amount,omitempty"`
}

// Battery is how full the battery of a controller is, from 0 to 1.
type Battery struct {
	Type       string  `json:"type"` // battery
	Controller string  `json:"controller"`
	Level      float64 `json:"level"`
}

// Trouble is something that went wrong, in a sentence. Both sides say it.
type Trouble struct {
	Type       string `json:"type"` // error
	Controller string `json:"controller,omitempty"`
	Text       string `json:"text"`
}

// Ack says that all faces up to a sequence number were shown.
type Ack struct {
	Type string `json:"type"` // ack
	Seq  int64  `json:"seq"`
}

// Heartbeat says that a side is there.
type Heartbeat struct {
	Type  string `json:"type"` // beat
	Clock int64  `json:"clock,omitempty"`
	// Begins says, to a board on a line of text, that a bridge begins there: whatever another one was told before, the board says hello.
	Begins bool `json:"begins,omitempty"`
}

// Welcome is the answer to a hello.
type Welcome struct {
	Type    string `json:"type"` // welcome
	Version int    `json:"version"`
	// Resume is for the next hello of this bridge.
	Resume string `json:"resume"`
	// BeatMs and MissedMs are the rhythm of the heartbeat in milliseconds, Window how many faces may be on their way.
	BeatMs      int64      `json:"beatMs"`
	MissedMs    int64      `json:"missedMs"`
	Window      int        `json:"window"`
	Controllers []Attached `json:"controllers"`
}

// Controllers says anew which controller each is.
type Controllers struct {
	Type        string     `json:"type"` // controllers
	Controllers []Attached `json:"controllers"`
}

// Attached says which controller of the show one of a bridge is, or why it is none.
type Attached struct {
	Serial string `json:"serial"`
	// Controller is the address of the controller of the show, Name what it is called; empty: it is none.
	Controller string `json:"controller,omitempty"`
	Name       string `json:"name,omitempty"`
	Reason     string `json:"reason,omitempty"`
}

// Refused is the answer to a hello that does not do. The connection ends.
type Refused struct {
	Type     string `json:"type"` // refused
	Text     string `json:"text"`
	Versions []int  `json:"versions"` // that are served
}

// Face is what a control shows from now on.
type Face struct {
	Type       string `json:"type"` // face
	Controller string `json:"controller"`
	Control    string `json:"control"`
	Seq        int64  `json:"seq,omitempty"` // to be acknowledged
	// Lost says that it is not to be shown now, but when Synaptor is lost. It has no sequence number, and is not acknowledged.
	Lost bool `json:"lost,omitempty"`
	// Hash tells faces apart: of a picture, that of its bytes.
	Hash string `json:"hash"`
	// Lines are the label as it is set. Cells are for a control that shows text: its rows.
	Lines []string `json:"lines,omitempty"`
	Cells []string `json:"cells,omitempty"`
	// Words say what the face shows: on air, armed.
	Words      string `json:"words,omitempty"`
	Background string `json:"background,omitempty"`
	Colour     string `json:"colour,omitempty"` // of the text, or of the lamp
	// Shapes are the roles that are lit: on-air, preview, armed, running, set, or those with pending- before them; unknown, away.
	Shapes []string `json:"shapes,omitempty"`
	Blink  bool     `json:"blink,omitempty"`
	// Picture is the format of the picture whose hash this is; empty: there is none.
	Picture string `json:"picture,omitempty"`
	// Data is the picture itself, in base64 (RFC 4648, 4), in version 1 only.
	Data []byte `json:"data,omitempty"`
}

// Picture is a picture where there are no binary messages: on a line of text.
type Picture struct {
	Type string `json:"type"` // picture
	Hash string `json:"hash"`
	Data []byte `json:"data"`
}

// Page is which page a zone of a controller shows.
type Page struct {
	Type       string `json:"type"` // page
	Controller string `json:"controller"`
	Zone       string `json:"zone"`
	Page       string `json:"page"`
	Name       string `json:"name"`
}

// Brightness is how bright a controller is to be, from 0 to 1.
type Brightness struct {
	Type       string  `json:"type"` // brightness
	Controller string  `json:"controller"`
	Level      float64 `json:"level"`
}

// Dim says whether a controller is dimmed, because nobody has touched it for a while.
type Dim struct {
	Type       string `json:"type"` // dim
	Controller string `json:"controller"`
	On         bool   `json:"on"`
}

// Text is a sentence for a controller that can show one.
type Text struct {
	Type       string `json:"type"` // text
	Controller string `json:"controller"`
	Text       string `json:"text"`
}
