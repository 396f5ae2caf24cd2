package store

import (
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// People is the database of who may get in. It is of the computer and not of a show. Where it is damaged nothing is begun in its place:
// that would let everybody in.
type People struct{ db *sqlx.DB }

// peopleFile is its file.
const peopleFile = "people.db"

// OpenPeople opens, or makes, the people of a data folder.
func OpenPeople(dir string) (*People, error) {
	db, err := open(dir, "people", "FULL")
	if err != nil {
		return nil, fmt.Errorf("read who may get in (where nobody knows a passphrase any more, move people.db away: then nobody has to sign in): %w", err)
	}
	return &People{db}, nil
}

// Close closes it.
func (p *People) Close() error { return p.db.Close() }

// Person is somebody who may get in. Times are in seconds since 1970, as all here.
type Person struct {
	ID   string `db:"id"`
	Name string `db:"name"`
	Role string `db:"role"`
	Hash string `db:"hash"`
	Made int64  `db:"made"`
	// Rights are those that narrow somebody, as JSON; empty: nothing does.
	Rights string `db:"rights"`
}

// Persons lists them by name.
func (p *People) Persons() (out []Person, err error) {
	return out, p.db.Select(&out, `SELECT * FROM person ORDER BY name`)
}

// AddPerson adds one. first says that it fails where there is another one already.
func (p *People) AddPerson(one Person, first bool) error {
	r, err := p.db.Exec(`INSERT INTO person (id, name, role, hash, made) SELECT ?, ?, ?, ?, ? WHERE NOT ? OR NOT EXISTS (SELECT 1 FROM person)`, one.ID, one.Name, one.Role, one.Hash, one.Made, first)
	return changedOne(r, err)
}

// SetPerson changes the role and the passphrase of one.
func (p *People) SetPerson(one Person) error {
	r, err := p.db.Exec(`UPDATE person SET role = ?, hash = ?, rights = ? WHERE id = ?`, one.Role, one.Hash, one.Rights, one.ID)
	return changedOne(r, err)
}

// RemovePerson removes one, with all sessions.
func (p *People) RemovePerson(id string) error {
	if _, err := p.db.Exec(`DELETE FROM session WHERE person = ?`, id); err != nil {
		return err
	}
	r, err := p.db.Exec(`DELETE FROM person WHERE id = ?`, id)
	return changedOne(r, err)
}

// ErrNobody says that there is no such person, invitation, session or token.
var ErrNobody = errors.New("there is none such any more")

// changedOne fails with ErrNobody where nothing was changed.
func changedOne(r sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNobody)
	}
	return nil
}

// Invitation lets somebody in once.
type Invitation struct {
	Hash   string `db:"hash"`
	Role   string `db:"role"`
	MadeBy string `db:"made_by"`
	Until  int64  `db:"until"`
}

// Invite keeps an invitation.
func (p *People) Invite(i Invitation) error {
	_, err := p.db.Exec(`INSERT INTO invitation (hash, role, made_by, until) VALUES (?, ?, ?, ?)`, i.Hash, i.Role, i.MadeBy, i.Until)
	return err
}

// Invitation finds one that is still good.
func (p *People) Invitation(hash string, now int64) (i Invitation, err error) {
	err = p.db.Get(&i, `SELECT * FROM invitation WHERE hash = ?`, hash)
	if errors.Is(err, sql.ErrNoRows) || err == nil && i.Until < now {
		return i, ErrNobody
	}
	return i, err
}

// UseInvitation takes one away: it is good once.
func (p *People) UseInvitation(hash string) error {
	r, err := p.db.Exec(`DELETE FROM invitation WHERE hash = ?`, hash)
	return changedOne(r, err)
}

// Session is somebody's browser.
type Session struct {
	Hash   string `db:"hash"`
	Data   []byte `db:"data"`
	Person string `db:"person"`
	Agent  string `db:"agent"`
	Since  int64  `db:"since"`
	Seen   int64  `db:"seen"`
	Until  int64  `db:"until"`
}

// Session finds one.
func (p *People) Session(hash string) (s Session, err error) {
	err = p.db.Get(&s, `SELECT * FROM session WHERE hash = ?`, hash)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNobody
	}
	return s, err
}

// KeepSession stores one; what is known of its browser stays.
func (p *People) KeepSession(hash string, data []byte, seen, until int64) error {
	_, err := p.db.Exec(`INSERT INTO session (hash, data, person, agent, since, seen, until) VALUES (?, ?, '', '', ?, ?, ?)
		ON CONFLICT (hash) DO UPDATE SET data = excluded.data, seen = excluded.seen, until = excluded.until`, hash, data, seen, seen, until)
	return err
}

// NameSession notes whose session one is.
func (p *People) NameSession(hash, person, agent string) error {
	r, err := p.db.Exec(`UPDATE session SET person = ?, agent = ? WHERE hash = ?`, person, agent, hash)
	return changedOne(r, err)
}

// EndSession ends one.
func (p *People) EndSession(hash string) error {
	_, err := p.db.Exec(`DELETE FROM session WHERE hash = ?`, hash)
	return err
}

// Sessions lists those of people, and lets go of what has ended.
func (p *People) Sessions(now int64) (out []Session, err error) {
	if _, err := p.db.Exec(`DELETE FROM session WHERE until < ?`, now); err != nil {
		return nil, err
	}
	return out, p.db.Select(&out, `SELECT * FROM session WHERE person <> '' ORDER BY seen DESC`)
}

// Token is a program that may get in.
type Token struct {
	ID   string `db:"id"`
	Name string `db:"name"`
	Role string `db:"role"`
	Hash string `db:"hash"`
	Made int64  `db:"made"`
	Used int64  `db:"used"`
}

// AddToken adds one.
func (p *People) AddToken(t Token) error {
	_, err := p.db.Exec(`INSERT INTO token (id, name, role, hash, made, used) VALUES (?, ?, ?, ?, ?, 0)`, t.ID, t.Name, t.Role, t.Hash, t.Made)
	return err
}

// Tokens lists them by name.
func (p *People) Tokens() (out []Token, err error) {
	return out, p.db.Select(&out, `SELECT * FROM token ORDER BY name, made`)
}

// TokenUsed notes that one was used.
func (p *People) TokenUsed(id string, at int64) error {
	_, err := p.db.Exec(`UPDATE token SET used = ? WHERE id = ?`, at, id)
	return err
}

// RemoveToken takes one away.
func (p *People) RemoveToken(id string) error {
	r, err := p.db.Exec(`DELETE FROM token WHERE id = ?`, id)
	return changedOne(r, err)
}
