package web

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/labstack/echo/v5"
)

// TestALinkFromElsewhereDoesNotTakeTheUndoListAway: a browser that follows one keeps its cookie to itself, and would
// be given another.
func TestALinkFromElsewhereDoesNotTakeTheUndoListAway(t *testing.T) {
	e := echo.New()
	e.Use(session)
	e.GET("/", func(c *echo.Context) error { return c.String(http.StatusOK, who(c).Session) })
	for _, c := range []struct {
		site  string // Sec-Fetch-Site
		given bool
	}{{"cross-site", false}, {"same-site", false}, {"same-origin", true}, {"none", true}, {"", true}} {
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		if c.site != "" {
			r.Header.Set("Sec-Fetch-Site", c.site)
		}
		w := httptest.NewRecorder()
		e.ServeHTTP(w, r)
		if cookies := w.Result().Cookies(); (len(cookies) > 0) != c.given || w.Body.Len() == 0 {
			t.Errorf("from %q: %v, session %q", c.site, cookies, w.Body)
		}
	}
}
