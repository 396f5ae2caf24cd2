// Package inspect looks a compiled show through before it goes on air: it gathers the facts that core/preflight judges, of the show alone, and judges
// again only what an edit has touched. What lives is added by whoever knows it.
package inspect

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"synaptor/internal/background"
	"synaptor/internal/core/device"
	"synaptor/internal/core/face"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/plan"
	"synaptor/internal/program"
)

// Inspector looks shows through. It is safe for concurrent use.
type Inspector struct {
	font    *face.Font
	library func() map[string]bool
}

// New makes an inspector. library gives the pictures that are there; nil: nobody knows.
func New(font *face.Font, library func() map[string]bool) *Inspector {
	return &Inspector{font, library}
}

// Judged is a show that was looked through. It never changes.
type Judged struct {
	Program *program.Program
	// Findings are those that follow from the show and its sheets, in their order: the same for an archive of it.
	Findings []preflight.Finding

	inspector *Inspector
	known     *stated
	layouts   map[string]layout
	keys      map[string]*key      // by mapping
	used      map[string]int       // by how many of them, by device
	inOrder   []*show.Page         // all pages
	shown     map[reading.Key]bool // see isPicture
	gone      []*key               // those whose choices can be gone
	pages     map[string]*page
	profiles  map[string][]preflight.Finding
	macros    map[string]foundMacro
	reflexes  []preflight.Finding
}

// layout is a controller's, with its controls by id.
type layout struct {
	sheet    *device.ControllerSheet
	controls []device.Control
	byID     map[string]*device.Control
	called   string // the controllers that have it
}

// foundMacro is what was found in a macro.
type foundMacro struct {
	of    *program.Macro
	found []preflight.Finding
}

// Judge looks a show through. What did not change since prev, which may be nil, is taken over; schedules are looked at from a moment on.
func (in *Inspector) Judge(prev *Judged, p *program.Program, now time.Time) *Judged {
	j := &Judged{Program: p, inspector: in, pages: map[string]*page{}, profiles: map[string][]preflight.Finding{}, macros: map[string]foundMacro{}, shown: map[reading.Key]bool{}}
	if prev != nil && !prev.comparable(p) {
		prev = nil
	}
	j.take(prev)
	keys := func() {
		touched := j.judgeKeys(prev)
		j.judgePages(prev, touched)
		j.judgeProfiles(prev, touched)
	}
	runs := func() {
		j.judgeMacros(prev)
		if prev != nil && sameReflexes(prev.Program, p) {
			j.reflexes = prev.reflexes
		} else {
			j.reflexes = p.ReflexFindings(now, j.known)
		}
	}
	if prev == nil {
		beside(runs, keys)
	} else {
		runs()
		keys()
	}
	j.gather()
	return j
}

// beside does one thing in the background while another is done; a panic of either is the caller's.
func beside(other, this func()) {
	failed := make(chan any, 1)
	go func() {
		defer func() { failed <- recover() }()
		background.Do(other)
	}()
	defer func() {
		if p := <-failed; p != nil {
			panic(p)
		}
	}()
	this()
}

// comparable reports whether only mappings, pages, macros and what rests on nothing else have changed.
func (j *Judged) comparable(p *program.Program) bool {
	return j.Program.Sheets == p.Sheets && p.Show.Alike(j.Program.Show, show.KindController, show.KindProfile, show.KindDevice, show.KindSettings, show.KindSafe)
}

func sameReflexes(a, b *program.Program) bool {
	return b.Show.Alike(a.Show, show.KindReflex) && maps.Equal(a.Macros, b.Macros)
}

