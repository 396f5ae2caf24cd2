package device

import (
	"fmt"
	"maps"
	"math"
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
	if p.Type == "text" || p.Type == "message" || !strings.Contains(p.Default, "{") {
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

// Summary says what a device has, by its indexes: 2 scene sets, 9 scenes.
func (t *Type) Summary(device string, k Known) string {
	var parts []string
	for _, name := range slices.Sorted(maps.Keys(t.Sheet.Index)) {
		ix := t.Sheet.Index[name]
		if ix.From == "" {
			continue
		}
		n := len(t.Choices(name, device, nil, k))
		title := ix.Title
		if n != 1 {
			if title = ix.Plural; title == "" {
				title = ix.Title + "s"
			}
		}
		parts = append(parts, fmt.Sprintf("%d %s", n, title))
	}
	return strings.Join(parts, ", ")
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
	if n, ok := v.(int); ok {
		return strings.TrimSpace(strconv.Itoa(n) + " " + def.Unit)
	}
	if name := t.NameOf(def.Of, expr.Text(v), k.Device, k.Path, w); name != "" {
		return name
	}
	return expr.Text(v)
}

// NameOf is the name that a device gives to a value of an index, or "". path is
// that of a reading whose own indexes narrow it down.
func (t *Type) NameOf(index, value, device, path string, w expr.World) string {
	from, err := parsePattern(t.Sheet.Index[index].From)
	if err != nil || t.Sheet.Index[index].From == "" {
		return ""
	}
	vars := map[string]string{}
	if def := t.Reading(path); def != nil {
		vars, _ = def.path.match(path)
	}
	vars[index] = value
	named, err := from.fill(vars)
	if err == nil {
		return expr.Text(w.Reading(reading.Key{Device: device, Path: named}).Value)
	}
	k, ok := w.(Known)
	if !ok {
		return ""
	}
	for _, p := range k.Paths(device) {
		if got, ok := from.match(p); ok && got[index] == value && agrees(got, index, vars) {
			return expr.Text(w.Reading(reading.Key{Device: device, Path: p}).Value)
		}
	}
	return ""
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

// TitleOf gives the title of a concrete reading, such as Program of mix effect
// 1; what the device has named is called by its name.
func (t *Type) TitleOf(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		return t.called(def, def.Title, device, path, w)
	}
	return path
}

// HeadlineOf gives the short title of a concrete reading on the status line.
func (t *Type) HeadlineOf(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		return t.called(def, def.Headline, device, path, w)
	}
	return path
}

// called fills the indexes of a path into a title, by name where there is one.
func (t *Type) called(def *Reading, title, device, path string, w expr.World) string {
	vars, _ := def.path.match(path)
	for name, v := range vars {
		if !strings.Contains(title, "{"+name+"}") {
			continue
		}
		if named := t.NameOf(name, v, device, path, w); named != "" && !strings.HasSuffix(def.Path, "/name") {
			v = named
		}
		title = strings.ReplaceAll(title, "{"+name+"}", v)
	}
	return title
}

// SourceName is the name of the last index value in a path, by which a person
// knows what the reading is about; the last part of the path where there is
// none.
func (t *Type) SourceName(device, path string, w expr.World) string {
	if def := t.Reading(path); def != nil {
		if ids := def.path.indexes(); len(ids) > 0 {
			vars, _ := def.path.match(path)
			last := ids[len(ids)-1]
			if named := t.NameOf(last, vars[last], device, path, w); named != "" {
				return named
			}
			return vars[last]
		}
		return def.Title
	}
	return path
}

// Picture finds where a picture of the device is, by the id of its kind and the
// index value, as in input-3. ok is false when the device has no such picture.
func (t *Type) Picture(source, device, host string, port int, w expr.World) (url string, ok bool) {
	for _, p := range t.Sheet.Pictures {
		if value, is := strings.CutPrefix(source, p.ID+"-"); is && indexValue.MatchString(value) {
			url, err := t.pictureURL(p, device, host, port, value, w)
			return url, err == nil
		}
	}
	return "", false
}

func (t *Type) pictureURL(p PictureSpec, device, host string, port int, value string, w expr.World) (string, error) {
	if strings.Contains(host, ":") {
		host = "[" + host + "]"
	}
	tpl, err := expr.CompileTemplate(p.URL, expr.Scope{Device: device, Bind: map[string]string{"host": host, "port": strconv.Itoa(port), p.Over: value}})
	if err != nil {
		return "", err
	}
	v, err := tpl.Eval(w)
	if url := expr.Text(v); err != nil || !strings.HasPrefix(url, "http://") {
		return "", fmt.Errorf("%q is not an http address", expr.Text(v))
	}
	return expr.Text(v), nil
}

// PictureSources lists the pictures a device delivers now, by id and title.
func (t *Type) PictureSources(device string, k Known) []Choice {
	var out []Choice
	for _, p := range t.Sheet.Pictures {
		for _, c := range t.Choices(p.Over, device, nil, k) {
			if !c.Gone {
				out = append(out, Choice{Value: p.ID + "-" + c.Value, Name: strings.ReplaceAll(p.Title, "{"+p.Over+"}", c.Name)})
			}
		}
	}
	return out
}
