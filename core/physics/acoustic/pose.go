package acoustic

import (
	"cmp"
	"maps"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "sound_pressure", Symbol: "p", Also: []string{"acoustic pressure"}, Usual: &sentence.Usual{}, Units: []string{"Pa", "mPa", "kPa"}},
	{Name: "sound_acceleration", Label: "acceleration of the sound", Symbol: "a", Units: []string{"m/s²"}, Derived: true},
}

// Derived is the pressure, for formulas, and the acceleration of the fluid along x, y and z and its size.
var Derived = func() (list []formula.Variable) {
	list = append(list, formula.Variable{Name: "sound_pressure", Dimension: quantity.MustUnit("Pa").Dimension})
	for _, end := range []string{"_x", "_y", "_z", ""} {
		list = append(list, formula.Variable{Name: "sound_acceleration" + end, Dimension: quantity.MustUnit("m/s²").Dimension})
	}
	return list
}()

// Nodal marks the pressure.
var Nodal = []bool{true, false, false, false, false}

// fieldName is the pressure.
const fieldName = "sound_pressure"

// draft collects the conditions of a run.
type draft struct {
	*frame.Posing
	posed   *frame.Posed
	problem Problem
}

// pose turns the conditions of the model into equations on the mesh.
func pose(p *frame.Posing) (*frame.Posed, error) {
	d := &draft{Posing: p, problem: Problem{Bodies: map[int32]*Body{}}}
	d.posed = &frame.Posed{
		Fields: []frame.Field{{Field: couple.Field{Name: fieldName, Bodies: p.Lives(key), Inertial: p.Transient}, Unit: "Pa", Label: "sound pressure", Effort: true}},
		Facets: map[int32]bool{}, Joints: map[int32]bool{}, Flux: "sound_acceleration", Shown: func(name string) bool { return name != "sound_pressure" },
		Takes: []string{couple.MotionOfWalls}, Supplies: []frame.Supplied{{Quantity: couple.PressureOnWalls}},
		Read: read,
	}
	for b := range d.posed.Fields[0].Bodies {
		part := p.Part(b)
		body := &Body{Density: part.Law(material.Density), Speed: part.Law(material.SoundSpeed)}
		d.problem.Bodies[b] = body
		for _, l := range []Law{body.Density, body.Speed} {
			if l != nil && l.Uses(law.Temperature) {
				d.posed.Takes = append(d.posed.Takes, couple.Temperature)
			}
		}
	}
	if err := cmp.Or(d.conditions(), d.Err()); err != nil {
		return nil, err
	}
	d.meets()
	d.between()
	d.waves()
	d.posed.Build = func(b *frame.Building) (frame.Kernel, error) {
		u, n := b.Solved(couple.MotionOfWalls)
		for _, f := range b.Group.Own {
			if field := &b.Group.Fields[f]; d.Transient && u >= 0 && !field.Inertial && field.Components > 1 {
				return nil, frame.Wrong("conditions", "say that it has inertia, or let there be no sound beside it", "in time what bends sends out sound by its acceleration, and it has no inertia")
			}
		}
		return newKernel(b.Group, &d.problem, b.Component, b.Variable, u, n, d.middle(), d.Transient), nil
	}
	return d.posed, nil
}

// middle is that of the device, on planes at which it is cut.
func (d *draft) middle() (x [3]float64) {
	lives := d.posed.Fields[0].Bodies
	box := d.BoundsOf(func(body int32) bool { return lives[body] })
	for i := range x {
		x[i] = (box[i][0] + box[i][1]) / 2
	}
	if d.Model.Document.Space.Kind == model.Axial {
		x[0] = 0
	}
	for _, c := range d.Model.Cuts {
		x[c.Axis] = c.At
	}
	return x
}

// meets finds where sound meets what bends.
func (d *draft) meets() {
	sound, bends := d.posed.Fields[0].Bodies, d.Supplied(couple.MotionOfWalls)
	for k := range d.Mesh.Facets {
		if f := &d.Mesh.Facets[k]; f.Other >= 0 && (sound[f.Body] && bends[f.OtherBody] || sound[f.OtherBody] && bends[f.Body]) {
			d.posed.Joints[int32(k)] = true
			d.problem.Joints = append(d.problem.Joints, int32(k))
		}
	}
}

// still is the value of a law that is the same everywhere.
func (d *draft) still(l Law) (float64, bool) { return law.Still(l, d.Given(couple.Temperature)) }

