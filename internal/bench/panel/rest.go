package panel

import (
	"crypto/subtle"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	"synaptor/internal/core/device"
)

// Events is an HTTP stand-in's stream of what happens, as Server-Sent Events:
// first the event state with everything, then change with what changed, and
// events by their name.
type Events struct {
	Core *Core
	Web  *Web
	subs map[chan []byte]bool // guarded by the core's lock
}

// NewEvents returns a stream nobody follows yet.
func NewEvents(c *Core) *Events {
	e := &Events{Core: c, subs: map[chan []byte]bool{}}
	c.mu.Lock()
	c.events = e
	c.mu.Unlock()
	return e
}

func encodeEvent(name string, v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	return fmt.Appendf(nil, "event: %s\ndata: %s\n\n", name, b)
}

// raise tells every follower of an event; the lock of the core is held.
func (e *Events) raise(name string, fields any) {
	if e.Core.faults.Silent {
		return
	}
	for s := range e.subs {
		select {
		case s <- encodeEvent(name, fields):
		default: // it does not read; its stream is about to end
		}
	}
}

// ServeHTTP serves the stream.
func (e *Events) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	flush, ok := w.(http.Flusher)
	if !ok {
		http.Error(w, "no streaming", http.StatusInternalServerError)
		return
	}
	out := make(chan outgoing, 1024)
	raised := make(chan []byte, 64)
	first := true
	tell := func(due time.Time, msgs []device.Message) {
		name := "change"
		if first {
			name, first = "state", false
		}
		select {
		case out <- outgoing{due, encodeEvent(name, Tree(msgs))}:
		default:
		}
	}
	e.Core.mu.Lock()
	e.subs[raised] = true
	e.Core.mu.Unlock()
	defer func() {
		e.Core.mu.Lock()
		delete(e.subs, raised)
		e.Core.mu.Unlock()
	}()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusOK)
	flush.Flush()
	f := e.Core.FollowAll(tell)
	defer e.Core.Leave(f)
	gone := make(chan struct{})
	defer e.Web.Track(func() { close(gone) })()
	for {
		var data []byte
		select {
		case o := <-out:
			time.Sleep(time.Until(o.due))
			data = o.data
		case data = <-raised:
		case <-r.Context().Done():
			return
		case <-gone:
			return
		}
		if _, err := w.Write(data); err != nil {
			return
		}
		flush.Flush()
	}
}

// Answer writes a JSON answer when it is due.
func (c *Core) Answer(w http.ResponseWriter, status int, v any) {
	time.Sleep(time.Until(c.Due()))
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(v) // a client that has gone misses it
}

// Refuse answers with a problem document (RFC 9457).
func (c *Core) Refuse(w http.ResponseWriter, status int, text string) {
	time.Sleep(time.Until(c.Due()))
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(map[string]any{"title": http.StatusText(status), "status": status, "detail": text})
}

// Hang leaves a request without an answer, as a silent device does, until the
// client or the cable goes.
func (e *Events) Hang(r *http.Request) {
	gone := make(chan struct{})
	defer e.Web.Track(func() { close(gone) })()
	select {
	case <-r.Context().Done():
	case <-gone:
	}
}

// Put serves requests that set a value: the path is its address, the body has a
// field value.
func (e *Events) Put(w http.ResponseWriter, r *http.Request) {
	var body struct {
		Value any `json:"value"`
	}
	b, err := io.ReadAll(io.LimitReader(r.Body, 1<<16))
	if err != nil || json.Unmarshal(b, &body) != nil {
		e.Core.Refuse(w, http.StatusBadRequest, "the body is no JSON with a value")
		return
	}
	e.Carry(w, r, device.Message{Address: r.URL.Path, Args: []any{body.Value}})
}

// Carry carries out a message that came as a request.
func (e *Events) Carry(w http.ResponseWriter, r *http.Request, m device.Message) {
	heard, err := e.Core.Handle(m)
	switch {
	case !heard:
		e.Hang(r)
	case err != nil:
		e.Core.Refuse(w, http.StatusUnprocessableEntity, err.Error())
	default:
		e.Core.Answer(w, http.StatusOK, map[string]bool{"ok": true})
	}
}

// Ask serves requests for one value, or for all at /status.
func (e *Events) Ask(w http.ResponseWriter, r *http.Request) {
	address := strings.TrimPrefix(r.URL.Path, "/status")
	heard, msgs := e.Core.Asked(address)
	switch {
	case !heard:
		e.Hang(r)
	case len(msgs) == 0:
		e.Core.Refuse(w, http.StatusNotFound, address+" is not known here")
	default:
		e.Core.Answer(w, http.StatusOK, Tree(msgs))
	}
}

// Bearer accepts requests that carry a token (RFC 6750, 2.1).
func Bearer(token string) func(*http.Request) bool {
	return func(r *http.Request) bool {
		given, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
		return ok && subtle.ConstantTimeCompare([]byte(given), []byte(token)) == 1
	}
}

// Guard lets requests through that allowed accepts, and names the realm to the
// others.
func (e *Events) Guard(scheme, realm string, allowed func(*http.Request) bool, next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		f := e.Core.Faults()
		switch {
		case f.Silent && r.URL.Path == "/events":
			e.Hang(r)
		case f.RefuseLogin || !allowed(r):
			w.Header().Set("WWW-Authenticate", fmt.Sprintf("%s realm=%q", scheme, realm))
			e.Core.Refuse(w, http.StatusUnauthorized, "sign in first")
		default:
			next.ServeHTTP(w, r)
		}
	})
}
