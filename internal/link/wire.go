package link

import (
	"cmp"
	"slices"
	"strings"
	"sync"
	"time"

	"synaptor/internal/core/device"
)

// What is kept of a device for the wire view: so many messages, and so many bytes of
// them. A message that is larger than a line is put into words at once, and cut.
const (
	//limit:count messages of a device in the wire view | nowhere; the oldest go
	wireLines = 200
	//limit:bytes messages of a device in the wire view | nowhere; the oldest go
	wireBytes = 64 << 10
	//limit:bytes a message in the wire view as it was | it is cut, with an ellipsis
	wireLine = 2 << 10
	//limit:count characters of a message in the wire view | it is cut, with an ellipsis
	wireShown = 500 // characters of a line
)

// Wire keeps the last messages of a link, out and in. They are put into words
// when somebody looks; secrets in them are masked then. The zero value works.
type Wire struct {
	mu      sync.Mutex
	secrets []string
	kept    []wireEntry
	bytes   int // of kept
	seq     int64
}

type wireEntry struct {
	seq     int64
	at      time.Time
	driver  Driver // of a payload that went out
	payload []byte
	in      []device.Message
	note    string
	dir     string // of a message that is in words already
	size    int    // bytes, roughly
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
			out = append(out, WireLine{e.seq, e.at, dir, shown(text, secrets)})
		}
		switch {
		case e.driver != nil:
			for _, t := range e.driver.Show(e.payload) {
				add("out", t)
			}
		case e.note != "":
			add(cmp.Or(e.dir, "note"), e.note)
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

// shown is a text as it is shown: without secrets, and not too long.
func shown(text string, secrets []string) string {
	if most := 8 * wireShown; len(text) > most {
		text = text[:most] // more than is shown even when secrets go
	}
	for _, s := range secrets {
		text = strings.ReplaceAll(text, s, mask)
	}
	n := 0
	for i := range text {
		if n++; n > wireShown {
			text = text[:i] + "…"
			break
		}
	}
	return strings.ToValidUTF8(text, "·")
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
	w.bytes += e.size
	drop := 0
	for len(w.kept)-drop > wireLines || w.bytes > wireBytes {
		w.bytes -= w.kept[drop].size
		w.kept[drop] = wireEntry{}
		drop++
	}
	w.kept = w.kept[drop:]
}

func (w *Wire) out(d Driver, payload []byte) {
	if len(payload) > wireLine && w != nil {
		for _, t := range d.Show(payload) {
			w.words("out", t)
		}
		return
	}
	w.add(wireEntry{driver: d, payload: payload, size: len(payload)})
}

func (w *Wire) received(msgs []device.Message) {
	size := 0
	for _, m := range msgs {
		size += m.Size()
	}
	if size <= wireLine || w == nil {
		w.add(wireEntry{in: msgs, size: size})
		return
	}
	for _, m := range msgs {
		w.words("in", m.String())
	}
}

// words keeps a message that is large as it is shown.
func (w *Wire) words(dir, text string) {
	w.mu.Lock()
	text = shown(text, w.secrets)
	w.mu.Unlock()
	w.add(wireEntry{dir: dir, note: text, size: len(text)})
}

func (w *Wire) note(text string) { w.add(wireEntry{note: text, size: len(text)}) }
