package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach"
	"synaptor/internal/core/show"
	"synaptor/internal/doors"
	"synaptor/internal/edit"
	"synaptor/internal/people"
	"synaptor/internal/shows"
	"synaptor/internal/store"
)

// Problem is an RFC 9457 problem document.
type Problem struct {
	Type   string         `json:"type"`
	Title  string         `json:"title"`
	Status int            `json:"status"`
	Detail string         `json:"detail"`
	Field  string         `json:"field,omitempty"` // the first field at fault
	Fields []FieldProblem `json:"fields,omitempty"`
	// Blocked is the edit that cannot be undone any more, with the one before it.
	Blocked *edit.Blocked `json:"blocked,omitempty"`
}

// FieldProblem is what is wrong with one field.
type FieldProblem struct {
	Field string `json:"field"`
	Text  string `json:"text"`
}

// badBody says that a request cannot be read: what it says makes no sense.
type badBody struct{ field, text string }

func (e *badBody) Error() string { return e.text }

// unfit says that a request was understood and cannot be followed.
func unfit(field, text string) error { return edit.FieldErrors{{Field: field, Text: text}} }

// problem answers a request that failed.
func (s *server) problem(c *echo.Context, err error) {
	p := describe(err)
	if p.Status >= http.StatusInternalServerError {
		slog.Error("request failed", "method", c.Request().Method, "route", routeOf(c), "err", err) // addresses may have secrets in them
	}
	body, _ := json.Marshal(p)
	if err := c.Blob(p.Status, "application/problem+json", body); err != nil {
		slog.Debug("answer not delivered", "err", err)
	}
}

func describe(err error) Problem {
	p := Problem{Type: "about:blank", Detail: err.Error()}
	var fields edit.FieldErrors
	var field *show.FieldError
	var stale *edit.StaleError
	var noSuch *attach.NoSuch
	var body *badBody
	var large tooLarge
	var disk *store.DiskError
	var busy *shows.BusyError
	var opened shows.OpenError
	var damaged *store.DamagedError
	var newer *store.NewerError
	switch {
	case describeAccess(&p, err):
	case errors.Is(err, store.ErrNobody):
		p.Status = http.StatusNotFound
	case errors.As(err, &busy), errors.As(err, &opened), errors.As(err, &damaged), errors.As(err, &newer):
		p.Status = http.StatusConflict
	case errors.Is(err, store.ErrNoShow):
		p.Status = http.StatusNotFound
	case errors.As(err, &large):
		p.Status = http.StatusRequestEntityTooLarge
	case errors.As(err, &fields):
		p.Status = http.StatusUnprocessableEntity
		for _, f := range fields {
			p.Fields = append(p.Fields, FieldProblem{f.Field, f.Text})
		}
	case errors.As(err, &field):
		p.Status = http.StatusUnprocessableEntity
		p.Fields = []FieldProblem{{field.Field, field.Text}}
	case errors.As(err, &stale):
		p.Status, p.Blocked = http.StatusConflict, stale.Blocked
	case errors.As(err, &noSuch):
		p.Status = http.StatusNotFound
		p.Fields = []FieldProblem{{noSuch.Field, noSuch.Text}}
	case errors.As(err, &body):
		p.Status = http.StatusBadRequest
		p.Fields = []FieldProblem{{body.field, body.text}}
	case errors.Is(err, errTooLong):
		p.Status, p.Detail = http.StatusServiceUnavailable, "This takes too long to work out. Try again, or make the macro smaller."
	case errors.Is(err, edit.ErrNotFound):
		p.Status = http.StatusNotFound
	case errors.As(store.InWords(err), &disk):
		p.Status, p.Detail = http.StatusInternalServerError, "This did not work: "+disk.Text+". Nothing was changed."
		if disk.Full {
			p.Status = http.StatusInsufficientStorage
		}
	default:
		var said *echo.HTTPError
		if errors.As(err, &said) && said.Message != "" {
			p.Detail = said.Message
		}
		if p.Status = echo.StatusCode(err); p.Status == 0 {
			p.Status = http.StatusInternalServerError
			p.Detail = "This did not work: " + err.Error() + ". Nothing was changed."
		}
	}
	if len(p.Fields) > 0 {
		p.Field, p.Detail = p.Fields[0].Field, p.Fields[0].Text
	}
	p.Title = http.StatusText(p.Status)
	return p
}

// describeAccess describes what has to do with who may do what; false: this has not.
func describeAccess(p *Problem, err error) bool {
	var refused *people.Refused
	var given *attach.NotGiven
	var many *attach.TooMany
	var door *doors.Refused
	var taken *access.TakenError
	var notYours *access.NotYoursError
	switch {
	case errors.As(err, &given), errors.As(err, &notYours):
		p.Status = http.StatusForbidden
	case errors.As(err, &refused):
		p.Status = http.StatusUnprocessableEntity
		p.Fields = []FieldProblem{{refused.Field, refused.Text}}
	case errors.As(err, &many):
		p.Status = http.StatusTooManyRequests
	case errors.As(err, &door):
		p.Status = http.StatusUnprocessableEntity
		p.Fields = []FieldProblem{{door.Field, door.Text}}
	case errors.Is(err, people.ErrCode):
		p.Status, p.Detail = http.StatusForbidden, show.Sentence(err)
	case errors.As(err, &taken), errors.Is(err, access.ErrUnknown), errors.Is(err, access.ErrClaims), errors.Is(err, doors.ErrBusy):
		p.Status, p.Detail = http.StatusConflict, show.Sentence(err)
	case errors.Is(err, access.ErrNoClaim), errors.Is(err, people.ErrPairing), errors.Is(err, people.ErrNoPanel):
		p.Status, p.Detail = http.StatusNotFound, show.Sentence(err)
	case errors.Is(err, people.ErrWrong):
		p.Status, p.Detail = http.StatusUnauthorized, show.Sentence(people.ErrWrong)
	case errors.Is(err, people.ErrClaimed), errors.Is(err, people.ErrLast), errors.Is(err, people.ErrInvited):
		p.Status, p.Detail = http.StatusConflict, show.Sentence(err)
	default:
		return false
	}
	return true
}

// read decodes a request's JSON body strictly; an empty body leaves into as it
// is when optional.
func read(c *echo.Context, into any, optional bool) error {
	body, err := bodyOf(c.Request(), maxBody)
	if err != nil || len(body) == 0 && optional {
		return err
	}
	d := json.NewDecoder(strings.NewReader(string(body)))
	d.DisallowUnknownFields()
	err = d.Decode(into)
	var typ *json.UnmarshalTypeError
	switch {
	case errors.As(err, &typ):
		return &badBody{orBody(typ.Field), fmt.Sprintf("%s must be %s, not a %s.", orBody(typ.Field), called(typ.Type), typ.Value)}
	case err != nil && strings.HasPrefix(err.Error(), "json: unknown field "):
		name := strings.Trim(strings.TrimPrefix(err.Error(), "json: unknown field "), `"`)
		return &badBody{name, fmt.Sprintf("There is no field %q.", name)}
	case err != nil:
		return &badBody{"body", "The request's body is no JSON: " + err.Error() + "."}
	case d.More():
		return &badBody{"body", "The request's body has something after its JSON."}
	}
	return nil
}

func orBody(field string) string {
	if field == "" {
		return "body"
	}
	return field
}
