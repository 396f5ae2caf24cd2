package store

import (
	"bytes"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/natefinch/atomic"

	"synaptor/internal/core/show"
)

// Library is the shows of a data folder, each in a folder of its own below shows, and which of them is open. What adds,
// deletes or opens a show is for one goroutine at a time; copies are kept beside that.
type Library struct {
	dir string // the data folder
	// Note says what was done to an older data folder; empty: nothing.
	Note string
}

const (
	showsFolder = "shows"
	// keptFolder has what was kept before something was changed for good.
	keptFolder = "kept"
	openFile   = "open.json" // which show is open
	goneFile   = "deleted"   // in the folder of a show that was deleted: since when
	showFile   = "show.db"
	beginning  = ".new-" // before the folder of a show that is being made
)

// parts are the files of a database: its own, its log, and what those who use it share.
var parts = []string{"", "-wal", "-shm"}

// deletedFor is how long a deleted show is kept.
const deletedFor = 30 * 24 * time.Hour

// maxShows is how many shows a data folder has at most, deleted ones too.
//
//limit:count shows of a data folder | when one is added
const maxShows = 500

// ErrNoShow says that a show is not in the library.
var ErrNoShow = errors.New("this show is not here any more")

// OpenLibrary opens the shows of a data folder. A folder of one show, as it was before there were many, becomes the
// folder of that show, after a copy was kept. What was being made when Synaptor ended is let go of.
func OpenLibrary(data string) (*Library, error) {
	l := &Library{dir: data}
	if err := os.MkdirAll(filepath.Join(data, showsFolder), 0o700); err != nil {
		return nil, fmt.Errorf("open the shows: %w", err)
	}
	if err := l.moveOld(); err != nil {
		return nil, fmt.Errorf("move the show into a folder of its own: %w", err)
	}
	begun, err := filepath.Glob(filepath.Join(data, showsFolder, beginning+"*"))
	for _, f := range begun {
		err = errors.Join(err, os.RemoveAll(f))
	}
	if err != nil {
		return nil, fmt.Errorf("open the shows: %w", err)
	}
	return l, l.purge(time.Now())
}

