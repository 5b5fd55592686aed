// Package frame is how a physics joins the program: it says of itself what it is called, what
// can be said of it and what follows from its fields, and poses itself on a mesh. Physics act
// on each other through quantities that one supplies and another takes, without naming each
// other.
package frame

import (
	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/core/sentence"
)

// Physics is what the program knows of a physics.
type Physics struct {
	model.PhysicsKind
	Kinds []sentence.Kind
	// Plates are the fields that plates show.
	Plates []sentence.Field
	// Derived are quantities that follow from its fields; Nodal marks those that depend on the
	// fields alone, not on their gradients, and so have values at nodes, nil for none.
	Derived []formula.Variable
	Nodal   []bool
	// Invariants replaces, among values of the derived quantities that were smoothed one by one, those
	// that follow from others by these; nil if there are none. What is nowhere negative may be
	// so after smoothing.
	Invariants func(values [][]float64)
	// Provides are the quantities that it supplies wherever it is solved for, as those know that are posed before it.
	Provides []string
	// ShapeSize is the greatest value of its field in the shape of a mode.
	ShapeSize float64
	// Names says that its equations know how they change with all quantities that models name.
	Names bool
	// Saddle says that some of its equations have nothing on their diagonal, so that no iterations but
	// those made for them would end.
	Saddle bool
	// Pose makes its equations for a run.
	Pose func(p *Posing) (*Posed, error)
}

// Supplied is a quantity that a physics supplies, with the key of the sentence that lets it, ""
// if none is needed.
type Supplied struct{ Quantity, Sentence string }

// Posed is what a physics adds to a run.
type Posed struct {
	// Fields are what it solves for, the one that it is about first.
	Fields []Field
	// Facets and Joints are those on which it has conditions.
	Facets, Joints map[int32]bool
	// Takes and Supplies are how it acts together with others.
	Takes    []string
	Supplies []Supplied
	// Free finds what may vary although nothing fixes it; it is asked when the group of the fields
	// is there, with the number of the first one.
	Free func(g *couple.Group, field int) error
	// Build makes the kernel for the fields.
	Build func(b *Building) (Kernel, error)
	// Balances are drawn up of what enters, and Keys are the sentences behind the accounts of the
	// kernel in each of them, known when it is built.
	Balances []Balance
	Keys     []string
	// Flux names the derived vector whose error decides where cells are to be finer, "" for none,
	// and Shown says which derived quantities are kept as fields.
	Flux  string
	Shown func(name string) bool
	// Doubt says why a solution cannot be what happens, "" if nothing speaks against it.
	Doubt func(s *couple.Solution, field int) string
	// Unstable says in words why there may be no solution, "" if nothing of that kind is known.
	Unstable string
	// Restless says in words why there may be no steady state, "" if there always is one.
	Restless string
	// Unbounded is for an edge of the region of its first field, with the angle within, rad, and how many of the two faces
	// there are held in all components, the power of the distance with which the field goes there if it is so small that what
	// follows from slopes has no bound that cells could show; 1 if it has one. It may be nil.
	Unbounded func(angle float64, held int) float64
	// Check warns of what was used beyond where it holds.
	Check func(s *couple.Solution)
	// Read evaluates a reading of the physics.
	Read func(r *Reading) error
	// Ahead says that in a run in time its fields are found before time begins, and stay.
	Ahead bool
	// Paced says that its first two fields are a velocity and a pressure that are solved for as [couple.Paced] does, and
	// what they carry along the others.
	Paced bool
	// Driven says that what it takes from others drives it: the two are better solved for together than in turns.
	Driven bool
	// Starts give fields when time begins.
	Starts []Start
	// Push is where it takes [couple.PushOnWalls].
	Push []*Push
	// Loaded says that something acts on what swings by itself, which is then found about the state that this leads to.
	Loaded bool
	// Mixed says that what its matrix has on the diagonal is of both signs, though it is symmetric.
	Mixed bool
	// Outright says that its fields drive each other so that no iterations that are known end: however many unknowns there are
	// they are factorised.
	Outright bool
	// Bold says that whole steps of Newton's method alone lead to a solution: what is in one of two states goes over from one to the other in
	// steps on which the residual need not fall.
	Bold bool
	// Chords says that a solution is looked for from where ratios in place of slopes lead, as its kernel is a [fem.Secant].
	Chords bool
	// InTurns says that it is solved for in turns with those that follow from it and from which it follows, before them in each.
	InTurns bool
	// Exact says that its accounts are to be closed to round-off: what solves its equations to the tolerance goes a few whole steps on.
	Exact bool
	// Late are the numbers of fields, from the first one of the physics on, with which a solution is looked for once there is one of the others without
	// them, as they begin: what is unknown as what it has to lead to is given.
	Late []int
	// Note adds to the result what is to be known of the posing. It may be nil.
	Note func(r *result.Result)
}

