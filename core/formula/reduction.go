package formula

import "cmp"

// reduction builds the quantity of a reduction as a program of its own; its
// value is an input of this one.
func (b *builder) reduction(n reduction) (operand, error) {
	if n.inTime {
		return b.overTime(n)
	}
	if b.env.Points == nil {
		return operand{}, fault(b.f.text, n.at, "%s takes a number from a result; it can be used in readings only", n.kind)
	}
	q, err := b.inner(n.quantity, b.env.Points)
	if err != nil {
		return operand{}, err
	}
	r := Reduction{Kind: n.kind, Quantity: q, Region: n.region}
	for i := 0; i < len(n.points); i += 3 {
		var point [3]float64
		for j := range point {
			o, err := b.build(n.points[i+j])
			if err != nil {
				return o, err
			}
			at, _ := n.points[i+j].span()
			if !o.constant || o.dim != length {
				return o, fault(b.f.text, at, "a coordinate must be a fixed length; %s is not", b.text(o))
			}
			point[j] = o.value
		}
		r.Points = append(r.Points, point)
	}
	k := kindOf{dim: q.Dimension}
	if q.Affine && n.kind != "total" {
		k.sort = absolute
	}
	if n.kind == "total" {
		size := 3
		switch {
		case len(r.Points) > 0:
			size = 1
		case n.region.Side != "" || n.region.Facing != "":
			size = 2
		}
		for range size {
			k.dim = k.dim.Times(length)
		}
	}
	return b.reduced(n, r, k)
}

// overTime builds the quantity of a reduction over time, and what stands behind it.
func (b *builder) overTime(n reduction) (operand, error) {
	axis := Time
	if n.axis == overFrequency {
		axis = Frequency
	}
	if b.env.Moments == nil || axis != cmp.Or(b.env.Axis, Time) {
		runs := map[string]string{Time.Name: "runs in time", overFrequency: "runs that find a response"}[n.axis]
		return operand{}, fault(b.f.text, n.at, "%s over %s can be used in readings of %s only", n.kind, n.axis, runs)
	}
	q, err := b.inner(n.quantity, b.env.Moments)
	if err != nil {
		return operand{}, err
	}
	r := Reduction{Kind: n.kind, Quantity: q, InTime: true}
	want := kindOf{dim: axis.Dimension}
	if n.kind == "crossing" {
		want.dim = q.Dimension
	}
	for _, m := range n.moments {
		o, err := b.build(m)
		if err != nil {
			return o, err
		}
		at, _ := m.span()
		if !o.constant || o.dim != want.dim {
			return o, fault(b.f.text, at, "%s must be the same everywhere, and %s", b.text(o), want.dim.Name())
		}
		r.Moments = append(r.Moments, o.value)
	}
	if len(r.Moments) == 2 && !(r.Moments[0] < r.Moments[1]) {
		return operand{}, fault(b.f.text, n.at, "the span of %s ends before it begins", n.axis)
	}
	k := kindOf{dim: q.Dimension}
	switch n.kind {
	case "total":
		k.dim = k.dim.Times(axis.Dimension)
	case "crossing":
		k.dim = axis.Dimension
	case "phase":
		k = angle
	case "amplitude":
	default:
		if q.Affine {
			k.sort = absolute
		}
	}
	return b.reduced(n, r, k)
}

// inner compiles the quantity of a reduction, which has variables of its own.
func (b *builder) inner(quantity node, variables []Variable) (*Program, error) {
	f := &Formula{text: b.f.text, root: quantity}
	q, err := f.Compile(Environment{Scope: b.env.Scope, Definitions: b.env.Definitions, Variables: variables, Names: b.env.Names, Elsewhere: b.env.Elsewhere})
	if err != nil {
		return nil, err
	}
	from, to := quantity.span()
	q.text = b.f.text[from:to]
	return q, nil
}

// reduced makes the value of a reduction an input of the program.
func (b *builder) reduced(n reduction, r Reduction, k kindOf) (operand, error) {
	if !k.dim.Fits() {
		return operand{}, fault(b.f.text, n.at, "%s", noQuantity)
	}
	input := len(b.env.Variables) + len(b.p.Reductions)
	b.p.Reductions = append(b.p.Reductions, r)
	b.p.uses[input] = true
	return operand{kindOf: k, register: int32(input)}, nil
}
