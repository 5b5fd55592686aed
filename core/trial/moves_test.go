package trial

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/model"
)

func TestRanksShareTheirMean(t *testing.T) {
	assert.Equal(t, []float64{3, 0.5, 2, 0.5}, ranks([]float64{9, 1, 4, 1 + 1e-15}))
}

// TestWhatMovesWhat: a reading that only grows with a parameter, whatever its curve, one that falls, one that a parameter has nothing to do with, one that stays
// the same, and trials that do not count.
func TestWhatMovesWhat(t *testing.T) {
	s := &Set{ResolvedTrials: &model.ResolvedTrials{TrialSet: &model.TrialSet{}, Axes: []model.Axis{{Parameter: "a", Values: []float64{1, 2, 3, 4}}, {Parameter: "b", Values: []float64{10, 20, 30}}}}}
	s.List = make([]Outcome, s.Count())
	list := s.List
	for i := range list {
		a := s.Values(i)[0]
		list[i] = Outcome{Done: true, Counts: true, Readings: map[string]float64{"r1": a * a * a, "r2": -a, "r3": 7}}
	}
	list[0].Counts, list[0].Readings["r1"] = false, 1e9
	moves := s.Moves([]string{"r1", "r2", "r3", "r4"})
	assert.Len(t, moves, 4, "what stays the same follows nothing")
	for _, m := range moves {
		switch {
		case m.Parameter == "a" && m.Reading == "r1":
			assert.InDelta(t, 1, m.Rank, 1e-12)
		case m.Parameter == "a":
			assert.InDelta(t, -1, m.Rank, 1e-12)
		default:
			assert.Less(t, m.Rank, m.Chance)
			assert.Greater(t, m.Rank, -m.Chance)
		}
	}
	for i := range list[4:] {
		list[4+i].Counts = false
	}
	assert.Empty(t, s.Moves([]string{"r1"}), "too few")
}
