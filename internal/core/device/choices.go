package device

import (
	"fmt"
	"maps"
	"slices"
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

// Choices lists the values of an index in the device's own order. Where the
// index depends on others, given narrows it to their values; those that are not
// given are left open.
func (t *Type) Choices(index, device string, given map[string]string, k Known) []Choice {
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
	out := []Choice{}
	seen := map[string]bool{}
	for _, path := range k.Paths(device) {
		vars, ok := from.match(path)
		if !ok || seen[vars[index]] || !agrees(vars, index, given) {
			continue
		}
		seen[vars[index]] = true
		c := Choice{Value: vars[index], Name: expr.Text(k.Reading(reading.Key{Device: device, Path: path}).Value)}
		if c.Name == "" {
			c.Name = c.Value
		}
		if gone, err := parsePattern(ix.Gone); err == nil && ix.Gone != "" {
			if gonePath, err := gone.fill(vars); err == nil {
				c.Gone, _ = k.Reading(reading.Key{Device: device, Path: gonePath}).Value.(bool)
			}
		}
		out = append(out, c)
	}
	return out
}

// Within names the indexes that an index depends on: a scene is within a set.
func (t *Type) Within(index string) []string {
	from, err := parsePattern(t.Sheet.Index[index].From)
	if err != nil {
		return nil
	}
	return slices.DeleteFunc(from.indexes(), func(n string) bool { return n == index })
}

// agrees tells whether the placeholders of a path are those that were given.
func agrees(vars map[string]string, but string, given map[string]string) bool {
	for n, v := range vars {
		if want := given[n]; n != but && want != "" && want != v {
			return false
		}
	}
	return true
}

// ParamChoices lists the values of a parameter of an action, or nil when it is
// typed in. values are those of the other parameters.
func (t *Type) ParamChoices(a *ActionSpec, p ParamSpec, device string, values map[string]string, k Known) []Choice {
	if p.Of != "" {
		given := map[string]string{}
		for _, o := range a.Params {
			if o.Of != "" && o.ID != p.ID {
				given[o.Of] = values[o.ID]
			}
		}
		return t.Choices(p.Of, device, given, k)
	}
	var out []Choice
	for _, o := range p.Options {
		out = append(out, Choice{Value: o, Name: o})
	}
	return out
}

// DefaultNow is the value a parameter has unless another is chosen: as written, or
// what the device reports now.
func (p ParamSpec) DefaultNow(device string, w expr.World) string {
	if !p.defaultsToReading() {
		return p.Default
	}
	t, err := expr.CompileTemplate(p.Default, expr.Scope{Device: device})
	if err != nil {
		return ""
	}
	v, err := t.Eval(w)
	if err != nil {
		return ""
	}
	return expr.Text(v)
}

// defaultsToReading reports whether the default is what the device reports.
func (p ParamSpec) defaultsToReading() bool {
	return p.Type != "text" && p.Type != "message" && strings.Contains(p.Default, "{")
}

// Named is a value of a reading, and what a person calls it.
type Named struct {
	Value any    `json:"value"`
	Name  string `json:"name"`
}

// ValuesOf lists the values that a reading can have, where they can be counted:
// on and off, or one of a choice. nil means that it is a number or a text.
func (t *Type) ValuesOf(device, path string, k Known) []Named {
	def := t.Reading(path)
	switch {
	case def == nil:
		return nil
	case def.Type == "bool":
		return []Named{{true, "on"}, {false, "off"}}
	case def.Type != "choice":
		return nil
	}
	out := []Named{}
	for _, o := range def.Options {
		out = append(out, Named{o, o})
	}
	given, _ := def.path.match(path)
	for _, c := range t.Choices(def.Of, device, given, k) {
		if !c.Gone {
			out = append(out, Named{c.Value, c.Name})
		}
	}
	return out
}

// SilencedBy gives the path of the reading that is on while nobody hears a level; ok
// is false where there is none.
func (t *Type) SilencedBy(path string) (by string, ok bool) {
	def := t.Reading(path)
	if def == nil || def.SilencedBy == "" {
		return "", false
	}
	p, err := parsePattern(def.SilencedBy)
	if err != nil {
		return "", false
	}
	vars, _ := def.path.match(path)
	by, err = p.fill(vars)
	return by, err == nil
}

// IsNumber reports whether a reading's values are numbers.
func (t *Type) IsNumber(path string) bool {
	def := t.Reading(path)
	return def != nil && (def.Type == "int" || def.Type == "float" || def.Type == "db")
}

// Picture finds where a picture of the device is, by the id of its kind and the
// index value or the name that an event gives, as in input-3. ok is false when
// the device has no such picture.
func (t *Type) Picture(source, device, host string, port int, w expr.World) (url string, ok bool) {
	for _, p := range t.Sheet.Pictures {
		if value, is := strings.CutPrefix(source, p.ID+"-"); is && namesPicture(value) {
			url, err := t.pictureURL(p, device, host, port, value, w)
			return url, err == nil
		}
	}
	return "", false
}

// namesPicture tells whether a text can be the last part of an address, and no way up from it.
func namesPicture(value string) bool {
	return indexValue.MatchString(value) && value != "." && value != ".."
}

// NamesPicture tells whether a source is one that an event can name; see Picture.
func (t *Type) NamesPicture(source string) bool {
	return slices.ContainsFunc(t.Sheet.Pictures, func(p PictureSpec) bool {
		value, is := strings.CutPrefix(source, p.ID+"-")
		return is && p.Named != "" && namesPicture(value)
	})
}

func (t *Type) pictureURL(p PictureSpec, device, host string, port int, value string, w expr.World) (string, error) {
	if strings.Contains(host, ":") {
		host = "[" + host + "]"
	}
	tpl, err := expr.CompileTemplate(p.URL, expr.Scope{Device: device, Bind: map[string]string{"host": host, "port": strconv.Itoa(port), p.place(): value}})
	if err != nil {
		return "", err
	}
	url, err := tpl.Put(w, nil, func(source, before, value string) string {
		if source == "host" || source == "port" {
			return value
		}
		return encoded(before, value)
	})
	if err != nil || !strings.HasPrefix(url, "http://") {
		return "", fmt.Errorf("%q is not an http address", url)
	}
	return url, nil
}

// PictureSources lists the pictures a device delivers now, by id and title.
func (t *Type) PictureSources(device string, k Known) []Choice {
	var out []Choice
	for _, p := range t.Sheet.Pictures {
		if p.Over == "" {
			continue // nobody knows them before an event names them
		}
		for _, c := range t.Choices(p.Over, device, nil, k) {
			if !c.Gone {
				out = append(out, Choice{Value: p.ID + "-" + c.Value, Name: strings.ReplaceAll(p.Title, "{"+p.Over+"}", c.Name)})
			}
		}
	}
	return out
}

// Sampled gives the parameters of an action with a value that is possible in place of each choice or number that an event is to fill, such as
// {event.clip}; filled names those. Texts can hold expressions anyway.
func (t *Type) Sampled(action string, params map[string]string) (sample map[string]string, filled []string) {
	a := t.actions[action]
	if a == nil {
		return params, nil
	}
	sample = maps.Clone(params)
	for _, p := range a.Params {
		if p.Type != "text" && p.Type != "message" && strings.Contains(params[p.ID], "{event.") {
			sample[p.ID] = p.sample()
			filled = append(filled, p.ID)
		}
	}
	return sample, filled
}

// sample is a value that a parameter can have.
func (p ParamSpec) sample() string {
	switch {
	case len(p.Options) > 0:
		return p.Options[0]
	case p.Min != nil:
		return ValueText(*p.Min)
	case p.IsNumber():
		return "0"
	}
	return "1"
}
