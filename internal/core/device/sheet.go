// Package device turns device sheets into typed devices: which readings a
// device reports, which actions it can be told to do, what they send and what
// they bring about. It knows no protocol; drivers do.
package device

import (
	"cmp"
	"encoding/json"
)

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
	Models      []ModelSpec      `json:"models,omitempty"`
	Index       map[string]Index `json:"index,omitempty"`
	// Tapers are tables from decibels to the device's own numbers.
	Tapers   map[string]TaperSpec `json:"tapers,omitempty"`
	Readings []ReadingSpec        `json:"readings"`
	Actions  []ActionSpec         `json:"actions"`
	Kits     []KitSpec            `json:"kits,omitempty"`
	Events   []EventSpec          `json:"events,omitempty"`
	Pictures []PictureSpec        `json:"pictures,omitempty"`
}

// LinkSpec says how a device is reached and kept alive.
type LinkSpec struct {
	Driver    string `json:"driver"`
	Transport string `json:"transport"`
	Port      int    `json:"port"`
	// Path is the path of a WebSocket, or of the event stream of an HTTP device.
	Path string `json:"path,omitempty"`
	// Topics are what is subscribed to, for MQTT.
	Topics []string `json:"topics,omitempty"`
	// LetIn says what has to be switched on at the device before it can be reached, in the words that
	// makers usually have for it.
	LetIn string `json:"letIn,omitempty"`
	// Announced are the service types by which such devices announce themselves (RFC 6763).
	Announced []string `json:"announced,omitempty"`
	// Login says how a password is given, with the credentials to ask for.
	Login *LoginSpec `json:"login,omitempty"`
	// Base stands before every address that is derived from a path.
	Base string `json:"base,omitempty"`
	// Report lists where readings are reported that do not say so themselves.
	Report []FromSpec `json:"report,omitempty"`
	// Set is the message that sets a reading which does not say so itself.
	Set *MessageSpec `json:"set,omitempty"`
	// Start is sent when the link is up, to have everything reported.
	Start []MessageSpec `json:"start,omitempty"`
	// Ask is how one reading is asked for; {address} and {path} stand for it.
	Ask *MessageSpec `json:"ask,omitempty"`
	// Identify names the reading that tells what answers; nil where nothing does.
	Identify *Identify `json:"identify,omitempty"`
	// Renew is how often the start messages are sent again, for subscriptions
	// that expire and for devices that are polled; empty: once is enough.
	Renew string `json:"renew,omitempty"`
	// Quiet is for how long a device that has said everything says nothing;
	// empty: the identifying reading ends the full state.
	Quiet string `json:"quiet,omitempty"`
	// Alive is how often the identifying reading is asked for, as a duration.
	Alive string `json:"alive,omitempty"`
	// Deadline is how long a command may wait before it leaves; default 250ms.
	Deadline string `json:"deadline,omitempty"`
	// Requests is how many requests a device takes at a time, for HTTP; default 1.
	Requests int `json:"requests,omitempty"`
	// Refusal says where the device explains what it refuses, Answer where it says that it has
	// understood a command.
	Refusal *ReplySpec `json:"refusal,omitempty"`
	Answer  *ReplySpec `json:"answer,omitempty"`
}

// LoginSpec says how a device is signed in to.
type LoginSpec struct {
	Kind string `json:"kind"` // password, basic, bearer or challenge
	// User is the default user name where one is needed.
	User string `json:"user,omitempty"`
	// Factory is the password a new device has; using it is noted.
	Factory string `json:"factory,omitempty"`
	// Greeting is the notification that brings the challenge, Method the request
	// that answers it, for the kind challenge.
	Greeting string `json:"greeting,omitempty"`
	Method   string `json:"method,omitempty"`
}

// Identify says how a device is recognised.
type Identify struct {
	Reading string `json:"reading"`
	Like    string `json:"like,omitempty"` // a regular expression
	// Version is a regular expression whose first group is the version, Minimum
	// the oldest that the sheet fits.
	Version string `json:"version,omitempty"`
	Minimum string `json:"minimum,omitempty"`
}

// ModelSpec is a model of the device type with what it has, for laying out
// while no device is connected.
type ModelSpec struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Like  string `json:"like,omitempty"` // a regular expression over the identifying reading
	// Has gives readings their defaults, by concrete path.
	Has map[string]any `json:"has,omitempty"`
	// Lacks are the actions of the type that this model cannot do.
	Lacks []string `json:"lacks,omitempty"`
}

