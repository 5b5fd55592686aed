package fem

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPlacesOneByOneAreThoseAtOnce: in any order, in cells of all forms and in none.
func TestPlacesOneByOneAreThoseAtOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	list := map[string]*Grid{}
	for _, form := range allForms[1:] {
		list[form.String()] = cube(form, 5, 0.2)
		list[form.String()+", of order 2"] = cube(form, 3, 0.1).Elevated(nil)
	}
	for name, g := range list {
		f := g.NewFinder(OnSide)
		s := f.NewSearch()
		field := make([]float64, g.NodeCount())
		for i := range field {
			x := g.At(int32(i))
			field[i] = 1 + 2*x[0] - 3*x[1] + 4*x[2]
		}
		var lo, hi [3]float64
		for i := range g.NodeCount() {
			for d, x := range g.At(int32(i)) {
				lo[d], hi[d] = min(lo[d], x), max(hi[d], x)
			}
		}
		var points []float64
		for range 400 {
			for d := range 3 {
				points = append(points, lo[d]+(1.2*r.Float64()-0.1)*(hi[d]-lo[d]))
			}
		}
		found := 0
		for i, want := range g.Locate(points, OnSide) {
			x := [3]float64(points[3*i : 3*i+3])
			_, ok := s.Find(x)
			assert.Equal(t, want.Cell >= 0, ok, "%s: %v", name, x)
			if ok {
				found++
				var at [1]float64
				s.Values([][]float64{field}, at[:])
				assert.InDelta(t, 1+2*x[0]-3*x[1]+4*x[2], at[0], 1e-8, name)
				assert.Positive(t, s.Size())
			}
		}
		assert.Greater(t, found, 100, name)
	}
}
