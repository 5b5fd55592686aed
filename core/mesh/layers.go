package mesh

import (
	"fmt"
	"math"
	"slices"
)

// levels returns the heights of all nodes: the ends of all spans, the cuts, and as many
// between them as the sizes and the numbers across ask for. From tops and bottoms with
// a size of their own layers grow by the part of their thickness. layerAt is the wanted
// thickness at a height; it may be nil.
func levels(bodies []StackBody, cuts []Cut, growth float64, layerAt func(z float64) float64) []float64 {
	var ends []float64
	var near []vertical
	for _, b := range bodies {
		ends = append(ends, b.Z0, b.Z1)
		for _, side := range []struct {
			name string
			z    float64
		}{{"top", b.Z1}, {"bottom", b.Z0}} {
			if h := b.near(side.name); h > 0 {
				near = append(near, vertical{side.z, h})
			}
		}
	}
	least, most := slices.Min(ends), slices.Max(ends)
	for _, c := range cuts {
		if c.Axis == 2 && c.At > least && c.At < most {
			ends = append(ends, c.At)
		}
	}
	slices.Sort(ends)
	tolerance := mergeTolerance * (ends[len(ends)-1] - ends[0])
	out := ends[:1:1]
	last := ends[0]
	for _, z := range ends[1:] {
		dz := z - last
		if dz <= tolerance {
			continue
		}
		n := 1
		for _, b := range bodies {
			if b.Z0 > last+tolerance || b.Z1 < z-tolerance {
				continue
			}
			n = max(n, int(math.Ceil(dz/b.Size*(1-1e-9))), int(math.Ceil(float64(b.Across)*dz/(b.Z1-b.Z0)*(1-1e-9))))
		}
		out = append(out, between(last, z, n, near, growth, layerAt)...)
		out = append(out, z)
		last = z
	}
	return out
}

// vertical is a wanted thickness of layers at a height.
type vertical struct{ z, size float64 }

// between divides the range from a to b in at least n layers, thinner towards heights
// that ask for it: equal parts of the integral of one over the wanted thickness.
func between(a, b float64, n int, near []vertical, growth float64, layerAt func(z float64) float64) []float64 {
	const samples = 400
	h := make([]float64, samples)
	even := (b - a) / float64(n)
	finer := false
	sum := 0.0
	for i := range h {
		z := a + (b-a)*(float64(i)+0.5)/samples
		h[i] = even
		for _, v := range near {
			if w := v.size + growth*math.Abs(z-v.z); w < h[i] {
				h[i], finer = w, true
			}
		}
		if layerAt != nil {
			if w := layerAt(z); w < h[i] {
				h[i], finer = w, true
			}
		}
		sum += (b - a) / samples / h[i]
	}
	var out []float64
	if !finer {
		for i := 1; i < n; i++ {
			out = append(out, a+(b-a)*float64(i)/float64(n))
		}
		return out
	}
	count := max(n, int(math.Ceil(sum*(1-1e-9))))
	step := sum / float64(count)
	passed := 0.0
	for i := range h {
		part := (b - a) / samples / h[i]
		for passed+part >= step*float64(len(out)+1)*(1-1e-12) && len(out) < count-1 {
			t := (step*float64(len(out)+1) - passed) / part
			out = append(out, a+(b-a)*(float64(i)+min(max(t, 0), 1))/samples)
		}
		passed += part
	}
	return out
}

// labelLayers finds the body of each region in each layer: the last one that covers
// it, or else the last fill.
func (s *stacker) labelLayers() error {
	s.label = make([][]int32, len(s.plan.Members))
	for r, members := range s.plan.Members {
		s.label[r] = make([]int32, len(s.levels)-1)
		gone := s.isCut(s.plan.Inside[r])
		for k := range s.label[r] {
			s.label[r][k] = none
			mid := (s.levels[k] + s.levels[k+1]) / 2
			if gone || s.isCutAt(mid) {
				continue
			}
			for _, fills := range [2]bool{true, false} {
				for _, b := range members {
					if (s.bodies[b].Fill != nil) == fills && s.bodies[b].Z0 < mid && mid < s.bodies[b].Z1 {
						s.label[r][k] = b
					}
				}
			}
		}
	}
	for b := range s.bodies {
		if f := s.bodies[b].Fill; f != nil && f.Reached {
			if err := s.flood(int32(b), f); err != nil {
				return err
			}
		}
	}
	return nil
}

