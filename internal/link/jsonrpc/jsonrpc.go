// Package jsonrpc speaks JSON-RPC 2.0 over WebSocket (RFC 6455). Where a sheet
// asks for it, it signs in by answering a challenge with an HMAC-SHA-256
// (RFC 2104) of it, so that the password never crosses the network.
package jsonrpc

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strconv"
	"sync"
	"time"

	"github.com/coder/websocket"

	"synaptor/internal/core/device"
	"synaptor/internal/link"
	"synaptor/internal/link/socket"
)

// MaxMessage is the largest message, in bytes, that is read.
//
//limit:bytes a JSON-RPC message | in the wire view
const MaxMessage = 1 << 20

// WebSocket is the driver.
type WebSocket struct{}

// Encode implements link.Driver. Each message becomes a request without its id,
// which it is given when it is sent; a line feed ends each.
func (WebSocket) Encode(msgs ...device.Message) ([]byte, error) {
	var out []byte
	for _, m := range msgs {
		if m.Address == "" {
			return nil, errors.New("encode JSON-RPC: a request needs a method")
		}
		b, err := json.Marshal(struct {
			Method string `json:"method"`
			Params any    `json:"params,omitempty"`
		}{m.Address, m.Body})
		if err != nil {
			return nil, fmt.Errorf("encode JSON-RPC: %w", err)
		}
		out = append(append(out, b...), '\n')
	}
	return out, nil
}

// Show implements link.Driver.
func (WebSocket) Show(payload []byte) []string {
	var out []string
	for _, b := range requests(payload) {
		var r Message
		if json.Unmarshal(b, &r) == nil {
			out = append(out, device.Message{Address: r.Method, Body: link.Body(r.Params)}.String())
		}
	}
	return out
}

func requests(payload []byte) [][]byte {
	return bytes.Split(bytes.TrimSuffix(payload, []byte{'\n'}), []byte{'\n'})
}

// Message is a request, a notification or an answer.
type Message struct {
	Version string          `json:"jsonrpc"`
	ID      *int64          `json:"id,omitempty"`
	Method  string          `json:"method,omitempty"`
	Params  json.RawMessage `json:"params,omitempty"`
	Result  json.RawMessage `json:"result,omitempty"`
	Error   *Error          `json:"error,omitempty"`
}

// Error is the error of an answer.
type Error struct {
	Code    int    `json:"code"`
	Message string `json:"message"`
}

