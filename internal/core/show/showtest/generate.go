// Package showtest makes shows by chance, for the tests of whatever has to take any show.
package showtest

import (
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"

	"synaptor/internal/core/show"
)

// most is how many of a list, of the parameters of an action or of a kind of entity there are at most.
const most = 3

// Generate makes a show that may have anything in it that the form of a show allows, whether or not it makes sense. The same
// source of chance gives the same show.
func Generate(r *rand.Rand) *show.Show {
	d := show.NewDraft(show.Empty())
	settings := some[show.Settings](r)
	settings.ID, settings.Name = show.SettingsID, fmt.Sprintf("Meteor Night %d", r.IntN(100))
	d.Put(settings)
	for i := range r.IntN(most + 1) {
		dev := some[show.Device](r)
		dev.ID, dev.Secret = fmt.Sprint("device-", i), ""
		d.Put(dev)
		c := some[show.Controller](r)
		c.ID = fmt.Sprint("controller-", i)
		d.Put(c)
		l := some[show.Link](r)
		l.ID = fmt.Sprint("link-", i)
		d.Put(l)
		p := some[show.Profile](r)
		p.ID = fmt.Sprint("profile-", i)
		d.Put(p)
		page := some[show.Page](r)
		page.ID = fmt.Sprint("page-", i)
		d.Put(page)
		m := some[show.Macro](r)
		m.ID = fmt.Sprint("macro-", i)
		d.Put(m)
	}
	for i := range r.IntN(2*most + 1) {
		m := some[show.Mapping](r)
		m.ID = fmt.Sprint("mapping-", i)
		for j := range m.Placements { // each control has one mapping
			at := &m.Placements[j]
			at.Page, at.Control = fmt.Sprint("page-", r.IntN(most)), fmt.Sprintf("c%d-%d", i, j)
			if at.Standing != nil {
				at.Page = ""
			}
		}
		d.Put(m)
		st := some[show.Step](r)
		st.ID, st.Macro = fmt.Sprint("step-", i), fmt.Sprint("macro-", r.IntN(most))
		d.Put(st)
	}
	return d.Now()
}

func some[T any](r *rand.Rand) *T {
	v := new(T)
	fill(reflect.ValueOf(v).Elem(), r)
	return v
}

// words are what texts are made of: also what JSON and ZIP have to take care of.
var words = []string{"Dome", "switcher", "Ü", "→", "\"", "\\", "<b>", "&", "\u2028", "\n", "{reading('dome-switcher:mix/1/program')}", "日食", "e\u0301", "/", "..", " ", "\t", "🔭", "null", "0"}

// fill gives a value by chance to something, and to what is in it.
func fill(v reflect.Value, r *rand.Rand) {
	switch v.Kind() {
	case reflect.String:
		var b strings.Builder
		for range r.IntN(4) {
			b.WriteString(words[r.IntN(len(words))])
		}
		v.SetString(b.String())
	case reflect.Int, reflect.Int64:
		v.SetInt([]int64{0, 1, -1, r.Int64N(1 << 40)}[r.IntN(4)])
	case reflect.Float64:
		v.SetFloat([]float64{0, 1, -0.5, r.NormFloat64() * 1e6, 1e-9, 29.97}[r.IntN(6)])
	case reflect.Bool:
		v.SetBool(r.IntN(2) == 0)
	case reflect.Pointer:
		if r.IntN(2) == 0 {
			v.Set(reflect.New(v.Type().Elem()))
			fill(v.Elem(), r)
		}
	case reflect.Slice:
		n := r.IntN(most + 1)
		v.Set(reflect.MakeSlice(v.Type(), n, n))
		for i := range n {
			fill(v.Index(i), r)
		}
	case reflect.Map:
		v.Set(reflect.MakeMap(v.Type()))
		for range r.IntN(most + 1) {
			key, value := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
			fill(key, r)
			fill(value, r)
			v.SetMapIndex(key, value)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			fill(v.Field(i), r)
		}
	default:
		panic(fmt.Sprintf("a show has a %s, which is not made by chance yet", v.Kind()))
	}
}
