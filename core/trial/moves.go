package trial

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"
)

// Move is how a reading goes along with a parameter.
type Move struct {
	Parameter, Reading string
	// Rank is the correlation of their ranks (C. Spearman, 1904): 1 where a greater value always goes along with a greater reading, −1 with a lesser
	// one, and little where a reading rises and falls again. Chance is what trials as many reach by chance about once in twenty times, 1.96/√(n − 1).
	Rank, Chance float64
}

// fewest is how many trials it takes to tell.
const fewest = 5

// Moves says how readings go along with the parameters of a set, over the trials that count and have the reading; none of readings that too few
// have, or that stay the same.
func (s *Set) Moves(readings []string) (moves []Move) {
	for _, reading := range readings {
		var at []int
		var values []float64
		for i := range s.List {
			if v, ok := s.value(i, reading); ok {
				at, values = append(at, i), append(values, v)
			}
		}
		if len(at) < fewest {
			continue
		}
		ranked := ranks(values)
		for k := range s.Axes {
			x := make([]float64, len(at))
			for i, trial := range at {
				x[i] = s.Values(trial)[k]
			}
			if r := stat.Correlation(ranks(x), ranked, nil); !math.IsNaN(r) {
				moves = append(moves, Move{s.Axes[k].Parameter, reading, r, 1.96 / math.Sqrt(float64(len(at)-1))})
			}
		}
	}
	return moves
}

// ranks of values; equal ones share the mean of theirs. Values are equal that differ by round-off.
func ranks(values []float64) []float64 {
	order := make([]int, len(values))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(i, j int) int {
		switch {
		case values[i] < values[j]:
			return -1
		case values[i] > values[j]:
			return 1
		}
		return 0
	})
	span := values[order[len(order)-1]] - values[order[0]]
	same := 1e-9*span + 1e-12*math.Abs(values[order[0]])
	out := make([]float64, len(values))
	for i := 0; i < len(order); {
		j := i
		for j+1 < len(order) && values[order[j+1]]-values[order[i]] <= same {
			j++
		}
		for k := i; k <= j; k++ {
			out[order[k]] = float64(i+j) / 2
		}
		i = j + 1
	}
	return out
}
