package app_test

import (
	"net/url"
	"testing"

	"synaptor/internal/journal"
)

// TestTheJournalIsAskedForWhatSomebodyLooksFor: by device, control, outcome, time and words, together.
func TestTheJournalIsAskedForWhatSomebodyLooksFor(t *testing.T) {
	r := start(t).ready()
	cut := r.entry(r.press("a1"), journal.Confirmed, journal.Unconfirmed)
	r.must(202, "PUT", "/api/v1/controllers/producer-grid/page", map[string]any{"page": "cut"}, nil)
	other := r.entry(r.press("b1"), journal.Confirmed, journal.Unconfirmed)
	ids := func(query url.Values) (out []string) {
		var rows []journal.Entry
		r.must(200, "GET", "/api/v1/journal?"+query.Encode(), nil, &rows)
		for _, e := range rows {
			out = append(out, e.ID)
		}
		return out
	}
	for _, c := range []struct {
		q    url.Values
		want []string
	}{
		{url.Values{"controller": {"producer-grid"}, "control": {"a1"}}, []string{cut.ID}},
		{url.Values{"device": {cut.Device}, "controller": {"producer-grid"}, "control": {"b1"}, "outcome": {string(other.Outcome)}}, []string{other.ID}},
		{url.Values{"controller": {"producer-grid"}, "control": {"a1"}, "outcome": {"halted"}}, nil},
		{url.Values{"words": {"prod A1"}}, []string{cut.ID}},
		{url.Values{"words": {"a1"}, "until": {"2020-01-01T00:00:00Z"}}, nil},
		{url.Values{"words": {"a1"}, "since": {"2020-01-01T00:00:00Z"}, "actor": {cut.Actor}}, []string{cut.ID}},
		{url.Values{"words": {`"; DROP (NEAR/ *`}}, nil},
	} {
		got := ids(c.q)
		if len(got) != len(c.want) || len(got) == 1 && got[0] != c.want[0] {
			t.Errorf("%v: found is %v, want %v", c.q, got, c.want)
		}
	}
	for _, bad := range []string{"outcome=splendid", "since=yesterday", "until=0", "words=" + url.QueryEscape(string(make([]byte, 300)))} {
		r.fails(400, "GET", "/api/v1/journal?"+bad, nil)
	}
}
