package drawing

import (
	"fmt"
	"io"
	"math"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/shape"
)

// WriteSTL writes the solved parts of a model as text STL, in the unit of the drawing, one
// solid for each part, with the surfaces that are left where parts displace each other.
func WriteSTL(w io.Writer, r *model.Resolved, m *mesh.Mesh, owners []int) error {
	_, scale := Scale(r.Document.Space.Unit)
	byPart := make([][][3][3]float64, len(r.Parts))
	add := func(body int32, flip bool, corners ...[3]float64) {
		p := r.Bodies[owners[body]].Part
		for k := 2; k < len(corners); k++ {
			t := [3][3]float64{corners[0], corners[k-1], corners[k]}
			if flip {
				t[1], t[2] = t[2], t[1]
			}
			byPart[p] = append(byPart[p], t)
		}
	}
	at := func(v int32, level int) [3]float64 {
		x := m.At(v)
		if m.Flat() { // what a section stands for
			x[2] = m.Levels[level]
		}
		return [3]float64{x[0] * scale, x[1] * scale, x[2] * scale}
	}
	for i := range m.Facets {
		f := &m.Facets[i]
		var corners [][3]float64
		for _, v := range f.Corners() {
			corners = append(corners, at(v, 0))
		}
		if m.Flat() {
			corners = append(corners, at(f.Nodes[1], 1), at(f.Nodes[0], 1))
		}
		add(f.Body, false, corners...)
		if f.Other >= 0 {
			add(f.OtherBody, true, corners...)
		}
	}
	if m.Flat() {
		m.EachCell(func(cell int32, _ mesh.Form, corners []int32) {
			for level := range 2 {
				var list [][3]float64
				for _, v := range corners {
					list = append(list, at(v, level))
				}
				add(m.Body[cell], level == 0, list...)
			}
		})
	}
	var b strings.Builder
	for p, list := range byPart {
		if len(list) == 0 {
			continue
		}
		name := strings.Join(strings.Fields(r.Parts[p].Name), "_")
		fmt.Fprintf(&b, "solid %s\n", name)
		for _, t := range list {
			n := normal(t[0], t[1], t[2])
			fmt.Fprintf(&b, "facet normal %.6g %.6g %.6g\nouter loop\n", n[0], n[1], n[2])
			for _, q := range t {
				fmt.Fprintf(&b, "vertex %.9g %.9g %.9g\n", q[0], q[1], q[2])
			}
			b.WriteString("endloop\nendfacet\n")
		}
		fmt.Fprintf(&b, "endsolid %s\n", name)
		if _, err := io.WriteString(w, b.String()); err != nil {
			return err
		}
		b.Reset()
	}
	return nil
}

func normal(a, b, c [3]float64) (n [3]float64) {
	var u, v [3]float64
	for k := range u {
		u[k], v[k] = b[k]-a[k], c[k]-a[k]
	}
	n = [3]float64{u[1]*v[2] - u[2]*v[1], u[2]*v[0] - u[0]*v[2], u[0]*v[1] - u[1]*v[0]}
	l := math.Sqrt(n[0]*n[0] + n[1]*n[1] + n[2]*n[2])
	if l == 0 {
		return n
	}
	return [3]float64{n[0] / l, n[1] / l, n[2] / l}
}

// dxfUnits are the codes of units in a DXF file.
var dxfUnits = map[string]int{"in": 1, "mm": 4, "cm": 5, "m": 6, "µm": 13}

// WriteDXF writes the outlines of all parts in plan as a DXF drawing in the unit of the
// model: lines, arcs and circles, each part on a layer of its name. Parts that are lines
// lie in space.
func WriteDXF(w io.Writer, r *model.Resolved) error {
	unit, scale := Scale(r.Document.Space.Unit)
	var b strings.Builder
	pair := func(code int, value any) { fmt.Fprintf(&b, "%3d\n%v\n", code, value) }
	number := func(code int, x float64) { pair(code, fmt.Sprintf("%.9g", x)) }
	point := func(code int, p shape.Point) {
		number(code, p.X*scale)
		number(code+10, p.Y*scale)
	}
	pair(0, "SECTION")
	pair(2, "HEADER")
	pair(9, "$ACADVER")
	pair(1, "AC1009")
	pair(9, "$INSUNITS")
	pair(70, dxfUnits[unit])
	pair(0, "ENDSEC")
	pair(0, "SECTION")
	pair(2, "ENTITIES")
	for _, body := range r.Bodies {
		layer := strings.Join(strings.Fields(r.Parts[body.Part].Name), "_")
		line := func(from, to shape.Point) {
			pair(0, "LINE")
			pair(8, layer)
			point(10, from)
			point(11, to)
		}
		if body.Line != nil { // in space
			stations := body.Line.Stations()
			for i := 1; i < len(stations); i++ {
				a, b := stations[i-1].At, stations[i].At
				line(shape.Point{X: a[0], Y: a[1]}, shape.Point{X: b[0], Y: b[1]})
				number(30, a[2]*scale)
				number(31, b[2]*scale)
			}
			continue
		}
		for _, loop := range body.Outline.Loops {
			if c, radius, ok := loop.Circle(); ok {
				pair(0, "CIRCLE")
				pair(8, layer)
				point(10, c)
				number(40, radius*scale)
				continue
			}
			for _, e := range loop {
				if !e.Arc {
					from := e.From
					for _, to := range e.Chords(0) {
						line(from, to)
						from = to
					}
					continue
				}
				from, to := e.From, e.To
				if e.Right {
					from, to = to, from
				}
				degrees := func(p shape.Point) float64 {
					return math.Atan2(p.Y-e.Centre.Y, p.X-e.Centre.X) * 180 / math.Pi
				}
				pair(0, "ARC")
				pair(8, layer)
				point(10, e.Centre)
				number(40, math.Hypot(e.From.X-e.Centre.X, e.From.Y-e.Centre.Y)*scale)
				number(50, degrees(from))
				number(51, degrees(to))
			}
		}
	}
	pair(0, "ENDSEC")
	pair(0, "EOF")
	_, err := io.WriteString(w, b.String())
	return err
}
