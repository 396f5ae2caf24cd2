package app

import (
	"log/slog"
	"time"

	"synaptor/internal/incident"
)

// tidyEvery is how often what nothing can reach any more is let go of.
const tidyEvery = 10 * time.Minute

// versionEvery is how often the show is kept as it is, where it was edited.
const versionEvery = 10 * time.Minute

// backupEvery is how often it is looked whether a copy of the data is due.
const backupEvery = 5 * time.Minute

// tidies has the database of the show that is open let go of what nothing can reach any more, now and then again and
// again, and keep versions of it.
func (a *App) tidies() {
	tidy := func() {
		if err := a.Edit.Tidy(); err != nil {
			slog.Warn("what nothing can reach any more was not let go of", "err", err)
		}
	}
	tidy()
	a.every(tidyEvery, "tidy", tidy)
	a.every(backupEvery, "backup", func() {
		if err := a.Shows.BackDaily(); err != nil {
			slog.Warn("no copy of the data was kept", "err", err)
		}
	})
	a.every(versionEvery, "versions", func() {
		if err := a.Edit.KeepChanged("kept by itself"); err != nil {
			slog.Warn("no version of the show was kept", "err", err)
		}
	})
}

// every does something again and again until the application is closed.
func (a *App) every(d time.Duration, what string, do func()) {
	quit, done := make(chan struct{}), make(chan struct{})
	a.onClose(func() {
		close(quit)
		<-done
	})
	go func() {
		defer close(done)
		t := time.NewTicker(d)
		defer t.Stop()
		for {
			select {
			case <-t.C:
				incident.Contain(what, "", do)
			case <-quit:
				return
			}
		}
	}()
}
