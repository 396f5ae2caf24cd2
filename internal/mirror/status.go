package mirror

import (
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
			items = append(items, StatusItem{Device: d.Name, Kind: "link", Title: d.Name, Text: st.Problem, Quality: reading.Unknown, Since: st.Since})
		}
		if c := m.now.Program.Devices[d.ID]; c.Type != nil && !d.Parked {
			items = append(items, headlines(c, w)...)
		}
	}
	m.status.keys = w.keys
	m.cfg.Hub.Publish("status", []string{"status"}, items)
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
