package preflight

import (
	"fmt"
	"reflect"

	"synaptor/internal/core/face"
	"synaptor/internal/core/show"
)

// Face is how a key looks, as far as it rests on nothing that lives.
type Face struct {
	Looks []Look
	// Pictures are those of the library that it shows, by where: see PictureAt.
	Pictures map[string]string
}

// Look is the face in one state.
type Look struct {
	State            string // at rest, on air; as a person calls it
	Lamp             int    // which lamp brings it; -1: none
	Background, Text string
	Picture          bool   // a picture lies behind the text
	Cut              string // the label, where it is shortened to fit
}

// readable is the contrast that text of the size of a face has to have (WCAG 2.2, 1.4.3, large text).
const readable = 3

// find finds what cannot be read.
func (l Face) find(f *finder, k Key) {
	cut := false
	for _, look := range l.Looks {
		if ratio := face.Contrast(look.Background, look.Text); ratio > 0 && ratio < readable && !look.Picture {
			f.add("face-contrast", Caution, look.State, "%s cannot be read well %s: its contrast is %.1f, and 3 is the least.", k.Called(), look.State, ratio).Fix = k.readable(look)
		}
		if look.Cut != "" && !cut {
			cut = true // once is enough
			g := f.add("face-cut", Note, look.State, "The label of %s does not fit: “%s” is shortened.", k.Called(), look.Cut)
			if k.Mapping.Face.Size > 0 {
				g.Fix = k.fix("Let the label of "+k.Called()+" fit by itself", func(m *show.Mapping) { m.Face.Size = 0 })
			}
		}
	}
}

// Missing finds the pictures of the face that a library does not have.
func (k Key) Missing(has func(picture string) bool) []Finding {
	f := finder{subject: k.Ref()}
	for _, where := range sortedKeys(k.Face.Pictures) {
		if !has(k.Face.Pictures[where]) {
			f.add("face-missing", Caution, where, "The picture of %s is not in the library any more.", k.Called()).Fix = k.fix("Take a picture off "+k.Called(), func(m *show.Mapping) {
				withoutPicture(m, where)
			})
		}
	}
	return f.out
}

// readable gives a look the one of black and white that is read better on its background.
func (k Key) readable(look Look) *Fix {
	text := "#ffffff"
	if face.Contrast(look.Background, "#000000") > face.Contrast(look.Background, text) {
		text = "#000000"
	}
	return k.fix("Make the label of "+k.Called()+" readable", func(m *show.Mapping) {
		if look.Lamp >= 0 && look.Lamp < len(m.Lamps) && (m.Lamps[look.Lamp].Background != "" || m.Lamps[look.Lamp].Text != "") {
			m.Lamps[look.Lamp].Text = text
			return
		}
		m.Face.Text = text
	})
}

// PictureAt names where a mapping has a picture: its face, or a lamp.
func PictureAt(lamp int) string {
	if lamp < 0 {
		return "face"
	}
	return fmt.Sprint("lamp ", lamp+1)
}

func withoutPicture(m *show.Mapping, where string) {
	if where == PictureAt(-1) {
		m.Face.Picture = ""
	}
	for i := range m.Lamps {
		if where == PictureAt(i) {
			m.Lamps[i].Picture = ""
		}
	}
}

// Alike is a key as it is told apart from those beside it.
type Alike struct {
	Key   *show.Mapping
	Name  func() string // what it is called
	Page  string        // the page's name
	Spot  string        // the control
	Looks string        // all that is seen of it; empty: that rests on what lives
	// Mic is the role of the device whose microphone a press silences or opens; empty: none. Reads is what its label says then, in small letters.
	Mic, Reads string
}

// doesAs reports whether two keys do the same.
func (a Alike) doesAs(o Alike) bool { return reflect.DeepEqual(a.Key.Responses, o.Key.Responses) }

// Alikes finds the keys of one page that look the same and do something else.
func Alikes(page []Alike) (out []Finding) {
	first := map[string]Alike{}
	for _, a := range page {
		if a.Looks == "" {
			continue
		}
		o, has := first[a.Looks]
		if !has {
			first[a.Looks] = a
			continue
		}
		if !o.doesAs(a) && o.Key.ID != a.Key.ID {
			f := finder{subject: a.Key.Ref()}
			f.add("face-alike", Caution, a.Page+" "+a.Spot, "%s and %s of %s look the same, and do not do the same: %s, and %s.", o.Spot, a.Spot, a.Page, o.Name(), a.Name())
			out = append(out, f.out...)
		}
	}
	return out
}

// MicsAlike finds the keys of one page whose labels say the same, and of which one silences a microphone of the meeting, another one that of another
// device: one is silent for the guests then, and not for the audience.
func MicsAlike(page []Alike) (out []Finding) {
	for _, a := range page {
		for _, o := range page {
			if a.Mic != "meeting" || o.Mic == "" || o.Mic == a.Mic || a.Reads == "" || a.Reads != o.Reads {
				continue
			}
			f := finder{subject: a.Key.Ref()}
			f.add("mic-alike", Caution, a.Page+" "+a.Spot, "%s and %s of %s read the same, and silence microphones of two devices: %s, and %s.", o.Spot, a.Spot, a.Page, o.Name(), a.Name())
			out = append(out, f.out...)
		}
	}
	return out
}

// AlikeElsewhere finds the keys that look the same at the same place of two pages of a zone, and do something else; pages are in their order.
func AlikeElsewhere(pages [][]Alike) (out []Finding) {
	type spot struct{ control, looks string }
	first := map[spot]Alike{}
	for _, page := range pages {
		for _, a := range page {
			at := spot{a.Spot, a.Looks}
			o, has := first[at]
			switch {
			case a.Looks == "":
			case !has:
				first[at] = a
			case !o.doesAs(a) && o.Key.ID != a.Key.ID:
				f := finder{subject: a.Key.Ref()}
				f.add("face-alike", Caution, a.Page+" "+a.Spot, "%s looks the same on %s and on %s, and does not do the same: %s, and %s.", a.Spot, o.Page, a.Page, o.Name(), a.Name())
				out = append(out, f.out...)
			}
		}
	}
	return out
}
