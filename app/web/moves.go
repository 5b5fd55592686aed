package web

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/trial"
)

// movesView says how readings go along with what varies.
type movesView struct {
	Parameters []string
	Rows       []moveRow
	// Idle are the parameters with which no reading grows or falls, in words.
	Idle string
}

// moveRow is a reading with its correlation with each parameter.
type moveRow struct {
	Name  string
	Cells []moveCell
}

// moveCell is a correlation; a faint one may be chance.
type moveCell struct {
	Text  string
	Faint bool
}

// moves is how readings go along with what varies, nil if that is not known yet.
func (o *outcomes) moves() *movesView {
	all := o.Moves(o.keys)
	if len(all) == 0 {
		return nil
	}
	v := &movesView{}
	follows := map[string]bool{}
	for i := range o.set.Axes {
		v.Parameters = append(v.Parameters, o.set.Axes[i].Parameter)
	}
	for _, key := range o.keys {
		row := moveRow{Name: o.kinds[key].Name}
		for _, p := range v.Parameters {
			i := slices.IndexFunc(all, func(m trial.Move) bool { return m.Reading == key && m.Parameter == p })
			if i < 0 {
				row.Cells = append(row.Cells, moveCell{Text: "–", Faint: true})
				continue
			}
			faint := math.Abs(all[i].Rank) < all[i].Chance
			follows[p] = follows[p] || !faint
			row.Cells = append(row.Cells, moveCell{strings.Replace(fmt.Sprintf("%+.2f", all[i].Rank), "-", "−", 1), faint})
		}
		v.Rows = append(v.Rows, row)
	}
	idle := slices.DeleteFunc(slices.Clone(v.Parameters), func(p string) bool { return follows[p] })
	if len(idle) > 0 {
		v.Idle = fmt.Sprintf("No reading grows or falls with %s more than by chance; the chart shows whether one rises and falls again", strings.Join(idle, " or "))
	}
	return v
}
