package trace

import (
	"fmt"
	"strconv"
	"strings"
)

// points reads rows of x and y, the corners of one outline, from a table. A first
// row of words is passed over.
func (r *reader) points(text string) error {
	var list []Vertex
	for i, line := range strings.Split(strings.TrimPrefix(text, "\ufeff"), "\n") {
		cells := strings.FieldsFunc(line, func(c rune) bool { return strings.ContainsRune(",;\t ", c) || c == '\r' })
		if len(cells) == 0 {
			continue
		}
		var v Vertex
		var err error
		if len(cells) >= 2 {
			if v.X, err = strconv.ParseFloat(cells[0], 64); err == nil {
				v.Y, err = strconv.ParseFloat(cells[1], 64)
			}
		}
		if len(cells) < 2 || err != nil {
			if len(list) == 0 && i == 0 {
				continue
			}
			return fmt.Errorf("line %d: two numbers were expected, not %q", i+1, strings.TrimSpace(line))
		}
		list = append(list, v)
	}
	if n := len(list); n > 1 && list[0] == list[n-1] {
		list = list[:n-1]
	}
	if len(list) < 3 {
		return fmt.Errorf("an outline needs three points or more; the table has %d", len(list))
	}
	return r.polyline(list, true, "outline")
}
