package trial

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/sample"
)

// cube is a set of trials over the unit cube with readings that a function tells.
func cube(n, d int, of func(u []float64) map[string]float64) *Set {
	t := &model.ResolvedTrials{TrialSet: &model.TrialSet{Pattern: model.Sobol}, Most: 60, Within: 0.01}
	points := sample.Sobol(n, d)
	for j := range d {
		a := model.Axis{Parameter: string(rune('a' + j)), To: 1}
		for i := range points {
			a.Values = append(a.Values, points[i][j])
		}
		t.Axes = append(t.Axes, a)
	}
	r := &model.Resolved{}
	for _, id := range []string{"r1", "r2", "r3"} {
		r.Readings = append(r.Readings, model.ResolvedSentence{Sentence: &model.Sentence{ID: id}})
	}
	s := &Set{ResolvedTrials: t, Model: r, List: make([]Outcome, n)}
	over(s, of)
	return s
}

// search makes what a search proposes until it ends, and returns the set with all trials, and the last word.
func search(t *testing.T, s *Set, of func(u []float64) map[string]float64) (*Set, []Proposal, string) {
	t.Helper()
	var earlier []Proposal
	for range 200 {
		step, err := Next(Predict(s), earlier)
		require.NoError(t, err)
		if step.Done {
			return s, earlier, step.Words
		}
		require.NotEmpty(t, step.Proposals)
		earlier = append(earlier, step.Proposals...)
		var added [][]float64
		for _, p := range earlier {
			added = append(added, p.Values)
		}
		next := &Set{ResolvedTrials: s.With(added), Model: s.Model}
		next.List = append(append([]Outcome(nil), s.List...), make([]Outcome, len(step.Proposals))...)
		for i := len(s.List); i < len(next.List); i++ {
			next.List[i] = Outcome{Done: true, Counts: true, Readings: of(next.Values(i))}
		}
		s = next
	}
	t.Fatal("the search does not end")
	return nil, nil, ""
}

// branin of the unit square (L. C. W. Dixon, G. P. Szegő, 1978): its least value is 0.397887.
func branin(u []float64) map[string]float64 {
	x, y := 15*u[0]-5, 15*u[1]
	a := y - 5.1/(4*math.Pi*math.Pi)*x*x + 5/math.Pi*x - 6
	return map[string]float64{"r1": a*a + 10*(1-1/(8*math.Pi))*math.Cos(x) + 10, "r2": x * y}
}

// hartmann of three parameters (J. K. Hartman, 1973): its least value is −3.86278.
func hartmann(u []float64) map[string]float64 {
	sum := 0.0
	for i, c := range []float64{1, 1.2, 3, 3.2} {
		in := 0.0
		for j := range 3 {
			a := [4][3]float64{{3, 10, 30}, {0.1, 10, 35}, {3, 10, 30}, {0.1, 10, 35}}[i][j]
			p := [4][3]float64{{0.3689, 0.1170, 0.2673}, {0.4699, 0.4387, 0.7470}, {0.1091, 0.8732, 0.5547}, {0.0381, 0.5743, 0.8828}}[i][j]
			in += a * (u[j] - p) * (u[j] - p)
		}
		sum -= c * math.Exp(-in)
	}
	return map[string]float64{"r1": sum}
}

// TestSearchKeepsLimits: Branin's function where the product of the two is 10 or less and x over 4: the end of the search keeps them.
func TestSearchKeepsLimits(t *testing.T) {
	s := cube(12, 2, branin)
	s.Aims, s.Bounds = []model.Aim{{Want: model.Least, Reading: "r1"}}, []model.Bound{{Reading: "r2", Side: model.Under, Value: 10}, {Reading: "r2", Side: model.Over, Value: 6}}
	s.Most, s.Within = 40, 1e-3
	s, _, _ = search(t, s, branin)
	best, ok := s.Best()
	require.True(t, ok)
	// By brute force.
	least := math.Inf(1)
	for i := range 1000 {
		for k := range 1000 {
			q := branin([]float64{float64(i) / 999, float64(k) / 999})
			if q["r2"] <= 10 && q["r2"] >= 6 {
				least = min(least, q["r1"])
			}
		}
	}
	assert.InDelta(t, least, best.Value, 0.05)
	assert.LessOrEqual(t, s.List[best.Trial].Readings["r2"], 10.0)
}

