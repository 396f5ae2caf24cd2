package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/natefinch/atomic"

	"synaptor/internal/core/version"
)

const (
	backupFolder = "backups" // where copies are kept unless another folder is chosen
	backupFile   = "backup.json"
	backupStamp  = "20060102-150405"
	backupReadme = `This is a copy of the data folder of Synaptor. To use it: synaptor restore FOLDER --data DATA

The key of the passwords is not in it, so that whoever finds the copy has none. Where the data folder is gone too,
the passwords of the devices have to be entered again.
`
	//limit:bytes the copies of the data folder | the oldest go
	maxBackups = 4 << 30
)

// Backup is a copy of the data folder.
type Backup struct {
	Name  string    `json:"name"` // of its folder
	At    time.Time `json:"at"`
	Bytes int64     `json:"bytes"`
	Shows int       `json:"shows"`
	// Problem is what could not be copied just now; of older copies it is not known any more.
	Problem string `json:"problem,omitempty"`
}

// BackupFolder is where copies are kept.
func (l *Library) BackupFolder() string {
	var chosen struct {
		Folder string `json:"folder"`
	}
	if raw, err := os.ReadFile(filepath.Join(l.dir, backupFile)); err == nil && json.Unmarshal(raw, &chosen) == nil && chosen.Folder != "" {
		return chosen.Folder
	}
	return filepath.Join(l.dir, backupFolder)
}

// ChooseBackupFolder has copies kept in a folder; empty: in the usual one. It fails where nothing can be written there.
func (l *Library) ChooseBackupFolder(folder string) error {
	if folder != "" {
		if !filepath.IsAbs(folder) {
			return errors.New("name the whole path of the folder, from the root on")
		}
		if err := os.MkdirAll(folder, 0o700); err != nil {
			return fmt.Errorf("nothing can be kept there: %w", err)
		}
		probe, err := os.CreateTemp(folder, ".synaptor-*")
		if err != nil {
			return fmt.Errorf("nothing can be kept there: %w", err)
		}
		if err := errors.Join(probe.Close(), os.Remove(probe.Name())); err != nil {
			return err
		}
	}
	raw, err := json.Marshal(map[string]string{"folder": folder})
	if err != nil {
		return err
	}
	return atomic.WriteFile(filepath.Join(l.dir, backupFile), bytes.NewReader(raw))
}

// Back copies the data folder while it is used: every show, the journal, what lives, and own sheets. Each copy is looked
// through; older ones thin out. What cannot be copied is told in the copy's problem, and keeps the rest from nothing; a copy
// without a show is none.
func (l *Library) Back(now time.Time) (b Backup, err error) {
	folder := l.BackupFolder()
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return b, fmt.Errorf("keep a copy: %w", err)
	}
	left, err := filepath.Glob(filepath.Join(folder, beginning+"*")) // of one that was cut off
	for _, f := range left {
		err = errors.Join(err, os.RemoveAll(f))
	}
	if err != nil {
		return b, fmt.Errorf("keep a copy: %w", err)
	}
	name := now.UTC().Format(backupStamp)
	for exists(filepath.Join(folder, name)) { // two in a second
		now = now.Add(time.Second)
		name = now.UTC().Format(backupStamp)
	}
	begun := filepath.Join(folder, beginning+name)
	problems, err := l.copyInto(begun)
	if err != nil {
		return b, errors.Join(fmt.Errorf("keep a copy: %w", err), os.RemoveAll(begun))
	}
	if err := os.Rename(begun, filepath.Join(folder, name)); err != nil {
		return b, errors.Join(fmt.Errorf("keep a copy: %w", err), os.RemoveAll(begun))
	}
	if err := l.thinBackups(now); err != nil {
		return b, err
	}
	b = l.backup(name)
	b.Problem = strings.Join(problems, "; ")
	return b, nil
}

func exists(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}

