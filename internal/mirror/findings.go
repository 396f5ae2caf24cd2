package mirror

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"synaptor/internal/background"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/incident"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// FindingsRow counts what is found, as the top bar shows it.
type FindingsRow struct {
	Total  int            `json:"total"`
	Stops  int            `json:"stops"`
	Macros map[string]int `json:"macros"` // by macro, where there are any
	// Reflexes counts those of reflexes.
	Reflexes map[string]int `json:"reflexes"` // by reflex, where there are any
}

// moved is a latency that has changed, in words.
type moved struct {
	text string
	at   time.Time
}

// inspector keeps the findings of macros up to date in a goroutine of its own. Each
// macro is looked through again when it, or what it rests on, has changed.
type inspector struct {
	m     *Mirror
	woken chan struct{}
	ctx   context.Context
	stop  context.CancelFunc
	done  chan struct{}
	found map[string]inspected // by macro
	// reflexes are the findings of those of a program.
	reflexes []preflight.Finding
	of       *program.Program
}

// inspected is what was found in a macro, and what that rested on.
type inspected struct {
	macro *program.Macro
	basis string
	list  []macro.Finding
}

// inspectEvery is how long the inspector rests between two looks.
const inspectEvery = 100 * time.Millisecond

// FindLimit is how long one macro is looked through.
//
//limit:count time in which a macro is looked through for findings | among the findings
const FindLimit = 2 * time.Second

func newInspector(m *Mirror) *inspector {
	ctx, stop := context.WithCancel(context.Background())
	return &inspector{m: m, woken: make(chan struct{}, 1), ctx: ctx, stop: stop, done: make(chan struct{}), found: map[string]inspected{}}
}

// wake has the inspector look again.
func (in *inspector) wake() {
	select {
	case in.woken <- struct{}{}:
	default:
	}
}

func (in *inspector) close() {
	in.stop()
	<-in.done
}

func (in *inspector) run() {
	defer close(in.done)
	for {
		select {
		case <-in.woken:
			incident.Contain("findings", "", func() { background.Do(in.look) })
		case <-in.ctx.Done():
			return
		}
		select {
		case <-time.After(inspectEvery):
		case <-in.ctx.Done():
			return
		}
	}
}

// look looks all macros through whose basis has changed, and publishes what is found.
func (in *inspector) look() {
	v := in.m.View()
	changed := false
	maps.DeleteFunc(in.found, func(id string, _ inspected) bool {
		gone := v.Program.Macros[id] == nil
		changed = changed || gone
		return gone
	})
	for id, mac := range v.Program.Macros {
		basis := v.basis(mac)
		if had := in.found[id]; had.macro == mac && had.basis == basis {
			continue
		}
		ctx, cancel := context.WithTimeout(in.ctx, FindLimit)
		list, err := v.Findings(ctx, mac)
		cancel()
		if in.ctx.Err() != nil {
			return
		}
		if err != nil {
			list = []macro.Finding{{ID: "macro-too-large", Severity: macro.Caution, Text: "It takes too long to look this macro through."}}
		}
		in.found[id] = inspected{mac, basis, list}
		changed = true
	}
	if in.of != v.Program {
		in.of, in.reflexes, changed = v.Program, v.ReflexFindings(), true
	}
	if !changed {
		return
	}
	row := FindingsRow{Macros: map[string]int{}, Reflexes: map[string]int{}, Total: len(in.reflexes)}
	for _, f := range in.reflexes {
		row.Reflexes[f.Subject.ID]++
	}
	for id, f := range in.found {
		for _, one := range f.list {
			row.Total++
			row.Macros[id]++
			if one.Severity == macro.Stops {
				row.Stops++
			}
		}
	}
	in.m.cfg.Hub.Publish("findings", []string{"findings"}, row)
}

// ReflexFindings looks the reflexes through.
func (v *View) ReflexFindings() []preflight.Finding { return v.Program.ReflexFindings(time.Now(), v) }

// basis says what the findings of a macro rest on besides itself.
func (v *View) basis(mac *program.Macro) string {
	var b strings.Builder
	for _, id := range mac.Devices {
		fmt.Fprint(&b, id, v.links.get(id).Phase == link.Up, v.moved.get(id).at.UnixNano(), ";")
	}
	return b.String()
}

// Findings looks a macro through as things stand, the worst first. It fails with the
// context's error when that ends before.
func (v *View) Findings(ctx context.Context, mac *program.Macro) ([]macro.Finding, error) {
	list := macro.Find(v.Program.Show, mac.Source.ID, v.facts(ctx, mac), 0)
	for _, id := range mac.Devices {
		if n := v.unsentOn(mac, id); n > 0 && v.Program.Devices[id] != nil {
			steps := "1 step cannot"
			if n > 1 {
				steps = fmt.Sprintf("%d steps cannot", n)
			}
			away := macro.Finding{ID: macro.Unsent, Severity: macro.Stops, Text: fmt.Sprintf("%s is away: %s be sent now.", v.Program.Devices[id].Name, steps)}
			list = slices.Insert(list, 0, away)
		}
		if mv, has := v.moved.all[id]; has {
			list = append(list, macro.Finding{ID: "latency-changed", Severity: macro.Hint, Text: mv.text})
		}
	}
	return list, ctx.Err()
}

// noticeable is by how much the latency of a device has to change to be told of: a
// frame at 25 a second.
const noticeable = 40 * time.Millisecond

// noticedFor is how long a latency that has changed is a finding.
const noticedFor = 10 * time.Minute

// noticeLatency takes in the latency of a device; one that has changed so that it can be
// seen is a finding of the macros that use it.
func (m *Mirror) noticeLatency(id string, now reading.Stats) {
	was, known := m.usual[id]
	if now.Count < 3 {
		return
	}
	if !known {
		m.usual[id] = now.Median
		return
	}
	if d := m.now.Program.Devices[id]; d != nil && time.Duration(math.Abs(float64(now.Median-was))) > noticeable {
		m.usual[id] = now.Median
		m.now.moved.set(id, moved{fmt.Sprintf("%s answers in %d ms now; it was %d ms before. What lands together counts with the new time.",
			d.Name, now.Median.Milliseconds(), was.Milliseconds()), time.Now()})
		m.inspect.wake()
	}
}
