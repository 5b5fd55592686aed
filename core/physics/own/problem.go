// Package own is equations that users write themselves: for an unknown u in parts of a device,
//
//	c·∂u/∂t + V·∇u + ∇·(−D∇u + F) = s,
//
// or on a surface, with slopes along it. What is stored (c), what carries u along (V), how readily it flows down its slope (D, by axes), what flows
// besides (F) and what arises (s) are formulas of the place, the time, the temperature and of what models name: concentrations and these unknowns
// themselves. Their dimensions are whatever makes all terms of an equation those of one quantity per volume, or per area, and time; that
// is checked term by term. Surfaces, and edges, of which nothing is said let nothing through.
package own

import (
	"saltkettle/core/law"
	"saltkettle/core/sentence"
)

// Law is a number that may depend on what laws may depend on, and on what models name.
type Law = law.Law

// Problem is the equations of a model. Facets are numbers of facets of its mesh, equations those from 0 on.
type Problem struct {
	Transient bool
	// Order of the functions in cells.
	Order     int
	Equations []Equation
	Entrants  []Entrant
	// Accounts is how many there are, those of the entrants first.
	Accounts int
}

// Equation is one of them.
type Equation struct {
	// Number is its own among all that a model can have.
	Number int
	// Bodies it holds in, or Facets that it holds on; the other is nil.
	Bodies, Facets map[int32]*Terms
}

// Terms are those of an equation in a body or on a facet; nil is nothing.
type Terms struct {
	Spread  [3]Law
	Stored  Law
	Carried [3]Law
	Besides [][3]Law
	Arises  []Law
	// Accounts are those of what is stored, of what is carried along and then of what arises, by their numbers among all of the problem.
	StoredBy, CarriedBy int
	ArisesBy            []int
}

// Entrant is what enters an equation in bodies through facets, per area and time.
type Entrant struct {
	Equation int
	Facets   []int32
	Flux     Law
}

// laws are those of the terms, in the order of the places below.
func (t *Terms) laws() []Law {
	list := append([]Law{}, t.Spread[:]...)
	list = append(list, t.Carried[:]...)
	list = append(list, t.Stored)
	for _, f := range t.Besides {
		list = append(list, f[:]...)
	}
	return append(list, t.Arises...)
}

// Places of laws.
const (
	spread  = 0
	carried = 3
	stored  = 6
	besides = 7
)

// arises is the place of the first law of what arises.
func (t *Terms) arises() int { return besides + 3*len(t.Besides) }

// carries says that something carries the unknown along.
func (t *Terms) carries() bool { return t.Carried != [3]Law{} }

// Fields are those that plates show, with the names and units that a model gives them.
var Fields = func() (list []sentence.Field) {
	for i := range law.Owns {
		list = append(list, sentence.Field{Name: law.OwnOf(i), Symbol: "u", Units: []string{"1"}, Usual: &sentence.Usual{}})
	}
	return list
}()
