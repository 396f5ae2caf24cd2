// Package shows has the shows of a data folder: which there are, which of them is in force, and what it takes to put
// another one in its place.
package shows

import (
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/engine"
	"synaptor/internal/journal"
	"synaptor/internal/mirror"
	"synaptor/internal/store"
)

// Live is what lives with the show in force.
type Live struct {
	Edit    *edit.Service
	Engine  *engine.Engine
	Mirror  *mirror.Mirror
	Journal *journal.Journal
}

// Service is the one place where shows are opened, made and deleted.
type Service struct {
	lib  *store.Library
	back struct {
		mu      sync.Mutex // of a copy that is being made
		problem atomic.Pointer[string]
	}
	open atomic.Pointer[string]

	mu   sync.Mutex // of the library, and of which show is open
	live Live
}

// Open opens the show of a library that was open last, or makes the first one.
func Open(lib *store.Library) (*Service, *store.Show, error) {
	s := &Service{lib: lib}
	id := lib.Current()
	if id == "" {
		id = store.NewShowID()
		if err := lib.Make(id, ""); err != nil {
			return nil, nil, err
		}
	}
	db, err := lib.Open(id)
	if err != nil {
		return nil, nil, err
	}
	if err := lib.SetCurrent(id); err != nil {
		return nil, nil, errors.Join(err, db.Close())
	}
	s.open.Store(&id)
	return s, db, nil
}

// Attach gives what lives with the show. It must follow before anything else.
func (s *Service) Attach(l Live) {
	s.live = l
	l.Journal.BelongTo(s.Current())
}

// Current is the id of the show that is open. It waits for nothing.
func (s *Service) Current() string { return *s.open.Load() }

// List lists the shows by name, the deleted ones too.
func (s *Service) List() ([]store.ShowInfo, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.lib.List()
}

// checkName gives a name without what is around it, or what is wrong with it at its field.
func checkName(name string) (string, error) {
	name = strings.TrimSpace(name)
	if text := show.CheckName(name); text != "" {
		return "", edit.FieldErrors{{Field: "name", Text: text}}
	}
	return name, nil
}

