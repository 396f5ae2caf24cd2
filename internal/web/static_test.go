package web

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/fstest"

	"github.com/labstack/echo/v5"
)

// Who mistypes an address in a browser is told so by the application; a program gets the problem itself.
func TestAnAddressThatIsNotThereIsSaidByTheApplication(t *testing.T) {
	e := echo.New()
	s := &server{Deps: Deps{Files: fstest.MapFS{"index.html": {Data: []byte("application")}, "assets/a.js": {Data: []byte("script")}}}}
	s.static(e)
	for _, c := range []struct {
		path, accept string
		status       int
		body         string
	}{
		{"/rig", "text/html", http.StatusOK, "application"},
		{"/assets/a.js", "*/*", http.StatusOK, "script"},
		{"/nowhere", "text/html,application/xhtml+xml", http.StatusNotFound, "application"},
		{"/nowhere", "application/json", http.StatusNotFound, ""},
		{"/api/v1/nothing", "text/html", http.StatusNotFound, ""},
	} {
		r := httptest.NewRequest(http.MethodGet, c.path, nil)
		r.Header.Set("Accept", c.accept)
		w := httptest.NewRecorder()
		e.ServeHTTP(w, r)
		if w.Code != c.status || c.body != "" && w.Body.String() != c.body || c.body == "" && w.Body.String() == "application" {
			t.Errorf("%s for %s: %d %q", c.path, c.accept, w.Code, w.Body)
		}
	}
}
