package plate

import (
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/result"
)

// Line is a way between two places, m.
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
	var sum float64
	for d := range l.From {
		sum += (l.To[d] - l.From[d]) * (l.To[d] - l.From[d])
	}
	return math.Sqrt(sum)
}

// Along takes values at count places, evenly spread along a line with both ends. Where there is
// nothing they are not numbers. Where parts meet it takes those of the first.
func Along(f *result.Fields, l Line, count int, values ...[]float64) (far []float64, out [][]float64) {
	points := make([]float64, 0, 3*count)
	for i := range count {
		part := float64(i) / float64(count-1)
		x := l.At(part)
		points = append(points, x[:]...)
		far = append(far, part*l.Length())
	}
	return far, Values(f, points, values...)
}

// Values takes values at places of three coordinates each, not numbers where there is nothing.
func Values(f *result.Fields, points []float64, values ...[]float64) [][]float64 {
	g := f.Grid(nil)
	places := g.Locate(points, fem.OnSide)
	out := make([][]float64, len(values))
	for k, list := range values {
		out[k] = make([]float64, len(places))
		for i, at := range places {
			if out[k][i] = math.NaN(); at.Cell >= 0 {
				out[k][i] = g.Blocks[at.Block].At(at, list)
			}
		}
	}
	return out
}
