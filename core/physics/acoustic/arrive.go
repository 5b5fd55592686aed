package acoustic

import (
	"errors"
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// In a frame the pressure is that of what goes away alone; within what it is round it is that of the wave that comes, too. So a wave that
// comes is a load at the nodes between the two and by them: what the cells of the frame make of it at these nodes, and what its slope lets through.

// gate is where a wave comes in.
type gate struct {
	place map[int32][3]float64 // of the nodes, by equation
	// through is ∫ N·N·n/ρ, by the equations of both, with the normal into the frame, in the order of pairs.
	through map[[2]int32][3]float64
	pairs   [][2]int32
	speed   float64 // of sound there, m/s
	// framed is what the cells of the frame make of values at the nodes.
	framed []entries
}

// entries are some of a matrix, with what they count with.
type entries struct {
	rows, cols []int32
	data       []float64
	factor     func(omega float64) complex128
}

// Arrives is the load of a wave that comes by the angular frequency; nil if none does.
func (k *Kernel) Arrives(g *couple.Group, at *fem.State) (func(omega float64) ([]int32, []complex128), error) {
	wave := k.problem.Arrives
	if wave == nil {
		return nil, nil
	}
	size := complex(amplitude(wave.Pressure), 0)
	gate, err := k.gate(g, at, wave.Facets)
	if err != nil {
		return nil, err
	}
	number, rows := map[int32]int{}, []int32(nil)
	note := func(r int32) {
		if _, known := number[r]; !known {
			number[r] = len(rows)
			rows = append(rows, r)
		}
	}
	for _, pair := range gate.pairs {
		note(pair[0])
	}
	for _, s := range gate.framed {
		for _, r := range s.rows {
			note(r)
		}
	}
	return func(omega float64) ([]int32, []complex128) {
		out, wavenumber := make([]complex128, len(rows)), omega/gate.speed
		here := make(map[int32]complex128, len(gate.place))
		for e, x := range gate.place {
			here[e] = size * cmplx.Exp(complex(0, -wavenumber*inner(wave.Along, x)))
		}
		for _, pair := range gate.pairs {
			out[number[pair[0]]] += complex(0, -wavenumber*inner(wave.Along, gate.through[pair])) * here[pair[1]]
		}
		for _, s := range gate.framed {
			by := s.factor(omega)
			for i, r := range s.rows {
				out[number[r]] += by * complex(s.data[i], 0) * here[s.cols[i]]
			}
		}
		return rows, out
	}, nil
}

func inner(a, b [3]float64) (sum float64) {
	for i := range a {
		sum += a[i] * b[i]
	}
	return sum
}

// sameSpeed is by how much, of itself, the speed of sound may differ where one wave comes in.
const sameSpeed = 1e-6

// gate finds where a wave comes in through facets between a frame and what it is round.
func (k *Kernel) gate(g *couple.Group, at *fem.State, facets []int32) (*gate, error) {
	frames := map[int32]bool{}
	for b, body := range k.problem.Bodies {
		frames[b] = body.Shell != nil
	}
	var sides []fem.Side
	for _, f := range facets {
		sides = append(sides, g.Side(f, frames[g.Mesh.Facets[f].Body]))
	}
	field := slices.IndexFunc(g.Fields, func(f couple.Field) bool { return f.Name == fieldName })
	out := &gate{place: map[int32][3]float64{}, through: map[[2]int32][3]float64{}}
	own := k.Fork().(*Kernel)
	err := g.System.EachSide(at, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := own.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p, speed := &points[q], own.now.At(soundSpeed, q)
			if out.speed > 0 && math.Abs(speed-out.speed) > sameSpeed*speed {
				return errors.New("a plane wave comes in where the speed of sound is not everywhere the same: let one gas meet the frame, of one temperature")
			}
			out.speed = speed
			for i, v := range p.Nodes {
				if p.Functions[i] == 0 {
					continue
				}
				row := g.System.Equation(field, 0, v)
				out.place[row] = g.System.Grid.At(v)
				for j, o := range p.Nodes {
					if p.Functions[j] == 0 {
						continue
					}
					pair := [2]int32{row, g.System.Equation(field, 0, o)}
					sum := out.through[pair]
					for d, n := range p.Normal {
						sum[d] += w * p.Functions[i] * p.Functions[j] * n / own.now.At(density, q)
					}
					out.through[pair] = sum
				}
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	for pair := range out.through {
		out.pairs = append(out.pairs, pair)
	}
	slices.SortFunc(out.pairs, func(a, b [2]int32) int { return slices.Compare(a[:], b[:]) })
	for _, piece := range k.pieces() {
		m, _, err := piece.assemble(g.System, at, frames)
		if err != nil {
			return nil, err
		}
		s := entries{factor: piece.factor}
		for r := range int32(g.System.N) {
			cols, data := m.Row(int(r))
			for i, c := range cols {
				if _, known := out.place[c]; known && data[i] != 0 {
					s.rows, s.cols, s.data = append(s.rows, r), append(s.cols, c), append(s.data, data[i])
				}
			}
		}
		out.framed = append(out.framed, s)
	}
	return out, nil
}