// copyInto copies what a data folder has into a new folder. problems are what could not be copied.
func (l *Library) copyInto(to string) (problems []string, err error) {
	ids, err := l.ids()
	if err != nil {
		return nil, err
	}
	copied := 0
	for _, id := range ids {
		folder := filepath.Join(to, showsFolder, id)
		if err := os.MkdirAll(folder, 0o700); err != nil {
			return nil, err
		}
		err := checkedCopy(filepath.Join(l.folder(id), showFile), filepath.Join(folder, showFile))
		if err == nil {
			copied++
			continue
		}
		if noRoom(err) {
			return nil, noRoomForCopies(err)
		}
		problems = append(problems, fmt.Sprintf("the show %s is not in it: %v", l.info(id).Name, err))
		if err := os.RemoveAll(folder); err != nil {
			return nil, err
		}
	}
	if copied == 0 {
		return nil, errors.New(strings.Join(append(problems, "no show could be copied"), "; "))
	}
	for _, name := range []string{"journal.db", "state.db"} {
		err := checkedCopy(filepath.Join(l.dir, name), filepath.Join(to, name))
		if noRoom(err) {
			return nil, noRoomForCopies(err)
		}
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			problems = append(problems, fmt.Sprintf("%s is not in it: %v", name, err))
			_ = os.Remove(filepath.Join(to, name)) // a part of it is of no use
		}
	}
	if err := l.copyRest(to); noRoom(err) {
		return nil, noRoomForCopies(err)
	} else if err != nil {
		return nil, err
	}
	return problems, nil
}

// noRoom tells whether a disk is full, which is nothing that is wrong with what was to be copied: no copy can be made.
func noRoom(err error) bool {
	var d *DiskError
	return errors.As(InWords(err), &d) && d.Full
}

func noRoomForCopies(err error) error {
	return &DiskError{"there is no room left on the disk that copies are kept on", true, err}
}

// copyRest copies what is no database.
func (l *Library) copyRest(to string) error {
	err := copyFile(filepath.Join(l.dir, showsFolder, openFile), filepath.Join(to, showsFolder, openFile))
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if _, err := os.Stat(filepath.Join(l.dir, "sheets")); err == nil {
		if err := os.CopyFS(filepath.Join(to, "sheets"), os.DirFS(filepath.Join(l.dir, "sheets"))); err != nil {
			return err
		}
	}
	return os.WriteFile(filepath.Join(to, "README.txt"), []byte(backupReadme), 0o600)
}

// checkedCopy copies a database that may be in use, and looks the copy through.
func checkedCopy(from, to string) error {
	if _, err := os.Stat(from); err != nil {
		return err
	}
	if err := snapshot(from, to); err != nil {
		return err
	}
	db, err := sqlx.Open("sqlite", "file:"+to+"?mode=ro")
	if err != nil {
		return err
	}
	defer db.Close()
	var said string
	if err := db.GetContext(context.Background(), &said, `PRAGMA integrity_check(1)`); err != nil {
		return err
	}
	if said != "ok" {
		return fmt.Errorf("the copy is damaged: %s", said)
	}
	return nil
}

// ChangedSince tells whether any show was written to after a moment.
func (l *Library) ChangedSince(at time.Time) (bool, error) {
	ids, err := l.ids()
	if err != nil {
		return false, err
	}
	for _, id := range ids {
		for _, part := range parts {
			info, err := os.Stat(filepath.Join(l.folder(id), showFile+part))
			if errors.Is(err, os.ErrNotExist) || part == "-shm" { // which reading changes too
				continue
			}
			if err != nil {
				return false, fmt.Errorf("look when a show was written: %w", err)
			}
			if info.ModTime().After(at) {
				return true, nil
			}
		}
	}
	return false, nil
}

// Backups lists the copies, newest first.
func (l *Library) Backups() ([]Backup, error) {
	found, err := os.ReadDir(l.BackupFolder())
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("list the copies: %w", err)
	}
	var out []Backup
	for _, f := range found {
		if _, err := time.Parse(backupStamp, f.Name()); err == nil && f.IsDir() {
			out = append(out, l.backup(f.Name()))
		}
	}
	slices.SortFunc(out, func(a, b Backup) int { return b.At.Compare(a.At) })
	return out, nil
}

