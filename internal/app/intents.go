package app

import (
	"encoding/json"
	"log/slog"
	"slices"
	"strings"
	"sync"

	"synaptor/internal/core/macro"
	"synaptor/internal/engine"
	"synaptor/internal/store"
)

// intents keeps what runs are about to change in a file that outlives a kill. It implements
// engine.Intents.
type intents struct {
	slots *store.Slots
	of    map[string][]string // the records of an entry
	full  sync.Once
}

// openIntents opens the file of a data folder, and gives what was noted there. Without it Synaptor runs as
// well: only what a kill leaves behind is not known to the last step then.
func openIntents(folder string) (*intents, []engine.KeptRun) {
	slots, had, err := store.OpenSlots(folder)
	if err != nil {
		slog.Warn("what runs are about to change is not kept", "err", err)
		return nil, nil
	}
	in, noted := &intents{slots: slots, of: map[string][]string{}}, []engine.KeptRun{}
	for _, name := range slots.Names() {
		var k engine.KeptRun
		if json.Unmarshal(had[name], &k) != nil {
			slots.Drop(name)
			continue
		}
		in.of[k.Entry] = append(in.of[k.Entry], name)
		if at := slices.IndexFunc(noted, func(o engine.KeptRun) bool { return o.Entry == k.Entry }); at >= 0 {
			noted[at].Changed = append(noted[at].Changed, k.Changed...)
		} else {
			noted = append(noted, k)
		}
	}
	slices.SortFunc(noted, func(a, b engine.KeptRun) int { return strings.Compare(a.Entry, b.Entry) })
	return in, noted
}

// Will implements engine.Intents: a record for each reading.
func (in *intents) Will(k engine.KeptRun) {
	for _, c := range k.Changed {
		k.Changed = []macro.Kept{c}
		name := k.Entry + "/" + c.Device + ":" + c.Path
		body, err := json.Marshal(k)
		if err == nil {
			err = in.slots.Put(name, body)
		}
		if err != nil {
			in.full.Do(func() { slog.Warn("what a run is about to change is not kept", "run", k.Title, "err", err) })
			continue
		}
		if !slices.Contains(in.of[k.Entry], name) {
			in.of[k.Entry] = append(in.of[k.Entry], name)
		}
	}
}

// Done implements engine.Intents.
func (in *intents) Done(entry string) {
	for _, name := range in.of[entry] {
		in.slots.Drop(name)
	}
	delete(in.of, entry)
}
