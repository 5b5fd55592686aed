package formula

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"saltkettle/core/quantity"
)

// Bounds of what is read.
const (
	maxLength = 20000
	maxDepth  = 60
)

// Error is a fault in a formula. Column counts characters from 1.
type Error struct {
	Text   string
	Column int
	What   string
}

func (e *Error) Error() string {
	if e.Column <= 1 {
		return e.What
	}
	return fmt.Sprintf("%s (at character %d)", e.What, e.Column)
}

type kind int

const (
	end kind = iota
	number
	name
	quoted // a name between double quotes, of a part
	operator
)

// token is a lexical element: a number with its unit, a name or an operator.
type token struct {
	kind  kind
	text  string
	pos   int // byte offset in the formula
	value quantity.Value
}

// scan splits a formula into tokens; the last one is of kind end.
func scan(text string) ([]token, error) {
	if len(text) > maxLength {
		return nil, &Error{Text: text, What: fmt.Sprintf("a formula may have %d characters at most", maxLength)}
	}
	if !utf8.ValidString(text) {
		return nil, &Error{Text: text, What: "the text is not valid UTF-8"}
	}
	var tokens []token
	depth := 0 // of parentheses
	for pos := 0; pos < len(text); {
		r, size := utf8.DecodeRuneInString(text[pos:])
		switch {
		case unicode.IsSpace(r):
			pos += size
		case isDigit(r) || r == '.' && pos+1 < len(text) && isDigit(rune(text[pos+1])):
			t, err := scanNumber(text, pos, depth > 0)
			if err != nil {
				return nil, err
			}
			tokens = append(tokens, t)
			pos += len(t.text)
		case unicode.IsLetter(r) || r == '_':
			start := pos
			for pos < len(text) {
				r, size := utf8.DecodeRuneInString(text[pos:])
				if !(unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_') {
					break
				}
				pos += size
			}
			tokens = append(tokens, token{kind: name, text: text[start:pos], pos: start})
		case r == '²' || r == '³':
			power := 2.0
			if r == '³' {
				power = 3
			}
			tokens = append(tokens, token{kind: operator, text: "^", pos: pos}, token{kind: number, text: text[pos : pos+size], pos: pos, value: quantity.Number(power)})
			pos += size
		case r == '"':
			length := strings.IndexByte(text[pos+1:], '"')
			if length < 0 {
				return nil, fault(text, pos, "this quotation mark is not closed")
			}
			tokens = append(tokens, token{kind: quoted, text: text[pos+1 : pos+1+length], pos: pos})
			pos += length + 2
		default:
			t := scanOperator(text, pos, r, size)
			if t.text == "" {
				return nil, fault(text, pos, "the character %q is not understood here", r)
			}
			switch t.text {
			case "(":
				depth++
			case ")":
				depth--
			}
			tokens = append(tokens, t)
			pos = t.pos + max(len(t.text), size)
		}
	}
	return append(tokens, token{kind: end, pos: len(text)}), nil
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }

// scanNumber reads a number and the unit that follows it. The text of the token
// is all that was used.
func scanNumber(text string, start int, inside bool) (token, error) {
	pos := start
	digits := func() {
		for pos < len(text) && isDigit(rune(text[pos])) {
			pos++
		}
	}
	digits()
	if pos < len(text) && text[pos] == '.' {
		pos++
		digits()
	}
	if pos < len(text) && (text[pos] == 'e' || text[pos] == 'E') {
		mark := pos
		pos++
		if pos < len(text) && (text[pos] == '+' || text[pos] == '-') {
			pos++
		}
		if pos < len(text) && isDigit(rune(text[pos])) {
			digits()
		} else {
			pos = mark
		}
	}
	if pos < len(text) && text[pos] == ',' && pos+1 < len(text) && isDigit(rune(text[pos+1])) && pos+2 <= len(text) && !inside {
		return token{}, fault(text, pos, "write the decimal point as \".\"")
	}
	x, err := strconv.ParseFloat(text[start:pos], 64)
	if err != nil {
		return token{}, fault(text, start, "%q is not a number that can be stored", text[start:pos])
	}
	space := pos
	for space < len(text) && unicode.IsSpace(rune(text[space])) {
		space++
	}
	v := quantity.Number(x)
	if u, n := quantity.ScanUnit(text[space:]); n > 0 {
		v = quantity.Value{SI: u.SI(x), Dimension: u.Dimension, Affine: u.Affine(), Unit: u.Text}
		pos = space + n
	}
	return token{kind: number, text: text[start:pos], pos: start, value: v}, nil
}

func scanOperator(text string, pos int, r rune, size int) token {
	t := token{kind: operator, pos: pos}
	if pos+1 < len(text) {
		switch two := text[pos : pos+2]; two {
		case "<=", ">=", "==", "!=":
			t.text = two
			return t
		}
	}
	switch r {
	case '+', '-', '*', '/', '^', '(', ')', ',', '<', '>', ':', ';', '[', ']', '.':
		t.text = text[pos : pos+size]
	case '−':
		t.text = "-"
	case '·', '×', '⋅':
		t.text = "*"
	case '≤':
		t.text = "<="
	case '≥':
		t.text = ">="
	case '≠':
		t.text = "!="
	}
	return t
}

func fault(text string, pos int, format string, args ...any) *Error {
	return &Error{Text: text, Column: utf8.RuneCountInString(text[:pos]) + 1, What: fmt.Sprintf(format, args...)}
}

// Rename replaces a name of a parameter in a formula by a text. A text that
// cannot be read is returned as it is.
func Rename(text, from, to string) string {
	f, err := Parse(text)
	if err != nil {
		return text
	}
	var at []int
	visit(f.root, func(n node) {
		if r, ok := n.(reference); ok && r.name == from {
			at = append(at, r.at)
		}
	})
	slices.Sort(at)
	for _, pos := range slices.Backward(at) {
		text = text[:pos] + to + text[pos+len(from):]
	}
	return text
}
