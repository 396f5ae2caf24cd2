package streaming

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/pictures"
	"synaptor/internal/core/device"
	"synaptor/internal/link/jsonrpc"
)

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
}

// Start listens on a TCP address, such as 127.0.0.1:7430. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	s := &Server{Core: panel.NewCore("streaming", "Streaming software", 20*time.Millisecond, newMachine, changed)}
	mux := http.NewServeMux()
	mux.HandleFunc("/control", s.control)
	mux.HandleFunc("/picture/scene/{scene}", func(w http.ResponseWriter, r *http.Request) {
		scene := r.PathValue("scene")
		for _, set := range sets {
			for _, sc := range set.scenes {
				if sc[0] == scene {
					pictures.Serve(w, pictures.Kind(sc[1]), sc[1])
					return
				}
			}
		}
		http.NotFound(w, r)
	})
	s.Web = panel.NewWeb(addr, mux)
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's streaming software: %w", err)
	}
	return s, nil
}

// control serves one WebSocket: first the challenge, then requests.
func (s *Server) control(w http.ResponseWriter, r *http.Request) {
	ws, err := websocket.Accept(w, r, nil)
	if err != nil {
		return // Accept has answered
	}
	defer s.Track(func() { _ = ws.CloseNow() })()
	defer func() { _ = ws.CloseNow() }()
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	out := panel.NewOutbox(func(b []byte) error { return ws.Write(ctx, websocket.MessageText, b) }, func() { _ = ws.CloseNow() })
	defer out.Close()
	send := func(m jsonrpc.Message) {
		m.Version = "2.0"
		if b, err := json.Marshal(m); err == nil {
			out.Send(s.Due(), b)
		}
	}
	challenge := rand.Text()
	if !s.Faults().Silent {
		send(notification("doorbell", map[string]string{"challenge": challenge, "model": model}))
	}
	c := &client{server: s, send: send, challenge: challenge}
	defer func() { s.Leave(c.following) }()
	for {
		_, data, err := ws.Read(ctx)
		if err != nil {
			return
		}
		c.take(data, func(due time.Time, msgs []device.Message) {
			b, err := json.Marshal(withVersion(notification("changed", panel.Tree(msgs))))
			if err == nil {
				out.Send(due, b)
			}
		})
	}
}

func withVersion(m jsonrpc.Message) jsonrpc.Message {
	m.Version = "2.0"
	return m
}

func notification(method string, params any) jsonrpc.Message {
	b, _ := json.Marshal(params) // texts and numbers cannot fail
	return jsonrpc.Message{Method: method, Params: b}
}

// client is one that has connected.
type client struct {
	server    *Server
	send      func(jsonrpc.Message)
	challenge string
	in        bool // it has signed in
	following *panel.Follower
}

// The error codes of JSON-RPC 2.0, section 5.1.
const (
	badJSON    = -32700
	badRequest = -32600
	badParams  = -32602
)

// take answers one message. Nonsense is answered and ends nothing.
func (c *client) take(data []byte, tell func(time.Time, []device.Message)) {
	var m jsonrpc.Message
	if err := json.Unmarshal(data, &m); err != nil {
		c.fail(nil, badJSON, "this is not JSON-RPC: "+err.Error())
		return
	}
	if m.Method == "" || m.ID == nil {
		c.fail(m.ID, badRequest, "a request needs a method and an id")
		return
	}
	var p struct {
		Answer string `json:"answer"`
		Path   string `json:"path"`
		Value  any    `json:"value"`
	}
	if len(m.Params) > 0 && json.Unmarshal(m.Params, &p) != nil {
		c.fail(m.ID, badParams, "the parameters of "+m.Method+" make no sense")
		return
	}
	switch {
	case m.Method == "enter":
		c.login(m.ID, p.Answer)
	case !c.in:
		c.fail(m.ID, badRequest, "sign in first")
	case m.Method == "state":
		c.server.Leave(c.following)
		c.following = c.server.Follow(tell) // first, so that no change falls in between
		c.state(m.ID, "")
	case m.Method == "ask":
		c.state(m.ID, "/"+strings.TrimPrefix(p.Path, "/"))
	case m.Method == "set":
		c.do(m.ID, device.Message{Address: "/" + strings.TrimPrefix(p.Path, "/"), Args: []any{p.Value}})
	case m.Method == "lookback.save":
		c.do(m.ID, device.Message{Address: "/lookback/save"})
	default:
		c.fail(m.ID, badRequest, "there is no method "+m.Method)
	}
}

func (c *client) login(id *int64, answer string) {
	f := c.server.Faults()
	if f.Silent {
		return
	}
	if f.RefuseLogin || !hmac.Equal([]byte(answer), []byte(jsonrpc.Answer(Password, c.challenge))) {
		c.fail(id, badRequest, "the password is wrong")
		return
	}
	c.in = true
	c.send(jsonrpc.Message{ID: id, Result: json.RawMessage(`true`)})
}

func (c *client) state(id *int64, address string) {
	heard, msgs := c.server.Asked(address)
	if !heard {
		return
	}
	b, err := json.Marshal(panel.Tree(msgs))
	if err != nil {
		c.fail(id, badRequest, err.Error())
		return
	}
	c.send(jsonrpc.Message{ID: id, Result: b})
}

func (c *client) do(id *int64, m device.Message) {
	heard, err := c.server.Handle(m)
	switch {
	case !heard:
	case err != nil:
		c.fail(id, badParams, err.Error())
	default:
		c.send(jsonrpc.Message{ID: id, Result: json.RawMessage(`true`)})
	}
}

func (c *client) fail(id *int64, code int, text string) {
	if c.server.Faults().Silent {
		return
	}
	c.send(jsonrpc.Message{ID: id, Error: &jsonrpc.Error{Code: code, Message: text}})
}
