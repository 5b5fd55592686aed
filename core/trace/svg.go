package trace

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
)

// affine is a transformation x' = a·x + c·y + e, y' = b·x + d·y + f.
type affine struct{ a, b, c, d, e, f float64 }

func (m affine) times(n affine) affine {
	return affine{
		m.a*n.a + m.c*n.b, m.b*n.a + m.d*n.b,
		m.a*n.c + m.c*n.d, m.b*n.c + m.d*n.d,
		m.a*n.e + m.c*n.f + m.e, m.b*n.e + m.d*n.f + m.f}
}

func (m affine) at(x, y float64) point { return point{m.a*x + m.c*y + m.e, m.b*x + m.d*y + m.f} }

// similar says that circles stay circles.
func (m affine) similar() bool {
	u, v := math.Hypot(m.a, m.b), math.Hypot(m.c, m.d)
	return math.Abs(m.a*m.c+m.b*m.d) < 1e-9*u*v && math.Abs(u-v) < 1e-9*u
}

// pxPerMM is the resolution of SVG: 96 pixels in an inch.
const pxPerMM = 96 / 25.4

// svgLengths are the units of SVG lengths in mm.
var svgLengths = map[string]float64{"mm": 1, "cm": 10, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "px": 1 / pxPerMM, "": 1 / pxPerMM, "q": 0.25}

// svg reads the shapes of an SVG file; y, which runs downward there, is turned.
func (r *reader) svg(data []byte) error {
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Entity = map[string]string{} // no entities of the file's own
	stack := []affine{{a: 1, d: 1}}
	root, hidden := false, 0
	for {
		token, err := dec.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("this is not an SVG file: %w", err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			name := t.Name.Local
			if !root && name != "svg" {
				return fmt.Errorf("this is not an SVG file: it begins with <%s>", name)
			}
			attr := map[string]string{}
			for _, a := range t.Attr {
				attr[a.Name.Local] = a.Value
			}
			m := stack[len(stack)-1]
			if !root {
				root = true
				m = r.page(attr)
			}
			local, err := transform(attr["transform"])
			if err != nil {
				return err
			}
			m = m.times(local)
			stack = append(stack, m)
			switch name {
			case "defs", "clipPath", "mask", "symbol", "marker", "pattern":
				hidden++
			}
			if hidden == 0 {
				if err := r.shape(name, attr, m); err != nil {
					return err
				}
			}
		case xml.EndElement:
			stack = stack[:len(stack)-1]
			switch t.Name.Local {
			case "defs", "clipPath", "mask", "symbol", "marker", "pattern":
				hidden--
			}
		}
	}
	if !root {
		return errors.New("this is not an SVG file: it is empty")
	}
	r.unit = "mm"
	return nil
}

// page is the transformation from the units of the file to mm with y upward.
func (r *reader) page(attr map[string]string) affine {
	scale := 1 / pxPerMM
	if box := numbers(attr["viewBox"]); len(box) == 4 && box[2] > 0 {
		text := strings.TrimSpace(attr["width"])
		end := len(strings.TrimRight(text, "abcdefghijklmnopqrstuvwxyz%"))
		if w, err := strconv.ParseFloat(text[:end], 64); err == nil && w > 0 {
			if mm, ok := svgLengths[text[end:]]; ok {
				scale = w * mm / box[2]
			}
		}
	}
	return affine{a: scale, d: -scale}
}

// shape reads one element.
func (r *reader) shape(name string, attr map[string]string, m affine) error {
	number := func(key string) float64 {
		v, _ := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(attr[key]), "px"), 64)
		return v
	}
	layer := attr["id"]
	if layer == "" {
		layer = "outline"
	}
	p := &pen{r: r, m: m, layer: layer}
	switch name {
	case "path":
		return p.path(attr["d"])
	case "rect":
		x, y, w, h := number("x"), number("y"), number("width"), number("height")
		rx, ry := number("rx"), number("ry")
		if attr["rx"] == "" {
			rx = ry
		}
		if attr["ry"] == "" {
			ry = rx
		}
		rx, ry = min(rx, w/2), min(ry, h/2)
		if rx <= 0 || ry <= 0 {
			return p.path(fmt.Sprintf("M%g %gh%gv%gh%gz", x, y, w, h, -w))
		}
		return p.path(fmt.Sprintf("M%g %gh%ga%g %g 0 0 1 %g %gv%ga%g %g 0 0 1 %g %gh%ga%g %g 0 0 1 %g %gv%ga%g %g 0 0 1 %g %gz",
			x+rx, y, w-2*rx, rx, ry, rx, ry, h-2*ry, rx, ry, -rx, ry, -(w - 2*rx), rx, ry, -rx, -ry, -(h - 2*ry), rx, ry, rx, -ry))
	case "circle", "ellipse":
		rx, ry := number("rx"), number("ry")
		if name == "circle" {
			rx, ry = number("r"), number("r")
		}
		if rx <= 0 || ry <= 0 {
			return nil
		}
		return p.path(fmt.Sprintf("M%g %ga%g %g 0 0 1 %g 0a%g %g 0 0 1 %g 0z", number("cx")-rx, number("cy"), rx, ry, 2*rx, rx, ry, -2*rx))
	case "polygon", "polyline", "line":
		points := numbers(attr["points"])
		if name == "line" {
			points = []float64{number("x1"), number("y1"), number("x2"), number("y2")}
		}
		if len(points) < 4 {
			return nil
		}
		text := "M"
		for _, v := range points[:len(points)/2*2] {
			text += fmt.Sprintf(" %g", v)
		}
		if name == "polygon" {
			text += "z"
		}
		return p.path(text)
	case "text", "image", "use":
		r.skip("<" + name + ">")
	}
	return nil
}

