package panel

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"encoding/json"
	"net/http"
	"strings"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/device"
	"synaptor/internal/link/jsonrpc"
)

// RPC serves a stand-in in JSON-RPC 2.0 over WebSocket: "state" has everything told and follows, "ask" tells one value, "set" sets one.
type RPC struct {
	Core *Core
	Web  *Web
	// Model is what it greets with, Password what lets a client in; empty: everybody is in.
	Model, Password string
	// Methods are those besides, by name.
	Methods map[string]Method
}

// Method is a method of a stand-in's own: the address that it is carried out at, and the fields of its parameters in the order of the arguments.
type Method struct {
	Address string
	Takes   []string
}

// ServeHTTP serves one WebSocket: first the challenge, then requests.
func (s *RPC) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	ws, err := websocket.Accept(w, r, nil)
	if err != nil {
		return // Accept has answered
	}
	defer s.Web.Track(func() { _ = ws.CloseNow() })()
	defer func() { _ = ws.CloseNow() }()
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	out := NewOutbox(func(b []byte) error { return ws.Write(ctx, websocket.MessageText, b) }, func() { _ = ws.CloseNow() })
	defer out.Close()
	send := func(m jsonrpc.Message) {
		m.Version = "2.0"
		if b, err := json.Marshal(m); err == nil {
			out.Send(s.Core.Due(), b)
		}
	}
	challenge := rand.Text()
	if !s.Core.Faults().Silent {
		send(notification("doorbell", map[string]string{"challenge": challenge, "model": s.Model}))
	}
	c := &client{RPC: s, send: send, challenge: challenge, in: s.Password == ""}
	defer func() { s.Core.Leave(c.following) }()
	for {
		_, data, err := ws.Read(ctx)
		if err != nil {
			return
		}
		c.take(data, func(due time.Time, msgs []device.Message) {
			b, err := json.Marshal(withVersion(notification("changed", Tree(msgs))))
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
	*RPC
	send      func(jsonrpc.Message)
	challenge string
	in        bool // it has signed in
	following *Follower
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
	p := map[string]any{}
	if len(m.Params) > 0 && json.Unmarshal(m.Params, &p) != nil {
		c.fail(m.ID, badParams, "the parameters of "+m.Method+" make no sense")
		return
	}
	path, _ := p["path"].(string)
	address := "/" + strings.TrimPrefix(path, "/")
	own, has := c.Methods[m.Method]
	switch {
	case m.Method == "enter":
		answer, _ := p["answer"].(string)
		c.login(m.ID, answer)
	case !c.in:
		c.fail(m.ID, badRequest, "sign in first")
	case m.Method == "state":
		c.Core.Leave(c.following)
		c.following = c.Core.Follow(tell) // first, so that no change falls in between
		c.state(m.ID, "")
	case m.Method == "ask":
		c.state(m.ID, address)
	case m.Method == "set":
		c.do(m.ID, device.Message{Address: address, Args: []any{p["value"], p["over"]}})
	case has:
		do := device.Message{Address: own.Address}
		for _, field := range own.Takes {
			do.Args = append(do.Args, p[field])
		}
		c.do(m.ID, do)
	default:
		c.fail(m.ID, badRequest, "there is no method "+m.Method)
	}
}

func (c *client) login(id *int64, answer string) {
	f := c.Core.Faults()
	if f.Silent {
		return
	}
	if f.RefuseLogin || !hmac.Equal([]byte(answer), []byte(jsonrpc.Answer(c.Password, c.challenge))) {
		c.fail(id, badRequest, "the password is wrong")
		return
	}
	c.in = true
	c.send(jsonrpc.Message{ID: id, Result: json.RawMessage(`true`)})
}

func (c *client) state(id *int64, address string) {
	heard, msgs := c.Core.Asked(address)
	if !heard {
		return
	}
	b, err := json.Marshal(Tree(msgs))
	if err != nil {
		c.fail(id, badRequest, err.Error())
		return
	}
	c.send(jsonrpc.Message{ID: id, Result: b})
}

func (c *client) do(id *int64, m device.Message) {
	heard, err := c.Core.Handle(m)
	switch {
	case !heard:
	case err != nil:
		c.fail(id, badParams, err.Error())
	default:
		c.send(jsonrpc.Message{ID: id, Result: json.RawMessage(`true`)})
	}
}

func (c *client) fail(id *int64, code int, text string) {
	if c.Core.Faults().Silent {
		return
	}
	c.send(jsonrpc.Message{ID: id, Error: &jsonrpc.Error{Code: code, Message: text}})
}
