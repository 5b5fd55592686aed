package formula

import (
	"math"
	"slices"
	"strconv"

	"saltkettle/core/quantity"
)

// Formula is a parsed expression.
type Formula struct {
	text string
	root node
}

type node interface {
	// span returns where the text of the node begins and ends.
	span() (from, to int)
}

type (
	literal struct {
		at, end int
		value   quantity.Value
	}
	reference struct {
		at   int
		name string
	}
	negation struct {
		at      int
		operand node
	}
	group struct {
		at, end int
		inner   node
	}
	binary struct {
		at          int
		op          string
		left, right node
	}
	call struct {
		at, end int
		name    string
		args    []node
	}
	tableNode struct {
		at, end      int
		argument     node
		keys, values []node
		smooth       bool
		beyond       Beyond
	}
	reduction struct {
		at, end  int
		kind     string
		quantity node
		region   Region
		points   []node // three for a point, six for a line
		inTime   bool   // over time or frequency and not over a region
		axis     string // which of the two
		moments  []node // the values behind "over time"
	}
)

func (n literal) span() (int, int)   { return n.at, n.end }
func (n reference) span() (int, int) { return n.at, n.at + len(n.name) }
func (n group) span() (int, int)     { return n.at, n.end }
func (n call) span() (int, int)      { return n.at, n.end }
func (n tableNode) span() (int, int) { return n.at, n.end }
func (n reduction) span() (int, int) { return n.at, n.end }
func (n negation) span() (int, int) {
	_, end := n.operand.span()
	return n.at, end
}
func (n binary) span() (int, int) {
	from, _ := n.left.span()
	_, to := n.right.span()
	return from, to
}

// Region says over what a reduction runs: a part or a copy of it, or one of its
// sides, where it faces another part or what lies outside.
type Region struct {
	Part string
	// Quoted says that Part is written between quotation marks: it may be a name
	// as well as an id.
	Quoted bool
	Copy   int // counted from 1; 0 for all
	Side   string
	Facing string
}

// visit calls f with every node below n, n first.
func visit(n node, f func(node)) {
	f(n)
	each := func(list []node) {
		for _, m := range list {
			visit(m, f)
		}
	}
	switch n := n.(type) {
	case negation:
		visit(n.operand, f)
	case group:
		visit(n.inner, f)
	case binary:
		visit(n.left, f)
		visit(n.right, f)
	case call:
		each(n.args)
	case tableNode:
		visit(n.argument, f)
		each(n.keys)
		each(n.values)
	case reduction:
		visit(n.quantity, f)
		each(n.points)
		each(n.moments)
	}
}

// Parse reads a formula. It does not look names up.
func Parse(text string) (*Formula, error) {
	tokens, err := scan(text)
	if err != nil {
		return nil, err
	}
	p := &parser{text: text, tokens: tokens}
	if p.peek().kind == end {
		return nil, &Error{Text: text, What: "nothing is written here"}
	}
	root, err := p.expression(0, 0)
	if err != nil {
		return nil, err
	}
	if t := p.peek(); t.kind != end {
		return nil, fault(text, t.pos, "%q was not expected here", t.text)
	}
	return &Formula{text: text, root: root}, nil
}

// String returns the formula as it was written.
func (f *Formula) String() string { return f.text }

// Names lists the parameters and variables that the formula uses, each once.
func (f *Formula) Names() []string {
	var names []string
	visit(f.root, func(n node) {
		if r, ok := n.(reference); ok {
			if _, constant := constants[r.name]; !constant && !slices.Contains(names, r.name) {
				names = append(names, r.name)
			}
		}
	})
	return names
}

// Regions lists what the reductions in the formula run over.
func (f *Formula) Regions() []Region {
	var list []Region
	visit(f.root, func(n node) {
		if r, ok := n.(reduction); ok && r.points == nil && !r.inTime {
			list = append(list, r.region)
		}
	})
	return list
}

