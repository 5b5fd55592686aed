package solve

import (
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/physics/electric"
)

// samePotential is the difference of potentials, relative to the greatest, that counts as
// none.
const samePotential = 1e-9

// acrossTerminals is the difference of potential between a patch and the other terminals of
// its conductor, V. These must be at one potential.
func (r *run) acrossTerminals(g region) (float64, error) {
	m, err := r.measure(potential, g)
	if err != nil {
		return 0, err
	}
	here := m.Mean()
	mine := map[int32]bool{}
	for _, k := range g.facets {
		mine[k] = true
	}
	conductor := r.conductor(g)
	size := math.Abs(here)
	var others []float64
	var keys []string
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		if c.Kind != electric.KeyVoltage && c.Kind != electric.KeyCurrent && c.Kind != electric.KeyCharge {
			continue
		}
		t := region{bodies: r.bodySet(c.On), facets: r.facets(c.On, c.Definition.Exposed)}
		t.facets = slices.DeleteFunc(t.facets, func(k int32) bool { return mine[k] || !conductor[r.mesh.Facets[k].Body] })
		if len(t.facets) == 0 {
			continue
		}
		m, err := r.measure(potential, t)
		if err != nil {
			return 0, err
		}
		others, keys = append(others, m.Mean()), append(keys, c.ID)
		size = max(size, math.Abs(m.Mean()))
	}
	// Those at the potential of the patch are joined with it.
	apart := func(a, b float64) bool { return math.Abs(a-b) > samePotential*size }
	found := math.NaN()
	for i, v := range others {
		switch {
		case !apart(v, here):
		case math.IsNaN(found):
			found = v
		case apart(v, found):
			return 0, fmt.Errorf("its conductor has terminals at more than two potentials (%s among them): say between which two by a formula, such as abs(mean(potential over a.left) - mean(potential over b.right))/abs(r2), where r2 is the current through one of them", keys[i])
		}
	}
	if math.IsNaN(found) {
		return 0, errors.New("its conductor has no terminal at another potential")
	}
	return here - found, nil
}

// conductor is the bodies that what is conducted in a region can reach.
func (r *run) conductor(g region) map[int32]bool {
	group := r.posed.group
	field := r.posed.potential
	reached := map[int32]bool{}
	for b := range g.bodies {
		reached[b] = group.Lives(field, b)
	}
	for grown := true; grown; {
		grown = false
		for k := range r.mesh.Facets {
			f := &r.mesh.Facets[k]
			if f.OtherBody >= 0 && reached[f.Body] != reached[f.OtherBody] && group.Lives(field, f.Body) && group.Lives(field, f.OtherBody) {
				reached[f.Body], reached[f.OtherBody], grown = true, true, true
			}
		}
	}
	return reached
}