// take takes over, or works out, what does not change while the rig does not.
func (j *Judged) take(prev *Judged) {
	if prev != nil {
		j.known, j.layouts, j.inOrder = prev.known, prev.layouts, prev.inOrder
		if !j.Program.Show.Alike(prev.Program.Show, show.KindPage) {
			j.inOrder = j.Program.Show.Pages()
		}
		return
	}
	j.known, j.layouts, j.inOrder = state(j.Program), map[string]layout{}, j.Program.Show.Pages()
	for _, c := range j.Program.Show.Controllers() {
		sheet := j.Program.Sheets.Controller(c.Layout)
		if sheet == nil {
			continue
		}
		l, has := j.layouts[c.Layout]
		if !has {
			l = layout{sheet: sheet, controls: sheet.Controls(), byID: map[string]*device.Control{}}
			for i := range l.controls {
				l.byID[l.controls[i].ID] = &l.controls[i]
			}
		} else {
			l.called += " and "
		}
		l.called += c.Name
		j.layouts[c.Layout] = l
	}
}

// judgeMacros looks those macros through that are not as they were.
func (j *Judged) judgeMacros(prev *Judged) {
	for id, mac := range j.Program.Macros {
		if prev != nil {
			if was := prev.macros[id]; was.of == mac {
				j.macros[id] = was
				continue
			}
		}
		f := plan.Facts{Known: j.known, Program: j.Program, Macro: mac, Taken: func(string) string { return "" }, Stats: func(string, string) reading.Stats { return reading.Stats{} }}.Still()
		j.macros[id] = foundMacro{mac, preflight.Macro(mac.Source, plan.Findings(f), func(string) string { return "" }, false)}
	}
}

// gather puts all findings in their order.
func (j *Judged) gather() {
	sh := j.Program.Show
	layouts := func(typ string) *device.ControllerSheet { return j.Program.Sheets.Controller(typ) }
	all := preflight.Devices(j.Devices(), sh.Settings().FrameRate)
	all = append(all, preflight.TakenTwice(sh, layouts)...)
	for _, l := range sh.Links() {
		all = append(all, preflight.Link(sh, l, layouts)...)
	}
	var safe []preflight.Safe
	for _, s := range j.Program.Safe {
		safe = append(safe, preflight.Safe{SafePicture: s.Source, Called: j.Program.Called(s.Key, j.known), Problem: s.Problem})
	}
	all = append(all, preflight.SafePictures(safe)...)
	var pictures map[string]bool
	all = append(all, preflight.Overlays(sh, j.library())...)
	for _, k := range j.keys {
		all = append(all, k.found...)
		if len(k.facts.Face.Pictures) > 0 && j.inspector.library != nil {
			if pictures == nil {
				pictures = j.inspector.library()
			}
			all = append(all, k.facts.Missing(func(id string) bool { return pictures == nil || pictures[id] })...)
		}
		if k.gone {
			j.gone = append(j.gone, k)
		}
	}
	for _, p := range j.pages {
		all = append(all, p.found...)
	}
	for _, found := range j.profiles {
		all = append(all, found...)
	}
	for _, m := range j.macros {
		all = append(all, m.found...)
	}
	j.Findings = append(all, j.reflexes...)
	preflight.Sort(j.Findings)
}

// library tells whether there is a picture; nil: that is not known.
func (j *Judged) library() func(picture string) bool {
	if j.inspector.library == nil {
		return nil
	}
	var pictures map[string]bool
	read := false
	return func(id string) bool {
		if !read {
			pictures, read = j.inspector.library(), true
		}
		return pictures == nil || pictures[id]
	}
}

// WithoutMacros gives the findings that are not about macros, for those who look macros through as things stand.
func (j *Judged) WithoutMacros() []preflight.Finding {
	return slices.DeleteFunc(slices.Clone(j.Findings), func(f preflight.Finding) bool { return f.Subject.Kind == show.KindMacro })
}

