// Package kill ends Synaptor with SIGKILL at random moments and looks at what
// is left.
package kill

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"synaptor/internal/bench/switcher"
	"synaptor/test/process"
)

// kills is how often Synaptor is ended; KILLS sets another number.
func kills(t *testing.T) int {
	if s := os.Getenv("KILLS"); s != "" {
		n, err := strconv.Atoi(s)
		if err != nil {
			t.Fatalf("KILLS=%s: %v", s, err)
		}
		return n
	}
	return 15
}

// life is one life of Synaptor.
type life struct {
	*testing.T
	*process.Process
	bin, data string
}

// again is the next life, after a kill.
func (p *life) again() *life { return start(p.T, p.bin, p.data) }

func start(t *testing.T, bin, data string) *life {
	t.Helper()
	p, err := process.Start(bin, data)
	if err != nil {
		t.Fatal(err)
	}
	return &life{t, p, bin, data}
}

// call makes a request; ok is false when Synaptor did not acknowledge it.
func (p *life) call(method, path string, body, out any) (ok bool) {
	raw, err := json.Marshal(body)
	if err != nil {
		p.Fatal(err)
	}
	req, err := http.NewRequest(method, p.Base+path, bytes.NewReader(raw))
	if err != nil {
		p.Fatal(err)
	}
	req.AddCookie(&http.Cookie{Name: "synaptor_session", Value: "THESAMESESSIONALLTHETIME"})
	resp, err := http.DefaultClient.Do(req)
	if err != nil {
		return false
	}
	defer resp.Body.Close()
	answer, err := io.ReadAll(resp.Body)
	if err != nil {
		return false
	}
	if resp.StatusCode >= 300 {
		p.Fatalf("%s %s: %d %s", method, path, resp.StatusCode, answer)
	}
	return out == nil || json.Unmarshal(answer, out) == nil
}

type doc struct {
	Pages    []struct{ ID string }
	Mappings []struct {
		ID   string
		Rev  int64
		Face struct{ Label string }
	}
}

// rigged starts Synaptor with a switcher, which outlives it; device is its id in the show.
func rigged(t *testing.T) (p *life, sw *switcher.Server, device string) {
	t.Helper()
	bin, err := process.Build(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	if sw, err = switcher.Start("127.0.0.1:0", "127.0.0.1:0", nil); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(sw.Close)
	_, port, _ := net.SplitHostPort(sw.Addr())
	n, _ := strconv.Atoi(port)
	p = start(t, bin, t.TempDir())
	var made struct{ ID string }
	p.call("POST", "/api/v1/devices", map[string]any{"name": "Dome switcher", "type": "switcher.osc", "host": "127.0.0.1", "port": n}, &made)
	return p, sw, made.ID
}

func TestKillingSynaptorLosesNoAcknowledgedEditAndSendsNothing(t *testing.T) {
	p, sw, device := rigged(t)
	p.call("POST", "/api/v1/controllers", map[string]any{"name": "Producer grid", "layout": "grid-6x4"}, nil)
	var d doc
	p.call("GET", "/api/v1/show", nil, &d)
	for _, control := range []string{"a1", "b1"} {
		p.call("PUT", "/api/v1/pages/"+d.Pages[0].ID+"/controls/"+control,
			map[string]any{"device": device, "action": "put-on-program", "params": map[string]string{"input": string(control[0] - 'a' + '1')}}, nil)
	}
	p.call("GET", "/api/v1/show", nil, &d)
	mapping := d.Mappings[0].ID

	random := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))
	acknowledged := ""
	for life := range kills(t) {
		labels := make(chan string, 10_000)
		go func() {
			defer close(labels)
			for i := 0; ; i++ {
				var now doc
				if !p.call("GET", "/api/v1/show", nil, &now) {
					return
				}
				label := fmt.Sprintf("life %d edit %d", life, i)
				for _, m := range now.Mappings {
					if m.ID == mapping && !p.call("PUT", "/api/v1/mappings/"+mapping, map[string]any{"rev": m.Rev, "name": "", "face": map[string]any{"label": label}}, nil) {
						return
					}
				}
				labels <- label
				p.call("POST", "/api/v1/input/producer-grid/"+[]string{"a1", "b1"}[i%2]+"/press", nil, nil)
			}
		}()
		acknowledged = <-labels // at least one
		time.Sleep(time.Duration(random.IntN(40)) * time.Millisecond)
		p.Kill()
		for label := range labels {
			acknowledged = label
		}
		before := commands(sw)

		p = p.again()
		var after doc
		if !p.call("GET", "/api/v1/show", nil, &after) {
			t.Fatal("it does not answer after a kill")
		}
		for _, m := range after.Mappings {
			if m.ID == mapping && !newer(m.Face.Label, acknowledged) {
				t.Fatalf("life %d: the label is %q, but %q was acknowledged", life, m.Face.Label, acknowledged)
			}
		}
		waitConnected(t, p)
		if got := commands(sw); got != before {
			t.Fatalf("life %d: after the restart the switcher got something:\n%s\nbefore:\n%s", life, got, before)
		}
	}
	p.Kill()
}

// newer tells whether a label is the acknowledged one, or the one after it,
// which was stored but not acknowledged any more.
func newer(label, acknowledged string) bool {
	var life, edit, ackLife, ackEdit int
	_, err1 := fmt.Sscanf(label, "life %d edit %d", &life, &edit)
	_, err2 := fmt.Sscanf(acknowledged, "life %d edit %d", &ackLife, &ackEdit)
	return err1 == nil && err2 == nil && life == ackLife && (edit == ackEdit || edit == ackEdit+1)
}

// commands lists the last messages that reached the switcher, but for the
// link's own.
func commands(sw *switcher.Server) string {
	var out []string
	for _, m := range sw.View().Recent {
		if !strings.Contains(m, "/follow") {
			out = append(out, m)
		}
	}
	if len(out) > 5 {
		out = out[len(out)-5:]
	}
	return strings.Join(out, "\n")
}

func waitConnected(t *testing.T, p *life) {
	t.Helper()
	// What it shows comes first, and the rest of its state some messages later.
	paths := []string{"mix/1/program", "mix/1/preview", "keyer/1/on", "keyer/2/on", "keyer/3/on", "mix/1/transition/frames"}
	for limit := time.Now().Add(10 * time.Second); time.Now().Before(limit); time.Sleep(5 * time.Millisecond) {
		var rows []struct{ Path, Quality string }
		known := 0
		if p.call("GET", "/api/v1/readings", nil, &rows) {
			for _, r := range rows {
				if r.Quality == "confirmed" && slices.Contains(paths, r.Path) {
					known++
				}
			}
		}
		if known == len(paths) {
			return
		}
	}
	t.Fatal("the switcher was not connected again")
}
