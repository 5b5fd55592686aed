// Package solid reads bodies given by triangles, from STL files, mends what small gaps
// allow, and finds the stacks of extrusions among them.
//
// Triangles turn left seen from outside. A body is a closed surface: every edge belongs to
// two triangles, one each way. Lengths are metres.
package solid

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/shape"
)

// Body is a closed surface with its name in the file.
type Body struct {
	Name string
	shape.Surface
}

// Import is the bodies of a file with what was mended or is wrong.
type Import struct {
	Bodies []Body
	Report []string
}

// weld is the distance, relative to the size of all bodies, below which corners are one,
// and widest the gap that is closed where surfaces are open.
const (
	weld   = 1e-7
	widest = 1e-3
)

// maxShells bounds how many separate surfaces a file may have.
const maxShells = 2000

// maxTriangles bounds what is read.
const maxTriangles = 400_000

// build makes bodies of loose triangles, three corners each.
func build(name string, corners [][3]float64) (*Import, error) {
	if len(corners) == 0 {
		return nil, fmt.Errorf("there are no triangles in it")
	}
	if len(corners) > 3*maxTriangles {
		return nil, fmt.Errorf("it has %d triangles; %d are read at most", len(corners)/3, maxTriangles)
	}
	lo, hi := corners[0], corners[0]
	for _, p := range corners {
		for k := range p {
			if math.IsNaN(p[k]) || math.IsInf(p[k], 0) {
				return nil, fmt.Errorf("a corner is not a number")
			}
			lo[k], hi[k] = min(lo[k], p[k]), max(hi[k], p[k])
		}
	}
	size := math.Sqrt((hi[0]-lo[0])*(hi[0]-lo[0]) + (hi[1]-lo[1])*(hi[1]-lo[1]) + (hi[2]-lo[2])*(hi[2]-lo[2]))
	out := &Import{}
	s := joined(corners, weld*size)
	if n := len(corners)/3 - len(s.Triangles); n > 0 {
		out.say("%d triangles without area were left out", n)
	}
	if open := openEdges(s); len(open) > 0 {
		// Wider and wider gaps, while that closes something.
		for gap := 10 * weld; gap <= widest; gap *= 10 {
			wider := joined(corners, gap*size)
			left := openEdges(wider)
			if len(left) < len(open) {
				s, open = wider, left
				out.say("corners up to %.2g mm apart were joined", 1e3*gap*size)
			}
			if len(open) == 0 {
				break
			}
		}
		if n := fillHoles(s); n > 0 {
			out.say("%d small holes were closed", n)
		}
	}
	if left := openEdges(s); len(left) > 0 {
		a := s.Points[left[0][0]]
		return nil, fmt.Errorf("the surface of %s is open: %d edges have a triangle on one side only, such as at %.4g, %.4g, %.4g mm; close it where it was made", name, len(left), 1e3*a[0], 1e3*a[1], 1e3*a[2])
	}
	bodies, err := shells(s)
	if err != nil {
		return nil, err
	}
	for i, b := range bodies {
		body := Body{Name: name, Surface: *b}
		if i > 0 {
			body.Name = fmt.Sprintf("%s %d", name, i+1)
		}
		out.Bodies = append(out.Bodies, body)
	}
	return out, nil
}

func (m *Import) say(format string, args ...any) {
	if text := fmt.Sprintf(format, args...); !slices.Contains(m.Report, text) {
		m.Report = append(m.Report, text)
	}
}

// joined makes corners that are near one point.
func joined(corners [][3]float64, tolerance float64) *shape.Surface {
	s := &shape.Surface{}
	cells := map[[3]int64][]int32{}
	at := func(p [3]float64) int32 {
		var c [3]int64
		for k := range p {
			c[k] = int64(math.Floor(p[k] / (2 * tolerance)))
		}
		for dx := int64(-1); dx <= 1; dx++ {
			for dy := int64(-1); dy <= 1; dy++ {
				for dz := int64(-1); dz <= 1; dz++ {
					for _, v := range cells[[3]int64{c[0] + dx, c[1] + dy, c[2] + dz}] {
						q := s.Points[v]
						if (q[0]-p[0])*(q[0]-p[0])+(q[1]-p[1])*(q[1]-p[1])+(q[2]-p[2])*(q[2]-p[2]) <= tolerance*tolerance {
							return v
						}
					}
				}
			}
		}
		v := int32(len(s.Points))
		s.Points = append(s.Points, p)
		cells[c] = append(cells[c], v)
		return v
	}
	for i := 0; i+2 < len(corners); i += 3 {
		t := [3]int32{at(corners[i]), at(corners[i+1]), at(corners[i+2])}
		if t[0] != t[1] && t[1] != t[2] && t[2] != t[0] {
			s.Triangles = append(s.Triangles, t)
		}
	}
	return s
}

