package engine

import (
	"cmp"
	"slices"
	"time"

	"synaptor/internal/core/macro"
)

// RunRow is a run as live clients see it.
type RunRow struct {
	ID         string        `json:"id"` // of its journal entry
	Macro      string        `json:"macro"`
	Name       string        `json:"name"`
	Controller string        `json:"controller,omitempty"`
	Started    time.Time     `json:"started"`
	LengthMs   int64         `json:"lengthMs"` // as planned
	Open       bool          `json:"open"`     // it waits for something whose time nobody knows
	State      string        `json:"state"`    // empty: it goes on; ended, halted, failed
	Ended      bool          `json:"ended"`    // nothing of it is under way any more
	Reason     string        `json:"reason,omitempty"`
	TookMs     int64         `json:"tookMs,omitempty"`
	WaitsAt    string        `json:"waitsAt,omitempty"` // the step that waits for something
	Queued     int           `json:"queued,omitempty"`  // presses that wait their turn
	Steps      []RunStep     `json:"steps"`
	Together   []RunTogether `json:"together"`
	// Left says what was left as it is, and what went wrong and was passed over.
	Left []string `json:"left"`
}

// EndedAt is when a run that has ended had done so.
func (r RunRow) EndedAt() time.Time { return r.Started.Add(time.Duration(r.TookMs) * time.Millisecond) }

// RunStep is a step that was dispatched; its times are microseconds from the start of
// the run.
type RunStep struct {
	Step         string `json:"step"`
	Group        string `json:"group,omitempty"`
	PlannedUs    int64  `json:"plannedUs"`
	DispatchedUs int64  `json:"dispatchedUs"`
	StartedUs    int64  `json:"startedUs,omitempty"` // when its effect was reported
	State        string `json:"state"`               // sent, done, failed
	Reason       string `json:"reason,omitempty"`
}

// RunTogether is how far apart the effects of a together started.
type RunTogether struct {
	Step        string `json:"step"`
	PredictedUs int64  `json:"predictedUs"`
	MeasuredUs  int64  `json:"measuredUs,omitempty"`
}

// tellEvery is how often live clients are told of a run at most.
const publishRunEvery = 25 * time.Millisecond

// publishRun passes on how a run stands: at once, or a little later where that was a
// moment ago.
func (e *Engine) publishRun(r *run) {
	now := time.Now()
	if wait := publishRunEvery - now.Sub(r.told); wait > 0 && !r.Ended {
		e.arm(now.Add(wait))
		return
	}
	r.told, r.dirty = now, false
	row := r.RunRow
	row.Steps, row.Together, row.Left = slices.Clone(r.Steps), slices.Clone(r.Together), slices.Clone(r.Left)
	e.stream.push(RunChanged{row})
	e.persistRun(r)
}

// publishRunning reports which macros run, as readings of Synaptor itself.
func (e *Engine) publishRunning(id string) {
	e.reportOwn("runs", e.runsGoing())
	if e.program.Macros[id] != nil {
		e.reportOwn("macro/"+id+"/running", len(e.runsOf(id)) > 0)
	}
}

// runsGoing counts the runs that go on.
func (e *Engine) runsGoing() (n int) {
	for _, r := range e.runs {
		if r.State == macro.Going {
			n++
		}
	}
	return n
}

// publishMacros reports what macros there are.
func (e *Engine) publishMacros(say func(path string, v any)) {
	say("runs", e.runsGoing())
	for id, m := range e.program.Macros {
		say("macro/"+id+"/name", cmp.Or(m.Source.Name, "Macro"))
		say("macro/"+id+"/running", len(e.runsOf(id)) > 0)
		say("macro/"+id+"/gone", false)
		branch := ""
		if m.Turns != nil {
			branch = e.branches[m.Turns.ID]
		}
		say("macro/"+id+"/branch", branch)
	}
	for id, name := range e.program.GoneMacros {
		say("macro/"+id+"/name", name)
		say("macro/"+id+"/gone", true)
	}
}
