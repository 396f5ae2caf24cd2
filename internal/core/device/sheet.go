// Package device turns device sheets into typed devices: which readings a
// device reports, which actions it can be told to do, what they send and what
// they bring about. It knows no protocol; drivers do.
package device

// SheetFormat is the format this package reads.
const SheetFormat = "synaptor.device/1"

// Sheet is a device sheet as it is written; docs/device-sheets.md explains it.
type Sheet struct {
	Format      string           `json:"sheet"`
	Type        string           `json:"type"`
	Title       string           `json:"title"`
	Role        string           `json:"role"`
	Description string           `json:"description,omitempty"`
	Link        LinkSpec         `json:"link"`
	Index       map[string]Index `json:"index,omitempty"`
	Readings    []ReadingSpec    `json:"readings"`
	Actions     []ActionSpec     `json:"actions"`
	Kits        []KitSpec        `json:"kits,omitempty"`
}

// LinkSpec says how a device is reached and kept alive.
type LinkSpec struct {
	Driver    string `json:"driver"`
	Transport string `json:"transport"`
	Port      int    `json:"port"`
	// Start is sent when the link is up, to have everything reported.
	Start []MessageSpec `json:"start,omitempty"`
	// Ask is how one reading is asked for; {address} stands for its address.
	Ask *MessageSpec `json:"ask,omitempty"`
	// Identify names the reading that tells what answers, and what it looks like.
	Identify Identify `json:"identify"`
	// Renew is how often the start messages are sent again, for devices whose
	// subscriptions expire; empty: once is enough.
	Renew string `json:"renew,omitempty"`
	// Quiet is for how long a device that has said everything says nothing;
	// empty: the identifying reading ends the full state.
	Quiet string `json:"quiet,omitempty"`
	// Alive is how often the identifying reading is asked for, as a duration.
	Alive string `json:"alive"`
	// Deadline is how long a command may wait before it leaves; default 250ms.
	Deadline string `json:"deadline,omitempty"`
	// Refusal is the address under which the device explains what it refuses.
	Refusal string `json:"refusal,omitempty"`
}

// Identify says how a device is recognised.
type Identify struct {
	Reading string `json:"reading"`
	Like    string `json:"like,omitempty"` // a regular expression
}

// MessageSpec is a message; address and arguments are templates.
type MessageSpec struct {
	Address string `json:"address"`
	Args    []any  `json:"args,omitempty"`
}

// Index is a set of values that paths and parameters run over: a range such as
// 1..2, or what the device has named.
type Index struct {
	Title string `json:"title"`
	Range string `json:"range,omitempty"`
	From  string `json:"from,omitempty"` // a reading path that ends in {index}/name
	Gone  string `json:"gone,omitempty"` // a reading path; true: no longer there
}

// ReadingSpec is one family of readings.
type ReadingSpec struct {
	Path      string   `json:"path"`
	Title     string   `json:"title"`
	Type      string   `json:"type"` // bool, int, float, db, text, choice
	Of        string   `json:"of,omitempty"`
	Options   []string `json:"options,omitempty"`
	Unit      string   `json:"unit,omitempty"`
	Min       *float64 `json:"min,omitempty"`
	Max       *float64 `json:"max,omitempty"`
	Tolerance float64  `json:"tolerance,omitempty"`
	Role      string   `json:"role,omitempty"`
	Headline  bool     `json:"headline,omitempty"`
	// Wire is the type on the wire: int, float or text; by default what suits
	// the type. Address is by default the path after a slash.
	Wire    string `json:"wire,omitempty"`
	Address string `json:"address,omitempty"`
}

// ActionSpec is something a device can be told to do.
type ActionSpec struct {
	ID      string      `json:"id"`
	Title   string      `json:"title"`
	Help    string      `json:"help"`
	Example string      `json:"example,omitempty"`
	Words   []string    `json:"words,omitempty"`
	Suits   []string    `json:"suits"`
	Params  []ParamSpec `json:"params,omitempty"`
	// Send are the messages; when missing, each effect's reading is set.
	Send    []MessageSpec `json:"send,omitempty"`
	Effects []EffectSpec  `json:"effects,omitempty"`
	Needs   []NeedSpec    `json:"needs,omitempty"`
	Risky   bool          `json:"risky,omitempty"`
	Instead []string      `json:"instead,omitempty"` // the explicit actions of a toggle
	Face    FaceSpec      `json:"face"`
	Lamps   []LampSpec    `json:"lamps,omitempty"`
}

// ParamSpec is a parameter of an action.
type ParamSpec struct {
	ID      string   `json:"id"`
	Title   string   `json:"title"`
	Of      string   `json:"of,omitempty"`
	Options []string `json:"options,omitempty"`
	Type    string   `json:"type,omitempty"` // int, float or text, without of and options
	Min     *float64 `json:"min,omitempty"`
	Max     *float64 `json:"max,omitempty"`
	Default string   `json:"default,omitempty"`
}

// EffectSpec says what an action brings about.
type EffectSpec struct {
	Set   string `json:"set"`             // a reading path
	To    string `json:"to"`              // an expression over the state before
	After string `json:"after,omitempty"` // a duration: 2s, 40ms or 25f
}

// NeedSpec is a precondition and the sentence to show when it does not hold.
type NeedSpec struct {
	When string `json:"when"`
	Say  string `json:"say"`
}

// FaceSpec is the face of a control that has none of its own.
type FaceSpec struct {
	Label string `json:"label"`
	Glyph string `json:"glyph"`
	Where string `json:"where,omitempty"` // where it goes, short
}

// LampSpec changes the face while a condition holds.
type LampSpec struct {
	When string `json:"when"`
	Role string `json:"role"`
}

// KitSpec is a ready-made group of mappings.
type KitSpec struct {
	ID     string            `json:"id"`
	Title  string            `json:"title"`
	Help   string            `json:"help,omitempty"`
	Words  []string          `json:"words,omitempty"`
	Over   string            `json:"over"`           // an index that is a parameter of the action
	Only   string            `json:"only,omitempty"` // an expression over the index value
	Action string            `json:"action"`
	Params map[string]string `json:"params,omitempty"`
	Each   string            `json:"each,omitempty"` // an index: the kit is offered once for each value
	Shape  string            `json:"shape"`          // row
}
