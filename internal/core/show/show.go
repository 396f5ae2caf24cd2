// Package show is the model of a show: its devices, controllers, profiles,
// pages and mappings, and the edits that change it.
//
// A Show is immutable. Apply returns a new one that shares every part that the
// edit did not touch, so the engine can keep reading the old one while the new
// one is compiled. Every entity carries a revision: the sequence number of the
// edit that last wrote it. Revisions are unique over the life of a show, so an
// edit (or its undo) that was made against an older state is recognised.
package show

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"sync"
	"weak"
)

// Kind names a sort of entity.
type Kind string

// The kinds of entity that a show consists of.
const (
	KindSettings   Kind = "settings"
	KindDevice     Kind = "device"
	KindController Kind = "controller"
	KindLink       Kind = "link"
	KindProfile    Kind = "profile"
	KindPage       Kind = "page"
	KindMapping    Kind = "mapping"
	KindMacro      Kind = "macro"
	KindReflex     Kind = "reflex"
	KindTimer      Kind = "timer"
	KindSafe       Kind = "safe"
	KindAccepted   Kind = "accepted"
	KindStep       Kind = "step"
	KindOverlay    Kind = "overlay"
)

// Ref points at one entity. IDs are opaque and never change.
type Ref struct {
	Kind Kind   `json:"kind"`
	ID   string `json:"id"`
}

// Entity is anything that edits create, change and remove.
type Entity interface {
	Ref() Ref
	// Title is the name a person knows the entity by.
	Title() string
}

// Show is one state of a show. The zero value is not usable; call Empty.
type Show struct {
	entities map[Kind]map[string]Entity
	revs     map[Kind]map[string]int64
	places   placed
	// What Apply changed of the show before, which is not kept alive by this: the
	// mappings, and whether anything else but pages.
	base    weak.Pointer[Show]
	touched []string
	beyond  bool
	// steps are those of each macro, worked out when somebody asks.
	steps *stepIndex
	// pages are those of the show in order, worked out likewise.
	pages *pageIndex
}

// pageIndex has the pages in order, and those of each zone. Shows with the same pages share it.
type pageIndex struct {
	once sync.Once
	all  []*Page
	of   map[Standing][]*Page
}

// Empty returns a show with nothing in it.
func Empty() *Show {
	return &Show{entities: map[Kind]map[string]Entity{}, revs: map[Kind]map[string]int64{}, steps: &stepIndex{}, pages: &pageIndex{}}
}

// Rev returns the revision of an entity: the sequence number of the edit that
// last wrote it, or 0 when it does not exist.
func (s *Show) Rev(r Ref) int64 { return s.revs[r.Kind][r.ID] }

// Get returns an entity, or nil.
func (s *Show) Get(r Ref) Entity { return s.entities[r.Kind][r.ID] }

// Settings returns the show's own settings; a new show has defaults.
func (s *Show) Settings() *Settings {
	if e, ok := s.entities[KindSettings][SettingsID].(*Settings); ok {
		return e
	}
	return &Settings{ID: SettingsID, Name: "New show", FrameRate: 25}
}

// Device returns a device by id, or nil.
func (s *Show) Device(id string) *Device {
	d, _ := s.entities[KindDevice][id].(*Device)
	return d
}

// Controller returns a controller by id, or nil.
func (s *Show) Controller(id string) *Controller {
	c, _ := s.entities[KindController][id].(*Controller)
	return c
}

// ControllerBySlug returns a controller by its slug or one of its older slugs.
func (s *Show) ControllerBySlug(slug string) *Controller {
	for _, c := range s.Controllers() {
		if c.Slug == slug || slices.Contains(c.Aliases, slug) {
			return c
		}
	}
	return nil
}

// Profile returns a profile by id, or nil.
func (s *Show) Profile(id string) *Profile {
	p, _ := s.entities[KindProfile][id].(*Profile)
	return p
}

// Page returns a page by id, or nil.
func (s *Show) Page(id string) *Page {
	p, _ := s.entities[KindPage][id].(*Page)
	return p
}

// Mapping returns a mapping by id, or nil.
func (s *Show) Mapping(id string) *Mapping {
	m, _ := s.entities[KindMapping][id].(*Mapping)
	return m
}

