package device

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"synaptor/internal/core/expr"
)

func (t *Type) compileKits(m *mistakes) {
	seen := map[string]bool{}
	for i := range t.Sheet.Kits {
		k := &t.Sheet.Kits[i]
		where := fmt.Sprintf("/kits/%d", i)
		m.twice(seen, where+"/id", "kits", k.ID)
		t.tryEach(m, where, k)
		for j, key := range k.Keys {
			at := fmt.Sprintf("%s/keys/%d", where, j)
			if a := t.actionFor(m, at+"/action", key.Action, k.Gesture); a != nil {
				t.tryGiven(m, at+"/params", a, key.Params)
			}
		}
		if len(k.Keys) == 0 {
			t.tryOver(m, where, k)
		}
		for j, also := range k.Also {
			at := fmt.Sprintf("%s/also/%d", where, j)
			a := t.actionFor(m, at+"/action", also.Action, also.Gesture)
			if a == nil || k.Over == "" {
				continue
			}
			if _, has := a.param(k.Over); !has {
				m.at(at+"/action", "%s has no parameter %q, which the kit runs over", a.ID, k.Over)
			}
		}
	}
}

// actionFor finds the action of a kit, which its gesture has to start.
func (t *Type) actionFor(m *mistakes, where, id, gesture string) *ActionSpec {
	a := t.actions[id]
	switch {
	case a == nil:
		m.at(where, "there is no action %q", id)
	case gesture != "" && !a.StartedBy(gesture):
		m.at(where, "%s is not started by %s", id, gesture)
	}
	return a
}

// tryEach tries the title of a kit and the index that it is offered for.
func (t *Type) tryEach(m *mistakes, where string, k *KitSpec) {
	bind := map[string]string{"chosen": "1"}
	if k.Each != "" {
		t.needsIndex(m, where+"/each", k.Each)
		bind[k.Each] = "1"
	}
	try := &trial{t, m, expr.Scope{Device: "x", Bind: bind}}
	try.text(where+"/title", k.Title)
}

// tryOver tries a kit that makes a key for each value of an index.
func (t *Type) tryOver(m *mistakes, where string, k *KitSpec) {
	a := t.actionFor(m, where+"/action", k.Action, k.Gesture)
	if a == nil {
		return
	}
	if over, ok := a.param(k.Over); !ok || over.Of == "" {
		m.at(where+"/over", "%q is not a parameter of %s that runs over an index", k.Over, k.Action)
		return
	}
	if k.Each != "" && !slices.ContainsFunc(a.Params, func(p ParamSpec) bool { return p.Of == k.Each }) {
		m.at(where+"/each", "%s has no parameter that is one of %q", k.Action, k.Each)
	}
	t.tryGiven(m, where+"/params", a, k.Params)
	if k.Only != "" {
		try := &trial{t, m, expr.Scope{Device: "x", Bind: map[string]string{k.Over: "1"}}}
		try.condition(where+"/only", k.Only)
	}
}

// tryGiven notes parameters of a kit that its action has not, or that cannot have
// their values.
func (t *Type) tryGiven(m *mistakes, where string, a *ActionSpec, given map[string]string) {
	for _, id := range slices.Sorted(maps.Keys(given)) {
		p, has := a.param(id)
		if !has {
			m.at(where+Pointer(id), "%s has no parameter %q", a.ID, id)
			continue
		}
		if text := p.check(given[id]); text != "" {
			m.at(where+Pointer(id), "%s", strings.TrimSuffix(text, "."))
		}
	}
}

func (t *Type) compilePictures(m *mistakes) {
	seen := map[string]bool{}
	for i, p := range t.Sheet.Pictures {
		where := fmt.Sprintf("/pictures/%d", i)
		m.twice(seen, where+"/id", "pictures", p.ID)
		switch {
		case (p.Over == "") == (p.Named == ""):
			m.at(where, "a picture is over an index, or named by a field of events")
		case p.Over != "":
			t.needsIndex(m, where+"/over", p.Over)
		case !slices.ContainsFunc(t.Sheet.Events, func(e EventSpec) bool { return e.Fields[p.Named] != "" }):
			m.at(where+"/named", "no event has a field %q", p.Named)
		}
		_, err := expr.CompileTemplate(p.URL, expr.Scope{Device: "x", Bind: map[string]string{"host": "h", "port": "1", p.place(): "1"}})
		m.err(where+"/url", err)
		if err == nil && !strings.HasPrefix(p.URL, "http://") {
			m.at(where+"/url", "a picture is fetched from an address that begins with http://")
		}
	}
}
