package store

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/journal"
)

// night makes so many entries at random, as a night brings them: the oldest first.
func night(rng *rand.Rand, n int) []journal.Entry {
	pick := func(of ...string) string { return of[rng.IntN(len(of))] }
	out := make([]journal.Entry, n)
	at := time.Date(2026, 8, 12, 20, 0, 0, 0, time.UTC)
	for i := range out {
		at = at.Add(time.Duration(rng.IntN(3000)) * time.Millisecond)
		if rng.IntN(500) == 0 {
			at = at.Add(-time.Minute) // somebody has set the clock back
		}
		out[i] = journal.Entry{ID: strconv.FormatInt(101_559_956_668_416+int64(i), 36), At: at, Show: pick("night", "night", "other", ""), Device: pick("Dome switcher", "Sound desk", ""),
			Outcome: journal.Outcome(pick("confirmed", "confirmed", "confirmed", "refused")), Title: pick("Put Telescope feed on program", "Mute Imke", "Übers Dach", "Cut"),
			Origin: journal.Origin{Controller: pick("producer-grid", "treadle"), ControllerName: "Producer grid", Control: pick("a1", "b2", "c3"), Actor: pick("Tobin", "Oyelaran"), Via: pick("panel", "osc")}}
		if out[i].Outcome == journal.Refused {
			out[i].Reason = "Dome switcher is not connected."
		}
	}
	return out
}

// wantedAtRandom asks for something.
func wantedAtRandom(rng *rand.Rand, all []journal.Entry) journal.Wanted {
	pick := func(of ...string) string { return of[rng.IntN(len(of))] }
	w := journal.Wanted{Show: pick("", "night"), Controller: pick("", "", "treadle"), Control: pick("", "", "b2"), Device: pick("", "", "Sound desk"), Actor: pick("", "", "Tobin"),
		Outcome: journal.Outcome(pick("", "", "refused")), Text: pick("", "", "tele", "imke mute", "dach üb", "not conn", "nothing like it", "  "), Limit: 1 + rng.IntN(40)}
	if rng.IntN(3) == 0 {
		w.Since = all[rng.IntN(len(all))].At.Truncate(time.Second)
		w.Until = w.Since.Add(time.Duration(rng.IntN(3600)) * time.Second)
	}
	if rng.IntN(2) == 0 {
		w.Before = all[rng.IntN(len(all))].ID + pick("", "0")
	}
	return w
}

// TestWhatIsFoundIsWhatFits: asked at random, against looking at every entry.
func TestWhatIsFoundIsWhatFits(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	rng := rand.New(rand.NewPCG(seed, 0))
	j := openSmall(t, t.TempDir(), limits{entries: 100_000, bytes: 1 << 30})
	all := night(rng, 2500)
	if err := j.Save(all); err != nil {
		t.Fatal(err)
	}
	all[7].Title, all[8].Title = "Changed since", "Changed since"
	if err := j.Save(all[7:9]); err != nil { // what was written again is found by what it says now
		t.Fatal(err)
	}
	for n := range 300 {
		w := wantedAtRandom(rng, all)
		if n == 0 {
			w = journal.Wanted{Text: "changed", Limit: 5}
		}
		var want []string
		for _, e := range slices.Backward(all) {
			if (w.Before == "" || e.ID < w.Before) && w.Fits(e) && len(want) < w.Limit {
				want = append(want, e.ID)
			}
		}
		found, err := j.Find(w)
		if err != nil {
			t.Fatalf("seed %d: %+v: %v", seed, w, err)
		}
		var got []string
		for _, e := range found {
			got = append(got, e.ID)
		}
		if !slices.Equal(got, want) {
			t.Fatalf("seed %d: %+v: found is %v, want %v", seed, w, got, want)
		}
	}
}

// TestEntriesOfBeforeAreFoundOnceTheirWordsAreMadeBehind: a journal that had none, ended in the middle of it.
func TestEntriesOfBeforeAreFoundOnceTheirWordsAreMadeBehind(t *testing.T) {
	dir := t.TempDir()
	j := openSmall(t, dir, limits{entries: 100_000, bytes: 1 << 30})
	if err := j.Save(night(rand.New(rand.NewPCG(1, 1)), 2*fillBatch+10)); err != nil {
		t.Fatal(err)
	}
	_ = j.Close()
	j = openSmall(t, dir, limits{entries: 100_000, bytes: 1 << 30})
	j.filling.Wait()
	count := func() (n int) {
		if err := j.do(func(db *sqlx.DB) error { return db.Get(&n, `SELECT count(*) FROM word`) }); err != nil {
			t.Fatal(err)
		}
		return n
	}
	if err := j.do(func(db *sqlx.DB) error {
		for _, q := range []string{`DELETE FROM word`, `DELETE FROM behind`} {
			if _, err := db.Exec(q); err != nil {
				return err
			}
		}
		_, err := fillSome(db) // and then it is ended
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if n := count(); n != fillBatch {
		t.Errorf("%d entries have their words, want %d", n, fillBatch)
	}
	_ = j.Close()
	j = openSmall(t, dir, limits{entries: 100_000, bytes: 1 << 30})
	j.filling.Wait()
	if n := count(); n != 2*fillBatch+10 {
		t.Errorf("%d entries have their words, want all", n)
	}
}

// TestWordsOfWhatIsLetGoAreLetGo with it.
func TestWordsOfWhatIsLetGoAreLetGo(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 100, bytes: 1 << 30})
	fill(t, j, 150, 10)
	again(t, j)
	var entries, words int
	if err := j.do(func(db *sqlx.DB) error {
		return db.QueryRowx(`SELECT (SELECT count(*) FROM entry), (SELECT count(*) FROM word)`).Scan(&entries, &words)
	}); err != nil || entries != words {
		t.Errorf("%d entries, words of %d (%v)", entries, words, err)
	}
}
