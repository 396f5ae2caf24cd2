package engine

import (
	"fmt"
	"slices"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
)

// SelfID is the id of the built-in device: Synaptor itself.
const SelfID = "synaptor"

// self is the built-in device. It is in no rig and cannot be removed.
var self = show.Device{ID: SelfID, Slug: SelfID, Name: "Synaptor", Type: "synaptor.self", Host: "localhost"}

// Self is what Synaptor's own actions may do outside of the engine. Its methods
// must not block: they are called by the engine's goroutine.
type Self interface {
	// Park takes the link of a device away, or gives it back.
	Park(device string, parked bool)
}

// zoneKey is a zone of a controller while a profile is in force: each profile
// keeps its own pages, so one comes back to where one was.
type zoneKey struct{ controller, zone, profile string }

// profileOf is the profile in force on a controller.
func (e *Engine) profileOf(c *Controller) string {
	if p := e.profiles[c.ID]; p != "" && e.snap.Show.Profile(p) != nil {
		return p
	}
	return c.Profile
}

// zonePages lists the pages of a zone in the profile in force.
func (e *Engine) zonePages(c *Controller, zone string) []string {
	return e.snap.Zone(e.profileOf(c), c.Layout.Type, zone)
}

// zone is where a zone of a controller stands.
func (e *Engine) zone(c *Controller, zone string) *input.Pages {
	key := zoneKey{c.ID, zone, e.profileOf(c)}
	z := e.zones[key]
	if z == nil {
		z = &input.Pages{}
		e.zones[key] = z
		all := e.zonePages(c, zone)
		if i := slices.IndexFunc(c.Start, func(p string) bool { return slices.Contains(all, p) }); i >= 0 {
			z.Current = c.Start[i]
		}
		z.Settle(all)
	}
	return z
}

// settleZones follows a new show: pages that are gone fall to the first one.
func (e *Engine) settleZones() {
	for _, c := range e.snap.Controllers {
		if c.Layout == nil {
			continue
		}
		for _, zone := range c.Layout.Zones() {
			z := e.zone(c, zone)
			z.Settle(e.zonePages(c, zone))
		}
		e.tellPages(c)
	}
	e.tellSelf()
}

// tellPages passes on which pages a controller shows.
func (e *Engine) tellPages(c *Controller) {
	now := pagesChanged{controller: c.ID, profile: e.profileOf(c), zones: map[string][]string{}}
	for _, zone := range c.Layout.Zones() {
		z := e.zone(c, zone)
		now.zones[zone] = z.Shown()
		kept := KeptZone{c.ID, zone, now.profile, input.Pages{Current: z.Current, Back: slices.Clone(z.Back)}}
		now.kept = append(now.kept, kept)
	}
	e.stream.push(now)
}

// tellSelf reports what Synaptor says of itself, as a device would.
func (e *Engine) tellSelf() {
	now := time.Now()
	said := map[string]bool{}
	say := func(path string, v any) {
		said[path] = true
		k := reading.Key{Device: SelfID, Path: path}
		if changed, _ := e.table.Report(k, v, now); changed {
			e.changed(k, "")
		}
	}
	shown := map[string]bool{}
	for _, c := range e.snap.Show.Controllers() {
		cc := e.snap.Controllers[c.ID]
		say("controller/"+c.ID+"/name", c.Name)
		say("controller/"+c.ID+"/profile", e.profileOf(cc))
		if cc.Layout == nil {
			continue
		}
		for _, zone := range cc.Layout.Zones() {
			z := e.zone(cc, zone)
			say("controller/"+c.ID+"/zone/"+zone+"/name", zone)
			say("controller/"+c.ID+"/zone/"+zone+"/page", z.Current)
			for _, p := range z.Shown() {
				shown[p] = true
			}
		}
	}
	for _, p := range e.snap.Show.Pages() {
		say("page/"+p.ID+"/name", p.Name)
		say("page/"+p.ID+"/shown", shown[p.ID])
		say("page/"+p.ID+"/gone", false)
	}
	for id, name := range e.snap.gone {
		say("page/"+id+"/name", name)
		say("page/"+id+"/shown", false)
		say("page/"+id+"/gone", true)
	}
	for _, p := range e.snap.Show.Profiles() {
		say("profile/"+p.ID+"/name", p.Name)
	}
	for _, d := range e.snap.Show.Devices() {
		say("device/"+d.ID+"/name", d.Name)
		rt := e.devices[d.ID]
		say("device/"+d.ID+"/connected", rt != nil && rt.state.Phase == link.Up)
	}
	e.tellMacros(say)
	// What the show no longer has is no choice any more.
	for _, path := range e.table.Paths(SelfID) {
		if !said[path] {
			k := reading.Key{Device: SelfID, Path: path}
			e.table.Drop(k)
			e.stream.push(readingGone{k})
		}
	}
}

