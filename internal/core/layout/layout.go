// Package layout works out where mappings go: where the keys of a kit land, and
// what stands in their way.
package layout

import (
	"fmt"
	"slices"

	"synaptor/internal/core/device"
)

// Plan says where a row of items lands.
type Plan struct {
	// Cells holds a control for each item that fits, in order.
	Cells []string `json:"cells"`
	// Occupied are those of the cells that have a mapping already.
	Occupied []string `json:"occupied"`
	// Left is the number of items that do not fit.
	Left int `json:"left"`
}

// Row plans a row of n items on the controls that are like the one it starts at:
// of its group and kind. The row stays in the row of its start; it moves left as
// far as needed to fit, if that touches only free controls. Controls that are
// used are stepped over unless replace is set. What does not fit in the row goes
// on in the next one.
func Row(controls []device.Control, start string, n int, used func(string) bool, replace bool) (Plan, error) {
	at := slices.IndexFunc(controls, func(c device.Control) bool { return c.ID == start })
	if at < 0 {
		return Plan{}, fmt.Errorf("%q is not on this controller", start)
	}
	first := controls[at]
	var rows [][]device.Control
	for _, c := range controls {
		if c.Group != first.Group || c.Kind != first.Kind || c.Row < first.Row {
			continue
		}
		for len(rows) <= c.Row-first.Row {
			rows = append(rows, nil)
		}
		rows[c.Row-first.Row] = append(rows[c.Row-first.Row], c)
	}
	col := slices.IndexFunc(rows[0], func(c device.Control) bool { return c.ID == start })
	for col > 0 && n > len(rows[0])-col && (replace || !used(rows[0][col-1].ID)) {
		col--
	}
	rows[0] = rows[0][col:]
	p := Plan{Cells: []string{}, Occupied: []string{}}
	for _, row := range rows {
		for _, c := range row {
			if len(p.Cells) == n {
				break
			}
			if used(c.ID) {
				if !replace {
					continue
				}
				p.Occupied = append(p.Occupied, c.ID)
			}
			p.Cells = append(p.Cells, c.ID)
		}
	}
	p.Left = n - len(p.Cells)
	return p, nil
}

// NextFree returns the first free control after one that is like it, row by row
// and from the top again, or "" when all are used.
func NextFree(controls []device.Control, after string, used func(string) bool) string {
	at := slices.IndexFunc(controls, func(c device.Control) bool { return c.ID == after })
	for i := range controls {
		c := controls[(at+1+i)%len(controls)]
		if c.ID != after && !used(c.ID) && (at < 0 || c.Kind == controls[at].Kind && c.Zone == controls[at].Zone) {
			return c.ID
		}
	}
	return ""
}