// numbers reads a list of numbers with spaces, commas or nothing but signs
// between them.
func numbers(text string) []float64 {
	var list []float64
	for s := (scanner{text: text}); ; {
		v, ok := s.number()
		if !ok {
			return list
		}
		list = append(list, v)
	}
}

// transform reads a transform attribute.
func transform(text string) (affine, error) {
	m := affine{a: 1, d: 1}
	for rest := strings.TrimSpace(text); rest != ""; {
		name, after, ok := strings.Cut(rest, "(")
		args, tail, closed := strings.Cut(after, ")")
		v := numbers(args)
		name = strings.Trim(name, " ,\n\t")
		if !ok || !closed || len(v) == 0 {
			return m, fmt.Errorf("the transformation %q cannot be read", text)
		}
		get := func(i int, other float64) float64 {
			if i < len(v) {
				return v[i]
			}
			return other
		}
		n := affine{a: 1, d: 1}
		switch name {
		case "matrix":
			n = affine{get(0, 1), get(1, 0), get(2, 0), get(3, 1), get(4, 0), get(5, 0)}
		case "translate":
			n.e, n.f = v[0], get(1, 0)
		case "scale":
			n.a, n.d = v[0], get(1, v[0])
		case "rotate":
			sin, cos := math.Sincos(v[0] * math.Pi / 180)
			x, y := get(1, 0), get(2, 0)
			n = affine{1, 0, 0, 1, x, y}.times(affine{cos, sin, -sin, cos, 0, 0}).times(affine{1, 0, 0, 1, -x, -y})
		case "skewX":
			n.c = math.Tan(v[0] * math.Pi / 180)
		case "skewY":
			n.b = math.Tan(v[0] * math.Pi / 180)
		default:
			return m, fmt.Errorf("the transformation %q is not known", name)
		}
		m = m.times(n)
		rest = strings.TrimLeft(tail, " ,\n\t")
	}
	return m, nil
}

// scanner reads the letters and numbers of path data.
type scanner struct {
	text string
	pos  int
}

func (s *scanner) space() {
	for s.pos < len(s.text) && strings.ContainsRune(" ,\t\r\n", rune(s.text[s.pos])) {
		s.pos++
	}
}

// number reads a number; ".5.5" are two, and so is "1-2".
func (s *scanner) number() (float64, bool) {
	s.space()
	start := s.pos
	digits := func() {
		for s.pos < len(s.text) && s.text[s.pos] >= '0' && s.text[s.pos] <= '9' {
			s.pos++
		}
	}
	if s.pos < len(s.text) && (s.text[s.pos] == '+' || s.text[s.pos] == '-') {
		s.pos++
	}
	digits()
	if s.pos < len(s.text) && s.text[s.pos] == '.' {
		s.pos++
		digits()
	}
	if s.pos < len(s.text) && (s.text[s.pos] == 'e' || s.text[s.pos] == 'E') {
		mark := s.pos
		s.pos++
		if s.pos < len(s.text) && (s.text[s.pos] == '+' || s.text[s.pos] == '-') {
			s.pos++
		}
		before := s.pos
		digits()
		if s.pos == before {
			s.pos = mark
		}
	}
	v, err := strconv.ParseFloat(s.text[start:s.pos], 64)
	if err != nil {
		s.pos = start
		return 0, false
	}
	return v, true
}

// flag reads a 0 or 1, which need not be set apart from what follows.
func (s *scanner) flag() (bool, bool) {
	s.space()
	if s.pos < len(s.text) && (s.text[s.pos] == '0' || s.text[s.pos] == '1') {
		s.pos++
		return s.text[s.pos-1] == '1', true
	}
	return false, false
}
