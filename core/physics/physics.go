// Package physics lists the physics that are known.
package physics

import (
	"slices"
	"sync"

	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/physics/acoustic"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/electric"
	"saltkettle/core/physics/film"
	"saltkettle/core/physics/flow"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/magnetic"
	"saltkettle/core/physics/own"
	"saltkettle/core/physics/pipes"
	"saltkettle/core/physics/solid"
	"saltkettle/core/physics/species"
	"saltkettle/core/sentence"
)

// All are the physics in the order in which they are resolved and posed.
var All = []*frame.Physics{&heat.Physics, &electric.Physics, &flow.Physics, &species.Physics, &solid.Physics, &magnetic.Physics, &acoustic.Physics, &film.Physics, &own.Physics, &pipes.Physics}

// Quantities are what readings may use, in the order of the inputs of their
// programs: what laws may depend on, then what follows from each physics.
var Quantities = func() []formula.Variable {
	list := append([]formula.Variable{}, law.Variables...)
	for _, p := range All {
		list = append(list, p.Derived...)
	}
	return list
}()

func init() {
	for _, v := range Quantities {
		formula.AddFields(v.Name)
	}
}

// First is the number of the first quantity that follows from a physics among [Quantities].
func First(p *frame.Physics) int {
	n := len(law.Variables)
	for _, other := range All {
		if other == p {
			break
		}
		n += len(other.Derived)
	}
	return n
}

// Catalog returns all kinds of sentences, what their values may depend on, and the physics.
var Catalog = sync.OnceValue(func() *model.Catalog {
	var kinds [][]sentence.Kind
	var fields []sentence.Field
	c := &model.Catalog{}
	for _, p := range All {
		kinds, fields, c.Physics = append(kinds, p.Kinds), append(fields, p.Plates...), append(c.Physics, p.PhysicsKind)
	}
	c.Catalog = sentence.NewCatalog(append(kinds, body.Kinds())...)
	c.Variables, c.Quantities, c.Fields = law.Variables, Quantities, fields
	slices.SortStableFunc(c.Fields, func(a, b sentence.Field) int {
		switch {
		case a.Derived == b.Derived:
			return 0
		case a.Derived:
			return 1
		}
		return -1
	})
	return c
})
