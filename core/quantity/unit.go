package quantity

import (
	"fmt"
	"math"
	"strings"
	"unicode/utf8"
)

// Unit is what one symbol or a product of symbols stands for:
// SI value = number · Factor + Offset.
type Unit struct {
	Text      string
	Factor    float64
	Offset    float64 // not zero only for a temperature scale standing alone
	Dimension Dimension
}

// Affine says that the unit is a scale with an offset, such as °C.
func (u Unit) Affine() bool { return u.Offset != 0 }

// SI converts a number in this unit.
func (u Unit) SI(number float64) float64 { return number*u.Factor + u.Offset }

// From converts an SI value to a number in this unit. A difference ignores the
// offset of a temperature scale.
func (u Unit) From(si float64, difference bool) float64 {
	if difference {
		return si / u.Factor
	}
	return (si - u.Offset) / u.Factor
}

// symbol is an entry of the unit table.
type symbol struct {
	factor   float64
	offset   float64
	dim      Dimension
	prefixed bool // SI prefixes may stand before it
	about    string
}

const (
	inch     = 0.0254
	pound    = 0.45359237
	gravity  = 9.80665
	btu      = 1055.05585262
	zeroC    = 273.15
	rankine  = 5.0 / 9
	calorie  = 4.184
	torr     = 101325.0 / 760
	electron = 1.602176634e-19
)

// symbols is the one table of units. Sources: the SI brochure (9th edition,
// 2019) and, for units of the inch-pound system, NIST Special Publication 811
// (2008), appendix B.
var symbols = map[string]symbol{
	"m":   {1, 0, dim(1), true, "metre"},
	"in":  {inch, 0, dim(1), false, "inch"},
	"ft":  {12 * inch, 0, dim(1), false, "foot"},
	"mil": {inch / 1000, 0, dim(1), false, "thousandth of an inch"},
	"g":   {1e-3, 0, dim(0, 1), true, "gram"},
	"lb":  {pound, 0, dim(0, 1), false, "pound"},
	"s":   {1, 0, dim(0, 0, 1), true, "second"},
	"min": {60, 0, dim(0, 0, 1), false, "minute"},
	"h":   {3600, 0, dim(0, 0, 1), false, "hour"},
	"d":   {86400, 0, dim(0, 0, 1), false, "day"},
	"A":   {1, 0, dim(0, 0, 0, 1), true, "ampere"},
	"K":   {1, 0, dim(0, 0, 0, 0, 1), true, "kelvin"},
	"°C":  {1, zeroC, dim(0, 0, 0, 0, 1), false, "degree Celsius"},
	"°F":  {rankine, zeroC - 32*rankine, dim(0, 0, 0, 0, 1), false, "degree Fahrenheit"},
	"mol": {1, 0, dim(0, 0, 0, 0, 0, 1), true, "mole"},
	"M":   {1000, 0, dim(-3, 0, 0, 0, 0, 1), true, "mole per litre"},
	"cd":  {1, 0, dim(0, 0, 0, 0, 0, 0, 1), true, "candela"},
	"rad": {1, 0, dim(0, 0, 0, 0, 0, 0, 0, 1), true, "radian"},
	"deg": {math.Pi / 180, 0, dim(0, 0, 0, 0, 0, 0, 0, 1), false, "degree of angle"},
	"°":   {math.Pi / 180, 0, dim(0, 0, 0, 0, 0, 0, 0, 1), false, "degree of angle"},
	"rpm": {2 * math.Pi / 60, 0, dim(0, 0, -1, 0, 0, 0, 0, 1), false, "turns per minute"},
	"Hz":  {1, 0, dim(0, 0, -1), true, "hertz"},
	"N":   {1, 0, dim(1, 1, -2), true, "newton"},
	"lbf": {pound * gravity, 0, dim(1, 1, -2), false, "pound-force"},
	"Pa":  {1, 0, dim(-1, 1, -2), true, "pascal"},
	"bar": {1e5, 0, dim(-1, 1, -2), true, "bar"},
	"atm": {101325, 0, dim(-1, 1, -2), false, "standard atmosphere"},
	"psi": {pound * gravity / (inch * inch), 0, dim(-1, 1, -2), false, "pound-force per square inch"},

	"mmHg": {torr, 0, dim(-1, 1, -2), false, "millimetre of mercury"},
	"J":    {1, 0, dim(2, 1, -2), true, "joule"},
	"Wh":   {3600, 0, dim(2, 1, -2), true, "watt hour"},
	"cal":  {calorie, 0, dim(2, 1, -2), true, "calorie"},
	"eV":   {electron, 0, dim(2, 1, -2), true, "electronvolt"},
	"BTU":  {btu, 0, dim(2, 1, -2), false, "British thermal unit"},
	"W":    {1, 0, dim(2, 1, -3), true, "watt"},
	"hp":   {550 * 12 * inch * pound * gravity, 0, dim(2, 1, -3), false, "horsepower"},
	"V":    {1, 0, dim(2, 1, -3, -1), true, "volt"},
	"Ω":    {1, 0, dim(2, 1, -3, -2), true, "ohm"},
	"ohm":  {1, 0, dim(2, 1, -3, -2), true, "ohm"},
	"S":    {1, 0, dim(-2, -1, 3, 2), true, "reciprocal ohm"},
	"F":    {1, 0, dim(-2, -1, 4, 2), true, "farad"},
	"H":    {1, 0, dim(2, 1, -2, -2), true, "henry"},
	"C":    {1, 0, dim(0, 0, 1, 1), true, "coulomb"},
	"Ah":   {3600, 0, dim(0, 0, 1, 1), true, "ampere hour"},
	"T":    {1, 0, dim(0, 1, -2, -1), true, "tesla"},
	"G":    {1e-4, 0, dim(0, 1, -2, -1), true, "gauss"},
	"Wb":   {1, 0, dim(2, 1, -2, -1), true, "weber"},
	"Oe":   {1000 / (4 * math.Pi), 0, dim(-1, 0, 0, 1), true, "oersted"},
	"l":    {1e-3, 0, dim(3), true, "litre"},
	"L":    {1e-3, 0, dim(3), true, "litre"},
	"P":    {0.1, 0, dim(-1, 1, -1), true, "poise"},
	"St":   {1e-4, 0, dim(2, 0, -1), true, "stokes"},
	"%":    {0.01, 0, None, false, "hundredth"},
	"dB":   {1, 0, None, false, "decibel, a level as a plain number"},
	"ppm":  {1e-6, 0, None, false, "millionth"},
	"1":    {1, 0, None, false, "one"},
}

