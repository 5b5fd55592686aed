package model

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// Push moves a side of a part outward by a distance, m, or inward if that is negative, by
// changing the numbers that draw it; the opposite side stays. A number that follows from
// a parameter moves the parameter. It returns the places that changed.
func (d *Document) Push(cat *Catalog, on Patch, by float64) ([]string, error) {
	i := d.Part(on.Part)
	if i < 0 {
		return nil, &GoneError{"parts/" + on.Part}
	}
	r, _ := Resolve(d, cat)
	m := &mover{doc: d, r: r, at: "parts/" + on.Part}
	if err := m.push(&d.Parts[i], on.Side, by); err != nil {
		return nil, err
	}
	return m.changed, m.err
}

// MoveBy moves a part as it is, m. Parameters stay: what it stands on does not.
func (d *Document) MoveBy(cat *Catalog, id string, by [3]float64) ([]string, error) {
	i := d.Part(id)
	if i < 0 {
		return nil, &GoneError{"parts/" + id}
	}
	p := &d.Parts[i]
	if p.isAround() {
		return nil, fmt.Errorf("the %s follows from the other parts: give it more room on one side instead", p.Name)
	}
	r, _ := Resolve(d, cat)
	m := &mover{doc: d, r: r, at: "parts/" + id}
	m.slide("/place/x", by[0])
	m.slide("/place/y", by[1])
	if !d.Space.Flat() {
		m.slide("/span/from", by[2])
		m.slide("/span/to", by[2])
	}
	return m.changed, m.err
}

// TurnBy turns a part to the left, rad.
func (d *Document) TurnBy(cat *Catalog, id string, angle float64) ([]string, error) {
	i := d.Part(id)
	if i < 0 {
		return nil, &GoneError{"parts/" + id}
	}
	r, _ := Resolve(d, cat)
	m := &mover{doc: d, r: r, at: "parts/" + id}
	m.add("/place/turn", angle, "deg")
	return m.changed, m.err
}

// mover changes the numbers of a part.
type mover struct {
	doc     *Document
	r       *Resolved
	at      string // of the part
	changed []string
	err     error
}

// add makes the number at a place greater. unit is that of an empty place.
func (m *mover) add(rest string, by float64, unit string) {
	if place, text, ok := m.find(rest, by); ok {
		m.raise(place, text, by, unit, 0)
	}
}

// find returns the text at a place that is to change by something; ok is false if there is
// nothing to do, or nothing there.
func (m *mover) find(rest string, by float64) (place, text string, ok bool) {
	if m.err != nil || by == 0 {
		return "", "", false
	}
	place = m.at + rest
	at := m.doc.textAt(place)
	if at == nil {
		m.err = &GoneError{place}
		return "", "", false
	}
	return place, *at, true
}

// length makes a length greater.
func (m *mover) length(rest string, by float64) { m.add(rest, by, m.doc.Space.Unit) }

// deepest is how many parameters may follow from each other on the way to a number.
const deepest = 20

// raise makes the value of a text greater: of a formula with parameters one of these,
// the last one that counts.
func (m *mover) raise(place, text string, by float64, unit string, depth int) {
	if strings.TrimSpace(text) == "" {
		m.set(place, number(by, unit))
		return
	}
	f, err := formula.Parse(text)
	if err == nil && depth > deepest {
		err = fmt.Errorf("too many parameters follow from each other")
	}
	if err != nil {
		m.err = fmt.Errorf("the number at %s cannot be moved: %w", place, err)
		return
	}
	v, err := f.Eval(m.r.Parameters)
	if err != nil {
		m.err = fmt.Errorf("the number at %s cannot be moved: %w", place, err)
		return
	}
	names := f.Names()
	for k := len(names) - 1; k >= 0; k-- {
		now, ok := m.r.Parameters[names[k]]
		if !ok || now.Dimension != v.Dimension {
			continue
		}
		slope := m.slope(f, names[k], now, v.SI)
		if math.Abs(slope) < 1e-6 {
			continue
		}
		i := slices.IndexFunc(m.doc.Parameters, func(p Parameter) bool { return p.Name == names[k] })
		at := "parameters/" + names[k] + "/value"
		m.raise(at, m.doc.Parameters[i].Value, by/slope, unit, depth+1)
		return
	}
	if len(names) > 0 {
		m.set(place, slid(text, by, unit))
		return
	}
	if v.Unit != "" {
		unit = v.Unit
	}
	m.set(place, number(v.SI+by, unit))
}

