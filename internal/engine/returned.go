package engine

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// A device that returns may say something else than was last asked of it: it was switched off meanwhile, somebody was at it, or a command was lost. Nothing
// is sent by itself; what differs is told, row by row, until somebody decides, or it has changed.

// Returned is a device that has returned and differs.
type Returned struct {
	Device string          `json:"device"`
	Name   string          `json:"name"`
	At     time.Time       `json:"at"`   // when it answered again
	Away   int64           `json:"away"` // for how long it did not, in milliseconds
	Rows   []DifferenceRow `json:"rows"`
	// NotSent is how many presses and steps were not sent while it was away.
	NotSent int `json:"notSent"`
}

// DifferenceRow is a reading that is not what was asked for, in words.
type DifferenceRow struct {
	Path  string `json:"path"`
	Title string `json:"title"`
	Asked string `json:"asked"`
	Says  string `json:"says"`
	// Can says that it can be sent again.
	Can bool `json:"can"`
}

// ReturnedChanged tells which devices have returned and differ.
type ReturnedChanged struct{ List []Returned }

// AwayChanged tells how many presses and steps were not sent to a device that is away.
type AwayChanged struct {
	Device  string
	NotSent int
}

// returnedDevice is a device that has returned, until somebody has decided about all that differs.
type returnedDevice struct {
	id      string
	at      time.Time
	away    time.Duration
	notSent int
	told    []reading.Difference // what was told last
}

// cameBack looks at what a device says that has returned.
func (e *Engine) cameBack(rt *deviceState, device string) {
	rt.differs = nil
	if rt.awaySince.IsZero() {
		return
	}
	r := &returnedDevice{id: device, at: time.Now(), away: time.Since(rt.awaySince), notSent: rt.notSent}
	rt.awaySince, rt.notSent = time.Time{}, 0
	e.stream.push(AwayChanged{device, 0})
	if r.told = e.asked.Differs(device, e.table.Reading); len(r.told) > 0 {
		rt.differs = r
	}
	e.publishReturned()
}

// wentAway begins the time in which a device is away.
func (e *Engine) wentAway(rt *deviceState) {
	if rt.came && rt.awaySince.IsZero() {
		rt.awaySince = time.Now()
	}
	if rt.differs != nil {
		rt.differs = nil // it is looked at anew
		e.publishReturned()
	}
}

// notSent counts something that could not be sent because its device is away.
func (e *Engine) notSent(device string) {
	rt := e.devices[device]
	if rt == nil || !away(rt.state.Phase) || rt.state.Phase == link.Parked {
		return
	}
	rt.notSent++
	e.stream.push(AwayChanged{device, rt.notSent})
}

// overruled takes in what a device has told of a reading: what it tells of its own accord takes the place of what was asked.
func (e *Engine) overruled(rt *deviceState, k reading.Key) {
	if _, was := e.asked.Of(k); !was || rt.state.Phase != link.Up {
		return
	}
	e.asked.Told(k, e.table.Reading(k))
	e.recheckReturned(rt)
}

// recheckReturned looks again at what differs of a device that has returned.
func (e *Engine) recheckReturned(rt *deviceState) {
	if rt.differs == nil {
		return
	}
	now := e.asked.Differs(rt.differs.id, e.table.Reading)
	if slices.Equal(now, rt.differs.told) {
		return
	}
	if rt.differs.told = now; len(now) == 0 {
		rt.differs = nil
	}
	e.publishReturned()
}

func (e *Engine) publishReturned() {
	list := []Returned{}
	for id, rt := range e.devices {
		if rt.differs == nil || e.program.Devices[id] == nil {
			continue
		}
		r := Returned{Device: id, Name: e.program.Devices[id].Name, At: rt.differs.at, Away: rt.differs.away.Milliseconds(), NotSent: rt.differs.notSent}
		for _, d := range e.asked.Differs(id, e.table.Reading) {
			_, can := e.program.Setter(d.Key, d.Asked, e.table)
			r.Rows = append(r.Rows, DifferenceRow{d.Key.Path, e.program.Called(d.Key, e.table), e.program.Word(d.Key, d.Asked, e.table), e.program.Word(d.Key, d.Says, e.table), can})
		}
		list = append(list, r)
	}
	slices.SortFunc(list, func(a, b Returned) int { return a.At.Compare(b.At) })
	e.stream.push(ReturnedChanged{list})
}

// Settle decides about what differs of a device that has returned: Again sends it again, else it is left as it is. Paths are the readings; none: all.
type Settle struct {
	Request
	Device string
	Paths  []string
	Again  bool
}

func (a Settle) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	rt, d := e.devices[a.Device], e.program.Devices[a.Device]
	title := "Leave what differs"
	if a.Again {
		title = "Send again"
	}
	if d != nil {
		title += " of " + d.Name
	}
	e.openOwn(a.Request, title, originOf("Desk", "decision", a.Request))
	if rt == nil || rt.differs == nil {
		e.refuse(Input{Entry: a.Entry}, nil, time.Now(), "Nothing of this device differs any more.")
		return
	}
	var chosen []reading.Difference
	for _, diff := range e.asked.Differs(a.Device, e.table.Reading) {
		if len(a.Paths) == 0 || slices.Contains(a.Paths, diff.Key.Path) {
			chosen = append(chosen, diff)
		}
	}
	if !a.Again {
		for _, diff := range chosen {
			e.asked.Forget(diff.Key)
		}
		e.recheckReturned(rt)
		e.confirmOwn(a.Request, fmt.Sprintf("%d left as they are", len(chosen)))
		return
	}
	e.sendAgain(a.Request, chosen)
	e.recheckReturned(rt)
}

// sendAgain sends what differs once more: all of it belongs to one entry.
func (e *Engine) sendAgain(by Request, list []reading.Difference) {
	in := Input{Entry: by.Entry, At: by.At, Via: by.Via, Actor: by.Actor, By: by.By}
	group := &returning{entry: by.Entry, outcome: journal.Sent}
	type send struct {
		cause
		diff reading.Difference
	}
	var sends []send
	for _, diff := range list {
		title := fmt.Sprintf("Set %s to %s again", e.program.Called(diff.Key, e.table), e.program.Word(diff.Key, diff.Asked, e.table))
		sends = append(sends, send{cause{title: title, returns: true, back: group}, diff})
	}
	group.left = len(sends)
	if group.left == 0 {
		e.confirmOwn(by, "Nothing differs any more")
		return
	}
	for _, s := range sends {
		resp, ok := e.program.Setter(s.diff.Key, s.diff.Asked, e.table)
		if !ok {
			e.log(journal.Event{Entry: by.Entry, At: time.Now(), Stage: journal.StageDecision, Text: s.title + ": the device has no way to set it"})
			e.returned(group, journal.Failed, "its device has no way to set it", s.title, time.Now())
			continue
		}
		e.sendReturn(s.cause, nil, in, resp)
	}
}
