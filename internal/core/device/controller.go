package device

import (
	"fmt"
	"regexp"
	"strconv"
)

// ControllerFormat is the format of controller sheets this package reads.
const ControllerFormat = "synaptor.controller/1"

// ControllerSheet is the layout of a controller.
type ControllerSheet struct {
	Format string `json:"sheet"`
	Type   string `json:"type"`
	Title  string `json:"title"`
	Zone   string `json:"zone"` // the name of its only zone
	Grid   Grid   `json:"grid"`
}

// Grid is a field of like keys.
type Grid struct {
	Columns  int      `json:"columns"`
	Rows     int      `json:"rows"`
	Pictures bool     `json:"pictures"`
	Touch    bool     `json:"touch"`
	Gestures []string `json:"gestures"`
}

// Control is one control of a layout. Column and row count from 0.
type Control struct {
	ID       string   `json:"id"`
	Kind     string   `json:"kind"`
	Zone     string   `json:"zone"`
	Column   int      `json:"column"`
	Row      int      `json:"row"`
	Gestures []string `json:"gestures"`
}

// Controls lists the controls of the layout, row by row. Ids are a column
// letter and a row number, a1 at the top left.
func (s *ControllerSheet) Controls() []Control {
	out := make([]Control, 0, s.Grid.Columns*s.Grid.Rows)
	for r := range s.Grid.Rows {
		for c := range s.Grid.Columns {
			out = append(out, Control{ID: CellID(c, r), Kind: "key", Zone: s.Zone, Column: c, Row: r, Gestures: s.Grid.Gestures})
		}
	}
	return out
}

// CellID names a cell of a grid: column letter and row number.
func CellID(column, row int) string {
	return string(rune('a'+column)) + strconv.Itoa(row+1)
}

var cellID = regexp.MustCompile(`^([a-z])([1-9][0-9]?)$`)

// Cell reads a cell's name; column and row count from 0.
func Cell(id string) (column, row int, err error) {
	m := cellID.FindStringSubmatch(id)
	if m == nil {
		return 0, 0, fmt.Errorf("%q is not a control of a grid, such as a1", id)
	}
	row, err = strconv.Atoi(m[2])
	return int(m[1][0] - 'a'), row - 1, err
}
