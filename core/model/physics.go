package model

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/sentence"
)

// Catalog is what documents are written with: the kinds of sentences, and the physics that
// they belong to, in the order in which these are resolved and solved.
type Catalog struct {
	*sentence.Catalog
	Physics []PhysicsKind
}

// PhysicsKind is what the model knows of a physics.
type PhysicsKind struct {
	// Key is how a document names it, and how the keys of its sentences begin, before a point.
	Key, Name string
	// Asked says that a document asks for it; others are solved for where sentences say so.
	Asked bool
	// Lives says in words that it is solved for in some parts, {} for these, and Nowhere that it
	// is not; Closed is what no surface lets through of which nothing is said, "" if that is no
	// word for it.
	Lives   func(r *Resolved) string
	Nowhere string
	Closed  string
	// Resolve finds in which parts it lives and what it needs of their materials.
	Resolve func(r *Resolving)
	// Expect estimates what will happen in the parts it lives in; nil for nothing.
	Expect func(r *Resolving) []Expected
	// Changes says that its field changes in time at a rate, from a value at the start that Start
	// describes.
	Changes bool
	Start   sentence.Slot
	// FromRest says that its field changes in time at a rate, from nothing, unless a sentence of the kind
	// AheadBy says that it is found before.
	FromRest bool
	AheadBy  string
	// MovesBy are the kinds of sentences by which its field has rates of first order.
	MovesBy []string
	// Stepwise says that its steady state is found step by step from where a run begins.
	Stepwise bool
	// Inertial says that its field has rates of second order. In a run in time they count if a
	// sentence of the kind InertiaBy says so.
	Inertial  bool
	InertiaBy string
	// Factorised says that its equations are so in runs of a document, where those of others are iterated. It may be nil.
	Factorised func(r *Resolved) bool
	// OnLines says that it is solved for along lines, and nowhere else.
	OnLines bool
	// Pushes says that it pushes the walls of the parts in which it is solved for.
	Pushes bool
	// Order is that of the functions in cells which it wants where the document leaves that open, 0 for any; of several the
	// least holds. It may be nil.
	Order func(r *Resolved) int
	// Gives are the names of what laws may depend on that it solves for.
	Gives []string
	// PerNode is how many unknowns it has at a node of a space, and Beside what memory a run of it
	// takes besides these, bytes, nil for none.
	PerNode func(r *Resolved) int
	Beside  func(r *Resolved) float64
}

// physics finds a physics by its key.
func (c *Catalog) physics(key string) (*PhysicsKind, bool) {
	i := slices.IndexFunc(c.Physics, func(p PhysicsKind) bool { return p.Key == key })
	if i < 0 {
		return nil, false
	}
	return &c.Physics[i], true
}

// Of is the key of the physics that a kind of sentence belongs to.
func Of(kind string) string {
	key, _, _ := strings.Cut(kind, ".")
	return key
}

// Solves says that a run solves for a physics.
func (r *Resolved) Solves(key string) bool { return r.lives[key] != nil }

// Lives says that a physics is solved for in a part.
func (r *Resolved) Lives(key string, part int) bool { return r.lives[key][part] }

// Absent returns a part in which a physics is not solved for although a sentence names it, or
// although it is one of several in none of which it is; not is false if there is none.
func (r *Resolved) Absent(key string, s *ResolvedSentence) (part int, not bool) {
	some := slices.ContainsFunc(s.Parts, func(i int) bool { return r.Lives(key, i) })
	for _, i := range s.Parts {
		if !r.Lives(key, i) && (!some || s.Names(r.Document, i)) {
			return i, true
		}
	}
	return 0, false
}

// LivesIn lists the parts in which a physics is solved for.
func (r *Resolved) LivesIn(key string) []int {
	var list []int
	for i := range r.Parts {
		if r.lives[key][i] {
			list = append(list, i)
		}
	}
	return list
}

// Unknowns is how many unknowns a run has at a node, at most.
func (r *Resolved) Unknowns(cat *Catalog) int {
	n := 0
	for i := range cat.Physics {
		if p := &cat.Physics[i]; r.Solves(p.Key) {
			n += p.PerNode(r)
		}
	}
	return n
}

