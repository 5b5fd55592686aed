package film

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// key is that of this physics.
const key = "film"

// Physics is films as the program knows them.
var Physics = frame.Physics{
	PhysicsKind: model.PhysicsKind{
		Key: key, Name: "film", Nowhere: "There is no film",
		Lives:   func(*model.Resolved) string { return "A film lies on {}" },
		Resolve: resolve, FromRest: true,
		PerNode: func(*model.Resolved) int { return 1 },
	},
	Kinds: Kinds(), Plates: Fields, Derived: Derived, Nodal: Nodal, Saddle: true, Pose: pose,
}

// Derived are the quantities that follow from films, and Nodal marks those that have values at nodes.
var (
	Derived = func() (list []formula.Variable) {
		for _, v := range [][2]string{{"film_pressure", "Pa"}, {"film_thickness", "m"}, {"film_filled", "1"}, {"film_friction", "Pa"}} {
			list = append(list, formula.Variable{Name: v[0], Dimension: quantity.MustUnit(v[1]).Dimension})
		}
		return list
	}()
	Nodal = []bool{true, true, true, false}
)

// resolve finds on which parts films lie, and what is said of none.
func resolve(r *model.Resolving) {
	for i := range r.Conditions {
		if c := &r.Conditions[i]; c.Kind == KeyLies {
			r.Live(c.Parts...)
		}
	}
	if !r.Solves(key) {
		return
	}
	if r.Document.Modal() || r.Document.Swings() {
		r.Find(model.Wrong, "run/kind", "let the run be steady or in time", "films have no modes and no response here")
	}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		if model.Of(c.Kind) != key || len(c.Parts) == 0 || c.Kind == KeyPressure || c.Kind == KeySealed || c.Kind == KeyFed {
			continue
		}
		if part, not := r.Absent(key, c); not {
			r.Find(model.Wrong, "conditions/"+c.ID+"/on", "let a film lie on it, or choose another surface", "%s speaks of a film on the %s, on which there is none", c.ID, r.Parts[part].Name)
		}
		if (c.Kind == KeyPushes || c.Kind == KeyYields) && !r.Solves("solid") {
			r.Find(model.Missing, "conditions/"+c.ID, "say that it bends", "%s speaks of how the %s bends, and nothing says that it does", c.ID, r.Parts[c.Parts[0]].Name)
		}
		if c.Kind == KeyYields && r.Document.Transient() {
			r.Find(model.Wrong, "conditions/"+c.ID, "let the run be steady", "in time a film does not follow here how what it lies on bends")
		}
		if c.Kind == KeyWarms && !r.Solves("heat") {
			r.Find(model.Missing, "conditions/"+c.ID, "solve for heat, too", "%s speaks of heat, which is left out", c.ID)
		}
		if c.Kind == KeyTilts && r.Document.Space.Kind == model.Axial {
			r.Find(model.Wrong, "conditions/"+c.ID, "remove it, or model it in a solid space", "what is the same all round does not tilt")
		}
		if c.Kind == KeyTilts && !slices.ContainsFunc(r.Conditions, func(o model.ResolvedSentence) bool { return o.Kind == KeyBears }) {
			r.Find(model.Missing, "conditions/"+c.ID, "say what load the film bears", "%s says where the load acts, and nothing how large it is", c.ID)
		}
	}
}

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem Problem
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, problem: Problem{Transient: p.Transient, Of: map[int32]*Film{}, On: map[int32]*Film{}}}
	d.posed = &frame.Posed{Facets: map[int32]bool{}, Joints: map[int32]bool{}, Shown: func(string) bool { return true }, Outright: true, Bold: true,
		Fields: []frame.Field{{Field: couple.Field{Name: "film_over", Bodies: map[int32]bool{}}, Unit: "Pa", Label: "pressure of the film"},
			{Field: couple.Field{Name: "film_void", Order: 1, Bodies: map[int32]bool{}, Changes: p.Transient}, Unit: "1", Label: "what is missing in the film"}},
		Balances: []frame.Balance{{Name: "volume of films", Unit: "m³/s"}}, Read: read}
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyLies {
			if err := d.lies(c); err != nil {
				return nil, err
			}
		}
	}
	for _, c := range d.Conditions(key) {
		if c.Kind != KeyLies && c.Kind != KeyPressure && c.Kind != KeySealed && c.Kind != KeyFed {
			if err := d.said(c); err != nil {
				return nil, err
			}
		}
	}
	d.edges()
	if err := d.Err(); err != nil {
		return nil, err
	}
	for _, film := range d.problem.Films {
		if !film.Whole {
			d.posed.Fields[0].Order = 1 // on which its pressure is nowhere less than at nodes
		}
		if film.Tilts && film.Bears == nil {
			return nil, frame.Wrong("conditions/"+film.Key, "say what load it bears", "where the load on the film of %s acts is said, and not how large it is", film.Key)
		}
		d.loaded(film)
		d.posed.Keys = append(d.posed.Keys, film.Key)
		if film.Pushes || film.Yields {
			d.posed.Takes = append(d.posed.Takes, couple.MotionOfWalls)
			d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.PressureOnWalls})
		}
		if film.Warms > 0 {
			d.posed.Takes = append(d.posed.Takes, couple.Temperature)
			d.posed.Supplies = append(d.posed.Supplies, frame.Supplied{Quantity: couple.HeatPerVolume, Sentence: film.Key})
		}
	}
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		for _, film := range d.problem.Films {
			film.area = b.Group.AreaOf(film.Facets)
		}
		u, n := b.Solved(couple.MotionOfWalls)
		return newKernel(b.Group, &d.problem, b.Component, b.Variable, u, n)
	}
	d.posed.Doubt = d.touches
	return d.posed, nil
}

