package drawing

// beyond says that a place along the axis of a cut is left out.
func (c CutPlane) beyond(x float64) bool { return (x > c.At) != c.Greater && x != c.At }

// cut returns what planes leave of a body, nil if it is nothing. Of a surface the triangles
// stay whose middles do.
func (b *Body) cut(planes []CutPlane) *Body {
	out := *b
	for _, c := range planes {
		switch {
		case out.Solid != nil:
			kept := Solid{Points: out.Solid.Points}
			for i, t := range out.Solid.Triangles {
				middle := 0.0
				for _, v := range t {
					middle += out.Solid.Points[v][c.Axis] / 3
				}
				if !c.beyond(middle) {
					kept.Triangles, kept.Side = append(kept.Triangles, t), append(kept.Side, out.Solid.Side[i])
				}
			}
			if out.Solid = &kept; len(kept.Triangles) == 0 {
				return nil
			}
		case c.Axis == 2 && c.Greater:
			out.Z0 = max(out.Z0, c.At)
		case c.Axis == 2:
			out.Z1 = min(out.Z1, c.At)
		default:
			var loops []Loop
			for k, l := range out.Loops {
				switch l = l.cut(c); {
				case len(l.Points) > 2:
					loops = append(loops, l)
				case k == 0:
					return nil
				}
			}
			out.Loops = loops
		}
	}
	if out.Solid == nil && out.Z1 <= out.Z0 {
		return nil
	}
	return &out
}

// cut returns the part of a polygon on the side of a plane that stays (I. Sutherland and
// G. Hodgman, Communications of the ACM 17 (1974) 32).
func (l Loop) cut(c CutPlane) (out Loop) {
	n := len(l.Points)
	add := func(p [2]float64, i int, corner bool) {
		out.Points, out.Side, out.Corner = append(out.Points, p), append(out.Side, l.Side[i]), append(out.Corner, corner)
	}
	for i, p := range l.Points {
		q := l.Points[(i+1)%n]
		here, there := c.beyond(p[c.Axis]), c.beyond(q[c.Axis])
		if !here {
			add(p, i, l.Corner[i])
		}
		if here != there {
			if f := (c.At - p[c.Axis]) / (q[c.Axis] - p[c.Axis]); f > 0 && f < 1 {
				add([2]float64{p[0] + f*(q[0]-p[0]), p[1] + f*(q[1]-p[1])}, i, true)
			}
		}
	}
	return out
}
