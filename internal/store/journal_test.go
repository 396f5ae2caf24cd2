package store

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"synaptor/internal/journal"
)

// openSmall opens a journal with limits of its own.
func openSmall(t *testing.T, dir string, l limits) *Journal {
	t.Helper()
	j, err := OpenJournal(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = j.Close() })
	j.limits = l
	return j
}

// fill stores so many entries, with a title of so many bytes.
func fill(t *testing.T, j *Journal, n, bytes int) {
	t.Helper()
	batch := make([]journal.Entry, n)
	for i := range batch {
		batch[i] = journal.Entry{ID: fmt.Sprintf("e%06d", i), At: time.Unix(int64(i), 0), Outcome: journal.Confirmed, Title: strings.Repeat("x", bytes)}
	}
	if err := j.Save(batch); err != nil {
		t.Fatal(err)
	}
}

// again saves one entry until the limits are looked at once more.
func again(t *testing.T, j *Journal) {
	t.Helper()
	for range trimEvery {
		if err := j.Save([]journal.Entry{{ID: "z", Outcome: journal.Confirmed}}); err != nil {
			t.Fatal(err)
		}
	}
}

func TestTheOldestEntriesGoWhereThereAreTooManyOfThem(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 100, bytes: 1 << 30})
	fill(t, j, 150, 10)
	again(t, j)
	rows, err := j.Load("", "", 1000)
	if err != nil || len(rows) > 101 || rows[0].ID != "z" || rows[1].ID != "e000149" {
		t.Errorf("%d rows are left, from %s on (%v)", len(rows), rows[0].ID, err)
	}
	if j.Trimmed() < 50 {
		t.Errorf("%d are said to have gone", j.Trimmed())
	}
}

func TestTheOldestEntriesGoWhereTheyTakeTooMuch(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 1000, bytes: 500 << 10})
	fill(t, j, 100, 10<<10)
	for range 10 {
		again(t, j)
	}
	rows, err := j.Load("", "", 1000)
	if err != nil || len(rows) > 60 || len(rows) < 30 || rows[1].ID != "e000099" {
		t.Errorf("%d rows are left (%v)", len(rows), err)
	}
}

func TestEntriesAreFoundByTheirShow(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 1000, bytes: 1 << 30})
	var batch []journal.Entry
	for i := range 60 {
		batch = append(batch, journal.Entry{ID: fmt.Sprintf("e%02d", i), Show: []string{"", "night", "studio"}[i%3], Outcome: journal.Confirmed})
	}
	if err := j.Save(batch); err != nil {
		t.Fatal(err)
	}
	ids := func(show, before string, limit int) (out []string) {
		t.Helper()
		rows, err := j.Load(show, before, limit)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range rows {
			out = append(out, e.ID)
		}
		return out
	}
	if got := ids("night", "", 4); !slices.Equal(got, []string{"e58", "e57", "e55", "e54"}) {
		t.Errorf("of the night are %v", got)
	}
	if got := ids("night", "e04", 10); !slices.Equal(got, []string{"e03", "e01", "e00"}) {
		t.Errorf("the first of the night are %v", got)
	}
	if got := ids("nobody", "", 100); len(got) != 20 {
		t.Errorf("of a show without any are %v", got)
	}
	if got := ids("", "", 100); len(got) != 60 {
		t.Errorf("of all are %d", len(got))
	}
}

func TestWhatIsUnderWayIsFoundAgain(t *testing.T) {
	dir := t.TempDir()
	j := openSmall(t, dir, limits{entries: 100, bytes: 1 << 30})
	for id, outcome := range map[string]journal.Outcome{"a": journal.UnderWay, "b": journal.Confirmed, "c": journal.UnderWay, "d": journal.UnderWay} {
		if err := j.Save([]journal.Entry{{ID: id, Outcome: outcome}}); err != nil {
			t.Fatal(err)
		}
	}
	if err := j.Save([]journal.Entry{{ID: "c", Outcome: journal.Failed}}); err != nil {
		t.Fatal(err)
	}
	_ = j.Close()
	open, err := openSmall(t, dir, limits{}).Open()
	if err != nil || len(open) != 2 || open[0].ID != "a" || open[1].ID != "d" {
		t.Errorf("%+v (%v)", open, err)
	}
}

// TestHowOftenKeysWereUsedIsCounted by show, of what was done to keys alone.
func TestHowOftenKeysWereUsedIsCounted(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 1000, bytes: 1 << 30})
	var all []journal.Entry
	for i, of := range []struct{ show, mapping string }{{"night", "cut"}, {"night", "auto"}, {"night", "cut"}, {"night", ""}, {"other", "cut"}} {
		all = append(all, journal.Entry{ID: fmt.Sprintf("e%06d", i), At: time.Unix(int64(i), 0), Outcome: journal.Confirmed, Show: of.show, Mapping: of.mapping})
	}
	if err := j.Save(all); err != nil {
		t.Fatal(err)
	}
	used, err := j.Used("night")
	if err != nil || len(used) != 2 || used["cut"] != 2 || used["auto"] != 1 {
		t.Errorf("used is %v, %v", used, err)
	}
}
