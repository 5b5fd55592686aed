package quantity

import (
	"fmt"
	"strings"
)

// Base numbers the base dimensions in a [Dimension].
type Base int

// The seven SI bases, and angle.
const (
	Length Base = iota
	Mass
	Time
	Current
	Temperature
	Amount
	Luminous
	Angle
	bases
)

// sixtieths is the resolution of exponents: halves, thirds, quarters and fifths
// are exact.
const sixtieths = 60

// Dimension is the exponents of the base dimensions, in sixtieths. It is
// comparable, and its zero value is a plain number.
type Dimension [bases]int16

// None is the dimension of a plain number.
var None Dimension

// baseSymbols are the SI units in which a dimension is written when it has no
// name of its own.
var baseSymbols = [bases]string{"m", "kg", "s", "A", "K", "mol", "cd", "rad"}

// dim builds a dimension from whole exponents in the order of the bases.
func dim(exponents ...int) Dimension {
	var d Dimension
	for i, e := range exponents {
		d[i] = int16(e * sixtieths)
	}
	return d
}

// Exponents are those of m, kg, s, A, K, mol, cd and rad; whole is false if one of them is no whole number.
func (d Dimension) Exponents() (list [bases]int, whole bool) {
	whole = true
	for i, e := range d {
		list[i] = int(e) / sixtieths
		whole = whole && int(e)%sixtieths == 0
	}
	return list, whole
}

// Times returns the dimension of a product.
func (d Dimension) Times(e Dimension) Dimension {
	for i := range d {
		d[i] += e[i]
	}
	return d
}

// Over returns the dimension of a quotient.
func (d Dimension) Over(e Dimension) Dimension {
	for i := range d {
		d[i] -= e[i]
	}
	return d
}

// Power returns the dimension raised to num/den. It fails if an exponent would
// not be a multiple of one sixtieth or would leave the range that is stored.
func (d Dimension) Power(num, den int) (Dimension, error) {
	if den == 0 {
		return None, fmt.Errorf("a power with a zero denominator")
	}
	for i, e := range d {
		p := int(e) * num
		if p%den != 0 || !fits(p/den) {
			return None, fmt.Errorf("%s cannot be raised to the power %d/%d", d, num, den)
		}
		d[i] = int16(p / den)
	}
	return d, nil
}

// greatestExponent is that of a unit that is read: no quantity has more.
const greatestExponent = 12

func fits(e int) bool { return e <= greatestExponent*sixtieths && e >= -greatestExponent*sixtieths }

// Fits says that the unit of the dimension can be written and read: none of its exponents is
// beyond 12. Products and quotients of two that fit do not wrap round, whatever they are.
func (d Dimension) Fits() bool {
	for _, e := range d {
		if !fits(int(e)) {
			return false
		}
	}
	return true
}

// WithoutAngle returns the dimension with angle taken as a plain number.
func (d Dimension) WithoutAngle() Dimension {
	d[Angle] = 0
	return d
}

