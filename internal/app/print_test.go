package app_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"synaptor/internal/demo"
)

func TestTheWholeShowIsPrintedWithoutPasswords(t *testing.T) {
	r := start(t).ready()
	dev := r.device("dome-switcher")
	r.must(204, "PUT", "/api/v1/devices/dome-switcher", map[string]any{"rev": dev.Rev, "name": "Dome <switcher>", "type": "switcher.osc", "host": dev.Host, "port": dev.Port}, nil)
	var page string
	r.eventually("there was time to work it out", func() bool {
		resp, err := r.client.Get(r.base + "/api/v1/print")
		if err != nil {
			t.Fatal(err)
		}
		defer resp.Body.Close()
		body, err := io.ReadAll(resp.Body)
		page = string(body)
		return err == nil && resp.StatusCode == http.StatusOK
	})
	for _, want := range []string{"<h1>Meteor Night</h1>", "Dome &lt;switcher&gt;", "Streaming software (JSON-RPC)", "Pages of Meteor Night", "<h3>Meteor! ", "Put All-sky cam on program", "<svg", "top left", "Wait 8s"} {
		if !strings.Contains(page, want) {
			t.Errorf("%q is not on it", want)
		}
	}
	never := []string{"Dome <switcher>"}
	for _, password := range demo.Passwords() {
		never = append(never, password)
	}
	for _, n := range never {
		if strings.Contains(page, n) {
			t.Errorf("%q is on it", n)
		}
	}
}
