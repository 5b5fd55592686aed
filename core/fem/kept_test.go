package fem

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mixed couples a scalar of order 2 with a vector of order 1: linear in part 0 and on
// every other side, not in part 1 and on the sides between.
type mixed struct{ byValues bool }

func (mixed) LinearCells(part int32) bool { return part == 0 }
func (mixed) LinearSide(number int) bool  { return number%2 == 0 }
func (mixed) LinearJoint(int) bool        { return false }
func (k mixed) ByValues() bool            { return k.byValues }

func (mixed) Cell(p *Point, t *Terms) error {
	for a := range 3 {
		b := (a + 1) % 3
		t.Flux[a] = p.Grad[a]
		t.Source[a] = p.Rate[a] + p.X[0]*p.U[b]
		t.SourceRate[t.Index(a, a)], t.SourceU[t.Index(a, b)] = 1, p.X[0]
		for d := range 3 {
			t.FluxGrad[t.Index(a, a)][d][d] = 1
		}
		if p.Part == 1 {
			t.Source[a] += math.Sin(p.U[b])
			t.SourceU[t.Index(a, b)] += math.Cos(p.U[b])
		}
	}
	return nil
}

func (mixed) Side(number int, p *Point, t *Terms) error {
	for a := range 3 {
		b := (a + 2) % 3
		t.Source[a] = p.Normal[0] + p.X[1]*p.U[b] + 0.3*p.Rate[a]
		t.SourceU[t.Index(a, b)], t.SourceRate[t.Index(a, a)] = p.X[1], 0.3
		if number%2 == 1 {
			t.Source[a] += p.U[a] * p.U[b]
			t.SourceU[t.Index(a, a)] += p.U[b]
			t.SourceU[t.Index(a, b)] += p.U[a]
		}
	}
	return nil
}

// TestWhatIsKept: equations of which the linear terms are kept, and sides of which only
// their own unknowns are looked at, are those that are assembled whole.
func TestWhatIsKept(t *testing.T) {
	for _, form := range solidForms {
		g := cube(form, 3, 0.15).Elevated(nil)
		var outer []Side
		for _, s := range g.Sides() {
			if s.Other < 0 {
				outer = append(outer, s)
			}
		}
		s, err := NewSystem(g, []Field{{Components: 1}, {Components: 2, Order: 1}}, &SystemSettings{Sides: outer})
		require.NoError(t, err)
		rng := rand.New(rand.NewPCG(7, 8))
		change := func(by float64) []float64 {
			u := make([]float64, s.N)
			for i := range u {
				u[i] = by * rng.NormFloat64()
			}
			return u
		}
		const slope = 2.5
		at := &State{U: change(1), Rate: change(1), RateSlope: slope}
		k := s.keep(mixed{byValues: true}, false)
		require.True(t, k.some)
		whole, parts := s.NewMatrix(), s.NewMatrix()
		r, q := make([]float64, s.N), make([]float64, s.N)
		for range 3 {
			require.NoError(t, s.Assemble(mixed{}, at, r, whole))
			require.NoError(t, k.Assemble(at, q, parts))
			assert.InDeltaSlice(t, r, q, 1e-12, "%s", form)
			assert.InDeltaSlice(t, whole.Data, parts.Data, 1e-12, "%s", form)
			require.NoError(t, k.Assemble(at, q, nil))
			assert.InDeltaSlice(t, r, q, 1e-12, "%s", form)
			for i, d := range change(0.5) {
				at.U[i] += d
				at.Rate[i] += slope * d
			}
		}
	}
}
