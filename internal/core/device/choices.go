package device

import (
	"math"
	"strconv"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/reading"
)

// Known is what has been heard from devices.
type Known interface {
	expr.World
	Paths(device string) []string
}

// Choice is one value a parameter can have.
type Choice struct {
	Value string `json:"value"`
	Name  string `json:"name"`
	// Gone marks what the device no longer has.
	Gone bool `json:"gone,omitempty"`
}

// Choices lists the values of an index in the device's own order.
func (t *Type) Choices(index, device string, k Known) []Choice {
	ix, ok := t.Sheet.Index[index]
	if !ok {
		return nil
	}
	if ix.Range != "" {
		values, _ := parseRange(ix.Range)
		out := make([]Choice, len(values))
		for i, v := range values {
			out[i] = Choice{Value: v, Name: v}
		}
		return out
	}
	from, err := parsePattern(ix.From)
	if err != nil {
		return nil
	}
	var out []Choice
	for _, path := range k.Paths(device) {
		vars, ok := from.match(path)
		if !ok {
			continue
		}
		c := Choice{Value: vars[index], Name: expr.Text(k.Reading(reading.Key{Device: device, Path: path}).Value)}
		if c.Name == "" {
			c.Name = c.Value
		}
		gonePath := strings.ReplaceAll(ix.Gone, "{"+index+"}", c.Value)
		if gone, _ := k.Reading(reading.Key{Device: device, Path: gonePath}).Value.(bool); gone {
			c.Gone = true
		}
		out = append(out, c)
	}
	return out
}

// ParamChoices lists the values of a parameter, or nil when it is typed in.
func (t *Type) ParamChoices(p ParamSpec, device string, k Known) []Choice {
	if p.Of != "" {
		return t.Choices(p.Of, device, k)
	}
	var out []Choice
	for _, o := range p.Options {
		out = append(out, Choice{Value: o, Name: o})
	}
	return out
}

// KitItems lists the parameter sets of the mappings that a kit makes, in
// order; each holds the index value that the kit is offered for.
func (t *Type) KitItems(kit *KitSpec, each, device string, k Known) []map[string]string {
	var over string
	for _, p := range t.actions[kit.Action].Params {
		if p.ID == kit.Over {
			over = p.Of
		}
	}
	var out []map[string]string
	for _, c := range t.Choices(over, device, k) {
		if c.Gone {
			continue
		}
		if kit.Only != "" {
			only, err := expr.Compile(kit.Only, expr.Scope{Device: device, Bind: map[string]string{kit.Over: c.Value}})
			if err != nil || !only.Holds(k) {
				continue
			}
		}
		params := map[string]string{}
		for id, v := range kit.Params {
			params[id] = v
		}
		if kit.Each != "" {
			params[kit.Each] = each
		}
		params[kit.Over] = c.Value
		out = append(out, params)
	}
	return out
}

// Word gives a value of a reading as a person knows it: the name of an input
// instead of its number, on and off instead of true and false.
func (t *Type) Word(k reading.Key, v reading.Value, w expr.World) string {
	def := t.Reading(k.Path)
	if def == nil || v == nil {
		return expr.Text(v)
	}
	if b, ok := v.(bool); ok {
		if b {
			return "on"
		}
		return "off"
	}
	if f, ok := v.(float64); ok {
		text := "-inf"
		if !math.IsInf(f, -1) {
			text = strconv.FormatFloat(math.Round(f*1000)/1000, 'f', -1, 64)
		}
		return strings.TrimSpace(text + " " + def.Unit)
	}
	if ix := t.Sheet.Index[def.Of]; ix.From != "" {
		path := strings.ReplaceAll(ix.From, "{"+def.Of+"}", expr.Text(v))
		if name := expr.Text(w.Reading(reading.Key{Device: k.Device, Path: path}).Value); name != "" {
			return name
		}
	}
	return expr.Text(v)
}

// Names tells which index a reading names the values of, or "".
func (t *Type) Names(path string) string {
	def := t.Reading(path)
	if def == nil {
		return ""
	}
	for name, ix := range t.Sheet.Index {
		if ix.From == def.Path {
			return name
		}
	}
	return ""
}

// TitleOf gives the title of a concrete reading, such as Program of mix effect 1.
func (t *Type) TitleOf(path string) string {
	def := t.Reading(path)
	if def == nil {
		return path
	}
	vars, _ := def.path.match(path)
	title := def.Title
	for name, v := range vars {
		title = strings.ReplaceAll(title, "{"+name+"}", v)
	}
	return title
}
