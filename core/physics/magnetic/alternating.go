package magnetic

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// alternating has the terms of a section in which all alternates with one frequency: the potential is the real part of
// (u + i·v)·exp(iωt), currents of coils are in phase with u, and iron is as permeable as its curve says at the amplitude.
type alternating struct {
	section
	halves [2]*section
}

func newAlternating(m *matter, a int, open []bool) *alternating {
	return &alternating{section{m, a, open, 2, false}, [2]*section{{m, a, open, 2, false}, {m, a + 1, open, 2, true}}}
}

// late is the component of v.
func (k *alternating) late() int { return k.a + 1 }

// Fork returns a kernel with work memory of its own.
func (k *alternating) Fork() fem.Kernel {
	return newAlternating(k.fork(), k.a, k.open)
}

// Symmetric says that the matrix is not: each of the two drives the other, with another sign.
func (k *alternating) Symmetric() bool { return false }

// Descends says that they are those of no energy.
func (k *alternating) Descends() bool { return false }

// parts are the two halves of a swing, each of which has half a share of means.
func (k *alternating) parts() []part { return []part{{k.halves[0], 0.5}, {k.halves[1], 0.5}} }

// permeance is H over B at prepared point q for a field with two parts, with its derivative by half the square of B.
func (k *alternating) permeance(q int, square float64) (nu, slope float64) {
	if b := k.body; b != nil && b.Iron != nil {
		long := math.Sqrt(square)
		if long == 0 {
			_, nu, _ = b.Iron.Strength(0)
			return nu, 0
		}
		h, steep, _ := b.Iron.Strength(long)
		if k.problem.secant {
			steep = h / long
		}
		return h / long, (steep - h/long) / square
	}
	return 1 / (Vacuum * k.relative(q)), 0
}

// Cell adds the field of both, the currents of coils, and those that each drives in the other.
func (k *alternating) Cell(p *fem.Point, t *fem.Terms) error {
	q, c := p.Number, k.curl(p)
	comps := [2]int{k.a, k.late()}
	var b [2]vector
	var square float64
	for i, comp := range comps {
		b[i] = c.flux(p, comp)
		square += dot(b[i], b[i])
	}
	nu, slope := k.permeance(q, square)
	by := k.squeeze(p.X)
	_, relative, _ := k.warmth(p, q)
	t.Source[k.a] -= c.test * k.density(q)
	for i, row := range comps {
		k.halves[i].drives(p, q, t)
		for m := range c.of {
			h := nu * by[m] * b[i][m]
			t.Source[row] += c.of[m] * h
			for x := range 2 {
				t.Flux[row][x] += c.by[m][x] * h
			}
			if k.varies {
				at := t.Index(row, k.t)
				t.SourceU[at] -= c.of[m] * relative * h
				for x := range 2 {
					t.FluxU[at][x] -= c.by[m][x] * relative * h
				}
			}
			for j, col := range comps {
				at := t.Index(row, col)
				for n := range c.of {
					d := slope * b[i][m] * b[j][n]
					if i == j && m == n {
						d += nu * by[m]
					}
					t.SourceU[at] += c.of[m] * d * c.of[n]
					for x := range 2 {
						t.SourceGrad[at][x] += c.of[m] * d * c.by[n][x]
						t.FluxU[at][x] += c.by[m][x] * d * c.of[n]
						for y := range 2 {
							t.FluxGrad[at][x][y] += c.by[m][x] * d * c.by[n][y]
						}
					}
				}
			}
		}
	}
	return nil
}

// Side adds the open space beyond for both.
func (k *alternating) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, half := range k.halves {
		if err := half.Side(number, p, t); err != nil {
			return err
		}
	}
	return nil
}

// heat is the mean power per volume that currents turn into heat at prepared point q, W/m³.
func (k *alternating) heat(p *fem.Point, q int) (mean float64) {
	for _, half := range k.halves {
		mean += half.warmsBy(p, q) / 2
	}
	return mean
}

// Supply adds that heat, W/m³.
func (k *alternating) Supply(_ string, p *fem.Point, j *couple.Jet) {
	for _, half := range k.halves {
		half.supply(p, j, 0.5)
	}
}

// Derive computes the derived quantities: of fields amplitudes, of their components those that are in phase with the currents of
// coils, of powers and energies means.
func (k *alternating) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for i := range points {
		p, c := &points[i], k.curl(&points[i])
		b, late := c.flux(p, k.a), c.flux(p, k.late())
		square := dot(b, b) + dot(late, late)
		nu, _ := k.permeance(i, square)
		var h, hlate vector
		energy := 0.
		for x, by := range k.squeeze(p.X) {
			h[x], hlate[x] = nu*by*b[x], nu*by*late[x]
			energy += (b[x]*h[x] + late[x]*hlate[x]) / 4
		}
		b, h = k.meant(p.X, b, h)
		late, hlate = k.meant(p.X, late, hlate)
		for x := range b {
			out[x][i], out[4+x][i] = b[x], h[x]
		}
		out[3][i], out[7][i] = math.Sqrt(dot(b, b)+dot(late, late)), math.Sqrt(dot(h, h)+dot(hlate, hlate))
		out[8][i], out[9][i], out[10][i] = k.through(p), energy, k.heat(p, i)
		out[11][i], out[12][i] = 0, 1/(Vacuum*nu)
		out[14][i] = 0
		out[13][i] = out[9][i] // in the mean iron is as permeable as at the amplitude
	}
	return nil
}
