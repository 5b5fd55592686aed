package plate

import (
	"image"
	"image/color"
	"math"
)

// Skin is a surface that is painted: places, m, values at them, triangles and lines between them. One that
// is flat is seen from above, any other from a corner.
type Skin struct {
	Positions           []float32
	Values              []float32
	Triangles, Outlines []uint32
	Flat                bool
}

// finer is how many times as fine a picture is painted as it becomes.
const finer = 2

// Picture paints a skin with the colours of rising values between two ends, on nothing.
func (s *Skin) Picture(width, height int, lo, hi float64) *image.NRGBA {
	p := newPainter(finer*width, finer*height)
	p.place(s)
	if !(hi > lo) {
		hi = lo + 1
	}
	for t := 0; t < len(s.Triangles); t += 3 {
		p.triangle(s, s.Triangles[t:t+3], lo, hi)
	}
	for l := 0; l < len(s.Outlines); l += 2 {
		p.line(s.Outlines[l], s.Outlines[l+1])
	}
	return p.smooth(width, height)
}

// painter is a picture with the depth of each of its points.
type painter struct {
	width, height int
	colours       []color.NRGBA
	depth         []float64
	at            [][3]float64 // of each vertex: across, down, nearness
}

func newPainter(width, height int) *painter {
	p := &painter{width: width, height: height, colours: make([]color.NRGBA, width*height), depth: make([]float64, width*height)}
	for i := range p.depth {
		p.depth[i] = math.Inf(-1)
	}
	return p
}

// place projects the vertices so that they fill the picture.
func (p *painter) place(s *Skin) {
	right, up, near := [3]float64{math.Sqrt2 / 2, math.Sqrt2 / 2, 0}, [3]float64{-0.41, 0.41, 0.815}, [3]float64{0.576, -0.576, 0.58}
	if s.Flat {
		right, up, near = [3]float64{1, 0, 0}, [3]float64{0, 1, 0}, [3]float64{0, 0, 1}
	}
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	p.at = make([][3]float64, len(s.Positions)/3)
	for i := range p.at {
		x := [3]float64{float64(s.Positions[3*i]), float64(s.Positions[3*i+1]), float64(s.Positions[3*i+2])}
		p.at[i] = [3]float64{dot(x, right), -dot(x, up), dot(x, near)}
		for d := range 2 {
			lo[d], hi[d] = min(lo[d], p.at[i][d]), max(hi[d], p.at[i][d])
		}
	}
	const room = 0.94
	scale := room * min(float64(p.width)/max(hi[0]-lo[0], 1e-30), float64(p.height)/max(hi[1]-lo[1], 1e-30))
	for i := range p.at {
		p.at[i][0] = float64(p.width)/2 + scale*(p.at[i][0]-(lo[0]+hi[0])/2)
		p.at[i][1] = float64(p.height)/2 + scale*(p.at[i][1]-(lo[1]+hi[1])/2)
		p.at[i][2] *= scale
	}
}

// triangle paints a triangle where nothing is nearer.
func (p *painter) triangle(s *Skin, corners []uint32, lo, hi float64) {
	a, b, c := p.at[corners[0]], p.at[corners[1]], p.at[corners[2]]
	area := (b[0]-a[0])*(c[1]-a[1]) - (c[0]-a[0])*(b[1]-a[1])
	if area == 0 {
		return
	}
	n := cross(minus(b, a), minus(c, a))
	shade := 1.0
	if !s.Flat {
		shade = 0.86 + 0.14*math.Abs(n[2])/math.Sqrt(dot(n, n))
	}
	x0, x1 := max(int(math.Ceil(min(a[0], b[0], c[0])-0.5)), 0), min(int(math.Floor(max(a[0], b[0], c[0])-0.5)), p.width-1)
	y0, y1 := max(int(math.Ceil(min(a[1], b[1], c[1])-0.5)), 0), min(int(math.Floor(max(a[1], b[1], c[1])-0.5)), p.height-1)
	for y := y0; y <= y1; y++ {
		for x := x0; x <= x1; x++ {
			px, py := float64(x)+0.5, float64(y)+0.5
			wb := ((px-a[0])*(c[1]-a[1]) - (c[0]-a[0])*(py-a[1])) / area
			wc := ((b[0]-a[0])*(py-a[1]) - (px-a[0])*(b[1]-a[1])) / area
			wa := 1 - wb - wc
			if wa < 0 || wb < 0 || wc < 0 {
				continue
			}
			z, i := wa*a[2]+wb*b[2]+wc*c[2], y*p.width+x
			if z <= p.depth[i] {
				continue
			}
			v := wa*float64(s.Values[corners[0]]) + wb*float64(s.Values[corners[1]]) + wc*float64(s.Values[corners[2]])
			p.depth[i], p.colours[i] = z, tinted(Rising((v-lo)/(hi-lo)), shade)
			if v != v { // the field is not here
				p.colours[i] = tinted([3]float64{0.85, 0.83, 0.78}, shade)
			}
		}
	}
}

