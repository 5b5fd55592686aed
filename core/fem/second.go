package fem

// SecondKernel is a kernel that wants the second derivatives of the fields in cells, as
// stabilised methods do whose residual has them.
type SecondKernel interface {
	Kernel
	// Seconds says that it does; then Point.Second is set in cells.
	Seconds() bool
}

// seconds says whether a kernel, or one that it is the sum of, wants second derivatives.
func seconds(k Kernel) bool {
	for _, k := range Each(k) {
		if s, ok := k.(SecondKernel); ok && s.Seconds() {
			return true
		}
	}
	return false
}

// pairs are the second derivatives in their order: xx, yy, zz, xy, yz, zx.
var pairs = [6][2]int{{0, 0}, {1, 1}, {2, 2}, {0, 1}, {1, 2}, {2, 0}}

// Slope is the gradient of a function of the element at a point of a cell, 1/m.
func (p *Point) Slope(function int) (out [3]float64) {
	d, m := &p.slopes[function], &p.Inverse
	for r := range 3 {
		out[r] = d[0]*m[0][r] + d[1]*m[1][r] + d[2]*m[2][r]
	}
	return out
}

// Metric is the tensor G = (∂ξ/∂x)ᵀ·(∂ξ/∂x) of the cell at the point, 1/m², by its
// regular reference cell, see [Element.Regular]: along a direction of
// length one, 2/√(d·G·d) is about the length of the cell.
func (p *Point) Metric() (g [3][3]float64) {
	inverse := p.Inverse
	if a := p.regular; a != nil {
		for i := range 3 {
			for j := range 3 {
				inverse[i][j] = a[i][0]*p.Inverse[0][j] + a[i][1]*p.Inverse[1][j] + a[i][2]*p.Inverse[2][j]
			}
		}
	}
	for i := range 3 {
		for j := range 3 {
			for k := range 3 {
				g[i][j] += inverse[k][i] * inverse[k][j]
			}
		}
	}
	return g
}

// seconds are the second derivatives of the functions of an element in the reference cell.
func (e *Element) seconds(at [3]float64) [][6]float64 {
	n := make([]float64, e.Count())
	up, down := make([][3]float64, e.Count()), make([][3]float64, e.Count())
	out := make([][6]float64, e.Count())
	const h = 0.25 // gradients are of degree 2 at most along each axis: any step is exact
	for l := range e.Dimension {
		p := at
		p[l] = at[l] + h
		e.Shape(p, n, up)
		p[l] = at[l] - h
		e.Shape(p, n, down)
		for k, pair := range pairs {
			if pair[1] != l {
				continue
			}
			for i := range out {
				out[i][k] = (up[i][pair[0]] - down[i][pair[0]]) / (2 * h)
			}
		}
	}
	return out
}

// bend has what second derivatives need at the points of a rule: those of the functions of an
// element and of its corners.
type bend struct{ high, low [][][6]float64 }

func newBend(e, low *Element, rule *Rule) *bend {
	b := &bend{}
	for _, p := range rule.Points {
		b.high, b.low = append(b.high, e.seconds(p)), append(b.low, low.seconds(p))
	}
	return b
}

// place turns the second derivatives of a function from the reference cell, where they are in,
// to space. Where edges are curved or opposite ones not alike, the map bends too: x has second
// derivatives of its own, by which those of the gradient count.
func (c *cell) place(in [6]float64, gradient [3]float64, dd [][6]float64) (out [6]float64) {
	for k := range in {
		for i := range c.at {
			for m, x := range c.at[i] {
				in[k] -= gradient[m] * dd[i][k] * x
			}
		}
	}
	full := [3][3]float64{{in[0], in[3], in[5]}, {in[3], in[1], in[4]}, {in[5], in[4], in[2]}}
	for n, pair := range pairs {
		for k := range 3 {
			for l := range 3 {
				out[n] += full[k][l] * c.inverse[k][pair[0]] * c.inverse[l][pair[1]]
			}
		}
	}
	return out
}

// bendAt sets the second derivatives of all components at a point of a cell.
func (b *batch) bendAt(p *Point, q int) {
	a := b.assembler
	for f, field := range a.Fields {
		dd := b.bend.high[q]
		if a.System.low(f, b.block.Element) {
			dd = b.bend.low[q]
		}
		for comp := a.First[f]; comp < a.First[f]+field.Components; comp++ {
			var in [6]float64
			for i, v := range a.local(comp) {
				for k, d := range dd[i] {
					in[k] += d * v
				}
			}
			p.Second[comp] = b.c.place(in, p.Grad[comp], b.bend.high[q])
		}
	}
}
