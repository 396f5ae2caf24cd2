// Package chat is the bench's chat and stream service: it takes messages and
// clip marks, and tells of follows and messages, over HTTP with a bearer token.
package chat

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"synaptor/internal/bench/panel"
	"synaptor/internal/bench/pictures"
	"synaptor/internal/core/device"
)

// Token lets a client in.
const Token = "perseids-2026"

const model = "Larkfell bench audience service, version 5.1"

type machine struct {
	v      *panel.Values
	events []panel.Happening
	clips  int
	night  *night // of the evening that goes on; nil: none does
}

func newMachine() panel.Machine {
	m := &machine{v: panel.NewValues()}
	m.v.Add("/viewers", 137)
	m.v.Add("/followers", 2210)
	m.v.Add("/messages", 0)
	m.v.Add("/last/who", "")
	m.v.Add("/last/text", "")
	m.v.Add("/slow", false)
	m.v.Add("/clip", "")
	m.v.Add(eveningOn, 0)
	m.v.Add(eveningSpeed, 1)
	m.v.Add(eveningAt, 0)
	m.v.Add("/model", model)
	return m
}

// Values implements panel.Machine.
func (m *machine) Values() *panel.Values { return m.v }

// Tick implements panel.Machine: only the evening goes on by itself.
func (m *machine) Tick(now time.Time) ([]device.Message, bool) {
	changed := m.moveEvening(now)
	return changed, m.night != nil
}

// Happened implements panel.Eventful.
func (m *machine) Happened() (all []panel.Happening) {
	all, m.events = m.events, nil
	return all
}

// Do implements panel.Machine. /say, /follow and the evening are done by the audience, on
// the front panel.
func (m *machine) Do(msg device.Message, now time.Time) ([]device.Message, error) {
	text, _ := panel.Arg(msg, 0).(string)
	switch msg.Address {
	case "/send":
		return m.message("Larkfell", text)
	case eveningOn, eveningSpeed:
		return m.doEvening(msg, now)
	case "/say":
		who, words, ok := strings.Cut(text, ": ")
		if !ok {
			who, words = "somebody", text
		}
		return m.message(who, words)
	case "/follow":
		if text == "" {
			return nil, fmt.Errorf("a follow needs a name")
		}
		m.events = append(m.events, panel.Happening{Name: "follow", Fields: about(text)})
		return []device.Message{m.v.Put("/followers", m.v.Int("/followers")+1)}, nil
	case "/clip":
		if len(text) > 80 {
			return nil, fmt.Errorf("the title of a clip has at most 80 bytes")
		}
		m.clips++
		name := fmt.Sprintf("Clip %d", m.clips)
		if text != "" {
			name += ": " + text
		}
		m.events = append(m.events, panel.Happening{Name: "clip", Fields: map[string]any{"title": name}})
		return []device.Message{m.v.Put("/clip", name)}, nil
	case "/slow", "/viewers":
		old, _ := m.v.Get(msg.Address)
		v, err := panel.Accept(msg.Address, old, panel.Arg(msg, 0), panel.Limits{Min: 0, Max: 1e6})
		if err != nil {
			return nil, err
		}
		return []device.Message{m.v.Put(msg.Address, v)}, nil
	}
	return nil, fmt.Errorf("%s cannot be set", msg.Address)
}

func (m *machine) message(who, text string) ([]device.Message, error) {
	if text = strings.TrimSpace(text); text == "" || len(text) > 300 {
		return nil, fmt.Errorf("a message has 1 to 300 bytes")
	}
	fields := about(who)
	fields["text"] = text
	m.events = append(m.events, panel.Happening{Name: "message", Fields: fields})
	return []device.Message{m.v.Put("/messages", m.v.Int("/messages")+1), m.v.Put("/last/who", who), m.v.Put("/last/text", text)}, nil
}

// about says who an event is about, with the name of a picture of those that have one: who is new has none.
func about(who string) map[string]any {
	fields := map[string]any{"who": who}
	if i := slices.Index(viewers, who); i >= 0 {
		fields["picture"] = "v" + strconv.Itoa(i+1)
	}
	return fields
}

// picture serves the picture of a viewer; anybody may see it.
func (s *Server) picture(w http.ResponseWriter, r *http.Request) {
	n, err := strconv.Atoi(strings.TrimPrefix(r.PathValue("picture"), "v"))
	if err != nil || n < 1 || n > len(viewers) || s.Faults().Silent {
		http.NotFound(w, r)
		return
	}
	pictures.Portrait(w, viewers[n-1])
}

// Server is the stand-in on its socket.
type Server struct {
	*panel.Core
	*panel.Web
	events *panel.Events
}

// Start listens on a TCP address, such as 127.0.0.1:7437. changed may be nil.
func Start(addr string, changed func()) (*Server, error) {
	// At its fastest the evening has six seconds between two looks at the clock: what happens in those has room in the streams.
	s := &Server{Core: panel.NewCore("chat", "Chat and stream service", 100*time.Millisecond, newMachine, changed)}
	e := panel.NewEvents(s.Core)
	s.events = e
	mux := http.NewServeMux()
	mux.Handle("GET /events", e)
	mux.HandleFunc("GET /status", e.Ask)
	mux.HandleFunc("GET /status/", e.Ask)
	mux.HandleFunc("POST /messages", s.post("/send", "text"))
	mux.HandleFunc("POST /clips", s.post("/clip", "title"))
	mux.HandleFunc("PUT /slow", e.Put)
	open := http.NewServeMux()
	open.Handle("/", e.Guard("Bearer", model, panel.Bearer(Token), mux))
	open.HandleFunc("GET /pictures/{picture}", s.picture)
	s.Web = panel.NewWeb(addr, open)
	e.Web = s.Web
	if err := s.Core.Start(s.Web); err != nil {
		return nil, fmt.Errorf("start the bench's chat and stream service: %w", err)
	}
	return s, nil
}

// post carries out a message whose text is a field of the body.
func (s *Server) post(address, field string) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		var body map[string]any
		b, err := io.ReadAll(io.LimitReader(r.Body, 1<<16))
		if err != nil || json.Unmarshal(b, &body) != nil {
			s.Refuse(w, http.StatusBadRequest, "the body is no JSON")
			return
		}
		text, _ := body[field].(string)
		s.events.Carry(w, r, device.Message{Address: address, Args: []any{text}})
	}
}
