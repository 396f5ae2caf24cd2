package access

import (
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/core/reading"
)

// Network is the id of everybody in the trusted network: nobody of them is known.
const Network = "network"

// Keeper decides for every command, with what whoever caused it may do at that moment, and with the outputs that somebody has claimed. A
// decision waits for no lock. A nil keeper narrows nothing.
type Keeper struct {
	rights atomic.Pointer[map[string]compiled]
	claims atomic.Pointer[[]Claim]
	locked atomic.Bool

	mu      sync.Mutex // of those who change claims
	changed func()
}

// Claim is an output that somebody has taken for a while: nobody else changes it.
type Claim struct {
	ID   string `json:"id"`
	By   string `json:"by"`   // the id of whoever has it
	Name string `json:"name"` // theirs
	// Changes is the pattern of what is claimed, as in Rights.
	Changes string    `json:"changes"`
	Title   string    `json:"title"` // of the output
	Since   time.Time `json:"since"`

	pattern pattern
}

// maxClaims is how many outputs are claimed at a time.
//
//limit:count outputs that are claimed | in the answer
const maxClaims = 200

// NewKeeper makes a keeper; changed is told whenever a claim is made or given back, or edits are locked or unlocked, and may be nil.
func NewKeeper(changed func()) *Keeper { return &Keeper{changed: changed} }

// SetRights says who there is, and what narrows them; nil: nothing does. Whoever is not there may not do anything.
func (k *Keeper) SetRights(by map[string]*Rights) {
	all := make(map[string]compiled, len(by))
	for id, r := range by {
		all[id] = compileRights(r)
	}
	k.rights.Store(&all)
}

// of gives the rights of somebody; known is false where there is no such person or program any more. An empty id is this computer
// itself.
func (k *Keeper) of(id string) (r compiled, known bool) {
	if id == "" {
		return compiled{}, true
	}
	all := k.rights.Load()
	if all == nil {
		return compiled{}, false
	}
	r, known = (*all)[id]
	return r, known
}

// Allow returns "" when the command may leave, else the sentence that says why not: it asks for the rights of whoever caused it, however deep in
// macros that is, and whether somebody else has claimed what it changes.
func (k *Keeper) Allow(c Command) string {
	if c.Closes || k == nil {
		return ""
	}
	r, known := k.of(c.Actor.ID)
	if !known {
		return fmt.Sprintf("%s may not do anything here any more.", c.Actor.Name)
	}
	if why := r.allow(c); why != "" {
		return why
	}
	return k.claimed(c)
}

// claimed says who has what a command changes.
func (k *Keeper) claimed(c Command) string {
	all := k.claims.Load()
	if all == nil {
		return ""
	}
	for i := range *all {
		if cl := &(*all)[i]; cl.By != c.Actor.ID && cl.covers(c) {
			return fmt.Sprintf("%s has taken %s for a while.", cl.Name, cl.Title)
		}
	}
	return ""
}

func (cl *Claim) covers(c Command) bool {
	if len(c.Changes) == 0 { // what it changes nobody knows
		return cl.pattern.device == c.Device
	}
	for _, k := range c.Changes {
		if cl.pattern.covers(k) {
			return true
		}
	}
	return false
}

// What can be wrong with a claim, in sentences.
var (
	ErrUnknown = errors.New("only somebody who is known can claim an output: set a passphrase in People first")
	ErrClaims  = errors.New("too many outputs are claimed; give some back")
	ErrNoClaim = errors.New("this is claimed by nobody, or by somebody else")
)

// TakenError says that somebody else has an output.
type TakenError struct{ Claim }

// Error implements error.
func (e *TakenError) Error() string { return e.Name + " has taken " + e.Title + " for a while." }

// NotYoursError says that somebody may not change what they want to claim.
type NotYoursError struct{ Name, Title string }

// Error implements error.
func (e *NotYoursError) Error() string { return e.Name + " may not change " + e.Title + "." }

// Take claims an output for somebody. It fails with ErrUnknown, with a *TakenError where somebody else has it, and with a *NotYoursError where
// they may not change it.
func (k *Keeper) Take(by, name, changes, title string) error {
	if k == nil || by == "" || by == Network {
		return ErrUnknown
	}
	p := compile(changes)
	r, known := k.of(by)
	// Who may change everything that is claimed may claim it; a reading below stands for all of them.
	if all := (reading.Key{Device: p.device, Path: p.path + "*"}); !known || r.Rights != nil && r.Changes != nil && !r.mayChange(all) && !r.mayChange(reading.Key{Device: p.device, Path: p.path}) {
		return &NotYoursError{name, title}
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	all := k.Claims()
	for _, cl := range all {
		switch {
		case cl.Changes != changes:
		case cl.By == by:
			return nil
		default:
			return &TakenError{cl}
		}
	}
	if len(all) >= maxClaims {
		return ErrClaims
	}
	k.set(append(all, Claim{rand.Text(), by, name, changes, title, time.Now().UTC(), p}))
	return nil
}

// Lock has edits refused for all, or taken again.
func (k *Keeper) Lock(on bool) {
	if k == nil || k.locked.Swap(on) == on {
		return
	}
	if k.changed != nil {
		go k.changed()
	}
}

// Locked tells whether edits are refused for all.
func (k *Keeper) Locked() bool { return k != nil && k.locked.Load() }

// Give gives back the claims that are picked. It tells whether there were any.
func (k *Keeper) Give(pick func(Claim) bool) bool {
	if k == nil {
		return false
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	all := k.Claims()
	left := slices.DeleteFunc(slices.Clone(all), pick)
	if len(left) == len(all) {
		return false
	}
	k.set(left)
	return true
}

// set puts claims in force. The lock is held.
func (k *Keeper) set(all []Claim) {
	k.claims.Store(&all)
	if k.changed != nil {
		go k.changed()
	}
}

// Claims lists what is claimed, the oldest first.
func (k *Keeper) Claims() []Claim {
	if k == nil {
		return nil
	}
	all := k.claims.Load()
	if all == nil {
		return []Claim{}
	}
	return slices.Clone(*all)
}

// Holder is who has claimed what a pattern says; empty: nobody.
func (k *Keeper) Holder(changes string) (by, name string) {
	if k == nil {
		return "", ""
	}
	if all := k.claims.Load(); all != nil {
		for _, cl := range *all {
			if cl.Changes == changes {
				return cl.By, cl.Name
			}
		}
	}
	return "", ""
}
