package model

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Bounds of what is computed with: numbers (SI) and lengths (m) beyond them are slips of the pen,
// and round-off would make of a device what nobody has drawn.
const (
	lengthUnit     = "mm"
	largestValue   = 1e60
	largestLength  = 1e7
	smallestLength = 1e-11
)

// need says what a value must be like.
type need struct {
	label       string
	unit        string
	temperature bool // a point on the scale: K and °C are both read as such
	positive    bool
	whole       bool
	optional    bool // empty is zero and no finding
	within      *sentence.Range
	any         bool // of any dimension, which the physics checks
}

// value evaluates a text that stands for one number; ok is false if it is missing
// or wrong.
func (r *resolver) value(place, text string, n need) (float64, bool) {
	p, ok := r.law(place, text, n, 0)
	if p == nil {
		return 0, ok
	}
	v, _ := p.Constant()
	return v, ok
}

// law reads a text that may depend on the place or on fields; nil is zero.
func (r *resolver) law(place, text string, n need, may sentence.Dependence) (*formula.Program, bool) {
	if strings.TrimSpace(text) == "" {
		if !n.optional {
			r.find(Missing, place, "type a value with its unit", "the %s has not been given", n.label)
		}
		return nil, n.optional
	}
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place, "", "the %s %q cannot be read: %v", n.label, text, err)
		return nil, false
	}
	env := r.environment()
	if may != 0 {
		env.Variables = r.out.typed(r.cat.Variables)
	}
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place, "", "the %s %q cannot be computed: %v", n.label, text, err)
		return nil, false
	}
	for i, v := range env.Variables {
		if !p.Uses(i) {
			continue
		}
		needs := sentence.Fields
		switch {
		case slices.Contains(formula.Coordinates, v):
			needs = sentence.Place
		case v.Name == formula.Time.Name, v.Name == formula.Swing.Name:
			needs = sentence.Moment
		case r.number(v.Name) >= 0:
			needs = sentence.Concentrations
		case v.Name == volumeFlow:
			needs = sentence.VolumeFlow
		case v.Name == frequency:
			needs = sentence.Frequency
		}
		if v.Name == formula.Time.Name && !r.doc.Transient() {
			r.find(Wrong, place, "make the run transient, or take the time out", "the %s depends on time, which does not pass in a steady run", n.label)
			return nil, false
		}
		if may&needs == 0 {
			r.find(Wrong, place, "", "the %s cannot depend on %s", n.label, cmp.Or(r.out.named[v.Name], v.Name))
			return nil, false
		}
	}
	si, constant := p.Constant()
	if !constant {
		// Its size is not known before the run; the dimension is.
		n.positive, n.whole, n.within, si = false, false, nil, 1
	}
	return p, n.any || r.fits(place, text, quantity.Value{SI: si, Dimension: p.Dimension, Affine: p.Affine}, n)
}

// volumeFlow is what the pressure of a fan depends on.
const volumeFlow = "volume_flow"

// frequency is what an impedance may depend on.
const frequency = "swing_frequency"

// coordinates are the meanings that names of coordinates have in flat spaces: in an axial
// one the radius is the distance from the axis about which outlines turn, which is x.
var coordinates = map[string]map[string]formula.Meaning{
	Plane: {
		"z": {Why: "nothing differs along z in a plane space: write x, y, r (the distance from the point x = 0, y = 0) or theta"},
	},
	Axial: {
		"r":     {Is: "x"},
		"z":     {Why: "there is no z in an axial space: x or r is the distance from the axis, y the place along it"},
		"theta": {Why: "nothing differs round the axis of an axial space: x or r is the distance from it, y the place along it"},
	},
}

// environment is what formulas know in all places.
func (r *resolver) environment() formula.Environment {
	return formula.Environment{Scope: r.out.Parameters, Definitions: r.out.definitions(), Names: r.out.names(), Elsewhere: func(name string) string {
		if name == formula.Time.Name {
			if r.doc.Transient() {
				return "this value cannot change in time"
			}
			return "time does not pass in a steady run"
		}
		for _, v := range r.cat.Quantities {
			if v.Name == name {
				return fmt.Sprintf("%s differs from place to place; this value cannot", name)
			}
		}
		return ""
	}}
}

// fits checks the dimension and the range of a value.
func (r *resolver) fits(place, text string, v quantity.Value, n need) bool {
	u := quantity.MustUnit(n.unit)
	switch {
	case v.Dimension != u.Dimension && v.Dimension == quantity.None:
		r.find(Wrong, place, "add a unit, for example "+n.unit, "the %s %q has no unit", n.label, text)
		return false
	case v.Dimension != u.Dimension && u.Dimension == quantity.None:
		r.find(Wrong, place, "write a plain number", "the %s %q must be a plain number, not %s", n.label, text, v.Dimension.Name())
		return false
	case v.Dimension != u.Dimension:
		r.find(Wrong, place, "write it in "+n.unit, "the %s %q is %s, where %s is wanted", n.label, text, v.Dimension.Name(), u.Dimension.Name())
		return false
	case v.Affine && !n.temperature && u.Dimension != quantity.None:
		r.find(Wrong, place, "write the difference in K", "the %s %q is a temperature on a scale, where a difference is wanted", n.label, text)
		return false
	case math.IsNaN(v.SI) || math.Abs(v.SI) > largestValue || n.unit == lengthUnit && math.Abs(v.SI) > largestLength:
		r.find(Wrong, place, "check the value and its unit", "the %s %q is larger than anything that can be computed with", n.label, text)
		return false
	case n.positive && n.unit == lengthUnit && v.SI > 0 && v.SI < smallestLength:
		r.find(Wrong, place, "check the value and its unit", "the %s %q is smaller than an atom", n.label, text)
		return false
	case n.temperature && v.SI <= 0:
		r.find(Wrong, place, "", "the %s %q is not above absolute zero", n.label, text)
		return false
	case n.positive && !(v.SI > 0):
		r.find(Wrong, place, "", "the %s must be greater than zero; %q is not", n.label, text)
		return false
	case n.within != nil && !(v.SI >= n.within.Least && v.SI <= n.within.Most):
		r.find(Wrong, place, "", "the %s must lie between %s and %s; %q does not", n.label, quantity.Figures(u.From(n.within.Least, false), 3), quantity.Show(n.within.Most, n.unit, false, 3), text)
		return false
	case n.whole && v.SI != math.Trunc(v.SI):
		r.find(Wrong, place, "", "the %s must be a whole number; %q is not", n.label, text)
		return false
	}
	return true
}
