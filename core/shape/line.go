package shape

import (
	"fmt"
	"math"
)

// Line is an open way in space, as that of a pipe: straight from point to point, with corners that may be rounded.
type Line struct{ Points []LinePoint }

// LinePoint is a point of a line, m, with the radius of the arc that takes its place, 0 for a sharp corner.
type LinePoint struct {
	Name  string
	At    [3]float64
	Round float64
}

// Names of the ends of a line.
const (
	Start = "start"
	End   = "end"
)

// Station is a place on a line. Point is the number of the point of the line that it stands for, −1 for none, and Length how far it is
// along the line to the next station, which is more than the straight way where the line is an arc, m.
type Station struct {
	At     [3]float64
	Point  int
	Length float64
}

// NewLine checks that a line can be drawn: it has two points or more, none of which follows another at the same place, and its arcs have
// room.
func NewLine(points []LinePoint) (*Line, error) {
	l := &Line{Points: points}
	if len(points) < 2 {
		return nil, fmt.Errorf("a line needs two points at least")
	}
	for i := 1; i < len(points); i++ {
		if Apart(points[i-1].At, points[i].At) == 0 {
			return nil, fmt.Errorf("points %d and %d are at the same place", i, i+1)
		}
	}
	for i := 1; i < len(points); i++ {
		if used, long := l.reach(i-1)+l.reach(i), Apart(points[i-1].At, points[i].At); used > long*(1+1e-9) {
			return nil, fmt.Errorf("the radii of the corners at points %d and %d take more than the way between them", i, i+1)
		}
	}
	return l, nil
}

// Turn is the angle by which the line turns at a point, rad, 0 at its ends.
func (l *Line) Turn(i int) float64 {
	if i <= 0 || i >= len(l.Points)-1 {
		return 0
	}
	a, b := way(l.Points[i-1].At, l.Points[i].At), way(l.Points[i].At, l.Points[i+1].At)
	return 2 * math.Atan2(Apart(a, b), Apart(a, [3]float64{-b[0], -b[1], -b[2]}))
}

// reach is how far the arc at a point goes along the straight pieces beside it.
func (l *Line) reach(i int) float64 { return l.Points[i].Round * math.Tan(l.Turn(i)/2) }

// arcPieces is how many straight pieces half an arc has.
const arcPieces = 4

// Stations are places along the line between which it may be taken as straight, with those of its points: of a rounded corner that is
// the middle of its arc.
func (l *Line) Stations() []Station {
	var list []Station
	add := func(at [3]float64, point int, length float64) {
		list = append(list, Station{At: at, Point: point})
		if n := len(list); n > 1 {
			list[n-2].Length = length
		}
	}
	for i, p := range l.Points {
		turn, reach := l.Turn(i), l.reach(i)
		if reach == 0 || turn < 1e-9 {
			length := 0.0
			if i > 0 {
				length = Apart(list[len(list)-1].At, p.At)
			}
			add(p.At, i, length)
			continue
		}
		before, after := way(p.At, l.Points[i-1].At), way(p.At, l.Points[i+1].At)
		from := along(p.At, before, reach)
		if last := Apart(list[len(list)-1].At, from); last > 1e-9*reach {
			add(from, -1, last)
		}
		// In the plane of the corner the arc is p + a·before + b·after.
		for k := 1; k <= 2*arcPieces; k++ {
			angle := turn * float64(k) / (2 * arcPieces)
			// From the first tangent point: R sin angle along the way in, R (1 − cos angle) towards the centre.
			inward := along([3]float64{}, before, p.Round*math.Tan(turn/2)-p.Round*math.Sin(angle))
			towards := normalTo(before, after)
			at := along(along(p.At, inward, 1), towards, p.Round*(1-math.Cos(angle)))
			point := -1
			if k == arcPieces {
				point = i
			}
			add(at, point, p.Round*turn/(2*arcPieces))
		}
	}
	return list
}

// Length of the line, m.
func (l *Line) Length() (sum float64) {
	for _, s := range l.Stations() {
		sum += s.Length
	}
	return sum
}

// Names of its points.
func (l *Line) Names() []string {
	var list []string
	for _, p := range l.Points {
		list = append(list, p.Name)
	}
	return list
}

// Box around the line.
func (l *Line) Box() (lo, hi [3]float64) {
	lo, hi = l.Points[0].At, l.Points[0].At
	for _, p := range l.Points {
		for d, x := range p.At {
			lo[d], hi[d] = min(lo[d], x), max(hi[d], x)
		}
	}
	return lo, hi
}

// Moved returns the line with its points elsewhere.
func (l *Line) Moved(place func(p [3]float64) [3]float64) *Line {
	out := &Line{Points: make([]LinePoint, len(l.Points))}
	for i, p := range l.Points {
		p.At = place(p.At)
		out.Points[i] = p
	}
	return out
}

