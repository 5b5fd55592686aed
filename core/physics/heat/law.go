package heat

import (
	"fmt"
	"math"
	"sync"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/parallel"
)

// sample is a law at the points of a sampler, with its derivative by the
// temperature.
type sample struct{ value, slope []float64 }

// sampler evaluates laws at points. It serves one goroutine.
type sampler struct {
	laws    []Law
	works   []func(in [][]float64, out, slope []float64)
	samples []sample
	in      [][]float64 // a column for each variable
	polar   bool
	slopes  bool
}

// newSampler makes a sampler for laws, of which none may be nil.
func newSampler(laws []Law, slopes bool) *sampler {
	s := &sampler{laws: laws, samples: make([]sample, len(laws)), in: make([][]float64, len(Variables)), slopes: slopes}
	for _, l := range laws {
		var run func(in [][]float64, out, slope []float64)
		if _, constant := l.Constant(); slopes && !constant {
			w := l.NewWork(0)
			run = func(in [][]float64, out, slope []float64) { w.Run(in, out, slope) }
		} else {
			w := l.NewWork()
			run = func(in [][]float64, out, slope []float64) { w.Run(in, out); clear(slope) }
		}
		s.works = append(s.works, run)
		s.polar = s.polar || l.Uses(4) || l.Uses(5)
	}
	return s
}

func (s *sampler) reset() {
	for v := range s.in {
		s.in[v] = s.in[v][:0]
	}
}

// add appends a point.
func (s *sampler) add(temperature float64, at [3]float64) {
	s.in[0] = append(s.in[0], temperature)
	for r, x := range at {
		s.in[1+r] = append(s.in[1+r], x)
	}
	if s.polar {
		s.in[4] = append(s.in[4], math.Hypot(at[0], at[1]))
		s.in[5] = append(s.in[5], math.Atan2(at[1], at[0]))
	}
}

// run evaluates all laws at the points that were added.
func (s *sampler) run() []sample {
	n := len(s.in[0])
	for i := range s.samples {
		x := &s.samples[i]
		if cap(x.value) < n {
			x.value, x.slope = make([]float64, n), make([]float64, n)
		}
		x.value, x.slope = x.value[:n], x.slope[:n]
		s.works[i](s.in, x.value, x.slope)
	}
	return s.samples
}

// bodyLaws are the laws of one body.
type bodyLaws struct {
	along    [3]Law // none is nil
	value    [3]float64
	cos, sin float64
	varies   bool // the conductivity does
	simple   bool // it is the same number along all axes
	power    float64
	powers   []Law // that vary
}

// laws hold the conductivity and the sources of every body, evaluated at the
// quadrature points of the cells of those bodies where they vary.
type laws struct {
	problem *Problem
	bodies  []bodyLaws
	volume  []float64
	// By quadrature point; empty where no body needs them.
	k, dk [3][]float64
	q, dq []float64
	// Whether a conductivity, or anything, depends on the temperature.
	skew, nonlinear bool
	failed          error
	mu              sync.Mutex
}

func newLaws(p *Problem, volume []float64) *laws {
	l := &laws{problem: p, volume: volume, bodies: make([]bodyLaws, len(volume))}
	points := p.Mesh.CellCount() * fem.Points
	for b := range l.bodies {
		o := &l.bodies[b]
		c := p.Conductivity[b]
		o.cos, o.sin = math.Cos(c.Turn), math.Sin(c.Turn)
		for r, law := range c.Along {
			if law == nil {
				law = o.along[0]
			}
			o.along[r] = law
			v, constant := law.Constant()
			o.value[r] = v
			o.varies = o.varies || !constant
			l.skew = l.skew || law.Uses(0)
		}
		o.simple = !o.varies && o.value[0] == o.value[1] && o.value[0] == o.value[2]
		if o.varies && l.k[0] == nil {
			for r := range l.k {
				l.k[r], l.dk[r] = make([]float64, points), make([]float64, points)
			}
		}
	}
	l.nonlinear = l.skew
	for _, s := range p.Sources {
		var total float64
		for _, b := range s.Bodies {
			total += volume[b]
		}
		density := 0.0
		if s.Total != 0 && total > 0 {
			density = s.Total / total
		}
		constant := true
		if s.Volume != nil {
			var v float64
			if v, constant = s.Volume.Constant(); constant {
				density += v
			} else {
				l.nonlinear = l.nonlinear || s.Volume.Uses(0)
				if l.q == nil {
					l.q, l.dq = make([]float64, points), make([]float64, points)
				}
			}
		}
		for _, b := range s.Bodies {
			l.bodies[b].power += density
			if !constant {
				l.bodies[b].powers = append(l.bodies[b].powers, s.Volume)
			}
		}
	}
	return l
}

