// Package preflight finds what is wrong with a show before it goes on air. A file has the findings of one family, over facts that whoever asks has
// gathered: of the show alone, or of what lives as well.
package preflight

import (
	"cmp"
	"fmt"
	"slices"

	"synaptor/internal/core/show"
)

// How much a finding matters.
const (
	Stops   = "stops" // the show: something that is there will not work
	Caution = "caution"
	Note    = "note"
)

// How sure a finding is.
const (
	Computed = "computed" // it follows from the show and the sheets
	Measured = "measured" // it rests on what devices did
	Guessed  = "guessed"  // it rests on what is usual
)

// Finding is something that somebody should look at.
type Finding struct {
	ID       string   `json:"id"` // of what it finds: binding-gone
	Severity string   `json:"severity"`
	Subject  show.Ref `json:"subject"`
	// At is which part of the subject it is about, where it has several: a gesture, a step, a control.
	At   string `json:"at,omitempty"`
	Text string `json:"sentence"`
	Sure string `json:"sure"`
	// Fix is what one edit could do about it; nil: nothing.
	Fix *Fix `json:"fix,omitempty"`
}

// Fix is one edit that puts a finding right.
type Fix struct {
	Title string `json:"title"` // what it does, as the edit is called
	// make puts it into a draft of the show; ids are made by newID.
	make func(d *show.Draft, newID func() string) error
}

// Make puts what the fix does into a draft of the show that the finding is of.
func (f *Fix) Make(d *show.Draft, newID func() string) error { return f.make(d, newID) }

// Same reports whether two findings are about the same: a finding stays itself while its sentence changes.
func (f Finding) Same(o Finding) bool {
	return f.ID == o.ID && f.Subject == o.Subject && f.At == o.At
}

// finder gathers findings of one subject.
type finder struct {
	subject show.Ref
	out     []Finding
}

// add adds what follows from the show, and returns it for what is to be said besides.
func (f *finder) add(id, severity, at, format string, args ...any) *Finding {
	f.out = append(f.out, Finding{ID: id, Severity: severity, Subject: f.subject, At: at, Text: fmt.Sprintf(format, args...), Sure: Computed})
	return &f.out[len(f.out)-1]
}

// Sort puts findings into their order: the worst first, then by what they find and what they are about.
func Sort(all []Finding) {
	slices.SortStableFunc(all, func(a, b Finding) int {
		return cmp.Or(cmp.Compare(rank(a.Severity), rank(b.Severity)), cmp.Compare(a.ID, b.ID), cmp.Compare(a.Subject.Kind, b.Subject.Kind),
			cmp.Compare(a.Subject.ID, b.Subject.ID), cmp.Compare(a.At, b.At))
	})
}

func rank(severity string) int { return slices.Index([]string{Stops, Caution, Note}, severity) }

// What a show is before it goes on air.
const (
	Ready    = "ready"
	ReadyBut = "ready-but"
	NotReady = "not-ready"
)

// Verdict says what a show is with findings; those that were accepted are not among them. Notes alone keep it from nothing.
func Verdict(all []Finding) string {
	worst := rank(Note)
	for _, f := range all {
		worst = min(worst, rank(f.Severity))
	}
	return []string{NotReady, ReadyBut, Ready}[max(worst, 0)]
}

// Weighed is a finding with what somebody has decided about it.
type Weighed struct {
	Finding
	// Accepted is how it was accepted; nil: it was not. Stale says that its subject is not as it was then, so that it counts again.
	Accepted *show.Accepted `json:"accepted,omitempty"`
	Stale    bool           `json:"stale,omitempty"`
}

// Counts reports whether a finding counts.
func (w Weighed) Counts() bool { return w.Accepted == nil || w.Stale }

// Weigh says which of the findings of a show were accepted.
func Weigh(sh *show.Show, all []Finding) []Weighed {
	out := make([]Weighed, len(all))
	any := len(sh.Acceptances()) > 0
	for i, f := range all {
		out[i].Finding = f
		if !any {
			continue
		}
		if a := sh.Acceptance(show.AcceptedID(f.ID, f.Subject, f.At)); a != nil {
			out[i].Accepted, out[i].Stale = a, a.Of != f.Imprint(sh)
		}
	}
	return out
}

// Imprint is what an acceptance of the finding holds on to: its subject, and what it says where that does not come from measuring.
func (f Finding) Imprint(sh *show.Show) string {
	said := ""
	if f.Sure == Computed {
		said = f.Text
	}
	return sh.Imprint(f.Subject, said)
}

// Open gives those that count.
func Open(all []Weighed) (out []Finding) {
	for _, w := range all {
		if w.Counts() {
			out = append(out, w.Finding)
		}
	}
	return out
}
