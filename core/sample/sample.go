// Package sample spreads points over the unit cube: evenly, at random in strata, or in sequences that fill it.
package sample

import (
	"fmt"
	"math/bits"
	"math/rand/v2"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distmv"
	"gonum.org/v1/gonum/stat/samplemv"
)

// seed makes the same points each time.
const seed = 20

// Latin returns n points in d dimensions, one in each of n strata along every axis (M. D. McKay, R. J. Beckman, W. J. Conover, Technometrics 21
// (1979) 239).
func Latin(n, d int) [][]float64 {
	src := rand.NewPCG(seed, uint64(d))
	return drawn(n, d, samplemv.LatinHypercube{Q: distmv.NewUnitUniform(d, src), Src: src})
}

// Halton returns the first n points of the sequence of J. H. Halton (1960) in d dimensions, with its digits shuffled (A. B. Owen,
// arXiv:1706.02808, 2017).
func Halton(n, d int) [][]float64 {
	src := rand.NewPCG(seed, uint64(d))
	return drawn(n, d, samplemv.Halton{Kind: samplemv.Owen, Q: distmv.NewUnitUniform(d, src), Src: src})
}

func drawn(n, d int, s samplemv.Sampler) [][]float64 {
	batch := mat.NewDense(n, d, nil)
	s.Sample(batch)
	out := make([][]float64, n)
	for i := range out {
		out[i] = append([]float64(nil), batch.RawRowView(i)...)
	}
	return out
}

// directions are the numbers of the sequence of Sobol by dimension from the second on: the coefficients of a primitive polynomial of the degree of
// the list, and the first numbers (S. Joe and F. Y. Kuo, SIAM J. Sci. Comput. 30 (2008) 2635).
var directions = []struct {
	a uint32
	m []uint32
}{
	{0, []uint32{1}}, {1, []uint32{1, 3}}, {1, []uint32{1, 3, 1}}, {2, []uint32{1, 1, 1}}, {1, []uint32{1, 1, 3, 3}}, {4, []uint32{1, 3, 5, 13}},
	{2, []uint32{1, 1, 5, 5, 17}}, {4, []uint32{1, 1, 5, 5, 5}}, {7, []uint32{1, 1, 7, 11, 19}}, {11, []uint32{1, 1, 5, 1, 1}}, {13, []uint32{1, 1, 1, 3, 11}},
}

// MostSobol is in how many dimensions the sequence of Sobol is known here.
var MostSobol = len(directions) + 1

// digits of the numbers of the sequence of Sobol.
const digits = 32

// Sobol returns n points of the sequence of I. M. Sobol (1967) in d dimensions, without its first one, which is the corner of the cube.
func Sobol(n, d int) [][]float64 {
	if d > MostSobol {
		panic(fmt.Sprintf("sample: the sequence of Sobol is known in %d dimensions, not in %d", MostSobol, d))
	}
	v := make([][digits]uint32, d)
	for k := range digits {
		v[0][k] = 1 << (digits - 1 - k)
	}
	for j := 1; j < d; j++ {
		p := directions[j-1]
		s := len(p.m)
		for k := range digits {
			if k < s {
				v[j][k] = p.m[k] << (digits - 1 - k)
				continue
			}
			v[j][k] = v[j][k-s] ^ v[j][k-s]>>s
			for i := 1; i < s; i++ {
				v[j][k] ^= (p.a >> (s - 1 - i) & 1) * v[j][k-i]
			}
		}
	}
	out := make([][]float64, n)
	at := make([]uint32, d)
	for i := range out {
		out[i] = make([]float64, d)
		k := bits.TrailingZeros32(^uint32(i)) // in the order of Gray's code
		for j := range at {
			at[j] ^= v[j][k]
			out[i][j] = float64(at[j]) / (1 << digits)
		}
	}
	return out
}

// Composite returns the corners of the cube, the middles of its faces and its middle: a design for quadratic surfaces (G. E. P. Box and K. B. Wilson,
// J. R. Stat. Soc. B 13 (1951) 1).
func Composite(d int) [][]float64 {
	middle := func() []float64 {
		x := make([]float64, d)
		for j := range x {
			x[j] = 0.5
		}
		return x
	}
	out := [][]float64{middle()}
	for j := range d {
		for _, end := range []float64{0, 1} {
			x := middle()
			x[j] = end
			out = append(out, x)
		}
	}
	if d == 1 {
		return out
	}
	for i := range 1 << d {
		x := make([]float64, d)
		for j := range x {
			x[j] = float64(i >> j & 1)
		}
		out = append(out, x)
	}
	return out
}
