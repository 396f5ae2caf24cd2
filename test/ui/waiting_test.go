package ui

import (
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"testing"

	"synaptor/internal/app"
	"synaptor/web"
)

// What takes longer than one notices is seen to be under way; what takes very long can be stopped, and says so.
func TestWhatTakesLongIsShownAndCanBeStopped(t *testing.T) {
	t.Parallel()
	a, err := app.Start(app.Options{Listen: "127.0.0.1:0", OSC: "127.0.0.1:0", Data: t.TempDir(), Demo: true, Files: web.Files()})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(a.Close)
	to := httputil.NewSingleHostReverseProxy(&url.URL{Scheme: "http", Host: a.Addr})
	stopped := make(chan struct{})
	slow := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/v1/rollcall" {
			<-r.Context().Done() // it never answers
			close(stopped)
			return
		}
		to.ServeHTTP(w, r)
	}))
	t.Cleanup(slow.Close)
	page, err := chromium.Open(slow.URL, 1280, 800, true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(page.Close)
	p := &person{t, page, a}
	p.do(p.Goto("/rig"), p.See(".phase.up"), p.Click("#roll-call"), p.See(`.working [role="progressbar"]`), p.Text(".working", "This takes long"))
	p.axe("while something takes long")
	p.do(p.Click(".working button"), p.Text(".notices", "Stopped."), p.Wait(`!document.querySelector(".working")`), p.See("#roll-call:not(:disabled)"))
	<-stopped
}
