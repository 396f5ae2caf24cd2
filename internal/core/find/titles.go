package find

import (
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
)

// finish gives a result its title, which only those that are shown need. One whose
// parameters do not go together stays without.
func (s *search) finish(r *Result, sources []Source) {
	if r.Title != "" {
		return
	}
	src := sources[slices.IndexFunc(sources, func(o Source) bool { return o.Device == r.Device })]
	if len(r.Missing) > 0 || len(s.m.words) == 0 {
		r.Title = s.openTitle(src, src.Type.Action(r.ID), r.Params)
		return
	}
	if t, err := src.Type.Title(src.Device, r.ID, r.Params); err == nil {
		r.Title = t.Text(s.known)
	}
}

// openTitle names the parameters that have no value by what they are, so that the title reads as a sentence.
func (s *search) openTitle(src Source, a *device.ActionSpec, params map[string]string) string {
	title := a.Title
	if !slices.ContainsFunc(a.Params, func(p device.ParamSpec) bool { return params[p.ID] != "" && strings.Contains(title, "{"+p.ID+"}") }) {
		return a.Called()
	}
	for _, p := range a.Params {
		if params[p.ID] == "" {
			title = strings.ReplaceAll(title, "{"+p.ID+"}", p.Title)
			continue
		}
		for _, c := range src.Type.ParamChoices(a, p, src.Device, params, s.known) {
			if p.Of != "" && c.Value == params[p.ID] && c.Name != c.Value && !strings.ContainsAny(c.Name, "{}") {
				title = strings.ReplaceAll(title, "{"+p.ID+"}", c.Name)
			}
		}
	}
	t, err := expr.CompileTemplate(title, expr.Scope{Device: "x", Bind: params})
	if err != nil {
		return a.ID
	}
	return t.Text(expr.Nothing{})
}
