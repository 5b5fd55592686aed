package pipes

import "math"

// Relation is how friction follows from the Reynolds number and the roughness.
type Relation int

// The relations. All but that of Churchill, which is one for all flows, hold for turbulent ones; below they give way to that of laminar flow.
const (
	Colebrook  Relation = iota // C. F. Colebrook, J. Inst. Civ. Eng. 11 (1939) 133, solved to round-off
	Churchill                  // S. W. Churchill, Chem. Eng. 84 (24) (1977) 91
	Haaland                    // S. E. Haaland, J. Fluids Eng. 105 (1983) 89
	SwameeJain                 // P. K. Swamee and A. K. Jain, J. Hydraul. Div. 102 (1976) 657
)

// Relations are the names of the relations, in their order.
var Relations = []string{"Colebrook", "Churchill", "Haaland", "Swamee–Jain"}

// Between these Reynolds numbers a flow is neither laminar nor turbulent for certain. The friction factor goes over from one to the other
// there by a cubic, without a kink, which would keep Newton's method from an end.
const (
	LaminarTo     = 2300.0
	TurbulentFrom = 4000.0
)

// Factor is the friction factor of Darcy at a Reynolds number by the hydraulic diameter, for walls as rough as a part of that. laminar is what
// it is times the Reynolds number in laminar flow: 64 in a round pipe.
func (r Relation) Factor(re, rough, laminar float64) float64 {
	f, _ := r.factor(re, rough, laminar)
	return f
}

// factor is that with how it changes with the Reynolds number.
func (r Relation) factor(re, rough, laminar float64) (f, slope float64) {
	if r == Churchill {
		return churchill(re, rough, laminar), (churchill(re*(1+step), rough, laminar) - churchill(re*(1-step), rough, laminar)) / (2 * step * re)
	}
	switch {
	case re <= LaminarTo:
		return laminar / re, -laminar / (re * re)
	case re < TurbulentFrom:
		upper, steep := r.turbulent(TurbulentFrom, rough)
		return hermite((re-LaminarTo)/(TurbulentFrom-LaminarTo), TurbulentFrom-LaminarTo, laminar/LaminarTo, -laminar/(LaminarTo*LaminarTo), upper, steep)
	}
	return r.turbulent(re, rough)
}

// hermite is the cubic with given values and slopes at both ends of a range, at a part of it, and its slope.
func hermite(part, width, a, slopeA, b, slopeB float64) (value, slope float64) {
	t, rest := part, 1-part
	value = (1+2*t)*rest*rest*a + t*rest*rest*width*slopeA + t*t*(3-2*t)*b - t*t*rest*width*slopeB
	slope = 6*t*rest*(b-a)/width + (1-4*t+3*t*t)*slopeA + t*(3*t-2)*slopeB
	return value, slope
}

// step is by what part the Reynolds number is changed for a slope.
const step = 1e-5

// churchill is the factor for all flows.
func churchill(re, rough, laminar float64) float64 {
	a := math.Pow(-2.457*math.Log(math.Pow(7/re, 0.9)+0.27*rough), 16)
	b := math.Pow(37530/re, 16)
	return 8 * math.Pow(math.Pow(8/re, 12)*math.Pow(laminar/64, 12)+1/math.Pow(a+b, 1.5), 1.0/12)
}

// turbulent is the factor of turbulent flow with its slope.
func (r Relation) turbulent(re, rough float64) (f, slope float64) {
	if r == SwameeJain {
		inner := 5.74 / math.Pow(re, 0.9)
		l := math.Log10(rough/3.7 + inner)
		f = 0.25 / (l * l)
		return f, f / l * 2 / math.Ln10 * 0.9 * inner / re / (rough/3.7 + inner)
	}
	inner := math.Pow(rough/3.7, 1.11) + 6.9/re
	x := -1.8 * math.Log10(inner)
	if r == Haaland {
		return 1 / (x * x), -2 / (x * x * x) * 1.8 / math.Ln10 * 6.9 / (re * re) / inner
	}
	// With x = 1/√f: x + 2 log₁₀(k/3.7 + 2.51 x/Re) = 0, by Newton's method.
	for range 8 {
		inner = rough/3.7 + 2.51*x/re
		by := (x + 2/math.Ln10*math.Log(inner)) / (1 + 2/math.Ln10*2.51/re/inner)
		x -= by
		if math.Abs(by) < 1e-8*x { // the next one would be round-off
			break
		}
	}
	inner = rough/3.7 + 2.51*x/re
	bend := 2 / math.Ln10 * 2.51 / re / inner
	return 1 / (x * x), -2 / (x * x * x) * bend * x / re / (1 + bend)
}

