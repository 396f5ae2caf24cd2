// Package find is the search behind "What should it do?": any words, in any
// order, find the action or kit that is meant, with its parameters filled in.
package find

import (
	"cmp"
	"slices"
	"strings"
	"unicode"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
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
	score    int
}

// Query is what is searched for.
type Query struct {
	Words   string
	Gesture string // what the control can do; empty for any
	Limit   int
}

// maxWords is how many words of a query count.
const maxWords = 12

// suitBonus ranks what a dial or a slider is made for before the rest.
const suitBonus = 1

// maxVariants bounds how many parameter sets of one action are tried.
const maxVariants = 600

// Search returns what fits best, best first. Without words it lists every
// action and kit once, in the devices' own order.
func Search(q Query, sources []Source, k device.Known) []Result {
	words := tokens(q.Words)
	words = words[:min(len(words), maxWords)]
	var out []Result
	for _, s := range sources {
		for i := range s.Type.Sheet.Kits {
			out = append(out, kits(s, &s.Type.Sheet.Kits[i], words, k)...)
		}
		for i := range s.Type.Sheet.Actions {
			a := &s.Type.Sheet.Actions[i]
			var found []Result
			if len(words) == 0 {
				found = []Result{whole(s, a, k)}
			} else {
				found = actions(s, a, words, k)
			}
			if q.Gesture != "" && !a.StartedBy(q.Gesture) {
				for j := range found {
					found[j].Unusable = "This cannot be started by the gesture " + q.Gesture + "."
				}
			}
			if slices.Contains(a.Suits, q.Gesture) && q.Gesture != "press" {
				for j := range found {
					found[j].score += suitBonus
				}
			}
			out = append(out, found...)
		}
	}
	slices.SortStableFunc(out, func(a, b Result) int { return cmp.Compare(b.score, a.score) })
	if q.Limit > 0 && len(out) > q.Limit {
		out = out[:q.Limit]
	}
	return out
}

// whole is an action with its parameters still open.
func whole(s Source, a *device.ActionSpec, k device.Known) Result {
	r := result(s, a)
	for _, p := range a.Params {
		if d := p.DefaultNow(s.Device, k); d != "" {
			r.Params[p.ID] = d
		} else {
			r.Missing = append(r.Missing, p.ID)
		}
	}
	r.Title = openTitle(a, r.Params)
	return r
}

func result(s Source, a *device.ActionSpec) Result {
	return Result{Kind: "action", Device: s.Device, Name: s.Name, ID: a.ID, Params: map[string]string{},
		Help: a.Help, Example: a.Example, Glyph: a.Face.Glyph, Role: s.Type.Sheet.Role}
}

// openTitle shows the parameters that have no value as an ellipsis.
func openTitle(a *device.ActionSpec, params map[string]string) string {
	title := a.Title
	for _, p := range a.Params {
		if params[p.ID] == "" {
			title = strings.ReplaceAll(title, "{"+p.ID+"}", "…")
		}
	}
	t, err := expr.CompileTemplate(title, expr.Scope{Device: "x", Bind: params})
	if err != nil {
		return a.ID
	}
	return t.Text(expr.Nothing{})
}

func actions(s Source, a *device.ActionSpec, words []string, k device.Known) []Result {
	fixed := bag{}
	fixed.add(weightTitle, strings.Join(literal(a.Title), " "))
	fixed.add(weightWord, a.Words...)
	fixed.add(weightHelp, a.Help)
	fixed.add(weightDevice, s.Name, s.Type.Sheet.Title)
	var out []Result
	for _, v := range variants(s, a, k) {
		score, ok := v.bag.with(fixed).score(words)
		if !ok {
			continue
		}
		r := result(s, a)
		r.Params, r.Missing, r.score = v.params, v.missing, score-v.penalty
		if len(v.missing) > 0 {
			r.Title = openTitle(a, v.params)
			out = append(out, r)
			continue
		}
		b, err := s.Type.Bind(s.Device, a.ID, v.params, 25)
		if err != nil {
			continue
		}
		r.Title = b.Title.Text(k)
		out = append(out, r)
	}
	return out
}

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

