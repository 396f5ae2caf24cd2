package mirror

import (
	"context"
	"fmt"
	"maps"
	"math"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"synaptor/internal/background"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/incident"
	"synaptor/internal/inspect"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// FindingsRow counts what is found, as the top bar shows it. What was accepted does not count.
type FindingsRow struct {
	Verdict  string         `json:"verdict"`
	Total    int            `json:"total"`
	Stops    int            `json:"stops"`
	Cautions int            `json:"cautions"`
	Accepted int            `json:"accepted"`
	Macros   map[string]int `json:"macros"`   // by macro, where there are any
	Reflexes map[string]int `json:"reflexes"` // by reflex, where there are any
}

// Preflight is what was found in the show in force, as things stand. It never changes.
type Preflight struct {
	Program  *program.Program
	At       time.Time // when it was looked at last
	Findings []preflight.Weighed
}

// moved is a latency that has changed, in words.
type moved struct {
	text string
	at   time.Time
}

// inspector keeps what is found up to date in a goroutine of its own. Each thing is looked through again when it, or what it rests on, has changed.
type inspector struct {
	m     *Mirror
	woken chan struct{}
	ctx   context.Context
	stop  context.CancelFunc
	done  chan struct{}

	looking sync.Mutex // what follows
	inspect *inspect.Inspector
	judged  *inspect.Judged
	found   map[string]inspected // by macro
	row     FindingsRow
	last    *Preflight
}

// inspected is what was found in a macro, and what that rested on.
type inspected struct {
	macro *program.Macro
	basis string
	list  []preflight.Finding
}

// How often the inspector looks: no sooner again than after a rest, and no later than that.
const (
	inspectEvery = 100 * time.Millisecond
	inspectAnew  = 3 * time.Second
)

// FindLimit is how long one macro is looked through.
//
//limit:count time in which a macro is looked through for findings | among the findings
const FindLimit = 2 * time.Second

func newInspector(m *Mirror) *inspector {
	ctx, stop := context.WithCancel(context.Background())
	return &inspector{m: m, woken: make(chan struct{}, 1), ctx: ctx, stop: stop, done: make(chan struct{}), found: map[string]inspected{}, inspect: inspect.New(m.now.font, m.cfg.Pictures)}
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
		case <-time.After(inspectAnew):
		case <-in.ctx.Done():
			return
		}
		incident.Contain("findings", "", func() { background.Do(func() { in.look(in.m.View()) }) })
		select {
		case <-time.After(inspectEvery):
		case <-in.ctx.Done():
			return
		}
	}
}

// look looks through what has changed, and publishes what is found.
func (in *inspector) look(v *View) *Preflight {
	in.looking.Lock()
	defer in.looking.Unlock()
	in.judged = in.inspect.Judge(in.judged, v.Program, time.Now())
	if !in.lookAtMacros(v) {
		return in.last
	}
	all := in.judged.WithoutMacros()
	for _, f := range in.found {
		all = append(all, f.list...)
	}
	all = append(all, in.judged.Gone(v)...)
	all = append(all, in.judged.Unsupported(v)...)
	all = append(all, preflight.Links(v.devices(in.judged.Devices()))...)
	if in.m.cfg.SignIns != nil {
		all = append(all, preflight.SignIns(in.m.cfg.SignIns(), time.Now())...)
	}
	preflight.Sort(all)
	in.last = &Preflight{Program: v.Program, At: time.Now(), Findings: preflight.Weigh(v.Program.Show, all)}
	if row := rowOf(in.last.Findings); !reflect.DeepEqual(row, in.row) {
		in.row = row
		in.m.cfg.Hub.Publish("findings", []string{"findings"}, row)
	}
	return in.last
}