// openEdges lists the directed edges that have no partner, in the order of triangles.
func openEdges(s *shape.Surface) [][2]int32 {
	count := map[[2]int32]int{}
	for _, t := range s.Triangles {
		for i := range t {
			count[[2]int32{t[i], t[(i+1)%3]}]++
		}
	}
	var list [][2]int32
	for _, t := range s.Triangles {
		for i := range t {
			e := [2]int32{t[i], t[(i+1)%3]}
			if count[e] > count[[2]int32{e[1], e[0]}] {
				list = append(list, e)
			}
		}
	}
	return list
}

// smallHole is how many edges a hole has at most that is closed.
const smallHole = 16

// fillHoles closes small loops of open edges by fans.
func fillHoles(s *shape.Surface) (filled int) {
	next := map[int32]int32{}
	for _, e := range openEdges(s) {
		next[e[1]] = e[0] // the other way round
	}
	var starts []int32
	for v := range next {
		starts = append(starts, v)
	}
	slices.Sort(starts)
	for _, start := range starts {
		var loop []int32
		v := start
		for len(loop) <= smallHole {
			to, ok := next[v]
			if !ok {
				break
			}
			loop = append(loop, v)
			if v = to; v == start {
				break
			}
		}
		if len(loop) < 3 || len(loop) > smallHole || v != start {
			continue
		}
		for k := 2; k < len(loop); k++ {
			s.Triangles = append(s.Triangles, [3]int32{loop[0], loop[k-1], loop[k]})
		}
		for _, u := range loop {
			delete(next, u)
		}
		filled++
	}
	return filled
}

// shells parts a surface in bodies: triangles that hang together, turned outward, with
// the cavities within them, the largest first.
func shells(s *shape.Surface) ([]*shape.Surface, error) {
	group := make([]int32, len(s.Points))
	for i := range group {
		group[i] = int32(i)
	}
	find := func(v int32) int32 {
		for group[v] != v {
			group[v] = group[group[v]]
			v = group[v]
		}
		return v
	}
	for _, t := range s.Triangles {
		a := find(t[0])
		group[find(t[1])] = a
		group[find(t[2])] = a
	}
	index := map[int32]int{}
	var list []*shape.Surface
	number := make([]int32, len(s.Points))
	for i := range number {
		number[i] = -1
	}
	for _, t := range s.Triangles {
		g := find(t[0])
		k, ok := index[g]
		if !ok {
			k = len(list)
			index[g] = k
			list = append(list, &shape.Surface{})
		}
		b := list[k]
		var own [3]int32
		for i, v := range t {
			if number[v] < 0 {
				number[v] = int32(len(b.Points))
				b.Points = append(b.Points, s.Points[v])
			}
			own[i] = number[v]
		}
		b.Triangles = append(b.Triangles, own)
	}
	if len(list) > maxShells {
		return nil, fmt.Errorf("it has %d separate surfaces; %d are read at most", len(list), maxShells)
	}
	volume := make(map[*shape.Surface]float64, len(list))
	outward := 0.0
	for _, b := range list {
		volume[b] = b.Volume()
		outward += volume[b]
	}
	slices.SortStableFunc(list, func(a, b *shape.Surface) int { return cmp.Compare(math.Abs(volume[b]), math.Abs(volume[a])) })
	var bodies []*shape.Surface
	var boxes [][2][3]float64
	for _, b := range list {
		p := b.Points[b.Triangles[0][0]]
		inside := -1
		for k, o := range bodies {
			lo, hi := boxes[k][0], boxes[k][1]
			if p[0] >= lo[0] && p[0] <= hi[0] && p[1] >= lo[1] && p[1] <= hi[1] && p[2] >= lo[2] && p[2] <= hi[2] && o.Contains(p) {
				inside = k
				break
			}
		}
		switch {
		case inside >= 0 && (volume[b] < 0) == (outward > 0):
			// A cavity of the body around it.
			o := bodies[inside]
			shift := int32(len(o.Points))
			o.Points = append(o.Points, b.Points...)
			for _, t := range b.Triangles {
				if (volume[b] < 0) != (volume[o] > 0) {
					t[1], t[2] = t[2], t[1]
				}
				o.Triangles = append(o.Triangles, [3]int32{t[0] + shift, t[1] + shift, t[2] + shift})
			}
		default:
			if volume[b] < 0 {
				volume[b] = -volume[b]
				for i, t := range b.Triangles {
					b.Triangles[i] = [3]int32{t[0], t[2], t[1]}
				}
			}
			lo, hi := b.Box()
			bodies, boxes = append(bodies, b), append(boxes, [2][3]float64{lo, hi})
		}
	}
	return bodies, nil
}
