// Package radiation is the exchange of heat radiation between grey diffuse surfaces
// through space that does not take part (M. F. Modest, Radiative Heat Transfer, 3rd
// ed., 2013, chapters 4, 5 and 8).
//
// Surfaces are facets, joined to patches on each of which what arrives is taken as
// even. Symbols: A area (m²), F view factor, S = A·F exchange area (m²), ε
// emissivity, E emissive power (W/m²), H irradiation (W/m²).
package radiation

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"math"

	"saltkettle/core/parallel"
)

// Settings of [Compute]. The zero value works.
type Settings struct {
	// Patches is how many there are at most, apart from one for each class; 0 means
	// 1000.
	Patches int
	// Rays that start from each patch; 0 means 1024, or more where there are so few
	// patches that all of them would have less than half a million.
	Rays int
	// Set is the number of a set of rays: all are as good, and independent of each other.
	Set int
	// Space says what the facets are, and Depth, m, how much of a plane space counts.
	Space Space
	Depth float64
	// Mirrors are planes of symmetry: facets also see the images of all, and of
	// themselves. Areas are those of the facets alone.
	Mirrors []Mirror
	// Progress is called with the part that is done. It may be nil.
	Progress func(part float64)
}

const (
	usualPatches = 1000
	leastRays    = 1024
	leastInAll   = 1 << 19
)

func (s *Settings) patches() int {
	if s != nil && s.Patches > 0 {
		return s.Patches
	}
	return usualPatches
}

func (s *Settings) rays(patches int) int {
	if s != nil && s.Rays > 0 {
		return s.Rays
	}
	return max(leastRays, leastInAll/max(patches, 1))
}

// Views are the exchange areas of the patches of some facets. They are symmetric and
// add up to the area of each patch.
type Views struct {
	// Patch of each facet, and the area of each patch, m².
	Patch []int32
	Area  []float64
	// Exchange has the exchange area of patches i and j at i·n + j, and Open that of
	// each patch with the surroundings, m².
	Exchange, Open []float64
	Rays           int // in all
	// Reciprocity and Closure are how far the rays alone were from A_i·F_ij = A_j·F_ji
	// and from adding up to 1: the root mean square over the patches of the sums over
	// each, relative to its area. Both hold after the correction.
	Reciprocity, Closure float64
}

// Count is the number of patches.
func (v *Views) Count() int { return len(v.Area) }

// Factor is the view factor from one set of facets to another.
func (v *Views) Factor(from, to map[int32]bool) float64 {
	n := v.Count()
	var sum, area float64
	for i := range n {
		if !from[int32(i)] {
			continue
		}
		area += v.Area[i]
		for j := range n {
			if to[int32(j)] {
				sum += v.Exchange[i*n+j]
			}
		}
	}
	return sum / area
}

