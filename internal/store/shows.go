package store

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"synaptor/internal/core/show"
)

// ShowInfo is a show of the library, as far as a list needs it.
type ShowInfo struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Changed is when its last edit was made, RFC 3339; empty: none was.
	Changed     string `json:"changed,omitempty"`
	Bytes       int64  `json:"bytes"`
	Devices     int    `json:"devices"`
	Controllers int    `json:"controllers"`
	Keys        int    `json:"keys"`
	// Deleted is since when it is, RFC 3339, and Until when it goes for good; empty: it is not.
	Deleted string `json:"deleted,omitempty"`
	Until   string `json:"until,omitempty"`
	// Problem is why it cannot be read; empty: it can.
	Problem string `json:"problem,omitempty"`
}

// List lists the shows, deleted ones too, by name.
func (l *Library) List() ([]ShowInfo, error) {
	all, err := l.all()
	if err != nil {
		return nil, err
	}
	out := make([]ShowInfo, 0, len(all))
	for _, id := range all {
		out = append(out, l.info(id))
	}
	slices.SortStableFunc(out, func(a, b ShowInfo) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
	return out, nil
}

// infoLimit is how long a show is looked at for the list.
//
//limit:count time in which a show is looked at for the list of shows | in the list, with the reason
const infoLimit = 2 * time.Second

// info reads what a list says of a show. It writes nothing, and the show may be open.
func (l *Library) info(id string) ShowInfo {
	out := ShowInfo{ID: id, Name: "A show that cannot be read"}
	if at := l.deleted(id); !at.IsZero() {
		out.Deleted, out.Until = at.UTC().Format(time.RFC3339), at.Add(deletedFor).UTC().Format(time.RFC3339)
	}
	path := filepath.Join(l.folder(id), showFile)
	for _, end := range parts[:2] {
		if info, err := os.Stat(path + end); err == nil {
			out.Bytes += info.Size()
		}
	}
	db, err := sqlx.Open("sqlite", "file:"+path+"?mode=ro&_pragma=busy_timeout(2000)")
	if err != nil {
		out.Problem = err.Error()
		return out
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(context.Background(), infoLimit)
	defer cancel()
	var row struct {
		Name                       string
		Changed                    string
		Devices, Controllers, Keys int
	}
	err = db.GetContext(ctx, &row, `SELECT
		coalesce((SELECT json_extract(body, '$.name') FROM entity WHERE kind = 'settings'), ?) AS name,
		coalesce((SELECT at FROM edit ORDER BY seq DESC LIMIT 1), '') AS changed,
		(SELECT count(*) FROM entity WHERE kind = 'device') AS devices,
		(SELECT count(*) FROM entity WHERE kind = 'controller') AS controllers,
		(SELECT count(*) FROM entity WHERE kind = 'mapping') AS keys`, show.Empty().Settings().Name)
	if err != nil {
		out.Problem = "It cannot be read: " + err.Error()
		return out
	}
	out.Name, out.Changed, out.Devices, out.Controllers, out.Keys = row.Name, row.Changed, row.Devices, row.Controllers, row.Keys
	return out
}