// precedence of the operators; a higher one binds more closely.
var precedence = map[string]int{
	"or": 1, "and": 2,
	"<": 3, ">": 3, "<=": 3, ">=": 3, "==": 3, "!=": 3,
	"+": 4, "-": 4, "*": 5, "/": 5, "^": 7,
}

const unaryPrecedence = 6

// words of the language that cannot be names.
var words = []string{"over", "facing", "along", "outside"}

type parser struct {
	text   string
	tokens []token
	next   int
}

func (p *parser) peek() token { return p.tokens[p.next] }

func (p *parser) take() token {
	t := p.tokens[p.next]
	if t.kind != end {
		p.next++
	}
	return t
}

// accept takes the next token if it is the given operator or word.
func (p *parser) accept(text string) bool {
	if t := p.peek(); (t.kind == operator || t.kind == name) && t.text == text {
		p.take()
		return true
	}
	return false
}

// ended is where the last token that was taken ends.
func (p *parser) ended() int {
	t := p.tokens[p.next-1]
	if t.kind == quoted {
		return t.pos + len(t.text) + 2
	}
	return t.pos + len(t.text)
}

// expression parses operators that bind more closely than least.
func (p *parser) expression(least, depth int) (node, error) {
	if depth > maxDepth {
		return nil, fault(p.text, p.peek().pos, "the formula is nested more than %d deep", maxDepth)
	}
	left, err := p.operand(depth)
	if err != nil {
		return nil, err
	}
	for {
		t := p.peek()
		prec := precedence[t.text]
		if t.kind != operator && t.kind != name || prec == 0 || prec <= least {
			return left, nil
		}
		p.take()
		inner := prec
		if t.text == "^" {
			inner-- // 2^3^2 is 2^(3^2)
		}
		right, err := p.expression(inner, depth+1)
		if err != nil {
			return nil, err
		}
		left = binary{at: t.pos, op: t.text, left: left, right: right}
	}
}

func (p *parser) operand(depth int) (node, error) {
	t := p.take()
	switch {
	case t.kind == number:
		return literal{at: t.pos, end: t.pos + len(t.text), value: t.value}, nil
	case t.kind == operator && (t.text == "-" || t.text == "+"):
		operand, err := p.expression(unaryPrecedence-1, depth+1)
		if err != nil || t.text == "+" {
			return operand, err
		}
		return negation{at: t.pos, operand: operand}, nil
	case t.kind == operator && t.text == "(":
		inner, err := p.expression(0, depth+1)
		if err != nil {
			return nil, err
		}
		if !p.accept(")") {
			return nil, fault(p.text, t.pos, "this parenthesis is not closed")
		}
		return group{at: t.pos, end: p.ended(), inner: inner}, nil
	case t.kind == name && p.peek().text == "(" && p.peek().kind == operator:
		return p.call(t, depth)
	case t.kind == name && precedence[t.text] == 0:
		return reference{at: t.pos, name: t.text}, nil
	case t.kind == end:
		return nil, fault(p.text, t.pos, "the formula ends where a value was expected")
	}
	return nil, fault(p.text, t.pos, "a value was expected instead of %q", t.text)
}

// call parses the arguments of a function, a table or a reduction.
func (p *parser) call(fn token, depth int) (node, error) {
	p.take() // the parenthesis
	switch {
	case fn.text == "table" || fn.text == "curve":
		return p.table(fn, depth)
	case reductions[fn.text] != "":
		return p.reduction(fn, depth)
	}
	f, ok := functions[fn.text]
	if !ok {
		return nil, fault(p.text, fn.pos, "there is no function %q; the functions are %s", fn.text, functionNames)
	}
	var args []node
	if !p.accept(")") {
		var err error
		if args, err = p.list(fn, depth); err != nil {
			return nil, err
		}
	}
	if len(args) < f.least || f.most > 0 && len(args) > f.most {
		return nil, fault(p.text, fn.pos, "%s takes %s, not %d", fn.text, f.arity(), len(args))
	}
	return call{at: fn.pos, end: p.ended(), name: fn.text, args: args}, nil
}

