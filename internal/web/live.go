package web

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/coder/websocket"
	"github.com/labstack/echo/v5"

	"synaptor/internal/access"
	"synaptor/internal/attach"
	"synaptor/internal/bench/faults"
	"synaptor/internal/bench/panel"
	"synaptor/internal/core/device"
	"synaptor/internal/core/reading"
	"synaptor/internal/edit"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
)

func (s *server) readings(c *echo.Context) error {
	rows := []mirror.ReadingRow{}
	wantDevice, wantPath := c.QueryParam("device"), c.QueryParam("path")
	v := s.Mirror.View()
	for _, d := range append(v.Program.Show.Devices(), v.Program.Devices[program.SelfID].Device) {
		if d.ID == program.SelfID && wantDevice != d.ID {
			continue // it is asked for by name
		}
		if wantDevice != "" && wantDevice != d.Slug && wantDevice != d.ID {
			continue
		}
		for _, path := range v.Paths(d.ID) {
			if wantPath == "" || wantPath == path {
				rows = append(rows, v.Row(reading.Key{Device: d.ID, Path: path}))
			}
		}
	}
	return c.JSON(http.StatusOK, rows)
}

// InputBody is the optional body of an input.
type InputBody struct {
	Value any    `json:"value,omitempty"`
	Page  string `json:"page,omitempty"`
}

// inputOf does a gesture of a mapping, wherever that is placed.
func (s *server) inputOf(c *echo.Context) error {
	a, err := attach.OfMapping(c.Param("id"), c.Param("gesture"), s.Edit.Program())
	if err != nil {
		return err
	}
	return s.inputAt(c, a, time.Now())
}

func (s *server) input(c *echo.Context) error {
	return s.inputAt(c, attach.Address{Controller: c.Param("controller"), Control: c.Param("control"), Gesture: c.Param("gesture")}, time.Now())
}

// fetch does a gesture for what can only fetch an address: the token of a program stands in it, and the program was given that.
func (s *server) fetch(c *echo.Context) error {
	// Also where nobody has to be known: a page elsewhere could have a browser fetch this.
	if t := visitorOf(c).Terms; t == nil || !t.Fetch {
		return echo.NewHTTPError(http.StatusUnauthorized, "This takes the token of a program that may press by fetching an address.")
	}
	return s.inputAt(c, attach.Address{Controller: c.Param("controller"), Control: c.Param("control"), Gesture: c.Param("gesture")}, time.Now())
}

// inputAt does a gesture at an address.
func (s *server) inputAt(c *echo.Context, a attach.Address, at time.Time) error {
	var body InputBody
	if err := read(c, &body, true); err != nil {
		return err
	}
	if body.Page != "" {
		a.Page = body.Page
	}
	id, err := attach.HTTP(a, at, body.Value, sender(c), s.Edit, s.Engine, s.Journal)
	var wrong *attach.ValueError
	if errors.As(err, &wrong) {
		return unfit("value", wrong.Text)
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusAccepted, Created{id})
}

func (s *server) journalList(c *echo.Context) error {
	limit := 200
	if q := c.QueryParam("limit"); q != "" {
		n, err := strconv.Atoi(q)
		if err != nil || n < 1 || n > 1000 {
			return &badBody{"limit", "limit is a number from 1 to 1000."}
		}
		limit = n
	}
	w, err := wantedOf(c)
	if err != nil {
		return err
	}
	if w.Limit = limit; c.QueryParam("of") != "all" {
		w.Show = s.Shows.Current()
	}
	rows, err := s.Journal.Find(w)
	if err != nil {
		return err
	}
	if rows == nil {
		rows = []journal.Entry{}
	}
	return c.JSON(http.StatusOK, rows)
}

// wantedOf is what the query of a request asks of entries.
func wantedOf(c *echo.Context) (w journal.Wanted, err error) {
	q := c.QueryParam
	w = journal.Wanted{Before: q("before"), Controller: q("controller"), Control: q("control"), Device: q("device"), Actor: q("actor"), Outcome: journal.Outcome(q("outcome")), Text: q("words")}
	if w.Outcome != "" && !slices.Contains(journal.Outcomes(), w.Outcome) {
		return w, &badBody{"outcome", fmt.Sprintf("%q is no outcome.", w.Outcome)}
	}
	if utf8.RuneCountInString(w.Text) > maxWords {
		return w, &badBody{"words", fmt.Sprintf("Look for at most %d characters.", maxWords)}
	}
	for name, at := range map[string]*time.Time{"since": &w.Since, "until": &w.Until} {
		if q(name) == "" {
			continue
		}
		if *at, err = time.Parse(time.RFC3339, q(name)); err != nil {
			return w, &badBody{name, name + " is a time as 2026-08-12T22:30:00Z."}
		}
	}
	return w, nil
}

// maxWords is how much is looked for in the journal at once.
//
//limit:count characters looked for in the journal | at the request
const maxWords = 200

func (s *server) journalOne(c *echo.Context) error {
	e, err := s.Journal.Get(c.Param("id"))
	if err != nil {
		return err
	}
	if e == nil {
		return fmt.Errorf("the journal has no entry %q: %w", c.Param("id"), edit.ErrNotFound)
	}
	return c.JSON(http.StatusOK, e)
}

