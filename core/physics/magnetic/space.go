package magnetic

import (
	"saltkettle/core/fem"
	"saltkettle/core/frame"
)

// space has the terms of a problem in space.
type space struct {
	*matter
	wound *wound
	a     int
	open  []bool
}

// newSpace makes them for component a.
func newSpace(m *matter, a int, open []bool) *space {
	return &space{m, newWound(m.problem.Windings), a, open}
}

// Fork returns a kernel with work memory of its own.
func (k *space) Fork() fem.Kernel { return newSpace(k.fork(), k.a, k.open) }

func (k *space) stuff() *matter { return k.matter }

// Prepare evaluates all laws at some points of a body.
func (k *space) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		return nil
	}
	if err := k.wound.prepare(points); err != nil {
		return err
	}
	return k.matter.Prepare(side, points)
}

// slope is the field strength at prepared point q.
func (k *space) slope(p *fem.Point, q int) (h vector) {
	for i, g := range p.Grad[k.a] {
		h[i] = -g
	}
	h[2] += k.wound.strength(p, q)
	return h
}

func (k *space) state(p *fem.Point, q int) (b, h vector, energy float64) {
	h = k.slope(p, q)
	b, _, energy = k.induced(p, q, h)
	return b, h, energy
}

// Cell adds the flux, which comes from nowhere.
func (k *space) Cell(p *fem.Point, t *fem.Terms) error {
	h := k.slope(p, p.Number)
	b, d, _ := k.induced(p, p.Number, h)
	aa := t.Index(k.a, k.a)
	if k.varies {
		north, relative, _ := k.warmth(p, p.Number)
		for i := range b {
			t.FluxU[t.Index(k.a, k.t)][i] -= relative*Vacuum*k.relative(p.Number)*h[i] + north[i]
		}
	}
	for i := range b {
		t.Flux[k.a][i] -= b[i]
		for j := range b {
			t.FluxGrad[aa][i][j] += d[i][j]
		}
	}
	return nil
}

// Side adds that beyond an open side the field is that of a dipole in the middle, of which the potential falls off with the square
// of the distance.
func (k *space) Side(number int, p *fem.Point, t *fem.Terms) error {
	if !k.open[number] {
		return nil
	}
	by := 2 * Vacuum * k.problem.falls(p)
	t.Source[k.a] += by * p.U[k.a]
	t.SourceU[t.Index(k.a, k.a)] += by
	return nil
}

// Derive computes the derived quantities.
func (k *space) Derive(points []fem.Point, out [][]float64) error { return derive(k, points, out) }

func (k *space) through(*fem.Point) float64 { return 0 }

func (k *space) heat(*fem.Point, int) float64 { return 0 }

func (k *space) parts() []part { return []part{{k, 1}} }

// linked is the flux that the turns of the coils among the bodies that a reading is of hold at a state, Wb: that along T for an ampere.
func (k *space) linked(r *frame.Reading, state *fem.State) (sum float64, err error) {
	mine := false
	for _, w := range k.wound.windings {
		mine = mine || r.Region.Bodies[w.Body]
	}
	if !mine {
		return 0, errNoTurns
	}
	err = r.Solution.System.EachCell(state, r.Solution.Fields[r.Field].Bodies, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p := &points[q]
			if t := k.wound.ampere(p, q, r.Region.Bodies); t != 0 {
				b, _, _ := k.state(p, q)
				sum += w * b[2] * t
			}
		}
		return nil
	})
	return sum, err
}