// names are the words for dimensions that people know by name, with the unit in
// which a message shows them.
var names = []struct {
	d    Dimension
	name string
	unit string
}{
	{None, "a plain number", ""},
	{dim(1), "a length", "m"},
	{dim(2), "an area", "m²"},
	{dim(3), "a volume", "m³"},
	{dim(0, 1), "a mass", "kg"},
	{dim(0, 0, 1), "a time", "s"},
	{dim(0, 0, -1), "a frequency", "Hz"},
	{dim(0, 0, 0, 1), "an electric current", "A"},
	{dim(0, 0, 0, 0, 1), "a temperature", "K"},
	{dim(0, 0, 0, 0, 0, 1), "an amount of substance", "mol"},
	{dim(0, 0, 0, 0, 0, 0, 0, 1), "an angle", "rad"},
	{dim(1, 0, -1), "a speed", "m/s"},
	{dim(1, 0, -2), "an acceleration", "m/s²"},
	{dim(1, 1, -2), "a force", "N"},
	{dim(-1, 1, -2), "a pressure", "Pa"},
	{dim(2, 1, -2), "an energy", "J"},
	{dim(2, 1, -3), "a power", "W"},
	{dim(0, 1, -3), "a heat flux", "W/m²"},
	{dim(-1, 1, -3), "a power per volume", "W/m³"},
	{dim(0, 1, -3, 0, -1), "a heat-transfer coefficient", "W/(m²·K)"},
	{dim(1, 1, -3, 0, -1), "a thermal conductivity", "W/(m·K)"},
	{dim(2, 0, -2, 0, -1), "a heat capacity per mass", "J/(kg·K)"},
	{dim(-3, 1), "a density", "kg/m³"},
	{dim(2, 1, -3, -1), "a voltage", "V"},
	{dim(2, 1, -3, -2), "an electric resistance", "Ω"},
	{dim(3, 1, -3, -2), "an electric resistivity", "Ω·m"},
	{dim(-1, 1, -1), "a viscosity", "Pa·s"},
	{dim(3, 0, -1), "a volume flow", "m³/s"},
	{dim(0, 1, -1), "a mass flow", "kg/s"},
	{dim(1, 1, -3, -1), "an electric field", "V/m"},
	{dim(-2, 0, 0, 1), "a current density", "A/m²"},
	{dim(-1, 0, 0, 1), "a magnetic field strength", "A/m"},
	{dim(0, 0, 1, 1), "an electric charge", "C"},
	{dim(-2, 0, 1, 1), "a charge per area", "C/m²"},
	{dim(-2, -1, 4, 2), "a capacitance", "F"},
	{dim(0, 1, -2, -1), "a flux density", "T"},
	{dim(2, 1, -2, -1), "a magnetic flux", "Wb"},
	{dim(2, 1, -2, -2), "an inductance", "H"},
	{dim(-3, -1, 3, 2), "an electric conductivity", "S/m"},
	{dim(4, 1, -3, -2), "an electric contact resistance", "Ω·m²"},
	{dim(2, 1, -3, -1, -1), "a Seebeck coefficient", "V/K"},
	{dim(-1, 0, 0, 0, 1), "a slope of temperature", "K/m"},
	{dim(0, 0, -1, 0, 1), "a rate of temperature", "K/s"},
	{dim(0, 0, 1, 0, 1), "a temperature over time", "K·s"},
	{dim(0, -1, 3, 0, 1), "a thermal contact resistance", "m²·K/W"},
	{dim(-2, -1, 3, 0, 1), "a thermal resistance", "K/W"},
	{dim(2, 1, -3, 0, -1), "a thermal conductance", "W/K"},
	{dim(1, 1, -3), "a power per length", "W/m"},
	{dim(0, 1, -2), "a force per length", "N/m"},
	{dim(2, 1, -2, 0, -1), "a heat capacity", "J/K"},
	{dim(2, 0, -1), "a diffusivity", "m²/s"},
	{dim(2, 0, -2), "an energy per mass", "J/kg"},
	{dim(0, 0, 0, 0, -1), "a quantity per kelvin", "1/K"},
	{dim(-1), "a quantity per length", "1/m"},
	{dim(-3, 0, 0, 0, 0, 1), "a concentration", "mol/m³"},
	{dim(0, 0, -1, 0, 0, 1), "an amount of substance per time", "mol/s"},
	{dim(-2, 0, -1, 0, 0, 1), "an amount of substance per area and time", "mol/(m²·s)"},
	{dim(-3, 0, -1, 0, 0, 1), "an amount of substance per volume and time", "mol/(m³·s)"},
}

// Name returns the word for the dimension ("a length"), or its units if it has
// none.
func (d Dimension) Name() string {
	for _, n := range names {
		if n.d == d {
			return n.name
		}
	}
	return "a quantity in " + d.String()
}

// Symbol returns the SI unit in which the dimension is usually written.
func (d Dimension) Symbol() string {
	for _, n := range names {
		if n.d == d {
			return n.unit
		}
	}
	return d.String()
}

// String writes the dimension in SI base units, for example "m²·kg·s⁻³".
func (d Dimension) String() string {
	var parts []string
	for i, e := range d {
		if e == 0 {
			continue
		}
		parts = append(parts, baseSymbols[i]+exponentText(int(e)))
	}
	if len(parts) == 0 {
		return "1"
	}
	return strings.Join(parts, "·")
}

// exponentText writes an exponent given in sixtieths.
func exponentText(e int) string {
	if e == sixtieths {
		return ""
	}
	if e%sixtieths == 0 {
		return superscript(e / sixtieths)
	}
	g := gcd(abs(e), sixtieths)
	return fmt.Sprintf("^(%d/%d)", e/g, sixtieths/g)
}

var superscripts = strings.NewReplacer(
	"0", "⁰", "1", "¹", "2", "²", "3", "³", "4", "⁴", "5", "⁵", "6", "⁶", "7", "⁷", "8", "⁸", "9", "⁹", "-", "⁻")

func superscript(n int) string { return superscripts.Replace(fmt.Sprint(n)) }

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

func abs(a int) int {
	if a < 0 {
		return -a
	}
	return a
}
