package result

import (
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"saltkettle/core/table"
)

// History is the readings of a run in time, in the units in which they are shown.
type History struct {
	Times    []float64         `json:"times"` // s
	Readings map[string]Values `json:"readings"`
}

// WriteHistory writes the readings over time as CSV: a row for each moment, with the time in s
// and the readings in the units in which they are shown; where one has no value nothing.
func (r *Result) WriteHistory(w io.Writer) error {
	out := table.NewWriter(w)
	head := []string{"time (s)"}
	var columns []Values
	for _, q := range r.Readings {
		if list := r.History.Readings[q.Key]; len(list) == len(r.History.Times) {
			head = append(head, strings.TrimSuffix(fmt.Sprintf("%s (%s)", q.Name, q.Shown.Unit), " ()"))
			columns = append(columns, list)
		}
	}
	if err := out.Write(head); err != nil {
		return err
	}
	for i, t := range r.History.Times {
		row := []string{strconv.FormatFloat(t, 'g', 10, 64)}
		for _, c := range columns {
			text := ""
			if !math.IsNaN(c[i]) {
				text = strconv.FormatFloat(c[i], 'g', 10, 64)
			}
			row = append(row, text)
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	return out.Flush()
}
