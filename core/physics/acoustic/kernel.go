package acoustic

import (
	"maps"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// role is what of a problem a kernel has.
type role int

const (
	// whole is all that does the same at all frequencies but for what goes with the rate itself.
	whole role = iota
	// dying is what walls and the rate of the pressure itself make of each other.
	dying
	// stiff and massive are what the slope of the pressure and the pressure make of one body whose fluid depends on the frequency, as for the
	// fluid at rest; late is what a shell makes of both a quarter of a swing later.
	stiff
	massive
	stiffLate
	massiveLate
	// wall is what one wall makes of the pressure, drive what one of them lets swing, and rise what arises in one body.
	wall
	drive
	rise
)

// Kernel has the terms of a problem.
type Kernel struct {
	problem *Problem
	role    role
	number  int // of the wall, or the body
	p, t    int // components of the pressure, and of the temperature, −1 for none
	u, n    int // first component of the displacement of what bends, −1 for none, and how many there are
	walls   [][]int32
	joined  []bool
	timely  bool      // it is a run in time, in which what moves counts by its rate
	volume  []float64 // in which what arises in a body does, by body, m³
	middle  [3]float64

	patches map[string]*patch // of readings, by their sentences

	sets map[int32]*law.Set
	side []*law.Set
	now  *law.Set
	body *Body
}

// Places of the laws of a body in its set.
const (
	density = iota
	soundSpeed
	arises
)

// newKernel prepares the terms of a problem for component p of a group, with the temperature in component t, −1 if it is not known, and
// the displacement of what bends from component u on, −1 for none; timely says that it is for a run in time.
func newKernel(g *couple.Group, problem *Problem, p, t, u, n int, middle [3]float64, timely bool) *Kernel {
	k := &Kernel{timely: timely, problem: problem, p: p, t: t, u: u, n: n, walls: make([][]int32, len(g.Facets)), joined: make([]bool, len(g.Joints)), volume: make([]float64, len(g.Volume)), middle: middle}
	for number, b := range problem.Bodies {
		k.volume[number] = g.VolumeOf(b.Among)
	}
	side := g.SideOf()
	for i := range problem.Walls {
		for _, f := range problem.Walls[i].Facets {
			k.walls[side[f]] = append(k.walls[side[f]], int32(i))
		}
	}
	if u >= 0 {
		for i, at := range g.JointsOf([][]int32{problem.Joints}) {
			k.joined[i] = at >= 0
		}
	}
	return k.as(whole, 0)
}

// as is a kernel of another role.
func (k *Kernel) as(role role, number int) *Kernel {
	out := *k
	out.role, out.number = role, number
	out.sets, out.side, out.now, out.body = map[int32]*law.Set{}, nil, nil, nil
	for i := range k.problem.Walls {
		out.side = append(out.side, law.NewSetBy([]int{law.Moment}, k.problem.Walls[i].Value))
	}
	return &out
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel { return k.as(k.role, k.number) }

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool { return true }

// LinearCells, LinearSide, LinearJoint and ByValues say the same of their parts, and that terms on sides need no gradients.
func (k *Kernel) LinearCells(int32) bool { return true }

// LinearSide says that the terms on sides are linear.
func (k *Kernel) LinearSide(int) bool { return true }

// LinearJoint says that those across joints are.
func (k *Kernel) LinearJoint(int) bool { return true }

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return true }

// Symmetric says that the matrix is symmetric: it is not where what bends sends out sound, as the pressure pushes it and its acceleration
// drives the sound.
func (k *Kernel) Symmetric() bool { return k.u < 0 }

// Accounts says that nothing is drawn up.
func (k *Kernel) Accounts() int { return 0 }

// Sourced says the same.
func (k *Kernel) Sourced() map[int32]bool { return nil }

// Entering adds nothing.
func (k *Kernel) Entering(int, []fem.Point, []float64, []float64) error { return nil }

// Prepare evaluates all laws at some points of a body or of a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	number := points[0].Part
	if k.body = k.problem.Bodies[number]; k.body == nil {
		return nil
	}
	if k.now = k.sets[number]; k.now == nil {
		k.now = law.NewSetBy([]int{law.Moment}, k.body.Density, k.body.Speed, k.body.Arises)
		k.sets[number] = k.now
	}
	k.now.Run(points, k.t)
	if err := k.now.Check(density, number, "density", 0, false); err != nil {
		return err
	}
	if err := k.now.Check(soundSpeed, number, "speed of sound", 0, false); err != nil {
		return err
	}
	if err := k.now.Check(arises, number, "volume that arises", law.NoBound, false); err != nil {
		return err
	}
	if side < 0 {
		return nil
	}
	for _, i := range k.walls[side] {
		k.side[i].Run(points, k.t)
		if err := k.side[i].Check(0, number, "value of "+k.problem.Walls[i].Key, law.NoBound, false); err != nil {
			return err
		}
	}
	return nil
}

