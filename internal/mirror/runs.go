package mirror

import (
	"time"

	"synaptor/internal/engine"
)

// How long what a run came to is shown, and how long runs are listed.
const (
	markShown = 3 * time.Second
	runListed = engine.RestorableFor
)

// updateRun takes in how a run stands.
func (m *Mirror) updateRun(row engine.RunRow) {
	m.now.runs.set(row.ID, row)
	if last, any := m.now.latest.all[row.Macro]; !any || !row.Started.Before(last.Started) {
		m.now.latest.set(row.Macro, row)
	}
	if row.Ended {
		m.ended[row.ID] = row.EndedAt()
	}
	m.cfg.Hub.Publish("run/"+row.ID, []string{"runs"}, row)
	for _, c := range m.runners[row.Macro] {
		m.touch(c, "")
	}
}

// forgetRuns takes away what has been shown long enough.
func (m *Mirror) forgetRuns(now time.Time) {
	for id, at := range m.ended {
		since := now.Sub(at)
		if since > markShown && since < markShown+time.Second {
			for _, c := range m.runners[m.now.runs.get(id).Macro] {
				m.refreshFace(c, nil)
			}
		}
		if since < runListed {
			continue
		}
		delete(m.ended, id)
		macro := m.now.runs.get(id).Macro
		if m.now.latest.get(macro).ID == id {
			m.now.latest.delete(macro)
		}
		m.now.runs.delete(id)
		m.cfg.Hub.Remove("run/" + id)
	}
}

// keepRuns has what runs have changed survive a restart.
func (m *Mirror) keepRuns() {
	m.live.Runs = append([]engine.KeptRun{}, m.left...)
	for _, k := range m.going {
		if !kept(m.left, k.Entry) {
			m.live.Runs = append(m.live.Runs, k)
		}
	}
	m.unsaved = true
}

func kept(list []engine.KeptRun, entry string) bool {
	for _, k := range list {
		if k.Entry == entry {
			return true
		}
	}
	return false
}