// cellBlock is how many cells are evaluated together.
const cellBlock = 64

// eachRun calls f for runs of cells of one body, at most cellBlock long, with
// the points of the cells in a sampler for the laws that pick returns for the
// body; bodies without laws are passed over.
func (l *laws) eachRun(t []float64, slopes bool, pick func(b *bodyLaws) []Law, f func(lo, hi int, s []sample)) {
	m := l.problem.Mesh
	parallel.For(m.CellCount(), 4*cellBlock, func(_, from, to int) {
		samplers := make([]*sampler, len(l.bodies))
		for lo := from; lo < to; {
			body := m.Body[lo]
			hi := lo + 1
			for hi < min(to, lo+cellBlock) && m.Body[hi] == body {
				hi++
			}
			s := samplers[body]
			if s == nil {
				s = newSampler(pick(&l.bodies[body]), slopes)
				samplers[body] = s
			}
			if len(s.laws) > 0 {
				s.reset()
				for c := lo; c < hi; c++ {
					addPoints(s, m, c, t)
				}
				f(lo, hi, s.run())
			}
			lo = hi
		}
	})
}

// addPoints adds the quadrature points of a cell to a sampler.
func addPoints(s *sampler, m *mesh.Mesh, cell int, t []float64) {
	nodes := m.Cells[mesh.WedgeNodes*cell : mesh.WedgeNodes*cell+6]
	for q := range fem.Points {
		var temperature float64
		var at [3]float64
		for i, n := range fem.WedgeShape(q) {
			v := nodes[i]
			temperature += n * t[v]
			for r := range 3 {
				at[r] += n * m.Nodes[3*int(v)+r]
			}
		}
		s.add(temperature, at)
	}
}

// evaluate brings the coefficients to the temperatures at the nodes.
func (l *laws) evaluate(t []float64) error {
	l.failed = nil
	if l.k[0] != nil {
		l.eachRun(t, true, func(b *bodyLaws) []Law {
			if b.varies {
				return b.along[:]
			}
			return nil
		}, func(lo, hi int, s []sample) {
			for r := range s {
				l.check(lo, "conductivity", s[r].value, 0)
				copy(l.k[r][lo*fem.Points:], s[r].value)
				copy(l.dk[r][lo*fem.Points:], s[r].slope)
			}
		})
	}
	if l.q != nil {
		l.eachRun(t, true, func(b *bodyLaws) []Law { return b.powers }, func(lo, hi int, s []sample) {
			q, dq := l.q[lo*fem.Points:hi*fem.Points], l.dq[lo*fem.Points:hi*fem.Points]
			clear(q)
			clear(dq)
			for r := range s {
				l.check(lo, "heat released per volume", s[r].value, math.Inf(-1))
				for i := range q {
					q[i] += s[r].value[i]
					dq[i] += s[r].slope[i]
				}
			}
		})
	}
	return l.failed
}

// LawError says that a law has no usable value somewhere.
type LawError struct {
	Body  int32  // of the mesh; −1 on a surface
	What  string // the quantity
	Value float64
}

func (e *LawError) Error() string {
	if math.IsNaN(e.Value) {
		return fmt.Sprintf("the %s is undefined at the temperatures that occur", e.What)
	}
	return fmt.Sprintf("the %s becomes %.3g", e.What, e.Value)
}

// check notes a value that is not finite or not above a bound.
func (l *laws) check(cell int, what string, values []float64, above float64) {
	for _, v := range values {
		if !(v > above) || math.IsInf(v, 0) {
			l.mu.Lock()
			l.failed = &LawError{l.problem.Mesh.Body[cell], what, v}
			l.mu.Unlock()
			return
		}
	}
}

