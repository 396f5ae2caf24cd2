package engine

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/core/show"
	"synaptor/internal/journal"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// Outside is what Synaptor's own actions may do outside of the engine. Its methods
// must not block: they are called by the engine's goroutine.
type Outside interface {
	// Park takes the link of a device away, or gives it back.
	Park(device string, parked bool)
}

// zoneKey is a zone of a controller while a profile is in force: each profile
// keeps its own pages, so one comes back to where one was.
type zoneKey struct{ controller, zone, profile string }

// profileOf is the profile in force on a controller.
func (e *Engine) profileOf(c *program.Controller) string {
	if p := e.profiles[c.ID]; p != "" && e.program.Show.Profile(p) != nil {
		return p
	}
	return c.Profile
}

// zonePages lists the pages of a zone in the profile in force.
func (e *Engine) zonePages(c *program.Controller, zone string) []string {
	return e.program.Zone(e.profileOf(c), c.Layout.Type, zone)
}

// pagesOf is where a zone of a controller stands.
func (e *Engine) pagesOf(c *program.Controller, zone string) *input.Pages {
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
	for _, c := range e.program.Controllers {
		if c.Layout == nil {
			continue
		}
		for _, zone := range c.Layout.Zones() {
			z := e.pagesOf(c, zone)
			z.Settle(e.zonePages(c, zone))
		}
		e.publishPages(c)
	}
	e.publishSelf()
}

// publishPages passes on which pages a controller shows.
func (e *Engine) publishPages(c *program.Controller) {
	now := PagesChanged{Controller: c.ID, Profile: e.profileOf(c), Zones: map[string][]string{}, Open: e.openTalks(c)}
	for _, zone := range c.Layout.Zones() {
		z := e.pagesOf(c, zone)
		now.Zones[zone] = z.Shown()
		kept := KeptZone{c.ID, zone, now.Profile, input.Pages{Current: z.Current, Back: slices.Clone(z.Back)}}
		now.Kept = append(now.Kept, kept)
	}
	e.stream.push(now)
}

// publishSelf reports what Synaptor says of itself, as a device would.
func (e *Engine) publishSelf() {
	said := map[string]bool{}
	say := func(path string, v any) {
		said[path] = true
		e.reportOwn(path, v)
	}
	for path, v := range e.told {
		say(path, v)
	}
	shown := map[string]bool{}
	for _, c := range e.program.Show.Controllers() {
		cc := e.program.Controllers[c.ID]
		say("controller/"+c.ID+"/name", c.Name)
		say("controller/"+c.ID+"/profile", e.profileOf(cc))
		if cc.Layout == nil {
			continue
		}
		for _, zone := range cc.Layout.Zones() {
			z := e.pagesOf(cc, zone)
			say("controller/"+c.ID+"/zone/"+zone+"/name", zone)
			say("controller/"+c.ID+"/zone/"+zone+"/page", z.Current)
			for _, p := range z.Shown() {
				shown[p] = true
			}
		}
	}
	for _, p := range e.program.Show.Pages() {
		say("page/"+p.ID+"/name", p.Name)
		say("page/"+p.ID+"/shown", shown[p.ID])
		say("page/"+p.ID+"/gone", false)
	}
	for id, name := range e.program.GonePages {
		say("page/"+id+"/name", name)
		say("page/"+id+"/shown", false)
		say("page/"+id+"/gone", true)
	}
	for _, o := range e.program.Outputs(e.table) {
		_, holder := e.cfg.Access.Holder(o.Changes)
		say("output/"+o.ID+"/name", e.program.OutputName(o, e.table))
		say("output/"+o.ID+"/holder", holder)
	}
	say("locked", e.cfg.Access.Locked())
	e.publishSwitches(say)
	e.publishSafe(say)
	e.publishTimers(say)
	e.publishOverlays(say)
	e.publishSignals(say)
	for _, p := range e.program.Show.Profiles() {
		say("profile/"+p.ID+"/name", p.Name)
	}
	for _, d := range e.program.Show.Devices() {
		say("device/"+d.ID+"/name", d.Name)
		rt := e.devices[d.ID]
		say("device/"+d.ID+"/connected", rt != nil && rt.state.Phase == link.Up)
	}
	e.publishMacros(say)
	// What the show no longer has is no choice any more.
	for _, path := range e.table.Paths(program.SelfID) {
		if !said[path] {
			k := reading.Key{Device: program.SelfID, Path: path}
			e.table.Drop(k)
			e.stream.push(ReadingGone{k})
		}
	}
}

