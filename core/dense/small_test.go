package dense

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

func floats(rng *rand.Rand, n int) []float32 {
	list := make([]float32, n)
	for i := range list {
		list[i] = 2*rng.Float32() - 1
	}
	return list
}

func TestSmallBlocks(t *testing.T) {
	eachKernel(t, func(t *testing.T) {
		rng := rand.New(rand.NewPCG(1, 2))
		cols := []int32{3, 0, 5, 1, 2}
		for order := LeastBlock; order <= MostBlock; order++ {
			size := order * order
			out, l, u := floats(rng, size), floats(rng, size), floats(rng, size)
			want := slices.Clone(out)
			for r := range order {
				for c := range order {
					for t := range order {
						want[order*r+c] -= l[order*r+t] * u[order*t+c]
					}
				}
			}
			SubtractProduct(order, out, l, u)
			assert.InDeltaSlice(t, want, out, 1e-6)
			for n := range len(cols) + 1 {
				data, x := floats(rng, size*n), noise[float64](rng, 6*order)
				sum := [MostBlock]float64{1, 2, 3, 4, 5, 6}
				exact := sum
				for k, c := range cols[:n] {
					for r := range order {
						for s := range order {
							exact[r] += float64(data[size*k+order*r+s]) * x[order*int(c)+s]
						}
					}
				}
				AddRow(order, &sum, data, cols[:n], x)
				assert.InDeltaSlice(t, exact[:], sum[:], 1e-14)
			}
		}

		for n := range 4 {
			g, c, h := floats(rng, 32*n), floats(rng, 16*n), floats(rng, 32*n)
			var sum, exact [64]float32
			sum[5] = 7 // is forgotten
			for q := range n {
				for a := range 8 {
					for b := range 8 {
						for d := range 4 {
							for e := range 4 {
								exact[8*a+b] += g[32*q+8*d+a] * c[16*q+4*d+e] * h[32*q+8*e+b]
							}
						}
					}
				}
			}
			Bilinear(&sum, g, c, h)
			assert.InDeltaSlice(t, exact[:], sum[:], 2e-5)
		}
	})
}