// Section is what is wide in a pipe.
type Section struct {
	Area, Diameter float64 // m², and four times that over the wetted edge, m
	Laminar        float64 // the friction factor times the Reynolds number of a laminar flow
}

// Round is the section of a pipe.
func Round(diameter float64) Section {
	return Section{Area: math.Pi / 4 * diameter * diameter, Diameter: diameter, Laminar: 64}
}

// Channel is the section of a channel with four walls (R. K. Shah and A. L. London, Laminar Flow Forced Convection in Ducts, 1978, to 0.05 %).
func Channel(width, height float64) Section {
	a := min(width, height) / max(width, height)
	return Section{Area: width * height, Diameter: 2 * width * height / (width + height),
		Laminar: 96 * (1 + a*(-1.3553+a*(1.9467+a*(-1.7012+a*(0.9564-0.2537*a)))))}
}

// Edge is the wetted edge of the section, m.
func (s Section) Edge() float64 { return 4 * s.Area / s.Diameter }

// bendLoss is how much of the dynamic pressure a bend by an angle, rad, takes besides the friction along it. A round one is given by its
// radius to its middle over the diameter (H. Itō, J. Basic Eng. 82 (1960) 131, as fitted in F. M. White, Fluid Mechanics, 7th ed., 2011,
// eq. 6.80), a sharp one by none (J. Weisbach, 1855).
func bendLoss(angle, radius, re float64) float64 {
	if radius <= 0 {
		s := math.Sin(angle/2) * math.Sin(angle/2)
		return 0.9457*s + 2.047*s*s
	}
	degrees := angle * 180 / math.Pi
	radius = max(0.5, radius)
	// The factor α is known for 45°, 90° and 180°.
	at45, at90, at180 := 1+5.13*math.Pow(radius, -1.47), 0.95+4.42*math.Pow(radius, -1.96), 1+5.06*math.Pow(radius, -4.52)
	if radius > 9.85 {
		at90 = 1
	}
	alpha := at45
	switch {
	case degrees > 90:
		alpha = at90 + (at180-at90)*min(1, (degrees-90)/90)
	case degrees > 45:
		alpha = at45 + (at90-at45)*(degrees-45)/45
	}
	whole := 0.388 / 90 * alpha * degrees * math.Pow(radius, 0.84) * math.Pow(min(max(re, 2e4), 1e6), -0.17)
	// That is with the friction of a smooth wall along the bend, which is counted along the pipe.
	smooth, _ := Haaland.turbulent(min(max(re, 2e4), 1e6), 0)
	return max(0, whole-smooth*radius*angle)
}

// valves are how much of the dynamic pressure valves take by how far they are open, in descending order (B. R. Munson, T. H. Okiishi, W. W.
// Huebsch and A. P. Rothmayer, Fundamentals of Fluid Mechanics, 7th ed., 2013, table 8.2; globe and angle valves open in proportion, so that
// their loss is that of the open valve over the square of the opening), and the square of the part of the pressure before them that they do
// not give back behind them (IEC 60534-2-1).
var valves = []struct {
	Name     string
	Open     []float64
	Loss     []float64
	Recovery float64
}{
	{"gate", []float64{1, 0.75, 0.5, 0.25}, []float64{0.15, 0.26, 2.1, 17}, 0.5},
	{"ball", []float64{1, 2.0 / 3, 1.0 / 3}, []float64{0.05, 5.5, 210}, 0.36},
	{"globe", []float64{1}, []float64{10}, 0.81},
	{"angle", []float64{1}, []float64{2}, 0.81},
}

// Valves are the kinds of valves.
var Valves = func() (list []string) {
	for _, v := range valves {
		list = append(list, v.Name)
	}
	return list
}()

// closed is what a valve takes that lets nothing through, for all that can be measured.
const closed = 1e14

// valveLoss is what a valve of a kind takes at an opening: between those that are known in powers, below them as the square of the opening.
func valveLoss(kind int, open float64) float64 {
	v := &valves[kind]
	if open >= 1 {
		return v.Loss[0]
	}
	for i := 1; i < len(v.Open); i++ {
		if open >= v.Open[i] {
			part := (open - v.Open[i]) / (v.Open[i-1] - v.Open[i])
			return math.Exp((1-part)*math.Log(v.Loss[i]) + part*math.Log(v.Loss[i-1]))
		}
	}
	last := len(v.Open) - 1
	if open <= 0 {
		return closed
	}
	return min(closed, v.Loss[last]*math.Pow(v.Open[last]/open, 2))
}

// Openings are the forms of openings through which tanks let out into pipes, and Opening what they take of the dynamic pressure.
var (
	Openings = []string{"sharp", "rounded", "projecting"}
	opening  = []float64{0.5, 0.04, 0.8}
)