// lookAtMacros looks those macros through whose basis has changed; false when it was to end meanwhile.
func (in *inspector) lookAtMacros(v *View) bool {
	maps.DeleteFunc(in.found, func(id string, _ inspected) bool { return v.Program.Macros[id] == nil })
	for id, mac := range v.Program.Macros {
		basis := v.basis(mac)
		if had := in.found[id]; had.macro == mac && had.basis == basis {
			continue
		}
		ctx, cancel := context.WithTimeout(in.ctx, FindLimit)
		list, err := v.Findings(ctx, mac)
		cancel()
		if in.ctx.Err() != nil {
			return false
		}
		if err != nil {
			list = []macro.Finding{{ID: "macro-too-large", Severity: macro.Caution, Text: "It takes too long to look this macro through."}}
		}
		in.found[id] = inspected{mac, basis, preflight.Macro(mac.Source, list, func(step string) string { return v.Toggled(id, step, nil) }, v.measured(mac))}
	}
	return true
}

// rowOf counts findings.
func rowOf(all []preflight.Weighed) FindingsRow {
	row := FindingsRow{Macros: map[string]int{}, Reflexes: map[string]int{}, Verdict: preflight.Verdict(preflight.Open(all))}
	for _, f := range all {
		if !f.Counts() {
			row.Accepted++
			continue
		}
		row.Total++
		switch f.Severity {
		case preflight.Stops:
			row.Stops++
		case preflight.Caution:
			row.Cautions++
		}
		switch f.Subject.Kind {
		case show.KindMacro:
			row.Macros[f.Subject.ID]++
		case show.KindReflex:
			row.Reflexes[f.Subject.ID]++
		}
	}
	return row
}

// Preflight looks through whatever has changed since it was looked at last, and gives what is found.
func (m *Mirror) Preflight() (out *Preflight) {
	v := m.Current()
	background.Do(func() { out = m.inspect.look(v) })
	return out
}

// Known gives all that can be looked up: what is found as things stand, and what the rehearsal of the night has found.
func (m *Mirror) Known() []preflight.Weighed {
	at := m.Preflight()
	all := at.Findings
	if n := m.Night(); n != nil {
		all = append(slices.Clip(all), preflight.Weigh(at.Program.Show, n.all())...)
	}
	return all
}

// toldWithin is how long a device that is connected may take to tell all that it has.
const toldWithin = 5 * time.Second

// devices adds to what is known of devices what lives of them.
func (v *View) devices(all []preflight.Device) []preflight.Device {
	for i := range all {
		d := &all[i]
		p := v.Program.Devices[d.ID]
		if p == nil || p.Type == nil {
			continue
		}
		state, latency := v.links.get(d.ID), v.Latency(d.ID, "")
		d.Live = state.Phase != ""
		if state.Phase != link.Up {
			d.Down = strings.TrimSpace(state.Problem)
			if d.Down == "" {
				d.Down = "it is not connected"
			}
		}
		if untold := v.Untold(d.ID); d.Down == "" && len(untold) > 0 && time.Since(state.Since) > toldWithin {
			d.Mute = untold[0]
		}
		if login := p.Type.Sheet.Link.Login; login != nil {
			d.Factory = login.Factory != "" && p.Password() == login.Factory
		}
		d.Median, d.P95, d.Count = latency.Median, latency.P95, latency.Count
	}
	return all
}

// measured tells whether all that is known of how fast the devices of a macro answer was measured.
func (v *View) measured(mac *program.Macro) bool {
	return !slices.ContainsFunc(mac.Devices, func(id string) bool { return v.Latency(id, "").Count == 0 })
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

// Compare tells what of the show alone would be found no more, and what would be found, in another state of it.
func (m *Mirror) Compare(after *show.Show) (left, come []string) {
	m.inspect.looking.Lock()
	was := m.inspect.judged
	m.inspect.looking.Unlock()
	left, come = []string{}, []string{}
	if was == nil {
		return left, come
	}
	background.Do(func() {
		is := m.inspect.inspect.Judge(was, was.Program.With(after), time.Now())
		left, come = without(was.Findings, is.Findings), without(is.Findings, was.Findings)
	})
	return left, come
}

// without are the sentences of findings that are not among others.
func without(all, others []preflight.Finding) []string {
	out := []string{}
	for _, f := range all {
		if !slices.ContainsFunc(others, f.Same) {
			out = append(out, f.Text)
		}
	}
	return out
}