// isCut says whether a place in plan lies beyond a cut, isCutAt whether a height does.
func (s *stacker) isCut(p Point) bool {
	for _, c := range s.cuts {
		if x := [2]float64{p.X, p.Y}; c.Axis < 2 && (x[c.Axis] > c.At) != c.Greater {
			return true
		}
	}
	return false
}

func (s *stacker) isCutAt(z float64) bool {
	for _, c := range s.cuts {
		if c.Axis == 2 && (z > c.At) != c.Greater {
			return true
		}
	}
	return false
}

// UnreachedError says that the place from which a fill spreads lies in nothing that it
// could take.
type UnreachedError struct{ Body int }

func (e *UnreachedError) Error() string {
	return fmt.Sprintf("the place from which body %d fills the empty space is not empty, or lies outside of its outline", e.Body+1)
}

// flood takes from a fill what cannot be reached from its place.
func (s *stacker) flood(body int32, f *Fill) error {
	p := s.plan
	layers := len(s.levels) - 1
	start := none
	for t, tri := range p.Triangles {
		if insideTriangle(Point{f.From[0], f.From[1]}, p.Points[tri[0]], p.Points[tri[1]], p.Points[tri[2]]) {
			start = p.Region[t]
			break
		}
	}
	layer := -1
	for k := range layers {
		if s.levels[k] <= f.From[2] && f.From[2] <= s.levels[k+1] {
			layer = k
			break
		}
	}
	if start == none || layer < 0 || s.label[start][layer] != body {
		return &UnreachedError{int(body)}
	}
	// Regions beside each other, but for those that only a cap parts.
	type pairOf struct{ a, b int32 }
	joined := map[pairOf]bool{}
	for t := range p.Triangles {
		for i, g := range p.Neighbours[t] {
			if g < 0 || p.Region[t] == p.Region[g] || s.capped(p.Segments[t][i], body) {
				continue
			}
			joined[pairOf{p.Region[t], p.Region[g]}] = true
		}
	}
	beside := make([][]int32, len(p.Members))
	for j := range joined {
		beside[j.a] = append(beside[j.a], j.b)
	}
	reached := make([][]bool, len(p.Members))
	for r := range reached {
		reached[r] = make([]bool, layers)
	}
	stack := [][2]int32{{start, int32(layer)}}
	reached[start][layer] = true
	visit := func(r, k int32) {
		if k >= 0 && int(k) < layers && !reached[r][k] && s.label[r][k] == body {
			reached[r][k] = true
			stack = append(stack, [2]int32{r, k})
		}
	}
	for len(stack) > 0 {
		at := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		visit(at[0], at[1]-1)
		visit(at[0], at[1]+1)
		for _, r := range beside[at[0]] {
			visit(r, at[1])
		}
	}
	for r := range s.label {
		for k := range s.label[r] {
			if s.label[r][k] == body && !reached[r][k] {
				s.label[r][k] = none
			}
		}
	}
	return nil
}

// capped says whether a piece belongs to a cap of a body.
func (s *stacker) capped(piece, body int32) bool {
	if piece == none {
		return false
	}
	for _, t := range s.plan.Tags[piece] {
		if t.Body == body && s.bodies[body].Fill.capNamed(s.names[t.Side]) {
			return true
		}
	}
	return false
}

func (f *Fill) capNamed(name string) bool {
	return slices.ContainsFunc(f.Caps, func(c Cap) bool { return c.Name == name })
}

func insideTriangle(p, a, b, c Point) bool {
	side := func(u, w Point) float64 { return (w.X-u.X)*(p.Y-u.Y) - (p.X-u.X)*(w.Y-u.Y) }
	return side(a, b) >= 0 && side(b, c) >= 0 && side(c, a) >= 0
}
