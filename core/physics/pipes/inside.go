package pipes

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/physics/convect"
	"saltkettle/core/shape"
)

// Inside is how pipes that lie in other parts exchange heat with these: through the cells that the wall of the channel goes through, over
// which it is spread, with the mean temperature of each.
type inside struct {
	component int // of the temperature of the parts
	bars      map[int][]*cell
	cells     map[[4]int32]*cell
	order     []*cell
	wall      []float64 // temperature, by bar, K
}

// cell is one of a part through which the wall of a channel goes.
type cell struct {
	nodes  []int32
	share  []float64 // of the value at each node in its mean
	volume float64
	// What passes into it is gives − takes·T, W, with its temperature.
	gives, takes float64
}

// Along a bar and round it there are so many places at which it meets cells.
const (
	stationsOfBar = 3
	placesRound   = shape.TubeSides
)

// keyOf tells a cell by its first nodes.
func keyOf(nodes []int32) (key [4]int32) {
	copy(key[:], nodes)
	return key
}

// newInside finds the cells that the walls of pipes go through.
func newInside(d *draft, g *couple.Group, component int) (*inside, error) {
	in := &inside{component: component, bars: map[int][]*cell{}, cells: map[[4]int32]*cell{}, wall: make([]float64, len(d.problem.Bars))}
	var points []float64
	var of []int
	for i := range d.problem.Bars {
		b := &d.problem.Bars[i]
		in.wall[i] = b.Fluid.Temperature
		if b.Wall == nil || !b.Wall.Inside || b.Point >= 0 {
			continue
		}
		from, to := d.Mesh.At(b.Nodes[0]), d.Mesh.At(b.Nodes[1])
		var forward, x [3]float64
		for k := range forward {
			forward[k] = (to[k] - from[k]) / shape.Apart(from, to)
		}
		for n := range stationsOfBar {
			for k := range x {
				x[k] = from[k] + (to[k]-from[k])*(float64(n)+0.5)/stationsOfBar
			}
			ring, _ := shape.Hoop(x, forward, [3]float64{}, b.Diameter/2)
			for _, at := range ring {
				points, of = append(points, at[:]...), append(of, i)
			}
		}
	}
	grid := g.Grid()
	for n, at := range grid.Locate(points, fem.OnSide) {
		b := &d.problem.Bars[of[n]]
		if at.Cell < 0 || grid.Blocks[at.Block].Element.Dimension < 3 || !g.Lives(g.System.FieldAt(component), grid.Blocks[at.Block].Part[at.Cell]) {
			return nil, frame.Wrong("conditions/"+b.Wall.Key, "let it run within parts that heat goes through, or make it narrower", "the wall of the %s reaches beyond the parts in which it lies, at %.4g, %.4g, %.4g m",
				d.BodyName(b.Body), points[3*n], points[3*n+1], points[3*n+2])
		}
		nodes := grid.Blocks[at.Block].Nodes(at.Cell)
		c := in.cells[keyOf(nodes)]
		if c == nil {
			c = &cell{nodes: nodes, share: make([]float64, len(nodes))}
			in.cells[keyOf(nodes)] = c
			in.order = append(in.order, c)
		}
		in.bars[of[n]] = append(in.bars[of[n]], c)
	}
	return in, g.System.EachCell(&fem.State{U: make([]float64, g.System.N)}, nil, func(points []fem.Point, weights []float64) error {
		for q := range points {
			if c := in.cells[keyOf(points[q].Nodes)]; c != nil {
				c.volume += weights[q]
				for i, f := range points[q].Functions {
					c.share[i] += weights[q] * f
				}
			}
		}
		return nil
	})
}

// mean is the temperature of a cell at a state.
func (c *cell) mean(value func(node int32) float64) (sum float64) {
	for i, v := range c.nodes {
		sum += c.share[i] / c.volume * value(v)
	}
	return sum
}

// Survey finds how warm what is round the pipes is, which is given as these are solved for.
func (k *Kernel) Survey(s *fem.System, at *fem.State) error {
	in := k.inside
	if in == nil {
		return nil
	}
	f := s.FieldAt(in.component)
	if f >= len(at.Given) || at.Given[f] == nil {
		return nil
	}
	for i, cells := range in.bars {
		in.wall[i] = 0
		for _, c := range cells {
			in.wall[i] += c.mean(func(node int32) float64 { return at.Given[f][node] }) / float64(len(cells))
		}
	}
	return nil
}

// Onlook finds what passes into the cells round the pipes, as these are given.
func (k *Kernel) Onlook(s *fem.System, at *fem.State) error {
	in := k.inside
	if in == nil {
		return nil
	}
	for _, c := range in.order {
		c.gives, c.takes = 0, 0
	}
	field := s.FieldAt(k.p)
	if field+1 >= len(at.Given) || at.Given[field] == nil {
		return nil
	}
	own := k.Fork().(*Kernel)
	for i := range k.problem.Bars {
		cells := in.bars[i]
		if len(cells) == 0 {
			continue
		}
		b := own.sliceOf(i, func(offset int, node int32) float64 { return at.Given[field+offset][node] }, &fem.Point{Time: at.Time})
		coefficient, _ := own.around(&b, &fem.Point{Time: at.Time})
		_, by := b.warmth(b.mass, coefficient)
		warm := b.a
		if b.mass < 0 {
			warm = b.b
		}
		for _, c := range cells {
			c.gives += by * warm / float64(len(cells))
			c.takes += by / float64(len(cells))
		}
	}
	return nil
}

// duct is the coefficient of a flow through a pipe as long as its line, W/(m²·K).
func (s *slice) duct(long float64) float64 {
	if s.mass == 0 {
		return 3.66 * s.Fluid.Conductivity / s.Diameter
	}
	constant := func(v float64) func(float64) float64 { return func(float64) float64 { return v } }
	fluid := &convect.Fluid{Conductivity: constant(s.Fluid.Conductivity), Density: constant(s.Fluid.Density), Capacity: constant(s.Fluid.Capacity), Viscosity: constant(s.set.viscosity)}
	return convect.InDuct(&convect.Case{Fluid: fluid, Bulk: (s.a + s.b) / 2, Surface: (s.a + s.b) / 2, Length: s.Diameter, Second: long, Speed: math.Abs(s.speed())}).Coefficient
}

// SuppliesIn says where heat passes from pipes into parts.
func (k *Kernel) SuppliesIn(quantity string, body int32) (any, varies bool) {
	any = k.inside != nil && quantity == couple.HeatPerVolume && k.problem.Fluids[body] == nil
	return any, any
}

// Supply adds what passes into a cell, over its volume.
func (k *Kernel) Supply(quantity string, p *fem.Point, j *couple.Jet) {
	if quantity != couple.HeatPerVolume || k.inside == nil {
		return
	}
	c := k.inside.cells[keyOf(p.Nodes)]
	if c == nil {
		return
	}
	t := k.inside.component
	j.Value[0] += (c.gives - c.takes*p.U[t]) / c.volume
	j.U[t][0] -= c.takes / c.volume
}

// SuppliesAt says that nothing passes at joints.
func (k *Kernel) SuppliesAt(string, int) (any, varies bool) { return false, false }

// SupplyJoint adds nothing.
func (k *Kernel) SupplyJoint(string, int, *fem.Point, []float64, *couple.JointJet) error { return nil }
