package engine

import (
	"cmp"
	"slices"
	"time"

	"synaptor/internal/core/macro"
)

// offerLeftOver offers what a run that was cut off has changed and not put back.
func (e *Engine) offerLeftOver(r *run) {
	for _, p := range e.restorables {
		if p.entry != r.ID {
			continue
		}
		if plan := e.planBack(p); len(plan.Returns) > 0 {
			p.left = r.Reason
			e.tidyOffers()
			e.publishLeftOver()
		}
	}
}

// dismissOffer takes an offer away.
func (e *Engine) dismissOffer(entry string) {
	for _, p := range e.restorables {
		if p.entry == entry && p.left != "" {
			e.withdrawOffer(p)
			e.publishLeftOver()
		}
	}
}

// withdrawOffer takes away that something is offered.
func (e *Engine) withdrawOffer(p *restorable) {
	p.left = ""
	if !slices.ContainsFunc(e.runs, func(r *run) bool { return r.ID == p.entry }) {
		e.fulfilled(p.entry)
	}
}

// offered tells whether what a run has left behind is offered.
func (e *Engine) offered(entry string) bool {
	return slices.ContainsFunc(e.restorables, func(p *restorable) bool { return p.entry == entry && p.left != "" })
}

// offerKept offers what runs have left behind that went on when Synaptor ended.
func (e *Engine) offerKept(runs []KeptRun) {
	for _, k := range runs {
		e.restorables = append(e.restorables, &restorable{entry: k.Entry, at: k.At, title: k.Title, macro: k.Macro,
			bases: macro.Baselines{0: macro.Restored(k.Changed)}, left: cmp.Or(k.Reason, "Synaptor was ended in the middle of it.")})
	}
	if len(runs) > 0 {
		e.tidyOffers()
		e.publishLeftOver()
	}
}

// persistRun has what a run has changed so far survive a restart; a run that has ended
// normally leaves nothing to decide.
func (e *Engine) persistRun(r *run) {
	k := KeptRun{Entry: r.ID, Title: r.Name, Macro: r.Macro, At: r.began}
	if b := r.bases[0]; b != nil && !r.Ended {
		k.Changed = b.Kept()
	}
	e.stream.push(RunKept{k})
}

// LeftOver is what a run that was cut off has left behind, for somebody to decide.
type LeftOver struct {
	Entry  string    `json:"entry"`
	Title  string    `json:"title"`
	At     time.Time `json:"at"`
	Reason string    `json:"reason"`
}

func (e *Engine) publishLeftOver() {
	rows, kept := []LeftOver{}, []KeptRun{}
	for _, p := range e.restorables {
		if p.left != "" {
			if b := p.bases[0]; b != nil {
				kept = append(kept, KeptRun{p.entry, e.titleOf(p), p.macro, p.at, b.Kept(), p.left})
			}
			rows = append(rows, LeftOver{p.entry, e.titleOf(p), p.at, p.left})
		}
	}
	e.stream.push(LeftOverChanged{rows, kept})
}
