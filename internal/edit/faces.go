package edit

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"synaptor/internal/core/expr"
	"synaptor/internal/core/face"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
	"synaptor/internal/store"
)

// LampFields are a lamp as it is entered: its condition as sentences, or as an
// expression.
type LampFields struct {
	show.Lamp
	Sentences []expr.Sentence `json:"sentences,omitempty"`
}

// lamps takes over the lamps that were entered.
func (f MappingFields) lamps(m *show.Mapping) error {
	m.Lamps = nil
	if f.ActionLamps {
		return nil
	}
	m.Lamps = []show.Lamp{}
	for i, l := range *f.Lamps {
		if len(l.Sentences) > 0 {
			when, err := expr.Condition(l.Sentences)
			if err != nil {
				return FieldErrors{{Field: fmt.Sprintf("lamps.%d.when", i), Text: fmt.Sprintf("This sentence is not complete: %v.", err)}}
			}
			l.When = when
		}
		m.Lamps = append(m.Lamps, l.Lamp)
	}
	return nil
}

// checkFace says what is wrong with the face and the lamps of a mapping.
func (s *Service) checkFace(m *show.Mapping) error {
	errs := FieldErrors(append(show.CheckFace(m.Face), show.CheckLamps(m.Lamps)...))
	add := func(field, format string, args ...any) {
		errs = append(errs, &show.FieldError{Field: field, Text: fmt.Sprintf(format, args...)})
	}
	if m.Name != "" {
		if text := show.CheckName(m.Name); text != "" {
			add("name", "%s", text)
		}
	}
	scope := program.FaceScope(m)
	label := func(field, text string) {
		if _, err := expr.CompileTemplate(text, scope); err != nil {
			add(field, "This label cannot be worked out: %v.", err)
		}
	}
	picture := func(field, id string) {
		if id == "" {
			return
		}
		if has, err := s.base().HasMedia(id); err != nil || !has {
			add(field, "This picture is not in the library any more.")
		}
	}
	label("label", m.Face.Label)
	picture("picture", m.Face.Picture)
	for i, l := range m.Lamps {
		at := fmt.Sprintf("lamps.%d.", i)
		label(at+"label", l.Label)
		picture(at+"picture", l.Picture)
		if _, err := expr.Compile(l.When, scope); err != nil {
			add(at+"when", "This condition cannot be worked out: %v.", err)
		}
	}
	errs = append(errs, checkBranches(m)...)
	if m.Guard != nil {
		if _, err := expr.Compile(m.Guard.When, expr.Scope{}); m.Guard.When != "" && err != nil {
			add("guard", "This condition cannot be worked out: %v.", err)
		}
	}
	for id, look := range m.Branches {
		picture("branches."+id, look.Picture)
	}
	if m.Face.Background != "" && m.Face.Text != "" && len(errs) == 0 {
		if c := face.Contrast(m.Face.Background, m.Face.Text); c < 1.5 {
			add("text", "Nobody could read this: the contrast is %.1f, and 4.5 is wanted.", c)
		}
	}
	if len(errs) > 0 {
		return errs
	}
	return nil
}

// FaceCopy gives the face of one control to others.
type FaceCopy struct {
	From string   `json:"from"`
	To   []string `json:"to"`
	// Page is where they are; empty: the same page.
	Page string `json:"page,omitempty"`
	// Label copies the label too; else every control keeps its own.
	Label bool `json:"label,omitempty"`
}