// tensors returns the conductivity and its derivative at a point of a cell.
func (l *laws) tensors(b *bodyLaws, point int) (k, dk fem.Tensor) {
	if !b.varies {
		return fem.Turned(b.value, b.cos, b.sin), fem.Tensor{}
	}
	return fem.Turned([3]float64{l.k[0][point], l.k[1][point], l.k[2][point]}, b.cos, b.sin),
		fem.Turned([3]float64{l.dk[0][point], l.dk[1][point], l.dk[2][point]}, b.cos, b.sin)
}

// cell computes the tangent of a cell at the temperatures t, and the load that
// makes tangent·T − load the residual there: Newton's method in terms of the new
// temperatures.
func (l *laws) cell(c int, w *fem.Wedge, t []float64, k *[36]float64, f *[6]float64) {
	m := l.problem.Mesh
	b := &l.bodies[m.Body[c]]
	switch {
	case b.simple:
		w.Diffusion(k, b.value[0])
	default:
		l.conduct(c, b, w, t, k, f)
	}
	if len(b.powers) > 0 {
		l.release(c, w, t, k, f)
	}
	if b.power != 0 {
		var load [6]float64
		w.Load(&load)
		for i := range f {
			f[i] += load[i] * b.power
		}
	}
}

// conduct adds conduction that varies or differs along the axes.
func (l *laws) conduct(c int, b *bodyLaws, w *fem.Wedge, t []float64, k *[36]float64, f *[6]float64) {
	nodes := l.problem.Mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
	for q := range fem.Points {
		tensor, slope := l.tensors(b, c*fem.Points+q)
		g := &w.Gradient[q]
		n := fem.WedgeShape(q)
		v := w.Volume[q]
		var gradient [3]float64
		var here float64
		if b.varies {
			for i, node := range nodes {
				here += n[i] * t[node]
				for r := range 3 {
					gradient[r] += g[i][r] * t[node]
				}
			}
			gradient = slope.Times(gradient)
		}
		for i := range 6 {
			kg := tensor.Times(g[i])
			change := v * (g[i][0]*gradient[0] + g[i][1]*gradient[1] + g[i][2]*gradient[2])
			f[i] += change * here
			for j := range 6 {
				k[6*i+j] += v*(kg[0]*g[j][0]+kg[1]*g[j][1]+kg[2]*g[j][2]) + change*n[j]
			}
		}
	}
}

// release adds sources that vary.
func (l *laws) release(c int, w *fem.Wedge, t []float64, k *[36]float64, f *[6]float64) {
	nodes := l.problem.Mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+6]
	for p := range fem.Points {
		n := fem.WedgeShape(p)
		q, dq := l.q[c*fem.Points+p], l.dq[c*fem.Points+p]
		var here float64
		for i, node := range nodes {
			here += n[i] * t[node]
		}
		for i := range 6 {
			x := w.Volume[p] * n[i]
			f[i] += x * (q - dq*here)
			for j := range 6 {
				k[6*i+j] -= x * dq * n[j]
			}
		}
	}
}

// totals integrates each source of the problem, W.
func (l *laws) totals(t []float64) ([]float64, error) {
	p := l.problem
	out := make([]float64, len(p.Sources))
	for i, s := range p.Sources {
		out[i] = s.Total
		if s.Volume == nil {
			continue
		}
		on := make([]bool, len(l.bodies))
		var volume float64
		for _, b := range s.Bodies {
			on[b] = true
			volume += l.volume[b]
		}
		if v, constant := s.Volume.Constant(); constant {
			out[i] += v * volume
			continue
		}
		sum, err := fem.Integrate(p.Mesh, on, func(cells []int32, values []float64) {
			at := newSampler([]Law{s.Volume}, false)
			for _, c := range cells {
				addPoints(at, p.Mesh, int(c), t)
			}
			copy(values, at.run()[0].value)
		})
		if err != nil {
			return nil, err
		}
		out[i] += sum
	}
	return out, nil
}
