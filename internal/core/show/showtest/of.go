package showtest

import "synaptor/internal/core/show"

// Of is a show of some entities.
func Of(put ...show.Entity) *show.Show {
	d := show.NewDraft(show.Empty())
	for _, e := range put {
		d.Put(e)
	}
	return d.Now()
}

// At is a place on a page.
func At(page, control string) show.Placement { return show.Placement{Page: page, Control: control} }
