package device

import (
	"maps"

	"synaptor/internal/core/expr"
)

// KitKeys lists the mappings that a kit makes, in order: the action of each with
// its parameters; they hold the index value that the kit is offered for.
func (t *Type) KitKeys(kit *KitSpec, each, device string, k Known) []KitKey {
	if len(kit.Keys) > 0 {
		return kit.Keys
	}
	var out []KitKey
	for _, params := range t.kitItems(kit, each, device, k) {
		out = append(out, KitKey{kit.Action, params})
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
	var over ParamSpec
	for _, p := range a.Params {
		if p.ID == kit.Over {
			over = p
		} else if params[p.ID] == "" {
			if params[p.ID] = p.DefaultNow(device, k); params[p.ID] == "" {
				delete(params, p.ID)
			}
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
