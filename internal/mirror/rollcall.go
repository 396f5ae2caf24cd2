package mirror

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/engine"
)

// RollRow is the roll call of the controllers: which controls were touched since it began.
type RollRow struct {
	On      bool                `json:"on"` // touches are counted, and nothing is sent
	Began   time.Time           `json:"began"`
	By      string              `json:"by"`
	Last    time.Time           `json:"last"`    // when something was touched last
	Touched map[string][]string `json:"touched"` // by controller, in the order of the controls' names
}

// rollCall takes in what the engine tells of the roll call. What was touched stays known when it ends.
func (m *Mirror) rollCall(change any) {
	row := m.now.Roll
	switch ev := change.(type) {
	case engine.RollCallChanged:
		if row.On = ev.On; ev.On {
			row = RollRow{On: true, Began: ev.At, By: ev.By, Touched: map[string][]string{}}
		}
	case engine.TouchCounted:
		row.Last = time.Now()
		at, has := slices.BinarySearch(row.Touched[ev.Controller], ev.Control)
		if has {
			break
		}
		row.Touched = maps.Clone(row.Touched) // views that were handed out do not change
		row.Touched[ev.Controller] = slices.Insert(slices.Clone(row.Touched[ev.Controller]), at, ev.Control)
	}
	m.now.Roll = row
	m.cfg.Hub.Publish("rollcall", []string{"rollcall"}, row)
}