// slope is the derivative of a formula by a parameter.
func (m *mover) slope(f *formula.Formula, name string, now quantity.Value, value float64) float64 {
	scope := formula.Values{}
	for k, v := range m.r.Parameters {
		scope[k] = v
	}
	step := 1e-6 * max(math.Abs(now.SI), 1e-6)
	now.SI += step
	scope[name] = now
	v, err := f.Eval(scope)
	if err != nil {
		return 0
	}
	return (v.SI - value) / step
}

// slide makes a length greater by its own number, whatever parameters stand beside it.
func (m *mover) slide(rest string, by float64) {
	if place, text, ok := m.find(rest, by); ok {
		m.set(place, slid(text, by, m.doc.Space.Unit))
	}
}

// leading is a number with its unit at the beginning of a sum.
var leading = regexp.MustCompile(`^\s*(-?\d+(?:\.\d+)?)\s*(µm|mm|cm|m|in|deg|rad)\s*($|[-+].*$)`)

// slid adds to the number at the beginning of a sum, or puts one before it.
func slid(text string, by float64, unit string) string {
	if strings.TrimSpace(text) == "" {
		return number(by, unit)
	}
	if g := leading.FindStringSubmatch(text); g != nil {
		x, err := strconv.ParseFloat(g[1], 64)
		u, unknown := quantity.ParseUnit(g[2])
		if err == nil && unknown == nil {
			return strings.TrimSpace(number(u.SI(x)+by, g[2]) + " " + g[3])
		}
	}
	return number(by, unit) + " + " + strings.TrimSpace(text)
}

// number writes an SI value in a unit, to seven figures.
func number(si float64, unit string) string {
	u, err := quantity.ParseUnit(unit)
	if err != nil || unit == "" {
		unit, u = "m", quantity.MustUnit("m")
	}
	v := u.From(si, false)
	if math.Abs(v) < 1e-9 {
		v = 0
	}
	return strconv.FormatFloat(v, 'g', 7, 64) + " " + unit
}

func (m *mover) set(place, value string) {
	if err := m.doc.Set(place, value); err != nil {
		m.err = err
		return
	}
	m.changed = append(m.changed, place)
}

// push changes what draws a side.
func (m *mover) push(p *Part, side string, by float64) error {
	o := &p.Outline
	// shift moves the part along its own axes.
	shift := func(x, y float64) {
		if p.Place.Mirror {
			x = -x
		}
		turn := m.r.Parts[m.doc.Part(p.ID)].Turn
		sin, cos := math.Sincos(turn)
		m.slide("/place/x", cleaned(x*cos-y*sin))
		m.slide("/place/y", cleaned(x*sin+y*cos))
	}
	refuse := fmt.Errorf("the %s cannot be drawn out: change its numbers in the brief", m.doc.PatchWords(Patch{Part: p.ID, Side: side}))
	if p.isAround() {
		for name, dimension := range map[string]string{"top": "above", "bottom": "below", "left": "left", "right": "right", "front": "front", "back": "back", "rim": "margin"} {
			if name == side {
				m.length("/outline/"+dimension, by)
				return nil
			}
		}
		return refuse
	}
	switch {
	case side == shape.Top && !m.doc.Space.Flat():
		m.length("/span/to", by)
	case side == shape.Bottom && !m.doc.Space.Flat():
		m.length("/span/from", -by)
	case strings.HasPrefix(side, "hole "):
		return m.pushHole(p, side, by, refuse)
	case o.Kind == "rectangle" || o.Kind == "slot":
		axis, ok := map[string][3]float64{"left": {-1, 0}, "right": {1, 0}, "front": {0, -1}, "back": {0, 1}}[side]
		if !ok {
			return refuse
		}
		dimension := "/outline/width"
		if axis[1] != 0 {
			dimension = "/outline/depth"
		}
		m.length(dimension, by)
		shift(axis[0]*by/2, axis[1]*by/2)
	case side == "rim":
		m.length("/outline/diameter", 2*by)
	case side == "bore":
		m.length("/outline/inner", -2*by)
	case o.Kind == "polygon":
		m.length("/outline/width", 2*by)
	case o.Kind == "strip" && (side == "left" || side == "right"):
		m.length("/outline/width", 2*by)
	case o.Kind == "path" && !o.Smooth || o.Kind == "strip":
		return m.pushPoints(p, side, by, refuse)
	default:
		return refuse
	}
	return nil
}

