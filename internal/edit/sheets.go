package edit

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
)

// SetSheets puts other sheets in force: the show is compiled anew, and links
// whose sheet changed are made anew. Where all are the same, nothing happens.
func (s *Service) SetSheets(lib *sheet.Library) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if lib.Same(s.sheets) {
		return
	}
	s.sheets = lib
	s.enforce(s.show, "The device sheets were read again", Who{Actor: "Synaptor"})
}

// Sheets are those in force.
func (s *Service) Sheets() *sheet.Library {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.sheets
}

// Reconnects names the devices whose links would be made anew if the sheet of a type changed.
func (s *Service) Reconnects(typ string) []string {
	names := []string{}
	for _, d := range s.Program().Show.Devices() {
		if d.Type == typ && !d.Parked {
			names = append(names, d.Name)
		}
	}
	return names
}

// Prepare makes a response of an action, to try it without a control. It waits for
// nothing: it works on the program in force.
func (s *Service) Prepare(a Action) (*program.Response, error) {
	p := s.Program()
	_, call, err := boundCall(p.Show, p.Devices[a.Device], a)
	if err != nil {
		return nil, err
	}
	return p.CompileCall(call), nil
}

// NewSheet says what a sheet made of hand-written messages is called.
type NewSheet struct {
	Title string `json:"title"`
}

// Promote makes a device sheet of the messages that mappings send to a device
// by hand, gives it to save, and has the device and the mappings use it.
func (s *Service) Promote(who Who, id string, n NewSheet, save func(sheet []byte) (*sheet.Library, error)) (typ string, err error) {
	sh := s.Program().Show
	dev := sh.Device(id)
	if dev == nil {
		return "", notFound("device")
	}
	old := s.Program().Sheets.Device(dev.Type)
	title := strings.TrimSpace(n.Title)
	switch {
	case old == nil || !plain(old):
		return "", FieldErrors{{Field: "title", Text: dev.Name + " has a sheet of its own already."}}
	case title == "" || len(title) > show.MaxName:
		return "", FieldErrors{{Field: "title", Text: "A sheet needs a title of at most 60 characters."}}
	}
	messages := handWritten(sh, id)
	if len(messages) == 0 {
		return "", FieldErrors{{Field: "title", Text: "No key sends a message to " + dev.Name + " yet. Put the messages on keys first."}}
	}
	made := old.Promoted(title, func(t string) bool { return s.Program().Sheets.Device(t) != nil }, messages)
	body, err := json.MarshalIndent(made, "", "  ")
	if err != nil {
		return "", err
	}
	lib, err := save(body)
	if err != nil {
		return "", err
	}
	s.SetSheets(lib)
	return made.Type, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		dev := sh.Device(id)
		if dev == nil {
			return "", notFound("device")
		}
		changed := *dev
		changed.Type = made.Type
		d.Put(&changed)
		for _, m := range UsesOf(sh, id) {
			c := m.Clone()
			for i := range c.Responses {
				a := &c.Responses[i].Action
				if at := slices.Index(messages, a.Params["message"]); a.Device == id && at >= 0 {
					a.Action, a.Params = made.Actions[at].ID, nil
				}
			}
			d.Put(c)
		}
		return fmt.Sprintf("Make the sheet %s of %s", title, dev.Name), nil
	})
}

// plain tells whether a type takes messages that are written by hand.
func plain(t *device.Type) bool {
	return t.Action("send") != nil && strings.HasPrefix(t.Sheet.Type, "plain.")
}

// handWritten lists the messages that mappings send to a device, each once.
func handWritten(sh *show.Show, id string) []string {
	var out []string
	for _, m := range UsesOf(sh, id) {
		for _, r := range m.Responses {
			if text := r.Action.Params["message"]; r.Action.Device == id && text != "" && !slices.Contains(out, text) {
				out = append(out, text)
			}
		}
	}
	return out
}
