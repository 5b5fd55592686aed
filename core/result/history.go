package result

import (
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"

	"saltkettle/core/table"
)

// ByFrequency is the axis of a response.
const ByFrequency = "frequency"

// History is the readings of a run in time, in the units in which they are shown.
type History struct {
	// Axis is what they are over, "" for time; by frequency they are amplitudes, and Times are
	// Hz.
	Axis     string            `json:"axis,omitempty"`
	Times    []float64         `json:"times"` // s
	Readings map[string]Values `json:"readings"`
}

// WriteHistory writes the readings over time, or frequency, as CSV: a row for each moment, with
// the time in s or the frequency in Hz and the readings in the units in which they are shown; where one has no value nothing.
func (r *Result) WriteHistory(w io.Writer) error {
	out := table.NewWriter(w)
	head := []string{"time (s)"}
	if r.History.Axis == ByFrequency {
		head[0] = "frequency (Hz)"
	}
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