// list parses values up to the closing parenthesis.
func (p *parser) list(fn token, depth int) ([]node, error) {
	var args []node
	for {
		a, err := p.expression(0, depth+1)
		if err != nil {
			return nil, err
		}
		args = append(args, a)
		if p.accept(",") {
			continue
		}
		if p.accept(")") {
			return args, nil
		}
		return nil, fault(p.text, fn.pos, "the arguments of %s are not closed by a parenthesis", fn.text)
	}
}

// table parses "table(temperature, 0 °C: 0.57 W/(m·K), 20: 0.60; hold)".
func (p *parser) table(fn token, depth int) (node, error) {
	argument, err := p.expression(0, depth+1)
	if err != nil {
		return nil, err
	}
	t := tableNode{at: fn.pos, argument: argument, smooth: fn.text == "curve", beyond: Hold}
	for p.accept(",") {
		key, err := p.expression(0, depth+1)
		if err != nil {
			return nil, err
		}
		if !p.accept(":") {
			return nil, fault(p.text, p.peek().pos, "a colon was expected after %q: the rows of a %s are written \"argument: value\"", p.spell(key), fn.text)
		}
		value, err := p.expression(0, depth+1)
		if err != nil {
			return nil, err
		}
		if len(t.keys) > 0 {
			key, value = inUnitOf(key, t.keys[0]), inUnitOf(value, t.values[0])
		}
		t.keys, t.values = append(t.keys, key), append(t.values, value)
		if len(t.keys) > maxRows {
			return nil, fault(p.text, fn.pos, "a %s may have %d rows at most", fn.text, maxRows)
		}
	}
	if p.accept(";") {
		word := p.take()
		t.beyond = Beyond(word.text)
		if word.kind != name || !slices.Contains(Beyonds, t.beyond) {
			return nil, fault(p.text, word.pos, "after the rows write hold, extend or refuse, for what is beyond them")
		}
	}
	if !p.accept(")") {
		return nil, fault(p.text, fn.pos, "the rows of this %s are not closed by a parenthesis", fn.text)
	}
	if len(t.keys) < 2 {
		return nil, fault(p.text, fn.pos, "a %s needs two rows or more, such as \"0 °C: 1 W, 50 °C: 2 W\"", fn.text)
	}
	t.end = p.ended()
	return t, nil
}

// inUnitOf gives a plain number in a table the unit of the first row.
func inUnitOf(n, first node) node {
	unit := ""
	switch f := first.(type) {
	case literal:
		unit = f.value.Unit
	case negation:
		if l, ok := f.operand.(literal); ok {
			unit = l.value.Unit
		}
	}
	if unit == "" {
		return n
	}
	switch m := n.(type) {
	case literal:
		if m.value.Dimension == quantity.None && m.value.Unit == "" {
			u := quantity.MustUnit(unit) // it has been read before
			m.value = quantity.Value{SI: u.SI(m.value.SI), Dimension: u.Dimension, Affine: u.Affine(), Unit: unit}
		}
		return m
	case negation:
		m.operand = inUnitOf(m.operand, first)
		return m
	}
	return n
}

