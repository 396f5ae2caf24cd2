package truth

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"
)

// live is a client of Synaptor's live feed: what it says now.
type live struct {
	ws *websocket.Conn

	seq int // of what was sent

	mu     sync.Mutex
	values map[string]json.RawMessage
	errors int           // that it was told
	moved  chan struct{} // closed when something was said
}

func follow(w *world, addr string, topics ...string) *live {
	ctx, cancel := context.WithCancel(context.Background())
	w.Cleanup(cancel)
	ws, _, err := websocket.Dial(ctx, "ws://"+addr+"/api/v1/live", nil)
	w.ok(err)
	ws.SetReadLimit(16 << 20)
	l := &live{ws: ws, values: map[string]json.RawMessage{}, moved: make(chan struct{})}
	l.say(w, map[string]any{"topics": topics})
	go func() {
		for {
			_, data, err := ws.Read(ctx)
			if err != nil {
				return
			}
			var m struct {
				Type   string
				Values map[string]json.RawMessage
			}
			if json.Unmarshal(data, &m) != nil {
				continue
			}
			l.mu.Lock()
			if m.Type == "error" {
				l.errors++
			}
			for k, v := range m.Values {
				l.values[k] = v
			}
			close(l.moved)
			l.moved = make(chan struct{})
			l.mu.Unlock()
		}
	}()
	return l
}

// say sends a message to Synaptor.
func (l *live) say(w *world, m any) {
	raw, err := json.Marshal(m)
	w.ok(err)
	w.ok(l.ws.Write(context.Background(), websocket.MessageText, raw))
}

// until waits until a condition holds; false when it did not within the limit.
func (l *live) until(limit time.Duration, holds func() bool) bool {
	late := time.After(limit)
	now := time.NewTicker(10 * time.Millisecond) // the witnesses hear things, too
	defer now.Stop()
	for {
		l.mu.Lock()
		moved := l.moved
		l.mu.Unlock()
		if holds() {
			return true
		}
		select {
		case <-moved:
		case <-now.C:
		case <-late:
			return holds()
		}
	}
}

// get reads a value of the feed; nothing where there is none.
func (l *live) get(key string, into any) bool {
	l.mu.Lock()
	raw := l.values[key]
	l.mu.Unlock()
	return raw != nil && json.Unmarshal(raw, into) == nil
}

// row is what Synaptor says of a reading.
type row struct {
	Value   any
	Word    string
	Title   string
	Quality string
}

func (l *live) reading(device, path string) (r row) {
	l.get("reading/"+device+":"+path, &r)
	return r
}

// phase is what it says of the link to a device.
func (l *live) phase(device string) string {
	var row struct{ Phase string }
	l.get("device/"+device, &row)
	return row.Phase
}

// runRow is what it says of a run.
type runRow struct {
	ID, Macro, State, Reason string
	Ended                    bool
	Left                     []string
	Steps                    []struct{ Step, State, Reason string }
}

func (l *live) run(id string) (r runRow) {
	l.get("run/"+id, &r)
	return r
}

// face is what it says of a key.
type face struct {
	Label, Words string
	On, Pending  []string
	Unknown      bool
	Away         bool
	Refusal      string
}

func (l *live) face(mapping string) (f face, there bool) {
	there = l.get("face/"+mapping, &f)
	return f, there
}

// offers are what is offered to be put back.
func (l *live) offers() (rows []struct{ Entry, Title, Reason string }) {
	l.get("left", &rows)
	return rows
}

// entries are those that the journal told of since forget, oldest first.
func (l *live) entries() (out []entry) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for k, raw := range l.values {
		var e entry
		if strings.HasPrefix(k, "journal/") && json.Unmarshal(raw, &e) == nil {
			out = append(out, e)
		}
	}
	slices.SortFunc(out, func(a, b entry) int { return strings.Compare(a.ID, b.ID) })
	return out
}

// forget forgets what the journal has told.
func (l *live) forget() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for k := range l.values {
		if strings.HasPrefix(k, "journal/") {
			delete(l.values, k)
		}
	}
}

// arrived waits until Synaptor has taken in what was sent: it answers nonsense after that.
func (l *live) arrived(w *world) {
	w.Helper()
	l.mu.Lock()
	before := l.errors
	l.mu.Unlock()
	l.say(w, map[string]any{"topics": "no list"})
	w.soon("the live socket has taken everything in", func() bool {
		l.mu.Lock()
		defer l.mu.Unlock()
		return l.errors > before
	})
}
