package inspect

import (
	"slices"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/reading"
)

// Gone finds the keys whose choices are not there any more, as things stand.
func (j *Judged) Gone(w device.Known) (out []preflight.Finding) {
	for _, k := range j.gone {
		for _, r := range k.facts.Responses {
			if b := k.of.Responses[r.Gesture].Bound; b != nil && b.Gone(w) {
				out = append(out, k.facts.Gone(r.Gesture, b.Title.Text(w)))
			}
		}
	}
	return out
}

// Unsupported finds the keys whose device has said that it is a model which cannot do what they ask.
func (j *Judged) Unsupported(w device.Known) (out []preflight.Finding) {
	lacks := map[string]*device.ModelSpec{}
	for _, d := range j.Program.Show.Devices() {
		t := j.Program.Devices[d.ID].Type
		if t == nil || d.Model != "" || t.Sheet.Link.Identify == nil {
			continue
		}
		said := expr.Text(w.Reading(reading.Key{Device: d.ID, Path: t.Sheet.Link.Identify.Reading}).Value)
		if m := t.Model("", said); m != nil && len(m.Lacks) > 0 {
			lacks[d.ID] = m
		}
	}
	if len(lacks) == 0 {
		return nil
	}
	for _, k := range j.keys {
		for _, r := range k.facts.Responses {
			if m := lacks[r.Action.Device]; m != nil && slices.Contains(m.Lacks, r.Action.Action) {
				out = append(out, k.facts.Unsupported(r.Gesture, unsupported(j.Program.Devices[r.Action.Device], m)))
			}
		}
	}
	return out
}
