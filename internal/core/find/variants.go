package find

import (
	"slices"

	"synaptor/internal/core/device"
)

type variant struct {
	values  []string // of the parameters, in order; "" is still to be typed in
	rates   rates
	penalty int
}

// variants lists the parameter sets of an action, with how the words that name
// their values fit. A value other than the default costs a little, so that the
// default comes first unless the words ask for another.
func (s *search) variants(src Source, a *device.ActionSpec, fixed rates) []variant {
	out := []variant{{rates: fixed}}
	for _, p := range a.Params {
		preset := p.DefaultNow(src.Device, s.known)
		var next []variant
		rated := map[device.Choice]rates{}
		for _, v := range out {
			choices := s.choicesOf(src, a, p, v.values)
			if len(choices) == 0 {
				choices = []device.Choice{{Value: preset, Name: preset}}
			}
			hasPreset := slices.ContainsFunc(choices, func(c device.Choice) bool { return c.Value == preset })
			for _, c := range choices {
				if c.Gone {
					continue
				}
				if len(next) == maxVariants {
					break
				}
				named, seen := rated[c]
				if !seen {
					named = s.m.none()
					switch {
					case c.Value == "":
					case preset == "":
						s.m.name(named, c.Name)
						if isNumber(c.Value) {
							s.m.rate(named, weightNumber, c.Value)
						}
					case c.Value != preset:
						s.m.rate(named, weightOther, p.Title+" "+c.Name)
					case s.m.says(tokens(p.Title)...): // the usual one, by its number
						s.m.rate(named, weightOther, c.Name, c.Value)
					}
					rated[c] = named
				}
				n := variant{values: append(slices.Clip(v.values), c.Value), rates: v.rates, penalty: v.penalty}
				if named.any() {
					n.rates = v.rates.with(named)
				}
				switch {
				case preset != "" && c.Value != preset:
					if hasPreset && !named.any() {
						continue // nobody asked for it
					}
					n.penalty += 3
				case preset == "" && c.Value != "" && len(choices) > 1 && !named.any():
					n.penalty += chosenCost
				case p.Of == "macro" && a.ID == "run" && named.any(): // people have named it for what it is for
					n.penalty -= macroBonus
				case preset == "" && !fixed.any() && named.any() && !s.m.all(s.m.cut(c.Name)):
					n.penalty += partCost
				}
				next = append(next, n)
			}
		}
		out = next
	}
	return out
}

// choicesOf lists the values of a parameter; they are looked for once a search.
func (s *search) choicesOf(src Source, a *device.ActionSpec, p device.ParamSpec, values []string) []device.Choice {
	if p.Of == "" {
		return src.Type.ParamChoices(a, p, src.Device, nil, s.known)
	}
	key := src.Device + "\x00" + p.Of
	within := s.within(src, p.Of)
	given := map[string]string{}
	for i, v := range values {
		if o := a.Params[i]; o.Of != "" && slices.Contains(within, o.Of) {
			key += "\x00" + v
			given[o.ID] = v
		}
	}
	if c, ok := s.choices[key]; ok {
		return c
	}
	c := src.Type.ParamChoices(a, p, src.Device, given, s.known)
	s.choices[key] = c
	return c
}

// within remembers which indexes an index depends on.
func (s *search) within(src Source, index string) []string {
	key := src.Type.Sheet.Type + "\x00" + index
	names, ok := s.depends[key]
	if !ok {
		names = src.Type.Within(index)
		s.depends[key] = names
	}
	return names
}