// line draws a line where nothing is nearer by more than a few pixels.
func (p *painter) line(from, to uint32) {
	a, b := p.at[from], p.at[to]
	steps := int(math.Ceil(max(math.Abs(b[0]-a[0]), math.Abs(b[1]-a[1])))) + 1
	for k := 0; k <= steps; k++ {
		t := float64(k) / float64(steps)
		x, y, z := int(a[0]+t*(b[0]-a[0])), int(a[1]+t*(b[1]-a[1])), a[2]+t*(b[2]-a[2])
		if x < 0 || y < 0 || x >= p.width || y >= p.height {
			continue
		}
		if i := y*p.width + x; z > p.depth[i]-3 {
			p.colours[i] = color.NRGBA{35, 41, 45, 255}
		}
	}
}

// smooth takes the mean of the pixels that become one.
func (p *painter) smooth(width, height int) *image.NRGBA {
	out := image.NewNRGBA(image.Rect(0, 0, width, height))
	for y := range height {
		for x := range width {
			var sum [4]int
			for dy := range finer {
				for dx := range finer {
					c := p.colours[(finer*y+dy)*p.width+finer*x+dx]
					a := int(c.A)
					sum[0], sum[1], sum[2], sum[3] = sum[0]+a*int(c.R), sum[1]+a*int(c.G), sum[2]+a*int(c.B), sum[3]+a
				}
			}
			if sum[3] > 0 {
				out.SetNRGBA(x, y, color.NRGBA{uint8(sum[0] / sum[3]), uint8(sum[1] / sum[3]), uint8(sum[2] / sum[3]), uint8(sum[3] / (finer * finer))})
			}
		}
	}
	return out
}

func tinted(c [3]float64, shade float64) color.NRGBA {
	return color.NRGBA{uint8(255*c[0]*shade + 0.5), uint8(255*c[1]*shade + 0.5), uint8(255*c[2]*shade + 0.5), 255}
}

// rising are lightness, chroma and hue, degrees, of the scale from the lowest to the highest value in OKLab
// (B. Ottosson, 2020): dark blue, teal, sand, light copper. The scripts of the pages have the same ones.
var rising = [][3]float64{{0.26, 0.085, 280}, {0.42, 0.085, 232}, {0.57, 0.085, 190}, {0.72, 0.09, 95}, {0.88, 0.09, 60}}

// Rising is the colour at a part of the scale, red, green and blue from 0 to 1.
func Rising(t float64) (out [3]float64) {
	x := min(max(t, 0), 1) * float64(len(rising)-1)
	if x != x {
		x = 0
	}
	i := min(int(x), len(rising)-2)
	place := func(k int) [3]float64 {
		sin, cos := math.Sincos(rising[k][2] * math.Pi / 180)
		return [3]float64{rising[k][0], rising[k][1] * cos, rising[k][1] * sin}
	}
	lab, next := place(i), place(i+1)
	for d := range lab {
		lab[d] += (next[d] - lab[d]) * (x - float64(i))
	}
	cube := func(a, b float64) float64 { v := lab[0] + a*lab[1] + b*lab[2]; return v * v * v }
	l, m, s := cube(0.3963377774, 0.2158037573), cube(-0.1055613458, -0.0638541728), cube(-0.0894841775, -1.291485548)
	for d, row := range [3][3]float64{{4.0767416621, -3.3077115913, 0.2309699292}, {-1.2684380046, 2.6097574011, -0.3413193965}, {-0.0041960863, -0.7034186147, 1.707614701}} {
		v := row[0]*l + row[1]*m + row[2]*s
		if v <= 0.0031308 {
			v *= 12.92
		} else {
			v = 1.055*math.Pow(v, 1/2.4) - 0.055
		}
		out[d] = min(max(v, 0), 1)
	}
	return out
}
