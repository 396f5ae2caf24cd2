package app

import (
	"errors"
	"fmt"
	"log/slog"
	"time"

	"synaptor/internal/core/device"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/incident"
	"synaptor/internal/journal"
	"synaptor/internal/shows"
	"synaptor/internal/store"
)

// openStores opens the files of a data folder, and the journal.
func (a *App) openStores(data string, lastGood bool) (*store.State, error) {
	release, err := store.UseFolder(data)
	if err != nil {
		return nil, err
	}
	a.onClose(release)
	lib, err := store.OpenLibrary(data)
	if err != nil {
		return nil, err
	}
	note, err := a.openShows(lib, lastGood)
	if err != nil {
		return nil, err
	}
	a.onClose(func() { closing("show", a.closeShow()) })
	jdb, err := store.OpenJournal(data)
	if err != nil {
		return nil, err
	}
	a.journalDB = jdb
	a.onClose(func() { closing("journal", jdb.Close()) })
	a.Hub = feed.NewHub()
	a.Journal, err = journal.Open(jdb, func(e journal.Entry) { a.Hub.Announce("journal/"+e.ID, []string{"journal"}, e) })
	if err != nil {
		return nil, err
	}
	a.onClose(a.Journal.Close)
	a.History = journal.OpenHistory(jdb)
	a.onClose(a.History.Close)
	a.Markers = journal.OpenMarkers(jdb, a.Journal.Show, func() { a.Hub.Announce("markers", []string{"markers"}, time.Now()) })
	a.onClose(a.Markers.Close)
	jdb.Notes(a.noteRepair)
	a.onClose(incident.Notify(a.noteIncident))
	for _, n := range []string{lib.Note, note} {
		if n != "" {
			a.noteRepair(n)
		}
	}
	state, err := store.OpenState(data)
	if err != nil {
		return nil, err
	}
	state.Notes(a.noteRepair)
	a.onClose(func() { closing("state", state.Close()) })
	return state, nil
}

// openShows opens the show that was open last. Where it is damaged, the newest copy takes its place if that is wanted, and
// note says so; else the error says which copy there is.
func (a *App) openShows(lib *store.Library, lastGood bool) (note string, err error) {
	a.Shows, a.first, err = shows.Open(lib)
	var bad *store.DamagedError
	if !errors.As(err, &bad) {
		return "", err
	}
	id := lib.Current()
	if lastGood {
		b, used := lib.UseLastGood(id)
		if used != nil {
			return "", fmt.Errorf("%w; %w", err, used)
		}
		note = fmt.Sprintf("The show was damaged (%v). The copy of %s is in its place; the damaged files are in the folder kept.", bad.Err, b.At.Format(time.DateTime))
		a.Shows, a.first, err = shows.Open(lib)
		return note, err
	}
	if b, has := lib.LastGood(id); has {
		err = fmt.Errorf("%w. There is a copy of %s: start with --last-good to go on with that; the damaged files are kept", err, b.At.Format(time.DateTime))
	}
	return "", err
}

// closeShow closes the show that is open.
func (a *App) closeShow() error {
	if a.Edit == nil {
		return a.first.Close()
	}
	return a.Edit.Close()
}

// noteRepair writes into the journal what was wrong with a file of the data folder, and what was done about it.
func (a *App) noteRepair(note string) {
	slog.Warn("the data was repaired", "note", note)
	a.Journal.Record(journal.Event{Entry: journal.NextID(), At: time.Now(), Stage: journal.StageDecision, Text: note, Title: "The data was repaired", Device: "Synaptor",
		Origin: &journal.Origin{ControllerName: "Synaptor", Gesture: "repair", Via: "Synaptor", Actor: "Synaptor"}, Outcome: journal.Confirmed, Reason: note})
}

// known reads what devices were last known to have.
func known(s *store.State) func(string) []device.Report {
	return func(id string) []device.Report {
		names, err := s.Known(id)
		if err != nil {
			slog.Warn("what a device has is not known", "device", id, "err", err)
		}
		out := make([]device.Report, len(names))
		for i, n := range names {
			out[i] = device.Report{Path: n.Path, Value: n.Value}
		}
		return out
	}
}

// live reads which pages were shown when Synaptor ran last.
func (a *App) live(s *store.State) (out engine.LiveState) {
	if err := s.Get("live", &out); err != nil {
		a.noteRepair(fmt.Sprintf("Which pages were shown when Synaptor ended is not known: %v.", err))
		return engine.LiveState{}
	}
	return out
}

// ended is the name under which the state has whether Synaptor ended by itself.
const ended = "ended"

// endedUncleanly tells whether Synaptor was cut off when it ran last, and has it known that it runs now.
func (a *App) endedUncleanly(s *store.State) bool {
	byItself := true
	if err := s.Get(ended, &byItself); err != nil {
		slog.Warn("how Synaptor ended is not known", "err", err)
	}
	put := func(by bool) {
		if err := s.Put(ended, by); err != nil {
			slog.Warn("that Synaptor runs is not stored", "err", err)
		}
	}
	put(false)
	a.onClose(func() { put(true) })
	return !byItself
}

// noteLost says so where the show has fewer edits than it had.
func (a *App) noteLost(s *store.State, last int64) {
	var had int64
	if err := s.Get(lastEdit+a.Shows.Current(), &had); err != nil {
		slog.Warn("the number of the last edit is not known", "err", err)
	}
	if had > last {
		a.noteRepair(fmt.Sprintf("The show is older than it was: its last %d edits are not in it. Either show.db was put back from a copy, or a part of it was lost.", had-last))
	}
}

// inWords says why the files of a data folder cannot be opened.
func inWords(folder string, err error) error {
	var bad *store.DamagedError
	if errors.As(err, &bad) {
		return err // it says more
	}
	var disk *store.DiskError
	if errors.As(store.InWords(err), &disk) {
		return fmt.Errorf("the data folder %s cannot be used: %w", folder, disk)
	}
	return err
}
