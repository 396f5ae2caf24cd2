// Package find is the search behind "What should it do?": any words, in any
// order, find the action or kit that is meant, with its parameters filled in.
package find

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"synaptor/internal/core/device"
)

// Source is one device whose actions and kits are searched.
type Source struct {
	Device string // id
	Name   string
	Type   *device.Type
}

// Result is an action or a kit that was found.
type Result struct {
	Kind    string            `json:"kind"` // action or kit
	Device  string            `json:"device"`
	Name    string            `json:"deviceName"`
	ID      string            `json:"id"`
	Params  map[string]string `json:"params"`
	Title   string            `json:"title"`
	Help    string            `json:"help"`
	Example string            `json:"example,omitempty"`
	Glyph   string            `json:"glyph"`
	Role    string            `json:"role"`
	// Missing are parameters that have no value yet.
	Missing []string `json:"missing,omitempty"`
	// Unusable says why it cannot be used here; empty when it can.
	Unusable string `json:"unusable,omitempty"`
	// Recent says that it was used lately; it is listed among the others too.
	Recent bool `json:"recent,omitempty"`
	score  int
	// extra is how much more the title says than was asked for, liked whether this
	// page or recent work speaks for it; they decide between equal scores. broad tells
	// whether the device is one for many things, see apart.
	extra, liked, broad int
	// Risky says that it may cost something on air.
	Risky bool `json:"risky,omitempty"`
}

// Query is what is searched for.
type Query struct {
	Words   string
	Gesture string // what the control can do; empty for any
	Limit   int
	// Near are the devices that the selected page drives already: they come first
	// among equals.
	Near map[string]bool
	// Recent are the actions that were put on controls last, the newest first.
	Recent []Used
}

// Used is an action that was used.
type Used struct{ Device, Action string }

// maxWords is how many words of a query count.
//
//limit:count words of a search that count | nowhere; the rest is passed over
const maxWords = 12

// wholeBonus ranks first what was asked for by all the words of its title.
const wholeBonus = 4

// orderBonus ranks first what has all the words in its title, in their order.
const orderBonus = 2

// What an action costs that was not asked for quite like that: each thing that had to be chosen for it, a
// toggle in place of what is meant, a kit in place of an action.
const (
	chosenCost = 2
	toggleCost = 2
	kitCost    = 2
)

// macroBonus ranks a macro that is named before what a device happens to call alike; partCost is what a name costs of which a part was said, and
// nothing of what is to be done with it.
const (
	macroBonus = 7
	partCost   = 1
)

// suitBonus ranks what a dial or a slider is made for before the rest.
const suitBonus = 1

// maxRecent is how many recent actions are listed before the rest, without words.
//
//limit:count recent actions before the rest of the search | nowhere
const maxRecent = 5

// maxVariants bounds how many parameter sets of one action are tried.
//
//limit:count choices of one action that a search tries | nowhere
const maxVariants = 600

// search is one search under way.
type search struct {
	Query
	m       *matcher
	known   *remembered
	choices map[string][]device.Choice
	depends map[string][]string
}

// Search returns what fits best, best first. Without words it lists every
// action and kit once, in the devices' own order, after those used last.
func Search(q Query, sources []Source, k device.Known) []Result {
	s := &search{Query: q, m: newMatcher(q.Words), known: &remembered{Known: k, paths: map[string][]string{}}, choices: map[string][]device.Choice{}, depends: map[string][]string{}}
	out := s.all(sources)
	for _, other := range otherwise(q.Words) {
		s.m = newMatcher(other)
		out = append(out, s.all(sources)...)
	}
	if len(s.m.words) == 0 {
		out = append(recent(out, q.Recent), out...)
	}
	slices.SortStableFunc(out, func(a, b Result) int {
		return cmp.Or(cmp.Compare(b.score, a.score), cmp.Compare(a.extra, b.extra), cmp.Compare(b.liked, a.liked))
	})
	out = once(out)
	if q.Limit > 0 && len(out) > q.Limit {
		out = out[:q.Limit]
	}
	for i := range out {
		s.finish(&out[i], sources)
	}
	out = slices.DeleteFunc(out, func(r Result) bool { return r.Title == "" })
	apart(out)
	return out
}

