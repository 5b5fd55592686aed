package trace

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// dxfUnits are the units of $INSUNITS (DXF reference, header variables).
var dxfUnits = map[int]string{1: "in", 4: "mm", 5: "cm", 6: "m", 13: "µm"}

// pair is a group of a DXF file.
type pair struct {
	code  int
	value string
}

// dxf reads the lines, arcs, circles, ellipses, polylines and splines of the
// entities section.
func (r *reader) dxf(text string) error {
	lines := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if strings.Contains(text, "\x00") {
		return fmt.Errorf("this DXF file is binary; save it as text")
	}
	var pairs []pair
	for i := 0; i+1 < len(lines); i += 2 {
		code, err := strconv.Atoi(strings.TrimSpace(lines[i]))
		if err != nil {
			return fmt.Errorf("line %d: a group code was expected, not %q", i+1, lines[i])
		}
		pairs = append(pairs, pair{code, strings.TrimSpace(lines[i+1])})
	}
	section := ""
	for i := 0; i < len(pairs); i++ {
		p := pairs[i]
		switch {
		case p.code == 0 && p.value == "SECTION" && i+1 < len(pairs):
			section = pairs[i+1].value
		case p.code == 0 && p.value == "ENDSEC":
			section = ""
		case section == "HEADER" && p.code == 9 && p.value == "$INSUNITS" && i+1 < len(pairs):
			n, _ := strconv.Atoi(pairs[i+1].value)
			r.unit = dxfUnits[n]
		case section == "ENTITIES" && p.code == 0:
			end := i + 1
			for end < len(pairs) && (pairs[end].code != 0 || p.value == "POLYLINE" && (pairs[end].value == "VERTEX" || pairs[end].value == "SEQEND")) {
				end++
			}
			if err := r.entity(p.value, pairs[i+1:end]); err != nil {
				return err
			}
			i = end - 1
		}
	}
	return nil
}

// entity is the groups of one entity.
type entity []pair

func (e entity) text(code int) string {
	for _, p := range e {
		if p.code == code {
			return p.value
		}
	}
	return ""
}

func (e entity) number(code int) float64 {
	v, _ := strconv.ParseFloat(e.text(code), 64) // a missing one is zero by the standard
	return v
}

func (e entity) all(code int) []float64 {
	var list []float64
	for _, p := range e {
		if p.code == code {
			v, _ := strconv.ParseFloat(p.value, 64)
			list = append(list, v)
		}
	}
	return list
}

func (r *reader) entity(kind string, e entity) error {
	layer := e.text(8)
	radians := math.Pi / 180
	switch kind {
	case "LINE":
		return r.add(segment{a: point{e.number(10), e.number(20)}, b: point{e.number(11), e.number(21)}, layer: layer})
	case "CIRCLE":
		return r.arc(point{e.number(10), e.number(20)}, e.number(40), 0, 2*math.Pi, layer)
	case "ARC":
		from, to := e.number(50)*radians, e.number(51)*radians
		for to <= from {
			to += 2 * math.Pi
		}
		return r.arc(point{e.number(10), e.number(20)}, e.number(40), from, to-from, layer)
	case "ELLIPSE":
		return r.ellipse(e, layer)
	case "SPLINE":
		return r.spline(e, layer)
	case "LWPOLYLINE":
		var list []Vertex
		for _, p := range e {
			v, _ := strconv.ParseFloat(p.value, 64)
			switch {
			case p.code == 10:
				list = append(list, Vertex{X: v})
			case p.code == 20 && len(list) > 0:
				list[len(list)-1].Y = v
			case p.code == 42 && len(list) > 0:
				list[len(list)-1].Bend = 4 * math.Atan(v)
			}
		}
		return r.polyline(list, int(e.number(70))&1 != 0, layer)
	case "POLYLINE":
		var list []Vertex
		var head entity
		for i := 0; i < len(e); i++ {
			if e[i].code == 0 && e[i].value == "VERTEX" {
				end := i + 1
				for end < len(e) && e[end].code != 0 {
					end++
				}
				v := e[i+1 : end]
				list = append(list, Vertex{v.number(10), v.number(20), 4 * math.Atan(v.number(42))})
				i = end - 1
			} else if len(list) == 0 {
				head = append(head, e[i])
			}
		}
		return r.polyline(list, int(head.number(70))&1 != 0, head.text(8))
	}
	r.skip(kind)
	return nil
}

func (r *reader) polyline(list []Vertex, closed bool, layer string) error {
	for i, v := range list {
		if i == len(list)-1 && !closed {
			break
		}
		w := list[(i+1)%len(list)]
		if err := r.add(segment{point{v.X, v.Y}, point{w.X, w.Y}, v.Bend, layer}); err != nil {
			return err
		}
	}
	return nil
}

// curvePieces is into how many pieces a quarter of an ellipse, or a span of a
// spline or curve, is cut.
const curvePieces = 12

func (r *reader) ellipse(e entity, layer string) error {
	c := point{e.number(10), e.number(20)}
	ax, ay, ratio := e.number(11), e.number(21), e.number(40)
	from, to := e.number(41), e.number(42)
	if to <= from {
		to += 2 * math.Pi
	}
	n := max(int(math.Ceil((to-from)/(math.Pi/2)*curvePieces)), 1)
	at := func(i int) point {
		sin, cos := math.Sincos(from + (to-from)*float64(i)/float64(n))
		return point{c.x + ax*cos - ay*ratio*sin, c.y + ay*cos + ax*ratio*sin}
	}
	for i := range n {
		if err := r.add(segment{a: at(i), b: at(i + 1), layer: layer}); err != nil {
			return err
		}
	}
	return nil
}

// spline cuts a rational B-spline into lines (de Boor's recurrence).
func (r *reader) spline(e entity, layer string) error {
	degree := int(e.number(71))
	knots, xs, ys, weights := e.all(40), e.all(10), e.all(20), e.all(41)
	n := len(xs)
	if degree < 1 || degree > 9 || n <= degree || len(ys) != n || len(knots) != n+degree+1 {
		r.skip("SPLINE without control points")
		return nil
	}
	if len(weights) != n {
		weights = make([]float64, n)
		for i := range weights {
			weights[i] = 1
		}
	}
	at := func(span int, t float64) point {
		d := make([][3]float64, degree+1)
		for j := range d {
			i := span - degree + j
			d[j] = [3]float64{xs[i] * weights[i], ys[i] * weights[i], weights[i]}
		}
		for k := 1; k <= degree; k++ {
			for j := degree; j >= k; j-- {
				i := span - degree + j
				u := 0.0
				if w := knots[i+degree-k+1] - knots[i]; w > 0 {
					u = (t - knots[i]) / w
				}
				for c := range 3 {
					d[j][c] = (1-u)*d[j-1][c] + u*d[j][c]
				}
			}
		}
		return point{d[degree][0] / d[degree][2], d[degree][1] / d[degree][2]}
	}
	var last point
	begun := false
	for span := degree; span < n; span++ {
		if !(knots[span+1] > knots[span]) {
			continue
		}
		for i := range curvePieces + 1 {
			p := at(span, knots[span]+(knots[span+1]-knots[span])*float64(i)/curvePieces)
			if begun && i > 0 {
				if err := r.add(segment{a: last, b: p, layer: layer}); err != nil {
					return err
				}
			}
			last, begun = p, true
		}
	}
	return nil
}
