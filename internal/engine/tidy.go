package engine

import (
	"maps"
	"slices"
	"time"

	"synaptor/internal/core/input"
	"synaptor/internal/core/macro"
	"synaptor/internal/core/reading"
	"synaptor/internal/program"
)

// What is offered at most of what runs have left behind, and for how long. Beyond that the oldest
// offer is let go: what it is about has been overtaken by the night.
const (
	//limit:count offers to put back what a run left | the oldest goes, and the journal says so
	maxOffers = 20
	offersFor = 24 * time.Hour
)

// tidy lets go of what lives of things that a new program has no more: pages in force of
// controllers and profiles, remembered turns, guards, offers to put back, what has failed.
func (e *Engine) tidy() {
	p := e.program
	maps.DeleteFunc(e.zones, func(k zoneKey, _ *input.Pages) bool {
		return !p.HasZones(k.controller, k.profile)
	})
	maps.DeleteFunc(e.profiles, func(c, profile string) bool { return !p.HasZones(c, profile) })
	maps.DeleteFunc(e.branches, func(step, _ string) bool { return !p.HasStep(step) })
	maps.DeleteFunc(e.guards, func(mapping string, g *guard) bool {
		if p.Mappings[mapping] != nil {
			return false
		}
		if g.waits {
			e.endGuard(g, "The key was taken away before its time.")
		}
		return true
	})
	maps.DeleteFunc(e.barred, func(what any, _ bool) bool {
		switch w := what.(type) {
		case *program.Mapping:
			return p.Mappings[w.Source.ID] != w
		case *program.Macro:
			return p.Macros[w.Source.ID] != w
		}
		return false
	})
	maps.DeleteFunc(e.failures, func(_ string, at []time.Time) bool { return time.Since(at[len(at)-1]) > failureLimit })
	if e.tidyOffers() {
		e.publishLeftOver()
	}
}

// tidyOffers lets go of offers that are too old, too many, or about devices that are gone, and
// reports whether there were any.
func (e *Engine) tidyOffers() (any bool) {
	now, kept, about := time.Now(), 0, map[reading.Key]bool{}
	for _, p := range slices.Backward(e.restorables) {
		if p.left == "" {
			continue
		}
		if kept == maxOffers || now.Sub(p.at) > offersFor || !e.concerns(p) || e.settledOtherwise(p) {
			e.withdrawOffer(p)
			any = true
			continue
		}
		kept++
		for _, k := range p.bases[0].Changed() {
			about[k] = true
		}
	}
	e.offering = about
	return any
}

// settledOtherwise reports whether nothing of an offer is left to decide: all that it is about has been set
// otherwise since, or is as it was. What nobody knows at the moment may still be open.
func (e *Engine) settledOtherwise(p *restorable) bool {
	back, left := p.bases.Back(0, e.table.Reading, func(reading.Key) bool { return true }, nil)
	return len(back) == 0 && !slices.ContainsFunc(left, func(l macro.Left) bool { return l.Why == macro.NotKnown })
}

// concerns reports whether any device is there that a put back is about.
func (e *Engine) concerns(p *restorable) bool {
	b := p.bases[0]
	return b != nil && slices.ContainsFunc(b.Kept(), func(k macro.Kept) bool { return e.program.Devices[k.Device] != nil })
}