// Key names what the view factors of facets depend on.
func Key(facets []Facet, set *Settings) string {
	h := sha256.New()
	w := make([]byte, 0, 128)
	w = binary.LittleEndian.AppendUint64(w, uint64(set.patches())<<32|uint64(set.rays(set.patches())))
	if set != nil && set.Set != 0 {
		w = binary.LittleEndian.AppendUint64(w, uint64(set.Set))
	}
	if set != nil && set.Space != Solid {
		w = binary.LittleEndian.AppendUint64(w, uint64(set.Space))
		w = binary.LittleEndian.AppendUint64(w, math.Float64bits(set.Depth))
	}
	if set != nil {
		for _, m := range set.Mirrors {
			w = binary.LittleEndian.AppendUint64(w, uint64(1+m.Axis))
			w = binary.LittleEndian.AppendUint64(w, math.Float64bits(m.At))
		}
	}
	for i := range facets {
		f := &facets[i]
		w = binary.LittleEndian.AppendUint64(w, uint64(f.Class)<<8|uint64(len(f.Corners)))
		for _, c := range f.Corners {
			for _, x := range c {
				w = binary.LittleEndian.AppendUint64(w, math.Float64bits(x))
			}
		}
		h.Write(w)
		w = w[:0]
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// caster casts the rays of patches.
type caster struct {
	tree    *tree
	patch   []int32
	members [][]int32   // triangles of each patch
	share   [][]float64 // of them, added up, m²
	area    []float64
	flat    bool // rays stay in the section
	start   float64
	// Triangles in the order of the facets; the tree has its own.
	list []triangle
}

// Compute finds the exchange areas of facets by casting rays from all of them. The
// rays of each patch are spread evenly over its area and over the directions in which
// a diffuse surface radiates, the same ones in every run.
func Compute(ctx context.Context, facets []Facet, set *Settings) (*Views, error) {
	sc := newScene(facets, set)
	patch, count := agglomerate(facets, sc.centres, sc.normals, set.patches())
	rays := set.rays(count)
	c := &caster{list: sc.from, flat: sc.flat, patch: patch, members: make([][]int32, count), share: make([][]float64, count)}
	v := &Views{Patch: patch, Area: make([]float64, count), Exchange: make([]float64, count*count), Open: make([]float64, count), Rays: rays * count}
	drawn := make([]float64, len(facets)) // area of the triangles of each
	for k := range c.list {
		drawn[c.list[k].owner] += c.list[k].area()
	}
	for k := range c.list {
		t := &c.list[k]
		p := patch[t.owner]
		v.Area[p] += t.area() / drawn[t.owner] * sc.areas[t.owner]
		c.members[p] = append(c.members[p], int32(k))
		c.share[p] = append(c.share[p], v.Area[p])
	}
	c.area = v.Area
	if set != nil {
		c.start = math.Mod(float64(set.Set)*math.Sqrt2, 1)
	}
	c.tree = newTree(sc.met)
	// Patches in small groups, so that the cores end together and progress can be told.
	const group = 16
	for lo := 0; lo < count; lo += group * parallel.Workers() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		hi := min(lo+group*parallel.Workers(), count)
		parallel.For(hi-lo, 1, func(_, from, to int) {
			for i := lo + from; i < lo+to; i++ {
				v.Open[i] = c.cast(i, rays, v.Exchange[i*count:(i+1)*count])
			}
		})
		if set != nil && set.Progress != nil {
			set.Progress(float64(hi) / float64(count))
		}
	}
	v.correct()
	return v, nil
}

// split makes triangles of a facet.
func split(f *Facet, owner int32) []triangle {
	var list []triangle
	for k := 2; k < len(f.Corners); k++ {
		a := vector(f.Corners[0])
		t := triangle{a: a, u: vector(f.Corners[k-1]).minus(a), v: vector(f.Corners[k]).minus(a), owner: owner}
		n := t.u.cross(t.v)
		if l := n.length(); l > 0 {
			t.n = n.times(1 / l)
			list = append(list, t)
		}
	}
	return list
}

func (t *triangle) area() float64 { return t.u.cross(t.v).length() / 2 }

// Steps of a sequence that fills three dimensions evenly (the powers of the inverse of
// the root of x⁴ = x + 1; after H. Niederreiter, Random Number Generation and
// Quasi-Monte Carlo Methods, 1992, chapter 3). The number of the ray is the fourth.
var steps = func() (s [3]float64) {
	g := 1.0
	for range 60 {
		g = math.Pow(1+g, 1./4)
	}
	f := 1.0
	for i := range s {
		f /= g
		s[i] = f
	}
	return s
}()

// cast sends the rays of one patch out, adds up what each other patch receives and
// returns what leaves to the surroundings, all as exchange areas.
func (c *caster) cast(i, rays int, received []float64) (open float64) {
	each := c.area[i] / float64(rays)
	// Another start for each patch: neighbours do not share their errors.
	var x [3]float64
	for d := range x {
		x[d] = math.Mod(0.5+float64(i)*steps[(d+1)%3]*math.Sqrt2+c.start*float64(d+1), 1)
	}
	share, at := c.share[i], 0
	for k := range rays {
		for d := range x {
			x[d] += steps[d]
			if x[d] >= 1 {
				x[d]--
			}
		}
		// The number of the ray goes through the triangles in order, and across each; rays
		// that follow each other are spread over the other coordinates.
		want := (float64(k) + 0.5) / float64(rays) * c.area[i]
		for at < len(share)-1 && share[at] < want {
			at++
		}
		t := &c.list[c.members[i][at]]
		before := 0.0
		if at > 0 {
			before = share[at-1]
		}
		u, w := (want-before)/(share[at]-before), x[0]
		if u+w > 1 {
			u, w = 1-u, 1-w
		}
		from := t.a.plus(t.u.times(u)).plus(t.v.times(w))
		// Lambert's law: even over the disc below the hemisphere.
		radius := math.Sqrt(x[1])
		sin, cos := math.Sincos(2 * math.Pi * x[2])
		along := turned(t, radius*cos, radius*sin, math.Sqrt(1-x[1]))
		if c.flat {
			along[2] = 0
		}
		if hit := c.tree.first(from, along); hit >= 0 {
			received[c.patch[hit]] += each
		} else {
			open += each
		}
	}
	return open
}

// turned is a direction given beside the normal of a triangle.
func turned(t *triangle, x, y, z float64) vector {
	e := t.u.times(1 / t.u.length())
	f := t.n.cross(e)
	return e.times(x).plus(f.times(y)).plus(t.n.times(z))
}

// correct makes exchange areas symmetric and lets them add up to the areas, by the
// scaling of rows and columns alike that does so (R. Sinkhorn and P. Knopp, Pacific
// Journal of Mathematics 21 (1967) 343).
func (v *Views) correct() {
	n := v.Count()
	var squares float64
	for i := range n {
		off := 0.0
		for j := range i {
			a, b := v.Exchange[i*n+j], v.Exchange[j*n+i]
			off += math.Abs(a - b)
			v.Exchange[i*n+j], v.Exchange[j*n+i] = (a+b)/2, (a+b)/2
		}
		squares += off * off / (v.Area[i] * v.Area[i])
	}
	v.Reciprocity = math.Sqrt(squares / float64(max(n, 1)))
	scale := make([]float64, n)
	for i := range scale {
		scale[i] = 1
	}
	sums := make([]float64, n)
	for round := range 200 {
		parallel.For(n, 64, func(_, lo, hi int) {
			for i := lo; i < hi; i++ {
				sum := v.Open[i]
				for j, s := range v.Exchange[i*n : (i+1)*n] {
					sum += s * scale[j]
				}
				sums[i] = sum * scale[i]
			}
		})
		worst, square := 0.0, 0.0
		for i, s := range sums {
			d := s/v.Area[i] - 1
			worst, square = max(worst, math.Abs(d)), square+d*d
			if s > 0 {
				scale[i] *= math.Sqrt(v.Area[i] / s)
			}
		}
		if round == 0 {
			v.Closure = math.Sqrt(square / float64(max(n, 1)))
		}
		if worst < 1e-14 {
			break
		}
	}
	for i := range n {
		v.Open[i] *= scale[i]
		left := v.Area[i] - v.Open[i]
		for j := range n {
			v.Exchange[i*n+j] *= scale[i] * scale[j]
			left -= v.Exchange[i*n+j]
		}
		// The scaling converges slowly where patches see few others. What is left is a
		// tiny part that a patch gives back to itself.
		v.Exchange[i*n+i] += left
	}
}
