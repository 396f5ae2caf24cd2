// Package journal records every input and what became of it. Recording never
// blocks: events go through a bounded buffer to one goroutine, which keeps the
// newest entries in memory and writes them behind, in batches, to a database
// file of their own. What had to be dropped is counted.
package journal

import "time"

// Outcome says what became of an input.
type Outcome string

// Outcomes lists all of them.
func Outcomes() []Outcome {
	return []Outcome{UnderWay, Confirmed, Sent, Refused, Dropped, Unconfirmed, Guarded, Halted, Failed, Disagreed, Overtaken}
}

// The outcomes.
const (
	UnderWay    Outcome = "under way"
	Confirmed   Outcome = "confirmed"   // the device reported the effect
	Sent        Outcome = "sent"        // nothing to confirm
	Refused     Outcome = "refused"     // by Synaptor or by the device; nothing was done
	Dropped     Outcome = "dropped"     // could not leave in time
	Unconfirmed Outcome = "unconfirmed" // sent, and no report came
	Guarded     Outcome = "guarded"     // its guard has not let it through
	Halted      Outcome = "halted"      // a run that somebody halted
	Failed      Outcome = "failed"      // a run that went wrong on its way
	Disagreed   Outcome = "disagreed"   // sent, and the device reported something else
	Overtaken   Outcome = "overtaken"   // a later one changed the same before it was confirmed, or left instead of it
)

// The stages of a trace.
const (
	StageInput    = "input"
	StageDecision = "decision"
	StageGuard    = "guard"
	StageDispatch = "dispatch"
	StageWire     = "wire"
	StageConfirm  = "confirmation"
	StageFace     = "face"
	StageLeftOut  = "left out" // stands for steps that are not kept
)

// Stages lists all of them.
func Stages() []string {
	return []string{StageInput, StageDecision, StageGuard, StageDispatch, StageWire, StageConfirm, StageFace, StageLeftOut}
}

// Step is one stage of an entry's trace.
type Step struct {
	Stage    string `json:"stage"`
	OffsetUs int64  `json:"offsetUs"` // microseconds after the input arrived
	Text     string `json:"text"`
}

// Origin says where an input came from.
type Origin struct {
	Controller     string `json:"controller"` // slug
	ControllerName string `json:"controllerName"`
	Control        string `json:"control"`
	Gesture        string `json:"gesture"`
	Via            string `json:"via"`   // panel, patch, desk, http, osc and others
	Actor          string `json:"actor"` // who
}

// Skew is how far apart the effects of a together started, in microseconds: as planned, and as measured.
type Skew struct {
	PredictedUs int64 `json:"predictedUs"`
	MeasuredUs  int64 `json:"measuredUs"`
}

// Entry is one input and what became of it.
type Entry struct {
	ID string    `json:"id"`
	At time.Time `json:"at"`
	// Show is the id of the show that was open; empty: it is not known.
	Show string `json:"show,omitempty"`
	Origin
	Mapping   string  `json:"mapping,omitempty"`
	Title     string  `json:"title"` // what it was to do
	Device    string  `json:"device,omitempty"`
	Outcome   Outcome `json:"outcome"`
	Reason    string  `json:"reason,omitempty"`    // for a refusal or a drop, as a sentence
	LatencyUs int64   `json:"latencyUs,omitempty"` // input to confirmation, microseconds
	Steps     []Step  `json:"steps"`
	// LeftOut counts the steps between the first ones and the last ones that are not kept.
	LeftOut int `json:"leftOut,omitempty"`
	// Cause is the id of the entry that has set this off: a reflex, a put back; empty: a hand has, or nobody knows.
	Cause string `json:"cause,omitempty"`
	// Together has the togethers of a run that have landed, the first ones.
	Together []Skew `json:"together,omitempty"`
}

// Event is one thing to record about an entry. Empty fields change nothing.
type Event struct {
	Entry   string
	At      time.Time
	Stage   string
	Text    string
	Origin  *Origin // with the first event of an entry
	Cause   string
	Mapping string
	Title   string
	Device  string
	Outcome Outcome
	Reason  string
	// Confirms gives the entry its latency: the time from input to At.
	Confirms bool
	// Together is a together that has landed; nil: none has.
	Together *Skew
}

// Use is how often a control was used, and how often that was refused or went wrong.
type Use struct {
	Controller string `json:"controller"` // slug
	Name       string `json:"name"`       // of the controller
	Control    string `json:"control"`
	Title      string `json:"title"` // what it was to do, one of them
	N          int    `json:"n"`
	Failed     int    `json:"failed"`
}
