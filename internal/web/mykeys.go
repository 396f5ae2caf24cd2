package web

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/engine"
)

// MyKeys are the mappings that who asks may not use.
type MyKeys struct {
	Refused map[string]string `json:"refused"` // why, by mapping
	// Withheld are the ids of the controllers that are not given to whoever asks.
	Withheld []string `json:"withheld"`
}

// myKeys tells what who asks may not use, so that it looks so before it is pressed.
func (s *server) myKeys(c *echo.Context) error {
	v, p := visitorOf(c), s.Edit.Program()
	by := access.Actor{ID: v.ID, Name: v.Name}
	out := MyKeys{map[string]string{}, []string{}}
	for id, m := range p.Mappings {
		if why := engine.Forbidden(s.Access, by, p, m); why != "" {
			out.Refused[id] = why
		}
	}
	for id := range p.Controllers {
		if !v.Role.May(access.Operator) || !v.Rights.MayPress(id) {
			out.Withheld = append(out.Withheld, id)
		}
	}
	return c.JSON(http.StatusOK, out)
}
