package magnetic

import (
	"saltkettle/core/frame"
	"saltkettle/core/model"
)

// A shell round a box stands for all space beyond that box: a place in it at the part ξ of the way from the inner face to the
// outer one stands for one at inner + c·ξ/(1 − ξ), along each axis by itself, where c is how far the inner face is from the middle of
// the device, so that what falls off with powers of that distance is a polynomial of ξ. The terms are those of the place that is meant, so
// that energies and fluxes are (F. Henrotte, B. Meys, H. Hedia, P. Dular, W. Legros, IEEE Trans. Magn. 35 (1999) 1494).

// lengths are how many metres a metre along each axis at a place of a shell stands for, and their product.
func lengths(s *frame.Shell, x [3]float64) (by vector, all float64) {
	by = vector{1, 1, 1}
	for i := range s.Axes {
		part, thick, far, in := s.Along(i, x[i])
		if !in {
			continue
		}
		left := 1 - part
		by[i] = far / (thick * left * left)
		if i == 0 && s.Round {
			by[2] = (s.Inner[i][1] + far*(1/left-1)) / x[0]
		}
	}
	return by, by[0] * by[1] * by[2]
}

// squeeze is H over B along each axis at a place, as a part of what it is where nothing is stretched.
func (m *matter) squeeze(x [3]float64) vector {
	if m.body == nil || m.body.Shell == nil {
		return vector{1, 1, 1}
	}
	by, all := lengths(m.body.Shell, x)
	return vector{by[0] * by[0] / all, by[1] * by[1] / all, by[2] * by[2] / all}
}

// meant are flux density and field strength at the place that a place stands for.
func (m *matter) meant(x [3]float64, b, h vector) (vector, vector) {
	if m.body == nil || m.body.Shell == nil {
		return b, h
	}
	by, all := lengths(m.body.Shell, x)
	for i := range b {
		b[i] *= by[i] / all
		h[i] /= by[i]
	}
	return b, h
}

// shell lets bodies stand for all that lies beyond the others.
func (d *draft) shell(c *model.ResolvedSentence) error {
	mine, axes := d.BodySet(c.On), 2
	if d.problem.Solid {
		axes = 3
	}
	wrong := func(fix, format string, args ...any) error {
		return frame.Wrong("conditions/"+c.ID, fix, format, args...)
	}
	words := d.Words(c.On)
	s, fix, fault := d.ShellOf(mine, d.posed.Fields[0].Bodies, axes, d.problem.Round, words)
	if fault != "" {
		return wrong(fix, "%s", fault)
	}
	for body := range mine {
		of := d.problem.Bodies[body]
		if of == nil {
			continue
		}
		if of.Iron != nil || of.Remanence != nil || of.Turns != nil || of.Resistivity != nil || of.Circuit != nil {
			return wrong("let it be of air", "space beyond is empty, and %s is not", words)
		}
		of.Shell = s
	}
	return nil
}

// faraway says that a facet lies where a shell ends.
func (d *draft) faraway(k int32) bool {
	b := d.problem.Bodies[d.Mesh.Facets[k].Body]
	return b != nil && b.Shell != nil && b.Shell.Ends(d.Mesh.Places(k))
}
