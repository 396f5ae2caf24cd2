package inspect

import (
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/device"
	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/input"
	"synaptor/internal/core/preflight"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
)

// face is how a mapping looks, as far as that rests on nothing that lives.
func (j *Judged) face(m *program.Mapping) (out preflight.Face) {
	own := &m.Source.Face
	if *own == (show.Face{}) && (m.Label == nil || !m.Label.Constant()) && !slices.ContainsFunc(m.Lamps, func(l device.Lamp) bool { return l.Look != nil }) {
		return out // all of it is its action's, and what its label says is not known
	}
	look := func(state string, lamp int, l device.Look) {
		label := m.Label
		if l.Label != nil {
			label = l.Label
		}
		at := preflight.Look{State: state, Lamp: lamp, Picture: first(l.Picture, own.Picture) != "" || own.Live != nil}
		if l.Background+own.Background+l.Text+own.Text != "" { // Synaptor's own colours can be read
			at.Background, at.Text = first(l.Background, own.Background, face.Tint(m.Role)), first(l.Text, own.Text, face.DefaultText)
		}
		if label != nil && label.Constant() && !own.Hidden {
			text := label.Text(expr.Nothing{})
			if j.inspector.font.Fit(text, face.Room(*own)).Cut {
				at.Cut = strings.Join(strings.Fields(text), " ")
			}
		}
		out.Looks = append(out.Looks, at)
		picture := own.Picture
		if lamp >= 0 {
			picture = l.Picture
		}
		if picture != "" {
			if out.Pictures == nil {
				out.Pictures = map[string]string{}
			}
			out.Pictures[preflight.PictureAt(lamp)] = picture
		}
	}
	look("at rest", -1, device.Look{})
	for i, l := range m.Lamps {
		if l.Look != nil {
			look("while lamp "+fmt.Sprint(i+1)+" is lit", i, *l.Look)
		}
	}
	return out
}

func first(all ...string) string {
	for _, s := range all {
		if s != "" {
			return s
		}
	}
	return ""
}

// microphone is the role of the device whose microphone a press silences or opens, and what the label says then; both empty where it does not.
func microphone(m *program.Mapping) (role, reads string) {
	r := m.Responses[input.Press]
	if r == nil || r.Bound == nil || m.Label == nil || !m.Label.Constant() {
		return "", ""
	}
	for _, k := range r.Bound.Affects() {
		if def := r.Type.Reading(k.Path); def != nil && def.Role == "mute" {
			return r.Type.Sheet.Role, strings.ToLower(strings.Join(strings.Fields(m.Label.Text(expr.Nothing{})), " "))
		}
	}
	return "", ""
}

// looks is all that is seen of a mapping at rest; empty where that rests on what lives, or it is turned.
func (j *Judged) looks(m *program.Mapping) string {
	own := m.Source.Face
	if len(m.Source.Responses) == 0 || program.Continuous(m.Source.Responses[0].Gesture) || own.Live != nil || m.Label == nil || !m.Label.Constant() {
		return ""
	}
	label, at := m.Label.Text(expr.Nothing{}), ""
	if own.Hidden {
		label = ""
	}
	if m.Where != nil {
		if !m.Where.Constant() {
			return ""
		}
		at = m.Where.Text(expr.Nothing{})
	}
	if slices.ContainsFunc(m.Source.Responses, func(r show.Response) bool { return r.Gesture == input.Press && r.Action.IsRun() }) && own.Label == "" {
		return "" // its macro's turns say what it shows
	}
	return strings.Join([]string{label, at, m.Glyph, first(own.Background, face.Tint(m.Role)), own.Text, own.Picture}, "\x00")
}
