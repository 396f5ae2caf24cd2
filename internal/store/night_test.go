package store

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"synaptor/internal/journal"
)

// TestWhatIsSaidOfANightIsWhatWasInIt: against counting every entry, at random times of nights whose clock was set back now and then.
func TestWhatIsSaidOfANightIsWhatWasInIt(t *testing.T) {
	seed := uint64(time.Now().UnixNano())
	rng := rand.New(rand.NewPCG(seed, 1))
	j := openSmall(t, t.TempDir(), limits{entries: 100_000, bytes: 1 << 30})
	all := night(rng, 1500)
	for i := range all {
		all[i].LatencyUs = rng.Int64N(5000)
		if rng.IntN(20) == 0 {
			all[i].Together = []journal.Skew{{PredictedUs: 1, MeasuredUs: 2}}
		}
	}
	if err := j.Save(all); err != nil {
		t.Fatal(err)
	}
	for range 40 {
		from := all[rng.IntN(len(all))].At.Truncate(time.Second)
		to := from.Add(time.Duration(rng.IntN(2000)) * time.Second)
		first, last := -1, -1
		for i, e := range all {
			if s := e.At.Unix(); s >= from.Unix() && s <= to.Unix() {
				if first < 0 {
					first = i
				}
				last = i
			}
		}
		n, bad, slowest, together := map[string]int{}, 0, int64(0), 0
		for _, e := range all[max(first, 0) : last+1] {
			if e.Show == "other" {
				continue
			}
			n[e.Controller+"/"+e.Control]++
			if e.Outcome == journal.Refused {
				bad++
			} else {
				slowest = max(slowest, e.LatencyUs)
			}
			if len(e.Together) > 0 {
				together++
			}
		}
		uses, err := j.Uses("night", from, to, 100)
		if err != nil || len(uses) != len(n) || !slices.IsSortedFunc(uses, func(a, b journal.Use) int { return b.N - a.N }) {
			t.Fatalf("seed %d: used are %+v (%v), counted were %v", seed, uses, err, n)
		}
		for _, u := range uses {
			if n[u.Controller+"/"+u.Control] != u.N || u.Name != "Producer grid" || u.Title == "" {
				t.Errorf("seed %d: %+v, counted were %d", seed, u, n[u.Controller+"/"+u.Control])
			}
		}
		list, inAll, err := j.Troubles("night", from, to, 5)
		if err != nil || inAll != bad || len(list) != min(bad, 5) {
			t.Errorf("seed %d: %d of %d went wrong (%v), counted were %d", seed, len(list), inAll, err, bad)
		}
		slow, err := j.Slowest("night", from, to, 3)
		if err != nil || slowest > 0 && (len(slow) == 0 || slow[0].LatencyUs != slowest) {
			t.Errorf("seed %d: the slowest are %+v (%v), and %d was", seed, slow, err, slowest)
		}
		if landed, err := j.Landed("night", from, to, 1000); err != nil || len(landed) != together {
			t.Errorf("seed %d: %d landed (%v), %d did", seed, len(landed), err, together)
		}
	}
}

// TestMarkersAreKeptChangedAndDropped, those of a show in a time.
func TestMarkersAreKeptChangedAndDropped(t *testing.T) {
	j := openSmall(t, t.TempDir(), limits{entries: 1000, bytes: 1 << 30})
	show := "night"
	m := journal.OpenMarkers(j, func() string { return show }, func() {})
	defer m.Close()
	at := time.Date(2026, 8, 12, 20, 0, 0, 0, time.UTC)
	first := m.Mark("highlight", "Fireball", "Tobin", "", at, 2*time.Second)
	m.Mark("note", "Later", "Tobin", "", at.Add(time.Hour), 0)
	show = "other"
	m.Mark("note", "Elsewhere", "Tobin", "", at, 0)
	of := func() (texts []string) {
		list, err := m.Of("night", at.Add(-time.Minute), at.Add(2*time.Hour))
		if err != nil {
			t.Fatal(err)
		}
		for _, k := range list {
			texts = append(texts, k.Text)
		}
		return texts
	}
	if got := of(); !slices.Equal(got, []string{"Fireball", "Later"}) {
		t.Errorf("the markers are %q", got)
	}
	first.Text, first.At = "Meteor", at.Add(90*time.Minute)
	if err := m.Save(first); err != nil {
		t.Fatal(err)
	}
	if got := of(); !slices.Equal(got, []string{"Later", "Meteor"}) {
		t.Errorf("after one has changed they are %q", got)
	}
	was, err := m.Drop(first.ID)
	if again, _ := m.Drop(first.ID); err != nil || !was || again || !slices.Equal(of(), []string{"Later"}) {
		t.Errorf("dropped %v, again %v (%v): %q", was, again, err, of())
	}
}