// Tube is a prism of a radius along the line, for drawing, of triangles that turn left seen from outside, with a ball of another radius at each
// point of the line; nearest has, for each triangle, the number of the point whose ball it is of, −1 for none.
func (l *Line) Tube(radius, ball float64) (tube *Surface, nearest []int) {
	stations := l.Stations()
	tube = &Surface{}
	var u [3]float64
	add := func(point int, triangles ...[3]int32) {
		for _, t := range triangles {
			tube.Triangles, nearest = append(tube.Triangles, t), append(nearest, point)
		}
	}
	for i, s := range stations {
		forward := way(stations[max(0, i-1)].At, stations[min(i+1, len(stations)-1)].At)
		var ring [TubeSides][3]float64
		ring, u = Hoop(s.At, forward, u, radius)
		tube.Points = append(tube.Points, ring[:]...)
		for k := range int32(TubeSides) {
			if i > 0 {
				a, b := int32(i-1)*TubeSides+k, int32(i-1)*TubeSides+(k+1)%TubeSides
				add(-1, [3]int32{a, b, b + TubeSides}, [3]int32{a, b + TubeSides, a + TubeSides})
			}
		}
	}
	last := int32(len(stations)-1) * TubeSides
	for k := int32(1); k < TubeSides-1; k++ {
		add(-1, [3]int32{0, k + 1, k}, [3]int32{last, last + k, last + k + 1})
	}
	for _, s := range stations {
		if s.Point < 0 || ball == 0 {
			continue
		}
		first := int32(len(tube.Points))
		const rows = 5
		for row := range int32(rows + 1) {
			sin, cos := math.Sincos(math.Pi * float64(row) / rows)
			ring, _ := Hoop(along(s.At, [3]float64{0, 0, 1}, -ball*cos), [3]float64{0, 0, 1}, [3]float64{}, ball*sin)
			tube.Points = append(tube.Points, ring[:]...)
			for k := range int32(TubeSides) {
				if row > 0 {
					a, b := first+(row-1)*TubeSides+k, first+(row-1)*TubeSides+(k+1)%TubeSides
					add(s.Point, [3]int32{a, b, b + TubeSides}, [3]int32{a, b + TubeSides, a + TubeSides})
				}
			}
		}
	}
	return tube, nearest
}

// TubeSides is how many sides a drawn pipe has.
const TubeSides = 10

// Hoop is the places round a place of a line at a radius, turning left seen against the way forward, from a direction across it that is as near to
// that of the ring before as can be.
func Hoop(at, forward, before [3]float64, radius float64) (ring [TubeSides][3]float64, first [3]float64) {
	u := across(forward, before)
	v := cross(forward, u)
	for k := range ring {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / TubeSides)
		ring[k] = along(along(at, u, radius*cos), v, radius*sin)
	}
	return ring, u
}

// across is a direction across another one, as near to the one before as can be, or of any kind if there was none.
func across(forward, before [3]float64) [3]float64 {
	if by := dot(before, forward); Apart(before, [3]float64{}) > 0.5 && math.Abs(by) < 0.9 {
		return way([3]float64{}, along(before, forward, -by))
	}
	least := 0
	for d := range forward {
		if math.Abs(forward[d]) < math.Abs(forward[least]) {
			least = d
		}
	}
	var axis [3]float64
	axis[least] = 1
	return way([3]float64{}, along(axis, forward, -dot(axis, forward)))
}

// normalTo is the direction across a, on the side of b in their plane.
func normalTo(a, b [3]float64) [3]float64 { return way([3]float64{}, along(b, a, -dot(a, b))) }

func dot(a, b [3]float64) float64 { return a[0]*b[0] + a[1]*b[1] + a[2]*b[2] }

func cross(a, b [3]float64) [3]float64 {
	return [3]float64{a[1]*b[2] - a[2]*b[1], a[2]*b[0] - a[0]*b[2], a[0]*b[1] - a[1]*b[0]}
}

// Apart is how far two places are from each other.
func Apart(a, b [3]float64) float64 {
	return math.Sqrt((a[0]-b[0])*(a[0]-b[0]) + (a[1]-b[1])*(a[1]-b[1]) + (a[2]-b[2])*(a[2]-b[2]))
}

// way is the direction from one place to another, of length 1, or of none where they are the same.
func way(a, b [3]float64) [3]float64 {
	long := Apart(a, b)
	if long == 0 {
		return [3]float64{}
	}
	return [3]float64{(b[0] - a[0]) / long, (b[1] - a[1]) / long, (b[2] - a[2]) / long}
}

// along is a place at a distance from another one in a direction.
func along(at, direction [3]float64, distance float64) [3]float64 {
	for d := range at {
		at[d] += distance * direction[d]
	}
	return at
}