// Devices returns all devices in the order the rigger gave them.
func (s *Show) Devices() []*Device {
	return sorted(s, KindDevice, func(a, b *Device) int {
		return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
}

// Controllers returns all controllers in order.
func (s *Show) Controllers() []*Controller {
	return sorted(s, KindController, func(a, b *Controller) int {
		return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
}

// Profiles returns all profiles in order.
func (s *Show) Profiles() []*Profile {
	return sorted(s, KindProfile, func(a, b *Profile) int {
		return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
	})
}

// Pages returns all pages in order.
func (s *Show) Pages() []*Page { return slices.Clone(s.inOrder().all) }

func (s *Show) inOrder() *pageIndex {
	s.pages.once.Do(func() {
		s.pages.of = map[Standing][]*Page{}
		s.pages.all = sorted(s, KindPage, func(a, b *Page) int {
			return cmp.Or(cmp.Compare(a.Position, b.Position), cmp.Compare(a.ID, b.ID))
		})
		for _, p := range s.pages.all {
			at := Standing{Profile: p.Profile, Layout: p.Layout, Zone: p.Zone}
			s.pages.of[at] = append(s.pages.of[at], p)
		}
	})
	return s.pages
}

// PagesFor returns the pages of one profile for one layout and zone, in order.
func (s *Show) PagesFor(profile, layout, zone string) []*Page {
	return slices.Clone(s.inOrder().of[Standing{Profile: profile, Layout: layout, Zone: zone}])
}

// Mappings returns all mappings, ordered by id.
func (s *Show) Mappings() []*Mapping {
	return sorted(s, KindMapping, func(a, b *Mapping) int { return cmp.Compare(a.ID, b.ID) })
}

func sorted[T Entity](s *Show, k Kind, order func(a, b T) int) []T {
	out := make([]T, 0, len(s.entities[k]))
	for _, e := range s.entities[k] {
		out = append(out, e.(T))
	}
	slices.SortFunc(out, order)
	return out
}

// fresh makes an empty entity of each kind.
var fresh = map[Kind]func() Entity{
	KindSettings: func() Entity { return &Settings{} }, KindDevice: func() Entity { return &Device{} }, KindController: func() Entity { return &Controller{} }, KindLink: func() Entity { return &Link{} },
	KindProfile: func() Entity { return &Profile{} }, KindPage: func() Entity { return &Page{} }, KindMapping: func() Entity { return &Mapping{} },
	KindMacro: func() Entity { return &Macro{} }, KindStep: func() Entity { return &Step{} }, KindReflex: func() Entity { return &Reflex{} }, KindTimer: func() Entity { return &Timer{} }, KindSafe: func() Entity { return &SafePicture{} }, KindAccepted: func() Entity { return &Accepted{} },
	KindOverlay: func() Entity { return &Overlay{} },
}

// Kinds lists the kinds of entity, in the order of their names.
func Kinds() []Kind { return slices.Sorted(maps.Keys(fresh)) }

// Decode reads an entity of a kind from its canonical JSON.
func Decode(k Kind, body []byte) (Entity, error) {
	empty := fresh[k]
	if empty == nil {
		return nil, fmt.Errorf("decode entity: unknown kind %q", k)
	}
	e := empty()
	if err := json.Unmarshal(body, e); err != nil {
		return nil, fmt.Errorf("decode %s: %w", k, err)
	}
	return e, nil
}

// decodeStrictly is Decode for what comes from outside: it fails where there is a field that this version does not know.
func decodeStrictly(k Kind, body []byte) (Entity, error) {
	empty := fresh[k]
	if empty == nil {
		return nil, fmt.Errorf("decode entity: unknown kind %q", k)
	}
	e, d := empty(), json.NewDecoder(bytes.NewReader(body))
	d.DisallowUnknownFields()
	if err := d.Decode(e); err != nil {
		return nil, fmt.Errorf("decode %s: %w", k, err)
	}
	return e, nil
}

// Encode gives the canonical JSON of an entity: fields in declared order, map
// keys sorted, no white space. Equal entities have equal bytes.
func Encode(e Entity) json.RawMessage {
	b, err := json.Marshal(e)
	if err != nil {
		// Entities are plain data; a failure is a programming error.
		panic(fmt.Sprintf("encode %v: %v", e.Ref(), err))
	}
	return b
}

// Canonical gives the canonical JSON of a whole show, without revisions.
func (s *Show) Canonical() []byte {
	var b bytes.Buffer
	b.WriteByte('[')
	for i, r := range s.Refs() {
		if i > 0 {
			b.WriteByte(',')
		}
		ref, err := json.Marshal(r)
		if err != nil {
			panic(err) // two strings
		}
		b.Write(ref[:len(ref)-1]) // without its end, for the body to follow
		b.WriteString(`,"body":`)
		b.Write(Encode(s.Get(r)))
		b.WriteByte('}')
	}
	b.WriteByte(']')
	return b.Bytes()
}
