// Package physics lists the physics that are known.
package physics

import (
	"sync"

	"saltkettle/core/physics/body"
	"saltkettle/core/physics/heat"
	"saltkettle/core/sentence"
)

// Catalog returns all kinds of sentences, and what their values may depend on.
var Catalog = sync.OnceValue(func() *sentence.Catalog {
	c := sentence.NewCatalog(heat.Kinds(), body.Kinds())
	c.Variables, c.Quantities = heat.Variables, heat.Quantities
	return c
})
