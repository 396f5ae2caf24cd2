package app_test

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"github.com/coder/websocket"

	"synaptor/internal/bridge/check"
	"synaptor/internal/wire"
)

// packet is a message on its way.
type packet struct {
	kind websocket.MessageType
	data []byte
}

// mistakes are what a double does wrong: with what Synaptor says, and with what the bridge says. The state is of one connection.
type mistakes struct {
	down, up func(p packet, state map[string]any) []packet
	stays    bool // it does not end when Synaptor does
	large    bool // it takes messages of any size, and swallows the large ones
	greedy   bool // it acknowledges every face itself
}

// object changes a message of a type.
func object(kind string, change func(m map[string]any)) func(packet, map[string]any) []packet {
	return func(p packet, _ map[string]any) []packet {
		var m map[string]any
		if p.kind != websocket.MessageText || json.Unmarshal(p.data, &m) != nil || m["type"] != kind {
			return []packet{p}
		}
		change(m)
		raw, err := json.Marshal(m)
		if err != nil {
			panic(err)
		}
		return []packet{{p.kind, raw}}
	}
}

// drop leaves out messages of a type.
func drop(kind string, which func(m map[string]any) bool) func(packet, map[string]any) []packet {
	return func(p packet, _ map[string]any) []packet {
		var m map[string]any
		if p.kind == websocket.MessageText && json.Unmarshal(p.data, &m) == nil && m["type"] == kind && (which == nil || which(m)) {
			return nil
		}
		return []packet{p}
	}
}

func board0(m map[string]any) map[string]any {
	return m["controllers"].([]any)[0].(map[string]any)
}

// shows changes what the bridge says that its controls show.
func shows(change func(s map[string]any)) func(packet, map[string]any) []packet {
	return object("hello", func(m map[string]any) {
		if all, is := m["controllers"].([]any); is && len(all) > 0 {
			for _, s := range all[0].(map[string]any)["shows"].(map[string]any) {
				change(s.(map[string]any))
			}
		}
	})
}

// seeded are the mistakes of the double, each with a part of the rule that has to find it.
var seeded = map[string]struct {
	mistakes
	rule string
}{
	"another version":        {mistakes{down: object("welcome", func(m map[string]any) { m["version"] = 1 })}, "welcome of its version"},
	"no resume":              {mistakes{down: object("welcome", func(m map[string]any) { m["resume"] = "" })}, "what resumes it"},
	"no window":              {mistakes{down: object("welcome", func(m map[string]any) { m["window"] = 0 })}, "rhythm of the heartbeat"},
	"names nobody":           {mistakes{down: object("welcome", func(m map[string]any) { m["controllers"] = []any{} })}, "names each controller"},
	"no reason":              {mistakes{down: object("welcome", func(m map[string]any) { delete(board0(m), "reason") })}, "why it is none"},
	"takes any version":      {mistakes{up: object("hello", func(m map[string]any) { m["version"] = 2 })}, "version of the future"},
	"says no versions":       {mistakes{down: object("refused", func(m map[string]any) { m["versions"] = []any{} })}, "version of the future"},
	"goes on after refusing": {mistakes{stays: true}, "does not begin with a hello"},
	"names any bridge":       {mistakes{up: object("hello", func(m map[string]any) { m["bridge"] = "x" })}, "without a name"},
	"no heartbeat":           {mistakes{down: drop("beat", nil)}, "every second"},
	"a face is missing":      {mistakes{down: drop("face", func(m map[string]any) bool { return m["control"] == "c2" })}, "numbered one after the other"},
	"numbers are left out": {mistakes{down: object("face", func(m map[string]any) {
		if n, has := m["seq"].(float64); has && n > 4 {
			m["seq"] = n + 1
		}
	})}, "numbered one after the other"},
	"pictures come late": {mistakes{down: func(p packet, state map[string]any) []packet {
		if p.kind == websocket.MessageBinary {
			state["late"] = p
			return nil
		}
		late, has := state["late"].(packet)
		if !has || !bytes.Contains(p.data, []byte(`"type":"face"`)) {
			return []packet{p}
		}
		delete(state, "late")
		return []packet{p, late}
	}}, "before the face"},
	"another hash": {mistakes{down: func(p packet, _ map[string]any) []packet {
		if p.kind == websocket.MessageBinary {
			p.data = bytes.Clone(p.data)
			p.data[0] ^= 1
		}
		return []packet{p}
	}}, "that of its hash"},
	"pictures come twice": {mistakes{down: func(p packet, _ map[string]any) []packet {
		if p.kind == websocket.MessageBinary {
			return []packet{p, p}
		}
		return []packet{p}
	}}, "and once"},
	"another size": {mistakes{up: shows(func(s map[string]any) {
		if s["picture"] == "png" {
			s["width"] = 41
		}
	})}, "has the size"},
	"another format": {mistakes{up: shows(func(s map[string]any) {
		if s["picture"] == "rgb565" {
			s["picture"] = "png"
		}
	})}, "two bytes a pixel"},
	"no lost faces": {mistakes{down: drop("face", func(m map[string]any) bool { return m["lost"] == true })}, "when Synaptor is lost"},
	"lost faces count": {mistakes{down: object("face", func(m map[string]any) {
		if m["lost"] == true {
			m["seq"] = 3
		}
	})}, "without a number"},
	"no window is kept": {mistakes{greedy: true}, "than the window"},
	"another colour":    {mistakes{down: object("face", func(m map[string]any) { m["colour"] = "#123456" })}, "one of its colours"},
	"cells that are cut": {mistakes{down: object("face", func(m map[string]any) {
		if m["cells"] != nil {
			m["cells"] = []string{"too long for it"}
		}
	})}, "room for what is in them"},
	"the first as the second": {mistakes{up: object("hello", func(m map[string]any) {
		if m["version"] == 1.0 {
			m["version"] = 2
		}
	})}, "in the faces"},
	"swallows errors":          {mistakes{down: drop("error", nil)}, "message that is none"},
	"says nothing with errors": {mistakes{down: object("error", func(m map[string]any) { m["text"] = " " })}, "not known is an error"},
	"numbers are made anew": {mistakes{up: func(p packet, state map[string]any) []packet {
		return object("down", func(m map[string]any) { n, _ := state["n"].(int); state["n"] = n + 1; m["seq"] = n + 1 })(p, state)
	}}, "older than the last"},
	"minds what it does not know": {mistakes{down: nil, up: func(p packet, state map[string]any) []packet {
		if bytes.Contains(p.data, []byte(`"colour":"blue"`)) {
			return []packet{{websocket.MessageText, []byte(`{"type":"blue"}`)}}
		}
		return []packet{p}
	}}, "are ignored"},
	"shares a serial number": {mistakes{up: func(p packet, state map[string]any) []packet {
		return object("hello", func(m map[string]any) {
			if m["bridge"] == "Check too" {
				board0(m)["serial"] = "another"
			}
		})(p, state)
	}}, "second bridge"},
	"forgets what resumes": {mistakes{up: object("hello", func(m map[string]any) { delete(m, "resume") })}, "resumes"},
	"takes anything":       {mistakes{large: true}, "too large"},
}