// lies takes in a film.
func (d *draft) lies(c *model.ResolvedSentence) error {
	film := &Film{Key: c.ID, Thickness: c.Laws["thickness"], Viscosity: c.Laws["viscosity"], lift: -1, tilt: -1, ways: 2}
	if d.Model.Document.Space.Flat() {
		film.ways = 1
	}
	if film.Viscosity != nil && film.Viscosity.Uses(law.Temperature) {
		d.posed.Takes = append(d.posed.Takes, couple.Temperature)
	}
	for _, k := range d.On(c) {
		body := d.Mesh.Facets[k].Body
		if other := d.problem.On[body]; other != nil && other != film {
			return frame.Wrong("conditions/"+c.ID+"/on", "say both in one sentence, with a thickness that is a formula of the place", "two films lie on the %s, by %s and %s", d.BodyName(body), other.Key, c.ID)
		}
		d.problem.Of[k], d.problem.On[body] = film, film
		film.Facets = append(film.Facets, k)
		for i := range d.posed.Fields {
			field := &d.posed.Fields[i].Field
			field.Facets, field.Bodies[body] = append(field.Facets, k), true
		}
		d.posed.Facets[k] = true
	}
	d.problem.Films = append(d.problem.Films, film)
	return nil
}

// said takes in what another sentence says of films.
func (d *draft) said(c *model.ResolvedSentence) error {
	films := map[*Film]bool{}
	for _, k := range d.On(c) {
		if film := d.problem.Of[k]; film != nil {
			films[film] = true
		}
	}
	if len(films) == 0 {
		d.Refuse("conditions/"+c.ID+"/on", "choose a surface on which there is one", "%s acts nowhere: no film lies on the %s", c.ID, d.Words(c.On))
	}
	number := func(slot string) float64 {
		if c.Laws[slot] == nil {
			return 0
		}
		v, _ := c.Laws[slot].Constant()
		return v
	}
	axes := [3]Law{c.Laws["x"], c.Laws["y"], c.Laws["z"]}
	for _, film := range d.problem.Films {
		if !films[film] {
			continue
		}
		switch c.Kind {
		case KeyFacing:
			film.Facing = axes
		case KeySlides:
			film.Slides = axes
		case KeyCloses:
			film.Closes = c.Laws["speed"]
		case KeyBreaks:
			film.Breaks = number("pressure")
		case KeyWhole:
			film.Whole = true
		case KeySimple:
			film.Whole, film.Clipped = true, true
		case KeyStiffens:
			film.Stiffens = number("coefficient")
		case KeyBears:
			film.Bears = c.Laws["force"]
		case KeyTilts:
			film.Tilts, film.At = true, [3]float64{number("x"), number("y"), number("z")}
		case KeyPushes:
			film.Pushes = true
		case KeyYields:
			film.Yields = true
		case KeyWarms:
			film.Warms = number("part")
		}
	}
	return nil
}

