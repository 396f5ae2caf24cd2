package edit_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"synaptor/internal/core/show"
	"synaptor/internal/edit"
	"synaptor/internal/store"
)

// keyer is an action for a key.
func keyer(n string) edit.Action {
	return edit.Action{Device: "dome-switcher", Action: "keyer-on", Params: map[string]string{"keyer": n}}
}

// refused fails unless an error says what is wrong with a field.
func (d *desk) refused(err error, field, text string) {
	d.Helper()
	var fields edit.FieldErrors
	if !errors.As(err, &fields) || fields[0].Field != field || !strings.Contains(fields[0].Text, text) {
		d.Errorf("it ended with %v, wanted %s: …%s…", err, field, text)
	}
}

// TestAKeyThatWasClearedDoesNotComeBackOnAnother: undo looks at places, and not at revisions only.
func TestAKeyThatWasClearedDoesNotComeBackOnAnother(t *testing.T) {
	on(t, func(d *desk) {
		d.ok(second(d.PutAction(tobin, "cut", "a4", keyer("1"))))
		d.ok(d.Clear(tobin, "cut", []string{"a4"}))
		put, err := d.PutAction(saskia, "cut", "a4", keyer("2"))
		d.ok(err)
		_, err = d.Undo(tobin, 0)
		var stale *edit.StaleError
		if !errors.As(err, &stale) || stale.Blocked == nil || stale.Blocked.By != "Saskia" || stale.Blocked.Past == "" {
			t.Fatalf("undone: %v, %+v", err, stale)
		}
		if m := d.Program().Show.MappingAt("cut", "a4"); m.ID != put.ID {
			t.Errorf("%s is on the key", m.ID)
		}
		stored, _, notes, err := d.db.Load()
		if err != nil || len(notes) > 0 || stored.MappingAt("cut", "a4").ID != put.ID {
			t.Errorf("after a restart: %v (%v)", notes, err)
		}
	})
}

// TestUndoGoesOnBehindAnEditThatIsBlocked has somebody pass over it.
func TestUndoGoesOnBehindAnEditThatIsBlocked(t *testing.T) {
	on(t, func(d *desk) {
		d.ok(d.RenamePage(tobin, "lights", "Lamps"))
		d.ok(d.RenamePage(tobin, "sound", "Desk"))
		d.ok(d.RenamePage(saskia, "sound", "Voices"))
		_, err := d.Undo(tobin, 0)
		var stale *edit.StaleError
		if !errors.As(err, &stale) || stale.Blocked == nil || !strings.Contains(stale.Blocked.Past, "Lamps") || !strings.Contains(stale.Blocked.Edit, "Voices") {
			t.Fatalf("it is blocked: %v, %+v", err, stale)
		}
		if _, err := d.Undo(tobin, stale.Blocked.Seq+100); !errors.As(err, new(*edit.StaleError)) {
			t.Errorf("another edit was passed over: %v", err)
		}
		name, err := d.Undo(tobin, stale.Blocked.Seq)
		d.ok(err)
		if s := d.Program().Show; s.Page("lights").Name != "Lights" || s.Page("sound").Name != "Voices" {
			t.Errorf("after %q was undone the pages are %q and %q", name, s.Page("lights").Name, s.Page("sound").Name)
		}
		d.ok(second(d.Redo(tobin)))
		if n := d.Program().Show.Page("lights").Name; n != "Lamps" {
			t.Errorf("done again it is %q", n)
		}
	})
}

func TestWhatStandsOnEveryPageHasAPlaceOfItsOwn(t *testing.T) {
	on(t, func(d *desk) {
		put, err := d.PutAction(tobin, "cut", "a4", keyer("1"))
		d.ok(err)
		d.ok(second(d.PutAction(tobin, "stream", "a4", keyer("2"))))
		over, err := d.Stand(tobin, put.ID, true, "cut")
		d.ok(err)
		if !slices.ContainsFunc(over, func(key string) bool { return strings.HasSuffix(key, " on Stream") }) {
			t.Errorf("it is said to hide %v", over)
		}
		d.refused(second(d.Stand(tobin, put.ID, false, "faders")), "page", "not a page")
		over, err = d.Stand(tobin, put.ID, false, "stream")
		d.ok(err)
		if len(over) != 1 || d.Program().Show.MappingAt("stream", "a4").ID != put.ID {
			t.Errorf("it is said to take the place of %v", over)
		}
		d.ok(second(d.Undo(tobin, 0)))
		other, err := d.PutAction(tobin, "dome", "b4", keyer("2"))
		d.ok(err)
		d.ok(second(d.Stand(tobin, other.ID, true, "dome")))
		// Two that stand on one control cannot be, whatever the edit.
		err = d.Fill(tobin, "Twice", func(to *show.Draft) {
			m := to.Now().Mapping(other.ID).Clone()
			m.Placements[0].Control = "a4"
			to.Put(m)
		})
		d.refused(err, "control", "a4 has")
	})
}

// TestADamagedShowIsRepairedWhenItIsOpened has two mappings on one key, as builds before could
// leave it.
func TestADamagedShowIsRepairedWhenItIsOpened(t *testing.T) {
	on(t, func(d *desk) {
		put, err := d.PutAction(tobin, "cut", "a4", keyer("1"))
		d.ok(err)
		s := d.Program().Show
		old := s.MappingAt("cut", "a1")
		twice := s.Mapping(put.ID).Clone()
		twice.Placements = []show.Placement{{Page: "cut", Control: "a1"}}
		ref := twice.Ref()
		d.ok(d.db.Commit(1000, "x", "Damage", show.Edit{Name: "Damage", Changes: []show.Change{{Ref: ref, Base: s.Rev(ref), Next: 1000, After: show.Encode(twice)}}}))

		stored, last, notes, err := d.db.Load()
		d.ok(err)
		if len(notes) != 1 || !strings.Contains(notes[0], "a1 of the page Cut") || last != 1001 {
			t.Errorf("the notes are %q, the last edit is %d", notes, last)
		}
		if m := stored.MappingAt("cut", "a1"); m.ID != put.ID {
			t.Errorf("%s has kept the key", m.ID)
		}
		if m := stored.Mapping(old.ID); len(m.Placements) != len(old.Placements) || !slices.ContainsFunc(m.Placements, func(p show.Placement) bool { return p.Control == "a1-2" }) {
			t.Errorf("the other one is at %+v", m.Placements)
		}
		_, _, notes, err = d.db.Load()
		if err != nil || len(notes) > 0 {
			t.Errorf("the second time: %q (%v)", notes, err)
		}
		if rows, err := d.db.History(1); err != nil || rows[0].Actor != "Synaptor" || rows[0].State != store.Done {
			t.Errorf("the list of edits says %+v (%v)", rows, err)
		}
	})
}
