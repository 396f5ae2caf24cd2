package engine

import (
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// maxRecorded bounds what one recording takes in.
//
//limit:count actions that a recording takes in | in the recording
const maxRecorded = 1000

// recording is what is done while somebody records.
type recording struct {
	began time.Time
	by    string
	list  []macro.Used
}

// RecordingRow tells live clients of a recording.
type RecordingRow struct {
	On    bool      `json:"on"`
	Since time.Time `json:"since"`
	By    string    `json:"by"`
	Count int       `json:"count"` // of what was done so far
}

// StartRecording begins a recording; one that goes on begins anew.
func (e *Engine) StartRecording(by string) error {
	return e.call(func() error {
		e.recording = &recording{began: time.Now(), by: by}
		e.publishRecording()
		return nil
	})
}

// StopRecording ends the recording and gives what was done; nil where there was none.
func (e *Engine) StopRecording() (list []macro.Used, err error) {
	err = e.call(func() error {
		if e.recording != nil {
			list = e.recording.list
		}
		e.recording = nil
		e.publishRecording()
		return nil
	})
	return list, err
}

func (e *Engine) publishRecording() {
	row := RecordingRow{}
	if r := e.recording; r != nil {
		row = RecordingRow{true, r.began, r.by, len(r.list)}
	}
	e.stream.push(RecordingChanged{row})
}

func (e *Engine) addToRecording(u macro.Used) {
	r := e.recording
	if len(r.list) >= maxRecorded {
		return
	}
	u.At = time.Since(r.began)
	r.list = append(r.list, u)
	e.publishRecording()
}

// recordCommand takes in a command that a press has sent.
func (e *Engine) recordCommand(c *command, effects []device.Effect) {
	if e.recording == nil || c.call == nil {
		return
	}
	u := macro.Used{Call: *c.call, Before: map[reading.Key]reading.Value{}, After: map[reading.Key]reading.Value{}}
	for _, f := range effects {
		u.Before[f.Key], u.After[f.Key] = e.table.Reading(f.Key).Value, f.Value
	}
	u.Call = e.outright(u)
	e.addToRecording(u)
}

// outright is what was asked for, said so that it does the same again: a toggle as the
// state that it brought.
func (e *Engine) outright(u macro.Used) show.Call {
	if len(u.After) != 1 {
		return u.Call
	}
	d := e.program.Devices[u.Call.Device]
	if d == nil || d.Type == nil || d.Type.Action(u.Call.Action) == nil || len(d.Type.Action(u.Call.Action).Instead) == 0 {
		return u.Call
	}
	for k, v := range u.After {
		if r, ok := e.program.Setter(k, v, e.table); ok {
			return r.Call
		}
	}
	return u.Call
}

// recordHandOnDevice takes in what a hand on a device's own front panel has set.
func (e *Engine) recordHandOnDevice(k reading.Key, before reading.Reading, v reading.Value) {
	if e.recording == nil || before.Quality == reading.Unknown || reading.Equal(before.Value, v, 0) {
		return
	}
	if r, ok := e.program.Setter(k, v, e.table); ok {
		e.addToRecording(macro.Used{Call: r.Call, Before: map[reading.Key]reading.Value{k: before.Value}, After: map[reading.Key]reading.Value{k: v}})
	}
}

// recordOwnAction takes in an action of Synaptor itself that belongs into a macro: pages and
// profiles change what is under the hands, which a macro of what was done leaves alone.
func (e *Engine) recordOwnAction(r *program.Response) {
	if e.recording == nil {
		return
	}
	switch r.Call.Action {
	case "run", "marker":
		e.addToRecording(macro.Used{Call: r.Call})
	}
}

// dialCall is the action that a dial or a slider has come to, with its value.
func (e *Engine) dialCall(r *program.Response) *show.Call {
	if e.recording == nil || r.Bound == nil {
		return nil
	}
	c := r.Call
	c.Params = r.Bound.Params
	return &c
}
