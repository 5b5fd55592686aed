package material

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
)

// derivation is how a property follows from others.
type derivation struct {
	key   Key
	needs []Key
	// families that it holds for.
	families []string
	// words for what it follows from.
	words string
	// of has the functions that it needs, in their order, and the pressure.
	of func(need []Function, x, pressure float64) float64
}

var gases = []string{"gas"}
var liquids = []string{"liquid"}
var solids = []string{"metal", "light", "copper", "iron", "brick", "glass", "insulation", "plastic", "wood"}

// derivations are tried in their order.
var derivations = []derivation{
	{Density, []Key{MolarMass}, gases, "the molar mass, as an ideal gas", func(n []Function, T, p float64) float64 {
		return p * n[0].At() / (gasConstant * T)
	}},
	{HeatCapacityRatio, []Key{HeatCapacity, MolarMass}, gases, "the heat capacity and the molar mass", func(n []Function, T, _ float64) float64 {
		c := n[0].At(T)
		return c / (c - gasConstant/n[1].At())
	}},
	{SoundSpeed, []Key{HeatCapacityRatio, MolarMass}, gases, "√(γRT/M)", func(n []Function, T, _ float64) float64 {
		return math.Sqrt(n[0].At(T) * gasConstant * T / n[1].At())
	}},
	{VolumetricExpansion, nil, gases, "1/T, as an ideal gas", func(_ []Function, T, _ float64) float64 { return 1 / T }},
	{VolumetricExpansion, []Key{Density}, liquids, "the slope of the density", func(n []Function, T, _ float64) float64 {
		return -n[0].Slope(T) / n[0].At(T)
	}},
	{SoundSpeed, []Key{BulkModulus, Density}, liquids, "√(K/ρ)", func(n []Function, T, _ float64) float64 { return math.Sqrt(n[0].At(T) / n[1].At(T)) }},
	{BulkModulus, []Key{SoundSpeed, Density}, liquids, "ρ·c²", func(n []Function, T, _ float64) float64 { return n[1].At(T) * sq(n[0].At(T)) }},
	{ShearModulus, []Key{YoungsModulus, PoissonRatio}, solids, "E/(2(1 + ν))", func(n []Function, T, _ float64) float64 { return n[0].At(T) / (2 * (1 + n[1].At(T))) }},
	{BulkModulus, []Key{YoungsModulus, PoissonRatio}, solids, "E/(3(1 − 2ν))", func(n []Function, T, _ float64) float64 {
		return n[0].At(T) / (3 * (1 - 2*n[1].At(T)))
	}},
	{SoundSpeed, []Key{YoungsModulus, PoissonRatio, Density}, solids, "E, ν and ρ", func(n []Function, T, _ float64) float64 {
		v := n[1].At(T)
		return math.Sqrt(n[0].At(T) * (1 - v) / ((1 + v) * (1 - 2*v) * n[2].At(T)))
	}},
	{ShearSpeed, []Key{YoungsModulus, PoissonRatio, Density}, solids, "E, ν and ρ", func(n []Function, T, _ float64) float64 {
		return math.Sqrt(n[0].At(T) / (2 * (1 + n[1].At(T)) * n[2].At(T)))
	}},
	{BarSpeed, []Key{YoungsModulus, Density}, solids, "√(E/ρ)", func(n []Function, T, _ float64) float64 { return math.Sqrt(n[0].At(T) / n[1].At(T)) }},
}

// derivation returns how a property that is not given follows from others, nil if it does not.
func (m Material) derivation(k Key) *derivation { return m.derivationBut(k) }

// derivationBut leaves out what would need one of some properties, which are being derived.
func (m Material) derivationBut(k Key, without ...Key) *derivation {
	for i := range derivations {
		r := &derivations[i]
		if r.key != k || !slices.Contains(r.families, m.Family) {
			continue
		}
		if !slices.ContainsFunc(r.needs, func(n Key) bool {
			return slices.Contains(without, n) || !m.Has(n) && m.derivationBut(n, append(without, k)...) == nil
		}) && (k != VolumetricExpansion || r.needs == nil || m.varies(Density)) {
			return r
		}
	}
	return nil
}

// varies says that a property is not one number: only such a density has a slope.
func (m Material) varies(k Key) bool {
	return strings.Contains(m.Properties[k].Value, Temperature.Name)
}

func (m Material) derivedUses(k Key, state string) bool {
	r := m.derivation(k)
	if r == nil {
		return false
	}
	return r.key == Density && state == Pressure.Name || slices.ContainsFunc(r.needs, func(n Key) bool {
		return strings.Contains(m.Properties[n].Value, state) || !m.Has(n) && m.derivedUses(n, state)
	})
}

// derive makes the function of a property that follows from others. It holds where these do.
func (m Material) derive(r *derivation, scope formula.Scope) (Function, error) {
	d, _ := Define(r.key)
	inner, err := m.scope(scope)
	if err != nil {
		return Function{}, err
	}
	pressure, _ := inner.Value(Pressure.Name)
	out := Function{From: math.Inf(-1), To: math.Inf(1), Derived: r.words}
	if m.Family == "gas" {
		out.From = leastGas
	}
	need := make([]Function, len(r.needs))
	for i, k := range r.needs {
		if need[i], err = m.Function(k, scope); err != nil {
			return Function{}, fmt.Errorf("the %s of %s follows from %s: %w", d.Name, m.Name, r.words, err)
		}
		if n, _ := Define(k); !n.Alone {
			out.From, out.To = max(out.From, need[i].From), min(out.To, need[i].To)
		}
	}
	inside := func(T float64) float64 { return min(max(T, out.From), out.To) }
	out.Program = formula.Opaque("from "+r.words, quantity.MustUnit(d.Unit).Dimension, func(T float64) float64 {
		return r.of(need, inside(T), pressure.SI)
	})
	return out, nil
}

// leastGas is down to which temperature a gas is one by the law of ideal gases, K, unless its other
// properties say more.
const leastGas = 100

// slopeStep is the step over which a property is differentiated, K. It is long enough not to
// see single rows of a table, and short against what a density does.
const slopeStep = 1.0

// Slope is the derivative of a property. At the ends of its range it is from inside, for beyond
// them values may be held.
func (f Function) Slope(x float64) float64 {
	h := min(slopeStep, (f.To-f.From)/4)
	switch {
	case x-h < f.From:
		return (4*f.At(x+h) - 3*f.At(x) - f.At(x+2*h)) / (2 * h)
	case x+h > f.To:
		return (3*f.At(x) - 4*f.At(x-h) + f.At(x-2*h)) / (2 * h)
	}
	return (f.At(x+h) - f.At(x-h)) / (2 * h)
}