// reportOwn reports a reading of Synaptor itself.
func (e *Engine) reportOwn(path string, v any) {
	k := reading.Key{Device: program.SelfID, Path: path}
	was := e.table.Reading(k)
	if changed, _ := e.table.Report(k, v, time.Now()); changed {
		e.changed(k, "", "")
		e.sees(k, was, led{e.during.chain, e.doing.entry})
	}
}

// carryOutOwn carries out an action of Synaptor itself. The text is what the journal
// says of it; an error is why it could not be done.
func (e *Engine) carryOutOwn(in Input, c *program.Controller, m *program.Mapping, r *program.Response) (text string, err error) {
	params := r.Bound.Params
	switch r.Call.Action {
	case "park", "connect":
		if e.cfg.Outside == nil || e.program.Show.Device(params["device"]) == nil {
			return "", fmt.Errorf("there is no such device")
		}
		if why := e.cfg.Access.Allow(access.Command{Actor: access.Actor{ID: in.By, Name: in.Actor}, Device: params["device"]}); why != "" {
			return "", errors.New(why)
		}
		e.cfg.Outside.Park(params["device"], r.Call.Action == "park")
		return "Asked for " + e.title(r), nil
	case "lock":
		locked := params["to"] == "locked" || params["to"] == "the other" && !e.cfg.Access.Locked()
		e.cfg.Access.Lock(locked)
		e.reportOwn("locked", locked) // at once; the keeper says so to others
		return "Edits are " + map[bool]string{true: "refused", false: "taken"}[locked] + " from now on", nil
	case "take-output":
		return e.takeOutput(in, params["output"])
	case "run":
		return "The run has begun", e.startRun(in, c, m, params["macro"])
	case "halt", "halt-macro", "halt-here":
		h := Halt{Macro: params["macro"]}
		if r.Call.Action == "halt-here" {
			if c == nil {
				return "", errNoController
			}
			h.Controller = c.ID
		}
		return haltedText(e.haltFor(h, in.Actor)), nil
	case "put-back", "put-back-macro":
		for _, p := range slices.Backward(e.restorables) {
			if p.entry == in.Entry || r.Call.Action == "put-back-macro" && p.macro != params["macro"] || e.restorableOf(p.entry) == nil {
				continue
			}
			if len(e.planBack(p).Returns) == 0 {
				continue // nothing of it is left to return; the one before may have something
			}
			e.putBackFor(p, in)
			return "Put back what " + e.titleOf(p) + " has changed", nil
		}
		return "", fmt.Errorf("no press or run of the last two minutes has anything to put back")
	case "reflexes", "audience":
		return e.switchAll(r.Call.Action == "audience", params["to"]), nil
	case "reflex":
		return e.switchReflex(params["reflex"], params["to"])
	case "signal":
		return e.sendSignal(params["signal"], nil, in.Actor, in.chain), nil
	case "timer", "timer-start", "timer-stop", "timer-reset", "timer-set", "timer-stand":
		return e.timerAction(r)
	case "overlay", "overlay-show", "overlay-hide", "overlay-show-for", "overlay-next", "overlay-previous", "overlay-entry", "overlay-write", "overlay-said":
		return e.overlayAction(r)
	case "safe":
		return e.makeSafe(in, "")
	case "safe-output":
		return e.makeSafe(in, params["output"])
	case "safe-back":
		return e.safeBack(in)
	case "warn":
		given, err := e.given(r)
		if err != nil {
			return "", err
		}
		e.warn(given[0], in)
		return "Warned: " + given[0], nil
	case "seen":
		e.warn("", in)
		return "The warning is gone", nil
	case "marker":
		return e.mark(r, in)
	case "profile":
		return e.useProfile(c, params["profile"])
	case "page":
		return e.showPage(c, params["page"], "")
	case "page-held":
		return e.showPage(c, params["page"], controlKey(in))
	}
	return e.turnPage(in, c, r)
}

// mark sets a marker, at the moment of the input or some seconds before it.
func (e *Engine) mark(r *program.Response, in Input) (string, error) {
	given, err := e.given(r)
	if err != nil {
		return "", err
	}
	words, kind := given[0], given[1]
	lead, err := strconv.ParseFloat(given[2], 64)
	if err != nil {
		return "", errors.New("how long before it the marker points is a number of seconds")
	}
	if e.cfg.Markers != nil {
		e.cfg.Markers.Mark(kind, words, in.Actor, in.Entry, time.Now(), time.Duration(lead*float64(time.Second)))
	}
	return "Marked: " + words, nil
}