// Push is facets on which what another physics pushes its walls with acts, with the key of the sentence that says so.
type Push struct {
	Key    string
	Facets []int32
}

// Start is what a field of a physics is when time begins, where a sentence says.
type Start struct {
	Field    int // from the first one of the physics on
	Sentence *model.ResolvedSentence
	Value    law.Law
	// Positive says that nothing else can be.
	Positive bool
}

// Field is an unknown function in a unit.
type Field struct {
	couple.Field
	Unit string
	// Label is what the model calls it, "" if that is its name.
	Label string
	// Effort says that it is one, as a pressure, and not a displacement: what its matrices store is over the square of the frequency.
	Effort bool
	// Signed says of what a flow carries along that it may be less than nothing.
	Signed bool
}

// Balance is what is kept of a component of a field of the physics. Its accounts are those of the kernel from
// the sum of both numbers times the number of keys on.
type Balance struct {
	Name, Unit       string
	Field, Component int
}

// Kernel has the terms of a physics.
type Kernel interface {
	fem.Kernel
	couple.Deriver
	couple.Accountant
	// Straight says that its equations are linear, Symmetric that their matrix is symmetric.
	Straight() bool
	Symmetric() bool
}

// Scaler is a kernel whose balances are held against what goes through its bodies, where more
// does than enters.
type Scaler interface {
	// Scale is the size of that.
	Scale(s *couple.Solution) (float64, error)
}

// Carrier is a kernel of what is carried through its bodies, which counts for the size of its balances: as much
// may be carried in as out.
type Carrier interface {
	// Carried is how much is carried in and out, by field and component as [Balance] has them.
	Carried(s *couple.Solution) ([]float64, error)
}

// Storer is a kernel of a field that changes in time, whose bodies store what its balance is
// of.
type Storer interface {
	// Stored is what they take up, per second, of a solution in time.
	Stored(s *couple.Solution) (float64, error)
	// StoresEvenly says that what they store does not depend on the field but by a factor.
	StoresEvenly() bool
	// Taken is what they have taken up from one state to another.
	Taken(s *couple.Solution, before, after []float64) (float64, error)
}

// Driver is a kernel with terms in the equations of another physics, which counts in the balances of that.
type Driver interface {
	// Drives is what it brings into a component of the system.
	Drives(s *couple.Solution, component int) ([]result.Entry, error)
}

// Streamed is a kernel of what may be carried along, which makes its matrix far from symmetric.
type Streamed interface {
	// Streams says that it is.
	Streams() bool
}

// Ramped is a kernel whose loads may act in part, on the way to all of them.
type Ramped interface {
	// Ramp lets a part of them act, until it is called again; 1 is all.
	Ramp(part float64)
}

// Stiffened is a kernel whose tangent has what the forces at hand do to a small change beside it, if it is asked for.
type Stiffened interface {
	Stiffen(on bool)
}

// Eased is a kernel of equations that are solved more easily when something in them is larger than it is, such
// as friction.
type Eased interface {
	// Ease multiplies that, until it is called again; 1 is as it is.
	Ease(factor float64)
	// Inertia has the terms by rates of what resists a change of the fields, as if they changed in time.
	Inertia() fem.Kernel
}

// Graded is a kernel of a vector whose slopes, not fluxes, say where cells are to be finer.
type Graded interface {
	// Slopes evaluates what component i of the vector drives along each axis, such as friction, at points.
	Slopes(i int, points []fem.Point, out [][]float64) error
	// Graded is how many components there are.
	Graded() int
}

// Gaining is a kernel of fields that change in time, whose bodies gain what its balances are of at a rate that
// is the same whatever the state is.
type Gaining interface {
	// Gains is how fast that grows by field and component, as [Balance] has them, of a solution in time.
	Gains(s *couple.Solution) ([]float64, error)
}

// Building is what a kernel is made for.
type Building struct {
	Group *couple.Group
	// Component is the number of the first component of the first field of the physics; the
	// others follow.
	Component int
	// Variable is the component of what laws may depend on, −1 if nothing solves for it or the
	// physics does not take it; Varies says that it changes while the group is solved.
	Variable int
	Varies   bool
	// Solved is the number of the first component of the field that another physics supplies as a quantity, with how many it has; count is 0
	// if it is not solved for in the group.
	Solved func(quantity string) (component, count int)
	// Suppliers of a quantity, with whether they change while the group is solved.
	Suppliers func(quantity string) []couple.Supply
}
