package trace

import (
	"fmt"
	"math"
)

// pen draws the data of a path.
type pen struct {
	r     *reader
	m     affine
	layer string
	// In the units of the path: where it is, where its subpath began, and the last
	// control point of a curve.
	x, y, sx, sy, cx, cy float64
}

// line draws to a point.
func (p *pen) line(x, y float64) error {
	a, b := p.m.at(p.x, p.y), p.m.at(x, y)
	p.x, p.y = x, y
	if a == b {
		return nil
	}
	return p.r.add(segment{a: a, b: b, layer: p.layer})
}

// path draws path data (SVG 2, chapter 9.3).
func (p *pen) path(data string) error {
	s := scanner{text: data}
	var command, last byte
	for {
		s.space()
		if s.pos >= len(s.text) {
			return nil
		}
		if c := s.text[s.pos]; c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' {
			command = c
			s.pos++
		} else if command == 'M' {
			command = 'L'
		} else if command == 'm' {
			command = 'l'
		} else if command == 'Z' || command == 'z' {
			return fmt.Errorf("the path %q goes on with numbers after it has been closed", p.layer)
		}
		if err := p.command(command, last, &s); err != nil {
			return err
		}
		last = command
	}
}

// command draws one command with one set of its numbers.
func (p *pen) command(c, last byte, s *scanner) error {
	relative := c >= 'a'
	upper := c &^ 0x20
	count := map[byte]int{'M': 2, 'L': 2, 'H': 1, 'V': 1, 'C': 6, 'S': 4, 'Q': 4, 'T': 2, 'A': 7, 'Z': 0}
	n, known := count[upper]
	if !known {
		return fmt.Errorf("the path %q has a command %q that is not known", p.layer, string(rune(c)))
	}
	v := make([]float64, n)
	for i := range v {
		ok := false
		if upper == 'A' && (i == 3 || i == 4) {
			var set bool
			if set, ok = s.flag(); set {
				v[i] = 1
			}
		} else {
			v[i], ok = s.number()
		}
		if !ok {
			return fmt.Errorf("the path %q ends within a command %q", p.layer, string(rune(c)))
		}
	}
	if relative {
		switch upper {
		case 'H':
			v[0] += p.x
		case 'V':
			v[0] += p.y
		case 'A':
			v[5], v[6] = v[5]+p.x, v[6]+p.y
		default:
			for i := range v {
				if i%2 == 0 {
					v[i] += p.x
				} else {
					v[i] += p.y
				}
			}
		}
	}
	smooth := func(of string) (float64, float64) {
		for _, k := range []byte(of) {
			if last == k || last == k|0x20 {
				return 2*p.x - p.cx, 2*p.y - p.cy
			}
		}
		return p.x, p.y
	}
	switch upper {
	case 'M':
		p.x, p.y, p.sx, p.sy = v[0], v[1], v[0], v[1]
	case 'Z':
		return p.line(p.sx, p.sy)
	case 'L':
		return p.line(v[0], v[1])
	case 'H':
		return p.line(v[0], p.y)
	case 'V':
		return p.line(p.x, v[0])
	case 'C':
		return p.cubic(v[0], v[1], v[2], v[3], v[4], v[5])
	case 'S':
		x, y := smooth("CS")
		return p.cubic(x, y, v[0], v[1], v[2], v[3])
	case 'Q':
		return p.quadratic(v[0], v[1], v[2], v[3])
	case 'T':
		x, y := smooth("QT")
		return p.quadratic(x, y, v[0], v[1])
	case 'A':
		return p.arc(v[0], v[1], v[2]*math.Pi/180, v[3] == 1, v[4] == 1, v[5], v[6])
	}
	return nil
}

func (p *pen) cubic(x1, y1, x2, y2, x3, y3 float64) error {
	x0, y0 := p.x, p.y
	for i := 1; i <= curvePieces; i++ {
		t := float64(i) / curvePieces
		u := 1 - t
		a, b, c, d := u*u*u, 3*u*u*t, 3*u*t*t, t*t*t
		if err := p.line(a*x0+b*x1+c*x2+d*x3, a*y0+b*y1+c*y2+d*y3); err != nil {
			return err
		}
	}
	p.x, p.y, p.cx, p.cy = x3, y3, x2, y2
	return nil
}

func (p *pen) quadratic(x1, y1, x2, y2 float64) error {
	x0, y0 := p.x, p.y
	err := p.cubic(x0+(x1-x0)*2/3, y0+(y1-y0)*2/3, x2+(x1-x2)*2/3, y2+(y1-y2)*2/3, x2, y2)
	p.cx, p.cy = x1, y1
	return err
}

// arc draws an elliptical arc (SVG 2, appendix B.2.4). One of a circle stays an
// arc if the drawing does not distort it.
func (p *pen) arc(rx, ry, turn float64, large, sweep bool, x, y float64) error {
	rx, ry = math.Abs(rx), math.Abs(ry)
	if rx == 0 || ry == 0 || x == p.x && y == p.y {
		return p.line(x, y)
	}
	sin, cos := math.Sincos(turn)
	hx, hy := (p.x-x)/2, (p.y-y)/2
	u, v := cos*hx+sin*hy, -sin*hx+cos*hy
	if k := u*u/(rx*rx) + v*v/(ry*ry); k > 1 {
		rx, ry = rx*math.Sqrt(k), ry*math.Sqrt(k)
	}
	w := math.Sqrt(max(0, (rx*rx*ry*ry-rx*rx*v*v-ry*ry*u*u)/(rx*rx*v*v+ry*ry*u*u)))
	if large == sweep {
		w = -w
	}
	cu, cv := w*rx*v/ry, -w*ry*u/rx
	from := math.Atan2((v-cv)/ry, (u-cu)/rx)
	angle := math.Atan2((-v-cv)/ry, (-u-cu)/rx) - from
	if sweep && angle < 0 {
		angle += 2 * math.Pi
	} else if !sweep && angle > 0 {
		angle -= 2 * math.Pi
	}
	mx, my := cos*cu-sin*cv+(p.x+x)/2, sin*cu+cos*cv+(p.y+y)/2
	at := func(a float64) (float64, float64) {
		s, c := math.Sincos(a)
		return mx + cos*rx*c - sin*ry*s, my + sin*rx*c + cos*ry*s
	}
	if p.m.similar() && math.Abs(rx-ry) < 1e-9*rx {
		n := int(math.Ceil(math.Abs(angle)/math.Pi - 1e-9))
		bend := angle / float64(n)
		if p.m.a*p.m.d-p.m.b*p.m.c < 0 {
			bend = -bend // a reflection turns the arc over
		}
		for i := 1; i <= n; i++ {
			a := p.m.at(p.x, p.y)
			p.x, p.y = at(from + angle*float64(i)/float64(n))
			if i == n {
				p.x, p.y = x, y
			}
			if err := p.r.add(segment{a, p.m.at(p.x, p.y), bend, p.layer}); err != nil {
				return err
			}
		}
		return nil
	}
	n := max(int(math.Ceil(math.Abs(angle)/(math.Pi/2)*curvePieces)), 1)
	for i := 1; i <= n; i++ {
		px, py := at(from + angle*float64(i)/float64(n))
		if i == n {
			px, py = x, y
		}
		if err := p.line(px, py); err != nil {
			return err
		}
	}
	return nil
}
