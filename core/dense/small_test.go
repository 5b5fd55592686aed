package dense

import (
	"math/rand/v2"
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
		out, l, u := Four(floats(rng, 16)), Four(floats(rng, 16)), Four(floats(rng, 16))
		want := out
		for r := range 4 {
			for c := range 4 {
				for t := range 4 {
					want[4*r+c] -= l[4*r+t] * u[4*t+c]
				}
			}
		}
		SubtractProduct(&out, &l, &u)
		assert.InDeltaSlice(t, want[:], out[:], 1e-6)

		cols := []int32{3, 0, 5, 1, 2}
		for n := range len(cols) + 1 {
			data, x := floats(rng, 16*n), noise[float64](rng, 24)
			sum := [4]float64{1, 2, 3, 4}
			exact := sum
			for k, c := range cols[:n] {
				for r := range 4 {
					for s := range 4 {
						exact[r] += float64(data[16*k+4*r+s]) * x[4*int(c)+s]
					}
				}
			}
			AddFourRow(&sum, data, cols[:n], x)
			assert.InDeltaSlice(t, exact[:], sum[:], 1e-14)
		}

		five, lower, upper := Five(floats(rng, 25)), Five(floats(rng, 25)), Five(floats(rng, 25))
		less := five
		for r := range 5 {
			for c := range 5 {
				for t := range 5 {
					less[5*r+c] -= lower[5*r+t] * upper[5*t+c]
				}
			}
		}
		SubtractProductFive(&five, &lower, &upper)
		assert.InDeltaSlice(t, less[:], five[:], 1e-6)
		for n := range len(cols) + 1 {
			data, x := floats(rng, 25*n), noise[float64](rng, 30)
			sum := [5]float64{1, 2, 3, 4, 5}
			exact := sum
			for k, c := range cols[:n] {
				for r := range 5 {
					for s := range 5 {
						exact[r] += float64(data[25*k+5*r+s]) * x[5*int(c)+s]
					}
				}
			}
			AddFiveRow(&sum, data, cols[:n], x)
			assert.InDeltaSlice(t, exact[:], sum[:], 1e-14)
		}

		six, sixLower, sixUpper := Six(floats(rng, 36)), Six(floats(rng, 36)), Six(floats(rng, 36))
		rest := six
		for r := range 6 {
			for c := range 6 {
				for t := range 6 {
					rest[6*r+c] -= sixLower[6*r+t] * sixUpper[6*t+c]
				}
			}
		}
		SubtractProductSix(&six, &sixLower, &sixUpper)
		assert.InDeltaSlice(t, rest[:], six[:], 1e-6)
		for n := range len(cols) + 1 {
			data, x := floats(rng, 36*n), noise[float64](rng, 36)
			sum := [6]float64{1, 2, 3, 4, 5, 6}
			exact := sum
			for k, c := range cols[:n] {
				for r := range 6 {
					for s := range 6 {
						exact[r] += float64(data[36*k+6*r+s]) * x[6*int(c)+s]
					}
				}
			}
			AddSixRow(&sum, data, cols[:n], x)
			assert.InDeltaSlice(t, exact[:], sum[:], 1e-14)
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