// edges hold the pressure where films end: at what is said there, or at that around, but where they are sealed or fed and where the device goes on
// beyond a plane of symmetry.
func (d *draft) edges() {
	open := d.GoesOn()
	for _, c := range d.Conditions(key) {
		if c.Kind == KeySealed || c.Kind == KeyFed {
			open = append(open, d.On(c)...)
		}
	}
	field, void := &d.posed.Fields[0].Field, &d.posed.Fields[1].Field
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyFed {
			field.Fed = append(field.Fed, couple.Fed{Meets: d.On(c), Flow: c.Laws["flow"], Key: c.ID})
		}
	}
	for _, film := range d.problem.Films {
		void.Held = append(void.Held, couple.Held{Facets: film.Facets, Rim: true, Open: open, Value: formula.Fixed(0), Least: law.NoBound, What: "what is missing in the film", Key: film.Key})
		field.Held = append(field.Held, couple.Held{Facets: film.Facets, Rim: true, Open: open, Value: formula.Fixed(-film.Breaks), Least: law.NoBound, What: "pressure of the film", Key: film.Key})
	}
	for _, c := range d.Conditions(key) {
		if c.Kind == KeyPressure {
			film := d.problem.Films[0]
			for _, other := range d.problem.Films { // that of the film which it meets: all break up at one pressure mostly
				if other.Breaks != film.Breaks {
					d.Refuse("conditions/"+c.ID, "let all films break up at one pressure", "%s gives a pressure where films end that break up at different ones", c.ID)
				}
			}
			field.Held = append(field.Held, couple.Held{Facets: d.On(c), Value: c.Laws["pressure"], Offset: -film.Breaks, Least: law.NoBound, What: "pressure of the film", Key: c.ID})
		}
	}
}

// loaded gives a film that bears a load the unknowns that this takes.
func (d *draft) loaded(film *Film) {
	if film.Bears == nil {
		return
	}
	bodies := map[int32]bool{}
	for _, k := range film.Facets {
		bodies[d.Mesh.Facets[k].Body] = true
	}
	add := func(name, unit, label string) int {
		at := len(d.posed.Fields)
		d.posed.Fields = append(d.posed.Fields, frame.Field{Field: couple.Field{Name: fmt.Sprintf("%s_%d", name, at), Bodies: bodies, Facets: film.Facets, Even: true, Changes: d.Transient}, Unit: unit, Label: label})
		return at
	}
	film.force = add("film_force", "N", "force of the film")
	d.posed.Fields[film.force].Changes = false
	film.lift = add("film_lift", "pm", "lift of the film")
	d.posed.Late = append(d.posed.Late, film.lift)
	if film.Tilts {
		film.tilt = add("film_tilt", "pm/m", "tilt of the film")
		for range film.ways - 1 {
			add("film_tilt", "pm/m", "tilt of the film")
		}
		for i := range film.ways {
			d.posed.Late = append(d.posed.Late, film.tilt+i)
		}
	}
}

// touches says that a film became as thin as nothing.
func (d *draft) touches(s *couple.Solution, _ int) string {
	for _, k := range fem.Each(s.Kernel) {
		film, ok := k.(*Kernel)
		if !ok {
			continue
		}
		thin := false
		film = film.Fork().(*Kernel)
		for _, f := range d.problem.Films {
			err := film.each(s, f.Facets, func(p *fem.Point, _ float64) {
				g := film.gapAt(p)
				thin = thin || g.h <= 2*least*film.now.At(thickness, p.Number)
			})
			if err != nil {
				return err.Error()
			}
		}
		if thin {
			return "the film becomes as thin as nothing somewhere: its walls touch"
		}
	}
	return ""
}

