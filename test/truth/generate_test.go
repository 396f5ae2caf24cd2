package truth

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/macro"
	"synaptor/internal/core/show"
)

// action is something that a device can be told, with the reading that it changes.
type action struct {
	device, name string
	params       map[string]string
	key          string // device:path
	// level: the reading is a number that can be faded.
	level bool
}

func (a action) call() *show.Call {
	return &show.Call{Device: a.device, Action: a.name, Params: a.params}
}

func on(b bool) string {
	if b {
		return "on"
	}
	return "off"
}

// anAction picks something to do at random.
func (w *world) anAction() action {
	n := func(max int) string { return strconv.Itoa(1 + w.random.IntN(max)) }
	yes := w.random.IntN(2) == 0
	p := func(pairs ...string) map[string]string {
		m := map[string]string{}
		for i := 0; i < len(pairs); i += 2 {
			m[pairs[i]] = pairs[i+1]
		}
		return m
	}
	switch w.random.IntN(27) {
	case 0:
		mix := n(2)
		return action{"dome-switcher", "put-on-program", p("input", n(6), "mix", mix), "dome-switcher:mix/" + mix + "/program", false}
	case 1, 2:
		mix := n(2)
		return action{"dome-switcher", "put-on-preview", p("input", n(6), "mix", mix), "dome-switcher:mix/" + mix + "/preview", false}
	case 3, 4:
		mix := n(2)
		return action{"dome-switcher", "cut", p("mix", mix), "dome-switcher:mix/" + mix + "/program", false}
	case 5:
		k := n(3)
		return action{"dome-switcher", "keyer-" + on(yes), p("keyer", k), "dome-switcher:keyer/" + k + "/on", false}
	case 6:
		k := n(3)
		return action{"dome-switcher", "keyer-toggle", p("keyer", k), "dome-switcher:keyer/" + k + "/on", false}
	case 7:
		o := n(3)
		return action{"dome-switcher", "route", p("input", n(6), "output", o), "dome-switcher:out/" + o + "/source", false}
	case 8:
		return action{"dome-switcher", "mix-keyer-corner", p("corner", pick(w, "top left", "top right", "bottom right", "bottom left"), "mix", "1", "mixkeyer", "1"),
			"dome-switcher:mix/1/keyer/1/corner", false}
	case 9:
		c := n(6)
		return action{"sound-desk", pick(w, "open", "mute"), p("channel", c), "sound-desk:channel/" + c + "/mute", false}
	case 10:
		c := n(6)
		return action{"sound-desk", "mute-toggle", p("channel", c), "sound-desk:channel/" + c + "/mute", false}
	case 11, 12:
		c := n(6)
		return action{"sound-desk", "level", p("channel", c, "level", pick(w, "-90", "-60", "-33.5", "-20", "-6", "0", "4.5", "10")), "sound-desk:channel/" + c + "/level", true}
	case 13:
		return action{"sound-desk", "main-level", p("level", pick(w, "-40", "-12", "-3", "0")), "sound-desk:main/level", true}
	case 14:
		c := n(6)
		return action{"sound-desk", "cue-" + on(yes), p("channel", c), "sound-desk:channel/" + c + "/solo", false}
	case 15:
		l := n(4)
		return action{"dome-lights", pick(w, "lamp-on", "lamp-off", "lamp-toggle"), p("lamp", l), "dome-lights:lamp/" + l + "/on", false}
	case 16, 17:
		l := n(4)
		return action{"dome-lights", "brightness", p("lamp", l, "level", pick(w, "0", "15", "40", "77", "100")), "dome-lights:lamp/" + l + "/brightness", true}
	case 18:
		l := n(4)
		return action{"dome-lights", "brightness-by", p("lamp", l, "step", pick(w, "-30", "-7", "10", "25")), "dome-lights:lamp/" + l + "/brightness", false}
	case 19:
		l := n(3)
		return action{"talkback", "talk-" + pick(w, "on", "off", "toggle"), p("line", l), "talkback:line/" + l + "/talk", false}
	case 20:
		l := n(3)
		return action{"talkback", "level", p("line", l, "level", pick(w, "-60", "-18", "-6", "0", "6")), "talkback:line/" + l + "/level", true}
	case 21:
		s, sc := n(4), pick(w, "2", "3", "4")
		return action{"stream-pc", "source-" + pick(w, "on", "off", "toggle"), p("source", s, "scene", sc, "set", "1"), "stream-pc:set/1/scene/" + sc + "/source/" + s + "/shown", false}
	case 22:
		i := n(4)
		return action{"stream-pc", pick(w, "open", "mute", "mute-toggle"), p("input", i), "stream-pc:input/" + i + "/muted", false}
	case 23:
		i := n(4)
		return action{"stream-pc", "level", p("input", i, "level", pick(w, "-60", "-30", "-12", "0", "6")), "stream-pc:input/" + i + "/level", true}
	case 26:
		i := n(4)
		return action{"stream-pc", "level-by", p("input", i, "step", pick(w, "-3", "2", "5")), "stream-pc:input/" + i + "/level", false}
	case 24:
		f := n(2)
		return action{"stream-pc", "filter-" + pick(w, "on", "off", "toggle"), p("filter", f), "stream-pc:filter/" + f + "/on", false}
	default:
		return action{"dome-camera", "brightness", p("level", pick(w, "0", "25", "50", "80")), "dome-camera:brightness", true}
	}
}

// generated is a macro made at random.
type generated struct {
	macro *show.Macro
	steps []*show.Step
	// faded has the readings that a fade, a cut or a put back touches: how often these change is not counted.
	faded  map[string]bool
	nested []*generated // what it runs
}

// generator puts the steps of a macro together.
type generator struct {
	*world
	*generated
	others []*generated // macros that it may run
	budget int          // steps that may still be added
}

