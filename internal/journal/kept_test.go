package journal

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"testing/synctest"
	"time"
)

// settle lets the journal take in and write what it was given.
func settle() {
	time.Sleep(2 * flushEvery)
	synctest.Wait()
}

// on runs a test with a journal, in a bubble of its own.
func on(t *testing.T, m *memory, f func(t *testing.T, j *Journal)) {
	t.Helper()
	synctest.Test(t, func(t *testing.T) {
		j := open(t, m)
		defer j.Close()
		f(t, j)
	})
}

func get(t *testing.T, j *Journal, id string) Entry {
	t.Helper()
	e, err := j.Get(id)
	if err != nil || e == nil {
		t.Fatalf("the entry %s is %+v (%v)", id, e, err)
	}
	return *e
}

func TestALongTraceKeepsItsFirstStepsItsLastOnesAndItsOutcome(t *testing.T) {
	on(t, &memory{}, func(t *testing.T, j *Journal) {
		id := NextID()
		at := func(n int) time.Time { return start.Add(time.Duration(n) * time.Millisecond) }
		j.Record(Event{Entry: id, At: at(0), Stage: StageInput, Text: "step 0", Origin: &Origin{Gesture: "run"}})
		for n := 1; n < 500; n++ {
			j.Record(Event{Entry: id, At: at(n), Stage: StageDispatch, Text: fmt.Sprint("step ", n)})
		}
		j.Record(Event{Entry: id, At: at(500), Outcome: Failed, Reason: "It failed."})
		settle()
		e := get(t, j, id)
		if e.Outcome != Failed || e.Reason != "It failed." || e.LeftOut != 500-firstSteps-lastSteps {
			t.Errorf("it is %s (%s) with %d steps left out", e.Outcome, e.Reason, e.LeftOut)
		}
		if len(e.Steps) != firstSteps+1+lastSteps || e.Steps[0].Text != "step 0" || e.Steps[len(e.Steps)-1].Text != "step 499" {
			t.Fatalf("%d steps are kept: %+v", len(e.Steps), e.Steps)
		}
		gap := e.Steps[firstSteps]
		if gap.Stage != StageLeftOut || gap.Text != fmt.Sprintf("%d steps in between are not kept", e.LeftOut) {
			t.Errorf("what lies between is %+v", gap)
		}
	})
}

func TestAnOutcomeComesWithItsOwnReason(t *testing.T) {
	on(t, &memory{}, func(t *testing.T, j *Journal) {
		id := NextID()
		j.Record(Event{Entry: id, At: start, Stage: StageInput, Origin: &Origin{}})
		j.Record(Event{Entry: id, At: start, Outcome: Refused, Reason: "It was away."})
		j.Record(Event{Entry: id, At: start, Outcome: Confirmed})
		settle()
		if e := get(t, j, id); e.Outcome != Confirmed || e.Reason != "" {
			t.Errorf("it is %s (%s)", e.Outcome, e.Reason)
		}
	})
}

func TestAnEntryThatLeftMemoryIsNotOverwrittenByWhatIsSaidOfItLater(t *testing.T) {
	on(t, &memory{}, func(t *testing.T, j *Journal) {
		first := NextID()
		record(j, first)
		settle()
		for n := range 2 * ringSize {
			record(j, NextID())
			if n%1000 == 0 {
				settle()
			}
		}
		settle()
		if j.inMemory(first) {
			t.Fatal("it is still in memory")
		}
		j.Record(Event{Entry: first, At: start.Add(time.Second), Stage: StageFace, Text: "Cut: on air"})
		settle()
		if e := get(t, j, first); e.Outcome != Confirmed || e.Title != "Cut" || len(e.Steps) != 4 {
			t.Errorf("it is %+v", e)
		}
	})
}

func TestWhatIsUnderWayStaysInMemory(t *testing.T) {
	on(t, &memory{}, func(t *testing.T, j *Journal) {
		run := NextID()
		j.Record(Event{Entry: run, At: start, Stage: StageInput, Title: "Opening", Origin: &Origin{}})
		for n := range 3 * ringSize / 2 {
			record(j, NextID())
			if n%1000 == 0 {
				settle()
			}
		}
		settle()
		if !j.inMemory(run) {
			t.Error("a run that goes on has left memory")
		}
		rows, err := j.Find(Wanted{Limit: ringSize * 2})
		if err != nil || len(rows) != 1+3*ringSize/2 || rows[len(rows)-1].ID != run {
			t.Errorf("%d rows (%v), the last is not the run", len(rows), err)
		}
		if !slices.IsSortedFunc(rows, func(a, b Entry) int { return strings.Compare(b.ID, a.ID) }) {
			t.Error("the rows are not in order")
		}
	})
}

func TestWhatTheDiskDidNotTakeIsWrittenLater(t *testing.T) {
	m := &memory{}
	on(t, m, func(t *testing.T, j *Journal) {
		m.fails(errors.New("no space left on device"))
		id := NextID()
		record(j, id)
		settle()
		if h := j.Health(); h.Waiting != 1 || h.Dropped != 0 || h.Problem == "" {
			t.Errorf("while the disk is full: %+v", h)
		}
		m.fails(nil)
		time.Sleep(longestPause)
		settle()
		if h := j.Health(); h != (Health{}) {
			t.Errorf("once there is room: %+v", h)
		}
		if e, _ := m.One(id); e == nil || e.Outcome != Confirmed {
			t.Errorf("the store has %+v", e)
		}
	})
}

func TestTooMuchThatWaitsForTheDiskIsGivenUpAndCounted(t *testing.T) {
	m := &memory{}
	on(t, m, func(t *testing.T, j *Journal) {
		m.fails(errors.New("no space left on device"))
		for n := range maxUnwritten + 1000 {
			record(j, NextID())
			if n%1000 == 0 {
				settle()
			}
		}
		time.Sleep(longestPause)
		settle()
		if h := j.Health(); h.Waiting != maxUnwritten || h.Dropped != 1000 {
			t.Errorf("%+v", h)
		}
	})
}

func TestIdsGoOnFromTheDatabaseWhateverTheClockSays(t *testing.T) {
	far := "zzzzz00000"
	m := &memory{rows: map[string]Entry{far: {ID: far, Outcome: Confirmed}}}
	defer lastID.Store(lastID.Load())
	on(t, m, func(t *testing.T, j *Journal) {
		before := far
		for range 3 {
			id := NextID()
			if id <= before || len(id) != len(far) {
				t.Errorf("%s comes after %s", id, before)
			}
			before = id
		}
		record(j, before)
		settle()
		if rows, err := j.Find(Wanted{Limit: 10}); err != nil || len(rows) != 2 || rows[0].ID != before {
			t.Errorf("%+v (%v)", rows, err)
		}
	})
}

func TestWhatWasUnderWayWhenSynaptorEndedIsEnded(t *testing.T) {
	m := &memory{}
	old := NextID()
	m.rows = map[string]Entry{old: {ID: old, Outcome: UnderWay, Title: "Opening"}}
	on(t, m, func(t *testing.T, j *Journal) {
		settle()
		if e := get(t, j, old); e.Outcome != Unconfirmed || e.Reason == "" || e.Title != "Opening" {
			t.Errorf("it is %+v", e)
		}
		if e, _ := m.One(old); e.Outcome != Unconfirmed {
			t.Errorf("the store has %+v", e)
		}
	})
}