// double is a Synaptor that makes mistakes: it passes on what a real one says.
func double(t *testing.T, real string, m mistakes) string {
	t.Helper()
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		near, err := websocket.Accept(w, req, nil)
		if err != nil {
			return
		}
		defer func() { _ = near.CloseNow() }()
		far, _, err := websocket.Dial(req.Context(), real, nil)
		if err != nil {
			return
		}
		defer func() { _ = far.CloseNow() }()
		far.SetReadLimit(16 << 20)
		near.SetReadLimit(wire.MaxMessage)
		if m.large {
			near.SetReadLimit(-1)
		}
		ctx, cancel := context.WithCancel(req.Context())
		defer cancel()
		var writes sync.Mutex
		pass := func(from, to *websocket.Conn, change func(packet, map[string]any) []packet) {
			state := map[string]any{}
			for {
				kind, data, err := from.Read(ctx)
				if err != nil {
					return
				}
				if m.large && len(data) > wire.MaxMessage {
					continue
				}
				out := []packet{{kind, data}}
				if change != nil {
					out = change(out[0], state)
				}
				if m.greedy && from == far && bytes.Contains(data, []byte(`"type":"face"`)) {
					writes.Lock()
					_ = far.Write(ctx, websocket.MessageText, []byte(`{"type":"ack","seq":1000000}`)) // it ends with the connection
					writes.Unlock()
				}
				for _, p := range out {
					writes.Lock()
					err := to.Write(ctx, p.kind, p.data)
					writes.Unlock()
					if err != nil {
						return
					}
				}
			}
		}
		var both sync.WaitGroup
		both.Go(func() { pass(near, far, m.up); cancel() })
		both.Go(func() {
			pass(far, near, m.down)
			if !m.stays {
				cancel()
			}
		})
		both.Wait()
	}))
	t.Cleanup(srv.Close)
	return "ws" + strings.TrimPrefix(srv.URL, "http")
}

// TestTheCheckerPassesSynaptorAndFindsEachMistakeOfADouble.
func TestTheCheckerPassesSynaptorAndFindsEachMistakeOfADouble(t *testing.T) {
	r := start(t).ready()
	real := "ws" + strings.TrimPrefix(r.base, "http") + "/api/v1/wire"
	for _, res := range check.All(context.Background(), real, "") {
		if res.Err != nil {
			t.Errorf("%s: %v", res.Rule, res.Err)
		}
	}
	if len(seeded) < 20 {
		t.Fatalf("there are %d mistakes", len(seeded))
	}
	for name, s := range seeded {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			found := ""
			for _, res := range check.Some(context.Background(), double(t, real, s.mistakes), s.rule) {
				if res.Err != nil {
					found = res.Rule
				}
			}
			if found == "" {
				t.Errorf("the rule of %q does not find it", s.rule)
			}
		})
	}
}
