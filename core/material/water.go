package material

import "math"

// What is computed of water and brine: temperatures t in °C or T in K, mass fractions w of salt
// from 0 to 1, all else in SI units, at atmospheric pressure.

// waterDensity is that of Kell (J. Chem. Eng. Data 20 (1975) 97), 0 to 150 °C, kg/m³.
func waterDensity(T float64) float64 {
	t := T - 273.15
	return (999.83952 + t*(16.945176+t*(-7.9870401e-3+t*(-46.170461e-6+t*(105.56302e-9-280.54253e-12*t))))) / (1 + 16.879850e-3*t)
}

// The release of the IAPWS on liquid water at 0.1 MPa (SR6-08, 2011), 253 to 383 K, as sums of
// powers of T/300 K.
func powers(T float64, terms ...[2]float64) float64 {
	sum := 0.0
	for _, c := range terms {
		sum += c[0] * math.Pow(T/300, c[1])
	}
	return sum
}

func waterViscosity(T float64) float64 {
	return 1e-6 * powers(T, [2]float64{280.68, -1.9}, [2]float64{511.45, -7.7}, [2]float64{61.131, -19.6}, [2]float64{0.45903, -40})
}

func waterConductivity(T float64) float64 {
	return powers(T, [2]float64{1.6630, -1.15}, [2]float64{-1.7781, -3.4}, [2]float64{1.1567, -6}, [2]float64{-0.432115, -7.6})
}

func waterPermittivity(T float64) float64 {
	return powers(T, [2]float64{-43.7527, -0.05}, [2]float64{299.504, -1.47}, [2]float64{-399.364, -2.11}, [2]float64{221.327, -2.31})
}

// waterCapacity is at constant pressure, by the rows of Incropera and others, Fundamentals of Heat
// and Mass Transfer, 6th ed., 2007, table A.6, J/(kg·K).
var waterCapacity = mustTable(
	[]float64{273.15, 275, 280, 285, 290, 295, 300, 305, 310, 315, 320, 325, 330, 335, 340, 345, 350, 355, 360, 365, 370, 373.15, 375, 380, 385},
	[]float64{4217, 4211, 4198, 4189, 4184, 4181, 4179, 4178, 4178, 4179, 4180, 4182, 4184, 4186, 4188, 4191, 4195, 4199, 4203, 4209, 4214, 4217, 4220, 4226, 4232})

// waterSound is the speed of sound (W. Marczak, J. Acoust. Soc. Am. 102 (1997) 2776), 0 to 95 °C.
func waterSound(T float64) float64 {
	t := T - 273.15
	return 1402.385 + t*(5.038813+t*(-5.799136e-2+t*(3.287156e-4+t*(-1.398845e-6+2.787860e-9*t))))
}

// waterVapour is the pressure of saturated vapour (W. Wagner, A. Pruß, J. Phys. Chem. Ref. Data 22
// (1993) 783), 273.16 to 647 K, Pa.
func waterVapour(T float64) float64 {
	const critical = 647.096
	u := 1 - T/critical
	return 22.064e6 * math.Exp(critical/T*(-7.85951783*u+1.84408259*math.Pow(u, 1.5)-11.7866497*u*u*u+22.6807411*math.Pow(u, 3.5)-15.9618719*math.Pow(u, 4)+1.80122502*math.Pow(u, 7.5)))
}

// waterTension is the surface tension (IAPWS R1-76, 2014), N/m.
func waterTension(T float64) float64 {
	u := 1 - T/647.096
	return 0.2358 * math.Pow(u, 1.256) * (1 - 0.625*u)
}

// brineDensity is that of sodium chloride in water (M. Laliberté, W. E. Cooper, J. Chem. Eng. Data
// 49 (2004) 1141), 5 to 100 °C, up to saturation (w = 0.26).
func brineDensity(T, w float64) float64 {
	t := T - 273.15
	apparent := (-0.00433*w + 0.06471) * math.Exp(1e-6*(t+3315.6)*(t+3315.6)) / (w + 1.01660 + 0.014624*t)
	return 1 / ((1-w)/waterDensity(T) + w/apparent)
}

// brineViscosity is of the same (M. Laliberté, J. Chem. Eng. Data 52 (2007) 321).
func brineViscosity(T, w float64) float64 {
	t := T - 273.15
	salt := 1e-3 * math.Exp((16.222*math.Pow(w, 1.3229)+1.4849)/(0.0074691*t+1)) / (30.78*math.Pow(w, 2.0583) + 1)
	return math.Pow(waterViscosity(T), 1-w) * math.Pow(salt, w)
}

