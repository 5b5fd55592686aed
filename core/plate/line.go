package plate

import (
	"math"
	"sort"
)

// Way is a way through the device.
type Way interface {
	// At is the place, m, at a part of the way, 0 to 1.
	At(part float64) [3]float64
	// Length of the way, m.
	Length() float64
}

// Line is a straight way between two places, m.
type Line struct{ From, To [3]float64 }

// At is the place at a part of the way.
func (l Line) At(part float64) (x [3]float64) {
	for d := range x {
		x[d] = l.From[d] + part*(l.To[d]-l.From[d])
	}
	return x
}

// Length of the way, m.
func (l Line) Length() float64 {
	way := minus(l.To, l.From)
	return math.Sqrt(dot(way, way))
}

// Circle runs round a direction of length 1, seen against which it turns to the left. It begins where x
// is greatest, or y of one round x.
type Circle struct {
	Middle, Round [3]float64
	Radius        float64 // m
}

// At is the place at a part of the way.
func (c Circle) At(part float64) (x [3]float64) {
	first := [3]float64{1, 0, 0}
	if math.Abs(c.Round[0]) > 0.9 {
		first = [3]float64{0, 1, 0}
	}
	for d, along := 0, dot(first, c.Round); d < 3; d++ {
		first[d] -= along * c.Round[d]
	}
	size, second := math.Sqrt(dot(first, first)), cross(c.Round, first)
	sin, cos := math.Sincos(2 * math.Pi * part)
	for d := range x {
		x[d] = c.Middle[d] + c.Radius*(cos*first[d]+sin*second[d])/size
	}
	return x
}

// Length of the way, m.
func (c Circle) Length() float64 { return 2 * math.Pi * c.Radius }

// Path runs straight from corner to corner.
type Path struct {
	corners [][3]float64
	until   []float64 // the way up to each, m
}

// NewPath takes two or more corners, m.
func NewPath(corners [][3]float64) *Path {
	p := &Path{corners, make([]float64, len(corners))}
	for i := 1; i < len(corners); i++ {
		p.until[i] = p.until[i-1] + Line{corners[i-1], corners[i]}.Length()
	}
	return p
}

// At is the place at a part of the way.
func (p *Path) At(part float64) [3]float64 {
	far := part * p.Length()
	i := min(max(sort.SearchFloat64s(p.until, far), 1), len(p.corners)-1)
	piece := p.until[i] - p.until[i-1]
	if piece == 0 {
		return p.corners[i]
	}
	return Line{p.corners[i-1], p.corners[i]}.At((far - p.until[i-1]) / piece)
}

// Length of the way, m.
func (p *Path) Length() float64 { return p.until[len(p.until)-1] }

// Along takes values at count places, evenly spread along a way with both ends. Where there is
// nothing they are not numbers. Where parts meet it takes those of one of them.
func (in *Inside) Along(w Way, count int, values ...[]float64) (far []float64, out [][]float64) {
	points := make([][3]float64, count)
	far = make([]float64, count)
	for i := range count {
		part := float64(i) / float64(count-1)
		points[i], far[i] = w.At(part), part*w.Length()
	}
	return far, in.At(points, values...)
}

// Round returns count places in a ball, m, the middle first, the others evenly spread by the golden
// angle.
func Round(middle [3]float64, radius float64, count int) [][3]float64 {
	golden := math.Pi * (3 - math.Sqrt(5))
	list := [][3]float64{middle}
	for i := 1; i < count; i++ {
		z := 1 - 2*(float64(i)-0.5)/float64(count-1)
		far := radius * math.Cbrt(float64(i)/float64(count-1))
		sin, cos := math.Sincos(golden * float64(i))
		across := math.Sqrt(1 - z*z)
		list = append(list, [3]float64{middle[0] + far*across*cos, middle[1] + far*across*sin, middle[2] + far*z})
	}
	return list
}
