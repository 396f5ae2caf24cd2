package device

import (
	"maps"

	"synaptor/internal/core/expr"
)

// KitKeys lists the mappings that a kit makes, in order: the action of each with
// its parameters; they hold the index value that the kit is offered for.
func (t *Type) KitKeys(kit *KitSpec, each, device string, k Known) []KitKey {
	var out []KitKey
	for _, key := range kit.Keys {
		out = append(out, KitKey{key.Action, t.Filled(key.Action, key.Params, device, k)})
	}
	if len(kit.Keys) > 0 {
		return out
	}
	for _, params := range t.kitItems(kit, each, device, k) {
		out = append(out, KitKey{kit.Action, params})
	}
	return out
}

// Filled gives parameters for an action: those that are given, and for the others whose default is
// what the device reports now, that. Where it has not said it, the least that can be is taken, so
// that keys are laid out while no device is there.
func (t *Type) Filled(action string, given map[string]string, device string, k Known) map[string]string {
	out := maps.Clone(given)
	a := t.actions[action]
	if a == nil {
		return out
	}
	for _, p := range a.Params {
		if out[p.ID] != "" || !p.defaultsToReading() {
			continue
		}
		now := p.DefaultNow(device, k)
		if !p.Takes(now) {
			now = placeholderFor(p)
		}
		if out == nil {
			out = map[string]string{}
		}
		out[p.ID] = now
	}
	return out
}

// KitTitle is what a kit is called that is offered for a value; {chosen} stands for
// the value's name.
func (t *Type) KitTitle(kit *KitSpec, each Choice, device string, k Known) string {
	bind := map[string]string{"chosen": each.Name}
	if kit.Each != "" {
		bind[kit.Each] = each.Value
	}
	title, err := expr.CompileTemplate(kit.Title, expr.Scope{Device: device, Bind: bind})
	if err != nil {
		return kit.ID
	}
	return title.Text(k)
}

// Main is the action that a kit is known by.
func (k *KitSpec) Main() string {
	if len(k.Keys) > 0 {
		return k.Keys[0].Action
	}
	return k.Action
}

func (t *Type) kitItems(kit *KitSpec, each, device string, k Known) []map[string]string {
	a := t.actions[kit.Action]
	params := map[string]string{}
	for id, v := range kit.Params {
		params[id] = v
	}
	if kit.Each != "" {
		for _, p := range a.Params {
			if p.Of == kit.Each {
				params[p.ID] = each
			}
		}
	}
	params = t.Filled(kit.Action, params, device, k)
	delete(params, kit.Over) // the kit runs over it
	var over ParamSpec
	for _, p := range a.Params {
		if p.ID == kit.Over {
			over = p
		}
	}
	var out []map[string]string
	for _, c := range t.ParamChoices(a, over, device, params, k) {
		if c.Gone {
			continue
		}
		if kit.Only != "" {
			only, err := expr.Compile(kit.Only, expr.Scope{Device: device, Bind: map[string]string{kit.Over: c.Value}})
			if err != nil || !only.Holds(k) {
				continue
			}
		}
		item := maps.Clone(params)
		item[kit.Over] = c.Value
		out = append(out, item)
	}
	return out
}
