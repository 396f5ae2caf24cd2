package web

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/link"
)

// Created gives the id of what was made.
type Created struct {
	ID string `json:"id"`
}

func (s *server) addDevice(c *echo.Context) error {
	var f edit.DeviceFields
	if err := read(c, &f, false); err != nil {
		return err
	}
	id, err := s.Edit.AddDevice(who(c), f)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Created{id})
}

// DeviceTest are the fields of a device that is to be tried out, before they are saved.
type DeviceTest struct {
	ID string `json:"id,omitempty"` // of the device that has the password, where none was entered
	edit.DeviceFields
}

// Tested is what came of it.
type Tested struct {
	Answers bool   `json:"answers"`
	Text    string `json:"text"` // a sentence
}

// testDevice connects to a device as it would be saved, and says what answers.
func (s *server) testDevice(c *echo.Context) error {
	var f DeviceTest
	if err := read(c, &f, false); err != nil {
		return err
	}
	d, t, password, err := s.Edit.Reach(f.ID, f.DeviceFields)
	if err != nil {
		return err
	}
	if t.Driver.Local {
		return c.JSON(http.StatusOK, Tested{true, "It is this computer."})
	}
	to := link.Target{Host: d.Host, Port: d.Port, Secure: d.Secure, Link: &t.Sheet.Link, User: d.User, Password: password, Stale: t.Deadline}
	began := time.Now()
	found, err := link.Test(c.Request().Context(), to, link.Candidate{Type: t, Driver: s.Drivers.For(t)})
	switch {
	case err != nil:
		return c.JSON(http.StatusOK, Tested{false, link.Sentence(err, link.Config{Name: d.Name, Target: to, Type: t})})
	case found.Note != "":
		return c.JSON(http.StatusOK, Tested{false, found.Note})
	case found.Model == "":
		return c.JSON(http.StatusOK, Tested{true, "It can be reached. Nothing tells what it is."})
	}
	return c.JSON(http.StatusOK, Tested{true, fmt.Sprintf("%s answers, after %d ms.", found.Model, time.Since(began).Milliseconds())})
}

// NewDevices are devices to add at once.
type NewDevices struct {
	Devices []edit.DeviceFields `json:"devices"`
}

// CreatedAll gives the ids of what was made, in order.
type CreatedAll struct {
	IDs []string `json:"ids"`
}

//limit:count devices that are added at once | in the answer
const maxAdded = 50

func (s *server) addDevices(c *echo.Context) error {
	var f NewDevices
	if err := read(c, &f, false); err != nil {
		return err
	}
	if len(f.Devices) == 0 || len(f.Devices) > maxAdded {
		return unfit("devices", "Tick 1 to 50 devices.")
	}
	ids, err := s.Edit.AddDevices(who(c), f.Devices)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, CreatedAll{ids})
}

// DeviceChange is a device as it was changed, with the revision it was read at.
type DeviceChange struct {
	Rev int64 `json:"rev"`
	edit.DeviceFields
}

