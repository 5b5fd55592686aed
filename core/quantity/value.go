package quantity

import (
	"math"
	"strconv"
	"strings"
)

// Value is a number with a dimension, in SI base units.
type Value struct {
	SI        float64
	Dimension Dimension
	// Affine marks a temperature written on a scale with an offset (°C, °F): a
	// point on the scale, never a difference.
	Affine bool
	// Unit is the unit in which the value was written, "" if none was.
	Unit string
}

// Number returns a plain number.
func Number(x float64) Value { return Value{SI: x} }

// Digits is how many significant digits are shown where nobody chose.
const Digits = 4

// Show prints an SI value in the given unit with the given number of
// significant digits (0 means [Digits]): "118.2 °C", "295 g". A difference is
// converted without the offset of a temperature scale. The unit must be one
// that ParseUnit reads; if it is not, the SI value is shown bare.
func Show(si float64, unit string, difference bool, digits int) string {
	u, err := ParseUnit(unit)
	if err != nil {
		return Figures(si, digits)
	}
	if difference && u.Affine() {
		unit = "K"
		u = MustUnit(unit)
	}
	text := Figures(u.From(si, difference), digits)
	if unit == "" {
		return text
	}
	if unit == "%" || unit == "°" {
		return text + "\u202f" + unit
	}
	return text + "\u00a0" + unit
}

// Margin prints an error in SI units that belongs to a value shown in a unit, with
// a sign and rounded up to one digit: "± 0.2". An error of nothing against the
// value is "".
func Margin(si, value float64, unit string) string {
	if !(math.Abs(si) > 1e-6*math.Abs(value)) {
		return ""
	}
	x := math.Abs(si)
	if u, err := ParseUnit(unit); err == nil {
		x = u.From(x, true)
	}
	step := math.Pow(10, math.Floor(math.Log10(x)))
	return "±\u202f" + Figures(math.Ceil(x/step-1e-9)*step, 1)
}

// Figures prints a number with the given significant digits (0 means [Digits]):
// thousands are set apart by a narrow space, and very large or small numbers
// use a power of ten.
func Figures(x float64, digits int) string {
	if digits <= 0 {
		digits = Digits
	}
	switch {
	case math.IsNaN(x):
		return "undefined"
	case math.IsInf(x, 1):
		return "∞"
	case math.IsInf(x, -1):
		return "−∞"
	case x == 0:
		return "0"
	}
	mag := math.Floor(math.Log10(math.Abs(x)))
	if mag >= 7 || mag < -4 {
		text := strconv.FormatFloat(x, 'e', digits-1, 64)
		mantissa, exp, _ := strings.Cut(text, "e")
		n, _ := strconv.Atoi(exp)
		return minus(trimZeros(mantissa)) + "·10" + superscript(n)
	}
	places := max(digits-1-int(mag), 0)
	text := strconv.FormatFloat(x, 'f', places, 64)
	whole, frac, _ := strings.Cut(text, ".")
	whole = thousands(whole)
	if frac != "" {
		whole += "." + frac
	}
	return minus(whole)
}

func trimZeros(s string) string {
	if !strings.Contains(s, ".") {
		return s
	}
	return strings.TrimRight(strings.TrimRight(s, "0"), ".")
}

func minus(s string) string { return strings.Replace(s, "-", "−", 1) }

// thousands groups the digits of a whole number of more than four digits.
func thousands(s string) string {
	sign := ""
	if strings.HasPrefix(s, "-") {
		sign, s = "-", s[1:]
	}
	if len(s) <= 4 {
		return sign + s
	}
	var b strings.Builder
	for i, r := range s {
		if i > 0 && (len(s)-i)%3 == 0 {
			b.WriteRune('\u202f')
		}
		b.WriteRune(r)
	}
	return sign + b.String()
}

// Count prints a whole number with its thousands set apart.
func Count(n int) string { return minus(thousands(strconv.Itoa(n))) }