// waves says how many cells there are to a wave at the highest frequency, and warns where they are too few.
func (d *draft) waves() {
	list := d.Model.Frequencies
	if len(list) == 0 {
		return
	}
	highest, long := list[len(list)-1], map[int32]float64{}
	for cell, body := range d.Mesh.Body {
		if d.problem.Bodies[body] != nil {
			long[body] = max(long[body], d.Mesh.Across(int32(cell)))
		}
	}
	wanted := fewQuadratic
	if d.Model.Order == 1 {
		wanted = fewLinear
	}
	least, at := math.Inf(1), int32(0)
	for _, b := range slices.Sorted(maps.Keys(long)) {
		speed, known := d.still(d.problem.Bodies[b].Speed)
		if cells := speed / (highest * long[b]); known && cells < least {
			least, at = cells, b
		}
	}
	if least < wanted {
		d.Warn("at %s there are %s cells to a wave in the %s, where it takes %.3g to follow it", quantity.Show(highest, "Hz", false, 3), quantity.Figures(least, 2), d.BodyName(at), wanted)
	} else if !math.IsInf(least, 1) {
		d.Note("At %s there are at least %s cells to a wave.", quantity.Show(highest, "Hz", false, 3), quantity.Figures(least, 2))
	}
}

// How many cells to a wave are too few, of order 2 and of order 1: the sound is then a percent too slow.
const fewQuadratic, fewLinear = 3.0, 10.0

// between finds the facets between a frame and what it is round, through which a wave comes.
func (d *draft) between() {
	if d.problem.Arrives == nil {
		return
	}
	for k := range d.Mesh.Facets {
		f := &d.Mesh.Facets[k]
		a, b := d.problem.Bodies[f.Body], (*Body)(nil)
		if f.Other >= 0 {
			b = d.problem.Bodies[f.OtherBody]
		}
		if a != nil && b != nil && (a.Shell == nil) != (b.Shell == nil) {
			d.problem.Arrives.Facets = append(d.problem.Arrives.Facets, int32(k))
		}
	}
}

// wall takes in one.
func (d *draft) wall(c *model.ResolvedSentence, w Wall) {
	w.Key, w.Facets = c.ID, d.On(c)
	for _, k := range w.Facets {
		d.posed.Facets[k] = true
	}
	d.problem.Walls = append(d.problem.Walls, w)
}

// constants are the density and the speed of sound of a body, which must be numbers for what depends on the frequency.
func (d *draft) constants(b int32, c *model.ResolvedSentence) (density, speed float64, err error) {
	body := d.problem.Bodies[b]
	density, known := d.still(body.Density)
	speed, also := d.still(body.Speed)
	if !known || !also {
		return 0, 0, frame.Wrong("conditions/"+c.ID, "give its material numbers for both", "what depends on the frequency needs one density and one speed of sound, and in the %s they differ from place to place", d.BodyName(b))
	}
	return density, speed, nil
}

// conditions takes in those of the model.
func (d *draft) conditions() error {
	field := &d.posed.Fields[0].Field
	flat := d.Model.Document.Space.Kind == model.Plane
	for _, c := range d.Conditions(key) {
		number := func(slot string) float64 {
			if c.Laws[slot] == nil {
				return 0
			}
			v, _ := c.Laws[slot].Constant()
			return v
		}
		switch c.Kind {
		case KeyLoses, KeyAbsorbs, KeyGap, KeyPipe:
			for _, b := range d.BodiesOf(c.On) {
				if _, _, err := d.constants(b, c); err != nil {
					return err
				}
				fluid, err := d.fluid(c, b, number)
				if err != nil {
					return err
				}
				d.problem.Bodies[b].Fluid = fluid
			}
		case KeyArises:
			among := d.BodiesOf(c.On)
			for _, b := range among {
				d.problem.Bodies[b].Arises, d.problem.Bodies[b].Among = c.Laws["flow"], among
			}
		case KeyShell:
			axes := 2
			if !d.Model.Document.Space.Flat() {
				axes = 3
			}
			mine := d.BodySet(c.On)
			s, fix, fault := d.ShellOf(mine, field.Bodies, axes, d.Model.Document.Space.Kind == model.Axial, d.Words(c.On))
			if fault != "" {
				return frame.Wrong("conditions/"+c.ID, fix, "%s", fault)
			}
			for b := range mine {
				if body := d.problem.Bodies[b]; body != nil {
					body.Shell = s
				}
			}
		case KeyArrives:
			wave := &Arrival{Pressure: c.Laws["pressure"], Along: [3]float64{number("x"), number("y"), number("z")}}
			long := math.Sqrt(wave.Along[0]*wave.Along[0] + wave.Along[1]*wave.Along[1] + wave.Along[2]*wave.Along[2])
			for i := range wave.Along {
				wave.Along[i] /= long
			}
			d.problem.Arrives = wave
		case KeyPressure, KeySoft:
			value := c.Laws["pressure"]
			if c.Kind == KeySoft {
				value = formula.Fixed(0)
			}
			field.Held = append(field.Held, couple.Held{Facets: d.On(c), Value: value, Least: law.NoBound, What: "sound pressure", Key: c.ID})
		case KeyFree:
			d.wall(c, Wall{act: fallsBack, Value: c.Laws["gravity"]})
		case KeyMoves:
			d.wall(c, Wall{act: moves, Value: c.Laws["speed"]})
		case KeyLeaves:
			d.wall(c, Wall{act: meets, Round: true, Flat: flat})
		case KeyDuct:
			w := Wall{act: comes, Value: c.Laws["pressure"], Order: int(number(order))}
			if w.Order > 0 && d.Transient {
				return frame.Wrong("conditions/"+c.ID+"/values/"+order, "leave it out, or find the response", "in time only plane waves come along a duct, and leave through its end")
			}
			d.wall(c, w)
		case KeyImpedance:
			w := Wall{act: meets, Value: c.Laws["resistance"]}
			if r, known := w.Value.Constant(); !known || c.Laws["reactance"] != nil {
				if w.Impedance = byFrequency(w.Value, c.Laws["reactance"]); !d.Swings {
					return frame.Wrong("conditions/"+c.ID, "give a resistance that is a number and no reactance, or find the response", "an impedance with a reactance, or one that depends on the frequency, acts at frequencies alone, and %s says it of a run without", c.ID)
				}
				for _, f := range d.Model.Frequencies {
					if z := w.Impedance(2 * math.Pi * f); z == 0 || cmplx.IsNaN(z) || cmplx.IsInf(z) || real(z) < 0 {
						return frame.Wrong("conditions/"+c.ID+"/values/resistance", "give values that are finite and a resistance of nothing or more", "at %s the wall of %s has an impedance of %.3g and %.3g Pa·s/m, with which it would give sound away or has none", quantity.Show(f, "Hz", false, 4), c.ID, real(z), imag(z))
					}
				}
			} else if r <= 0 {
				return frame.Wrong("conditions/"+c.ID+"/values/resistance", "give a resistance above nothing, or leave the wall hard", "a wall that meets sound with a resistance of nothing takes up nothing and gives way at once: say that it does")
			}
			d.wall(c, w)
		case KeyLined:
			if err := d.lined(c, number("resistivity"), number("depth")); err != nil {
				return err
			}
		}
	}
	return nil
}

