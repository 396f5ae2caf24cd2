package web

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
)

// ReflexDoc is a reflex, with the sentence that says it.
type ReflexDoc struct {
	show.Reflex
	Rev      int64  `json:"rev"`
	Sentence string `json:"sentence"`
	// Loop are the reflexes by way of which it can set itself off; empty: it cannot.
	Loop []string `json:"loop"`
}

// ReflexChange is a reflex as it is to be; Rev is the revision that it was read at.
type ReflexChange struct {
	edit.ReflexForm
	Rev int64 `json:"rev,omitempty"`
}

func (s *server) listReflexes(c *echo.Context) error {
	v := s.Mirror.View()
	p := v.Program
	loops := map[string][]string{}
	for _, loop := range p.Loops() {
		for _, id := range loop {
			loops[id] = loop
		}
	}
	out := []ReflexDoc{}
	for _, r := range p.Reflexes.All {
		doc := ReflexDoc{Reflex: *r.Source, Rev: p.Show.Rev(r.Source.Ref()), Sentence: p.SentenceOf(r, v), Loop: []string{}}
		for _, id := range loops[r.Source.ID] {
			if o := p.Show.Reflex(id); o != nil {
				doc.Loop = append(doc.Loop, o.Name)
			}
		}
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

func (s *server) addReflex(c *echo.Context) error {
	var f edit.ReflexForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return created(c)(s.Edit.AddReflex(who(c), f))
}

func (s *server) editReflex(c *echo.Context) error {
	var f ReflexChange
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.EditReflex(who(c), c.Param("id"), f.Rev, f.ReflexForm))
}

// SwitchForm says whether something is on.
type SwitchForm struct {
	On bool `json:"on"`
}

func (s *server) switchReflex(c *echo.Context) error {
	var f SwitchForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.SwitchReflex(who(c), c.Param("id"), f.On))
}

// PlaceInList is a place in a list, counted from 0.
type PlaceInList struct {
	At int `json:"at"`
}

func (s *server) moveReflex(c *echo.Context) error {
	var f PlaceInList
	if err := read(c, &f, false); err != nil {
		return err
	}
	return done(c, s.Edit.MoveReflex(who(c), c.Param("id"), f.At))
}

func (s *server) removeReflex(c *echo.Context) error {
	return done(c, s.Edit.RemoveReflex(who(c), c.Param("id")))
}
