package acoustic

import (
	"errors"
	"math"
	"math/cmplx"

	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/model"
)

// turns is how many angles there are at least round an axis for what a surface sends far away.
const turns = 32

// farAway is the sound pressure far away along a direction, root of its mean square, Pa: what a surface around all that makes sound sends there
// by its pressure and the slope of that (the integral of Kirchhoff and Helmholtz with the far field of its kernel; A. D. Pierce, Acoustics, 1989,
// section 4.6), with the images of a device that is cut by symmetry.
func farAway(k *Kernel, r *frame.Reading) (float64, error) {
	var along [3]float64
	size := 0.
	for i, name := range []string{"x", "y", "z"} {
		if l := r.Sentence.Laws[name]; l != nil {
			along[i], _ = l.Constant()
		}
		size += along[i] * along[i]
	}
	if size == 0 {
		return 0, errors.New("nothing says in which direction")
	}
	for i := range along {
		along[i] /= math.Sqrt(size)
	}
	distance, _ := r.Sentence.Laws["distance"].Constant()
	sides, _ := k.sides(r)
	if len(sides) == 0 {
		return 0, errors.New("no sound meets it")
	}
	s := r.Solution
	omega := 2 * math.Pi * s.Swing.Frequency
	at := k.Fork().(*Kernel)
	var points []source
	outward, speed, area := 0., 0., 0.
	for part, state := range []*fem.State{s.Swing.Real, s.Swing.Imaginary} {
		by, n := complex(1, 0), 0
		if part == 1 {
			by = 1i
		}
		err := s.System.EachSide(state, sides, func(_ int, list []fem.Point, weights []float64) error {
			if err := at.Prepare(-1, list); err != nil {
				return err
			}
			for q, w := range weights {
				p := &list[q]
				if part == 0 {
					points = append(points, source{x: p.X, normal: p.Normal, weight: w})
					for i, x := range p.X {
						outward += w * p.Normal[i] * (x - k.middle[i])
					}
					speed += w * at.now.At(soundSpeed, q)
					area += w
				}
				slope := 0.
				for i, g := range p.Grad[k.p] {
					slope += g * p.Normal[i]
				}
				points[n].pressure += by * complex(p.U[k.p], 0)
				points[n].slope += by * complex(slope, 0)
				n++
			}
			return nil
		})
		if err != nil {
			return 0, err
		}
	}
	if outward < 0 { // seen from the sound, what makes it lies within
		for i := range points {
			p := &points[i]
			for d := range p.normal {
				p.normal[d] = -p.normal[d]
			}
			p.slope = -p.slope
		}
	}
	number := omega * area / speed
	sum := complex(0, 0)
	for _, m := range mirrored(r.Model, along) {
		sum += cmplx.Exp(complex(0, number*m.shift)) * sent(points, m.along, number, r.Model.Document.Space.Kind == model.Axial)
	}
	if r.Model.Document.Space.Kind == model.Plane {
		return cmplx.Abs(sum) / r.Model.Depth / math.Sqrt(8*math.Pi*number*distance) / math.Sqrt2, nil
	}
	return cmplx.Abs(sum) / (4 * math.Pi * distance) / math.Sqrt2, nil
}

// source is a point of a surface that sends sound far away.
type source struct {
	x, normal       [3]float64
	weight          float64
	pressure, slope complex128
}

// mirror is a direction, mirrored, and by how much longer the way is.
type mirror struct {
	along [3]float64
	shift float64
}

// mirrored are a direction and its images in the planes at which a device is cut.
func mirrored(m *model.Resolved, along [3]float64) []mirror {
	list := []mirror{{along: along}}
	for _, c := range m.Cuts {
		for _, o := range list {
			o.shift += 2 * c.At * o.along[c.Axis]
			o.along[c.Axis] = -o.along[c.Axis]
			list = append(list, o)
		}
	}
	return list
}

// sent is ∫ (ik·(n·d)·p − ∂p/∂n)·exp(ik·d·x) over points, in the mean round the axis where there is one.
func sent(points []source, along [3]float64, number float64, round bool) (sum complex128) {
	for i := range points {
		p := &points[i]
		angles := 1
		if round {
			angles = turns + 2*int(number*p.x[0])
		}
		for a := range angles {
			x, n := p.x, p.normal
			if round {
				cos, sin := math.Cos(2*math.Pi*float64(a)/float64(angles)), math.Sin(2*math.Pi*float64(a)/float64(angles))
				x[0], x[2], n[0], n[2] = p.x[0]*cos, p.x[0]*sin, p.normal[0]*cos, p.normal[0]*sin
			}
			var way, faces float64
			for d := range x {
				way += along[d] * x[d]
				faces += along[d] * n[d]
			}
			sum += (complex(0, number*faces)*p.pressure - p.slope) * cmplx.Exp(complex(0, number*way)) * complex(p.weight/float64(angles), 0)
		}
	}
	return sum
}