// MessageSpec is a message; its texts are templates.
type MessageSpec struct {
	Address string `json:"address,omitempty"`
	Line    string `json:"line,omitempty"` // the address of a text line
	Verb    string `json:"verb,omitempty"` // of an HTTP request; default PUT with a body, else GET
	Args    []any  `json:"args,omitempty"`
	Body    any    `json:"body,omitempty"`
	// Written names a parameter that holds a whole message, written by hand.
	Written string `json:"written,omitempty"`
}

// FromSpec says where in which message a value is.
type FromSpec struct {
	Address string `json:"address,omitempty"` // with {index}es
	Line    string `json:"line,omitempty"`    // a text line with {index}es and {value}
	Arg     int    `json:"arg,omitempty"`     // which argument, from 0
	// Value is a JSON pointer (RFC 6901) into the body, with {index}es;
	// {index:field} runs over objects and takes the field as the index.
	Value string `json:"value,omitempty"`
	// As turns what was sent into the reading's value: an expression over value.
	As string `json:"as,omitempty"`
	// Any takes whatever message no other reading takes.
	Any bool `json:"any,omitempty"`
	// Full says that the message lists all values of the index that it names: one that it has no
	// more is gone.
	Full bool `json:"full,omitempty"`
}

// Sources is one FromSpec or a list of them.
type Sources []FromSpec

// UnmarshalJSON implements json.Unmarshaler.
func (s *Sources) UnmarshalJSON(b []byte) error {
	if len(b) > 0 && b[0] == '[' {
		return json.Unmarshal(b, (*[]FromSpec)(s))
	}
	var one FromSpec
	if err := json.Unmarshal(b, &one); err != nil {
		return err
	}
	*s = Sources{one}
	return nil
}

// Index is a set of values that paths and parameters run over: a range such as
// 1..2, or what the device has named. A path with further {index}es before its
// own makes it depend on them: the scenes of a set.
type Index struct {
	Title  string `json:"title"`
	Plural string `json:"plural,omitempty"` // default: the title with an s
	Range  string `json:"range,omitempty"`
	From   string `json:"from,omitempty"` // a reading path that ends in {index}/name
	Gone   string `json:"gone,omitempty"` // a reading path; true: no longer there
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
	Taper     string   `json:"taper,omitempty"` // for db: the device's number is on this taper
	Role      string   `json:"role,omitempty"`
	// Headline puts it on the status line, under this short title.
	Headline string `json:"headline,omitempty"`
	// Gather puts the names of all that are in a state into one headline: the
	// title, and the value that counts.
	Gather *GatherSpec `json:"gather,omitempty"`
	// Over says how it is when a night is over; nil: that is all the same.
	Over *OverSpec `json:"over,omitempty"`
	// SilencedBy is the path of the reading that is on while nobody hears this level.
	SilencedBy string `json:"silencedBy,omitempty"`
	// Assumed marks what the device never reports: what was sent is believed.
	Assumed bool `json:"assumed,omitempty"`
	// Wire is the type on the wire: int, float, text or bool; by default what
	// suits the type and the protocol.
	Wire string `json:"wire,omitempty"`
	// From says where it is reported; by default the link's report, else at the
	// address made of the path.
	From Sources `json:"from,omitempty"`
	// Set is the message that sets it; {value} stands for the value.
	Set *MessageSpec `json:"set,omitempty"`
}

// GatherSpec joins the names of like readings on the status line.
type GatherSpec struct {
	Title string `json:"title"`
	Value any    `json:"value"`
}

// OverSpec is how a reading is when a night is over: the value that it has then, and how it is called as long as it has another one, such as "on air".
type OverSpec struct {
	Value any    `json:"value"`
	Still string `json:"still"`
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
	// Urgent has a press fire at once, whatever else its control does: a hold comes besides.
	Urgent bool `json:"urgent,omitempty"`
	// Confirms says that the device's answer means that it is done.
	Confirms bool     `json:"confirms,omitempty"`
	Instead  []string `json:"instead,omitempty"` // the explicit actions of a toggle
	// Shows names the parameter whose picture it can show.
	Shows string `json:"shows,omitempty"`
	// Fade names the parameter that takes how long the device fades by itself, in
	// milliseconds; empty: it cannot.
	Fade string `json:"fade,omitempty"`
	// Stop says how such a fade is stopped on its way: present sets it to where it is, anything else is
	// the action that stops it, with the same parameters. Empty: it cannot be.
	Stop string `json:"stop,omitempty"`
	// Plays is how long what it starts goes on, as a duration template.
	Plays string `json:"plays,omitempty"`
	// Busy is how long the device is at it, such as a key that is held down, as a duration template: what
	// follows in a macro waits for so long.
	Busy  string     `json:"busy,omitempty"`
	Face  FaceSpec   `json:"face"`
	Lamps []LampSpec `json:"lamps,omitempty"`
}

