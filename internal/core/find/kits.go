package find

import "synaptor/internal/core/device"

func (s *search) kits(src Source, kit *device.KitSpec) []Result {
	each := []device.Choice{{}}
	if kit.Each != "" {
		each = src.Type.Choices(kit.Each, src.Device, nil, s.known)
	}
	a := src.Type.Action(kit.Main())
	var out []Result
	for i, c := range each {
		bind := map[string]string{}
		if kit.Each != "" {
			bind[kit.Each] = c.Value
		}
		title := src.Type.KitTitle(kit, c, src.Device, s.known)
		r, whole, weight := s.m.none(), s.m.all(s.m.cut(title)), weightTitle
		if !whole {
			weight--
		}
		s.m.rate(r, weightTitle, "kit")
		s.m.rate(r, weight, title)
		s.m.rate(r, weightWord, "row", "keys")
		s.m.phrases(r, weightWord, kit.Words...)
		s.m.rate(r, weightDevice, src.Name)
		score, missing := r.total()
		if missing >= 0 {
			continue
		}
		found := Result{Kind: "kit", Device: src.Device, Name: src.Name, ID: kit.ID, Params: bind, Title: title,
			Help: kit.Help, Glyph: a.Face.Glyph, Role: src.Type.Sheet.Role, score: score - i*2, broad: broad(src)}
		switch {
		case len(s.m.words) == 0:
		case whole:
			found.score += wholeBonus + 2*i
		case !s.m.says("row", "rows", "kit", "keys", "strips"):
			found.score -= kitCost
		}
		if kit.Gesture != "" && s.Gesture != "" && (kit.Gesture == "turn") != (s.Gesture == "turn" || s.Gesture == "slide" || s.Gesture == "push-turn") {
			found.Unusable = "This kit is for dials."
		}
		out = append(out, found)
	}
	return out
}