// fluid is what a sentence says of the fluid in a body.
func (d *draft) fluid(c *model.ResolvedSentence, b int32, number func(slot string) float64) (Fluid, error) {
	switch c.Kind {
	case KeyLoses:
		return losing(number("part")), nil
	case KeyAbsorbs:
		d.inRange(c, number("resistivity"))
		return porous(number("resistivity")), nil
	}
	var of [4]float64
	for i, property := range []material.Key{material.Viscosity, material.Conductivity, material.HeatCapacity, material.HeatCapacityRatio} {
		v, known := d.still(d.Part(b).Law(property))
		if !known {
			return nil, frame.Wrong("conditions/"+c.ID, "give its material numbers for them", "viscosity, conductivity and heat capacities of what is in a narrow duct need to be numbers, and in the %s one of them is not", d.BodyName(b))
		}
		of[i] = v
	}
	return narrow(number("width"), c.Kind == KeyPipe, of[0], of[3], of[0]*of[2]/of[1]), nil
}

// lined makes a wall a lined one, one for each kind of gas that it meets.
func (d *draft) lined(c *model.ResolvedSentence, resistivity, depth float64) error {
	d.inRange(c, resistivity)
	by := map[[2]float64][]int32{}
	var order [][2]float64
	for _, k := range d.On(c) {
		body := d.Mesh.Facets[k].Body
		if d.problem.Bodies[body] == nil {
			body = d.Mesh.Facets[k].OtherBody
		}
		density, speed, err := d.constants(body, c)
		if err != nil {
			return err
		}
		gas := [2]float64{density, speed}
		if by[gas] == nil {
			order = append(order, gas)
		}
		by[gas] = append(by[gas], k)
		d.posed.Facets[k] = true
	}
	for _, gas := range order {
		d.problem.Walls = append(d.problem.Walls, Wall{Key: c.ID, Facets: by[gas], act: meets, Impedance: lining(gas[0], gas[1], resistivity, depth)})
	}
	return nil
}

// inRange warns of frequencies at which the law of porous absorbers was not measured.
func (d *draft) inRange(c *model.ResolvedSentence, resistivity float64) {
	if list := d.Model.Frequencies; len(list) > 0 && (list[0] < mikiLeast*resistivity || list[len(list)-1] > mikiMost*resistivity) {
		d.Warn("the absorber of %s was measured from %s to %s with this flow resistivity: beyond, its law is a guess", c.ID, quantity.Show(mikiLeast*resistivity, "Hz", false, 3), quantity.Show(mikiMost*resistivity, "Hz", false, 3))
	}
}

// byFrequency is an impedance of which both parts may be formulas of the frequency.
func byFrequency(resistance, reactance Law) func(omega float64) complex128 {
	at := func(l Law, omega float64) float64 {
		if l == nil {
			return 0
		}
		if v, known := l.Constant(); known {
			return v
		}
		in := make([][]float64, len(law.Variables))
		for i := range in {
			in[i] = []float64{0}
		}
		in[law.Frequency][0] = omega / (2 * math.Pi)
		var out [1]float64
		l.NewWork().Run(in, out[:])
		return out[0]
	}
	return func(omega float64) complex128 { return complex(at(resistance, omega), at(reactance, omega)) }
}