// cleaned drops what round-off leaves of a turn by right angles.
func cleaned(x float64) float64 {
	if math.Abs(x) < 1e-12 {
		return 0
	}
	return x
}

// pushHole makes a hole smaller or, inward, larger.
func (m *mover) pushHole(p *Part, side string, by float64, refuse error) error {
	i := find(p.Outline.Holes, strings.TrimPrefix(side, "hole "))
	if i < 0 {
		return refuse
	}
	at := "/outline/holes/" + p.Outline.Holes[i].ID + "/"
	switch p.Outline.Holes[i].Kind {
	case "disc":
		m.length(at+"diameter", -2*by)
	case "polygon":
		m.length(at+"width", -2*by)
	case "rectangle", "slot":
		m.length(at+"width", -2*by)
		m.length(at+"depth", -2*by)
	default:
		return refuse
	}
	return nil
}

// pushPoints moves the two points of an edge of a path, or the end of a strip.
func (m *mover) pushPoints(p *Part, side string, by float64, refuse error) error {
	points := p.Outline.Points
	var at []shape.Point
	for _, q := range points {
		x, errX := evaluated(q.X, m.r.Parameters)
		y, errY := evaluated(q.Y, m.r.Parameters)
		if errX != nil || errY != nil {
			return refuse
		}
		at = append(at, shape.Point{X: x, Y: y})
	}
	n := len(points)
	move := func(k int, dx, dy float64) {
		place := "/outline/points/" + points[k].ID + "/"
		m.slide(place+"x", cleaned(dx))
		m.slide(place+"y", cleaned(dy))
	}
	if p.Outline.Kind == "strip" {
		ends := map[string][2]int{"start": {0, 1}, "end": {n - 1, n - 2}}
		e, ok := ends[side]
		if !ok {
			return refuse
		}
		a, b := at[e[0]], at[e[1]]
		l := math.Hypot(a.X-b.X, a.Y-b.Y)
		move(e[0], by*(a.X-b.X)/l, by*(a.Y-b.Y)/l)
		return nil
	}
	k := slices.IndexFunc(points, func(q Point) bool { return q.side() == side })
	if k < 0 || points[k].Bend != "" {
		return refuse
	}
	area := 0.0
	for i := range at {
		a, b := at[i], at[(i+1)%n]
		area += a.X*b.Y - b.X*a.Y
	}
	a, b := at[k], at[(k+1)%n]
	l := math.Copysign(math.Hypot(b.X-a.X, b.Y-a.Y), area)
	dx, dy := by*(b.Y-a.Y)/l, -by*(b.X-a.X)/l
	move(k, dx, dy)
	move((k+1)%n, dx, dy)
	return nil
}

func evaluated(text string, scope formula.Values) (float64, error) {
	f, err := formula.Parse(text)
	if err != nil {
		return 0, err
	}
	v, err := f.Eval(scope)
	return v.SI, err
}
