package web

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"synaptor/internal/incident"
)

func TestARequestThatFailsInsideIsAnsweredAndNoted(t *testing.T) {
	noted := ""
	defer incident.Notify(func(i incident.Incident) { noted = i.Where + " " + i.Cause + " " + i.Text })()
	s := &server{turn: make(chan struct{}, 1)}
	e := echo.New()
	e.HTTPErrorHandler = s.problem
	e.Use(contained)
	e.GET("/broken", func(*echo.Context) error { panic("a document is broken") })
	e.GET("/whole", func(c *echo.Context) error { return c.String(http.StatusOK, "ok") })
	get := func(path string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		e.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
		return w
	}
	w := get("/broken")
	var p Problem
	if err := json.Unmarshal(w.Body.Bytes(), &p); err != nil || w.Code != 500 || p.Status != 500 || !strings.Contains(p.Detail, "inside Synaptor") {
		t.Errorf("answered %d %s (%v)", w.Code, w.Body, err)
	}
	if noted != "web GET /broken a document is broken" {
		t.Errorf("noted %q", noted)
	}
	if w := get("/whole"); w.Code != 200 {
		t.Errorf("the next request: %d", w.Code)
	}
}
