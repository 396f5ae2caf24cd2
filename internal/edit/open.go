package edit

import (
	"synaptor/internal/background"
	"synaptor/internal/core/show"
	"synaptor/internal/program"
	"synaptor/internal/sheet"
	"synaptor/internal/store"
)

// base is the database of the show that is open.
func (s *Service) base() *store.Show { return s.db.Load() }

// Opened is a show that is loaded and compiled, and not in force yet.
type Opened struct {
	db      *store.Show
	show    *show.Show
	seq     int64
	notes   []string
	sources program.Sources
	sheets  *sheet.Library // that it was compiled with
	program *program.Program
}

// Program is the show, compiled.
func (o *Opened) Program() *program.Program { return o.program }

// Notes say what was wrong with the show, and was put right.
func (o *Opened) Notes() []string { return o.notes }

// Load loads and compiles the show of a database; the one that is open stays so.
func (s *Service) Load(db *store.Show) (*Opened, error) {
	sh, seq, notes, err := db.Load()
	if err != nil {
		return nil, err
	}
	s.mu.Lock()
	o := &Opened{db: db, show: sh, seq: seq, notes: notes, sources: s.sources, sheets: s.sheets}
	s.mu.Unlock()
	o.sources.Password = db.Secret
	background.Do(func() { o.program = program.Compile(nil, sh, o.sheets, o.sources) })
	return o, nil
}

// take makes a show the one that is edited; the lock is held, or nobody uses s yet.
func (s *Service) take(o *Opened) {
	s.show, s.seq, s.sources, s.Repaired = o.show, o.seq, o.sources, o.notes
	s.db.Store(o.db)
	s.program.Store(o.program)
}

// Switch puts a show in force in place of the one that is open, and gives the database of that one, which nobody
// edits any more. Sheets that came meanwhile are with it.
func (s *Service) Switch(who Who, o *Opened) (old *store.Show) {
	s.mu.Lock()
	defer s.mu.Unlock()
	old = s.base()
	if o.sheets != s.sheets {
		o.program = program.Compile(nil, o.show, s.sheets, o.sources)
	}
	s.take(o)
	s.engine.Use(o.program)
	s.engine.Sync()
	s.announce("Open "+o.show.Settings().Name, who)
	return old
}

// RenameShow gives the show that is open another name.
func (s *Service) RenameShow(who Who, name string) error {
	return s.do(who, func(d *show.Draft, sh *show.Show) (string, error) {
		c := *sh.Settings()
		c.Name = name
		d.Put(&c)
		return "Call the show " + name, nil
	})
}

// Tidy lets go of what nothing in the show can reach any more.
func (s *Service) Tidy() error { return s.base().Tidy() }

// PutSecret stores a password with the show, and gives what refers to it.
func (s *Service) PutSecret(text string) (string, error) { return s.base().PutSecret(text) }

// Close closes the database of the show that is open. No edit may follow.
func (s *Service) Close() error { return s.base().Close() }