// reduction parses "mean(temperature over floor.top facing brick)",
// "mean(temperature along x, y, z, x, y, z)" and "at(temperature, x, y, z)".
func (p *parser) reduction(fn token, depth int) (node, error) {
	q, err := p.expression(0, depth+1)
	if err != nil {
		return nil, err
	}
	r := reduction{at: fn.pos, kind: fn.text, quantity: q}
	switch {
	case p.peek().text == "over" && p.tokens[p.next+1].kind == name && (p.tokens[p.next+1].text == Time.Name || p.tokens[p.next+1].text == overFrequency):
		err = p.overTime(fn, &r, depth)
	case timeReductions[fn.text] != "":
		err = fault(p.text, p.peek().pos, "%s is of what changes in time: write \"%s(r1 over time, …)\"", fn.text, fn.text)
	case fn.text == "at":
		if !p.accept(",") {
			return nil, fault(p.text, p.peek().pos, "at takes a quantity and the coordinates of a point, \"at(temperature, 0 mm, 0 mm, 3 mm)\"")
		}
		r.points, err = p.list(fn, depth)
		if err == nil && len(r.points) != 3 {
			err = fault(p.text, fn.pos, "a point has three coordinates, not %d", len(r.points))
		}
	case p.accept("along"):
		r.points, err = p.list(fn, depth)
		if err == nil && len(r.points) != 6 {
			err = fault(p.text, fn.pos, "a line has two ends with three coordinates each: six values, not %d", len(r.points))
		}
	case p.accept("over"):
		r.region, err = p.region()
		if err == nil && !p.accept(")") {
			err = fault(p.text, fn.pos, "the %s is not closed by a parenthesis", fn.text)
		}
	default:
		err = fault(p.text, p.peek().pos, "%s needs to know over what: write \"%s(… over part)\", \"over part.side\" or \"along\" a line", fn.text, fn.text)
	}
	r.end = p.ended()
	return r, err
}

// overTime parses "over time" with the values behind it.
func (p *parser) overTime(fn token, r *reduction, depth int) (err error) {
	p.take()
	r.inTime, r.axis = true, p.take().text
	if !p.accept(")") {
		if !p.accept(",") {
			return fault(p.text, p.peek().pos, "a comma or a closing parenthesis was expected after \"over %s\"", r.axis)
		}
		if r.moments, err = p.list(fn, depth); err != nil {
			return err
		}
	}
	want := map[string][]int{"at": {1}, "crossing": {1}, "amplitude": {1}, "phase": {1}}[fn.text]
	words := map[string]string{"at": "a moment", "crossing": "the value that is crossed", "amplitude": "a period", "phase": "a period"}[fn.text]
	if want == nil {
		want, words = []int{0, 2}, "nothing, or the beginning and the end of a span"
	}
	if !slices.Contains(want, len(r.moments)) {
		return fault(p.text, fn.pos, "behind \"over %s\" %s takes %s", r.axis, fn.text, words)
	}
	return nil
}

// region parses a part with a copy, a side and what it faces: rod[2].rim facing
// brick.
func (p *parser) region() (Region, error) {
	var r Region
	t := p.take()
	if t.kind != name && t.kind != quoted {
		return r, fault(p.text, t.pos, "the id of a part was expected, or its name between quotation marks, instead of %q", t.text)
	}
	r.Part, r.Quoted = t.text, t.kind == quoted
	if p.accept("[") {
		n := p.take()
		if n.kind != number || n.value.Dimension != quantity.None || n.value.SI < 1 || n.value.SI != math.Trunc(n.value.SI) || n.value.SI > 1e6 {
			return r, fault(p.text, n.pos, "a copy is given by its number, such as [2]")
		}
		r.Copy = int(n.value.SI)
		if !p.accept("]") {
			return r, fault(p.text, n.pos, "the bracket after %s is not closed", strconv.Itoa(r.Copy))
		}
	}
	if p.accept(".") {
		s := p.take()
		if s.kind != name && s.kind != quoted {
			return r, fault(p.text, s.pos, "the name of a side was expected, such as top or rim, instead of %q", s.text)
		}
		r.Side = s.text
	}
	if p.accept("facing") {
		f := p.take()
		if f.kind != name && f.kind != quoted {
			return r, fault(p.text, f.pos, "a part or outside was expected, instead of %q", f.text)
		}
		r.Facing = f.text
	}
	return r, nil
}

// spell returns the text of a node.
func (p *parser) spell(n node) string {
	from, to := n.span()
	return p.text[from:to]
}