// generate makes a macro with an id at random; it may run those that were made before.
func (w *world) generate(id string, others []*generated) *generated {
	g := &generator{w, &generated{macro: &show.Macro{ID: id, Slug: id, Name: "Macro " + id}, faded: map[string]bool{}}, others, 3 + w.random.IntN(9)}
	g.macro.OnError = pick(w, "", "", "go-on", "put-back")
	g.macro.SpacingMs = pick(w, 0, 0, 0, 5, 12)
	g.list("", 0)
	return g.generated
}

func (g *generator) add(parent string, s show.Step) string {
	s.ID, s.Macro, s.Parent, s.Position = fmt.Sprintf("%s-%d", g.macro.ID, len(g.steps)), g.macro.ID, parent, len(g.steps)
	g.steps = append(g.steps, &s)
	return s.ID
}

func (g *generator) list(parent string, depth int) {
	for n := 0; g.budget > 0 && (depth == 0 || n < 2+g.random.IntN(2)); n++ {
		g.budget--
		g.step(parent, depth)
	}
}

// step adds a step of any kind.
func (g *generator) step(parent string, depth int) {
	kind := g.random.IntN(22)
	switch {
	case kind < 7:
		g.act(parent, g.anAction())
	case kind < 10:
		g.add(parent, show.Step{Kind: macro.Wait, Ms: 1 + g.random.IntN(40)})
	case kind < 13:
		g.fade(parent)
	case kind < 15:
		g.together(parent)
	case kind == 15:
		g.add(parent, show.Step{Kind: macro.PutBack})
		g.putsBack()
	case kind == 16:
		g.waitFor(parent)
	case kind == 17 && len(g.others) > 0:
		other := g.others[g.random.IntN(len(g.others))]
		g.nested = append(g.nested, other)
		g.add(parent, show.Step{Kind: macro.Run, Run: other.macro.ID})
		for k := range other.faded {
			g.faded[k] = true
		}
	case kind == 18 && depth < 2:
		g.list(g.add(parent, show.Step{Kind: macro.Repeat, Count: 2 + g.random.IntN(2)}), depth+1)
	case kind == 19 && depth < 2:
		in := g.add(parent, show.Step{Kind: macro.Turns})
		for range 2 {
			g.list(g.add(in, show.Step{Kind: macro.Branch}), depth+1)
		}
	case kind == 20 && depth < 2:
		in := g.add(parent, show.Step{Kind: macro.If})
		g.list(g.add(in, show.Step{Kind: macro.Branch, When: "reading('dome-camera:exposure') == 'auto'"}), depth+1)
		g.list(g.add(in, show.Step{Kind: macro.Branch}), depth+1)
	default:
		s := show.Step{Kind: macro.Do, Action: g.anAction().call(), Off: true}
		g.add(parent, s)
	}
}

// putsBack notes that nothing is known of how often anything changes.
func (g *generator) putsBack() { g.faded["*"] = true }

func (g *generator) act(parent string, a action) {
	if a.name == "cut" {
		g.faded[a.key], g.faded[strings.Replace(a.key, "program", "preview", 1)] = true, true
	}
	g.add(parent, show.Step{Kind: macro.Do, Action: a.call()})
}

func (g *generator) fade(parent string) {
	a := g.anAction()
	for !a.level {
		a = g.anAction()
	}
	g.faded[a.key] = true
	g.add(parent, show.Step{Kind: macro.Fade, Action: a.call(), Ms: 40 + g.random.IntN(200), Curve: pick(g.world, "", "slow-start", "slow-end")})
}

// together adds actions on readings that are not the same.
func (g *generator) together(parent string) {
	in := g.add(parent, show.Step{Kind: macro.Together})
	var keys []string
	for range 2 + g.random.IntN(3) {
		a := g.anAction()
		if key := strings.Replace(a.key, "preview", "program", 1); slices.Contains(keys, key) {
			continue
		} else {
			keys = append(keys, key)
		}
		if a.level && g.random.IntN(3) == 0 {
			g.faded[a.key] = true
			g.add(in, show.Step{Kind: macro.Fade, Action: a.call(), Ms: 40 + g.random.IntN(150)})
			continue
		}
		g.act(in, a)
	}
}

// waitFor adds something that is set, and the wait until it is so.
func (g *generator) waitFor(parent string) {
	keyer := strconv.Itoa(1 + g.random.IntN(3))
	yes := g.random.IntN(2) == 0
	g.act(parent, action{"dome-switcher", "keyer-" + on(yes), map[string]string{"keyer": keyer}, "dome-switcher:keyer/" + keyer + "/on", false})
	g.add(parent, show.Step{Kind: macro.WaitFor, When: fmt.Sprintf("reading('dome-switcher:keyer/%s/on') == %v", keyer, yes), LimitMs: 5000})
}

// String tells the macro, for a failure.
func (g *generated) String() string {
	out := fmt.Sprintf("%s, %d ms between steps, on an error %q:", g.macro.Name, g.macro.SpacingMs, g.macro.OnError)
	for _, s := range g.steps {
		out += fmt.Sprintf("\n    %s in %q: %s", s.ID, s.Parent, s.Kind)
		if s.Action != nil {
			out += fmt.Sprintf(" %s %s %v", s.Action.Device, s.Action.Action, s.Action.Params)
		}
		for name, n := range map[string]int{"ms": s.Ms, "times": s.Count} {
			if n > 0 {
				out += fmt.Sprintf(" %s %d", name, n)
			}
		}
		if s.Off {
			out += " (off)"
		}
		out += " " + s.When + s.Run
	}
	for _, n := range g.nested {
		out += "\n  " + n.String()
	}
	return out
}
