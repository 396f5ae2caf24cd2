package shows

import (
	"time"

	"synaptor/internal/store"
)

// backupEvery is how old the newest copy may be.
const backupEvery = 24 * time.Hour

// Backups are the copies of the data folder.
type Backups struct {
	Folder string         `json:"folder"`
	Copies []store.Backup `json:"copies"`
	// Problem is why the last copy was not made, or what is not in it; empty: all is well.
	Problem string `json:"problem"`
}

// Backups lists the copies, newest first.
func (s *Service) Backups() (Backups, error) {
	list, err := s.lib.Backups()
	out := Backups{Folder: s.lib.BackupFolder(), Copies: append([]store.Backup{}, list...)}
	if p := s.back.problem.Load(); p != nil {
		out.Problem = *p
	}
	return out, err
}

// Back keeps a copy of the data folder, while everything goes on.
func (s *Service) Back() (store.Backup, error) {
	s.back.mu.Lock()
	defer s.back.mu.Unlock()
	b, err := s.lib.Back(time.Now())
	problem := b.Problem
	if err != nil {
		problem = err.Error()
	}
	s.back.problem.Store(&problem)
	return b, err
}

// BackDaily keeps a copy where the newest is older than a day.
func (s *Service) BackDaily() error {
	list, err := s.lib.Backups()
	if err == nil && (len(list) == 0 || time.Since(list[0].At) >= backupEvery) {
		_, err = s.Back()
	}
	return err
}

// BackAtClose keeps a copy where a show was written to since the newest: the last thing before the computer is switched off.
func (s *Service) BackAtClose() error {
	list, err := s.lib.Backups()
	if err != nil {
		return err
	}
	since := time.Time{}
	if len(list) > 0 {
		since = list[0].At
	}
	if changed, err := s.lib.ChangedSince(since); err != nil || !changed {
		return err
	}
	_, err = s.Back()
	return err
}

// ChooseBackupFolder has copies kept in a folder; empty: in the usual one.
func (s *Service) ChooseBackupFolder(folder string) error { return s.lib.ChooseBackupFolder(folder) }