// Make adds a show: an empty one, or one that is as another one is now. It is not opened.
func (s *Service) Make(name, from string) (id string, err error) {
	if name, err = checkName(name); err != nil {
		return "", err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	id = store.NewShowID()
	if from == "" {
		return id, s.lib.Make(id, name)
	}
	return id, s.lib.Copy(id, from, name)
}

// MakeWith adds a show that is filled, all or nothing. It is not opened.
func (s *Service) MakeWith(fill func(*store.Show) error) (id string, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	id = store.NewShowID()
	return id, s.lib.MakeWith(id, fill)
}

// Rename gives a show another name; of the one that is open that is an edit.
func (s *Service) Rename(who edit.Who, id, name string) (err error) {
	if name, err = checkName(name); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if id == s.Current() {
		return s.live.Edit.RenameShow(who, name)
	}
	return s.lib.Rename(id, name, who.Actor)
}

// OpenError says that a show is open, and can therefore not be deleted.
type OpenError struct{}

// Error implements error.
func (OpenError) Error() string { return "This show is open. Open another one first, then delete it." }

// Delete has a show kept for 30 days, out of the way. It fails with an OpenError.
func (s *Service) Delete(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if id == s.Current() {
		return OpenError{}
	}
	return s.lib.Delete(id)
}

// Undelete brings a deleted show back.
func (s *Service) Undelete(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.lib.Undelete(id)
}

// Opening is what opening another show would end.
type Opening struct {
	Name string `json:"name"`
	mirror.Going
	// Ends are the devices whose links end, Stays those that both shows have.
	Ends  []string `json:"ends"`
	Stays []string `json:"stays"`
	// Asks says that somebody has to be sure: something goes on.
	Asks bool `json:"asks"`
}

// BusyError says that something goes on which opening another show would end.
type BusyError struct{ Opening Opening }

// Error implements error.
func (e *BusyError) Error() string {
	var parts []string
	if n := len(e.Opening.OnAir); n > 0 {
		parts = append(parts, strings.Join(e.Opening.OnAir, " and ")+" goes on, and nobody looks after it here any more")
	}
	if n := len(e.Opening.Runs); n == 1 {
		parts = append(parts, "the run of "+e.Opening.Runs[0]+" is halted")
	} else if n > 1 {
		parts = append(parts, fmt.Sprintf("%d runs are halted", n))
	}
	if len(e.Opening.Talks) > 0 {
		parts = append(parts, strings.Join(e.Opening.Talks, " and ")+" is closed")
	}
	return "Something goes on: " + strings.Join(parts, "; ") + "."
}

// settleLimit is how long the commands that let go are waited for before the links of their devices end.
//
//limit:count wait for what is let go of when another show is opened | nowhere; the devices say themselves what they are
const settleLimit = 1500 * time.Millisecond

// Look tells what opening a show would end.
func (s *Service) Look(id string) (Opening, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	db, o, err := s.load(id)
	if err != nil {
		return Opening{}, err
	}
	defer closed(db)
	return s.opening(o), nil
}

func (s *Service) load(id string) (*store.Show, *edit.Opened, error) {
	db, err := s.lib.Open(id)
	if err != nil {
		return nil, nil, err
	}
	o, err := s.live.Edit.Load(db)
	if err != nil {
		closed(db)
		return nil, nil, err
	}
	return db, o, nil
}

func closed(db *store.Show) {
	if err := db.Close(); err != nil {
		slog.Warn("a show was not closed well", "err", err)
	}
}

// opening compares a show with the one in force.
func (s *Service) opening(o *edit.Opened) Opening {
	next, v := o.Program().Show, s.live.Mirror.View()
	out := Opening{Name: next.Settings().Name, Going: v.Going(), Ends: []string{}, Stays: []string{}}
	for _, d := range v.Program.Show.Devices() {
		if d.Parked {
			continue
		}
		if sameLink(d, next.Device(d.ID)) {
			out.Stays = append(out.Stays, d.Name)
		} else {
			out.Ends = append(out.Ends, d.Name)
		}
	}
	out.Asks = out.Any()
	return out
}

// sameLink tells whether the link of a device goes on with what another show has under its id.
func sameLink(a, b *show.Device) bool {
	return b != nil && !b.Parked && a.Type == b.Type && a.Address() == b.Address() && a.User == b.User && a.Secret == b.Secret && a.Secure == b.Secure
}

// Put opens a show in place of the one that is open. Where something goes on that this ends, sure says that it shall;
// else it fails with a *BusyError. Nothing has changed where it fails.
func (s *Service) Put(who edit.Who, id string, sure bool) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if id == s.Current() {
		return nil
	}
	db, o, err := s.load(id)
	if err != nil {
		return err
	}
	if opening := s.opening(o); opening.Asks && !sure {
		closed(db)
		return &BusyError{opening}
	}
	if err := s.lib.SetCurrent(id); err != nil {
		closed(db)
		return fmt.Errorf("note which show is open: %w", err)
	}
	before := s.live.Edit.Program().Show.Settings().Name
	if err := s.live.Edit.KeepChanged("before another show was opened"); err != nil {
		slog.Warn("no version of the show was kept", "err", err) // it is on the disk all the same
	}
	s.letGo(who)
	old := s.live.Edit.Switch(who, o)
	s.open.Store(&id)
	s.live.Journal.BelongTo(id)
	s.live.Engine.Sync()
	closed(old)
	s.note(who, fmt.Sprintf("%s was open before.", before), "Open the show "+o.Program().Show.Settings().Name)
	for _, n := range o.Notes() {
		s.note(who, n, "The data was repaired")
	}
	return nil
}

// letGo ends what goes on, and waits until the devices have answered to that, or for as long as they may take.
func (s *Service) letGo(who edit.Who) {
	s.live.Engine.LetGo(engine.Request{Entry: journal.NextID(), At: time.Now(), Via: "shows", Actor: who.Actor})
	for limit := time.Now().Add(settleLimit); s.live.Engine.UnderWay() > 0 && time.Now().Before(limit); {
		time.Sleep(10 * time.Millisecond)
	}
}

// note writes into the journal that another show is in force from here on.
func (s *Service) note(who edit.Who, text, title string) {
	s.live.Journal.Record(journal.Event{Entry: journal.NextID(), At: time.Now(), Stage: journal.StageDecision, Text: text, Title: title, Device: "Synaptor",
		Origin: &journal.Origin{ControllerName: "Synaptor", Gesture: "show", Via: "shows", Actor: who.Actor}, Outcome: journal.Confirmed, Reason: text})
}
