package store

import (
	"database/sql"
	"encoding/json"
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
	// Panel says that it is a panel, which is paired by a code.
	Panel bool  `db:"panel"`
	Until int64 `db:"until"` // when the right ends; 0: when somebody takes it away
}

// Persons lists them by name.
func (p *People) Persons() (out []Person, err error) {
	return out, p.db.Select(&out, `SELECT * FROM person ORDER BY name`)
}

// AddPerson adds one. first says that it fails where somebody has a passphrase already; whoever was expected under the name is that one then.
func (p *People) AddPerson(one Person, first bool) error {
	const values = `INSERT INTO person (id, name, role, hash, made, rights, panel, until) SELECT ?, ?, ?, ?, ?, ?, ?, ?`
	args := []any{one.ID, one.Name, one.Role, one.Hash, one.Made, one.Rights, one.Panel, one.Until}
	if !first {
		r, err := p.db.Exec(values, args...)
		return changedOne(r, err)
	}
	r, err := p.db.Exec(values+` WHERE NOT EXISTS (SELECT 1 FROM person WHERE hash <> '')
		ON CONFLICT (name) DO UPDATE SET id = excluded.id, role = excluded.role, hash = excluded.hash, made = excluded.made, rights = '', panel = 0, until = 0`, args...)
	return changedOne(r, err)
}

// SetPerson changes what one may do, and the passphrase.
func (p *People) SetPerson(one Person) error {
	r, err := p.db.Exec(`UPDATE person SET role = ?, hash = ?, rights = ?, until = ? WHERE id = ?`, one.Role, one.Hash, one.Rights, one.Until, one.ID)
	return changedOne(r, err)
}

// Welcome has somebody who was expected have a passphrase. It fails with ErrNobody where nobody without one has the id.
func (p *People) Welcome(id, hash string) error {
	r, err := p.db.Exec(`UPDATE person SET hash = ? WHERE id = ? AND hash = ''`, hash, id)
	return changedOne(r, err)
}

// RemovePerson removes one, with all sessions.
func (p *People) RemovePerson(id string) error {
	if err := p.EndSessionsOf(id); err != nil {
		return err
	}
	if _, err := p.db.Exec(`DELETE FROM invitation WHERE person = ?`, id); err != nil {
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
	Person string `db:"person"` // who is expected by it; empty: whoever comes
}

// Invite keeps an invitation.
func (p *People) Invite(i Invitation) error {
	_, err := p.db.Exec(`INSERT INTO invitation (hash, role, made_by, until, person) VALUES (?, ?, ?, ?, ?)`, i.Hash, i.Role, i.MadeBy, i.Until, i.Person)
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
	// Address is where it was used last.
	Address string `db:"address"`
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
func (p *People) NameSession(hash, person, agent, address string) error {
	r, err := p.db.Exec(`UPDATE session SET person = ?, agent = ?, address = ? WHERE hash = ?`, person, agent, address, hash)
	return changedOne(r, err)
}

// MoveSession notes where one is used now.
func (p *People) MoveSession(hash, address string) error {
	r, err := p.db.Exec(`UPDATE session SET address = ? WHERE hash = ?`, address, hash)
	return changedOne(r, err)
}

// EndSessionsOf ends all of somebody.
func (p *People) EndSessionsOf(person string) error {
	_, err := p.db.Exec(`DELETE FROM session WHERE person = ?`, person)
	return err
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
	// Terms narrow it, as JSON; empty: nothing does.
	Terms string `db:"terms"`
}

// AddToken adds one.
func (p *People) AddToken(t Token) error {
	_, err := p.db.Exec(`INSERT INTO token (id, name, role, hash, made, used, terms) VALUES (?, ?, ?, ?, ?, 0, ?)`, t.ID, t.Name, t.Role, t.Hash, t.Made, t.Terms)
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

// Setting reads a setting of this computer into a value; it stays as it is where nothing was set.
func (p *People) Setting(name string, into any) error {
	var raw string
	err := p.db.Get(&raw, `SELECT value FROM setting WHERE name = ?`, name)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err == nil {
		err = json.Unmarshal([]byte(raw), into)
	}
	if err != nil {
		return fmt.Errorf("read the setting %s: %w", name, err)
	}
	return nil
}

// Set keeps a setting of this computer.
func (p *People) Set(name string, value any) error {
	raw, err := json.Marshal(value)
	if err == nil {
		_, err = p.db.Exec(`INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value`, name, string(raw))
	}
	if err != nil {
		return fmt.Errorf("keep the setting %s: %w", name, err)
	}
	return nil
}
