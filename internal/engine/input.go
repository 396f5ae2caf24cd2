package engine

import (
	"time"

	"synaptor/internal/core/input"
)

// Input is something a hand, a foot or the network did.
type Input struct {
	Entry      string // the journal entry, from journal.NextID
	At         time.Time
	Controller string // id
	Control    string
	Edge       input.Edge // a touch; or
	Gesture    string     // a finished gesture, from the network
	Amount     float64    // of a turn, a slide or a swipe
	Link       string     // tells apart who holds a control
	Via        string     // panel, patch, http, osc
	Actor      string
	By         string // the id of the person, panel or program; empty: this computer itself
	Page       string // a page's id; empty for the page in force
	// Signal is the name of a signal from the network; then the input is no touch.
	Signal string
	// Fields are what it brings along: those of a signal, or the text that was typed at a press.
	Fields map[string]any
	// Lease says that the link holds the control for a while only, unless it presses it again.
	Lease bool
	// Announced says that somebody knows the entry's id: it gets an outcome of its own, also
	// where a turn goes on that began before.
	Announced bool
	// Unguarded says that it passes no guard: a program was given that.
	Unguarded bool

	occasion
	closes bool // it closes what a hand has opened
	joined bool // the entry is open: the input goes on with a turn or a slide
	again  bool // something has left for the entry before
}

// controlKey names the control of an input.
func controlKey(in Input) string { return in.Controller + "/" + in.Control }
