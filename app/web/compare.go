package web

import (
	"slices"
	"strconv"

	"saltkettle/app/store"
	"saltkettle/core/quantity"
)

// columnView is a reading over the runs.
type columnView struct{ Key, Name, Unit string }

// rowView is a run in the comparison.
type rowView struct {
	store.Run
	What   string
	Cells  []cellView
	Chosen bool
	Plate  string // that is shown
	Room   string // on the disk, "" for none
}

// cellView is a reading of a run, with what changed since the run before.
type cellView struct {
	Value, Margin, Change, Trust string
	Sort                         string // the number by which rows are sorted, "" for none
}

// maxColumns is how many readings stand beside each other unless somebody turns the table; when there are
// more, runs do.
const maxColumns = 4

// Turned tells whether the comparison has a row for each reading and a column for each run at first.
func (v platesView) Turned() bool { return len(v.Columns) > maxColumns }

// compareRuns fills the table of readings over the runs.
func compareRuns(v *platesView, h history, done []store.Run, chosen uint) {
	for _, r := range done {
		for _, q := range h.readings[r.ID] {
			if !slices.ContainsFunc(v.Columns, func(c columnView) bool { return c.Key == q.Key }) {
				v.Columns = append(v.Columns, columnView{q.Key, q.Name, q.Unit})
			}
		}
	}
	for i, r := range done {
		row := rowView{Run: r, What: h.changes[r.ID], Chosen: r.ID == chosen}
		for _, c := range v.Columns {
			q, ok := h.entry(r.ID, c.Key)
			if !ok || q.Missing != "" {
				row.Cells = append(row.Cells, cellView{Value: "–", Trust: q.Missing})
				continue
			}
			// All rows of a column are in the unit of its head.
			value, _ := splitUnit(quantity.Show(q.Value, c.Unit, q.Difference, 4))
			cell := cellView{Value: value, Margin: margin(q, c.Unit), Trust: q.Trust, Sort: strconv.FormatFloat(q.Value, 'g', -1, 64)}
			if i+1 < len(done) {
				if old, ok := h.reading(done[i+1].ID, c.Key); ok {
					cell.Change = change(q.Value-old.Value, q.Value, c.Unit)
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		v.Rows = append(v.Rows, row)
	}
}

// change prints a difference of a reading with its sign, "" if it is nothing
// against the value.
func change(d, value float64, unit string) string {
	if d == 0 || max(d, -d) < 1e-6*max(value, -value) {
		return ""
	}
	text, _ := splitUnit(quantity.Show(d, unit, true, 2))
	if d > 0 {
		text = "+" + text
	}
	return text
}
