package web

import (
	"context"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"synaptor/internal/announce"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/link"
)

// AnnouncedDoc is something that announces itself in the network.
type AnnouncedDoc struct {
	announce.Heard
	// Types are those of the sheets whose devices announce themselves so.
	Types []string `json:"types"`
	// Device is the device of the rig that is there; empty: none is.
	Device string    `json:"device,omitempty"`
	Moved  *MovedDoc `json:"moved,omitempty"`
}

// MovedDoc is a device of the rig that does not answer where it was, and says that it is the same elsewhere.
type MovedDoc struct {
	Device string `json:"device"` // id
	Name   string `json:"name"`
	From   string `json:"from"` // where it was
}

// lookForAnnounced lists what announces itself by the services that sheets name.
func (s *server) lookForAnnounced(c *echo.Context) error {
	p := s.Edit.Program()
	types := map[string][]string{} // by service
	for _, t := range p.Sheets.Devices() {
		for _, service := range t.Sheet.Link.Announced {
			types[service] = append(types[service], t.Sheet.Type)
		}
	}
	var services []string
	for service := range types {
		services = append(services, service)
	}
	slices.Sort(services)
	out := []AnnouncedDoc{}
	for _, h := range s.Listen(c.Request().Context(), services, nil) {
		doc := AnnouncedDoc{Heard: h, Types: types[h.Service]}
		for _, d := range p.Show.Devices() {
			if d.Host == h.Host && d.Port == h.Port {
				doc.Device = d.ID
			}
		}
		if doc.Device == "" {
			doc.Moved = s.movedTo(c.Request().Context(), h.Host, h.Port, doc.Types)
		}
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

// moveDevice has a device be at another address, in one press.
func (s *server) moveDevice(c *echo.Context) error {
	var p Place
	if err := read(c, &p, false); err != nil {
		return err
	}
	return done(c, s.Edit.MoveDevice(who(c), c.Param("id"), p.Host, p.Port))
}

// movedTo finds the one device of the rig, of some types, that does not answer where it was and says at an address that it is the same;
// nil: none does, or it could be several.
func (s *server) movedTo(ctx context.Context, host string, port int, types []string) (moved *MovedDoc) {
	var candidates []link.Candidate
	for _, typ := range types {
		if t := s.Edit.Program().Sheets.Device(typ); t != nil && s.hasLost(typ) {
			candidates = append(candidates, link.Candidate{Type: t, Driver: s.Drivers.For(t)})
		}
	}
	for _, f := range link.Identify(ctx, host, port, candidates) {
		for _, d := range s.lost(f.Type) {
			if f.Model != "" && s.identity(d) == f.Model {
				if moved != nil {
					return nil
				}
				moved = &MovedDoc{d.ID, d.Name, d.Address()}
			}
		}
	}
	return moved
}

// lost lists the devices of a type that do not answer.
func (s *server) lost(typ string) (out []*show.Device) {
	v := s.Mirror.View()
	for _, d := range v.Program.Show.Devices() {
		if d.Type == typ && !d.Parked && v.Link(d.ID).Phase == link.Down {
			out = append(out, d)
		}
	}
	return out
}

func (s *server) hasLost(typ string) bool { return len(s.lost(typ)) > 0 }

// identity is what a device said it is when it answered last; empty: nobody knows.
func (s *server) identity(d *show.Device) string {
	v := s.Mirror.View()
	t := v.Program.Devices[d.ID]
	if t == nil || t.Type == nil || t.Type.Sheet.Link.Identify == nil {
		return ""
	}
	r := v.Reading(reading.Key{Device: d.ID, Path: t.Type.Sheet.Link.Identify.Reading})
	if r.Value == nil {
		return ""
	}
	return expr.Text(r.Value)
}