// prefixes of the SI. Both micro signs are read.
var prefixes = map[string]float64{
	"T": 1e12, "G": 1e9, "M": 1e6, "k": 1e3, "h": 1e2, "da": 10, "d": 0.1, "c": 1e-2, "m": 1e-3,
	"µ": 1e-6, "μ": 1e-6, "u": 1e-6, "n": 1e-9, "p": 1e-12, "f": 1e-15,
}

// lookup finds a single symbol with or without a prefix. A symbol of the table
// wins over a prefix and a shorter one: "min" is a minute, "mm" a millimetre.
func lookup(name string) (symbol, bool) {
	if s, ok := symbols[name]; ok {
		return s, true
	}
	if name == "℃" {
		return symbols["°C"], true
	}
	for n := 1; n <= 2; n++ {
		head := runes(name, n)
		if head == "" {
			break
		}
		f, ok := prefixes[head]
		if !ok {
			continue
		}
		if s, ok := symbols[name[len(head):]]; ok && s.prefixed {
			s.factor *= f
			return s, true
		}
	}
	return symbol{}, false
}

// runes returns the first n runes of s if more follow, else "".
func runes(s string, n int) string {
	end := 0
	for range n {
		_, size := utf8.DecodeRuneInString(s[end:])
		end += size
		if end >= len(s) {
			return ""
		}
	}
	return s[:end]
}

// IsUnit says whether name is one unit symbol, with or without a prefix.
func IsUnit(name string) bool {
	_, ok := lookup(name)
	return ok
}

// ParseUnit reads a unit as people write it: "W/(m²·K)", "W/m^2/K",
// "W m-2 K-1", "l/min". The empty text is the unit of plain numbers.
func ParseUnit(text string) (Unit, error) {
	s := &scanner{text: strings.TrimSpace(text)}
	u := Unit{Text: s.text, Factor: 1}
	if s.text == "" {
		return u, nil
	}
	count, err := s.product(&u, 0)
	if err != nil {
		return Unit{}, err
	}
	if !s.done() {
		return Unit{}, fmt.Errorf("in the unit %q, %q was not understood", s.text, s.text[s.pos:])
	}
	if count > 1 {
		u.Offset = 0
	}
	return u, nil
}

// MustUnit is ParseUnit for units written in the program.
func MustUnit(text string) Unit {
	u, err := ParseUnit(text)
	if err != nil {
		panic("quantity: " + err.Error())
	}
	return u
}

// ScanUnit reads the longest unit at the start of text and returns it with the
// number of bytes used, 0 if there is none. It is how a formula reads the unit
// behind a number: a "/" or a space belongs to the unit only if a unit symbol
// follows.
func ScanUnit(text string) (Unit, int) {
	s := &scanner{text: text, greedy: true}
	u := Unit{Factor: 1}
	count, err := s.product(&u, 0)
	if err != nil || s.pos == 0 {
		return Unit{Factor: 1}, 0
	}
	if count > 1 {
		u.Offset = 0
	}
	u.Text = strings.TrimSpace(text[:s.pos])
	return u, s.pos
}