// once leaves the best of what was found in several words.
func once(list []Result) []Result {
	seen := map[string]bool{}
	return slices.DeleteFunc(list, func(r Result) bool {
		key := fmt.Sprint(r.Kind, r.Device, r.ID, r.Params, r.Recent)
		was := seen[key]
		seen[key] = true
		return was
	})
}

// apart puts first, of results that read the same and are worth the same, the one whose device is made for it.
func apart(list []Result) {
	first := map[string]int{} // by title
	for i, r := range list {
		at, twice := first[r.Title]
		if !twice {
			first[r.Title] = i
		} else if o := list[at]; o.score == r.score && o.liked == r.liked && r.broad < o.broad {
			list[at], list[i] = r, o
		}
	}
}

// all finds what each device has.
func (s *search) all(sources []Source) (out []Result) {
	for _, src := range sources {
		for i := range src.Type.Sheet.Kits {
			out = append(out, s.kits(src, &src.Type.Sheet.Kits[i])...)
		}
		for i := range src.Type.Sheet.Actions {
			a := &src.Type.Sheet.Actions[i]
			found := s.ranked(src, a)
			if len(found) == 0 {
				found = s.saying(src, a)
			}
			out = append(out, found...)
		}
	}
	return out
}

// saying takes what follows the first word as the text that an action takes: "say hello". It comes after
// everything else.
func (s *search) saying(src Source, a *device.ActionSpec) []Result {
	verb, rest, more := strings.Cut(strings.TrimSpace(s.Words), " ")
	at := slices.IndexFunc(a.Params, func(p device.ParamSpec) bool { return p.Type == "text" && p.Default == "" })
	if !more || at < 0 || len(a.Params) != 1 {
		return nil
	}
	m := newMatcher(verb)
	fits := m.none()
	m.rate(fits, weightTitle, literal(a.Title)...)
	m.rate(fits, weightWord, a.Words...)
	if score, missing := fits.total(); len(fits) == 1 && missing < 0 && a.Params[at].Takes(rest) {
		r := result(src, a)
		r.Params[a.Params[at].ID], r.score = strings.TrimSpace(rest), score-1000
		return []Result{r}
	}
	return nil
}

// ranked finds an action, with what ranks it.
func (s *search) ranked(src Source, a *device.ActionSpec) []Result {
	var found []Result
	if len(s.m.words) == 0 {
		found = []Result{s.whole(src, a)}
	} else {
		found = s.actions(src, a)
	}
	suits := slices.Contains(a.Suits, s.Gesture) && s.Gesture != "press"
	recent := slices.Contains(s.Recent, Used{src.Device, a.ID})
	for i := range found {
		if suits {
			found[i].score += suitBonus
		}
		if len(s.m.words) == 0 {
			continue
		}
		said := tokens(strings.Join(literal(a.Title), " "))
		found[i].extra = len(found[i].Missing) + len(said)
		if s.m.all(said) {
			found[i].score += wholeBonus
		}
		if len(s.m.words) > 1 && strings.Contains(" "+strings.Join(said, " ")+" ", " "+strings.Join(s.m.words, " ")+" ") {
			found[i].score += orderBonus
		}
		if s.Near[src.Device] {
			found[i].liked++
		}
		if recent {
			found[i].liked++
		}
	}
	for i := range found {
		if s.Gesture != "" && !a.StartedBy(s.Gesture) {
			found[i].Unusable = "This cannot be started by the gesture " + s.Gesture + "."
		}
	}
	return found
}

