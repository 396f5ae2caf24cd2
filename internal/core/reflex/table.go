package reflex

import (
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// Table gives each value of a field of the event, such as who, what a response is to be filled with: this person, that clip. Its columns are fields of the
// event as well, in conditions and parameters. An event without a row starts nothing.
type Table struct {
	By      string     `json:"by"`      // the field
	Columns []string   `json:"columns"` // besides the first, which has the value
	Rows    [][]string `json:"rows"`    // each the value, then what stands in the columns
}

// Anyone is the value of the row for all that have none.
const Anyone = "*"

// Bounds of tables.
const (
	//limit:count rows of the table of a reflex | at the edit
	maxRows = 1000
	//limit:count columns of the table of a reflex | at the edit
	maxColumns = 12
	//limit:count characters in a cell of the table of a reflex | at the edit
	maxCell = 500
	//limit:bytes a table of a reflex as CSV | at the import
	MaxCSV = 1 << 20
)

// Fill gives an event what stands in its row. ok is false where it has none. The first of equal rows counts, and upper and lower case are the same.
func (t *Table) Fill(fields map[string]any) (filled map[string]any, ok bool) {
	if t == nil {
		return fields, true
	}
	value := strings.TrimSpace(fmt.Sprint(fields[t.By]))
	i := slices.IndexFunc(t.Rows, func(r []string) bool { return strings.EqualFold(strings.TrimSpace(r[0]), value) })
	if i < 0 {
		i = slices.IndexFunc(t.Rows, func(r []string) bool { return strings.TrimSpace(r[0]) == Anyone })
	}
	if i < 0 {
		return fields, false
	}
	filled = map[string]any{}
	for k, v := range fields {
		filled[k] = v
	}
	for c, name := range t.Columns {
		filled[name] = t.Rows[i][c+1]
	}
	return filled, true
}

// Check says what is wrong with a table; empty: nothing is.
func (t *Table) Check() string {
	switch {
	case t == nil:
		return ""
	case t.By == "":
		return "Choose the field of the event that finds the row."
	case len(t.Columns) == 0 || len(t.Columns) > maxColumns:
		return fmt.Sprintf("A table has from 1 to %d columns besides the first.", maxColumns)
	case len(t.Rows) > maxRows:
		return fmt.Sprintf("A table has at most %d rows.", maxRows)
	}
	for i, c := range t.Columns {
		if !isField(c) {
			return fmt.Sprintf("The column %q needs a name of small letters and digits, as conditions say event.name.", c)
		}
		if slices.Contains(t.Columns[:i], c) || c == t.By {
			return fmt.Sprintf("Two columns are called %s.", c)
		}
	}
	for i, r := range t.Rows {
		if len(r) != len(t.Columns)+1 {
			return fmt.Sprintf("Row %d has %d cells instead of %d.", i+1, len(r), len(t.Columns)+1)
		}
		for _, cell := range r {
			if utf8.RuneCountInString(cell) > maxCell {
				return fmt.Sprintf("A cell of row %d is longer than %d characters.", i+1, maxCell)
			}
		}
	}
	return ""
}

func isField(s string) bool {
	for i, r := range s {
		if !(r >= 'a' && r <= 'z' || i > 0 && (r >= '0' && r <= '9' || r == '_')) {
			return false
		}
	}
	return s != "" && len(s) <= 40
}

// CSV writes a table as RFC 4180 has it, its first line the names of the columns.
func (t *Table) CSV(w io.Writer) error {
	c := csv.NewWriter(w)
	if err := c.Write(append([]string{t.By}, t.Columns...)); err != nil {
		return err
	}
	return c.WriteAll(t.Rows)
}

// ReadCSV reads a table as CSV writes it; columns may be parted by semicolons too, as some spreadsheets do. why says in a sentence what is wrong with it.
func ReadCSV(text string) (t *Table, why string) {
	text = strings.TrimPrefix(text, "\ufeff")
	if !utf8.ValidString(text) {
		return nil, "This file is not UTF-8."
	}
	r := csv.NewReader(strings.NewReader(text))
	if first, _, _ := strings.Cut(text, "\n"); strings.Count(first, ";") > strings.Count(first, ",") {
		r.Comma = ';'
	}
	all, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Sprintf("This is no CSV: %v.", err)
	}
	if len(all) == 0 {
		return nil, "This file is empty."
	}
	t = &Table{By: strings.TrimSpace(all[0][0]), Columns: []string{}, Rows: all[1:]}
	for _, c := range all[0][1:] {
		t.Columns = append(t.Columns, strings.ToLower(strings.TrimSpace(c)))
	}
	if why = t.Check(); why != "" {
		return nil, why
	}
	return t, ""
}
