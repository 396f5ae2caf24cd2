package device

import (
	"regexp"
	"time"
)

// Type is a compiled device sheet.
type Type struct {
	Sheet    *Sheet
	Driver   *Driver
	Alive    time.Duration // 0: never asked
	Deadline time.Duration
	Renew    time.Duration // 0: never
	Quiet    time.Duration // 0: the identifying reading ends the full state
	readings []*Reading
	byPath   paths
	names    map[string]pattern // by index: where its values are named
	gone     map[string]pattern // by index: where it says that a value is gone
	byWire   routes
	lines    []*source
	anything *source // takes what nothing else takes
	start    []*messageProgram
	actions  map[string]*ActionSpec
	like     *regexp.Regexp
	version  *regexp.Regexp // nil: not known
	models   []*regexp.Regexp
}

// Reading is one compiled family of readings.
type Reading struct {
	ReadingSpec
	path    pattern
	address pattern // the address made of the path, or the one it says
	taper   TaperSpec
	json    bool // its protocol tells true from 1
}

const defaultDeadline = 250 * time.Millisecond

// Reading finds the family that a concrete path belongs to, or nil.
func (t *Type) Reading(path string) *Reading { return t.byPath.find("/" + path) }

// Action finds an action by id, or nil.
func (t *Type) Action(id string) *ActionSpec { return t.actions[id] }

// Kit finds a kit by id, or nil.
func (t *Type) Kit(id string) *KitSpec {
	for i := range t.Sheet.Kits {
		if t.Sheet.Kits[i].ID == id {
			return &t.Sheet.Kits[i]
		}
	}
	return nil
}

// Answers reports whether the device answers every command, by the protocol or because its
// sheet says where.
func (t *Type) Answers() bool { return t.Driver.Answers || t.Sheet.Link.Answer != nil }

// AnswersInOrder reports whether the device answers its commands one after the other, without
// saying which.
func (t *Type) AnswersInOrder() bool {
	a := t.Sheet.Link.Answer
	return a != nil && a.Tie == inOrder
}
