package sample

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestStrata: along each axis there is one point in each of as many strata as there are points, of Sobol's sequence of 2ᵏ of them with its corner.
func TestStrata(t *testing.T) {
	const d = 7
	for _, n := range []int{16, 64} {
		latin, sobol := Latin(n, d), append([][]float64{make([]float64, d)}, Sobol(n-1, d)...)
		for name, list := range map[string][][]float64{"Latin": latin, "Sobol": sobol} {
			for j := range d {
				seen := map[int]bool{}
				for _, x := range list {
					assert.True(t, x[j] >= 0 && x[j] < 1)
					seen[int(x[j]*float64(n))] = true
				}
				assert.Len(t, seen, n, "%s, axis %d", name, j)
			}
		}
	}
	// Of two axes of Sobol's sequence each of 8 by 8 squares has one of 64 points.
	squares := map[[2]int]bool{{}: true}
	for _, x := range Sobol(63, 2) {
		squares[[2]int{int(8 * x[0]), int(8 * x[1])}] = true
	}
	assert.Len(t, squares, 64)
}

// TestSequencesIntegrate a smooth function of five variables better than chance does.
func TestSequencesIntegrate(t *testing.T) {
	const d, n = 5, 1023
	f := func(x []float64) float64 {
		p := 1.0
		for _, v := range x {
			p *= math.Pi / 2 * math.Sin(math.Pi*v)
		}
		return p
	}
	for name, list := range map[string][][]float64{"Sobol": Sobol(n, d), "Halton": Halton(n, d), "most": Sobol(n, MostSobol)} {
		sum := 0.0
		for _, x := range list {
			sum += f(x[:d])
		}
		assert.InDelta(t, 1, sum/n, 0.02, name) // chance: 0.04
	}
	assert.Equal(t, Latin(9, 3), Latin(9, 3), "the same each time")
	assert.Panics(t, func() { Sobol(4, MostSobol+1) })
}

func TestComposite(t *testing.T) {
	assert.Len(t, Composite(1), 3)
	assert.Len(t, Composite(3), 1+6+8)
	for _, x := range Composite(2) {
		for _, v := range x {
			assert.Contains(t, []float64{0, 0.5, 1}, v)
		}
	}
}
