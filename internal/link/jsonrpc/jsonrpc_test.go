package jsonrpc

import (
	"context"
	"encoding/json"
	"errors"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
)

// serve runs a WebSocket server that does as it is told with each connection.
func serve(t *testing.T, f func(context.Context, *websocket.Conn)) link.Target {
	t.Helper()
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ws, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		defer func() { _ = ws.CloseNow() }()
		f(r.Context(), ws)
	}))
	t.Cleanup(s.Close)
	return target(t, s.Listener.Addr())
}

func target(t *testing.T, a net.Addr) link.Target {
	t.Helper()
	return link.Target{Host: "127.0.0.1", Port: a.(*net.TCPAddr).Port, Stale: time.Second, Link: &device.LinkSpec{}}
}

func say(ctx context.Context, ws *websocket.Conn, text string) {
	_ = ws.Write(ctx, websocket.MessageText, []byte(text))
}

func dial(t *testing.T, to link.Target) (link.Conn, error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	c, err := WebSocket{}.Dial(ctx, to)
	if err == nil {
		t.Cleanup(func() { _ = c.Close() })
	}
	return c, err
}

func TestRequestsAreAnsweredByTheirIds(t *testing.T) {
	to := serve(t, func(ctx context.Context, ws *websocket.Conn) {
		for {
			_, data, err := ws.Read(ctx)
			if err != nil {
				return
			}
			var m Message
			_ = json.Unmarshal(data, &m)
			id, _ := json.Marshal(m.ID)
			if m.Method == "bad" {
				say(ctx, ws, `{"jsonrpc":"2.0","id":`+string(id)+`,"error":{"code":1,"message":"no such scene"}}`)
			} else {
				say(ctx, ws, `{"jsonrpc":"2.0","method":"changed","params":{"a":1}}`)
				say(ctx, ws, `{"jsonrpc":"2.0","id":`+string(id)+`,"result":{"b":2}}`)
			}
		}
	})
	c, err := dial(t, to)
	if err != nil {
		t.Fatal(err)
	}
	send := func(method string, command uint64) {
		p, err := WebSocket{}.Encode(device.Message{Address: method, Body: map[string]any{"x": "y"}})
		if err == nil {
			err = c.Write(p, command, time.Now().Add(time.Second))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	send("good", 7)
	if b, err := c.Read(); err != nil || b.Messages[0].Address != "changed" || len(b.Answers) != 0 {
		t.Errorf("a notification is %+v (%v)", b, err)
	}
	if b, err := c.Read(); err != nil || b.Messages[0].Address != "good" || len(b.Answers) != 1 || !b.Answers[0].OK || b.Answers[0].Command != 7 {
		t.Errorf("an answer is %+v (%v)", b, err)
	}
	send("bad", 8)
	if b, err := c.Read(); err != nil || len(b.Answers) != 1 || b.Answers[0].OK || b.Answers[0].Text != "no such scene" || b.Answers[0].Command != 8 {
		t.Errorf("a refusal is %+v (%v)", b, err)
	}
	send("bad", 0)
	var bad *link.BadInput
	if _, err := c.Read(); !errors.As(err, &bad) {
		t.Errorf("a refusal of the link's own request is %v", err)
	}
}

func TestNonsenseLeavesTheConnectionUsable(t *testing.T) {
	nonsense := []string{"{", "[]", `{"jsonrpc":"2.0"}`, `{"id":99,"result":1}`, `"text"`, `{"id":"x","result":1}`}
	to := serve(t, func(ctx context.Context, ws *websocket.Conn) {
		for _, n := range nonsense {
			say(ctx, ws, n)
		}
		say(ctx, ws, `{"jsonrpc":"2.0","method":"fine"}`)
		_, _, _ = ws.Read(ctx)
	})
	c, err := dial(t, to)
	if err != nil {
		t.Fatal(err)
	}
	for _, n := range nonsense {
		var bad *link.BadInput
		if b, err := c.Read(); !errors.As(err, &bad) {
			t.Errorf("%s was read as %+v (%v)", n, b, err)
		}
	}
	if b, err := c.Read(); err != nil || b.Messages[0].Address != "fine" {
		t.Errorf("then %+v (%v)", b, err)
	}
}

func TestAMessageThatIsTooLargeEndsTheConnectionWithAReason(t *testing.T) {
	to := serve(t, func(ctx context.Context, ws *websocket.Conn) {
		say(ctx, ws, `{"jsonrpc":"2.0","method":"x","params":"`+strings.Repeat("x", MaxMessage)+`"}`)
		_, _, _ = ws.Read(ctx)
	})
	c, err := dial(t, to)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := c.Read(); err == nil {
		t.Error("it was read")
	}
}

func TestTheChallengeIsAnsweredAndAWrongPasswordIsSaid(t *testing.T) {
	to := serve(t, func(ctx context.Context, ws *websocket.Conn) {
		say(ctx, ws, `{"jsonrpc":"2.0","method":"hello","params":{"challenge":"c0ffee","model":"Larkfell"}}`)
		_, data, err := ws.Read(ctx)
		if err != nil {
			return
		}
		var m struct {
			ID     int64
			Params struct{ Answer string }
		}
		_ = json.Unmarshal(data, &m)
		if m.Params.Answer == Answer("perseids", "c0ffee") {
			say(ctx, ws, `{"jsonrpc":"2.0","id":1,"result":true}`)
		} else {
			say(ctx, ws, `{"jsonrpc":"2.0","id":1,"error":{"code":1,"message":"no"}}`)
		}
		_, _, _ = ws.Read(ctx)
	})
	to.Link = &device.LinkSpec{Login: &device.LoginSpec{Kind: "challenge", Greeting: "hello", Method: "login"}}
	for password, want := range map[string]string{"perseids": "", "leonids": "wrong", "": "none is set"} {
		to.Password = password
		_, err := dial(t, to)
		var auth *link.AuthError
		switch {
		case want == "" && err != nil:
			t.Errorf("the right password: %v", err)
		case want != "" && (!errors.As(err, &auth) || !strings.Contains(auth.Text, want) || auth.Found != "Larkfell"):
			t.Errorf("%q: %v", password, err)
		}
	}
	// The known answer of RFC 4231, test case 2, for the HMAC itself.
	if got := Answer("Jefe", "what do ya want for nothing?"); got != "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843" {
		t.Errorf("HMAC-SHA-256 gives %s", got)
	}
}

func TestSomethingElseIsRecognised(t *testing.T) {
	web := httptest.NewServer(http.NotFoundHandler())
	defer web.Close()
	if _, err := dial(t, target(t, web.Listener.Addr())); !errors.Is(err, link.ErrForeign) {
		t.Errorf("a web server: %v", err)
	}
	to := serve(t, func(ctx context.Context, ws *websocket.Conn) { say(ctx, ws, "welcome"); _, _, _ = ws.Read(ctx) })
	to.Link = &device.LinkSpec{Login: &device.LoginSpec{Kind: "challenge", Greeting: "hello", Method: "login"}}
	if _, err := dial(t, to); !errors.Is(err, link.ErrForeign) {
		t.Errorf("another greeting: %v", err)
	}
}

// FuzzUnderstand feeds arbitrary messages of a device.
func FuzzUnderstand(f *testing.F) {
	f.Add([]byte(`{"jsonrpc":"2.0","id":1,"result":{}}`))
	f.Add([]byte(`{"jsonrpc":"2.0","method":"x","params":[1,{"a":null}]}`))
	f.Add([]byte(`{"id":1,"error":{"code":-1,"message":"x"}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		c := &conn{pending: map[int64]request{1: {5, "m"}}}
		b, err := c.understand(data)
		var bad *link.BadInput
		if err != nil && !errors.As(err, &bad) {
			t.Errorf("nonsense ends the connection: %v", err)
		}
		for _, m := range b.Messages {
			_ = m.String()
		}
	})
}