// moveOld moves the show of an older data folder into a folder of its own. It goes on where it was cut off.
func (l *Library) moveOld() error {
	moving := filepath.Join(l.dir, showsFolder, ".moving")
	old := filepath.Join(l.dir, showFile)
	_, err := os.Stat(old)
	_, begun := os.Stat(moving)
	if errors.Is(err, os.ErrNotExist) && errors.Is(begun, os.ErrNotExist) {
		return nil
	}
	if errors.Is(begun, os.ErrNotExist) {
		if err := l.keep(old); err != nil {
			return err
		}
		if err := os.Mkdir(moving, 0o700); err != nil {
			return err
		}
	}
	for _, end := range []string{"-shm", "-wal", ""} {
		if err := os.Rename(old+end, filepath.Join(moving, showFile+end)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	id := NewShowID()
	if err := l.SetCurrent(id); err != nil {
		return err
	}
	l.Note = "This Synaptor keeps many shows. The one of this data folder has a folder of its own now; a copy of it as it was is in the folder " + keptFolder + "."
	return os.Rename(moving, l.folder(id))
}

// keep copies the files of a database, as they are, into the folder of what was kept.
func (l *Library) keep(path string) error {
	kept, err := l.keptNow()
	if err != nil {
		return err
	}
	for _, end := range parts {
		if err := copyFile(path+end, filepath.Join(kept, filepath.Base(path)+end)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}

// keptNow makes a folder for what is kept now.
func (l *Library) keptNow() (string, error) {
	kept := filepath.Join(l.dir, keptFolder, time.Now().UTC().Format("20060102-150405.000"))
	return kept, os.MkdirAll(kept, 0o700)
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}

// NewShowID gives the id of a show that is to be made.
func NewShowID() string { return strings.ToLower(rand.Text()) }

var showID = regexp.MustCompile(`^[a-z0-9]{1,40}$`)

func (l *Library) folder(id string) string { return filepath.Join(l.dir, showsFolder, id) }

// has fails with ErrNoShow where there is no such show.
func (l *Library) has(id string) error {
	if info, err := os.Stat(l.folder(id)); !showID.MatchString(id) || err != nil || !info.IsDir() {
		return ErrNoShow
	}
	return nil
}

// here fails with ErrNoShow where there is no such show, or it was deleted.
func (l *Library) here(id string) error {
	if err := l.has(id); err != nil {
		return err
	}
	if !l.deleted(id).IsZero() {
		return fmt.Errorf("%w: it was deleted; bring it back first", ErrNoShow)
	}
	return nil
}

// Current is the id of the show that is open, or of the only one there is; empty: none was yet.
func (l *Library) Current() string {
	var open struct {
		Show string `json:"show"`
	}
	if raw, err := os.ReadFile(filepath.Join(l.dir, showsFolder, openFile)); err == nil && json.Unmarshal(raw, &open) == nil && l.has(open.Show) == nil {
		return open.Show
	}
	ids, err := l.ids()
	if err != nil || len(ids) == 0 {
		return ""
	}
	return ids[0]
}

// SetCurrent notes which show is open.
func (l *Library) SetCurrent(id string) error {
	raw, err := json.Marshal(map[string]string{"show": id})
	if err != nil {
		return err
	}
	return atomic.WriteFile(filepath.Join(l.dir, showsFolder, openFile), bytes.NewReader(raw))
}

// ids lists the shows that are not deleted, in the order of their ids.
func (l *Library) ids() ([]string, error) {
	all, err := l.all()
	return slices.DeleteFunc(all, func(id string) bool { return !l.deleted(id).IsZero() }), err
}

func (l *Library) all() ([]string, error) {
	found, err := os.ReadDir(filepath.Join(l.dir, showsFolder))
	if err != nil {
		return nil, fmt.Errorf("list the shows: %w", err)
	}
	var out []string
	for _, f := range found {
		if f.IsDir() && showID.MatchString(f.Name()) {
			out = append(out, f.Name())
		}
	}
	return out, nil
}

// deleted is since when a show is; zero: it is not.
func (l *Library) deleted(id string) time.Time {
	raw, err := os.ReadFile(filepath.Join(l.folder(id), goneFile))
	if err != nil {
		return time.Time{}
	}
	at, err := time.Parse(time.RFC3339, strings.TrimSpace(string(raw)))
	if err != nil {
		return time.Now() // it is deleted, whenever that was
	}
	return at
}

// Open opens a show of the library. It fails with ErrNoShow, a *DamagedError or a *NewerError.
func (l *Library) Open(id string) (*Show, error) {
	if err := l.here(id); err != nil {
		return nil, err
	}
	path := filepath.Join(l.folder(id), showFile)
	if info, err := os.Stat(path); err != nil {
		return nil, &DamagedError{path, err}
	} else if info.Size() == 0 && !hasLog(path) {
		return nil, &DamagedError{path, errors.New("it is empty, and it was not before")}
	}
	return openIn(l.folder(id), l.dir)
}

// Make adds an empty show, all or nothing. The one with a name that is not empty begins with it.
func (l *Library) Make(id, name string) error {
	return l.MakeWith(id, func(s *Show) error {
		if name == "" {
			return nil
		}
		return s.rename(name, "")
	})
}

// MakeWith adds a show that is filled, all or nothing.
func (l *Library) MakeWith(id string, fill func(*Show) error) error {
	return l.begin(id, func(dir string) error {
		s, err := openIn(dir, l.dir)
		if err != nil {
			return err
		}
		return errors.Join(fill(s), s.Close())
	})
}

// begin has the folder of a show filled, and adds it when that is done.
func (l *Library) begin(id string, fill func(dir string) error) error {
	if all, err := l.all(); err != nil {
		return err
	} else if len(all) >= maxShows {
		return fmt.Errorf("there are %d shows; more than %d are not kept. Delete some first", len(all), maxShows)
	}
	begun := filepath.Join(l.dir, showsFolder, beginning+id)
	err := os.Mkdir(begun, 0o700)
	if err == nil {
		err = fill(begun)
	}
	if err == nil {
		err = os.Rename(begun, l.folder(id))
	}
	if err != nil {
		return errors.Join(fmt.Errorf("make a show: %w", err), os.RemoveAll(begun))
	}
	return nil
}

// Copy adds a show that is as another one is now, under another name. The other one may be open meanwhile.
func (l *Library) Copy(id, from, name string) error {
	if err := l.here(from); err != nil {
		return err
	}
	return l.begin(id, func(dir string) error {
		if err := snapshot(filepath.Join(l.folder(from), showFile), filepath.Join(dir, showFile)); err != nil {
			return err
		}
		s, err := openIn(dir, l.dir)
		if err != nil {
			return err
		}
		return errors.Join(s.rename(name, ""), s.Close())
	})
}

// snapshot writes what a database is at this moment into a new file; who uses it goes on meanwhile.
func snapshot(from, to string) error {
	db, err := sqlx.Open("sqlite", "file:"+from+"?mode=ro&_pragma=busy_timeout(5000)")
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.Exec(`VACUUM INTO ?`, to); err != nil {
		return fmt.Errorf("copy the show: %w", err)
	}
	return os.Chmod(to, 0o600)
}

// Rename gives a show that is not open another name.
func (l *Library) Rename(id, name, actor string) error {
	s, err := l.Open(id)
	if err != nil {
		return err
	}
	return errors.Join(s.rename(name, actor), s.Close())
}

// rename makes the edit that gives the show another name.
func (s *Show) rename(name, actor string) error {
	sh, last, _, err := s.Load()
	if err != nil {
		return err
	}
	d := show.NewDraft(sh)
	c := *sh.Settings()
	c.Name = name
	if last == 0 && c.TimeZone == "" {
		c.TimeZone = LocalZone() // it is a new one: its times stay those, wherever it is opened
	}
	d.Put(&c)
	e := d.Edit("Call the show "+name, last+1)
	if len(e.Changes) == 0 {
		return nil
	}
	return s.Commit(last+1, "", actor, e)
}

// Delete has a show kept for 30 days, out of the way, and then gone.
func (l *Library) Delete(id string) error {
	if err := l.has(id); err != nil {
		return err
	}
	return atomic.WriteFile(filepath.Join(l.folder(id), goneFile), strings.NewReader(time.Now().UTC().Format(time.RFC3339)))
}

// Undelete brings a deleted show back.
func (l *Library) Undelete(id string) error {
	if err := l.has(id); err != nil {
		return err
	}
	if err := os.Remove(filepath.Join(l.folder(id), goneFile)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return fmt.Errorf("bring the show back: %w", err)
	}
	return nil
}

// purge lets go of the shows that were deleted long ago.
func (l *Library) purge(now time.Time) error {
	all, err := l.all()
	for _, id := range all {
		if at := l.deleted(id); !at.IsZero() && now.Sub(at) > deletedFor {
			err = errors.Join(err, os.RemoveAll(l.folder(id)))
		}
	}
	return err
}