// Says says whether a condition of a kind acts.
func (r *Resolved) Says(kind string) bool {
	return slices.ContainsFunc(r.Conditions, func(c ResolvedSentence) bool { return c.Kind == kind })
}

// Law is a property of the material of a part that some physics needs there, nil if it is not
// known.
func (p *ResolvedPart) Law(key material.Key) *formula.Program { return p.Properties[key].Program }

// Resolving is a document that is being resolved, as a physics sees it.
type Resolving struct {
	*Resolved
	physics *PhysicsKind
	r       *resolver
}

// Find notes what is missing, wrong or doubtful at a place of the document.
func (r *Resolving) Find(s Severity, place, fix, format string, args ...any) {
	r.r.find(s, place, fix, format, args...)
}

// FindLoose notes that nothing keeps the device from some motions.
func (r *Resolving) FindLoose(motions []Motion, place, fix, format string, args ...any) {
	r.Loose = motions
	r.Find(Missing, place, fix, format, args...)
	r.r.findings[len(r.r.findings)-1].Motions = motions
}

// Live says that the physics is solved for in some parts.
func (r *Resolving) Live(parts ...int) {
	for _, part := range parts {
		if r.lives[r.physics.Key] == nil {
			r.lives[r.physics.Key] = map[int]bool{}
		}
		r.lives[r.physics.Key][part] = true
	}
}

// Solved lists the parts that are solved and that something can fill: those that are no lines.
func (r *Resolving) Solved() []int {
	var list []int
	for i := range r.Parts {
		if p := &r.Parts[i]; p.Part != nil && p.Role == Solved && !p.IsLine() {
			list = append(list, i)
		}
	}
	return list
}

// Property finds what the physics needs of the material of a part; why says so of it, with %s for
// its name, and fix is added to the advice where it is missing.
func (r *Resolving) Property(part int, key material.Key, why, fix string) bool {
	p := &r.Parts[part]
	if !slices.Contains(p.Wanted, key) {
		p.Wanted = append(p.Wanted, key)
	}
	if p.Material.Name == "" {
		return false // that is outstanding already
	}
	f, err := r.r.function(p.Material, key)
	if err != nil {
		severity := Wrong
		if !p.Material.Gives(key) {
			severity = Missing
		}
		r.Find(severity, propertyPlace(p.Material, key), "give the property or choose another material"+fix, "%s, and %v", fmt.Sprintf(why, p.Name), err)
		return false
	}
	if p.Properties == nil {
		p.Properties = map[material.Key]material.Function{}
	}
	p.Properties[key] = f
	return true
}

// Perhaps is [Resolving.Property] of one that the physics can do without.
func (r *Resolving) Perhaps(part int, key material.Key) bool {
	return r.Parts[part].Material.Has(key) && r.Property(part, key, "the %s has it", "")
}

// Pushed says that something is solved for that pushes its walls.
func (r *Resolving) Pushed() bool {
	return slices.ContainsFunc(r.r.cat.Physics, func(p PhysicsKind) bool { return r.Solves(p.Key) && p.Pushes })
}

// Given says that something solves for what laws may depend on.
func (r *Resolving) Given(name string) bool {
	return slices.ContainsFunc(r.r.cat.Physics, func(p PhysicsKind) bool { return r.Solves(p.Key) && slices.Contains(p.Gives, name) })
}

// Carried are in words the other physics that are solved for in what flows, "" for none.
func (r *Resolving) Carried() string {
	var names []string
	for _, p := range r.r.cat.Physics {
		if p.Key == r.physics.Key || r.lives[p.Key] == nil && !(p.Asked && r.r.doc.Solves(p.Key)) {
			continue
		}
		if slices.ContainsFunc(r.LivesIn(r.physics.Key), func(i int) bool { return p.Asked || r.Lives(p.Key, i) }) {
			names = append(names, p.Name)
		}
	}
	return strings.Join(names, " and ")
}

// Others lists the physics of which sentences speak, where none speaks of this one.
func (r *Resolving) Others() []*PhysicsKind {
	var list []*PhysicsKind
	for i := range r.r.doc.Conditions {
		s := &r.r.doc.Conditions[i]
		if s.Off {
			continue
		}
		p, ok := r.r.cat.physics(Of(s.Kind))
		if ok && p == r.physics {
			return nil
		}
		if ok && !slices.Contains(list, p) {
			list = append(list, p)
		}
	}
	return list
}

