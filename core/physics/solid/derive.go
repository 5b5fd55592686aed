package solid

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
)

// Fields are those of this physics that plates show.
var Fields = []sentence.Field{
	{Name: "displacement", Symbol: "u", Also: []string{"deflection", "deformation"}, Bends: true, Usual: &sentence.Usual{Bent: true}, Units: []string{"mm", "µm", "m"}},
	{Name: "von_mises", Label: "stress of von Mises", Symbol: "σᵥ", Also: []string{"equivalent stress"}, Usual: &sentence.Usual{Bent: true}, Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
	{Name: "stress_1", Label: "greatest principal stress", Symbol: "σ₁", Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
	{Name: "stress_3", Label: "least principal stress", Symbol: "σ₃", Units: []string{"MPa", "kPa", "Pa", "GPa"}, Derived: true},
	{Name: "strain_1", Label: "greatest principal strain", Symbol: "ε₁", Units: []string{"%", ""}, Derived: true},
}

// Places of what follows from the displacement.
const (
	displacement = 0 // three components and the size
	stress       = 4 // six components, then von Mises and the three principal ones
	mises        = 10
	principal    = 11
	stretch      = 14 // six components of the strain, then the greatest and the least principal one
	stored       = 22
	outward      = 23 // displacement away from the axis and round it
	round        = 25 // stress rr, tt and rt
	derived      = 28
)

// Derived are the displacement along x, y and z and its size, the stress by components, the equivalent stress of von Mises
// and the principal stresses, the greatest first, the strain likewise, what is stored per volume, and by the axes r and θ
// about z the displacement and the stress.
var Derived = func() (list []formula.Variable) {
	add := func(unit string, names ...string) {
		for _, name := range names {
			list = append(list, formula.Variable{Name: name, Dimension: quantity.MustUnit(unit).Dimension})
		}
	}
	add("m", "displacement_x", "displacement_y", "displacement_z", "displacement")
	add("Pa", "stress_xx", "stress_yy", "stress_zz", "stress_xy", "stress_yz", "stress_zx", "von_mises", "stress_1", "stress_2", "stress_3")
	add("", "strain_xx", "strain_yy", "strain_zz", "strain_xy", "strain_yz", "strain_zx", "strain_1", "strain_3")
	add("J/m³", "strain_energy")
	add("m", "displacement_r", "displacement_t")
	add("Pa", "stress_rr", "stress_tt", "stress_rt")
	return list
}()

// Nodal marks the derived quantities that have values at nodes.
var Nodal = func() []bool {
	list := make([]bool, derived)
	for i := range list {
		list[i] = i < stress || i >= outward && i < round
	}
	return list
}()

// Shown says which of them are kept as fields: the displacement is solved for, and what else there is follows from others.
func Shown(name string) bool {
	for _, v := range Derived[stress:stretch] {
		if v.Name == name {
			return true
		}
	}
	return name == Derived[stretch+6].Name
}

// Derive computes the derived quantities; outside of what bends there are none.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	if err := k.Prepare(-1, points); err != nil {
		return err
	}
	for i := range points {
		for d := range derived {
			out[d][i] = 0
		}
		if k.now == nil {
			continue
		}
		p := &points[i]
		var u [3]float64
		for d := range k.n {
			u[d] = p.U[k.u+d]
			out[displacement+d][i] = u[d]
		}
		out[displacement+3][i] = math.Sqrt(u[0]*u[0] + u[1]*u[1] + u[2]*u[2])
		// Points need not be those that were numbered together.
		var at strained
		if err := k.strained(p, i, &at); err != nil {
			return err
		}
		s := k.true(&at)
		for d, v := range s {
			out[stress+d][i] = v
			out[stretch+d][i] = at.e[d]
		}
		out[mises][i] = vonMises(s)
		for d, v := range principals(s) {
			out[principal+d][i] = v
		}
		strains := principals(at.e)
		out[stretch+6][i], out[stretch+7][i] = strains[0], strains[2]
		out[stored][i] = at.energy
		cos, sin := 1.0, 0.0
		if r := math.Hypot(p.X[0], p.X[1]); k.problem.Form != Round && r > 0 {
			cos, sin = p.X[0]/r, p.X[1]/r
		}
		out[outward][i], out[outward+1][i] = u[0]*cos+u[1]*sin, u[1]*cos-u[0]*sin
		out[round][i] = s[0]*cos*cos + s[1]*sin*sin + 2*s[3]*sin*cos
		out[round+1][i] = s[0]*sin*sin + s[1]*cos*cos - 2*s[3]*sin*cos
		out[round+2][i] = (s[1]-s[0])*sin*cos + s[3]*(cos*cos-sin*sin)
		if k.problem.Form == Round {
			out[outward+1][i], out[round+1][i], out[round+2][i] = 0, s[2], 0
		}
	}
	return nil
}

// invariants are those of stresses and strains that were smoothed by components.
func invariants(values [][]float64) {
	for i := range values[stress] {
		var s, e [6]float64
		for d := range s {
			s[d], e[d] = values[stress+d][i], values[stretch+d][i]
		}
		values[mises][i] = vonMises(s)
		for d, v := range principals(s) {
			values[principal+d][i] = v
		}
		strains := principals(e)
		values[stretch+6][i], values[stretch+7][i] = strains[0], strains[2]
	}
}

// vonMises is the equivalent stress.
func vonMises(s [6]float64) float64 {
	a, b, c := s[0]-s[1], s[1]-s[2], s[2]-s[0]
	return math.Sqrt((a*a+b*b+c*c)/2 + 3*(s[3]*s[3]+s[4]*s[4]+s[5]*s[5]))
}

// principals are the principal stresses, the greatest first, as the roots of the characteristic
// polynomial by the cosine of a third of an angle (O. K. Smith, Comm. ACM 4 (1961) 168).
func principals(s [6]float64) [3]float64 {
	mean := (s[0] + s[1] + s[2]) / 3
	a, b, c := s[0]-mean, s[1]-mean, s[2]-mean
	p := math.Sqrt((a*a + b*b + c*c + 2*(s[3]*s[3]+s[4]*s[4]+s[5]*s[5])) / 6)
	if p <= 1e-14*math.Abs(mean) || p == 0 {
		return [3]float64{mean, mean, mean}
	}
	det := (a*(b*c-s[4]*s[4]) - s[3]*(s[3]*c-s[4]*s[5]) + s[5]*(s[3]*s[4]-b*s[5])) / (2 * p * p * p)
	angle := math.Acos(min(1, max(-1, det))) / 3
	first := mean + 2*p*math.Cos(angle)
	third := mean + 2*p*math.Cos(angle+2*math.Pi/3)
	return [3]float64{first, 3*mean - first - third, third}
}
