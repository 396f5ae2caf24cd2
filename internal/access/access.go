// Package access decides who may do what. Every command passes Keeper.Allow where it
// leaves.
package access

import "synaptor/internal/core/reading"

// Actor is who or what started a command.
type Actor struct {
	ID   string // of the person, panel or program; empty: this computer itself
	Name string // for the journal, such as "this computer"
	Via  string // the link the input came by
}

// Command is what is about to be sent.
type Command struct {
	Actor  Actor
	Cause  string // what started it: the mapping's id
	Entry  string // the journal entry it belongs to
	Device string
	Action string
	// Changes are the readings the command changes.
	Changes []reading.Key
	// Closes says that it closes what whoever caused it has opened.
	Closes bool
}