// journalChain gives what has led to an entry, and what that has led to.
func (s *server) journalChain(c *echo.Context) error {
	list, err := s.Journal.Chain(c.Param("id"))
	if err != nil {
		return err
	}
	if list == nil {
		return fmt.Errorf("the journal has no entry %q: %w", c.Param("id"), edit.ErrNotFound)
	}
	return c.JSON(http.StatusOK, list)
}

func (s *server) live(c *echo.Context) error {
	// The origin was checked by guardOrigin, the host by guardHost.
	ws, err := websocket.Accept(c.Response(), c.Request(), &websocket.AcceptOptions{InsecureSkipVerify: true, CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		return nil // Accept has answered
	}
	defer func() { _ = ws.CloseNow() }()
	v := visitorOf(c)
	ctx := s.gate.while(c.Request().Context(), v, access.Viewer)
	from := sender(c)
	if v.ID != "" {
		visit, leave := s.People.Come(v.ID, v.session, hostOf(c.Request().RemoteAddr))
		defer leave()
		from.Touch = visit.Touch
	}
	attach.Live(ctx, ws, from, s.Hub, s.Edit, s.Engine)
	return nil
}

// BenchDoc are the stand-ins that run here.
type BenchDoc struct {
	StandIns []StandInDoc `json:"standIns"`
}

// StandInDoc is a stand-in with its front panel as it is now.
type StandInDoc struct {
	ID      string     `json:"id"`
	Title   string     `json:"title"`
	Address string     `json:"address"`
	View    panel.View `json:"view"`
}

func (s *server) benchView(c *echo.Context) error {
	doc := BenchDoc{StandIns: []StandInDoc{}}
	if b := s.Bench(); b != nil {
		for _, st := range b.StandIns() {
			doc.StandIns = append(doc.StandIns, StandInDoc{st.ID(), st.Title(), st.Addr(), st.View()})
		}
	}
	return c.JSON(http.StatusOK, doc)
}

// standIn finds the stand-in that a request is about.
func (s *server) standIn(c *echo.Context) (panel.StandIn, error) {
	if b := s.Bench(); b != nil {
		if st := b.StandIn(c.Param("standin")); st != nil {
			return st, nil
		}
	}
	return nil, fmt.Errorf("the bench has no %q: %w", c.Param("standin"), edit.ErrNotFound)
}

// Operation is a hand on a stand-in's front panel, in the words of its
// protocol.
type Operation struct {
	Address string `json:"address"`
	Value   any    `json:"value,omitempty"`
}

func (s *server) benchOperate(c *echo.Context) error {
	var op Operation
	if err := read(c, &op, false); err != nil {
		return err
	}
	st, err := s.standIn(c)
	if err != nil {
		return err
	}
	m := device.Message{Address: op.Address}
	if f, ok := op.Value.(float64); ok && f == float64(int(f)) {
		m.Args = []any{int(f)}
	} else if op.Value != nil {
		m.Args = []any{op.Value}
	}
	if err := st.Operate(m); err != nil {
		return unfit("value", "The device says: "+err.Error()+".")
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *server) benchFaults(c *echo.Context) error {
	var f faults.Faults
	if err := read(c, &f, false); err != nil {
		return err
	}
	st, err := s.standIn(c)
	if err != nil {
		return err
	}
	if err := f.Check(); err != nil {
		return unfit("faults", err.Error()+".")
	}
	if err := st.SetFaults(f); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// metrics answers in the Prometheus text format.
func (s *server) metrics(c *echo.Context) error {
	var b strings.Builder
	health := s.Journal.Health()
	fmt.Fprintf(&b, "# TYPE synaptor_live_clients gauge\nsynaptor_live_clients %d\n", s.Hub.Clients())
	fmt.Fprintf(&b, "# TYPE synaptor_journal_dropped_total counter\nsynaptor_journal_dropped_total %d\n", health.Dropped)
	fmt.Fprintf(&b, "# TYPE synaptor_journal_trimmed_total counter\nsynaptor_journal_trimmed_total %d\n", health.Trimmed)
	fmt.Fprintf(&b, "# TYPE synaptor_journal_waiting gauge\nsynaptor_journal_waiting %d\n", health.Waiting)
	fmt.Fprint(&b, "# TYPE synaptor_incidents_total counter\n")
	counts := incident.Counts()
	for _, where := range slices.Sorted(maps.Keys(counts)) {
		fmt.Fprintf(&b, "synaptor_incidents_total{where=%q} %d\n", where, counts[where])
	}
	fmt.Fprintf(&b, "# TYPE synaptor_goroutines gauge\nsynaptor_goroutines %d\n", runtime.NumGoroutine())
	fmt.Fprint(&b, "# TYPE synaptor_device_up gauge\n# TYPE synaptor_device_latency_seconds gauge\n")
	v := s.Mirror.View()
	for _, d := range slices.Backward(v.Program.Show.Devices()) {
		up := 0
		if v.Link(d.ID).Phase == link.Up {
			up = 1
		}
		fmt.Fprintf(&b, "synaptor_device_up{device=%q} %d\n", d.Slug, up)
		fmt.Fprintf(&b, "synaptor_device_latency_seconds{device=%q,quantile=\"0.5\"} %g\n", d.Slug, v.Latency(d.ID, "").Median.Seconds())
	}
	return c.Blob(http.StatusOK, "text/plain; version=0.0.4", []byte(b.String()))
}
