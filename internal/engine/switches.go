package engine

import (
	"errors"
	"fmt"
	"maps"
	"time"

	"synaptor/internal/core/reflex"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// Switches are what hands, keys and reflexes have switched on and off; they survive a restart.
type Switches struct {
	// On has those reflexes that were switched otherwise than the show says, by id.
	On map[string]bool `json:"on,omitempty"`
	// AllOff and AudienceOff keep all reflexes, and those of the audience, from firing.
	AllOff      bool `json:"allOff,omitempty"`
	AudienceOff bool `json:"audienceOff,omitempty"`
	// Skips has the time that a schedule is passed over at, by reflex.
	Skips map[string]time.Time `json:"skips,omitempty"`
}

// SwitchesChanged says what is switched how.
type SwitchesChanged struct{ Now Switches }

func (s Switches) clone() Switches {
	out := s
	out.On, out.Skips = map[string]bool{}, map[string]time.Time{}
	maps.Copy(out.On, s.On)
	maps.Copy(out.Skips, s.Skips)
	return out
}

// maxForeign is how many switches and timers are kept of what the show that is open does not have: other shows do, and an undo brings things back.
//
//limit:count switches of reflexes, and timers, that are kept of other shows | nowhere; they are as the show says then
const maxForeign = 2000

// tidy lets go of what is over, and of what the show does not have where there is too much of that.
func (s *Switches) tidy(sh *show.Show) (any bool) {
	n := len(s.On) + len(s.Skips)
	if len(s.On) > maxForeign {
		maps.DeleteFunc(s.On, func(id string, _ bool) bool { return sh.Reflex(id) == nil })
	}
	maps.DeleteFunc(s.Skips, func(_ string, at time.Time) bool { return time.Since(at) > 24*time.Hour })
	return len(s.On)+len(s.Skips) < n
}

// isOn tells whether a reflex is switched on by itself.
func (e *Engine) isOn(r *program.Reflex) bool {
	on, switched := e.switches.On[r.Source.ID]
	if !switched {
		on = !r.Source.Off
	}
	return on && (e.reflexes[r.Source.ID] == nil || e.reflexes[r.Source.ID].Broken == "")
}

// offBecause says why a reflex does nothing, or "".
func (e *Engine) offBecause(r *program.Reflex) string {
	switch {
	case !e.isOn(r):
		return "It is switched off."
	case e.switches.AllOff:
		return "All reflexes are off."
	case e.switches.AudienceOff && e.program.OfAudience(r):
		return "The audience is off."
	}
	return ""
}

// onOr gives what a choice of on, off and the other means.
func onOr(to string, was bool) bool { return to == "on" || to == "the other" && !was }

var onWord = map[bool]string{true: "on", false: "off"}

// switchReflex switches one reflex on, off or over. One that was switched off by itself is mended.
func (e *Engine) switchReflex(id, to string) (string, error) {
	r := e.program.Reflex(id)
	if r == nil {
		return "", errors.New("this reflex is gone")
	}
	on := onOr(to, e.isOn(r))
	st := e.reflexState(r)
	if on {
		st.Broken, st.Breaker, st.row.Held = "", reflex.Breaker{}, ""
	} else {
		st.offered = nil
		e.letGo(r, "It was switched off")
	}
	e.switches.On[id] = on
	if on == !r.Source.Off {
		delete(e.switches.On, id)
	}
	e.switched()
	return fmt.Sprintf("The reflex %s is %s", r.Source.Name, onWord[on]), nil
}

// switchAll switches all reflexes, or those of the audience.
func (e *Engine) switchAll(audience bool, to string) string {
	which, name := &e.switches.AllOff, "All reflexes are "
	if audience {
		which, name = &e.switches.AudienceOff, "The audience is "
	}
	*which = !onOr(to, !*which)
	if *which {
		for _, r := range e.program.Reflexes.All {
			if e.offBecause(r) != "" {
				e.letGo(r, "It was switched off")
			}
		}
	}
	e.switched()
	return name + onWord[!*which]
}

// switched tells others how the switches stand.
func (e *Engine) switched() {
	e.stream.push(SwitchesChanged{e.switches.clone()})
	for _, r := range e.program.Reflexes.All {
		e.publishReflex(e.reflexState(r))
		if r.Source.On.Kind == reflex.OnWhile {
			e.follow(r)
		}
	}
	e.publishSwitches(e.reportOwn)
}

// Warned is what is warned of; empty: nothing is.
type Warned struct {
	Text  string    `json:"text"`
	By    string    `json:"by"`
	At    time.Time `json:"at"`
	Entry string    `json:"entry"` // of the journal
}

// warn shows a warning until somebody has seen it.
func (e *Engine) warn(text string, in Input) {
	e.told["warning"] = text
	e.reportOwn("warning", text)
	e.stream.push(Warned{text, in.Actor, time.Now(), in.Entry})
}

// publishSwitches says how the switches stand as readings of Synaptor.
func (e *Engine) publishSwitches(say func(path string, v any)) {
	say("reflexes/on", !e.switches.AllOff)
	say("audience/on", !e.switches.AudienceOff)
	for _, r := range e.program.Reflexes.All {
		say("reflex/"+r.Source.ID+"/name", r.Source.Name)
		say("reflex/"+r.Source.ID+"/on", e.isOn(r))
	}
}
