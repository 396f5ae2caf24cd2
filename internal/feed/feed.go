// Package feed hands what changes to live clients: a snapshot of the topics a
// client asks for, then numbered deltas. It keeps the last value of each key.
// A client that reads slowly gets the newest values merged, never a growing
// queue.
package feed

import (
	"bytes"
	"encoding/json"
	"log/slog"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"
)

// Hub holds the last values and the clients that follow them.
type Hub struct {
	mu       sync.Mutex
	values   map[string]entry
	clients  map[*Client]bool
	followed map[string]map[*Client]bool // by topic
	prepare  func()
}

// entry is the last value of a key. It is encoded when somebody is to see it.
type entry struct {
	topics []string
	value  any
	raw    json.RawMessage // nil: not encoded yet
}

var epochs atomic.Int64

// NewHub returns an empty hub.
func NewHub() *Hub {
	return &Hub{values: map[string]entry{}, clients: map[*Client]bool{}, followed: map[string]map[*Client]bool{}, prepare: func() {}}
}

// OnFollow sets what is called when a client has begun to follow other topics
// and before it gets its snapshot, so that whoever publishes can bring up to
// date what nobody looked at. It must be set
// before the first client comes.
func (h *Hub) OnFollow(prepare func()) { h.prepare = prepare }

// Followed reports whether any client follows one of the topics.
func (h *Hub) Followed(topics []string) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.anyFollows(topics)
}

// Topics are those that a client follows now.
func (h *Hub) Topics() map[string]bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	out := make(map[string]bool, len(h.followed))
	for t := range h.followed {
		out[t] = true
	}
	return out
}

// Publish sets the value of a key and hands it to the clients that follow one
// of its topics. A value that did not change is not sent again. The value must
// not change after this call.
func (h *Hub) Publish(key string, topics []string, value any) { h.put(key, topics, value, true) }

// Announce hands a value to clients without keeping it for later ones.
func (h *Hub) Announce(key string, topics []string, value any) { h.put(key, topics, value, false) }

func (h *Hub) put(key string, topics []string, value any, keep bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	old := h.values[key]
	seen := topics
	if keep && !slices.Equal(topics, old.topics) {
		seen = slices.Concat(topics, old.topics)
	}
	if !h.anyFollows(seen) {
		if keep {
			h.values[key] = entry{topics: topics, value: value}
		}
		return
	}
	now := entry{topics: topics, raw: encode(key, value)}
	if keep {
		h.values[key] = now
		if old.raw != nil && bytes.Equal(old.raw, now.raw) && slices.Equal(old.topics, topics) {
			return
		}
	}
	h.spread(key, seen, now.raw)
}

// encode turns a value into JSON; one that cannot be is logged and left null.
func encode(key string, value any) json.RawMessage {
	raw, err := json.Marshal(value)
	if err != nil {
		slog.Error("live feed: encode", "key", key, "err", err)
		return json.RawMessage("null")
	}
	return raw
}

// anyFollows is Followed; the lock is held.
func (h *Hub) anyFollows(topics []string) bool {
	return slices.ContainsFunc(topics, func(t string) bool { return len(h.followed[t]) > 0 })
}

// Remove takes a key away; clients are told with null.
func (h *Hub) Remove(key string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if old, had := h.values[key]; had {
		delete(h.values, key)
		h.spread(key, old.topics, json.RawMessage("null"))
	}
}

func (h *Hub) spread(key string, topics []string, raw json.RawMessage) {
	for _, t := range topics { // who follows two of them is offered it twice, which is once
		for c := range h.followed[t] {
			c.offer(key, raw)
		}
	}
}

// Client is one live client. Its owner waits on Wake and takes what is there.
type Client struct {
	// Wake has a value when Take has something to give.
	Wake   chan struct{}
	Epoch  int64
	topics map[string]bool
	mu     sync.Mutex
	dirty  map[string]json.RawMessage
	seq    int64
}

