package formula

import "saltkettle/core/quantity"

// Formula is a read expression. It is immutable and may be shared.
type Formula struct {
	text string
	root node
}

// node is an element of the expression tree.
type node interface {
	pos() int
}

type (
	literal struct {
		at    int
		value quantity.Value
	}
	reference struct {
		at   int
		name string
	}
	negation struct {
		at      int
		operand node
	}
	binary struct {
		at          int
		op          string
		left, right node
	}
	call struct {
		at   int
		name string
		args []node
	}
)

func (n literal) pos() int   { return n.at }
func (n reference) pos() int { return n.at }
func (n negation) pos() int  { return n.at }
func (n binary) pos() int    { return n.at }
func (n call) pos() int      { return n.at }

// Parse reads a formula. The error is an [*Error].
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

// Names lists the parameters that the formula uses, in the order of their first
// use.
func (f *Formula) Names() []string {
	var names []string
	seen := map[string]bool{}
	var walk func(node)
	walk = func(n node) {
		switch n := n.(type) {
		case reference:
			if _, ok := constants[n.name]; !ok && !seen[n.name] {
				seen[n.name] = true
				names = append(names, n.name)
			}
		case negation:
			walk(n.operand)
		case binary:
			walk(n.left)
			walk(n.right)
		case call:
			for _, a := range n.args {
				walk(a)
			}
		}
	}
	walk(f.root)
	return names
}

// precedence of the binary operators; all but ^ group from the left.
var precedence = map[string]int{
	"or": 1, "and": 2,
	"<": 3, ">": 3, "<=": 3, ">=": 3, "==": 3, "!=": 3,
	"+": 4, "-": 4, "*": 5, "/": 5, "^": 7,
}

const unaryPrecedence = 6

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

// expression reads operators that bind tighter than least.
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
			inner--
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
		return literal{at: t.pos, value: t.value}, nil
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
		return inner, nil
	case t.kind == name && p.peek().text == "(" && p.peek().kind == operator:
		return p.call(t, depth)
	case t.kind == name && precedence[t.text] == 0:
		return reference{at: t.pos, name: t.text}, nil
	case t.kind == end:
		return nil, fault(p.text, t.pos, "the formula ends where a value was expected")
	}
	return nil, fault(p.text, t.pos, "a value was expected instead of %q", t.text)
}

func (p *parser) accept(op string) bool {
	if t := p.peek(); t.kind == operator && t.text == op {
		p.take()
		return true
	}
	return false
}

func (p *parser) call(fn token, depth int) (node, error) {
	f, ok := functions[fn.text]
	if !ok {
		return nil, fault(p.text, fn.pos, "there is no function %q; the functions are %s", fn.text, functionNames)
	}
	p.take() // the parenthesis
	var args []node
	if !p.accept(")") {
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
				break
			}
			return nil, fault(p.text, fn.pos, "the arguments of %s are not closed by a parenthesis", fn.text)
		}
	}
	if len(args) < f.least || f.most > 0 && len(args) > f.most {
		return nil, fault(p.text, fn.pos, "%s takes %s, not %d", fn.text, f.arity(), len(args))
	}
	return call{at: fn.pos, name: fn.text, args: args}, nil
}
