package input

import "slices"

// maxBack is how many pages back one can go.
//
//limit:count pages that one can go back | nowhere; the oldest are forgotten
const maxBack = 50

// Pages follows which pages a zone of a controller shows.
type Pages struct {
	Current string   `json:"current"`
	Back    []string `json:"back,omitempty"` // newest last
	// Held are the pages that are shown while a control is held, the newest last;
	// by the control that holds them.
	Held []HeldPage `json:"-"`
}

// HeldPage is a page that is shown while a control is down.
type HeldPage struct{ Page, Control string }

// Settle gives the zone a page that exists: the current one, else the first.
// all are the pages of the zone in order; it reports whether anything changed.
func (p *Pages) Settle(all []string) bool {
	before := p.Current
	n := len(p.Back) + len(p.Held)
	p.Back = slices.DeleteFunc(p.Back, func(id string) bool { return !slices.Contains(all, id) })
	p.Held = slices.DeleteFunc(p.Held, func(h HeldPage) bool { return !slices.Contains(all, h.Page) })
	if !slices.Contains(all, p.Current) {
		p.Current = ""
		if len(all) > 0 {
			p.Current = all[0]
		}
	}
	return p.Current != before || len(p.Back)+len(p.Held) != n
}

// To goes to a page.
func (p *Pages) To(page string) {
	if page == p.Current {
		return
	}
	p.Back = append(p.Back, p.Current)
	if n := len(p.Back) - maxBack; n > 0 {
		p.Back = slices.Delete(p.Back, 0, n)
	}
	p.Current = page
}

// GoBack goes to the page before; it reports whether there was one.
func (p *Pages) GoBack() bool {
	if len(p.Back) == 0 {
		return false
	}
	p.Current, p.Back = p.Back[len(p.Back)-1], p.Back[:len(p.Back)-1]
	return true
}

// Home goes to the first page; pressed there, it returns to the page before.
func (p *Pages) Home(all []string) {
	if len(all) == 0 {
		return
	}
	if p.Current == all[0] {
		p.GoBack()
		return
	}
	p.To(all[0])
}

// Step goes on by so many pages; at an end it goes on at the other where wrap
// is set, else it stays.
func (p *Pages) Step(all []string, by int, wrap bool) {
	at := slices.Index(all, p.Current)
	if at < 0 || len(all) == 0 {
		return
	}
	next := at + by
	if wrap {
		next = ((next % len(all)) + len(all)) % len(all)
	}
	if next >= 0 && next < len(all) {
		p.To(all[next])
	}
}

// Hold shows a page while a control is down.
func (p *Pages) Hold(page, control string) { p.Held = append(p.Held, HeldPage{page, control}) }

// LetGo takes away what a control holds; it reports whether it held anything.
func (p *Pages) LetGo(control string) bool {
	n := len(p.Held)
	p.Held = slices.DeleteFunc(p.Held, func(h HeldPage) bool { return h.Control == control })
	return len(p.Held) != n
}

// Shown lists the pages that answer, first the one that is asked first.
func (p *Pages) Shown() []string {
	var out []string
	for _, h := range slices.Backward(p.Held) {
		out = append(out, h.Page)
	}
	if p.Current != "" {
		out = append(out, p.Current)
	}
	return out
}
