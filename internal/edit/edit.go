// Package edit changes a show: it checks an edit, stores it, compiles the show
// and puts it in force in the engine, in this order. When edit returns, the
// edit is on the disk and the engine uses it. Every edit can be undone by the
// session that made it.
package edit

import (
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"

	"synaptor/internal/background"
	"synaptor/internal/core/show"
	"synaptor/internal/engine"
	"synaptor/internal/feed"
	"synaptor/internal/media"
	"synaptor/internal/mirror"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
	"synaptor/internal/store"
)

// Who makes an edit: the session whose undo list it joins, and a name.
type Who struct {
	Session string
	Actor   string
	Person  string // the id of the person or program; empty: this computer itself
}

// Service is the one place where a show is changed.
type Service struct {
	// db is read by those who make no edit, such as pictures.
	db      atomic.Pointer[store.Show]
	sheets  *sheet.Library
	sources program.Sources
	hub     *feed.Hub
	// pictures checks what is added to the library.
	pictures *media.Taker
	// snap is read by inputs, which no edit may hold up.
	program atomic.Pointer[program.Program]

	mu     sync.Mutex
	show   *show.Show
	seq    int64
	engine *engine.Engine
	mirror *mirror.Mirror
	told   int64 // how often live clients were told of a change

	// Repaired says what was wrong with the show when it was opened, and was put right.
	Repaired []string
	// Stored is told the number of each edit that is on the disk, and must not wait; nil: nobody is.
	Stored func(seq int64)
}

// Open loads the show of a database. Attach must follow before any edit.
func Open(db *store.Show, sheets *sheet.Library, sources program.Sources, hub *feed.Hub) (*Service, error) {
	svc := &Service{sheets: sheets, sources: sources, hub: hub, pictures: media.NewTaker()}
	o, err := svc.Load(db)
	if err != nil {
		return nil, err
	}
	svc.take(o)
	return svc, nil
}

// Attach gives the engine that uses the show, and the mirror that tells of it.
func (s *Service) Attach(e *engine.Engine, m *mirror.Mirror) {
	s.engine, s.mirror = e, m
	s.announce("", Who{})
}

// Last is the number of the last edit.
func (s *Service) Last() int64 {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.seq
}

// Program returns the compiled show in force. It waits for nothing.
func (s *Service) Program() *program.Program { return s.program.Load() }

// ErrNotFound says that what an edit is about does not exist.
var ErrNotFound = errors.New("this no longer exists")

// notFound names what is missing.
func notFound(what string) error { return fmt.Errorf("%s: %w", what, ErrNotFound) }

// StaleError says that somebody changed an entity since it was read.
type StaleError struct {
	Text    string
	Blocked *Blocked // of an undo; nil: it was none
}

// Blocked is an edit that cannot be undone any more.
type Blocked struct {
	Seq  int64  `json:"seq"`  // its number
	Name string `json:"name"` // what it was
	By   string `json:"by"`   // who made the edit that it is blocked by; empty: nobody knows
	Edit string `json:"edit"` // what that was
	Past string `json:"past"` // the edit before it, which undo can go on with; empty: there is none
}

// Error implements error.
func (e *StaleError) Error() string { return e.Text }

// FieldErrors are what is wrong with the fields of an edit.
type FieldErrors []*show.FieldError

// Error implements error.
func (e FieldErrors) Error() string { return e[0].Error() }

// do makes an edit. build fills the draft and returns the edit's name; an edit
// that changes nothing is not stored.
func (s *Service) do(who Who, build func(*show.Draft, *show.Show) (string, error)) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	d := show.NewDraft(s.show)
	name, err := build(d, s.show)
	if err != nil {
		return err
	}
	e := d.Edit(name, s.seq+1)
	if len(e.Changes) == 0 {
		return nil
	}
	next, err := s.show.Apply(e)
	if err != nil {
		return s.taken(err)
	}
	if err := next.Within(e); err != nil {
		return err
	}
	if err := s.before(who, e); err != nil {
		return err
	}
	if err := s.base().Commit(s.seq+1, who.Session, who.Actor, e); err != nil {
		return err
	}
	s.seq++
	if s.Stored != nil {
		s.Stored(s.seq)
	}
	s.enforce(next, name, who)
	return nil
}