// recent lists those of the results that were used last, marked as such.
func recent(all []Result, used []Used) []Result {
	var out []Result
	for _, u := range used {
		i := slices.IndexFunc(all, func(r Result) bool { return r.Kind == "action" && r.Device == u.Device && r.ID == u.Action })
		if i < 0 || all[i].Unusable != "" {
			continue
		}
		r := all[i]
		r.Recent, r.score = true, r.score+1
		if out = append(out, r); len(out) == maxRecent {
			break
		}
	}
	return out
}

// whole is an action with its parameters still open.
func (s *search) whole(src Source, a *device.ActionSpec) Result {
	r := result(src, a)
	for _, p := range a.Params {
		if d := p.DefaultNow(src.Device, s.known); d != "" {
			r.Params[p.ID] = d
		} else {
			r.Missing = append(r.Missing, p.ID)
		}
	}
	return r
}

func result(src Source, a *device.ActionSpec) Result {
	return Result{Kind: "action", Device: src.Device, Name: src.Name, ID: a.ID, Params: map[string]string{},
		Help: a.Help, Example: a.Example, Glyph: a.Face.Glyph, Role: src.Type.Sheet.Role, Risky: a.Risky, broad: broad(src)}
}

// broad is 1 for a device that does a bit of everything, which another one is made for.
func broad(src Source) int {
	switch src.Type.Sheet.Role {
	case "streaming", "computer", "other":
		return 1
	}
	return 0
}

// actions finds the parameter sets of an action that the words fit. A number that
// fits no word is taken as the value of its number.
func (s *search) actions(src Source, a *device.ActionSpec) []Result {
	fixed := s.m.none()
	s.m.rate(fixed, weightTitle, literal(a.Title)...)
	s.m.phrases(fixed, weightWord, a.Words...)
	s.m.rate(fixed, weightHelp, a.Help)
	s.m.rate(fixed, weightDevice, src.Name, src.Type.Sheet.Title)
	number := slices.IndexFunc(a.Params, device.ParamSpec.IsNumber)
	var out []Result
	for _, v := range s.variants(src, a, fixed) {
		total, missing := v.rates.total()
		switch {
		case missing < 0:
		case number >= 0 && s.m.numbers[missing] != "" && v.rates.without(missing) && a.Params[number].Takes(s.m.numbers[missing]):
			total += 2*weightValue + 1
			v.values = slices.Clone(v.values)
			v.values[number] = s.m.numbers[missing]
		default:
			continue
		}
		r := result(src, a)
		r.score = total - v.penalty
		if len(a.Instead) > 0 && !s.m.says("toggle", "or") {
			r.score -= toggleCost
		}
		s.turnDown(a, v.values)
		for i, p := range a.Params {
			if r.Params[p.ID] = v.values[i]; v.values[i] == "" {
				delete(r.Params, p.ID)
				r.Missing = append(r.Missing, p.ID)
			}
		}
		out = append(out, r)
	}
	return out
}

// turnDown makes a number negative that moves something, where the words say so.
func (s *search) turnDown(a *device.ActionSpec, values []string) {
	moves := slices.ContainsFunc(a.Words, func(w string) bool { return slices.Contains(downwards, w) })
	if !moves || !s.m.says(downwards...) {
		return
	}
	for i, p := range a.Params {
		n, err := strconv.ParseFloat(values[i], 64)
		if down := strconv.FormatFloat(-n, 'f', -1, 64); p.IsNumber() && err == nil && n > 0 && p.Takes(down) {
			values[i] = down
		}
	}
}

// downwards are words for less, or for back.
var downwards = []string{"down", "back", "backward", "lower", "less", "softer", "quieter", "slower", "darker", "dimmer", "minus"}

// literal gives the words of a title template outside its braces.
func literal(title string) []string {
	var out []string
	for title != "" {
		text, rest, open := strings.Cut(title, "{")
		out = append(out, text)
		if !open {
			break
		}
		_, title, _ = strings.Cut(rest, "}")
	}
	return out
}