// lengths are how many metres a metre along each axis of a shell stands for, which makes a wave die away within it, and their product; all
// are 1 elsewhere.
func (k *Kernel) lengths(x [3]float64) (by [3]complex128, all complex128) {
	by, all = [3]complex128{1, 1, 1}, 1
	s := k.body.Shell
	if s == nil {
		return by, all
	}
	for i := range s.Axes {
		part, thick, _, in := s.Along(i, x[i])
		if !in {
			continue
		}
		left := 1 - part
		by[i] = complex(1, -(1/(left*left) - 1))
		all *= by[i]
		if i == 0 && s.Round {
			by[2] = complex(1, -thick*(1/left-1-part)/x[0])
			all *= by[2]
		}
	}
	return by, all
}

// Cell adds what the fluid makes of the pressure.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	if k.body == nil {
		return nil
	}
	q, a := p.Number, k.p
	at := t.Index(a, a)
	rho, c := k.now.At(density, q), k.now.At(soundSpeed, q)
	mine := int32(k.number) == p.Part
	slope, mass := 0., 0.
	var by [3]float64
	switch {
	case k.role == whole && k.body.Fluid == nil || mine && (k.role == stiff || k.role == massive):
		lengths, all := k.lengths(p.X)
		for i := range by {
			by[i] = real(all / (lengths[i] * lengths[i]))
		}
		if k.role != massive {
			slope = 1 / rho
		}
		if k.role != stiff {
			mass = real(all) / (rho * c * c)
		}
	case mine && (k.role == stiffLate || k.role == massiveLate):
		lengths, all := k.lengths(p.X)
		for i := range by {
			by[i] = imag(all / (lengths[i] * lengths[i]))
		}
		if k.role == stiffLate {
			slope = 1 / rho
		} else {
			mass = imag(all) / (rho * c * c)
		}
	case mine && k.role == rise:
		t.Source[a] -= k.now.At(arises, q) / k.volume[p.Part]
	}
	if k.role == whole && k.timely && k.body.Arises != nil {
		t.Source[a] -= k.now.SlopeBy(arises, law.Moment, q) / k.volume[p.Part]
	}
	if slope != 0 {
		for i, g := range p.Grad[a] {
			t.Flux[a][i] += slope * by[i] * g
			t.FluxGrad[at][i][i] += slope * by[i]
		}
	}
	switch {
	case mass == 0:
	case k.role == whole:
		t.Source[a] += mass * p.Rate[a]
		t.SourceRate[at] += mass
	default:
		t.Source[a] += mass * p.U[a]
		t.SourceU[at] += mass
	}
	return nil
}

// bend is how fast a wave falls off beyond a side from which it leaves, beside its swing, 1/m, and the part of the side that it sees.
func (k *Kernel) bend(p *fem.Point, w *Wall) (falls, sees float64) {
	if !w.Round {
		return 0, 1
	}
	var square, along float64
	for i, x := range p.X {
		x -= k.middle[i]
		square += x * x
		along += x * p.Normal[i]
	}
	far := math.Sqrt(square)
	return w.power() / far * along / far, along / far
}

// Side adds what walls do.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	if k.body == nil {
		return nil
	}
	a, q := k.p, p.Number
	at := t.Index(a, a)
	for _, i := range k.walls[number] {
		w := &k.problem.Walls[i]
		value := k.side[i].At(0, q)
		own := k.now.At(density, q) * k.now.At(soundSpeed, q)
		falls, sees := k.bend(p, w)
		stiffness, mass := 0., 0.
		switch {
		case k.role == whole && w.act == fallsBack:
			mass = 1 / (k.now.At(density, q) * value)
		case k.role == whole:
			stiffness = falls / k.now.At(density, q)
			if rate := k.side[i].SlopeBy(0, law.Moment, q); k.timely && w.act == moves {
				t.Source[a] -= rate
			} else if k.timely && w.act == comes {
				t.Source[a] -= 2 * rate / own
			}
		case k.role == dying && w.act == meets && w.Impedance == nil && w.Value == nil, k.role == dying && w.act == comes:
			stiffness = sees / own
		case k.role == dying && w.act == meets && w.Impedance == nil:
			stiffness = 1 / value
		case int(i) != k.number:
		case k.role == wall:
			stiffness = 1
		case k.role == drive && w.act == moves:
			t.Source[a] -= value
		case k.role == drive && w.act == comes && w.Order == 0:
			t.Source[a] -= 2 * value / own
		}
		t.Source[a] += stiffness*p.U[a] + mass*p.Rate[a]
		t.SourceU[at] += stiffness
		t.SourceRate[at] += mass
	}
	return nil
}

