// Package night says what became of a night: when it was on air, what was marked and pressed, what was slow, was refused or was lost. It makes no rule
// of the job; it puts together what the journal, the history and the show have.
package night

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/markers"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// Journal is what is asked of the journal's database.
type Journal interface {
	Uses(show string, from, to time.Time, most int) ([]journal.Use, error)
	Slowest(show string, from, to time.Time, most int) ([]journal.Entry, error)
	Troubles(show string, from, to time.Time, most int) ([]journal.Entry, int, error)
	Landed(show string, from, to time.Time, most int) ([]journal.Entry, error)
}

// Sources are what a report is made of.
type Sources struct {
	Program *program.Program
	// Paths lists the readings of a device that are known.
	Paths   func(device string) []string
	Show    string // its id
	Journal Journal
	History *journal.History
	Markers *journal.Markers
}

// Span is a time in which something was so.
type Span struct {
	Title  string    `json:"title"`
	Device string    `json:"device"`
	Kind   string    `json:"kind"` // stream or record; or link
	From   time.Time `json:"from"`
	// To is when it ended; zero: it had not by the end of the report.
	To time.Time `json:"to,omitzero"`
}

// Row is an entry of the journal, in short.
type Row struct {
	ID         string          `json:"id"`
	At         time.Time       `json:"at"`
	Title      string          `json:"title"`
	Controller string          `json:"controller"`
	Control    string          `json:"control"`
	Actor      string          `json:"actor"`
	Outcome    journal.Outcome `json:"outcome"`
	Reason     string          `json:"reason,omitempty"`
	LatencyUs  int64           `json:"latencyUs,omitempty"`
	Together   []journal.Skew  `json:"together,omitempty"`
}

