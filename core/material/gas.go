package material

import "math"

// What is computed of gases: temperatures in K, pressures in Pa, humidities from 0 to 1.

const (
	gasConstant = 8.314462618 // J/(mol·K)
	airMass     = 28.9647e-3  // kg/mol
	vapourMass  = 18.01528e-3
)

// sutherland is the viscosity of a gas from that at 0 °C and its constant, K (W. Sutherland, Phil.
// Mag. 36 (1893) 507).
func sutherland(T, at0, constant float64) float64 {
	const zero = 273.15
	return at0 * (zero + constant) / (T + constant) * math.Pow(T/zero, 1.5)
}

// vapourPart is the mole fraction of vapour in air of a humidity.
func vapourPart(T, p, humidity float64) float64 { return humidity * waterVapour(T) / p }

func humidDensity(T, p, humidity float64) float64 {
	x := vapourPart(T, p, humidity)
	return p * (airMass*(1-x) + vapourMass*x) / (gasConstant * T)
}

// humidCapacity mixes by mass those of dry air and of vapour.
func humidCapacity(T, p, humidity float64) float64 {
	x := vapourPart(T, p, humidity)
	w := vapourMass * x / (airMass*(1-x) + vapourMass*x)
	t := T - 273.15
	air := 1005.8 + 0.01*t + 4.4e-4*t*t
	vapour := 1869 - 0.2578*t + 1.941e-2*t*t
	return (1-w)*air + w*vapour
}

// mixed mixes a property of dry air and vapour by the rule of C. R. Wilke (J. Chem. Phys. 18 (1950)
// 517) with their viscosities.
func mixed(T, x, air, vapour float64) float64 {
	muAir, muVapour := sutherland(T, 1.716e-5, 110.4), vapourViscosity(T)
	phi := func(a, b, ma, mb float64) float64 {
		return sq(1+math.Sqrt(a/b)*math.Pow(mb/ma, 0.25)) / math.Sqrt(8*(1+ma/mb))
	}
	return (1-x)*air/(1-x+x*phi(muAir, muVapour, airMass, vapourMass)) + x*vapour/(x+(1-x)*phi(muVapour, muAir, vapourMass, airMass))
}

func sq(x float64) float64 { return x * x }

// vapourViscosity and vapourConductivity are of saturated vapour (P. T. Tsilingiris, Energy Convers.
// Manage. 49 (2008) 1098), 0 to 100 °C.
func vapourViscosity(T float64) float64 { return (80.58131868 + 0.4000549451*(T-273.15)) * 1e-7 }

func vapourConductivity(T float64) float64 {
	t := T - 273.15
	return (17.61758242 + 5.558941059e-2*t + 1.663336663e-4*t*t) * 1e-3
}

func humidViscosity(T, p, humidity float64) float64 {
	return mixed(T, vapourPart(T, p, humidity), sutherland(T, 1.716e-5, 110.4), vapourViscosity(T))
}

// airConductivity is that of dry air (U.S. Standard Atmosphere, 1976).
func airConductivity(T float64) float64 {
	return 2.64638e-3 * math.Pow(T, 1.5) / (T + 245.4*math.Pow(10, -12/T))
}

func humidConductivity(T, p, humidity float64) float64 {
	return mixed(T, vapourPart(T, p, humidity), airConductivity(T), vapourConductivity(T))
}

func humidSound(T, p, humidity float64) float64 {
	x := vapourPart(T, p, humidity)
	m := airMass*(1-x) + vapourMass*x
	c := humidCapacity(T, p, humidity)
	return math.Sqrt(c / (c - gasConstant/m) * gasConstant * T / m)
}

// airAbsorption is how fast the amplitude of sound of a frequency, Hz, falls in air at 1 atm, 1/m
// (ISO 9613-1, 1993).
func airAbsorption(f, T, humidity float64) float64 {
	const pressure, reference, triple = 101325.0, 293.15, 273.16
	saturated := math.Pow(10, -6.8346*math.Pow(triple/T, 1.261)+4.6151) * pressure
	h := 100 * humidity * saturated / pressure
	oxygen := 24 + 4.04e4*h*(0.02+h)/(0.391+h)
	nitrogen := math.Pow(T/reference, -0.5) * (9 + 280*h*math.Exp(-4.170*(math.Pow(T/reference, -1./3)-1)))
	return f * f * (1.84e-11*math.Sqrt(T/reference) + math.Pow(T/reference, -2.5)*
		(0.01275*math.Exp(-2239.1/T)/(oxygen+f*f/oxygen)+0.1068*math.Exp(-3352/T)/(nitrogen+f*f/nitrogen)))
}
