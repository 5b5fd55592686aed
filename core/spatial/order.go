package spatial

import (
	"math"

	"saltkettle/core/parallel"
)

// Order sorts points, three coordinates each, along a curve that fills the box of all (Hilbert 1891,
// by the transposed bits of J. Skilling, AIP Conf. Proc. 707 (2004) 381): those that follow each
// other are near each other.
func Order(points []float64) []int32 {
	n := len(points) / 3
	if n == 0 {
		return nil
	}
	lo, hi := [3]float64(points[:3]), [3]float64(points[:3])
	for i, x := range points {
		lo[i%3], hi[i%3] = min(lo[i%3], x), max(hi[i%3], x)
	}
	const bits = 12
	// One length for all axes: a thin device is not followed as if it were a cube.
	wide := max(hi[0]-lo[0], hi[1]-lo[1], hi[2]-lo[2])
	by := 0.0
	if wide > 0 && !math.IsInf(wide, 0) {
		by = (1<<bits - 1) / wide
	}
	keys, things := make([]uint64, n), make([]int32, n)
	parallel.For(n, 1<<13, func(_, from, to int) {
		for i := from; i < to; i++ {
			var x [3]uint32
			for d := range 3 {
				x[d] = uint32((points[3*i+d] - lo[d]) * by)
			}
			keys[i], things[i] = along(x, bits), int32(i)
		}
	})
	return sorted(keys, things, 3*bits)
}

// sorted puts things in the order of their keys of some bits, digit by digit; equal ones stay as they
// come.
func sorted(keys []uint64, things []int32, bits int) []int32 {
	const digit = 12
	nextKeys, next := make([]uint64, len(keys)), make([]int32, len(things))
	for shift := 0; shift < bits; shift += digit {
		var at [1<<digit + 1]int
		for _, k := range keys {
			at[k>>shift&(1<<digit-1)+1]++
		}
		for d := range 1 << digit {
			at[d+1] += at[d]
		}
		for i, k := range keys {
			d := k >> shift & (1<<digit - 1)
			nextKeys[at[d]], next[at[d]] = k, things[i]
			at[d]++
		}
		keys, nextKeys, things, next = nextKeys, keys, next, things
	}
	return things
}

// along is the way along the curve to a place in a lattice of 2^bits places along each axis.
func along(x [3]uint32, bits int) (key uint64) {
	m := uint32(1) << (bits - 1)
	for q := m; q > 1; q >>= 1 {
		p := q - 1
		for d := range 3 {
			if x[d]&q != 0 {
				x[0] ^= p
			} else {
				t := (x[0] ^ x[d]) & p
				x[0] ^= t
				x[d] ^= t
			}
		}
	}
	x[1] ^= x[0]
	x[2] ^= x[1]
	var t uint32
	for q := m; q > 1; q >>= 1 {
		if x[2]&q != 0 {
			t ^= q - 1
		}
	}
	for d := range 3 {
		x[d] ^= t
	}
	for b := bits - 1; b >= 0; b-- {
		for d := range 3 {
			key = key<<1 | uint64(x[d]>>b&1)
		}
	}
	return key
}
