// Package physics lists the physics that are known.
package physics

import (
	"sync"

	"saltkettle/core/physics/body"
	"saltkettle/core/physics/heat"
	"saltkettle/core/sentence"
)

// Catalog returns all kinds of sentences.
var Catalog = sync.OnceValue(func() *sentence.Catalog {
	return sentence.NewCatalog(heat.Kinds(), body.Kinds())
})
