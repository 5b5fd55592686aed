package mesh

import (
	"math"
	"math/bits"
)

// Point is a point of the plan, m.
type Point struct{ X, Y float64 }

func (p Point) xy() [2]float64 { return [2]float64{p.X, p.Y} }

// grid is the lattice on which the points of a triangulation lie.
type grid struct {
	quantum float64 // spacing, a power of two
	inverse float64
}

// newGrid makes a lattice fine enough for coordinates up to extent and coarse
// enough for their differences to be exact and to fit 53 bits.
func newGrid(extent float64) grid {
	_, e := math.Frexp(extent)
	q := math.Ldexp(1, e-51)
	return grid{quantum: q, inverse: 1 / q}
}

func (g grid) snap(p Point) Point {
	return Point{math.RoundToEven(p.X*g.inverse) * g.quantum, math.RoundToEven(p.Y*g.inverse) * g.quantum}
}

// Error bounds of the floating-point filters, from J. R. Shewchuk, "Adaptive
// precision floating-point arithmetic and fast robust geometric predicates",
// Discrete & Computational Geometry 18 (1997) 305–363. Differences are exact
// here, so the bounds are safe.
const (
	epsilon       = 1.0 / (1 << 53)
	orientBound   = (3 + 16*epsilon) * epsilon
	inCircleBound = (10 + 96*epsilon) * epsilon
)

// orient is positive if a, b, c turn left, negative if they turn right and zero
// if they lie on a line. The sign is exact.
func (g grid) orient(a, b, c Point) float64 {
	l := (a.X - c.X) * (b.Y - c.Y)
	r := (a.Y - c.Y) * (b.X - c.X)
	det := l - r
	if math.Abs(det) > orientBound*(math.Abs(l)+math.Abs(r)) {
		return det
	}
	left := mul64(g.whole(a.X-c.X), g.whole(b.Y-c.Y))
	right := mul64(g.whole(a.Y-c.Y), g.whole(b.X-c.X))
	return float64(left.sub(right).sign())
}

// inCircle is positive if d lies inside the circle through a, b, c (which turn
// left), negative outside and zero on it. The sign is exact.
func (g grid) inCircle(a, b, c, d Point) float64 {
	adx, ady := a.X-d.X, a.Y-d.Y
	bdx, bdy := b.X-d.X, b.Y-d.Y
	cdx, cdy := c.X-d.X, c.Y-d.Y
	bc, cb := bdx*cdy, cdx*bdy
	ca, ac := cdx*ady, adx*cdy
	ab, ba := adx*bdy, bdx*ady
	al := adx*adx + ady*ady
	bl := bdx*bdx + bdy*bdy
	cl := cdx*cdx + cdy*cdy
	det := al*(bc-cb) + bl*(ca-ac) + cl*(ab-ba)
	permanent := al*(math.Abs(bc)+math.Abs(cb)) + bl*(math.Abs(ca)+math.Abs(ac)) + cl*(math.Abs(ab)+math.Abs(ba))
	if math.Abs(det) > inCircleBound*permanent {
		return det
	}
	ax, ay := g.whole(adx), g.whole(ady)
	bx, by := g.whole(bdx), g.whole(bdy)
	cx, cy := g.whole(cdx), g.whole(cdy)
	sum := mul128(mul64(ax, ax).add(mul64(ay, ay)), mul64(bx, cy).sub(mul64(cx, by)))
	sum = sum.add(mul128(mul64(bx, bx).add(mul64(by, by)), mul64(cx, ay).sub(mul64(ax, cy))))
	sum = sum.add(mul128(mul64(cx, cx).add(mul64(cy, cy)), mul64(ax, by).sub(mul64(bx, ay))))
	return float64(sum.sign())
}

// whole gives a difference of coordinates in grid steps.
func (g grid) whole(d float64) int64 { return int64(d * g.inverse) }

// int128 and int256 are two's complement numbers, least word first.
type (
	int128 [2]uint64
	int256 [4]uint64
)

func mul64(a, b int64) int128 {
	neg := (a < 0) != (b < 0)
	hi, lo := bits.Mul64(magnitude(a), magnitude(b))
	p := int128{lo, hi}
	if neg {
		return int128{}.sub(p)
	}
	return p
}

func magnitude(a int64) uint64 {
	if a < 0 {
		return uint64(-a)
	}
	return uint64(a)
}

func (a int128) add(b int128) int128 {
	lo, c := bits.Add64(a[0], b[0], 0)
	hi, _ := bits.Add64(a[1], b[1], c)
	return int128{lo, hi}
}

func (a int128) sub(b int128) int128 {
	lo, c := bits.Sub64(a[0], b[0], 0)
	hi, _ := bits.Sub64(a[1], b[1], c)
	return int128{lo, hi}
}

func (a int128) sign() int {
	if int64(a[1]) < 0 {
		return -1
	}
	if a[0]|a[1] != 0 {
		return 1
	}
	return 0
}

// mul128 multiplies exactly.
func mul128(a, b int128) int256 {
	neg := a.sign()*b.sign() < 0
	if a.sign() < 0 {
		a = int128{}.sub(a)
	}
	if b.sign() < 0 {
		b = int128{}.sub(b)
	}
	var p int256
	for i := range 2 {
		var carry uint64
		for j := range 2 {
			hi, lo := bits.Mul64(a[i], b[j])
			var c uint64
			lo, c = bits.Add64(lo, p[i+j], 0)
			hi += c
			lo, c = bits.Add64(lo, carry, 0)
			hi += c
			p[i+j] = lo
			carry = hi
		}
		p[i+2] = carry
	}
	if neg {
		var zero int256
		return zero.sub(p)
	}
	return p
}

func (a int256) add(b int256) int256 {
	var s int256
	var c uint64
	for i := range s {
		s[i], c = bits.Add64(a[i], b[i], c)
	}
	return s
}

func (a int256) sub(b int256) int256 {
	var s int256
	var c uint64
	for i := range s {
		s[i], c = bits.Sub64(a[i], b[i], c)
	}
	return s
}

func (a int256) sign() int {
	if int64(a[3]) < 0 {
		return -1
	}
	if a[0]|a[1]|a[2]|a[3] != 0 {
		return 1
	}
	return 0
}
