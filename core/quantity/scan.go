package quantity

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// maxUnitDepth bounds nested parentheses in a unit.
const maxUnitDepth = 8

// scanner reads products of unit symbols. A greedy scanner stops without error
// where the text no longer continues a unit; a strict one reports it.
type scanner struct {
	text   string
	pos    int
	greedy bool
}

func (s *scanner) done() bool { return s.pos >= len(s.text) }

func (s *scanner) peek() rune {
	r, _ := utf8.DecodeRuneInString(s.text[s.pos:])
	return r
}

func (s *scanner) spaces() {
	for !s.done() {
		r, size := utf8.DecodeRuneInString(s.text[s.pos:])
		if !unicode.IsSpace(r) {
			return
		}
		s.pos += size
	}
}

// product reads factors joined by ·, *, / or spaces, multiplies them into u and
// returns how many symbols it read.
func (s *scanner) product(u *Unit, depth int) (int, error) {
	count, err := s.factor(u, 1, depth, 0)
	if err != nil {
		return count, err
	}
	for {
		mark := s.pos
		s.spaces()
		if s.done() || s.peek() == ')' {
			s.pos = mark
			return count, nil
		}
		sign := 1
		switch r := s.peek(); {
		case r == '/':
			sign = -1
			s.pos++
		case r == '*' && !s.greedy:
			s.pos++
		case r == '·' || r == '⋅':
			s.pos += utf8.RuneLen(r)
		case mark == s.pos:
			return count, nil
		}
		s.spaces()
		next := *u
		n, err := s.factor(&next, sign, depth, count)
		if err != nil {
			if s.greedy {
				s.pos = mark
				return count, nil
			}
			return count, err
		}
		*u = next
		count += n
	}
}

// factor reads one symbol with its exponent, or a product in parentheses.
// before is the number of symbols read so far.
func (s *scanner) factor(u *Unit, sign, depth, before int) (int, error) {
	if s.done() {
		return 0, fmt.Errorf("the unit %q ends too early", s.text)
	}
	if s.peek() == '(' {
		if depth >= maxUnitDepth {
			return 0, fmt.Errorf("the unit %q is nested too deeply", s.text)
		}
		s.pos++
		inner := Unit{Factor: 1}
		n, err := s.product(&inner, depth+1)
		if err != nil {
			return 0, err
		}
		s.spaces()
		if s.done() || s.peek() != ')' {
			return 0, fmt.Errorf("in the unit %q a parenthesis is not closed", s.text)
		}
		s.pos++
		return n + 1, s.raise(u, inner, sign, true)
	}
	start := s.pos
	for !s.done() {
		r, size := utf8.DecodeRuneInString(s.text[s.pos:])
		if !(unicode.IsLetter(r) || r == '°' || r == '%' || r == '℃' || r == '_') {
			break
		}
		s.pos += size
	}
	// "1/m" begins with a one that stands for no unit.
	if s.pos == start && strings.HasPrefix(s.text[start:], "1") && (len(s.text) == start+1 || s.text[start+1] == '/') {
		s.pos++
	}
	name := s.text[start:s.pos]
	sym, ok := lookup(name)
	if !ok || (s.greedy && s.pos < len(s.text) && isNamePart(s.peek()) && !isDigit(s.peek())) {
		s.pos = start
		if name == "" {
			name = s.text[start:]
		}
		return 0, fmt.Errorf("%q is not a unit that is known here", name)
	}
	one := Unit{Factor: sym.factor, Offset: sym.offset, Dimension: sym.dim}
	return 1, s.raise(u, one, sign, !s.greedy || before > 0)
}

func isDigit(r rune) bool    { return r >= '0' && r <= '9' }
func isNamePart(r rune) bool { return r == '_' || unicode.IsLetter(r) || isDigit(r) || r == '(' }

// raise reads the exponent behind a factor and multiplies the factor into u.
// A bare signed exponent ("m-2") is read only if bare is set: behind the first
// symbol of a unit in a formula it would be a subtraction.
func (s *scanner) raise(u *Unit, f Unit, sign int, bare bool) error {
	exp, raised, err := s.exponent(bare)
	if err != nil {
		return err
	}
	d, err := f.Dimension.Power(sign*exp, exponentParts)
	if err != nil {
		return err
	}
	u.Factor *= math.Pow(f.Factor, float64(sign*exp)/exponentParts)
	u.Dimension = u.Dimension.Times(d)
	if !raised && sign == 1 {
		u.Offset = f.Offset
	} else {
		u.Offset = 0
	}
	return nil
}

var superDigits = map[rune]byte{'⁰': '0', '¹': '1', '²': '2', '³': '3', '⁴': '4', '⁵': '5', '⁶': '6', '⁷': '7', '⁸': '8', '⁹': '9', '⁻': '-'}

// exponentParts is the fineness of exponents: sixtieths, so that halves, thirds,
// quarters and fifths are exact.
const exponentParts = 60

// exponent reads ^2, ^-2, ^1.25, ^(1/3), ², ⁻², 2 or -2 in parts of one; none is
// one.
func (s *scanner) exponent(bare bool) (value int, raised bool, err error) {
	mark := s.pos
	var text []byte
	if !s.done() && s.peek() == '^' {
		s.pos++
		if n, size := fraction(s.text[s.pos:]); size > 0 {
			s.pos += size
			return n, true, nil
		}
		bare = true
	} else {
		for !s.done() {
			b, ok := superDigits[s.peek()]
			if !ok {
				break
			}
			text = append(text, b)
			s.pos += utf8.RuneLen(s.peek())
		}
	}
	if len(text) == 0 && bare {
		if !s.done() && (s.text[s.pos] == '-' || s.text[s.pos] == '+') {
			text = append(text, s.text[s.pos])
			s.pos++
		}
		for !s.done() && isDigit(s.peek()) {
			text = append(text, s.text[s.pos])
			s.pos++
		}
		if len(text) == 0 || text[len(text)-1] == '-' || text[len(text)-1] == '+' {
			s.pos = mark
			text = nil
		}
	}
	if len(text) == 0 {
		return exponentParts, false, nil
	}
	value, err = strconv.Atoi(string(text))
	if err != nil || abs(value) > 12 {
		return 0, false, fmt.Errorf("in the unit %q the exponent %q is out of range", s.text, text)
	}
	return value * exponentParts, true, nil
}

var fractionPattern = regexp.MustCompile(`^(?:([-+]?\d{1,2}\.\d{1,6})|\(([-+]?\d{1,2})/(\d{1,2})\))`)

// fraction reads an exponent that is no whole number, 1.25 or (1/3), in parts of
// one, with the number of bytes used: 0 if there is none.
func fraction(text string) (parts, size int) {
	m := fractionPattern.FindStringSubmatch(text)
	if m == nil {
		return 0, 0
	}
	x, _ := strconv.ParseFloat(m[1], 64)
	if m[1] == "" {
		a, _ := strconv.Atoi(m[2])
		b, _ := strconv.Atoi(m[3])
		x = float64(a) / float64(b)
	}
	n := math.Round(x * exponentParts)
	if math.IsNaN(x) || math.Abs(x) > 12 || math.Abs(n-x*exponentParts) > 1e-3 {
		return 0, 0
	}
	return int(n), len(m[0])
}