type variant struct {
	params  map[string]string
	missing []string // parameters that are typed in
	bag     bag
	penalty int
}

// variants lists the parameter sets of an action, with the words that name
// their values. A value other than the default costs a little, so that the
// default comes first unless the words ask for another.
func variants(s Source, a *device.ActionSpec, k device.Known) []variant {
	out := []variant{{params: map[string]string{}, bag: bag{}}}
	for _, p := range a.Params {
		preset := p.DefaultNow(s.Device, k)
		var next []variant
		for _, v := range out {
			choices := s.Type.ParamChoices(a, p, s.Device, v.params, k)
			choices = slices.DeleteFunc(choices, func(c device.Choice) bool { return c.Gone })
			if len(choices) == 0 {
				choices = []device.Choice{{Value: preset, Name: preset}}
			}
			for _, c := range choices {
				if len(next) == maxVariants {
					break
				}
				n := variant{params: map[string]string{p.ID: c.Value}, bag: bag{}.with(v.bag), penalty: v.penalty, missing: v.missing}
				for id, val := range v.params {
					n.params[id] = val
				}
				switch {
				case c.Value == "":
					n.missing = append(slices.Clip(n.missing), p.ID)
					delete(n.params, p.ID)
				case preset == "":
					n.bag.add(weightValue, c.Name, c.Value)
				case c.Value != preset:
					n.bag.add(weightOther, p.Title+" "+c.Name)
					n.penalty += 2
				}
				next = append(next, n)
			}
		}
		out = next
	}
	return out
}

func kits(s Source, kit *device.KitSpec, words []string, k device.Known) []Result {
	each := []device.Choice{{}}
	if kit.Each != "" {
		each = s.Type.Choices(kit.Each, s.Device, nil, k)
	}
	var out []Result
	for i, c := range each {
		bind := map[string]string{}
		if kit.Each != "" {
			bind[kit.Each] = c.Value
		}
		t, err := expr.CompileTemplate(kit.Title, expr.Scope{Device: s.Device, Bind: bind})
		if err != nil {
			continue
		}
		title := t.Text(k)
		b := bag{}
		b.add(weightTitle, title, "kit")
		b.add(weightWord, kit.Words...)
		b.add(weightDevice, s.Name)
		score, ok := b.score(words)
		if !ok {
			continue
		}
		a := s.Type.Action(kit.Action)
		out = append(out, Result{Kind: "kit", Device: s.Device, Name: s.Name, ID: kit.ID, Params: bind, Title: title,
			Help: kit.Help, Glyph: a.Face.Glyph, Role: s.Type.Sheet.Role, score: score - i*2})
	}
	return out
}

// What a word is worth, by where it stands.
const (
	weightValue  = 6
	weightTitle  = 5
	weightOther  = 4
	weightWord   = 4
	weightDevice = 2
	weightHelp   = 1
)

// bag is a set of words with their weights.
type bag map[string]int

func (b bag) add(weight int, texts ...string) {
	for _, t := range texts {
		for _, w := range tokens(t) {
			b[w] = max(b[w], weight)
		}
	}
}

func (b bag) with(o bag) bag {
	out := make(bag, len(b)+len(o))
	for _, m := range []bag{b, o} {
		for w, n := range m {
			out[w] = max(out[w], n)
		}
	}
	return out
}

// score rates a query: every word must be there, whole or as a beginning.
func (b bag) score(words []string) (int, bool) {
	total := 0
	for _, q := range words {
		best := 0
		for w, weight := range b {
			switch {
			case w == q:
				best = max(best, 2*weight+1)
			case len(q) > 1 && strings.HasPrefix(w, q):
				best = max(best, 2*weight)
			}
		}
		if best == 0 {
			return 0, false
		}
		total += best
	}
	return total, true
}

func tokens(text string) []string {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	})
	return slices.DeleteFunc(words, func(w string) bool { return w == "the" || w == "to" || w == "a" || w == "of" })
}