// try makes an edit only to see whether and how it would work.
func (s *Service) try(_ Who, build func(*show.Draft, *show.Show) (string, error)) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	_, err := build(show.NewDraft(s.show), s.show)
	return err
}

// enforce puts a show that is stored in force; the lock is held.
func (s *Service) enforce(next *show.Show, name string, who Who) {
	s.show = next
	var snap *program.Program
	background.Do(func() { snap = program.Compile(s.program.Load(), next, s.sheets, s.sources) })
	s.program.Store(snap)
	s.engine.Use(snap)
	s.engine.Sync() // who is answered may press at once, and inputs overtake what is handed in
	s.announce(name, who)
}

// Announcement tells live clients that the show changed.
type Announcement struct {
	Seq  int64  `json:"seq"` // counts the changes since the start
	Name string `json:"name"`
	By   string `json:"by"`
}

func (s *Service) announce(name string, who Who) {
	s.told++
	s.hub.Publish("show", []string{"show"}, Announcement{s.told, name, who.Actor})
}

// taken puts it in words where two keys would have one place.
func (s *Service) taken(err error) error {
	var twice *show.OccupiedError
	if !errors.As(err, &twice) {
		return err
	}
	there := "another key"
	if m := s.show.Mapping(twice.By); m != nil {
		there = s.called(m)
	}
	return FieldErrors{{Field: "control", Text: fmt.Sprintf("%s has %s already. Clear it first, or choose another control.", twice.Place.Control, there)}}
}

// Undo takes back the session's last edit and returns its name, "" when there
// is none. It fails with a *StaleError when somebody changed the same things
// since; past is the number of such an edit, which is passed over for good, or 0.
func (s *Service) Undo(who Who, past int64) (string, error) {
	if past > 0 {
		if err := s.passOver(who, past); err != nil {
			return "", err
		}
	}
	return s.step(who, store.Done, store.Undone)
}

// passOver has undo go on with the edit before one that is blocked; one that is not any more is
// left for undo to take back.
func (s *Service) passOver(who Who, seq int64) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	row, err := s.base().Last(who.Session, store.Done)
	if err != nil {
		return err
	}
	if row == nil || row.Seq != seq {
		return &StaleError{Text: "Another edit is the next one to be undone by now. Look at the list again."}
	}
	e, err := row.Edit()
	if err != nil {
		return err
	}
	_, err = s.show.Apply(e.Inverse())
	if _, _, blocked := s.blockedBy(err); !blocked {
		return nil
	}
	return s.base().Pass(seq)
}

// Redo does again what the session undid last.
func (s *Service) Redo(who Who) (string, error) { return s.step(who, store.Undone, store.Done) }

func (s *Service) step(who Who, from, to string) (string, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	row, err := s.base().Last(who.Session, from)
	if err != nil || row == nil {
		return "", err
	}
	e, err := row.Edit()
	if err != nil {
		return "", err
	}
	verb := "Done again: "
	if to == store.Undone {
		e, verb = e.Inverse(), "Undone: "
	}
	next, err := s.show.Apply(e)
	if ref, rev, blocked := s.blockedBy(err); blocked {
		return "", s.stale(who, row, from, ref, rev)
	}
	if err != nil {
		return "", err
	}
	if err := s.base().Mark(row.Seq, to, e); err != nil {
		return "", err
	}
	s.enforce(next, verb+row.Name, who)
	return row.Name, nil
}

// blockedBy finds what stands in the way of an edit: the entity that was changed, or that has the
// place by now.
func (s *Service) blockedBy(err error) (r show.Ref, rev int64, blocked bool) {
	var conflict *show.ConflictError
	var twice *show.OccupiedError
	switch {
	case errors.As(err, &conflict):
		return conflict.Ref, conflict.Have, true
	case errors.As(err, &twice):
		r = show.Ref{Kind: show.KindMapping, ID: twice.By}
		return r, s.show.Rev(r), true
	}
	return r, 0, false
}

