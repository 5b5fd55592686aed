// Package species is what is dissolved in little amounts: it is carried along by a flow, spreads, reacts,
//
//	∂c/∂t + u·∇c = ∇·(D∇c) + s,
//
// each of them for itself but for what reactions do.
//
// Symbols: c concentration (mol/m³), D diffusivity (m²/s), u velocity (m/s), s what arises per volume
// (mol/(m³·s)). Surfaces of which nothing is said let through what the flow carries and nothing else.
package species

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on what laws may depend on, and on concentrations.
type Law = law.Law

// Problem is the species of a model. Facets are numbers of facets of its mesh, species those from 0 on.
type Problem struct {
	Transient bool
	// Order of the functions in cells.
	Order    int
	Species  []Species
	Sources  []Source
	Entrants []Entrant
}

// Species is one of them.
type Species struct {
	// Number is its own among all that a model can have.
	Number int
	// Diffusivity by body, m²/s; it is in no others.
	Diffusivity map[int32]Law
}

// Source is what arises of a species in bodies, mol/(m³·s).
type Source struct {
	Species int
	Bodies  map[int32]bool
	Rate    Law
}

// Entrant is what of a species enters through facets or arises at them, mol/(m²·s).
type Entrant struct {
	Species int
	Facets  []int32
	Flux    Law
}

// Fields are those of this physics that plates show.
var Fields = func() (list []sentence.Field) {
	for i := range law.Species {
		list = append(list, sentence.Field{Name: law.ConcentrationOf(i), Symbol: "c", Units: []string{"mol/m³", "mmol/L", "mol/L"}, Usual: &sentence.Usual{}})
	}
	return list
}()

// usesSpecies says that a law depends on the concentration of a species.
func usesSpecies(l Law, number int) bool { return l != nil && l.Uses(law.Concentration+number) }

// varies says that a law depends on any concentration.
func varies(l Law) bool {
	for i := range law.Species {
		if usesSpecies(l, i) {
			return true
		}
	}
	return false
}