// Devices gives what is known of the devices from the show alone.
func (j *Judged) Devices() (out []preflight.Device) {
	used := maps.Clone(j.used)
	for _, m := range j.Program.Macros {
		for _, id := range m.Devices {
			used[id]++
		}
	}
	for _, r := range j.Program.Show.Reflexes() {
		used[r.Then.Device]++
	}
	for _, s := range j.Program.Safe {
		used[s.Then.Device]++
	}
	for _, d := range j.Program.Show.Devices() {
		f := preflight.Device{Device: d, Used: used[d.ID]}
		if t := j.Program.Devices[d.ID].Type; t != nil {
			f.Sheet, f.Wired = true, t.Sheet.Link.Transport != "" && t.Sheet.Link.Driver != "local"
			f.Password = t.Sheet.Link.Login != nil
			f.Rated = t.Sheet.Role == "switcher" || t.Sheet.Role == "player"
		}
		out = append(out, f)
	}
	return out
}

// stated are the readings that a show states by itself: what the models of its devices have.
type stated struct {
	values map[reading.Key]reading.Value
	paths  map[string][]string
}

// state gives what a show states.
func state(p *program.Program) *stated {
	s := &stated{map[reading.Key]reading.Value{}, map[string][]string{}}
	for _, d := range p.Show.Devices() {
		t := p.Devices[d.ID].Type
		if t == nil {
			continue
		}
		if m := t.Model(d.Model, ""); m != nil {
			for _, r := range t.Defaults(m) {
				s.values[reading.Key{Device: d.ID, Path: r.Path}] = r.Value
				s.paths[d.ID] = append(s.paths[d.ID], r.Path)
			}
		}
	}
	return s
}

// Reading implements expr.World.
func (s *stated) Reading(k reading.Key) reading.Reading {
	if v, has := s.values[k]; has {
		return reading.Reading{Value: v, Quality: reading.Confirmed}
	}
	return reading.Reading{Quality: reading.Unknown}
}

// Paths implements device.Known.
func (s *stated) Paths(device string) []string { return s.paths[device] }

// Title is what the subject of a finding is called.
func Title(p *program.Program, r show.Ref, w device.Known) string {
	e := p.Show.Get(r)
	switch {
	case e == nil:
		return "something that is gone"
	case r.Kind == show.KindSettings:
		return "the show"
	case r.Kind == show.KindSafe:
		return "Safe picture of " + p.Called(program.OutputKey(r.ID), w)
	case r.Kind == show.KindMapping:
		m := e.(*show.Mapping)
		return fmt.Sprintf("%s on %s", called(p, p.Mappings[m.ID], w), where(p.Show, m))
	}
	return e.Title()
}

// Path is where the interface shows the subject of a finding; at is which part of it.
func Path(p *program.Program, r show.Ref, at string) string {
	step, _, _ := strings.Cut(at, " ")
	switch r.Kind {
	case show.KindMapping:
		if m := p.Show.Mapping(r.ID); m != nil {
			return "/patch/" + spot(p.Show, m)
		}
	case show.KindPage:
		return "/patch/" + r.ID
	case show.KindProfile:
		if pages := p.Show.Pages(); len(pages) > 0 {
			for _, page := range pages {
				if page.Profile == r.ID {
					return "/patch/" + page.ID
				}
			}
		}
	case show.KindMacro:
		return strings.TrimSuffix("/macros/"+r.ID+"/"+step, "/")
	case show.KindReflex:
		return "/reflexes/" + r.ID
	case show.KindDevice:
		return "/rig/device/" + r.ID
	case show.KindController:
		return "/rig/controller/" + r.ID
	case show.KindLink:
		if l := p.Show.Link(r.ID); l != nil {
			return "/rig/controller/" + l.Controller
		}
	case show.KindSafe:
		return "/rig/safe"
	case show.KindOverlay:
		return "/rig/overlays"
	}
	return "/rig"
}

// spot is a page and a control on which a mapping stands.
func spot(sh *show.Show, m *show.Mapping) string {
	for _, at := range m.Placements {
		for _, p := range pagesOf(sh, at) {
			return p.ID + "/" + at.Control
		}
	}
	return ""
}