// physics checks what the document asks to be solved.
func (r *resolver) physics() {
	var keys []string
	for _, p := range r.cat.Physics {
		keys = append(keys, fmt.Sprintf("%q", p.Key))
	}
	for i, p := range r.doc.Physics {
		if _, ok := r.cat.physics(p.Kind); !ok {
			r.find(Wrong, fmt.Sprintf("physics/%d", i), "write "+strings.Join(keys, " or "), "there is no physics %q", p.Kind)
		}
	}
}

// changing is the physics that is asked for whose field changes in time, nil for none.
func (r *resolver) changing() *PhysicsKind {
	for i := range r.cat.Physics {
		if p := &r.cat.Physics[i]; p.Changes && r.doc.Solves(p.Key) {
			return p
		}
	}
	return nil
}

// moves says that something in the run moves by itself in time: it swings, or sets out from rest.
func (r *resolver) moves() bool {
	return slices.ContainsFunc(r.cat.Physics, func(p PhysicsKind) bool {
		return p.Inertial && r.out.Says(p.InertiaBy) || r.movesBy(p) || p.FromRest && r.out.lives[p.Key] != nil && !(p.AheadBy != "" && r.out.Says(p.AheadBy))
	})
}

// movesBy says that a sentence lets the field of a physics have rates.
func (r *resolver) movesBy(p PhysicsKind) bool {
	return r.out.lives[p.Key] != nil && slices.ContainsFunc(p.MovesBy, r.out.Says)
}

// orderLeftOpen chooses the order of the functions in cells where the document says nothing of it.
func (r *resolver) orderLeftOpen() {
	if strings.TrimSpace(r.doc.Mesh.Order) != "" {
		return
	}
	wanted := 0
	for i := range r.cat.Physics {
		p := &r.cat.Physics[i]
		if p.Order == nil || r.out.lives[p.Key] == nil {
			continue
		}
		if n := p.Order(r.out); n > 0 && (wanted == 0 || n < wanted) {
			wanted = n
		}
	}
	r.out.Order = max(1, wanted)
}

// resolvePhysics lets each physics find where it lives.
func (r *resolver) resolvePhysics() {
	r.out.lives = map[string]map[int]bool{}
	for i := range r.cat.Physics {
		p := &r.cat.Physics[i]
		if p.Asked && !r.doc.Solves(p.Key) {
			continue
		}
		p.Resolve(&Resolving{Resolved: r.out, physics: p, r: r})
	}
	r.orderLeftOpen()
	for i := range r.cat.Physics {
		if p := &r.cat.Physics[i]; p.Expect != nil && r.out.Solves(p.Key) {
			for _, e := range p.Expect(&Resolving{Resolved: r.out, physics: p, r: r}) {
				if part := &r.out.Parts[e.Part]; !r.out.LeftOpen || len(part.Walls)+len(part.Near) > 0 {
					e.Walls, e.Near, e.Around, e.Layers = nil, nil, nil, "" // the document says what there is
				}
				r.out.Expected = append(r.out.Expected, e)
			}
		}
	}
	if moves := func(p PhysicsKind) bool {
		return (p.Changes || p.Inertial) && r.out.lives[p.Key] != nil || r.movesBy(p)
	}; (r.doc.Modal() || r.doc.Swings()) && !slices.ContainsFunc(r.cat.Physics, moves) {
		r.find(Wrong, "run/kind", "choose a steady run, or let a part bend", "nothing in the model moves by itself, so that it has no modes and no response")
	}
	asked := func(p PhysicsKind) bool { return p.Asked && r.doc.Solves(p.Key) }
	if len(r.out.lives) == 0 && !slices.ContainsFunc(r.cat.Physics, asked) {
		var others []string
		for _, p := range r.cat.Physics {
			if p.Asked {
				others = append(others, p.Key)
			}
		}
		r.find(Missing, "conditions", "add a sentence that says what happens in a part, or solve for "+strings.Join(others, " or "), "nothing is solved for")
	}
}
