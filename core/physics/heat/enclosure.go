package heat

import (
	"errors"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/parallel"
	"saltkettle/core/physics/radiation"
)

// Enclosure is the exchange of radiation between facets, which see each other and,
// where nothing is in the way, surroundings.
type Enclosure struct {
	// Facets with the number of their emissivity.
	Facets []int32
	Of     []int32
	// Emissivity laws, and the temperature of the surroundings, K.
	Emissivity   []Law
	Surroundings Law
	// Views of the facets, in their order.
	Views *radiation.Views
}

// enclosed is an enclosure in a state.
type enclosed struct {
	*Enclosure
	t      int     // component of the temperature
	field  int     // its number
	sides  []int32 // of the group, by facet
	patch  []int32 // by side of the group
	around *law.Set

	exchange *radiation.Exchange
	// By patch: mean emissivity, power emitted and irradiation, W/m².
	mean, emits, arrives []float64
	outside              float64 // what the surroundings emit, W/m²
	// What links a facet to the unknowns at its nodes.
	links []link
	work  [2][]float64 // by patch
}

// link is a facet with its unknowns: what its patch emits more per kelvin at each, and
// the area with which each takes part in what arrives.
type link struct {
	patch       int32
	eqs         []int32
	gain, share []float64
	// Its parts of the mean emissivity and of the power of the patch.
	mean, emits float64
}

// newEnclosed prepares an enclosure whose facets are sides of a group.
func newEnclosed(g *couple.Group, e *Enclosure, t int) *enclosed {
	n := e.Views.Count()
	x := &enclosed{Enclosure: e, t: t, field: g.System.FieldAt(t), patch: make([]int32, len(g.Facets)), around: law.NewSet(e.Surroundings)}
	for i := range x.work {
		x.work[i] = make([]float64, n)
	}
	x.mean, x.emits, x.arrives = make([]float64, n), make([]float64, n), make([]float64, n)
	side := g.SideOf()
	for i, f := range e.Facets {
		x.sides = append(x.sides, int32(side[f]))
		x.patch[side[f]] = e.Views.Patch[i]
	}
	x.links = make([]link, len(e.Facets))
	return x
}

// survey finds what arrives at all patches in a state.
func (x *enclosed) survey(s *fem.System, at *fem.State) error {
	x.around.Run([]fem.Point{{Time: at.Time}}, -1)
	if err := x.around.Check(0, -1, "temperature of the surroundings", 0, true); err != nil {
		return err
	}
	x.outside = emissive(x.around.At(0, 0))
	errs := make([]error, parallel.Workers())
	parallel.For(len(x.sides), 256, func(worker, lo, hi int) {
		sets := make([]*law.Set, len(x.Emissivity))
		for i, l := range x.Emissivity {
			sets[i] = law.NewSet(l)
		}
		errs[worker] = s.EachFace(at, x.sides[lo:hi], x.field, func(i int, points []fem.Point, weights []float64, eqs []int32, functions [][]float64) error {
			return x.tie(lo+i, sets[x.Of[lo+i]], points, weights, eqs, functions)
		})
	})
	if err := errors.Join(errs...); err != nil {
		return err
	}
	// One after the other, so that sums do not depend on the number of cores.
	clear(x.mean)
	clear(x.emits)
	for i := range x.links {
		l := &x.links[i]
		x.mean[l.patch] += l.mean
		x.emits[l.patch] += l.emits
	}
	if x.exchange == nil || !x.exchange.Fits(x.mean) {
		x.exchange = radiation.NewExchange(x.Views, x.mean)
	}
	x.exchange.Irradiation(x.arrives, x.emits, x.outside)
	return nil
}

// tie links a facet to its unknowns.
func (x *enclosed) tie(facet int, set *law.Set, points []fem.Point, weights []float64, eqs []int32, functions [][]float64) error {
	set.Run(points, x.t)
	if err := set.Check(0, -1, "emissivity", 0, true); err != nil {
		return err
	}
	l := &x.links[facet]
	l.patch, l.mean, l.emits = x.Views.Patch[facet], 0, 0
	l.eqs, l.gain, l.share = append(l.eqs[:0], eqs...), l.gain[:0], l.share[:0]
	for range eqs {
		l.gain, l.share = append(l.gain, 0), append(l.share, 0)
	}
	area := x.Views.Area[l.patch]
	for q, w := range weights {
		t, eps, slope := points[q].U[x.t], set.At(0, q), set.Slope(0, q)
		l.mean += w / area * eps
		l.emits += w / area * eps * emissive(t)
		gain := eps*4*Boltzmann*t*t*t + slope*emissive(t)
		for k, f := range functions[q][:len(eqs)] {
			l.gain[k] += w / area * gain * f
			l.share[k] += w * eps * f
		}
	}
	return nil
}

// addDistant adds to dst what other places receive less or more by a change of the
// unknowns. Emissivities are taken as they are.
func (x *enclosed) addDistant(dst, change []float64) {
	e, h := x.work[0], x.work[1]
	clear(e)
	for i := range x.links {
		l := &x.links[i]
		for k, eq := range l.eqs {
			e[l.patch] += l.gain[k] * change[eq]
		}
	}
	x.exchange.Irradiation(h, e, 0)
	for i := range x.links {
		l := &x.links[i]
		for k, eq := range l.eqs {
			dst[eq] -= l.share[k] * h[l.patch]
		}
	}
}

// emissive is the power that a black surface emits per area, W/m².
func emissive(t float64) float64 { return Boltzmann * t * t * t * t }

// exchanged is what leaves a facet of an enclosure.
func exchanged(c *condition, s *law.Set, side, q int, _ *fem.Point, t float64) (flux, slope float64) {
	eps, arrives := s.At(0, q), c.enclosed.arrives[c.enclosed.patch[side]]
	net := emissive(t) - arrives
	return eps * net, eps*4*Boltzmann*t*t*t + s.Slope(0, q)*net
}

// Survey finds what arrives by radiation in a state.
func (k *Kernel) Survey(s *fem.System, at *fem.State) error {
	if k.enclosed == nil {
		return nil
	}
	return k.enclosed.survey(s, at)
}

// Distant says that the equations tie places far apart, with what [Kernel.AddDistant]
// adds.
func (k *Kernel) Distant() bool { return k.enclosed != nil }

// AddDistant adds to dst how the residual of the last state that was surveyed changes,
// by what it depends on elsewhere, with a change of the unknowns.
func (k *Kernel) AddDistant(dst, change []float64) { k.enclosed.addDistant(dst, change) }
