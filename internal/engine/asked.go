package engine

import (
	"cmp"
	"fmt"
	"time"

	"synaptor/internal/journal"
	"synaptor/internal/program"
)

// Request says who asks for something without a control, and the journal entry it gets.
type Request struct {
	Entry string // from journal.NextID
	At    time.Time
	Via   string
	Actor string
	By    string // the id of the person, panel or program; empty: this computer itself
}

// Halt ends runs at once: those of a macro or of a controller, else all. It overtakes
// everything that waits, and needs nothing but the engine.
type Halt struct {
	Request
	Macro      string // id; empty: of any
	Controller string // id; empty: of any
}

// Halt hands in a halt.
func (e *Engine) Halt(h Halt) {
	select {
	case e.halts <- h:
	case <-e.quit:
	}
}

// picks tells whether a run is meant.
func (h Halt) picks(r *run) bool {
	return (h.Macro == "" || r.Macro == h.Macro) && (h.Controller == "" || r.Controller == h.Controller)
}

// haltAsked carries out a halt that no key has asked for.
func (e *Engine) haltAsked(h Halt) {
	e.doing.entry = h.Entry
	title := "Halt everything"
	if m := e.program.Macros[h.Macro]; m != nil {
		title = "Halt " + m.Source.Name
	}
	n := e.haltFor(h, h.Actor)
	e.openOwn(h.Request, title, originOf("Halt", "halt", h.Request))
	e.confirmOwn(h.Request, haltedText(n))
}

// haltFor halts what a halt means. One that means everything stops what reflexes fade, too.
func (e *Engine) haltFor(h Halt, actor string) int {
	n := e.haltWhere("Halted by "+actor, h.picks)
	if h.Macro == "" && h.Controller == "" {
		n += e.haltHolds()
	}
	return n
}

// originOf is where something comes from that is asked for without a control.
func originOf(where, gesture string, by Request) *journal.Origin {
	return &journal.Origin{ControllerName: where, Gesture: gesture, Via: by.Via, Actor: by.Actor}
}

func haltedText(n int) string {
	if n == 0 {
		return "Nothing ran that could be halted"
	}
	return fmt.Sprintf("%d halted; no picture was changed", n)
}

// openOwn opens the entry of something that Synaptor itself is asked for.
func (e *Engine) openOwn(by Request, title string, o *journal.Origin) {
	e.log(journal.Event{Entry: by.Entry, At: by.At, Stage: journal.StageInput, Text: "Asked for on " + o.ControllerName, Origin: o})
	e.log(journal.Event{Entry: by.Entry, At: time.Now(), Stage: journal.StageDispatch, Text: "Done by Synaptor itself", Title: title, Device: program.Self.Name})
}

func (e *Engine) confirmOwn(by Request, text string) {
	e.log(journal.Event{Entry: by.Entry, At: time.Now(), Stage: journal.StageConfirm, Text: text, Outcome: journal.Confirmed, Confirms: true})
}

// ShowPage turns a controller to a page, as a key of it that leads there would.
type ShowPage struct {
	Request
	Controller, Page string // ids
}

// UseProfile puts a profile in force on a controller.
type UseProfile struct {
	Request
	Controller, Profile string // ids
}

// Try carries out an action that somebody tries in Rig.
type Try struct {
	Request
	Response *program.Response
	Where    string // empty: Rig
}

// Ask hands in a ShowPage, a UseProfile or a Try.
func (e *Engine) Ask(a asked) { e.arrive(arrival{asked: a}) }

func (a ShowPage) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	name := "a page"
	if p := e.program.Show.Page(a.Page); p != nil {
		name = p.Name
	}
	e.onController(a.Request, a.Controller, "Show "+name, func(c *program.Controller) (string, error) { return e.showPage(c, a.Page, "") })
}

func (a UseProfile) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	name := "a profile"
	if p := e.program.Show.Profile(a.Profile); p != nil {
		name = p.Name
	}
	e.onController(a.Request, a.Controller, "Use "+name, func(c *program.Controller) (string, error) { return e.useProfile(c, a.Profile) })
}

// onController carries out something on a controller and writes its trace.
func (e *Engine) onController(by Request, controller, title string, do func(*program.Controller) (string, error)) {
	c := e.program.Controllers[controller]
	origin := &journal.Origin{ControllerName: "a controller that is gone", Gesture: "page", Via: by.Via, Actor: by.Actor}
	if c != nil {
		origin.Controller, origin.ControllerName = c.Slug, c.Name
	}
	e.openOwn(by, title, origin)
	text, err := "", error(errNoController)
	if c != nil && c.Layout != nil {
		text, err = do(c)
	}
	if err != nil {
		e.refuse(Input{Entry: by.Entry}, nil, time.Now(), "This cannot be done: "+err.Error()+".")
		return
	}
	e.confirmOwn(by, text)
}

func (a Try) carryOut(e *Engine) {
	e.doing.entry = a.Entry
	r, decided, where := a.Response, time.Now(), cmp.Or(a.Where, "Rig")
	in := Input{Entry: a.Entry, At: a.At, Via: a.Via, Actor: a.Actor, By: a.By}
	e.log(journal.Event{Entry: a.Entry, At: a.At, Stage: journal.StageInput, Text: "Asked for in " + where, Origin: originOf(where, "try", a.Request)})
	e.log(journal.Event{Entry: a.Entry, At: decided, Stage: journal.StageDecision, Text: "The action was tried by hand", Title: e.title(r), Device: r.Name})
	e.respond(in, decided, r)
}

// respond sends one response that no binding gives, decided at a time; refused says why it is not sent, as its entry does.
func (e *Engine) respond(in Input, decided time.Time, r *program.Response) (refused string) {
	if len(in.chain) > 0 {
		refused = e.heldBySafe(in, decided, r)
	}
	if refused == "" {
		refused = e.refusal(in, "", r)
	}
	if refused != "" {
		e.refuse(in, nil, decided, refused)
		return refused
	}
	if r.Device == program.SelfID {
		return e.ownAction(in, nil, nil, r)
	}
	cmd, err := e.dispatch(in, e.restorableCause(in, "", r), r)
	if err != nil {
		refused = fmt.Sprintf("This cannot be sent to %s: %v.", r.Name, err)
		e.refuse(in, nil, decided, refused)
		return refused
	}
	e.logDispatch(cmd, r)
	return ""
}