// CopyFace gives the look of a mapping to others, and returns how many took it.
func (s *Service) CopyFace(who Who, page string, c FaceCopy) (n int, err error) {
	if c.Page == "" {
		c.Page = page
	}
	return n, s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		snap := s.Program()
		from := snap.On(sh.Page(page), c.From)
		if from == nil {
			return "", notFound("mapping on " + c.From)
		}
		done := map[string]bool{from.Source.ID: true}
		for _, control := range c.To {
			at := snap.On(sh.Page(c.Page), control)
			if at == nil || done[at.Source.ID] {
				continue
			}
			done[at.Source.ID] = true
			m := at.Source.Clone()
			label, hidden := m.Face.Label, m.Face.Hidden
			m.Face = from.Source.Face
			if !c.Label {
				m.Face.Label, m.Face.Hidden = label, hidden
			}
			if err := s.checkFace(m); err != nil {
				return "", err
			}
			d.Put(m)
			n++
		}
		if n == 0 {
			return "", FieldErrors{{Field: "to", Text: "Select keys that have something to do; an empty key has no face."}}
		}
		return fmt.Sprintf("The face of %s on %d more", c.From, n), nil
	})
}

// Media is a picture of the library, with what uses it.
type Media struct {
	store.Media
	// Uses are the names of the mappings that show it.
	Uses []string `json:"uses"`
}

// AddMedia checks a picture and adds it to the library. It stops when the context
// ends.
func (s *Service) AddMedia(ctx context.Context, name string, body []byte) (string, error) {
	m, body, err := s.takeMedia(ctx, name, body)
	if err != nil {
		return "", err
	}
	return m.ID, s.base().PutMedia(m, body)
}

// CheckMedia checks a picture as AddMedia does, and adds nothing.
func (s *Service) CheckMedia(ctx context.Context, name string, body []byte) (store.Media, error) {
	m, _, err := s.takeMedia(ctx, name, body)
	return m, err
}

func (s *Service) takeMedia(ctx context.Context, name string, body []byte) (store.Media, []byte, error) {
	f, err := s.pictures.Take(ctx, body)
	if err != nil {
		return store.Media{}, nil, err
	}
	if name = strings.TrimSpace(name); show.CheckName(name) != "" {
		name = "Picture"
	}
	return store.Media{ID: f.ID, Name: name, Kind: f.Kind, Width: f.Width, Height: f.Height, Frames: f.Frames}, f.Body, nil
}

// AllMedia lists the library, newest first.
func (s *Service) AllMedia() ([]Media, error) {
	rows, err := s.base().AllMedia()
	if err != nil {
		return nil, err
	}
	uses := map[string][]string{}
	for _, m := range s.Program().Show.Mappings() {
		ids := []string{m.Face.Picture}
		for _, l := range m.Lamps {
			ids = append(ids, l.Picture)
		}
		slices.Sort(ids)
		for _, id := range slices.Compact(ids) {
			uses[id] = append(uses[id], m.Title())
		}
	}
	for _, o := range s.Program().Show.Overlays() {
		if o.Picture != "" {
			uses[o.Picture] = append(uses[o.Picture], o.Title())
		}
	}
	out := make([]Media, len(rows))
	for i, r := range rows {
		out[i] = Media{r, append([]string{}, uses[r.ID]...)}
	}
	return out, nil
}

// MediaBody gives the bytes of a picture and their media type.
func (s *Service) MediaBody(id string) (body []byte, kind string, err error) {
	body, kind, ok, err := s.base().MediaBody(id)
	if err == nil && !ok {
		err = notFound("picture")
	}
	return body, kind, err
}

// NameMedia gives a picture another name and tags.
func (s *Service) NameMedia(id, name, tags string) error {
	if text := show.CheckName(name); text != "" {
		return FieldErrors{{Field: "name", Text: text}}
	}
	if len(tags) > 200 {
		return FieldErrors{{Field: "tags", Text: "The tags have at most 200 characters together."}}
	}
	ok, err := s.base().NameMedia(id, strings.TrimSpace(name), strings.Join(strings.Fields(tags), " "))
	if err == nil && !ok {
		err = notFound("picture")
	}
	return err
}

// DeleteMedia removes a picture that nothing refers to.
func (s *Service) DeleteMedia(id string) error {
	ok, err := s.base().DeleteMedia(id)
	if err == nil && !ok {
		return FieldErrors{{Field: "picture", Text: "A key shows this picture, or an edit that can be undone does. It stays."}}
	}
	return err
}