// Join adds a client that follows nothing yet.
func (h *Hub) Join() *Client {
	c := &Client{Wake: make(chan struct{}, 1), Epoch: epochs.Add(1), topics: map[string]bool{}, dirty: map[string]json.RawMessage{}}
	h.mu.Lock()
	h.clients[c] = true
	h.mu.Unlock()
	return c
}

// Leave removes a client.
func (h *Hub) Leave(c *Client) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.clients, c)
	h.setTopics(c, nil)
}

// setTopics changes what a client follows; the lock is held.
func (h *Hub) setTopics(c *Client, topics []string) {
	for t := range c.topics {
		if delete(h.followed[t], c); len(h.followed[t]) == 0 {
			delete(h.followed, t)
		}
	}
	clear(c.topics)
	for _, t := range topics {
		c.topics[t] = true
		if h.followed[t] == nil {
			h.followed[t] = map[*Client]bool{}
		}
		h.followed[t][c] = true
	}
}

// Clients is the number of clients.
func (h *Hub) Clients() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.clients)
}

// Many clients are told less often, so that telling them costs presses nothing: what changes meanwhile is merged.
const (
	paceFrom = 100                    // clients who are told at once
	paceEach = 100 * time.Microsecond // for each one more
	paceMost = 200 * time.Millisecond
)

// Pace is the shortest time between two deltas to a client.
func (h *Hub) Pace() time.Duration {
	return min(paceMost, max(0, time.Duration(h.Clients()-paceFrom)*paceEach))
}

// Message is what a client is sent.
type Message struct {
	Type   string                     `json:"type"` // snapshot or delta
	Epoch  int64                      `json:"epoch"`
	Seq    int64                      `json:"seq"`
	Values map[string]json.RawMessage `json:"values"`
}

// Encode gives the message as JSON. The values are JSON already and are copied
// as they are, since every client gets the same ones.
func (m Message) Encode() []byte {
	size := 64
	for k, v := range m.Values {
		size += len(k) + len(v) + 8
	}
	b := make([]byte, 0, size)
	b = append(b, `{"type":"`...)
	b = append(b, m.Type...)
	b = append(b, `","epoch":`...)
	b = strconv.AppendInt(b, m.Epoch, 10)
	b = append(b, `,"seq":`...)
	b = strconv.AppendInt(b, m.Seq, 10)
	b = append(b, `,"values":{`...)
	first := true
	for k, v := range m.Values {
		if !first {
			b = append(b, ',')
		}
		first = false
		key, _ := json.Marshal(k) // text cannot fail
		b = append(append(append(b, key...), ':'), v...)
	}
	return append(b, '}', '}')
}

// Follow sets the topics of a client and returns a snapshot of them all.
func (h *Hub) Follow(c *Client, topics []string) Message {
	h.mu.Lock()
	h.setTopics(c, topics)
	h.mu.Unlock()
	h.prepare()
	h.mu.Lock()
	defer h.mu.Unlock()
	m := Message{Type: "snapshot", Epoch: c.Epoch, Values: map[string]json.RawMessage{}}
	for key, e := range h.values {
		if !c.follows(e.topics) {
			continue
		}
		if e.raw == nil {
			e.raw = encode(key, e.value)
			e.value = nil
			h.values[key] = e
		}
		m.Values[key] = e.raw
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	clear(c.dirty)
	c.seq++
	m.Seq = c.seq
	return m
}

func (c *Client) follows(topics []string) bool {
	return slices.ContainsFunc(topics, func(t string) bool { return c.topics[t] })
}

func (c *Client) offer(key string, raw json.RawMessage) {
	c.mu.Lock()
	c.dirty[key] = raw
	c.mu.Unlock()
	select {
	case c.Wake <- struct{}{}:
	default:
	}
}

// Take returns what changed since the last Take, or false.
func (c *Client) Take() (Message, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.dirty) == 0 {
		return Message{}, false
	}
	c.seq++
	m := Message{Type: "delta", Epoch: c.Epoch, Seq: c.seq, Values: c.dirty}
	c.dirty = map[string]json.RawMessage{}
	return m, true
}
