package web

import (
	"fmt"
	"maps"
	"slices"

	"saltkettle/app/store"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// modesView is the modes of a run beside those of other runs that are most like them.
type modesView struct {
	// Axes are those along which masses are told, and Runs the other ones.
	Axes []string
	Runs []int
	// Dying says that modes die away.
	Dying bool
	// Shared are the fields, in words, of which each mode tells the part of its energy.
	Shared []string
	Rows   []modeRow
}

// modeRow is a mode.
type modeRow struct {
	Number    int
	Frequency string
	Moves     []string // parts of the whole mass, by axis
	Dies      string   // by how much, %
	Shares    []string // parts of its energy, by field
	Like      []likeMode
}

// likeMode is the mode of another run that is most like one, "" if none is.
type likeMode struct{ Frequency, Number, Likeness, Ratio string }

// How many other runs stand beside one, and how alike a shape must be to count as the same.
const (
	modalRuns = 3
	isAlike   = 0.5
)

// modes fills the table of the modes of a run, with those of others among the ones that are done.
func (s *platesPage) modes(v *platesView, res *result.Result, chosen store.Run, done []store.Run) {
	if len(res.Modes) == 0 {
		return
	}
	words := modeWords(res)
	t := &modesView{}
	for i := range res.Modes {
		m := &res.Modes[i]
		row := modeRow{Number: i + 1, Frequency: words[i]}
		for _, x := range m.Moves {
			row.Moves = append(row.Moves, percent(x/m.Whole))
		}
		if row.Dies = "–"; m.Dies != 0 {
			t.Dying, row.Dies = true, quantity.Figures(100*m.Dies, 3)
		}
		for _, name := range slices.Sorted(maps.Keys(m.Shares)) {
			row.Shares = append(row.Shares, percent(m.Shares[name]))
			if i == 0 {
				field, _ := physics.Catalog().Field(name)
				t.Shared = append(t.Shared, field.Words())
			}
		}
		t.Rows = append(t.Rows, row)
		if len(m.Moves) > 0 && len(t.Axes) == 0 {
			t.Axes = []string{"x", "y", "z"}[:len(m.Moves)]
		}
	}
	v.Modes = t
	own, err := s.interior(chosen)
	if err != nil {
		return
	}
	for _, other := range done {
		if other.ID == chosen.ID || !other.HasResult || len(t.Runs) == modalRuns {
			continue
		}
		like, theirs, err := s.likeness(own, chosen, other)
		if err != nil {
			continue // it has no modes, or of something else
		}
		t.Runs = append(t.Runs, other.Number)
		others := modeWords(theirs)
		for i := range t.Rows {
			best := 0
			for j, x := range like[i] {
				if x > like[i][best] {
					best = j
				}
			}
			m := likeMode{}
			if like[i][best] >= isAlike {
				m = likeMode{Frequency: others[best], Number: fmt.Sprint(best + 1), Likeness: percent(like[i][best])}
				if f := theirs.Modes[best].Frequency; f > 0 && res.Modes[i].Frequency > 0 {
					m.Ratio = quantity.Figures(res.Modes[i].Frequency/f, 3)
				}
			}
			t.Rows[i].Like = append(t.Rows[i].Like, m)
		}
	}
}

// percent is a part in hundredths, "–" if it is less than one.
func percent(part float64) string {
	if part < 0.005 {
		return "–"
	}
	return fmt.Sprintf("%.0f", 100*part)
}

// alike is how alike the modes of two runs are, with the second result.
type alike struct {
	values [][]float64
	other  *result.Result
}

// likeness compares the modes of two runs, if that was not done of late.
func (s *platesPage) likeness(own *interior, run, other store.Run) ([][]float64, *result.Result, error) {
	a, err := s.likes.get(fmt.Sprintf("%d %s %d %s", run.ID, run.Token, other.ID, other.Token), func() (*alike, error) {
		r, err := result.NewReader(s.store.RunDir(other.ID))
		if err != nil {
			return nil, err
		}
		values, err := result.Likeness(own.Reader, r)
		if err != nil {
			return nil, err
		}
		return &alike{values, r.Result}, nil
	})
	if err != nil {
		return nil, nil, err
	}
	return a.values, a.other, nil
}
