package solve

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
)

// posed is the equations of a run.
type posed struct {
	ground *couple.Ground
	groups []*group
	// parts are what each physics of the run has, in the order of their fields.
	parts []*portion
	// variable is the part whose field laws may depend on, nil if nothing solves for it.
	variable *portion
	// turns are the first and the last of groups that are solved in turn.
	turns [][2]int
	// marching is the number of the group that goes through time, 0 in a steady run.
	marching int
}

// group is fields that are solved together.
type group struct {
	*couple.Group
	parts  []*portion
	kernel fem.Kernel
}

// portion is what a physics has in a run.
type portion struct {
	*frame.Physics
	*frame.Posed
	kernel frame.Kernel
	// Numbers of its first field, of the first component of that, and of its group.
	field, component, group int
	// first is the number of what first follows from it among what readings may use.
	first int
}

// solvesFor is the part that solves for a field of a name, with its first component, nil if none does.
func (p *posed) solvesFor(name string) (*portion, int) {
	for _, part := range p.parts {
		component := part.component
		for i := range part.Fields {
			if part.Fields[i].Name == name {
				return part, component
			}
			component += max(1, part.Fields[i].Components)
		}
	}
	return nil, 0
}

// words is what people call a field, by its number.
func (p *posed) words(field int) string {
	for _, part := range p.parts {
		if k := field - part.field; k >= 0 && k < len(part.Fields) {
			return cmp.Or(part.Fields[k].Label, part.Fields[k].Name)
		}
	}
	return ""
}

// about is the field that a part is about.
func (p *portion) about() *couple.Field { return &p.Fields[0].Field }

// stores says what the bodies store of the field, if it changes in time.
func (p *portion) stores() frame.Storer {
	if !p.about().Changes {
		return nil
	}
	s, _ := p.kernel.(frame.Storer)
	return s
}

// pose turns the conditions of the model into equations on the mesh.
func (r *run) pose(ctx context.Context) error {
	p := &posed{}
	r.posed = p
	posing := r.posing(ctx)
	for _, kind := range physics.All {
		if !r.model.Solves(kind.Key) {
			continue
		}
		made, err := kind.Pose(posing)
		if err != nil {
			return err
		}
		part := &portion{Physics: kind, Posed: made, first: physics.First(kind)}
		if part.about().Name == law.Variables[law.Temperature].Name {
			p.variable = part
		}
		p.parts = append(p.parts, part)
	}
	if err := r.onSurfaces(); err != nil {
		return err
	}
	r.ground()
	if err := r.groups(); err != nil {
		return err
	}
	if err := r.kernels(); err != nil {
		return err
	}
	for _, part := range p.parts {
		if part.Note != nil {
			part.Note(r.result)
		}
	}
	return nil
}

// posing is what the physics of this run are posed in.
func (r *run) posing(ctx context.Context) *frame.Posing {
	return &frame.Posing{
		Site: r.site(), Context: ctx, Transient: r.model.Document.Transient(), Modal: r.model.Document.Modal(), Swings: r.model.Document.Swings(), Views: r.opt.Views, Rays: r.rays, Warn: r.warn, Note: r.note,
		Given: func(name string) bool {
			return slices.ContainsFunc(physics.All, func(kind *frame.Physics) bool {
				return r.model.Solves(kind.Key) && slices.Contains(kind.PhysicsKind.Gives, name)
			})
		},
		Supplied: func(quantity string) map[int32]bool {
			set := map[int32]bool{}
			for _, kind := range physics.All {
				if slices.Contains(kind.Provides, quantity) && r.model.Solves(kind.Key) {
					maps.Copy(set, r.site().Lives(kind.Key))
				}
			}
			return set
		},
		Aside: func(stage string, do func(progress func(part float64)) error) error {
			if r.quiet {
				return do(func(float64) {})
			}
			before := r.stage
			r.enter(stage)
			err := do(func(part float64) {
				r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Part: part})
			})
			r.enter(before)
			return err
		},
	}
}