// errNoController says that something needs a controller to work on.
var errNoController = errors.New("this works on a controller only")

// useProfile puts a profile in force on a controller.
func (e *Engine) useProfile(c *program.Controller, profile string) (string, error) {
	if c == nil {
		return "", errNoController
	}
	if e.program.Show.Profile(profile) == nil {
		return "", errors.New("this profile is gone")
	}
	e.profiles[c.ID] = profile
	for _, zone := range c.Layout.Zones() {
		e.pagesOf(c, zone).Settle(e.zonePages(c, zone))
	}
	e.publishPages(c)
	e.publishSelf()
	return "The profile is in force on " + c.Name, nil
}

// showPage shows a page on the controllers that it is for; heldBy is the control that
// it is held with, or "".
func (e *Engine) showPage(c *program.Controller, id, heldBy string) (string, error) {
	p := e.program.Show.Page(id)
	if p == nil {
		return "", errors.New("this page is gone")
	}
	targets := e.targets(c, p)
	if len(targets) == 0 {
		return "", fmt.Errorf("no controller can show the page %s now", p.Name)
	}
	for _, target := range targets {
		if z := e.pagesOf(target, p.Zone); heldBy != "" {
			z.Hold(p.ID, heldBy)
		} else {
			z.To(p.ID)
		}
		e.publishPages(target)
	}
	e.publishSelf()
	return "The page " + p.Name + " is shown", nil
}

// turnPage goes home, back, or to the page beside.
func (e *Engine) turnPage(in Input, c *program.Controller, r *program.Response) (string, error) {
	if c == nil {
		return "", errNoController
	}
	zone := c.Controls[in.Control].Zone
	z, all := e.pagesOf(c, zone), e.zonePages(c, zone)
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
	e.publishPages(c)
	e.publishSelf()
	name := ""
	if p := e.program.Show.Page(z.Current); p != nil {
		name = p.Name
	}
	return "The page " + name + " is shown", nil
}

// targets lists the controllers that show a page: the one that was pressed, else
// all of its layout and profile.
func (e *Engine) targets(c *program.Controller, p *show.Page) []*program.Controller {
	fits := func(c *program.Controller) bool {
		return c.Layout != nil && c.Layout.Type == p.Layout && e.profileOf(c) == p.Profile
	}
	if c != nil && fits(c) {
		return []*program.Controller{c}
	}
	var out []*program.Controller
	for _, o := range e.program.Show.Controllers() {
		if cc := e.program.Controllers[o.ID]; fits(cc) {
			out = append(out, cc)
		}
	}
	return out
}

// ownAction carries out an action of Synaptor itself for an input and writes its
// trace; refused says why it is not done.
func (e *Engine) ownAction(in Input, c *program.Controller, m *program.Mapping, r *program.Response) (refused string) {
	at := time.Now()
	e.log(journal.Event{Entry: in.Entry, At: at, Stage: journal.StageDispatch, Text: "Done by Synaptor itself"})
	p := &restorable{entry: in.Entry, at: in.At, resp: r, bases: macro.Baselines{}}
	text, err := e.changeOwn(r, cause{runs: []int{0}, bases: p.bases}, func() (string, error) { return e.carryOutOwn(in, c, m, r) })
	if err == nil {
		e.recordOwnAction(r)
		if len(r.Bound.Affects()) > 0 {
			e.keepRestorable(p)
		}
	}
	if err != nil {
		refused = "This cannot be done: " + err.Error() + "."
		e.refuse(in, m, at, refused)
		return refused
	}
	done := journal.Event{Entry: in.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: text, Outcome: journal.Confirmed, Confirms: true}
	switch r.Call.Action {
	case "run":
		return "" // its entry ends with the run
	case "put-back", "put-back-macro", "safe", "safe-output", "safe-back":
		done.Outcome, done.Confirms = "", false // what is sent ends it
	}
	e.log(done)
	return ""
}

// releasePages takes away the pages that a control holds.
func (e *Engine) releasePages(key string) {
	for k, z := range e.zones {
		if c := e.program.Controllers[k.controller]; z.LetGo(key) && c != nil && c.Layout != nil {
			e.publishPages(c)
			e.publishSelf()
		}
	}
}
