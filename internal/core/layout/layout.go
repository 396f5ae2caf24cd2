// Package layout works out where mappings go: where the keys of a kit land, and
// what stands in their way.
package layout

import (
	"fmt"

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

// Row plans a row of n items on a grid, starting at a cell. The row stays in
// the row of its start; it moves left as far as needed to fit, if that touches
// only free cells. Cells that are used are stepped over unless replace is set.
// What does not fit in the row goes on in the next one.
func Row(grid device.Grid, start string, n int, used func(string) bool, replace bool) (Plan, error) {
	col, row, err := device.Cell(start)
	if err != nil || col >= grid.Columns || row >= grid.Rows {
		return Plan{}, fmt.Errorf("%q is not on this controller", start)
	}
	free := func(c, r int) bool { return replace || !used(device.CellID(c, r)) }
	for col > 0 && n > grid.Columns-col && free(col-1, row) {
		col--
	}
	p := Plan{Cells: []string{}, Occupied: []string{}}
	for r, c := row, col; r < grid.Rows && len(p.Cells) < n; r, c = r+1, 0 {
		for ; c < grid.Columns && len(p.Cells) < n; c++ {
			id := device.CellID(c, r)
			if used(id) {
				if !replace {
					continue
				}
				p.Occupied = append(p.Occupied, id)
			}
			p.Cells = append(p.Cells, id)
		}
	}
	p.Left = n - len(p.Cells)
	return p, nil
}

// NextFree returns the first free control after one, row by row and from the
// top again, or "" when all are used.
func NextFree(controls []device.Control, after string, used func(string) bool) string {
	at := -1
	for i, c := range controls {
		if c.ID == after {
			at = i
		}
	}
	for i := range controls {
		c := controls[(at+1+i)%len(controls)]
		if c.ID != after && !used(c.ID) {
			return c.ID
		}
	}
	return ""
}