// ground joins the fields and the places of the conditions of all physics.
func (r *run) ground() {
	p := r.posed
	facets, joints := map[int32]bool{}, map[int32]bool{}
	var fields []couple.Field
	component := 0
	for _, part := range p.parts {
		for k := range part.Facets {
			facets[k] = true
		}
		for k := range part.Joints {
			joints[k] = true
		}
		part.field, part.component = len(fields), component
		for _, f := range part.Fields {
			component += max(1, f.Components)
			fields = append(fields, f.Field)
		}
	}
	p.ground = couple.NewGround(r.mesh, len(r.owner), fields, &couple.Settings{Order: r.model.Order, Facets: sorted(facets), Joints: sorted(joints), Measure: r.measureOf()})
}

// groups divides the fields into groups, by who takes what from whom.
func (r *run) groups() error {
	p := r.posed
	takes := make([][]int, len(p.parts))
	var marching, ahead []int
	for i, part := range p.parts {
		for j, other := range p.parts {
			if i != j && (slices.ContainsFunc(part.Takes, func(quantity string) bool { return other.supplies(quantity) }) || r.names(part, other)) {
				takes[i] = append(takes[i], j)
			}
		}
		if f := part.about(); (f.Changes || f.Inertial) && r.model.Document.Transient() {
			marching = append(marching, i)
		}
		if part.Ahead {
			ahead = append(ahead, i)
		}
	}
	unknowns := 0
	order := couple.Order(takes, marching, ahead)
	for _, i := range ahead {
		if k := slices.IndexFunc(order, func(own []int) bool { return slices.Contains(own, i) }); len(order[k]) > 1 || k > 0 && slices.Contains(order[0], marching[0]) {
			return wrong("conditions", "let it change in time, too", "the %s cannot be found before time begins: it follows from what changes in time", p.parts[i].Name)
		}
	}
	// What follows from quantities that the model names does not know how it changes with them, but for the physics that solves for them: it is
	// solved in turns with those that follow from it.
	inTurn := r.model.Says(body.KeyTurns)
	for _, own := range order {
		for _, i := range own {
			for _, j := range own {
				if part, other := p.parts[i], p.parts[j]; i != j && r.names(part, other) && !part.Names {
					if inTurn = true; len(marching) > 0 {
						return wrong("conditions", "let one of them be without the other", "in time the %s and the %s cannot each follow from the other", part.Name, other.Name)
					}
				}
			}
		}
	}
	for _, own := range order {
		if turns := slices.ContainsFunc(own, func(i int) bool { return p.parts[i].InTurns }); turns && len(own) > 1 {
			if inTurn = true; len(marching) > 0 {
				return wrong("run/kind", "let the run be steady", "in time the %s and the %s cannot each follow from the other", p.parts[own[0]].Name, p.parts[own[1]].Name)
			}
		}
	}
	// A flow in space is solved for in blocks, with scalars that act on it, or by itself.
	alone := slices.ContainsFunc(p.parts, func(part *portion) bool { return part.Paced })
	if (alone || inTurn) && len(marching) == 0 {
		for _, own := range order { // what it carries along would find no way out before it flows
			slices.SortStableFunc(own, func(i, j int) int {
				return cmp.Compare(boolean(p.parts[j].Paced || p.parts[j].InTurns), boolean(p.parts[i].Paced || p.parts[i].InTurns))
			})
		}
		if inTurn || !r.inBlocks(order) {
			order, p.turns = couple.Apart(order)
		}
	}
	for n, own := range order {
		var fields []int
		for _, i := range own {
			for k := range p.parts[i].Fields {
				fields = append(fields, p.parts[i].field+k)
			}
		}
		made, err := p.ground.Group(fields...)
		if err != nil {
			return err
		}
		g := &group{Group: made}
		unknowns += made.System.N
		for _, i := range own {
			part := p.parts[i]
			part.group = n
			g.parts = append(g.parts, part)
			if slices.Contains(marching, i) {
				p.marching = n
			}
		}
		p.groups = append(p.groups, g)
		for _, part := range g.parts {
			if part.Free == nil {
				continue
			}
			if err := part.Free(made, part.field); err != nil {
				return err
			}
		}
	}
	r.result.Mesh.Unknowns = unknowns
	return nil
}