// Accepted is a finding that counts no more.
type Accepted struct {
	What   string    `json:"what"`
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// Report is what became of a night.
type Report struct {
	Name     string           `json:"name"` // of the show
	From     time.Time        `json:"from"`
	To       time.Time        `json:"to"`
	OnAir    []Span           `json:"onAir"`
	Markers  []markers.Marker `json:"markers"`
	Uses     []journal.Use    `json:"uses"`
	Slowest  []Row            `json:"slowest"`
	Troubles []Row            `json:"troubles"`
	// TroublesInAll is how many there were; Troubles has the first ones.
	TroublesInAll int        `json:"troublesInAll"`
	Lost          []Span     `json:"lost"`
	Together      []Row      `json:"together"`
	Accepted      []Accepted `json:"accepted"`
	// Starts are when Synaptor was started within the night.
	Starts []Start `json:"starts"`
}

// Start is a start of Synaptor.
type Start struct {
	At time.Time `json:"at"`
	// Unclean says that it had been cut off before.
	Unclean bool `json:"unclean"`
}

// What a report has at most of each.
const (
	//limit:count controls in a night report | nowhere; the least used are left out
	maxUses = 300
	//limit:count refusals in a night report | in the report, as how many there were
	maxTroubles = 500
	//limit:count runs with togethers in a night report | nowhere; the latest are left out
	maxTogether = 200
	slowest     = 10
	//limit:count readings of the past that a night report looks at | nowhere; the oldest are left out
	maxReadings = 20_000
	//limit:count events of the past that a night report looks at | nowhere; the oldest are left out
	maxEvents = 20_000
)

// Make puts a report together: of the time from until to.
func Make(s Sources, from, to time.Time) (r Report, err error) {
	r = Report{Name: s.Program.Show.Settings().Name, From: from, To: to, Accepted: accepted(s.Program.Show)}
	if r.OnAir, err = OnAir(s, from, to); err != nil {
		return r, err
	}
	if r.Markers, err = s.Markers.Of(s.Show, from, to); err != nil {
		return r, err
	}
	if r.Uses, err = s.Journal.Uses(s.Show, from, to, maxUses); err != nil {
		return r, err
	}
	slow, err := s.Journal.Slowest(s.Show, from, to, slowest)
	if err != nil {
		return r, err
	}
	bad, all, err := s.Journal.Troubles(s.Show, from, to, maxTroubles)
	if err != nil {
		return r, err
	}
	landed, err := s.Journal.Landed(s.Show, from, to, maxTogether)
	if err != nil {
		return r, err
	}
	r.Slowest, r.Troubles, r.TroublesInAll, r.Together = rows(slow), rows(bad), all, rows(landed)
	return r, r.events(s)
}

func rows(list []journal.Entry) []Row {
	out := make([]Row, len(list))
	for i, e := range list {
		out[i] = Row{e.ID, e.At, e.Title, e.ControllerName, e.Control, e.Actor, e.Outcome, e.Reason, e.LatencyUs, e.Together}
	}
	return out
}

func accepted(sh *show.Show) []Accepted {
	out := []Accepted{}
	for _, a := range sh.Acceptances() {
		what := string(a.Subject.Kind)
		if e := sh.Get(a.Subject); e != nil {
			what = e.Title()
		}
		out = append(out, Accepted{what, a.Reason, a.By, a.When})
	}
	return out
}

// OnAir is when something was streamed or recorded, the oldest first.
func OnAir(s Sources, from, to time.Time) ([]Span, error) {
	if err := s.History.Flush(); err != nil {
		return nil, err
	}
	out := []Span{}
	for _, d := range s.Program.Show.Devices() {
		c := s.Program.Devices[d.ID]
		if c == nil || c.Type == nil {
			continue
		}
		for _, path := range s.Paths(d.ID) {
			def := c.Type.Reading(path)
			if def == nil || def.Role != "stream" && def.Role != "record" {
				continue
			}
			before, then, err := s.History.Past([]reading.Key{{Device: d.ID, Path: path}}, from, to, maxReadings)
			if err != nil {
				return nil, err
			}
			for _, sp := range spans(append(before, then...), from) {
				sp.Title, sp.Device, sp.Kind = def.Headline, d.Name, def.Role
				out = append(out, sp)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Span) int { return a.From.Compare(b.From) })
	return out, nil
}

// What a night is taken to have been where nothing tells: so long, and to have begun so long before it was on air.
const (
	lasts     = 12 * time.Hour
	beforeAir = time.Hour
)

// Began is when the night that ends now began: some time before what was streamed or recorded first within a day, else some hours ago.
func Began(s Sources, now time.Time) (time.Time, error) {
	spans, err := OnAir(s, now.Add(-24*time.Hour), now)
	if err != nil || len(spans) == 0 {
		return now.Add(-lasts), err
	}
	return spans[0].From.Add(-beforeAir), nil
}

// spans are the times in which a reading was true; what was so before begins with the night.
func spans(was []journal.Was, from time.Time) (out []Span) {
	var since time.Time
	for _, w := range was {
		on, _ := w.Value.(bool)
		at := w.At
		if at.Before(from) {
			at = from
		}
		switch {
		case on && since.IsZero():
			since = at
		case !on && !since.IsZero():
			out, since = append(out, Span{From: since, To: at}), time.Time{}
		}
	}
	if !since.IsZero() {
		out = append(out, Span{From: since})
	}
	return out
}

// events takes in which links were lost, and when Synaptor was started.
func (r *Report) events(s Sources) error {
	r.Lost, r.Starts = []Span{}, []Start{}
	list, err := s.History.PastEvents(r.From, r.To, maxEvents)
	if err != nil {
		return err
	}
	lost := map[string]int{} // by device: the one that goes on
	for _, e := range list {
		var h struct{ On show.On }
		if json.Unmarshal(e.Body, &h) != nil {
			continue
		}
		switch h.On.Kind {
		case reflex.OnStart:
			r.Starts = append(r.Starts, Start{e.At, h.On.Edge == "unclean"})
			clear(lost) // nobody knows when they came back
		case reflex.OnLink:
			at, on := lost[h.On.Device]
			if h.On.Edge == "goes" && !on {
				lost[h.On.Device] = len(r.Lost)
				r.Lost = append(r.Lost, Span{Title: nameOf(s.Program, h.On.Device), Device: h.On.Device, Kind: "link", From: e.At})
			}
			if h.On.Edge == "comes" && on {
				r.Lost[at].To = e.At
				delete(lost, h.On.Device)
			}
		}
	}
	return nil
}

func nameOf(p *program.Program, device string) string {
	if d := p.Show.Device(device); d != nil {
		return d.Name
	}
	return fmt.Sprintf("A device that is gone (%s)", device)
}