// doSelf carries out an action of Synaptor itself. The text is what the journal
// says of it; an error is why it could not be done.
func (e *Engine) doSelf(in Input, c *Controller, m *Mapping, r *Response) (text string, err error) {
	params := r.Bound.Params
	switch r.Call.Action {
	case "park", "connect":
		if e.cfg.Self == nil || e.snap.Show.Device(params["device"]) == nil {
			return "", fmt.Errorf("there is no such device")
		}
		e.cfg.Self.Park(params["device"], r.Call.Action == "park")
		return "Asked for " + e.title(r), nil
	case "run":
		return "The run has begun", e.startRun(in, c, m, params["macro"])
	case "halt", "halt-macro", "halt-here":
		n := e.haltWhere("Halted by "+in.Actor, func(o *run) bool {
			return r.Call.Action == "halt" || r.Call.Action == "halt-macro" && o.Macro == params["macro"] || r.Call.Action == "halt-here" && c != nil && o.Controller == c.ID
		})
		if n == 0 {
			return "Nothing ran that could be halted", nil
		}
		return fmt.Sprintf("%d halted; no picture was changed", n), nil
	case "put-back", "put-back-macro":
		for _, p := range slices.Backward(e.past) {
			if p.entry == in.Entry || r.Call.Action == "put-back-macro" && p.macro != params["macro"] || e.pastOf(p.entry) == nil {
				continue
			}
			if len(e.planBack(p).Returns) == 0 {
				continue // nothing of it is left to return; the one before may have something
			}
			e.backTo(p, in)
			return "Put back what " + e.named(p) + " has changed", nil
		}
		return "", fmt.Errorf("no press or run of the last two minutes has anything to put back")
	case "marker":
		return "Marked: " + params["words"], nil
	case "profile":
		if c == nil {
			return "", fmt.Errorf("this works on a controller only")
		}
		e.profiles[c.ID] = params["profile"]
		for _, zone := range c.Layout.Zones() {
			e.zone(c, zone).Settle(e.zonePages(c, zone))
		}
		e.tellPages(c)
		e.tellSelf()
		return "The profile is in force on " + c.Name, nil
	}
	return e.changePage(in, c, r)
}

// changePage carries out what changes pages.
func (e *Engine) changePage(in Input, c *Controller, r *Response) (string, error) {
	if id := r.Bound.Params["page"]; id != "" {
		p := e.snap.Show.Page(id)
		if p == nil {
			return "", fmt.Errorf("this page is gone")
		}
		done := 0
		for _, target := range e.targets(c, p) {
			z := e.zone(target, p.Zone)
			if r.Call.Action == "page-held" {
				z.Hold(p.ID, in.Controller+"/"+in.Control)
			} else {
				z.To(p.ID)
			}
			e.tellPages(target)
			done++
		}
		if done == 0 {
			return "", fmt.Errorf("no controller can show the page %s now", p.Name)
		}
		e.tellSelf()
		return "The page " + p.Name + " is shown", nil
	}
	if c == nil {
		return "", fmt.Errorf("this works on a controller only")
	}
	zone := c.Controls[in.Control].Zone
	z, all := e.zone(c, zone), e.zonePages(c, zone)
	switch r.Call.Action {
	case "page-home":
		z.Home(all)
	case "page-back":
		if !z.GoBack() {
			return "", fmt.Errorf("there is no page to go back to")
		}
	case "page-next":
		z.Step(all, 1, r.Bound.Params["end"] != "stop")
	case "page-previous":
		z.Step(all, -1, r.Bound.Params["end"] != "stop")
	}
	e.tellPages(c)
	e.tellSelf()
	name := ""
	if p := e.snap.Show.Page(z.Current); p != nil {
		name = p.Name
	}
	return "The page " + name + " is shown", nil
}

// targets lists the controllers that show a page: the one that was pressed, else
// all of its layout and profile.
func (e *Engine) targets(c *Controller, p *show.Page) []*Controller {
	fits := func(c *Controller) bool {
		return c.Layout != nil && c.Layout.Type == p.Layout && e.profileOf(c) == p.Profile
	}
	if c != nil && fits(c) {
		return []*Controller{c}
	}
	var out []*Controller
	for _, o := range e.snap.Show.Controllers() {
		if cc := e.snap.Controllers[o.ID]; fits(cc) {
			out = append(out, cc)
		}
	}
	return out
}

// runSelf carries out an action of Synaptor itself for an input and writes its
// trace.
func (e *Engine) runSelf(in Input, c *Controller, m *Mapping, r *Response) {
	at := time.Now()
	e.record(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDispatch, Text: "Done by Synaptor itself"})
	text, err := e.doSelf(in, c, m, r)
	if err == nil {
		e.recordSelf(r)
	}
	if err != nil {
		e.refuse(in, m, at, "This cannot be done: "+err.Error()+".")
		return
	}
	done := journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: text, Outcome: journal.Confirmed, Confirms: true}
	switch r.Call.Action {
	case "run":
		return // its entry ends with the run
	case "put-back", "put-back-macro":
		done.Outcome, done.Confirms = "", false // what is sent ends it
	}
	e.record(done)
}

// letGoPages takes away the pages that a control holds.
func (e *Engine) letGoPages(key string) {
	for k, z := range e.zones {
		if c := e.snap.Controllers[k.controller]; z.LetGo(key) && c != nil && c.Layout != nil {
			e.tellPages(c)
			e.tellSelf()
		}
	}
}
