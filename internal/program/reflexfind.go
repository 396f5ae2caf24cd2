package program

import (
	"fmt"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
)

// ReflexFindings finds what is wrong with the reflexes, as the show and the sheets say it; schedules for the year after a moment.
func (n *Program) ReflexFindings(now time.Time, w device.Known) []preflight.Finding {
	var all []preflight.Reflex
	for _, r := range n.Reflexes.All {
		all = append(all, preflight.Reflex{Reflex: r.Source, Never: n.never(r, now), Waits: fmt.Sprintf("%+v", r.Source.On), Reads: n.reads(r), Writes: n.Writes(r), Audience: n.OfAudience(r)})
	}
	return preflight.Reflexes(all, n.TimeZone, now, n.IsPicture, func(k reading.Key) string { return n.Called(k, w) })
}

// never says why a reflex can never fire: its problem, an event or reading that its device does not have, a condition that no world could meet.
func (n *Program) never(r *Reflex, now time.Time) string {
	on := r.Source.On
	d := n.Devices[on.Device]
	switch {
	case r.Problem != "":
		return r.Problem
	case on.Kind == reflex.OnDevice && !hasEvent(d, on.Event):
		return fmt.Sprintf("%s has no event %s.", d.Name, on.Event)
	case on.Kind == reflex.OnReading && d.Type != nil && d.Type.Reading(on.Path) == nil:
		return fmt.Sprintf("%s has no reading %s.", d.Name, on.Path)
	case r.when != nil && r.when.Constant() && !r.when.Holds(expr.Nothing{}):
		return "its condition holds at no time."
	case r.unless != nil && r.unless.Constant() && r.unless.Holds(expr.Nothing{}):
		return "it never does while something is so that is always so."
	case on.Kind == reflex.OnSchedule && on.Date != "":
		if _, ever := on.Schedule.Next(now, n.TimeZone); !ever {
			return "its date is past."
		}
	}
	return ""
}

func hasEvent(d *Device, id string) bool {
	if d == nil || d.Type == nil {
		return false
	}
	for _, e := range d.Type.Sheet.Events {
		if e.ID == id {
			return true
		}
	}
	return false
}
