package engine

import (
	"fmt"
	"time"

	"synaptor/internal/access"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/link"
	"synaptor/internal/program"
)

// reached is a device that can be handed something now.
type reached struct {
	device *program.Device
	state  *deviceState
	link   *link.Link
}

// reach is the only way to a device: for presses and dials, fades, put backs and
// runs. why is the sentence that says why it cannot be reached; "" where it can. A
// response may be older than the show: its device may be gone since, or be driven by
// another sheet.
func (e *Engine) reach(r *program.Response) (to reached, why string) {
	if r.Problem != "" {
		return to, r.Problem
	}
	d, rt := e.program.Devices[r.Device], e.devices[r.Device]
	if d == nil || d.Type == nil || rt == nil {
		return to, fmt.Sprintf("%s is no longer in the rig. Nothing was sent.", r.Name)
	}
	switch rt.state.Phase {
	case link.Up, link.Syncing:
	case link.Parked:
		return to, d.Name + " is parked. Nothing was sent."
	case link.Locked:
		return to, d.Name + " does not let Synaptor in: its password has to be entered again. Nothing was sent."
	default:
		since := ""
		if !rt.heard.IsZero() {
			since = fmt.Sprintf(" Last heard %s ago.", brief(time.Since(rt.heard)))
		}
		return to, fmt.Sprintf("%s does not answer at %s.%s Nothing was sent.", d.Name, d.Address(), since)
	}
	if rt.link == nil {
		return to, fmt.Sprintf("%s is not connected. Nothing was sent.", d.Name)
	}
	if r.Type != d.Type {
		return to, fmt.Sprintf("%s was given another device sheet since this began. Nothing was sent.", d.Name)
	}
	return reached{d, rt, rt.link}, ""
}

// refusal says why a response cannot be sent now, or "".
func (e *Engine) refusal(in Input, mapping string, r *program.Response) string {
	if why := e.unreachable(in, mapping, r); why != "" {
		return why
	}
	if r.Device == program.SelfID || e.devices[r.Device].state.Phase == link.Up {
		if !e.program.Owns(mapping, r) {
			return r.Bound.Refusal(e.ahead()) // made for once: nobody asks for it again
		}
		return e.unmet(r)
	}
	return ""
}

// unmet is Refusal of the action of a mapping of the show. That an action's needs are met is remembered
// with the readings that they were met by: to see that these are the same takes a tenth of
// evaluating the conditions, which a press waits for.
func (e *Engine) unmet(r *program.Response) string {
	if e.stillMet(e.met[r]) {
		return ""
	}
	why := r.Bound.Refusal(e.ahead())
	if why != "" {
		return why
	}
	met := []needed{}
	for _, k := range r.Bound.RefusalKeys() {
		met = append(met, needed{k, e.ahead().Reading(k)})
	}
	e.met[r] = met
	return ""
}

// needed is a reading that an action's needs depend on, as it was when they were met.
type needed struct {
	key reading.Key
	was reading.Reading
}

// stillMet reports whether all are as they were; false where nothing is remembered.
func (e *Engine) stillMet(met []needed) bool {
	for _, n := range met {
		now := e.ahead().Reading(n.key)
		if now.Value != n.was.Value || now.Quality != n.was.Quality || now.Expected != n.was.Expected {
			return false
		}
	}
	return met != nil
}

// unreachable says why a response cannot be sent whatever the state of its device, or
// "".
func (e *Engine) unreachable(in Input, mapping string, r *program.Response) string {
	if r.Device == program.SelfID {
		if r.Problem != "" || ownChanges(r) == nil {
			return r.Problem
		}
		return e.forbidden(in, mapping, r)
	}
	if _, why := e.reach(r); why != "" {
		return why
	}
	return e.forbidden(in, mapping, r)
}

// forbidden says why whoever caused a command may not have it sent, or "".
func (e *Engine) forbidden(in Input, mapping string, r *program.Response) string {
	changes := r.Bound.Affects()
	if r.Device == program.SelfID {
		changes = ownChanges(r)
	}
	return e.cfg.Access.Allow(access.Command{Actor: access.Actor{ID: in.By, Name: in.Actor, Via: in.Via}, Cause: mapping, Entry: in.Entry,
		Device: r.Device, Action: r.Call.Action, Changes: changes, Closes: in.closes})
}

// brief is a duration in words.
func brief(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s", int(d.Seconds()))
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	}
	return fmt.Sprintf("%d h", int(d.Hours()))
}

// Forbidden says why somebody may not use a mapping whatever happens, since all that it does is forbidden to them or taken by somebody else; ""
// where something of it would be let through.
func Forbidden(k *access.Keeper, by access.Actor, p *program.Program, m *program.Mapping) (why string) {
	for _, r := range m.Responses {
		if why = forbids(k, by, p, r); why == "" {
			return ""
		}
	}
	return why
}

// forbids says why a response would not be let through, or "".
func forbids(k *access.Keeper, by access.Actor, p *program.Program, r *program.Response) (why string) {
	switch mac := p.RunsMacro(r); {
	case r.Problem != "":
		return "" // that is said already
	case r.Opens != nil:
		return forbids(k, by, p, r.Opens)
	case mac != nil:
		all, any := true, ""
		mac.EachStep(func(_ *macro.Node, step *program.Response) {
			if step == nil || step.Bound == nil {
				return
			}
			if no := forbids(k, by, p, step); no == "" {
				all = false
			} else if any == "" {
				any = no
			}
		})
		if mac.Source.Partly && !all {
			return "" // what is let through is sent
		}
		return any
	case r.Device == program.SelfID:
		if device := r.Bound.Params["device"]; device != "" {
			return k.Allow(access.Command{Actor: by, Device: device})
		}
		if changes := ownChanges(r); changes != nil {
			return k.Allow(access.Command{Actor: by, Device: r.Device, Action: r.Call.Action, Changes: changes})
		}
		return ""
	}
	return k.Allow(access.Command{Actor: by, Device: r.Device, Action: r.Call.Action, Changes: r.Bound.Affects()})
}