// each calls f at the points of some facets on which there is a film, with the areas that they stand for.
func (k *Kernel) each(s *couple.Solution, facets []int32, f func(p *fem.Point, w float64)) error {
	for _, facet := range facets {
		film := k.problem.Of[facet]
		if film == nil {
			continue
		}
		err := s.System.EachSide(s.State, []fem.Side{s.Side(facet, false)}, func(_ int, points []fem.Point, weights []float64) error {
			if err := k.prepare(film, points); err != nil {
				return err
			}
			for q, w := range weights {
				points[q].Number = q
				f(&points[q], w)
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// On are the facets on which what follows from films is.
func (k *Kernel) On() map[int32]bool {
	set := map[int32]bool{}
	for f := range k.problem.Of {
		set[f] = true
	}
	return set
}

// SuppliesIn says that a film brings nothing into cells: what it brings into the surface on which it lies is among its own terms.
func (k *Kernel) SuppliesIn(string, int32) (any, varies bool) { return false, false }

// Supply adds nothing.
func (k *Kernel) Supply(string, *fem.Point, *couple.Jet) {}

// SuppliesAt says that nothing is at joints.
func (k *Kernel) SuppliesAt(string, int) (any, varies bool) { return false, false }

// SupplyJoint adds nothing.
func (k *Kernel) SupplyJoint(string, int, *fem.Point, []float64, *couple.JointJet) error { return nil }

// Drives is what the films push a component of a displacement with, N, or warm with, W.
func (k *Kernel) Drives(s *couple.Solution, component int) (list []result.Entry, err error) {
	if k.t >= 0 && component == k.t {
		return k.warming(s)
	}
	c := component - k.u
	if k.u < 0 || c < 0 || c >= k.n {
		return nil, nil
	}
	own := k.Fork().(*Kernel)
	for _, film := range k.problem.Films {
		if !film.Pushes {
			continue
		}
		sum := 0.
		err := own.each(s, film.Facets, func(p *fem.Point, w float64) {
			sum -= w * own.state(p).pressure * p.Normal[c]
		})
		if err != nil {
			return nil, err
		}
		list = append(list, result.Entry{Key: film.Key, Value: sum})
	}
	return list, nil
}

// warming is the heat that films bring into what they lie on, W.
func (k *Kernel) warming(s *couple.Solution) (list []result.Entry, err error) {
	own := k.Fork().(*Kernel)
	for _, film := range k.problem.Films {
		if film.Warms == 0 {
			continue
		}
		sum := 0.
		err := own.each(s, film.Facets, func(p *fem.Point, w float64) {
			g := own.gapAt(p)
			sum += w * own.heat(p, &g).power
		})
		if err != nil {
			return nil, err
		}
		list = append(list, result.Entry{Key: film.Key, Value: sum})
	}
	return list, nil
}

// errNone says that there is no film where a reading asks for one.
var errNone = errors.New("there is no film there")

// read evaluates a reading.
func read(r *frame.Reading) error {
	k := r.Kernel.(*Kernel).Fork().(*Kernel)
	s := r.Solution
	if r.Sentence.Kind == KeyLeaves {
		return k.leaves(r)
	}
	if r.Sentence.Kind == KeyLift {
		for _, f := range r.Region.Facets {
			if film := k.problem.Of[f]; film != nil && film.lift >= 0 {
				e := s.System.Equation(r.Field+film.lift, 0, s.System.Grid.SideNodes(s.Side(f, false))[0])
				r.Value = fine * s.State.U[e]
				return nil
			}
		}
		return errors.New("no film there bears a load")
	}
	var force, on, beyond, moment [3]float64
	area, total := 0., 0.
	err := k.each(s, r.Region.Facets, func(p *fem.Point, w float64) {
		g := k.gapAt(p)
		pressure := k.state(p).pressure
		a, b := k.friction(p, &g)
		area, total = area+w, total+w*pressure
		for d := range force {
			force[d] -= w * pressure * p.Normal[d]
			on[d], beyond[d] = on[d]+w*a[d], beyond[d]+w*b[d]
			moment[d] += w * pressure * p.X[d]
		}
	})
	if err != nil {
		return err
	}
	if area == 0 {
		return errNone
	}
	switch r.Sentence.Kind {
	case KeyForce:
		r.Value = size(force)
	case KeyDrag:
		r.Value = size(on)
	case KeyResist:
		r.Value = size(beyond)
	case KeyCentre:
		axis := strings.Index("xyz", strings.TrimSpace(r.Sentence.Values["axis"]))
		if axis < 0 || len(strings.TrimSpace(r.Sentence.Values["axis"])) != 1 {
			return fmt.Errorf("an axis is x, y or z, and not %q", r.Sentence.Values["axis"])
		}
		if total == 0 {
			return errors.New("the film bears nothing")
		}
		r.Value = moment[axis] / total
	}
	return nil
}

// leaves is the volume that leaves films at edges that meet facets, m³/s, or at all edges of facets on which there are films.
func (k *Kernel) leaves(r *frame.Reading) error {
	s := r.Solution
	residual := make([]float64, s.System.N)
	if err := s.System.Assemble(s.Kernel, s.State, residual, nil); err != nil {
		return err
	}
	seen, some := map[int32]bool{}, false
	for _, f := range r.Region.Facets {
		for _, v := range s.System.Grid.SideNodes(s.Side(f, false)) {
			if e := s.System.Equation(r.Field, 0, v); e >= 0 && !seen[e] {
				seen[e], some = true, true
				r.Value -= residual[e]
			}
		}
	}
	if !some {
		return errNone
	}
	return nil
}
