package app_test

import (
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"synaptor/internal/app"
	"synaptor/internal/web"
)

// openAPI reads the served document.
func (r *rig) openAPI() map[string]any {
	r.Helper()
	var d map[string]any
	r.must(200, "GET", "/api/openapi.json", nil, &d)
	return d
}

func TestRoutesAndDocumentAgree(t *testing.T) {
	r := start(t)
	documented := []string{}
	for path, ops := range r.openAPI()["paths"].(map[string]any) {
		for method := range ops.(map[string]any) {
			documented = append(documented, strings.ToUpper(method)+" "+path)
		}
	}
	param := regexp.MustCompile(`:(\w+)`)
	served := []string{}
	for _, route := range web.New(web.Deps{}).Router().Routes() {
		if p := param.ReplaceAllString(route.Path, "{$1}"); strings.HasPrefix(p, "/api/") && !strings.Contains(p, "*") || p == "/healthz" || p == "/metrics" {
			served = append(served, route.Method+" "+p)
		}
	}
	slices.Sort(documented)
	slices.Sort(served)
	if !slices.Equal(documented, served) {
		for _, d := range documented {
			if !slices.Contains(served, d) {
				t.Errorf("%s is documented and not served", d)
			}
		}
		for _, s := range served {
			if !slices.Contains(documented, s) {
				t.Errorf("%s is served and not documented", s)
			}
		}
	}
}

// strict makes schemas refuse fields that they do not name, so that the
// document cannot fall behind the answers.
func strict(v any) {
	switch x := v.(type) {
	case map[string]any:
		if _, ok := x["properties"]; ok {
			if _, open := x["additionalProperties"]; !open {
				x["additionalProperties"] = false
			}
		}
		for _, c := range x {
			strict(c)
		}
	case []any:
		for _, c := range x {
			strict(c)
		}
	}
}