// ParamSpec is a parameter of an action.
type ParamSpec struct {
	ID      string   `json:"id"`
	Title   string   `json:"title"`
	Of      string   `json:"of,omitempty"`
	Options []string `json:"options,omitempty"`
	// Type is int, float, db, text or message, without of and options. A text
	// may hold {…} expressions of the show; a message is a whole one by hand.
	Type    string   `json:"type,omitempty"`
	Unit    string   `json:"unit,omitempty"`
	Min     *float64 `json:"min,omitempty"`
	Max     *float64 `json:"max,omitempty"`
	Default string   `json:"default,omitempty"` // may be a template: what is now
	// silent says that -inf is a value of it, because it sets a level.
	silent bool
}

// EffectSpec says what an action brings about.
type EffectSpec struct {
	Set   string `json:"set"`             // a reading path
	To    string `json:"to"`              // an expression over the state before
	After string `json:"after,omitempty"` // a duration: 2s, 40ms or 25f
	Over  string `json:"over,omitempty"`  // how long it takes to get there, likewise
	// Grace is how much longer than that the device may take; by default a tenth, at least 100ms.
	Grace string `json:"grace,omitempty"`
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
	// GlyphOf is a template of the name of a glyph that the device gives; where there is none of that name, the glyph is Glyph.
	GlyphOf string `json:"glyphOf,omitempty"`
}

// LampSpec changes the face while a condition holds.
type LampSpec struct {
	When string `json:"when"`
	Role string `json:"role"`
}

// KitSpec is a ready-made group of mappings: one for each value of an index, or
// those of a list.
type KitSpec struct {
	ID     string            `json:"id"`
	Title  string            `json:"title"`
	Help   string            `json:"help,omitempty"`
	Words  []string          `json:"words,omitempty"`
	Over   string            `json:"over,omitempty"` // an index that is a parameter of the action
	Only   string            `json:"only,omitempty"` // an expression over the index value
	Action string            `json:"action,omitempty"`
	Params map[string]string `json:"params,omitempty"`
	Each   string            `json:"each,omitempty"` // an index: the kit is offered once for each value
	Keys   []KitKey          `json:"keys,omitempty"` // in place of over and action
	Shape  string            `json:"shape"`          // row
	// Gesture starts the action; empty: what suits the control.
	Gesture string `json:"gesture,omitempty"`
	// Also are further responses of each mapping, for the same index value.
	Also []KitAlso `json:"also,omitempty"`
}

// KitKey is one mapping of a kit.
type KitKey struct {
	Action string            `json:"action"`
	Params map[string]string `json:"params,omitempty"`
}

// KitAlso is one more response of each mapping of a kit.
type KitAlso struct {
	Gesture string `json:"gesture"`
	Action  string `json:"action"`
}

// EventSpec is something a device says that is not a state: a message in the
// chat, the end of a clip.
type EventSpec struct {
	ID    string `json:"id"`
	Title string `json:"title"` // with {field}s
	// From says which message raises it; its value is not looked at.
	From FromSpec `json:"from"`
	// Fields are what it carries, by name: JSON pointers into the body, or the
	// number of an argument.
	Fields map[string]string `json:"fields,omitempty"`
}

// PictureSpec is where the device delivers still pictures: of what it sees, or of those that its events are about.
type PictureSpec struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Over  string `json:"over,omitempty"` // an index: a picture for each value
	// Named is a field of events, in place of Over: what it says names a picture.
	Named string `json:"named,omitempty"`
	// URL is a template over {host}, {port} and the index or the field; http only.
	URL string `json:"url"`
}

// place is what stands for the picture's name in its URL.
func (p PictureSpec) place() string { return cmp.Or(p.Over, p.Named) }

// TaperSpec is a list of [decibels, device's number], rising. Below the first
// the device is shut, which is minus infinity.
type TaperSpec [][2]float64
