package magnetic

import "saltkettle/core/fem"

// space has the terms of a problem in space without currents.
type space struct {
	*matter
	a    int
	open []bool
}

// Fork returns a kernel with work memory of its own.
func (k *space) Fork() fem.Kernel { return &space{k.fork(), k.a, k.open} }

func (k *space) stuff() *matter { return k.matter }

// slope is the field strength at a point.
func (k *space) slope(p *fem.Point) (h vector) {
	for i, g := range p.Grad[k.a] {
		h[i] = -g
	}
	return h
}

func (k *space) state(p *fem.Point, q int) (b, h vector, energy float64) {
	h = k.slope(p)
	b, _, energy = k.induced(p, q, h)
	return b, h, energy
}

// Cell adds the flux, which comes from nowhere.
func (k *space) Cell(p *fem.Point, t *fem.Terms) error {
	h := k.slope(p)
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
