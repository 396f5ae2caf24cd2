package web

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/program"
)

// ReflexDoc is a reflex, with the sentence that says it.
type ReflexDoc struct {
	show.Reflex
	Rev      int64  `json:"rev"`
	Sentence string `json:"sentence"`
	// WhenSentences and UnlessSentences say its conditions; null where they say more than sentences can.
	WhenSentences   []expr.Sentence `json:"whenSentences"`
	UnlessSentences []expr.Sentence `json:"unlessSentences"`
	// Findings are what somebody should look at.
	Findings []preflight.Finding `json:"findings"`
}

// ReflexChange is a reflex as it is to be; Rev is the revision that it was read at.
type ReflexChange struct {
	edit.ReflexForm
	Rev int64 `json:"rev,omitempty"`
}

func (s *server) listReflexes(c *echo.Context) error {
	v := s.Mirror.View()
	p := v.Program
	found := map[string][]preflight.Finding{}
	for _, f := range v.ReflexFindings() {
		found[f.Subject.ID] = append(found[f.Subject.ID], f)
	}
	out := []ReflexDoc{}
	for _, r := range p.Reflexes.All {
		doc := ReflexDoc{Reflex: *r.Source, Rev: p.Show.Rev(r.Source.Ref()), Sentence: p.SentenceOf(r, v), Findings: append([]preflight.Finding{}, found[r.Source.ID]...)}
		doc.WhenSentences, doc.UnlessSentences = sentencesOf(r.Source.When), sentencesOf(r.Source.Unless)
		out = append(out, doc)
	}
	return c.JSON(http.StatusOK, out)
}

// sentencesOf says a condition as sentences; none where it says more than those can.
func sentencesOf(source string) []expr.Sentence {
	if source == "" {
		return []expr.Sentence{}
	}
	p, err := expr.Compile(source, expr.Scope{})
	if err != nil {
		return nil
	}
	list, _ := p.Sentences()
	return list
}

// KindDoc is a kind of event that starts a reflex, with the fields that it brings along; those of a device's own are in its sheet.
type KindDoc struct {
	Kind   string   `json:"kind"`
	Fields []string `json:"fields"`
}

func (s *server) reflexKinds(c *echo.Context) error {
	out := []KindDoc{}
	for _, k := range reflex.Kinds {
		out = append(out, KindDoc{k, append([]string{}, reflex.Brings[k]...)})
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

// switchReflex switches a reflex on or off, as a key would: it is no edit.
func (s *server) switchReflex(c *echo.Context) error {
	var f SwitchForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	return s.askOwn(c, "reflex", map[string]string{"reflex": c.Param("id"), "to": onOff(f.On)})
}

// SwitchesForm switches all reflexes, or those of the audience; what is missing stays.
type SwitchesForm struct {
	All      *bool `json:"all,omitempty"`
	Audience *bool `json:"audience,omitempty"`
}

func (s *server) switchReflexes(c *echo.Context) error {
	var f SwitchesForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	if f.Audience != nil {
		return s.askOwn(c, "audience", map[string]string{"to": onOff(*f.Audience)})
	}
	return s.askOwn(c, "reflexes", map[string]string{"to": onOff(f.All == nil || *f.All)})
}

func onOff(on bool) string { return map[bool]string{true: "on", false: "off"}[on] }

// askOwn asks for an action of Synaptor itself, and answers with its entry.
func (s *server) askOwn(c *echo.Context, action string, params map[string]string) error {
	return s.ask(c, time.Now(), "reflexes", "Reflexes", edit.Action{Device: program.SelfID, Action: action, Params: params})
}

// OfferForm says what becomes of what a reflex is offered for, and SkipForm whether its schedule is passed over once.
type OfferForm struct {
	Leave bool `json:"leave"`
}

func (s *server) takeOffer(c *echo.Context) error {
	var f OfferForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	s.Engine.Ask(engine.TakeOffer{Request: s.request(c, time.Now(), "reflexes"), Reflex: c.Param("id"), Leave: f.Leave})
	return done(c, nil)
}

// SkipForm says whether a schedule is passed over the next time.
type SkipForm struct {
	Skip bool `json:"skip"`
}

func (s *server) skipReflex(c *echo.Context) error {
	var f SkipForm
	if err := read(c, &f, false); err != nil {
		return err
	}
	s.Engine.Ask(engine.SkipOnce{Request: s.request(c, time.Now(), "reflexes"), Reflex: c.Param("id"), Not: !f.Skip})
	return done(c, nil)
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
