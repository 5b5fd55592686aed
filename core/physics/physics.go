// Package physics lists the physics that are known.
package physics

import (
	"slices"
	"sync"

	"saltkettle/core/formula"
	"saltkettle/core/physics/body"
	"saltkettle/core/physics/electric"
	"saltkettle/core/physics/heat"
	"saltkettle/core/physics/law"
	"saltkettle/core/sentence"
)

// Quantities are what readings may use, in the order of the inputs of their
// programs: what laws may depend on, then what follows from each physics.
var Quantities = func() []formula.Variable {
	list := append([]formula.Variable{}, law.Variables...)
	list = append(list, heat.Derived...)
	return append(list, electric.Derived...)
}()

// Numbers of the first quantity that follows from each physics.
var (
	FirstOfHeat     = len(law.Variables)
	FirstOfElectric = FirstOfHeat + len(heat.Derived)
)

// Catalog returns all kinds of sentences, and what their values may depend on.
var Catalog = sync.OnceValue(func() *sentence.Catalog {
	c := sentence.NewCatalog(heat.Kinds(), electric.Kinds(), body.Kinds())
	c.Variables, c.Quantities = law.Variables, Quantities
	c.Fields = slices.Concat(heat.Fields, electric.Fields)
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
