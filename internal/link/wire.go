package link

import (
	"slices"
	"strings"
	"sync"
	"time"

	"synaptor/internal/core/device"
)

// wireLines is how many messages of a device are kept for the wire view.
const wireLines = 200

// Wire keeps the last messages of a link, out and in. They are put into words
// when somebody looks; secrets in them are masked then. The zero value works.
type Wire struct {
	mu      sync.Mutex
	secrets []string
	kept    []wireEntry
	seq     int64
}

type wireEntry struct {
	seq     int64
	at      time.Time
	driver  Driver // of a payload that went out
	payload []byte
	in      []device.Message
	note    string
}

// WireLine is one message as a person reads it.
type WireLine struct {
	Seq  int64     `json:"seq"`
	At   time.Time `json:"at"`
	Dir  string    `json:"dir"` // out, in or note
	Text string    `json:"text"`
}

// Lines returns what went over the wire, newer than a line's number.
func (w *Wire) Lines(after int64) []WireLine {
	w.mu.Lock()
	kept, secrets := slices.Clone(w.kept[max(0, len(w.kept)-wireLines):]), w.secrets
	w.mu.Unlock()
	out := []WireLine{}
	for _, e := range kept {
		if e.seq <= after {
			continue
		}
		add := func(dir, text string) {
			for _, s := range secrets {
				text = strings.ReplaceAll(text, s, "•••")
			}
			if r := []rune(text); len(r) > 500 {
				text = string(r[:500]) + "…"
			}
			out = append(out, WireLine{e.seq, e.at, dir, strings.ToValidUTF8(text, "·")})
		}
		switch {
		case e.driver != nil:
			for _, t := range e.driver.Show(e.payload) {
				add("out", t)
			}
		case e.note != "":
			add("note", e.note)
		}
		for _, m := range e.in {
			add("in", m.String())
		}
	}
	return out
}

// Mask keeps texts out of the view.
func (w *Wire) Mask(secrets ...string) {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.secrets = slices.DeleteFunc(secrets, func(s string) bool { return len(s) < 3 })
}

func (w *Wire) add(e wireEntry) {
	if w == nil {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	w.seq++
	e.seq, e.at = w.seq, time.Now()
	w.kept = append(w.kept, e)
	if len(w.kept) >= 2*wireLines {
		w.kept = append(make([]wireEntry, 0, 2*wireLines), w.kept[len(w.kept)-wireLines:]...)
	}
}

func (w *Wire) out(d Driver, payload []byte)   { w.add(wireEntry{driver: d, payload: payload}) }
func (w *Wire) received(msgs []device.Message) { w.add(wireEntry{in: msgs}) }
func (w *Wire) note(text string)               { w.add(wireEntry{note: text}) }