// names says that conditions of a part depend on quantities that the model names and another part solves for.
func (r *run) names(part, other *portion) bool {
	for k := range law.Named {
		if !slices.ContainsFunc(other.Fields, func(f frame.Field) bool { return f.Name == law.NameOf(k) }) {
			continue
		}
		for i := range r.model.Conditions {
			c := &r.model.Conditions[i]
			if model.Of(c.Kind) != part.Key {
				continue
			}
			for _, l := range c.Laws {
				if l != nil && l.Uses(law.Concentration+k) {
					return true
				}
			}
		}
	}
	return false
}

// onSurfaces refuses conditions that depend on what the model names and is on a surface alone, where they act elsewhere: it would count as nothing there.
func (r *run) onSurfaces() error {
	for _, part := range r.posed.parts {
		for _, f := range part.Fields {
			k := slices.IndexFunc(law.Variables, func(v formula.Variable) bool { return v.Name == f.Name })
			if f.Facets == nil || k < 0 {
				continue
			}
			on := map[int32]bool{}
			for _, facet := range f.Facets {
				on[facet] = true
			}
			for i := range r.model.Conditions {
				c := &r.model.Conditions[i]
				if uses := func(l law.Law) bool { return l != nil && l.Uses(k) }; !slices.ContainsFunc(slices.Collect(maps.Values(c.Laws)), uses) {
					continue
				}
				region, err := r.site().Region(c.On, c.Box)
				if err != nil {
					return err
				}
				if len(region.Facets) == 0 || slices.ContainsFunc(region.Facets, func(facet int32) bool { return !on[facet] }) {
					return wrong("conditions/"+c.ID, "let it act on that surface, or let the unknown be in a part", "%s depends on %s, which is on a surface, and it acts elsewhere, where there is none", c.ID, f.Label)
				}
			}
		}
	}
	return nil
}

// inBlocks says whether what is solved for together with a flow in space is solved for in blocks with it: scalars that are
// continuous and drive it.
func (r *run) inBlocks(order [][]int) bool {
	for _, own := range order {
		for _, i := range own[1:] {
			part := r.posed.parts[i]
			for k := range part.Fields {
				f := &part.Fields[k]
				if f.Components > 1 || len(f.Level) > 0 || f.Even || len(f.Jumps) > 0 || len(f.Slides) > 0 {
					return false
				}
			}
		}
		if p := r.posed.parts[own[0]]; len(own) > 1 && !(p.Paced && p.Driven) {
			return false
		}
	}
	return true
}

func boolean(is bool) int {
	if is {
		return 1
	}
	return 0
}

func (p *portion) supplies(quantity string) bool {
	return slices.ContainsFunc(p.Supplies, func(s frame.Supplied) bool { return s.Quantity == quantity })
}

// kernels makes those of all groups: first of parts from which others take.
func (r *run) kernels() error {
	p := r.posed
	// Suppliers may be made in any order but before those that take more than fields from
	// them.
	todo := slices.Clone(p.parts)
	for len(todo) > 0 {
		k := slices.IndexFunc(todo, func(part *portion) bool {
			return !slices.ContainsFunc(todo, func(other *portion) bool { return other != part && part.takesFrom(other) })
		})
		if k < 0 {
			return fmt.Errorf("%s and %s take more than fields from each other, for which there is no order", todo[0].Name, todo[1].Name)
		}
		part := todo[k]
		todo = slices.Delete(todo, k, k+1)
		g := p.groups[part.group]
		b := &frame.Building{Group: g.Group, Component: part.component, Variable: -1}
		if v := p.variable; v != nil && (v == part || slices.Contains(part.Takes, couple.Temperature)) {
			// Others are not shown what they did not ask for: it may not be there yet.
			b.Variable, b.Varies = v.component, v.group == part.group
		}
		b.Solved = func(quantity string) (component, count int) {
			for _, other := range g.parts {
				if other != part && other.supplies(quantity) {
					return other.component, max(1, other.about().Components)
				}
			}
			return -1, 0
		}
		b.Suppliers = func(quantity string) []couple.Supply {
			var list []couple.Supply
			for _, other := range p.parts {
				if s, ok := other.kernel.(couple.Supplier); ok && other != part && other.supplies(quantity) {
					at := slices.IndexFunc(other.Supplies, func(s frame.Supplied) bool { return s.Quantity == quantity })
					list = append(list, couple.Supply{Kernel: s, Quantity: quantity, Sentence: other.Supplies[at].Sentence, Varies: other.group == part.group})
				}
			}
			return list
		}
		var err error
		if part.kernel, err = part.Build(b); err != nil {
			return err
		}
	}
	for _, g := range p.groups {
		var list []fem.Kernel
		for _, part := range g.parts {
			list = append(list, part.kernel)
		}
		for _, other := range p.parts {
			if other.group != g.parts[0].group && slices.ContainsFunc(g.parts, func(part *portion) bool { return part.takesFrom(other) }) {
				list = append(list, fem.Quiet(other.kernel))
			}
		}
		g.kernel = fem.Sum(list...)
	}
	return nil
}

