package journal

import (
	"encoding/csv"
	"fmt"
	"io"
	"time"

	"synaptor/internal/core/markers"
)

// csvPage is how many entries are read at once for a table.
const csvPage = 1000

// CSV writes the entries that are wanted as a table (RFC 4180), newest first, with a line of names; at most as many as the limit of what is wanted.
func (j *Journal) CSV(out io.Writer, w Wanted) error {
	c := csv.NewWriter(out)
	if err := c.Write([]string{"id", "time", "controller", "control", "gesture", "via", "by", "what", "device", "outcome", "reason", "confirmed_ms"}); err != nil {
		return err
	}
	for left := w.Limit; left > 0; {
		w.Limit = min(left, csvPage)
		page, err := j.Find(w)
		if err != nil {
			return err
		}
		for _, e := range page {
			ms := ""
			if e.LatencyUs > 0 {
				ms = fmt.Sprintf("%.3f", float64(e.LatencyUs)/1000)
			}
			row := []string{e.ID, e.At.UTC().Format(time.RFC3339Nano), e.ControllerName, e.Control, e.Gesture, e.Via, e.Actor, e.Title, e.Device, string(e.Outcome), e.Reason, ms}
			for i := range row {
				row[i] = markers.Cell(row[i])
			}
			if err := c.Write(row); err != nil {
				return err
			}
		}
		if len(page) < w.Limit {
			break
		}
		left -= len(page)
		w.Before = page[len(page)-1].ID
	}
	c.Flush()
	return c.Error()
}