func (l *Library) backup(name string) Backup {
	b := Backup{Name: name}
	b.At, _ = time.Parse(backupStamp, name) // it is one of ours
	_ = filepath.WalkDir(filepath.Join(l.BackupFolder(), name), func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return nil // what cannot be looked at is not counted
		}
		if info, err := d.Info(); err == nil {
			b.Bytes += info.Size()
		}
		if d.Name() == showFile {
			b.Shows++
		}
		return nil
	})
	return b
}

func (l *Library) thinBackups(now time.Time) error {
	list, err := l.Backups()
	if err != nil {
		return err
	}
	kept := make([]version.Kept, len(list))
	for i, b := range list {
		kept[i] = version.Kept{ID: int64(i), At: b.At, Bytes: b.Bytes, Named: i == 0} // the newest stays, however large
	}
	for _, i := range version.Thin(kept, now, maxBackups) {
		if err := os.RemoveAll(filepath.Join(l.BackupFolder(), list[i].Name)); err != nil {
			return fmt.Errorf("let go of an old copy: %w", err)
		}
	}
	return nil
}

// LastGood is the newest copy that has a show; ok is false where there is none.
func (l *Library) LastGood(id string) (b Backup, ok bool) {
	list, err := l.Backups()
	if err != nil {
		return b, false
	}
	for _, b := range list {
		if info, err := os.Stat(filepath.Join(l.BackupFolder(), b.Name, showsFolder, id, showFile)); err == nil && info.Size() > 0 {
			return b, true
		}
	}
	return b, false
}

// UseLastGood puts the newest copy of a show in the place of the show, whose files are kept beside it. The show must not
// be open.
func (l *Library) UseLastGood(id string) (b Backup, err error) {
	if err := l.has(id); err != nil {
		return b, err
	}
	b, ok := l.LastGood(id)
	if !ok {
		return b, errors.New("there is no copy of this show")
	}
	path := filepath.Join(l.folder(id), showFile)
	fresh := filepath.Join(l.folder(id), beginning+showFile)
	if err := errors.Join(os.RemoveAll(fresh), copyFile(filepath.Join(l.BackupFolder(), b.Name, showsFolder, id, showFile), fresh)); err != nil {
		return b, err
	}
	kept, err := l.keptNow()
	if err != nil {
		return b, err
	}
	for _, end := range parts {
		err := os.Rename(path+end, filepath.Join(kept, showFile+end))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			return b, fmt.Errorf("keep the damaged show: %w", err)
		}
	}
	return b, os.Rename(fresh, path)
}

// Restore makes a data folder of a copy. A folder that has something in it keeps that beside: nothing is written over.
func Restore(from, data string) error {
	if _, err := os.Stat(filepath.Join(from, showsFolder)); err != nil {
		return fmt.Errorf("%s is no copy of a data folder: it has no %s", from, showsFolder)
	}
	release, err := UseFolder(data)
	if err != nil {
		return err
	}
	defer release()
	aside := filepath.Join(data, keptFolder, time.Now().UTC().Format("20060102-150405.000"))
	had, err := os.ReadDir(data)
	if err != nil {
		return err
	}
	for _, f := range had {
		// The key of the passwords opens those of the copy too, copies stay where they are, and so does who may get in: it is of this
		// computer, and without it everybody would.
		if slices.Contains([]string{keptFolder, backupFolder, keyFile, lockFile, backupFile}, f.Name()) || strings.HasPrefix(f.Name(), peopleFile) {
			continue
		}
		if err := os.MkdirAll(aside, 0o700); err != nil {
			return err
		}
		if err := os.Rename(filepath.Join(data, f.Name()), filepath.Join(aside, f.Name())); err != nil {
			return err
		}
	}
	found, err := os.ReadDir(from)
	if err != nil {
		return err
	}
	for _, f := range found {
		if strings.HasPrefix(f.Name(), ".") || f.Name() == "README.txt" {
			continue
		}
		to := filepath.Join(data, f.Name())
		if f.IsDir() {
			err = os.CopyFS(to, os.DirFS(filepath.Join(from, f.Name())))
		} else {
			err = copyFile(filepath.Join(from, f.Name()), to)
		}
		if err != nil {
			return fmt.Errorf("restore %s: %w", f.Name(), err)
		}
	}
	return nil
}
