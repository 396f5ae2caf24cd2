package web

import (
	"cmp"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"synaptor/internal/core/device"
	"synaptor/internal/core/find"
	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

func (s *server) find(c *echo.Context) error {
	q := find.Query{Words: c.QueryParam("q"), Gesture: c.QueryParam("gesture"), Limit: 60, Near: map[string]bool{}}
	if strings.TrimSpace(q.Words) == "" {
		q.Limit = 0 // then it is a list to look through, by device
	}
	out := []find.Result{}
	v := s.Mirror.View()
	var sources []find.Source
	for _, d := range append(v.Program.Show.Devices(), v.Program.Devices[program.SelfID].Device) {
		if t := v.Program.Sheets.Device(d.Type); t != nil {
			sources = append(sources, find.Source{Device: d.ID, Name: d.Name, Type: t})
		}
	}
	q.Recent = recentlyUsed(v.Program.Show)
	if p := v.Program.Show.Page(c.QueryParam("page")); p != nil {
		for _, id := range v.Program.AllOn(p) {
			for _, r := range v.Program.Mappings[id].Responses {
				q.Near[r.Device] = true
			}
		}
	}
	out = append(out, find.Search(q, sources, v)...)
	return c.JSON(http.StatusOK, out)
}

// recentlyUsed lists the actions that were put on controls last, the newest first.
func recentlyUsed(sh *show.Show) (out []find.Used) {
	all := sh.Mappings()
	slices.SortStableFunc(all, func(a, b *show.Mapping) int { return cmp.Compare(sh.Rev(b.Ref()), sh.Rev(a.Ref())) })
	seen := map[find.Used]bool{}
	for _, m := range all {
		for _, r := range m.Responses {
			if u := (find.Used{Device: r.Action.Device, Action: r.Action.Action}); !seen[u] {
				seen[u] = true
				out = append(out, u)
			}
		}
	}
	return out[:min(len(out), 20)]
}

// ParamDoc is a parameter with the values it can have.
type ParamDoc struct {
	ID      string          `json:"id"`
	Title   string          `json:"title"`
	Type    string          `json:"type"` // choice, int, float, db, text or message
	Unit    string          `json:"unit,omitempty"`
	Value   string          `json:"value"`
	Choices []device.Choice `json:"choices"`
	Min     *float64        `json:"min,omitempty"`
	Max     *float64        `json:"max,omitempty"`
}

// ActionDoc is an action with its parameters.
type ActionDoc struct {
	ID     string     `json:"id"`
	Title  string     `json:"title"`
	Help   string     `json:"help"`
	Params []ParamDoc `json:"params"`
	Risky  bool       `json:"risky"`
}

// action describes an action; choices that depend on other parameters follow
// the values given as JSON.
func (s *server) action(c *echo.Context) error {
	var values map[string]string
	if q := c.QueryParam("values"); q != "" && json.Unmarshal([]byte(q), &values) != nil {
		return &badBody{"values", "values is an object of texts."}
	}
	var doc *ActionDoc
	v := s.Mirror.View()
	if d := v.Program.Devices[c.Param("id")]; d != nil && d.Type != nil {
		doc = actionDoc(v, d, c.Param("action"), values)
	}
	if doc == nil {
		return edit.ErrNotFound
	}
	return c.JSON(http.StatusOK, doc)
}

// actionDoc describes an action of a device with the values its parameters
// have; nil when there is no such action.
func actionDoc(v *mirror.View, d *program.Device, id string, values map[string]string) *ActionDoc {
	a := d.Type.Action(id)
	if a == nil {
		return nil
	}
	doc := &ActionDoc{ID: a.ID, Title: a.Called(), Help: a.Help, Risky: a.Risky, Params: []ParamDoc{}}
	given := map[string]string{}
	for _, p := range a.Params {
		if given[p.ID] = values[p.ID]; given[p.ID] == "" {
			given[p.ID] = p.DefaultNow(d.ID, v)
		}
	}
	for _, p := range a.Params {
		pd := ParamDoc{ID: p.ID, Title: p.Title, Type: p.Type, Unit: p.Unit, Value: values[p.ID], Min: p.Min, Max: p.Max,
			Choices: append([]device.Choice{}, d.Type.ParamChoices(a, p, d.ID, given, v)...)}
		if p.Type == "" {
			pd.Type = "choice"
		}
		if pd.Value == "" {
			pd.Value = p.DefaultNow(d.ID, v)
		}
		doc.Params = append(doc.Params, pd)
	}
	return doc
}

func (s *server) putAction(c *echo.Context) error {
	var a edit.Action
	if err := read(c, &a, false); err != nil {
		return err
	}
	put, err := s.Edit.PutAction(who(c), c.Param("page"), c.Param("control"), a)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, put)
}

func (s *server) clear(c *echo.Context) error {
	if err := s.Edit.Clear(who(c), c.Param("page"), []string{c.Param("control")}); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) move(c *echo.Context) error {
	var m edit.Move
	if err := read(c, &m, false); err != nil {
		return err
	}
	moved, err := s.Edit.Move(who(c), c.Param("page"), m)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, moved)
}

func (s *server) putKit(c *echo.Context) error {
	var k edit.Kit
	if err := read(c, &k, false); err != nil {
		return err
	}
	plan, err := s.Edit.PutKit(who(c), c.Param("page"), k)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, plan)
}

func (s *server) planKit(c *echo.Context) error {
	var k edit.Kit
	if err := read(c, &k, false); err != nil {
		return err
	}
	plan, err := s.Edit.PlanKit(c.Param("page"), k)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, plan)
}

// MappingChange is a mapping as it was changed, with the revision it was read
// at.
type MappingChange struct {
	Rev int64 `json:"rev"`
	edit.MappingFields
}

// Revision is the revision that an entity has after a change.
type Revision struct {
	Rev int64 `json:"rev"`
}

func (s *server) editMapping(c *echo.Context) error {
	var f MappingChange
	if err := read(c, &f, false); err != nil {
		return err
	}
	rev, err := s.Edit.EditMapping(who(c), c.Param("id"), f.Rev, f.MappingFields)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, Revision{rev})
}
