package mirror

import (
	"slices"
	"time"

	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// StatusItem is one headline reading, or a link that is down.
type StatusItem struct {
	Device  string          `json:"device"` // name
	Kind    string          `json:"kind"`   // a reading's role, or link
	Title   string          `json:"title"`
	Text    string          `json:"text"`
	Quality reading.Quality `json:"quality"`
	Since   time.Time       `json:"since"`
	// Active says that a bool is on, or that something is gathered.
	Active bool `json:"active"`
	// Bool says that it is on or off, and has no other text.
	Bool bool `json:"bool"`
	// Known is what the device of a link last said of what matters most of it, and NotSent how many presses and steps were not sent since it is away.
	Known   string `json:"known,omitempty"`
	NotSent int    `json:"notSent,omitempty"`
}

// statusLine remembers which readings the status line shows.
type statusLine struct{ keys map[reading.Key]bool }

func (s *statusLine) uses(k reading.Key) bool { return s.keys[k] }

// noting is a world that notes which readings are asked for.
type noting struct {
	*View
	keys map[reading.Key]bool
}

// Reading implements expr.World.
func (n noting) Reading(k reading.Key) reading.Reading {
	n.keys[k] = true
	return n.View.Reading(k)
}

func (m *Mirror) publishStatus() {
	w := noting{&m.now, map[reading.Key]bool{}}
	items := []StatusItem{}
	for _, d := range m.now.Program.Show.Devices() {
		if st := m.now.links.get(d.ID); st.Phase == link.Down || st.Phase == link.Locked {
			items = append(items, StatusItem{Device: d.Name, Kind: "link", Title: d.Name, Text: st.Problem, Quality: reading.Unknown, Since: st.Since, NotSent: m.notSent[d.ID]})
		}
		if c := m.now.Program.Devices[d.ID]; c.Type != nil && !d.Parked {
			own := headlines(c, w)
			if n := len(items); n > 0 && items[n-1].Kind == "link" && items[n-1].Device == d.Name {
				items[n-1].Known = lastKnown(own)
			}
			items = append(items, own...)
		}
	}
	m.status.keys = w.keys
	m.cfg.Hub.Publish("status", []string{"status"}, items)
}

// lastKnown says what matters most of a device that is away, as it last told it: what was on program, else its first headline.
func lastKnown(own []StatusItem) string {
	i := slices.IndexFunc(own, func(it StatusItem) bool { return it.Kind == "program-picture" && it.Text != "" })
	if i < 0 {
		i = slices.IndexFunc(own, func(it StatusItem) bool { return it.Text != "" && !it.Bool })
	}
	if i < 0 {
		return ""
	}
	return own[i].Title + " " + own[i].Text
}

// headlines gives the headline readings of a device in the order of its sheet;
// gathered ones are one item with the names of all that are so.
func headlines(d *program.Device, w noting) []StatusItem {
	var items []StatusItem
	gathered := map[string]int{}
	for _, path := range w.Paths(d.ID) {
		def := d.Type.Reading(path)
		if def == nil || def.Headline == "" && def.Gather == nil {
			continue
		}
		k := reading.Key{Device: d.ID, Path: path}
		r := w.Reading(k)
		if def.Gather == nil {
			active, isBool := r.Value.(bool)
			items = append(items, StatusItem{Device: d.Name, Kind: def.Role, Title: d.Type.HeadlineOf(d.ID, path, w), Text: d.Type.Word(k, r.Value, w),
				Quality: r.Quality, Since: r.Since, Active: active, Bool: isBool})
			continue
		}
		i, had := gathered[def.Gather.Title]
		if !had {
			i = len(items)
			gathered[def.Gather.Title] = i
			items = append(items, StatusItem{Device: d.Name, Kind: def.Role, Title: def.Gather.Title, Text: "none", Quality: r.Quality, Since: r.Since})
		}
		it := &items[i]
		if r.Quality == reading.Unknown {
			it.Quality = reading.Unknown
		}
		if reading.Equal(r.Value, def.Gather.Value, 0) {
			name := d.Type.SourceName(d.ID, path, w)
			if it.Active {
				name = it.Text + ", " + name
			}
			it.Text, it.Active = name, true
		}
	}
	return items
}