// Joint adds that the pressure pushes what bends, and that its acceleration sends out sound.
func (k *Kernel) Joint(number int, p *fem.Point, other []float64, t *fem.JointTerms) error {
	if k.role != whole || k.u < 0 || !k.joined[number] {
		return nil
	}
	fluid := k.problem.Bodies[p.Part] != nil // on this side
	for c := range k.n {
		n, row := p.Normal[c], k.u+c // out of the fluid
		pressure, rate := other[k.p], p.Rate[row]
		if fluid {
			pressure, rate = p.U[k.p], p.Beyond[row]
		} else {
			n = -n
		}
		t.Both[k.p] += n * rate
		t.Both[row] -= n * pressure
		if fluid {
			t.BothRateOther[t.Index(k.p, row)] += n
			t.BothU[t.Index(row, k.p)] -= n
		} else {
			t.BothRate[t.Index(k.p, row)] += n
			t.BothOther[t.Index(row, k.p)] -= n
		}
	}
	return nil
}

// Loss says that nothing is lost as a part of what is stored: that depends on the frequency here ([Kernel.Spectrum]).
func (k *Kernel) Loss() fem.Kernel { return nil }

// Dying has what walls take up in proportion to the rate of the pressure.
func (k *Kernel) Dying() fem.Kernel { return k.as(dying, 0) }

// Spectrum has what depends on the frequency in ways of its own.
func (k *Kernel) Spectrum() (list []couple.Spectrum) {
	swings := func(omega float64) complex128 { return complex(0, omega) }
	for _, number := range slices.Sorted(maps.Keys(k.problem.Bodies)) {
		i, b := int(number), k.problem.Bodies[number]
		slopes, swung := func(float64) complex128 { return 1 }, func(omega float64) complex128 { return complex(-omega*omega, 0) }
		if b.Fluid != nil {
			rho, _ := law.Still(b.Density, k.t >= 0)
			c, _ := law.Still(b.Speed, k.t >= 0)
			stiffness := rho * c * c
			slopes = func(omega float64) complex128 {
				density, _ := b.Fluid(rho, stiffness, omega)
				return complex(rho, 0) / density
			}
			swung = func(omega float64) complex128 {
				_, now := b.Fluid(rho, stiffness, omega)
				return complex(-omega*omega*stiffness, 0) / now
			}
			list = append(list, spectrum(k.as(stiff, i), slopes), spectrum(k.as(massive, i), swung))
		}
		if b.Shell != nil {
			list = append(list, spectrum(k.as(stiffLate, i), func(omega float64) complex128 { return 1i * slopes(omega) }),
				spectrum(k.as(massiveLate, i), func(omega float64) complex128 { return 1i * swung(omega) }))
		}
		if b.Arises != nil {
			list = append(list, spectrum(k.as(rise, i), swings))
		}
	}
	for i := range k.problem.Walls {
		w := &k.problem.Walls[i]
		switch {
		case w.act == meets && w.Impedance != nil:
			list = append(list, spectrum(k.as(wall, i), func(omega float64) complex128 { return complex(0, omega) / w.Impedance(omega) }))
		case w.act == moves || w.act == comes && w.Order == 0:
			list = append(list, spectrum(k.as(drive, i), swings))
		}
	}
	return list
}

// Derive computes the derived quantities: the pressure and the acceleration of the fluid.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil || k.body == nil {
		return err
	}
	for i := range points {
		rho, square := k.now.At(density, i), 0.
		out[0][i] = points[i].U[k.p]
		for x, g := range points[i].Grad[k.p] {
			out[1+x][i] = -g / rho
			square += g * g
		}
		out[4][i] = math.Sqrt(square) / rho
	}
	return nil
}
