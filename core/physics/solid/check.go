package solid

import (
	"errors"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

func asLoose(err error, to **couple.LooseError) bool { return errors.As(err, to) }

// onHeld finds forces on the very surface that another sentence holds along them.
func onHeld(r *model.Resolving) {
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if c.Kind != KeyForce && c.Kind != KeySpread {
			continue
		}
		for k := range r.Conditions {
			h := &r.Conditions[k]
			if h.On != c.On || h.Kind != KeyFixed && h.Kind != KeyMoved {
				continue
			}
			for _, axis := range axes {
				if !isZero(c.Laws[axis]) && (h.Kind == KeyFixed || h.Laws[axis] != nil) {
					r.Find(model.Doubtful, "conditions/"+c.ID, "let the surface free along "+axis+", or leave the force out", "%s pushes along %s on a surface that %s holds along %s: what holds it takes that up", c.ID, axis, h.ID, axis)
				}
			}
		}
	}
}

// onHeld warns of forces that act where the surface is held in their direction: they do nothing.
func (d *draft) onHeld() {
	held := map[int32][3]bool{}
	for _, h := range d.posed.Fields[0].Held {
		for _, k := range h.Facets {
			v := held[k]
			v[h.Component] = true
			held[k] = v
		}
	}
	for i := range d.problem.Loads {
		l := &d.problem.Loads[i]
		if l.Kind != Force && l.Kind != Pressure {
			continue
		}
		for axis := range d.problem.Form.components() {
			if l.Kind == Force && isZero(l.Value[axis]) {
				continue
			}
			if said := slices.ContainsFunc(d.Model.Conditions, func(c model.ResolvedSentence) bool {
				return (c.Kind == KeyFixed || c.Kind == KeyMoved) && c.On == d.on[i]
			}); !said && !slices.ContainsFunc(l.Facets, func(k int32) bool { return !held[k][axis] }) {
				d.Warn("%s pushes along %s on a surface that is held along %s: what holds it takes that up", d.keys[i], axes[axis], axes[axis])
			}
		}
	}
}

// Where a small deformation is not small: a turn of this, rad, makes strains of half its square, and a plate that moves by
// this part of its thickness is stretched by that, too.
const (
	largeTurn  = 0.1
	largeMoved = 0.5
)

// check warns of deformation that is not small, and of stress beyond what materials bear.
func (d *draft) check(s *couple.Solution) {
	k := kernelOf(s)
	if k == nil || s.Swing != nil || d.Modal {
		return
	}
	turned, moved := 0.0, 0.0
	most := map[int]float64{} // by part: its greatest part of the yield strength
	n := d.problem.Form.components()
	for body := range d.problem.Bodies {
		yield := d.Part(body).Properties[material.YieldStrength].Program
		thick := d.thickness(s, body)
		var middle [3]float64
		var points [][3]float64
		var content float64
		err := s.System.EachCell(s.State, map[int32]bool{body: true}, func(at []fem.Point, weights []float64) error {
			if err := k.Prepare(-1, at); err != nil {
				return err
			}
			for i := range at {
				p := &at[i]
				var u [3]float64
				copy(u[:], p.U[k.u:k.u+n])
				points = append(points, u)
				content += weights[i]
				for a := range n {
					middle[a] += weights[i] * u[a]
					for b := range a {
						turned = max(turned, math.Abs(p.Grad[k.u+a][b]-p.Grad[k.u+b][a])/2)
					}
				}
				if yield == nil {
					continue
				}
				var m strained
				if err := k.strained(p, i, &m); err != nil {
					return err
				}
				t := law.UsualTemperature
				if k.t >= 0 {
					t = p.U[k.t]
				}
				if v := yield.At(t); v > 0 {
					part := d.Owner[body][0]
					most[part] = max(most[part], vonMises(k.true(&m))/v)
				}
			}
			return nil
		})
		if err != nil || content == 0 {
			return
		}
		for _, u := range points {
			size := 0.0
			for a := range n {
				size += (u[a] - middle[a]/content) * (u[a] - middle[a]/content)
			}
			moved = max(moved, math.Sqrt(size)/thick)
		}
	}
	switch {
	case d.problem.Large:
	case turned > largeTurn:
		d.Warn("the device turns by up to %s, where small deformation is taken: say that it may bend far", quantity.Show(turned, "deg", false, 2))
	case moved > largeMoved:
		d.Warn("the device bends by %.2g of its thickness, where small deformation is taken: what that stretches is left out; say that it may bend far", moved)
	}
	for i := range d.Model.Parts {
		if v := most[i]; v > 1 {
			d.Warn("the stress in the %s reaches %.2g times its yield strength, beyond which it is not elastic", d.Model.Parts[i].Name, v)
		}
	}
}

// thickness is about that of a body, m: twice its volume over its surface.
func (d *draft) thickness(s *couple.Solution, body int32) float64 {
	area := 0.0
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		if f.Body == body || f.Other >= 0 && f.OtherBody == body {
			area += d.Mesh.AreaOf(int32(k))
		}
	}
	volume := s.Volume[body]
	if measure := s.Grid().Measure; measure != nil && area > 0 {
		// Of a flat space the area of its section over its rim.
		volume = 0
		_ = s.System.EachCell(s.State, map[int32]bool{body: true}, func(points []fem.Point, weights []float64) error {
			for i, w := range weights {
				if m := measure(points[i].X); m > 0 {
					volume += w / m
				}
			}
			return nil
		})
	}
	if area == 0 || volume == 0 {
		return math.Inf(1)
	}
	return 2 * volume / area
}

// kernelOf finds the kernel of the solids among those of a solution.
func kernelOf(s *couple.Solution) *Kernel {
	for _, k := range fem.Each(s.Kernel) {
		if own, ok := k.(*Kernel); ok {
			return own.Fork().(*Kernel)
		}
	}
	return nil
}

// Angles within a body beyond which stress has no bound, of two free faces or two that are held, and of one that is held beside
// a free one (M. L. Williams, J. Appl. Mech. 19 (1952) 526, for ν = 0.3). What rounds a corner has edges that are a little more
// than straight.
const (
	innerCorner = 215 * math.Pi / 180
	besideHeld  = 65 * math.Pi / 180
)

// unbounded is the power of the distance with which the displacement goes at an edge where stress has no bound, 1 where it has
// one: the least root of sin(λω) = −λ·sin(ω) for two free faces, of sin(λω) = −λ·sin(ω)/κ for two held ones and of
// sin²(λω) = ((κ + 1)² − 4λ²·sin²(ω))/(4κ) for one of each, κ = 3 − 4ν.
func unbounded(angle float64, held int) float64 {
	if held == 1 && angle <= besideHeld || held != 1 && angle <= innerCorner {
		return 1
	}
	const kappa = 1.8
	sin := math.Sin(angle)
	misfit := func(l float64) float64 {
		s := math.Sin(l * angle)
		switch held {
		case 0:
			return s + l*sin
		case 1:
			return s*s - ((kappa+1)*(kappa+1)-4*l*l*sin*sin)/(4*kappa)
		}
		return s + l*sin/kappa
	}
	const least, step = 0.25, 1e-3
	before := misfit(least)
	for l := least + step; l < 1-step/2; l += step {
		now := misfit(l)
		if before*now <= 0 {
			return l
		}
		before = now
	}
	return 1
}
