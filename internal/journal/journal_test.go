package journal

import (
	"cmp"
	"errors"
	"slices"
	"sync"
	"testing"
	"time"
)

// memory is a Store that can be made to fail or to take its time.
type memory struct {
	mu    sync.Mutex
	rows  map[string]Entry
	fail  error
	block chan struct{}
}

func (m *memory) Save(entries []Entry) error {
	if m.block != nil {
		<-m.block
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.fail != nil {
		return m.fail
	}
	for _, e := range entries {
		m.rows[e.ID] = e
	}
	return nil
}

func (m *memory) Open() (out []Entry, err error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, e := range m.rows {
		if e.Outcome == UnderWay {
			out = append(out, e)
		}
	}
	return out, nil
}

func (m *memory) Trimmed() int64 { return 0 }

// fails has the disk take nothing, or take everything again.
func (m *memory) fails(err error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.fail = err
}

func (m *memory) Find(w Wanted) ([]Entry, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	var out []Entry
	for _, e := range m.rows {
		if (w.Before == "" || e.ID < w.Before) && w.Fits(e) {
			out = append(out, e)
		}
	}
	slices.SortFunc(out, func(a, b Entry) int { return cmp.Compare(b.ID, a.ID) })
	return out[:min(w.Limit, len(out))], nil
}

func (m *memory) SetOff(by string, limit int) (out []Entry, err error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	for _, e := range m.rows {
		if e.Cause == by && len(out) < limit {
			out = append(out, e)
		}
	}
	return out, nil
}

func (m *memory) One(id string) (*Entry, error) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if e, ok := m.rows[id]; ok {
		return &e, nil
	}
	return nil, nil
}

func open(t *testing.T, m *memory) *Journal {
	t.Helper()
	if m.rows == nil {
		m.rows = map[string]Entry{}
	}
	j, err := Open(m, nil)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

var start = time.Unix(1000, 0)

func record(j *Journal, id string) {
	at := func(us int) time.Time { return start.Add(time.Duration(us) * time.Microsecond) }
	j.Record(Event{Entry: id, At: at(0), Stage: StageInput, Text: "a1 press", Origin: &Origin{Control: "a1", Gesture: "press"}})
	j.Record(Event{Entry: id, At: at(900), Stage: StageConfirm, Text: "so it is", Confirms: true})
	j.Record(Event{Entry: id, At: at(300), Stage: StageWire, Text: "written", Title: "Cut"})
	j.Record(Event{Entry: id, At: at(950), Outcome: Confirmed})
}

func TestEventsBecomeATrace(t *testing.T) {
	m := &memory{}
	j := open(t, m)
	id := NextID()
	j.Announce(id, start)
	if e, err := j.Get(id); err != nil || e == nil || e.Outcome != UnderWay {
		t.Errorf("an announced entry is %+v (%v)", e, err)
	}
	record(j, id)
	j.Close()
	e, err := j.Get(id)
	if err != nil || e == nil {
		t.Fatal("the entry is gone")
	}
	if e.Outcome != Confirmed || e.LatencyUs != 900 || e.Title != "Cut" || e.Control != "a1" || len(e.Steps) != 3 {
		t.Errorf("%+v", e)
	}
	if !slices.IsSortedFunc(e.Steps, func(a, b Step) int { return cmp.Compare(a.OffsetUs, b.OffsetUs) }) {
		t.Errorf("the steps are not in order: %+v", e.Steps)
	}
	again := open(t, m)
	defer again.Close()
	if rows, err := again.Find(Wanted{Limit: 10}); err != nil || len(rows) != 1 || rows[0].Outcome != Confirmed {
		t.Errorf("after a restart: %+v (%v)", rows, err)
	}
}

func TestRecordingNeverBlocks(t *testing.T) {
	m := &memory{block: make(chan struct{})}
	j := open(t, m)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for range 20_000 {
			record(j, NextID())
		}
	}()
	select {
	case <-done:
	case <-time.After(10 * time.Second):
		t.Fatal("recording waited for the disk")
	}
	close(m.block)
	j.Close()
}

func TestAFullDiskIsReported(t *testing.T) {
	m := &memory{fail: errors.New("no space left on device")}
	j := open(t, m)
	record(j, NextID())
	j.Close()
	if h := j.Health(); h.Waiting != 1 || h.Problem == "" || h.Dropped != 0 {
		t.Errorf("%+v", h)
	}
}

func TestEntriesAreOfTheShowThatIsOpen(t *testing.T) {
	j := open(t, &memory{})
	defer j.Close()
	for i := range 6 {
		j.BelongTo([]string{"", "night", "studio"}[i%3])
		j.Announce(NextID(), start)
	}
	for show, want := range map[string]int{"night": 4, "studio": 4, "": 6, "nobody": 2} {
		rows, err := j.Find(Wanted{Show: show, Limit: 10})
		if err != nil || len(rows) != want {
			t.Errorf("%q has %d entries, want %d (%v)", show, len(rows), want, err)
		}
		for _, e := range rows {
			if show != "" && e.Show != "" && e.Show != show {
				t.Errorf("%q has one of %q", show, e.Show)
			}
		}
	}
}

func TestOlderEntriesComeFromTheStore(t *testing.T) {
	j := open(t, &memory{})
	var ids []string
	for range ringSize + 500 {
		id := NextID()
		ids = append(ids, id)
		record(j, id)
		if len(ids)%1000 == 0 { // let it write, so that the ring can turn
			for e, _ := j.Get(id); e == nil || e.Outcome != Confirmed; e, _ = j.Get(id) {
				time.Sleep(time.Millisecond)
			}
		}
	}
	j.Close()
	before := ""
	var got []string
	for {
		rows, err := j.Find(Wanted{Before: before, Limit: 300})
		if err != nil {
			t.Fatal(err)
		}
		if len(rows) == 0 {
			break
		}
		for _, r := range rows {
			got = append(got, r.ID)
		}
		before = got[len(got)-1]
	}
	slices.Reverse(got)
	if !slices.Equal(got, ids) {
		t.Errorf("%d entries came back of %d", len(got), len(ids))
	}
}

// TestTheChainOfCausesIsFollowedBothWays, also where part of it is on the disk alone, and one entry names itself.
func TestTheChainOfCausesIsFollowedBothWays(t *testing.T) {
	stored := map[string]Entry{"a": {ID: "a"}, "b": {ID: "b", Cause: "a"}, "x": {ID: "x", Cause: "x"}, "o": {ID: "o", Cause: "gone"}}
	m := &memory{rows: stored}
	j := open(t, m)
	defer j.Close()
	for _, e := range [][2]string{{"c", "b"}, {"d", "a"}, {"e", "c"}} {
		j.Record(Event{Entry: e[0], At: start, Cause: e[1], Origin: &Origin{}})
	}
	if err := j.Flush(); err != nil {
		t.Fatal(err)
	}
	for id, want := range map[string][]string{"a": {"a", "b", "c", "d", "e"}, "c": {"a", "b", "c", "d", "e"}, "x": {"x"}, "o": {"o"}, "nothing": nil} {
		list, err := j.Chain(id)
		var got []string
		for _, e := range list {
			got = append(got, e.ID)
		}
		if err != nil || !slices.Equal(got, want) {
			t.Errorf("the chain of %s is %q (%v), want %q", id, got, err, want)
		}
	}
}