// brineCapacity is of the same (M. Laliberté, J. Chem. Eng. Data 54 (2009) 1725).
func brineCapacity(T, w float64) float64 {
	t := T - 273.15
	salt := -69.36*math.Exp(-0.07821*t+3.8480*math.Exp(0.01*t)-11.2762*w) + 8731.9*math.Pow(w, 1.8125)
	return (1-w)*waterCapacity(T) + w*salt
}

// brineConductivity is of the same (K. D. Yusufova and others, J. Eng. Phys. 29 (1975) 1225).
func brineConductivity(T, w float64) float64 {
	t, s := T-273.15, 100*w
	return waterConductivity(T) * (1 - (2.3434e-3-7.924e-6*t+3.924e-8*t*t)*s + (1.06e-5-2e-8*t+1.2e-10*t*t)*s*s)
}

// brineResistivity is of the same, by its conductivity at 18 °C (Kaye, Laby, Tables of Physical and
// Chemical Constants, 16th ed., 1995) and 2.14 % more for each kelvin, from w = 0.005 on.
func brineResistivity(T, w float64) float64 {
	return 1 / (brineConductance(w) * (1 + 0.0214*(T-291.15)))
}

var brineConductance = mustTable([]float64{0, 0.005, 0.01, 0.02, 0.05, 0.10, 0.15, 0.20, 0.25, 0.26}, []float64{5e-4, 0.81, 1.58, 2.98, 6.72, 12.11, 16.42, 19.57, 21.35, 21.51})

// brineVapour is the pressure of water over the same: that of water times its activity, with osmotic
// coefficients at 25 °C of R. A. Robinson, R. H. Stokes, Electrolyte Solutions, 1959.
func brineVapour(T, w float64) float64 {
	molality := w / (1 - w) / 0.058443
	return waterVapour(T) * math.Exp(-2*0.0180153*molality*osmotic(molality))
}

var osmotic = mustTable([]float64{0, 0.1, 0.5, 1, 2, 3, 4, 5, 6}, []float64{1, 0.932, 0.921, 0.936, 0.983, 1.045, 1.116, 1.191, 1.270})

// Sea water by the correlations that M. H. Sharqawy, J. H. Lienhard, S. M. Zubair, Desalin. Water
// Treat. 16 (2010) 354 recommend, 0 to 120 °C, salinity s as a mass fraction up to 0.12.

func seaDensity(T, s float64) float64 {
	t := T - 273.15
	return 999.9 + t*(2.034e-2+t*(-6.162e-3+t*(2.261e-5-4.657e-8*t))) + s*(802.0+t*(-2.001+t*(1.677e-2-3.060e-5*t))-1.613e-5*s*t*t)
}

func seaViscosity(T, s float64) float64 {
	t := T - 273.15
	water := 4.2844e-5 + 1/(0.157*(t+64.993)*(t+64.993)-91.296)
	return water * (1 + (1.541+1.998e-2*t-9.52e-5*t*t)*s + (7.974-7.561e-2*t+4.724e-4*t*t)*s*s)
}

func seaCapacity(T, s float64) float64 {
	g := 1000 * s
	a, b := 5.328-9.76e-2*g+4.04e-4*g*g, -6.913e-3+7.351e-4*g-3.15e-6*g*g
	c, d := 9.6e-6-1.927e-6*g+8.23e-9*g*g, 2.5e-9+1.666e-9*g-7.125e-12*g*g
	return 1000 * (a + T*(b+T*(c+d*T)))
}

func seaConductivity(T, s float64) float64 {
	g := 1000 * s
	return math.Pow(10, math.Log10(240+0.0002*g)+0.434*(2.3-(343.5+0.037*g)/T)*math.Cbrt(1-T/(647+0.03*g))) / 1000
}

// seaSound is that of K. V. Mackenzie (J. Acoust. Soc. Am. 70 (1981) 807) at the surface, 2 to 30 °C,
// salinity 0.025 to 0.040.
func seaSound(T, s float64) float64 {
	t := T - 273.15
	return 1448.96 + 4.591*t - 5.304e-2*t*t + 2.374e-4*t*t*t + (1.340-1.025e-2*t)*(1000*s-35)
}