// TestGoalNearAValue ends on it.
func TestGoalNearAValue(t *testing.T) {
	s := cube(12, 2, branin)
	s.Aims, s.Most = []model.Aim{{Want: model.Near, Reading: "r1", Target: 50}}, 20
	s, _, _ = search(t, s, branin)
	best, ok := s.Best()
	require.True(t, ok)
	assert.InDelta(t, 50, best.Value, 0.5)
}

// known is a problem with a known front (C. M. Fonseca, P. J. Fleming, 1995): on it both parameters are alike.
func known(u []float64) map[string]float64 {
	a, b := 0.0, 0.0
	for _, v := range u {
		x := 4*v - 2
		a += (x - 1/math.Sqrt2) * (x - 1/math.Sqrt2)
		b += (x + 1/math.Sqrt2) * (x + 1/math.Sqrt2)
	}
	return map[string]float64{"r1": 1 - math.Exp(-a), "r2": 1 - math.Exp(-b)}
}

// aboveFront is how far a point is above the known front.
func aboveFront(r map[string]float64) float64 {
	least := math.Inf(1)
	for i := range 2001 {
		x := (2*float64(i)/2000 - 1) / math.Sqrt2
		f := known([]float64{(x + 2) / 4, (x + 2) / 4})
		least = min(least, math.Hypot(r["r1"]-f["r1"], r["r2"]-f["r2"]))
	}
	return least
}

// TestKnownFront: that of the surfaces lies on it.
func TestKnownFront(t *testing.T) {
	s := cube(60, 2, known)
	s.Aims = []model.Aim{{Want: model.Least, Reading: "r1"}, {Want: model.Least, Reading: "r2"}}
	front, err := Predict(s).PredictedFront()
	require.NoError(t, err)
	require.Greater(t, len(front), 20)
	for _, v := range front {
		assert.Less(t, aboveFront(known(v)), 0.05)
	}
}

func meanAbove(s *Set) float64 {
	sum := 0.0
	front := s.Front()
	for _, i := range front {
		sum += aboveFront(s.List[i].Readings)
	}
	return sum / float64(len(front))
}

// TestSearchesEnd: at the most trials that they may take, and where nothing is left of values that may be taken; without a goal only knowledge is sought.
func TestSearchesEnd(t *testing.T) {
	s := cube(10, 2, branin)
	_, err := Next(Predict(s), nil)
	assert.ErrorContains(t, err, "nothing is wanted")
	s.Search.Method, s.Most, s.Within = model.Knowledge, 7, 1e-12
	_, made, words := search(t, s, branin)
	assert.Len(t, made, 7)
	assert.Contains(t, words, "7 further")
	// More is known: the error of points left out falls.
	for i := range s.List {
		s.List[i].Counts = false
	}
	_, err = Next(Predict(s), nil)
	assert.Error(t, err)
	s.Search.Method, s.Aims = model.Direct, []model.Aim{{Want: model.Least, Reading: "r1"}}
	_, err = Next(Predict(s), nil)
	assert.ErrorContains(t, err, "no trial of the pattern counts")
	s.Search.Method = model.Evolution
	_, err = Next(Predict(s), nil)
	assert.ErrorContains(t, err, "there are 0")
}

// TestFailuresDoNotStopASearch.
func TestFailuresDoNotStopASearch(t *testing.T) {
	for _, method := range []string{"", model.Direct, model.Evolution} {
		s := cube(12, 2, branin)
		s.Aims, s.Search.Method, s.Most = []model.Aim{{Want: model.Least, Reading: "r1"}}, method, 16
		var earlier []Proposal
		for range 12 {
			step, err := Next(Predict(s), earlier)
			require.NoError(t, err)
			if step.Done {
				break
			}
			earlier = append(earlier, step.Proposals...)
			var added [][]float64
			for _, p := range earlier {
				added = append(added, p.Values)
			}
			s.ResolvedTrials = s.With(added)
			for range step.Proposals {
				i := len(s.List)
				s.List = append(s.List, Outcome{Done: i%2 == 0, Counts: i%2 == 0, Failed: i%2 == 1, Readings: branin(s.Values(i))})
			}
		}
		assert.Greater(t, len(earlier), 4, method)
	}
}
