package flow

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
)

// A flow that repeats is solved for on one of many lengths that are alike: the velocity and what is left of the pressure
// without its even fall are the same at both ends, and the fall pushes the fluid everywhere alike (S. V. Patankar,
// C. H. Liu and E. M. Sparrow, J. Heat Transfer 99 (1977) 180).

// again is such a flow in a state.
type again struct {
	*Repeat
	drop float64    // Pa
	push [3]float64 // N/m³
	// Of a flow that is said by its volume: what leaves through the facets with each unknown, m², and what an even push
	// of 1 N/m³ adds to each equation, m³. Drop is stiff times what is missing of the volume, Pa·s/m³.
	lets   map[int32]float64
	pushed []float64
	stiff  float64
}

// newAgain prepares one.
func newAgain(r *Repeat) *again {
	if r == nil {
		return nil
	}
	a := &again{Repeat: r}
	a.drive(r.Drop)
	return a
}

// drive sets the pressure that is lost.
func (a *again) drive(drop float64) {
	a.drop = drop
	square := a.Along[0]*a.Along[0] + a.Along[1]*a.Along[1] + a.Along[2]*a.Along[2]
	for i, way := range a.Along {
		a.push[i] = drop * way / square
	}
}

// exactVolume is how exactly the volume of a flow that repeats is what was said, by the friction that it has without eddies; with
// them, which hold it more, exactWithEddies. Much more would cost figures of the pressure.
const (
	exactVolume     = 3e-9
	exactWithEddies = 1e-8
)

// surveyAgain finds the pressure that it takes to move the volume that was said.
func (k *Kernel) surveyAgain(s *fem.System, at *fem.State) error {
	a := k.again
	if a == nil || !a.ByVolume {
		return nil
	}
	if a.lets == nil {
		if err := k.prepareAgain(s, at); err != nil {
			return err
		}
	}
	volume := 0.0
	for e, area := range a.lets {
		volume -= area * at.U[e]
	}
	a.drive(a.stiff * (a.Volume - volume))
	return nil
}

// evenly pushes all that flows along a way.
type evenly struct{ *Kernel }

// Fork makes one with its own work memory.
func (k evenly) Fork() fem.Kernel { return evenly{k.Kernel.Fork().(*Kernel)} }

// Survey looks at nothing.
func (evenly) Survey(*fem.System, *fem.State) error { return nil }

// Cell adds the push.
func (k evenly) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	square := 0.0
	for _, way := range k.again.Along {
		square += way * way
	}
	for i := range k.n {
		t.Source[k.u+i] = k.again.Along[i] / square
	}
	return nil
}

// Side adds nothing.
func (evenly) Side(int, *fem.Point, *fem.Terms) error { return nil }

// prepareAgain finds what the unknowns let through and what a pressure of 1 Pa pushes.
func (k *Kernel) prepareAgain(s *fem.System, at *fem.State) error {
	a := k.again
	lets, err := k.letting(s, a.Facets)
	if err != nil {
		return err
	}
	a.lets, a.pushed = lets, make([]float64, s.N)
	if err := s.Assemble(evenly{k}, &fem.State{U: at.U, Given: at.Given, Time: at.Time}, a.pushed, nil); err != nil {
		return err
	}
	// As stiff as makes the volume exact where friction between the ends takes what it does in a channel as wide as the
	// facets are long.
	area, length := 0.0, 0.0
	for _, f := range a.Facets {
		area += k.group.Area[f]
	}
	for _, way := range a.Along {
		length += way * way
	}
	exact := exactVolume
	if k.problem.Turbulent {
		exact = exactWithEddies
	}
	a.stiff = 12 * a.Viscosity * math.Sqrt(length) / (area * area) / exact
	return nil
}

// falls is the part of the pressure that falls evenly, at a place: nothing in the middle of where the fluid comes in.
func (k *Kernel) falls(x [3]float64) (p float64) {
	if k.again == nil {
		return 0
	}
	for i, push := range k.again.push {
		p -= push * (x[i] - k.again.From[i])
	}
	return p
}

// addAgain adds to dst how the residual changes by the push with a change of the unknowns.
func (k *Kernel) addAgain(dst, change []float64) {
	a := k.again
	if a == nil || !a.ByVolume {
		return
	}
	volume := 0.0
	for e, area := range a.lets {
		volume -= area * change[e]
	}
	for e, v := range a.pushed {
		dst[e] += a.stiff * volume * v
	}
}

// repeat takes in a sentence that lets the flow repeat.
func (d *draft) repeat(c *model.ResolvedSentence, facets []int32) {
	r := &Repeat{Facets: facets, Along: [3]float64{said(c, "x"), said(c, "y"), said(c, "z")}, Drop: said(c, "pressure"), Volume: said(c, "flow"), ByVolume: c.Kind == KeyCarries}
	at := "conditions/" + c.ID
	switch {
	case d.problem.Repeat != nil:
		d.Refuse(at, "say it once", "%s: a flow repeats in one way alone", c.ID)
		return
	case r.Along == [3]float64{}:
		d.Refuse(at+"/values/x", "say how far it is to where it leaves", "%s does not say how far the flow goes until it repeats", c.ID)
		return
	}
	corners := map[int32]bool{}
	var points []float64
	for _, k := range facets {
		for _, v := range d.Mesh.Facets[k].Corners() {
			if !corners[v] {
				corners[v] = true
				x := d.Mesh.At(v)
				points = append(points, x[:]...)
			}
		}
	}
	differ := func() {
		d.Refuse(at+"/on", "give both ends the same shape and the same cells: another size of cells, or a size of their own for both", "%s: the cells at the other end do not lie as they do at the %s", c.ID, c.On.Side)
	}
	opposite := map[int32]bool{}
	for _, v := range couple.Partners(points, d.Mesh.Nodes, r.Along) {
		if v < 0 {
			differ()
			return
		}
		opposite[v] = true
	}
	var ends []int32
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		here, beyond := d.fluid[f.Body], f.Other >= 0 && d.fluid[f.OtherBody]
		if here == beyond {
			continue
		}
		all := true
		for _, v := range f.Corners() {
			all = all && opposite[v]
		}
		if all {
			ends = append(ends, int32(k))
			d.spoken[int32(k)], d.passes[int32(k)] = true, true
		}
	}
	if in, out := d.area(facets), d.area(ends); math.Abs(in-out) > 1e-6*in {
		differ() // some of its cells have more corners
		return
	}
	for i := range d.posed.Fields {
		d.posed.Fields[i].Repeats = append(d.posed.Fields[i].Repeats, couple.Repeat{Facets: facets, Shift: r.Along})
	}
	for i, x := range points {
		r.From[i%3] += x / float64(len(points)/3)
	}
	for b := range d.fluid {
		f := d.Part(b).Properties[material.Viscosity]
		r.Viscosity = max(r.Viscosity, f.At(min(max(law.UsualTemperature, f.From), f.To)))
	}
	d.problem.Repeat = r
}
