package journal

import (
	"cmp"
	"slices"
)

// What is told of what led to an entry, and of what that led to.
const (
	//limit:count entries of the journal in a chain of causes | nowhere; those further away are left out
	maxChain = 50
)

// Chain gives what has led to an entry, itself and what it has set off, and what these have, in the order of their ids.
func (j *Journal) Chain(id string) ([]Entry, error) {
	first, err := j.Get(id)
	if err != nil || first == nil {
		return nil, err
	}
	out := []Entry{*first}
	has := func(id string) bool { return slices.ContainsFunc(out, func(e Entry) bool { return e.ID == id }) }
	for e := first; e.Cause != "" && !has(e.Cause) && len(out) < maxChain; {
		up, err := j.Get(e.Cause)
		if err != nil {
			return nil, err
		}
		if up == nil {
			break // it has been let go
		}
		out, e = append(out, *up), up
	}
	// From the first cause on, so that what stands beside it is told too.
	queue := []string{out[len(out)-1].ID}
	for at := 0; at < len(queue) && len(out) < maxChain; at++ {
		down, err := j.setOff(queue[at])
		if err != nil {
			return nil, err
		}
		for _, e := range down {
			if slices.Contains(queue, e.ID) || len(out) == maxChain {
				continue
			}
			queue = append(queue, e.ID)
			if !has(e.ID) {
				out = append(out, e)
			}
		}
	}
	slices.SortFunc(out, func(a, b Entry) int { return cmp.Compare(a.ID, b.ID) })
	return out, nil
}

// setOff gives what an entry has set off, with what memory knows better or alone.
func (j *Journal) setOff(by string) ([]Entry, error) {
	out, err := j.store.SetOff(by, maxChain)
	if err != nil {
		return nil, err
	}
	j.mu.Lock()
	defer j.mu.Unlock()
	for _, id := range j.order {
		k := j.byID[id]
		if k.Cause != by {
			continue
		}
		if at := slices.IndexFunc(out, func(e Entry) bool { return e.ID == id }); at >= 0 {
			out[at] = k.entry()
		} else {
			out = append(out, k.entry())
		}
	}
	return out, nil
}