// stale says who changed what an edit is about.
func (s *Service) stale(who Who, row *store.EditRow, from string, r show.Ref, rev int64) error {
	b := &Blocked{Seq: row.Seq, Name: row.Name}
	text := fmt.Sprintf("%q cannot be changed back: what it is about was changed since.", row.Name)
	if by := s.lastTouch(r, rev); by != nil {
		b.By, b.Edit = by.Actor, by.Name
		text = fmt.Sprintf("%q cannot be changed back: %s has since made the edit %q.", row.Name, by.Actor, by.Name)
	}
	if from != store.Done {
		return &StaleError{Text: text}
	}
	if before, err := s.base().Before(who.Session, from, row.Seq); err == nil && before != nil {
		b.Past = before.Name
	}
	return &StaleError{Text: text, Blocked: b}
}

// lastTouch finds the edit that left an entity as it is: by its revision, or,
// when the entity is gone, by looking for the edit that removed it.
func (s *Service) lastTouch(r show.Ref, rev int64) *store.EditRow {
	if rev > 0 {
		row, err := s.base().Numbered(rev)
		if err != nil {
			return nil
		}
		return row
	}
	rows, err := s.base().History(100)
	if err != nil {
		return nil
	}
	for _, row := range rows {
		e, err := row.Edit()
		if err == nil && row.State == store.Done && slices.ContainsFunc(e.Changes, func(c show.Change) bool { return c.Ref == r && c.After == nil }) {
			return &row
		}
	}
	return nil
}

// check fails with a *StaleError unless an entity is at a revision.
func (s *Service) check(sh *show.Show, r show.Ref, rev int64) error {
	have := sh.Rev(r)
	if have == rev {
		return nil
	}
	text := "Somebody changed this since you opened it. Look at it again, then decide."
	if by := s.lastTouch(r, have); by != nil {
		text = fmt.Sprintf("%s has made the edit %q since you opened this. Look at it again, then decide.", by.Actor, by.Name)
	}
	return &StaleError{Text: text}
}

// HistoryRow is an edit in the list that undo and redo go along.
type HistoryRow struct {
	Seq   int64  `json:"seq"`
	Name  string `json:"name"`
	By    string `json:"by"`
	At    string `json:"at"`
	Mine  bool   `json:"mine"`
	State string `json:"state"`
}

// History lists the last edits, newest first.
func (s *Service) History(who Who) ([]HistoryRow, error) {
	rows, err := s.base().History(100)
	if err != nil {
		return nil, err
	}
	out := make([]HistoryRow, len(rows))
	for i, r := range rows {
		out[i] = HistoryRow{Seq: r.Seq, Name: r.Name, By: r.Actor, At: r.At, Mine: r.Session == who.Session, State: r.State}
	}
	return out, nil
}

// Password opens a stored password.
func (s *Service) Password(id string) (string, error) { return s.base().Secret(id) }

// IsSecret tells whether a stored password is a text.
func (s *Service) IsSecret(id, text string) bool {
	got, err := s.base().Secret(id)
	return err == nil && got == text
}

func newID() string { return rand.Text() }

// Empty reports whether nothing was ever put into the show.
func (s *Service) Empty() bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.seq == 0
}

// Fill makes the first edit of an empty show.
func (s *Service) Fill(who Who, name string, build func(*show.Draft)) error {
	return s.do(who, func(d *show.Draft, _ *show.Show) (string, error) {
		build(d)
		return name, nil
	})
}

// Next names the edits that undo and redo of a session would step over; ""
// where there is none.
func (s *Service) Next(who Who) (undo, redo string, err error) {
	last, err := s.base().Last(who.Session, store.Done)
	if err != nil {
		return "", "", err
	}
	if last != nil {
		undo = last.Name
	}
	next, err := s.base().Last(who.Session, store.Undone)
	if err != nil {
		return "", "", err
	}
	if next != nil {
		redo = next.Name
	}
	return undo, redo, nil
}
