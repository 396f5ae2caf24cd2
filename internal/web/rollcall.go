package web

import (
	"net/http"
	"sync"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/link"

	"github.com/labstack/echo/v5"
)

// RollDoc is how one device answered the roll call.
type RollDoc struct {
	Device   string `json:"device"` // id
	Name     string `json:"name"`
	Answered bool   `json:"answered"`
	TookUs   int64  `json:"tookUs"`
	Problem  string `json:"problem"`
	// Missing are the readings that it should have told and has not.
	Missing []string `json:"missing"`
}

// Rolled is the last roll call of the devices, as the live feed shows it.
type Rolled struct {
	At   time.Time `json:"at"`
	Rows []RollDoc `json:"rows"`
}

// rollLimit is how long a device may take to answer the roll call.
//
//limit:count wait for a device in the roll call | in the roll call
const rollLimit = 1500 * time.Millisecond

// rollCall asks every device now, and says who answered, and how fast.
func (s *server) rollCall(c *echo.Context) error {
	devices := s.Edit.Program().Show.Devices()
	out := Rolled{At: time.Now(), Rows: make([]RollDoc, len(devices))}
	var wg sync.WaitGroup
	for i, d := range devices {
		wg.Go(func() { out.Rows[i] = s.roll(d) })
	}
	wg.Wait()
	s.Hub.Publish("rolled", []string{"rollcall"}, out)
	return c.JSON(http.StatusOK, out.Rows)
}

func (s *server) roll(d *show.Device) RollDoc {
	doc := RollDoc{Device: d.ID, Name: d.Name, Missing: []string{}}
	if d.Parked {
		doc.Problem = "It is parked."
		return doc
	}
	var st link.State
	var asked bool
	look := func() {
		v := s.Mirror.View()
		st = v.Link(d.ID)
		t := v.Program.Devices[d.ID]
		asked = t != nil && t.Type != nil && t.Type.Sheet.Link.Identify != nil
	}
	look()
	switch {
	case st.Phase != link.Up:
		doc.Problem = st.Problem
		if doc.Problem == "" {
			doc.Problem = "It has not answered yet."
		}
		return doc
	case !asked:
		doc.Problem = "Nothing tells whether it is there; its sheet knows no question."
		return doc
	}
	start := time.Now()
	took, err := s.Engine.Ping(d.ID, rollLimit)
	if err != nil {
		look()
		doc.Problem = orText(st.Problem, "It did not answer within "+time.Since(start).Round(100*time.Millisecond).String()+".")
		return doc
	}
	doc.Answered, doc.TookUs, doc.Missing = true, took.Microseconds(), s.Mirror.View().Untold(d.ID)
	return doc
}

// Counting says whether touches are counted, and nothing is sent.
type Counting struct {
	On bool `json:"on"`
}

// countFor is how long the roll call of the controllers goes on that nobody ends.
//
//limit:count time in which touches are counted that nobody ends | the roll call ends by itself
const countFor = 10 * time.Minute

// countTouches begins or ends the roll call of the controllers. It does not begin while something leaves the house.
func (s *server) countTouches(c *echo.Context) error {
	at := time.Now()
	var f Counting
	if err := read(c, &f, false); err != nil {
		return err
	}
	if air := s.Mirror.View().Going().OnAir; f.On && len(air) > 0 {
		return edit.FieldErrors{{Field: "on", Text: air[0] + " goes on: controllers do what they do."}}
	}
	s.Engine.Ask(engine.RollCall{Request: s.request(c, at, "roll call"), On: f.On})
	s.countEnd.Lock()
	defer s.countEnd.Unlock()
	if s.countTimer != nil {
		s.countTimer.Stop()
	}
	if f.On {
		s.countTimer = time.AfterFunc(countFor, func() {
			s.Engine.Ask(engine.RollCall{Request: engine.Request{Entry: journal.NextID(), At: time.Now(), Via: "Synaptor", Actor: "Synaptor"}})
		})
	}
	return c.NoContent(http.StatusNoContent)
}