// Dial implements link.Driver.
func (WebSocket) Dial(ctx context.Context, to link.Target) (link.Conn, error) {
	scheme := "ws"
	if to.Secure {
		scheme = "wss"
	}
	// A connection of its own: nothing is shared between devices, and nothing
	// that was sent outlives a command.
	transport := &http.Transport{DisableKeepAlives: true, DialContext: func(ctx context.Context, _, _ string) (net.Conn, error) {
		return socket.Dial(ctx, to.Host, to.Port, to.Stale)
	}}
	url := scheme + "://" + net.JoinHostPort(to.Host, strconv.Itoa(to.Port)) + to.Link.Path
	ws, _, err := websocket.Dial(ctx, url, &websocket.DialOptions{HTTPClient: &http.Client{Transport: transport}, CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return nil, link.Reached(err)
	}
	ws.SetReadLimit(MaxMessage)
	c := &conn{ws: ws, pending: map[int64]request{}}
	c.ctx, c.cancel = context.WithCancel(context.Background())
	if login := to.Link.Login; login != nil && login.Kind == "challenge" {
		if err := c.login(ctx, login, to); err != nil {
			_ = c.Close()
			return nil, err
		}
	}
	return c, nil
}

// greeting is what a device says before it lets anybody in.
type greeting struct {
	Challenge string `json:"challenge"`
	Model     string `json:"model"`
}

// login answers the challenge.
func (c *conn) login(ctx context.Context, spec *device.LoginSpec, to link.Target) error {
	var m Message
	if err := c.next(ctx, &m); err != nil {
		return err
	}
	var g greeting
	if m.Method != spec.Greeting || json.Unmarshal(m.Params, &g) != nil || g.Challenge == "" {
		return link.ErrForeign
	}
	if to.Password == "" {
		return &link.AuthError{Text: "it needs a password, and none is set", Found: g.Model}
	}
	payload, err := WebSocket{}.Encode(device.Message{Address: spec.Method, Body: map[string]any{"answer": Answer(to.Password, g.Challenge)}})
	if err != nil {
		return err
	}
	if err := c.send(ctx, payload, 0); err != nil {
		return err
	}
	for {
		var m Message
		if err := c.next(ctx, &m); err != nil {
			return err
		}
		if m.ID == nil {
			continue
		}
		delete(c.pending, *m.ID)
		if m.Error != nil {
			return &link.AuthError{Text: "the password is wrong", Found: g.Model}
		}
		return nil
	}
}

// Answer is the answer to a challenge: the HMAC-SHA-256 of it under the
// password, in hexadecimal.
func Answer(password, challenge string) string {
	h := hmac.New(sha256.New, []byte(password))
	h.Write([]byte(challenge))
	return hex.EncodeToString(h.Sum(nil))
}

func (c *conn) next(ctx context.Context, m *Message) error {
	_, data, err := c.ws.Read(ctx)
	if err != nil {
		return link.Reached(err)
	}
	if json.Unmarshal(data, m) != nil {
		return link.ErrForeign
	}
	return nil
}

type conn struct {
	ws     *websocket.Conn
	ctx    context.Context
	cancel context.CancelFunc

	mu      sync.Mutex
	id      int64
	pending map[int64]request
}

// request is one that waits for its answer.
type request struct {
	command uint64
	method  string
}

// Read implements link.Conn.
func (c *conn) Read() (link.Batch, error) {
	_, data, err := c.ws.Read(c.ctx)
	if err != nil {
		if websocket.CloseStatus(err) == websocket.StatusMessageTooBig {
			return link.Batch{}, link.Problem(fmt.Sprintf("It sent a message of more than %d bytes.", MaxMessage))
		}
		return link.Batch{}, link.Reached(err)
	}
	return c.understand(data)
}

// understand reads one message of a device.
func (c *conn) understand(data []byte) (link.Batch, error) {
	var m Message
	if err := json.Unmarshal(data, &m); err != nil {
		return link.Batch{}, &link.BadInput{Err: fmt.Errorf("a message is no JSON-RPC: %w", err)}
	}
	if m.Method != "" {
		return link.Batch{Messages: []device.Message{{Address: m.Method, Body: link.Body(m.Params)}}}, nil
	}
	if m.ID == nil {
		return link.Batch{}, &link.BadInput{Err: errors.New("a message is neither an answer nor a notification")}
	}
	c.mu.Lock()
	r, known := c.pending[*m.ID]
	delete(c.pending, *m.ID)
	c.mu.Unlock()
	switch {
	case !known:
		return link.Batch{}, &link.BadInput{Err: fmt.Errorf("an answer to %d, which was not asked", *m.ID)}
	case m.Error != nil && r.command == 0:
		return link.Batch{}, &link.BadInput{Err: fmt.Errorf("%s was refused: %s", r.method, m.Error.Message)}
	case m.Error != nil:
		return link.Batch{Answers: []link.Answer{{Command: r.command, Text: m.Error.Message}}}, nil
	}
	b := link.Batch{Messages: []device.Message{{Address: r.method, Body: link.Body(m.Result)}}}
	if r.command != 0 {
		b.Answers = []link.Answer{{Command: r.command, OK: true, Text: link.Short(m.Result)}}
	}
	return b, nil
}

// Write implements link.Conn. A connection that cannot take a message before
// its deadline is lost.
func (c *conn) Write(payload []byte, command uint64, deadline time.Time) error {
	ctx, cancel := context.WithDeadline(c.ctx, deadline)
	defer cancel()
	return c.send(ctx, payload, command)
}

func (c *conn) send(ctx context.Context, payload []byte, command uint64) error {
	for _, r := range requests(payload) {
		var m Message
		if err := json.Unmarshal(r, &m); err != nil {
			return err
		}
		c.mu.Lock()
		c.id++
		id := c.id
		if len(c.pending) > 10_000 {
			clear(c.pending) // it answers nothing; the link will find out
		}
		c.pending[id] = request{command, m.Method}
		c.mu.Unlock()
		data := fmt.Appendf(nil, `{"jsonrpc":"2.0","id":%d,%s`, id, r[1:])
		if err := c.ws.Write(ctx, websocket.MessageText, data); err != nil {
			return err
		}
	}
	return nil
}

// TryWrite implements link.Conn: a WebSocket's write may wait.
func (c *conn) TryWrite([]byte, uint64) (ok bool, err error) { return false, nil }

// Close implements link.Conn.
func (c *conn) Close() error {
	c.cancel()
	return c.ws.CloseNow()
}
