package electric

import (
	"errors"
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Kernel has the terms of a problem.
type Kernel struct {
	problem *Problem
	v, t    int     // components of the potential and of the temperature, −1 for none
	varies  bool    // the temperature changes while the potential is solved for
	at      [][]int // by side of the group: the currents that enter there
	area    []float64
	joints  []int // by joint of the group: its contact, −1 for none

	// Work memory.
	sets    map[int32]*law.Set
	entries []*law.Set
	between []*law.Set
	now     *law.Set // nil in a body that does not conduct
	seebeck bool
}

// Places of the laws of a body in its set.
const (
	resistivity = iota // or the permittivity
	seebeck
)

// NewKernel prepares the terms of a problem for component v of a group, with the
// temperature in component t, −1 if it is not solved for; varies says that it changes while
// the group is solved.
func NewKernel(g *couple.Group, p *Problem, v, t int, varies bool) (*Kernel, error) {
	k := &Kernel{problem: p, v: v, t: t, varies: varies && t >= 0, at: make([][]int, len(g.Facets)), sets: map[int32]*law.Set{}}
	side := g.SideOf()
	for i, c := range p.Currents {
		for _, f := range c.Facets {
			k.at[side[f]] = append(k.at[side[f]], i)
		}
		k.area = append(k.area, g.AreaOf(c.Facets))
		if k.area[i] == 0 {
			return nil, errors.New("a current enters through a patch without area")
		}
		k.entries = append(k.entries, law.NewSet(c.Total))
	}
	var contacts [][]int32
	for _, c := range p.Contacts {
		contacts = append(contacts, c.Facets)
		k.between = append(k.between, law.NewSet(c.Resistance))
	}
	k.joints = g.JointsOf(contacts)
	return k, nil
}

// Fork returns a kernel with work memory of its own.
func (k *Kernel) Fork() fem.Kernel {
	out := *k
	out.sets = map[int32]*law.Set{}
	out.entries, out.between = nil, nil
	for _, c := range k.problem.Currents {
		out.entries = append(out.entries, law.NewSet(c.Total))
	}
	for _, c := range k.problem.Contacts {
		out.between = append(out.between, law.NewSet(c.Resistance))
	}
	return &out
}

// Straight says that the equations are linear.
func (k *Kernel) Straight() bool {
	for b := range k.problem.Bodies {
		if !k.LinearCells(b) {
			return false
		}
	}
	for number := range k.joints {
		if !k.LinearJoint(number) {
			return false
		}
	}
	return true
}

// LinearCells says that the terms of a body are linear.
func (k *Kernel) LinearCells(body int32) bool {
	b, conducts := k.problem.Bodies[body]
	return !k.varies || !conducts || b.Seebeck == nil && !uses(b.Resistivity) && !uses(b.Permittivity)
}

// LinearSide says that currents that enter are what they are.
func (k *Kernel) LinearSide(int) bool { return true }

// LinearJoint says that the terms of a joint are linear.
func (k *Kernel) LinearJoint(number int) bool {
	i := k.joints[number]
	return !k.varies || i < 0 || !uses(k.problem.Contacts[i].Resistance)
}

// ByValues says that terms on sides need no gradients.
func (k *Kernel) ByValues() bool { return true }

func uses(l Law) bool { return l != nil && l.Uses(law.Temperature) }

// Symmetric says that the matrix of the equations is symmetric.
func (k *Kernel) Symmetric() bool { return k.Straight() }

func (k *Kernel) laws(body int32) *law.Set {
	b, conducts := k.problem.Bodies[body]
	if !conducts {
		return nil
	}
	s := k.sets[body]
	if s == nil {
		property := b.Resistivity
		if k.problem.Static {
			property = b.Permittivity
		}
		s = law.NewSet(property, b.Seebeck)
		k.sets[body] = s
	}
	return s
}

// Prepare evaluates all laws at some points of a body or on a side.
func (k *Kernel) Prepare(side int, points []fem.Point) error {
	if side >= 0 {
		for _, i := range k.at[side] {
			k.entries[i].Run(points, k.t)
			if err := k.entries[i].Check(0, -1, "current", law.NoBound, false); err != nil {
				return err
			}
		}
		return nil
	}
	body := points[0].Part
	k.now = k.laws(body)
	if k.now == nil {
		return nil
	}
	k.seebeck = k.t >= 0 && k.problem.Bodies[body].Seebeck != nil
	k.now.Run(points, k.t)
	if err := k.now.Check(resistivity, body, k.property(), 0, false); err != nil {
		return err
	}
	return k.now.Check(seebeck, body, "Seebeck coefficient", law.NoBound, false)
}

// property is the name of what the field meets.
func (k *Kernel) property() string {
	if k.problem.Static {
		return "permittivity"
	}
	return "electrical resistivity"
}

// flow is the current at a point with what it depends on.
type flow struct {
	sigma, slope float64    // conductivity and its derivative by the temperature
	s, sSlope    float64    // Seebeck coefficient and its derivative
	e, j         [3]float64 // field −∇V and current density
	jSlope       [3]float64 // derivative of j by the temperature
}

func (k *Kernel) flow(p *fem.Point, q int) (f flow) {
	x := k.now.At(resistivity, q)
	switch {
	case k.problem.Static:
		f.sigma, f.slope = Vacuum*x, Vacuum*k.now.Slope(resistivity, q)
	default:
		f.sigma, f.slope = 1/x, -k.now.Slope(resistivity, q)/(x*x)
	}
	var gradient [3]float64
	if k.seebeck {
		f.s, f.sSlope = k.now.At(seebeck, q), k.now.Slope(seebeck, q)
		gradient = p.Grad[k.t]
	}
	for d, g := range p.Grad[k.v] {
		f.e[d] = -g
		drive := -g - f.s*gradient[d]
		f.j[d] = f.sigma * drive
		f.jSlope[d] = f.slope*drive - f.sigma*f.sSlope*gradient[d]
	}
	return f
}

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

// Cell adds the current.
func (k *Kernel) Cell(p *fem.Point, t *fem.Terms) error {
	if k.now == nil {
		return nil
	}
	f := k.flow(p, p.Number)
	v := k.v
	vv := t.Index(v, v)
	for d := range 3 {
		t.Flux[v][d] -= f.j[d]
		t.FluxGrad[vv][d][d] += f.sigma
	}
	if k.t < 0 {
		return nil
	}
	vt := t.Index(v, k.t)
	for d := range 3 {
		t.FluxU[vt][d] -= f.jSlope[d]
		t.FluxGrad[vt][d][d] += f.sigma * f.s
	}
	return nil
}

// Side adds the currents that enter.
func (k *Kernel) Side(number int, p *fem.Point, t *fem.Terms) error {
	for _, i := range k.at[number] {
		t.Source[k.v] -= k.entries[i].At(0, p.Number) / k.area[i]
	}
	return nil
}

// Joint adds the current that passes a contact.
func (k *Kernel) Joint(number int, p *fem.Point, other []float64, t *fem.JointTerms) error {
	resistance, slope, err := k.contact(number, p)
	if err != nil || resistance == 0 {
		return err
	}
	v := k.v
	vv := t.Index(v, v)
	jump := p.U[v] - other[v]
	t.Source[v] += jump / resistance
	t.SourceU[vv] += 1 / resistance
	t.SourceOther[vv] -= 1 / resistance
	if k.t < 0 {
		return nil
	}
	t.SourceU[t.Index(v, k.t)] -= jump * slope / (resistance * resistance)
	return nil
}

// contact is the resistance at a joint, 0 if the potential does not jump, with its derivative
// by the temperature on side A.
func (k *Kernel) contact(number int, p *fem.Point) (resistance, slope float64, err error) {
	i := k.joints[number]
	if i < 0 {
		return 0, 0, nil
	}
	s := k.between[i]
	s.Run([]fem.Point{*p}, k.t)
	if err := s.Check(0, -1, "electrical contact resistance", 0, false); err != nil {
		return 0, 0, err
	}
	return s.At(0, 0), s.Slope(0, 0), nil
}

// Accounts are the currents that enter.
func (k *Kernel) Accounts() int { return len(k.problem.Currents) }

// Sourced says that no body is a source of current.
func (k *Kernel) Sourced() map[int32]bool { return nil }

// Entering adds up what each current brings in, A.
func (k *Kernel) Entering(side int, points []fem.Point, weights, sums []float64) error {
	if err := k.Prepare(side, points); err != nil {
		return err
	}
	for _, i := range k.at[side] {
		for q, w := range weights {
			sums[i] += w * k.entries[i].At(0, q) / k.area[i]
		}
	}
	return nil
}

// Power is the electric power that becomes heat in some bodies, W.
func (k *Kernel) Power(s *couple.Solution, bodies map[int32]bool) (power float64, err error) {
	on := map[int32]bool{}
	for b := range k.problem.Bodies {
		on[b] = bodies[b]
	}
	err = s.System.EachCell(s.State, on, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			f := k.flow(&points[q], q)
			power += w * dot(f.j, f.e)
		}
		return nil
	})
	return power, err
}

// Derive computes the derived quantities; outside conductors there are none.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for i := range points {
		if k.now == nil {
			for d := range out {
				out[d][i] = 0
			}
			continue
		}
		f := k.flow(&points[i], i)
		out[0][i] = points[i].U[k.v]
		for d, j := range f.j {
			out[1+d][i] = j
		}
		out[4][i] = math.Sqrt(dot(f.j, f.j))
		out[5][i] = dot(f.j, f.e)
		out[6][i] = math.Sqrt(dot(f.e, f.e))
	}
	return nil
}
