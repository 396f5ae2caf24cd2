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
	"sync"
	"sync/atomic"
)

// Hub holds the last values and the clients that follow them.
type Hub struct {
	mu      sync.Mutex
	values  map[string]entry
	clients map[*Client]bool
}

type entry struct {
	topics []string
	raw    json.RawMessage
}

var epochs atomic.Int64

// NewHub returns an empty hub.
func NewHub() *Hub { return &Hub{values: map[string]entry{}, clients: map[*Client]bool{}} }

// Publish sets the value of a key and hands it to the clients that follow one
// of its topics. A value that did not change is not sent again.
func (h *Hub) Publish(key string, topics []string, value any) { h.put(key, topics, value, true) }

// Announce hands a value to clients without keeping it for later ones.
func (h *Hub) Announce(key string, topics []string, value any) { h.put(key, topics, value, false) }

func (h *Hub) put(key string, topics []string, value any, keep bool) {
	raw, err := json.Marshal(value)
	if err != nil {
		slog.Error("live feed: encode", "key", key, "err", err)
		return
	}
	h.mu.Lock()
	defer h.mu.Unlock()
	if keep {
		old, had := h.values[key]
		if had && bytes.Equal(old.raw, raw) && slices.Equal(old.topics, topics) {
			return
		}
		h.values[key] = entry{topics, raw}
		topics = slices.Concat(topics, old.topics)
	}
	h.spread(key, topics, raw)
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
	for c := range h.clients {
		if c.follows(topics) {
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
	delete(h.clients, c)
	h.mu.Unlock()
}

// Clients is the number of clients.
func (h *Hub) Clients() int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.clients)
}

// Message is what a client is sent.
type Message struct {
	Type   string                     `json:"type"` // snapshot or delta
	Epoch  int64                      `json:"epoch"`
	Seq    int64                      `json:"seq"`
	Values map[string]json.RawMessage `json:"values"`
}

// Follow sets the topics of a client and returns a snapshot of them all.
func (h *Hub) Follow(c *Client, topics []string) Message {
	h.mu.Lock()
	defer h.mu.Unlock()
	clear(c.topics)
	for _, t := range topics {
		c.topics[t] = true
	}
	m := Message{Type: "snapshot", Epoch: c.Epoch, Values: map[string]json.RawMessage{}}
	for key, e := range h.values {
		if c.follows(e.topics) {
			m.Values[key] = e.raw
		}
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