func (s *server) editDevice(c *echo.Context) error {
	var f DeviceChange
	if err := read(c, &f, false); err != nil {
		return err
	}
	if err := s.Edit.EditDevice(who(c), c.Param("id"), f.Rev, f.DeviceFields); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) removeDevice(c *echo.Context) error {
	if err := s.Edit.RemoveDevice(who(c), c.Param("id")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) duplicateDevice(c *echo.Context) error {
	id, err := s.Edit.DuplicateDevice(who(c), c.Param("id"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, Created{id})
}

// Parked says whether a device is to have no link.
type Parked struct {
	Parked bool `json:"parked"`
}

func (s *server) parkDevice(c *echo.Context) error {
	var p Parked
	if err := read(c, &p, false); err != nil {
		return err
	}
	if err := s.Edit.ParkDevice(who(c), c.Param("id"), p.Parked); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) reconnect(c *echo.Context) error {
	if s.Edit.Program().Devices[c.Param("id")] == nil {
		return edit.ErrNotFound
	}
	s.Engine.Reconnect(c.Param("id"))
	return c.NoContent(http.StatusNoContent)
}

// Try is an action to try, with its parameters.
type Try struct {
	Action string            `json:"action"`
	Params map[string]string `json:"params"`
}

func (s *server) tryAction(c *echo.Context) error {
	at := time.Now()
	var t Try
	if err := read(c, &t, false); err != nil {
		return err
	}
	return s.ask(c, at, "rig", "Rig", edit.Action{Device: c.Param("id"), Action: t.Action, Params: t.Params})
}

// ask asks the engine for an action, where somebody is, and answers with its entry.
func (s *server) ask(c *echo.Context, at time.Time, via, where string, a edit.Action) error {
	r, err := s.Edit.Prepare(a)
	if err != nil {
		return err
	}
	by := s.request(c, at, via)
	s.Engine.Ask(engine.Try{Request: by, Response: r, Where: where})
	return s.accepted(c, by)
}

// actions lists what a device can be told to do.
func (s *server) actions(c *echo.Context) error {
	out := []*ActionDoc{}
	found := false
	v := s.Mirror.View()
	if d := v.Program.Devices[c.Param("id")]; d != nil && d.Type != nil {
		found = true
		for _, a := range d.Type.Sheet.Actions {
			out = append(out, actionDoc(v, d, a.ID, nil))
		}
	}
	if !found {
		return edit.ErrNotFound
	}
	return c.JSON(http.StatusOK, out)
}

// wire lists the last messages of a device, out and in, after a number.
func (s *server) wire(c *echo.Context) error {
	after, err := strconv.ParseInt(orText(c.QueryParam("after"), "0"), 10, 64)
	if err != nil {
		return &badBody{"after", "after is the number of a message."}
	}
	var w *link.Wire
	v := s.Mirror.View()
	w = v.Wire(c.Param("id"))
	if w == nil {
		return edit.ErrNotFound
	}
	return c.JSON(http.StatusOK, w.Lines(after))
}

func orText(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// Place is a host to look at, and a port where just that one is meant.
type Place struct {
	Host string `json:"host"`
	Port int    `json:"port,omitempty"`
}

// FoundDoc is what answers at an address, and whether it is in the rig already.
type FoundDoc struct {
	link.Found
	// Known is the name of the device that has this address already.
	Known string `json:"known"`
	// Name is proposed for the new device.
	Name string `json:"name"`
	User string `json:"user"`
	// Moved is the device of the rig that this is, and that does not answer where it was.
	Moved *MovedDoc `json:"moved,omitempty"`
}

func (s *server) identify(c *echo.Context) error {
	var p Place
	if err := read(c, &p, false); err != nil {
		return err
	}
	p.Host = strings.TrimSpace(p.Host)
	if text := show.CheckHost(p.Host); text != "" {
		return unfit("host", text)
	}
	if p.Port < 0 || p.Port > 65535 {
		return unfit("port", "A port is a number from 1 to 65535.")
	}
	snap := s.Edit.Program()
	var candidates []link.Candidate
	for _, t := range snap.Sheets.Devices() {
		candidates = append(candidates, link.Candidate{Type: t, Driver: s.Drivers.For(t)})
	}
	out := []FoundDoc{}
	names := map[string]bool{}
	for _, d := range snap.Show.Devices() {
		names[d.Name] = true
	}
	for _, f := range link.Identify(c.Request().Context(), p.Host, p.Port, candidates) {
		doc, known := FoundDoc{Found: f}, ""
		for _, d := range snap.Show.Devices() {
			if t := snap.Sheets.Device(d.Type); d.Host == p.Host && d.Port == f.Port && (t == nil || device.SamePort(t.Sheet.Link, snap.Sheets.Device(f.Type).Sheet.Link)) {
				doc.Known, known = d.Name, d.Type
			}
		}
		if known != "" && known != f.Type && f.Model == "" {
			continue // what is there is known, and nothing says that it is this, too
		}
		base := snap.Sheets.Device(f.Type).Sheet.Plain()
		doc.Name = base
		for n := 2; names[doc.Name]; n++ {
			doc.Name = base + " " + strconv.Itoa(n)
		}
		names[doc.Name] = true
		if login := snap.Sheets.Device(f.Type).Sheet.Link.Login; login != nil {
			doc.User = login.User
		}
		if doc.Known == "" && s.hasLost(f.Type) {
			doc.Moved = s.movedTo(c.Request().Context(), p.Host, f.Port, []string{f.Type})
		}
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

func (s *server) pictures(c *echo.Context) error {
	out := []device.Choice{}
	v := s.Mirror.View()
	if d := v.Program.Devices[c.Param("id")]; d != nil && d.Type != nil {
		out = append(out, d.Type.PictureSources(d.ID, v)...)
	}
	return c.JSON(http.StatusOK, out)
}

// picture gives one frame of a picture of a device, no older than the frame
// time of the rate that is asked for.
func (s *server) picture(c *echo.Context) error {
	rate := 5.0
	if q := c.QueryParam("rate"); q != "" {
		var err error
		if rate, err = strconv.ParseFloat(q, 64); err != nil || rate <= 0 {
			return &badBody{"rate", "rate is a number of frames a second."}
		}
	}
	url, ok := s.Mirror.View().PictureURL(c.Param("device"), c.Param("source"))
	if !ok {
		return edit.ErrNotFound
	}
	p, err := s.Media.Get(c.Request().Context(), url, rate)
	if err != nil {
		return echo.NewHTTPError(http.StatusBadGateway, err.Error())
	}
	h := c.Response().Header()
	if p.Frozen {
		h.Set("Synaptor-Frozen", "1")
	}
	h.Set("Last-Modified", p.At.UTC().Format(http.TimeFormat))
	return c.Blob(http.StatusOK, p.Type, p.Data)
}

// SheetDoc is a device sheet that is loaded.
type SheetDoc struct {
	Type string `json:"type"`
}

func (s *server) benchRestart(c *echo.Context) error {
	st, err := s.standIn(c)
	if err != nil {
		return err
	}
	st.Restart()
	return c.NoContent(http.StatusNoContent)
}
