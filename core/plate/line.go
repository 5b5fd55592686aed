package plate

import "math"

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
// nothing they are not numbers. Where parts meet it takes those of one of them.
func (in *Inside) Along(l Line, count int, values ...[]float64) (far []float64, out [][]float64) {
	points := make([][3]float64, count)
	far = make([]float64, count)
	for i := range count {
		part := float64(i) / float64(count-1)
		points[i], far[i] = l.At(part), part*l.Length()
	}
	return far, in.At(points, values...)
}