// fieldsAlone are quantities of which nobody takes more than the field.
var fieldsAlone = []string{couple.Temperature, couple.MotionOfWalls, couple.PressureOnWalls}

// takesFrom says that a part takes something from another that only its kernel can tell.
func (p *portion) takesFrom(other *portion) bool {
	return slices.ContainsFunc(p.Takes, func(quantity string) bool { return !slices.Contains(fieldsAlone, quantity) && other.supplies(quantity) })
}

// measureOf turns what is integrated over a flat space into
// what the device has.
func (r *run) measureOf() func(x [3]float64) float64 {
	switch r.model.Document.Space.Kind {
	case model.Plane:
		return fem.Deep(r.model.Depth)
	case model.Axial:
		return fem.Around
	}
	return nil
}

// factorised is up to how many unknowns what a flow carries along is solved for by a factorisation in space.
const factorised = 20000

// settings are how a group is solved, in a flat space or not.
func (g *group) settings(flat bool) couple.SolveSettings {
	var paced *couple.Paced
	if p := g.parts[0]; p.Paced {
		paced = &couple.Paced{Velocity: p.field, Pressure: p.field + 1, Direct: flat}
		for k, f := range p.Fields[2:] {
			paced.Carried = append(paced.Carried, p.field+2+k)
			if !f.Signed {
				paced.Positive = append(paced.Positive, p.field+2+k)
			}
		}
		for _, other := range g.parts[1:] {
			for k := range other.Fields {
				paced.Scalars = append(paced.Scalars, other.field+k)
			}
		}
	}
	carried := len(g.Own) == 1 && !flat && g.parts[0].streams() && g.System.N > factorised
	outright := 0
	if slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Outright }) {
		outright = math.MaxInt
	}
	return couple.SolveSettings{
		Near:   slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Chords }),
		Polish: slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Exact }),
		Bold:   slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Posed.Bold }),
		Paced:  paced, DirectUnknowns: outright,
		Carried:   carried,
		Direct:    !carried && slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Saddle || p.Mixed || p.streams() }),
		Straight:  !slices.ContainsFunc(g.parts, func(p *portion) bool { return !p.kernel.Straight() }),
		Symmetric: len(g.parts) == 1 && g.parts[0].kernel.Symmetric() || !slices.ContainsFunc(g.parts, func(p *portion) bool { return !p.kernel.Symmetric() }),
	}
}

// late are the fields of the group that are looked for once the others have been found without them.
func (g *group) late() (list []int) {
	for _, p := range g.parts {
		for _, k := range p.Late {
			list = append(list, p.field+k)
		}
	}
	return list
}

// streams says that what a part solves for is carried along by what others do.
func (p *portion) streams() bool {
	k, ok := p.kernel.(frame.Streamed)
	return ok && k.Streams()
}

// unstable says in words why the group may have no solution, "" if nothing of that kind is
// known: what one field does to another in it may feed itself.
func (g *group) unstable() string {
	for _, p := range g.parts {
		if p.Unstable != "" && len(g.parts) > 1 {
			return p.Unstable
		}
	}
	return ""
}

func sorted(set map[int32]bool) []int32 {
	list := make([]int32, 0, len(set))
	for k := range set {
		list = append(list, k)
	}
	slices.Sort(list)
	return list
}