func TestAnswersAreAsTheDocumentSays(t *testing.T) {
	r := start(t).ready()
	doc := r.openAPI()
	strict(doc)
	c := jsonschema.NewCompiler()
	if err := c.AddResource("urn:api", doc); err != nil {
		t.Fatal(err)
	}
	check := func(name string, schema string, value any) {
		t.Helper()
		s, err := c.Compile("urn:api#" + schema)
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Validate(value); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	id := r.entry(r.press("b1")).ID
	for path, at := range map[string]string{
		"/api/v1/show": "/api/v1/show", "/api/v1/edits": "/api/v1/edits", "/api/v1/find?q=": "/api/v1/find", "/api/v1/find?q=slides": "/api/v1/find",
		"/api/v1/devices/dome-switcher/actions/route": "/api/v1/devices/{id}/actions/{action}",
		"/api/v1/pages/cut/controls/a1/path":          "/api/v1/pages/{page}/controls/{control}/path",
		"/api/v1/pages/cut/controls/d4/path":          "/api/v1/pages/{page}/controls/{control}/path",
		"/api/v1/readings":                            "/api/v1/readings", "/api/v1/journal": "/api/v1/journal", "/api/v1/journal/" + id: "/api/v1/journal/{id}",
		"/api/v1/bench": "/api/v1/bench", "/api/v1/devices/dome-switcher/actions": "/api/v1/devices/{id}/actions",
		"/api/v1/macros": "/api/v1/macros", "/api/v1/macros/meteor": "/api/v1/macros/{id}", "/api/v1/macros/corner-camera": "/api/v1/macros/{id}",
		"/api/v1/macros/open-the-night": "/api/v1/macros/{id}", "/api/v1/macros/thank-the-helpers/rehearsal?seed=3": "/api/v1/macros/{id}/rehearsal",
		"/api/v1/putback/" + id:                  "/api/v1/putback/{entry}",
		"/api/v1/devices/dome-switcher/pictures": "/api/v1/devices/{id}/pictures", "/api/v1/devices/dome-switcher/wire": "/api/v1/devices/{id}/wire",
	} {
		var v any
		r.must(200, "GET", path, nil, &v)
		check(path, "/paths/"+strings.ReplaceAll(at, "/", "~1")+"/get/responses/200/content/application~1json/schema", v)
	}
	l := r.follow("show", "devices", "status", "readings", "page:cut", "bench")
	for prefix, schema := range map[string]string{"show": "Announcement", "device/": "LinkState", "reading/": "Reading", "face/": "Face", "bench/": "FrontPanel"} {
		n := 0
		for key, raw := range l.values {
			if strings.HasPrefix(key, prefix) {
				var v any
				if err := json.Unmarshal(raw, &v); err != nil {
					t.Fatal(err)
				}
				check(key, "/components/schemas/"+schema, v)
				n++
			}
		}
		if n == 0 {
			t.Errorf("the live feed has nothing under %s", prefix)
		}
	}
	var p any
	r.call("POST", "/api/v1/devices", "{", &p)
	check("a problem", "/components/schemas/Problem", p)
}

func TestAnswersSayWhatIsWrong(t *testing.T) {
	r := start(t)
	for name, c := range map[string]struct {
		method, path, host, body string
		want                     int
		says, allow              string
	}{
		"a method that is none of the path": {"DELETE", "/api/v1/show", "", "", 405, "", "OPTIONS, GET"},
		"another":                           {"PATCH", "/api/v1/pages/cut/controls/a1", "", "", 405, "", "OPTIONS, DELETE, PUT"},
		"a path that is none":               {"GET", "/api/v1/nothing/here", "", "", 404, "", ""},
		"a body that is too large":          {"POST", "/api/v1/devices", "", `{"name":"` + strings.Repeat("x", 1<<20) + `"}`, 413, "larger than 1 MB", ""},
		"a sheet that is too large":         {"POST", "/api/v1/sheets", "", strings.Repeat(" ", 1<<20+1), 413, "larger than", ""},
		"a picture that is too large":       {"POST", "/api/v1/media?name=x", "", strings.Repeat("x", 20<<20), 413, "larger than", ""},
		"another kind of value":             {"POST", "/api/v1/devices", "", `{"name":5}`, 400, "name must be a text", ""},
		"a name that points here":           {"GET", "/api/v1/show", "evil.example", "", 403, "", ""},
	} {
		req, err := http.NewRequest(c.method, "http://"+r.Addr+c.path, strings.NewReader(c.body))
		if err != nil {
			t.Fatal(err)
		}
		req.Host = c.host
		req.Header.Set("Content-Type", "application/json")
		resp, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		answer, _ := io.ReadAll(resp.Body)
		_ = resp.Body.Close()
		if resp.StatusCode != c.want || !strings.Contains(string(answer), c.says) || resp.Header.Get("Allow") != c.allow {
			t.Errorf("%s: %d, %s, Allow %q", name, resp.StatusCode, answer, resp.Header.Get("Allow"))
		}
		if resp.Header.Get("Content-Security-Policy") == "" || resp.Header.Get("X-Content-Type-Options") != "nosniff" {
			t.Errorf("%s: the answer has no security headers: %v", name, resp.Header)
		}
	}
}

func TestOnlyThisComputerAndItsOwnPagesMayCome(t *testing.T) {
	r := start(t)
	for name, c := range map[string]struct {
		method, host, origin, site string
		want                       int
	}{
		"plain":                        {"POST", "", "", "", 200},
		"its own page":                 {"POST", "", "http://" + r.Addr, "same-origin", 200},
		"a name that points here":      {"POST", "evil.example", "", "", 403},
		"reading under another name":   {"GET", "evil.example:7420", "", "", 403},
		"a page from elsewhere":        {"POST", "", "http://evil.example", "", 403},
		"another port of this machine": {"POST", "", "http://127.0.0.1:1", "", 403},
		"a browser that says so":       {"POST", "", "", "cross-site", 403},
		"no origin at all (sandboxed)": {"POST", "", "null", "", 403},
		"localhost":                    {"POST", "localhost", "", "", 200},
	} {
		path := "/api/v1/undo"
		if c.method == "GET" {
			path = "/api/v1/show"
		}
		req, err := http.NewRequest(c.method, r.base+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		req.Host = c.host
		for k, v := range map[string]string{"Origin": c.origin, "Sec-Fetch-Site": c.site} {
			if v != "" {
				req.Header.Set(k, v)
			}
		}
		resp, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		_ = resp.Body.Close()
		if resp.StatusCode != c.want {
			t.Errorf("%s: %d, want %d", name, resp.StatusCode, c.want)
		}
		if csp := resp.Header.Get("Content-Security-Policy"); c.want == 200 && (!strings.Contains(csp, "default-src 'self'") || strings.Contains(csp, "script-src")) {
			t.Errorf("%s: policy %q", name, csp)
		}
	}
	req, _ := http.NewRequest("GET", r.base+"/api/v1/live", nil)
	for k, v := range map[string]string{"Origin": "http://evil.example", "Upgrade": "websocket", "Connection": "Upgrade", "Sec-WebSocket-Version": "13", "Sec-WebSocket-Key": "dGhlIHNhbXBsZSBub25jZQ=="} {
		req.Header.Set(k, v)
	}
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	_ = resp.Body.Close()
	if resp.StatusCode != 403 {
		t.Errorf("a live socket from elsewhere: %d", resp.StatusCode)
	}
}

func TestAnAddressThatCannotBeOpenedIsRefusedWithASentence(t *testing.T) {
	for _, addr := range []string{":0", "192.168.1.4:7420", "example.org:80", "nonsense", "127.0.0.1"} {
		for _, o := range []app.Options{{Listen: addr, OSC: "127.0.0.1:0"}, {Listen: "127.0.0.1:0", OSC: addr}} {
			o.Data = t.TempDir()
			a, err := app.Start(o)
			if err == nil {
				a.Close()
				t.Errorf("%s was accepted", addr)
			} else if len(err.Error()) < 30 {
				t.Errorf("%s: %v", addr, err)
			}
		}
	}
}

func TestABrokenSheetOfOnesOwnIsReportedAndTheRestRuns(t *testing.T) {
	data := t.TempDir()
	if err := os.MkdirAll(filepath.Join(data, "sheets"), 0o700); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(data, "sheets", "mine.json"), []byte("{\n \"sheet\": \"synaptor.device/1\",\n \"type\": 7\n}"), 0o600); err != nil {
		t.Fatal(err)
	}
	r := startIn(t, data).ready()
	var d struct {
		SheetProblems []struct {
			File, Field, Reason string
			Line                int
		}
	}
	r.must(200, "GET", "/api/v1/show", nil, &d)
	if len(d.SheetProblems) != 6 || d.SheetProblems[0].File != "mine.json" || d.SheetProblems[0].Line == 0 || d.SheetProblems[0].Field != "/title" || d.SheetProblems[0].Reason == "" {
		t.Errorf("the problem is %+v", d.SheetProblems)
	}
	r.fails(404, "DELETE", "/api/v1/sheets/files/other.json", nil)
	r.fails(404, "DELETE", "/api/v1/sheets/files/..%2Fsecrets.key", nil)
	r.must(204, "DELETE", "/api/v1/sheets/files/mine.json", nil, nil)
	d.SheetProblems = nil
	if r.must(200, "GET", "/api/v1/show", nil, &d); len(d.SheetProblems) != 0 {
		t.Errorf("after its file is removed: %+v", d.SheetProblems)
	}
	r.entry(r.press("b1"), "confirmed")
}

func TestTheInterfaceIsServedAtItsRealPaths(t *testing.T) {
	r := start(t)
	for path, want := range map[string]int{"/": 200, "/patch": 200, "/journal/abc": 200, "/panel/producer-grid": 200, "/assets/none.js": 404,
		"/../go.mod": 404, "/index.html.gz": 404, "/healthz": 200, "/metrics": 200, "/api/schemas/device-1": 200, "/api/schemas/other": 404} {
		if got := r.call("GET", path, nil, nil); got != want {
			t.Errorf("%s: %d, want %d", path, got, want)
		}
	}
}
