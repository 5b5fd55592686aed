package acoustic

import (
	"math"
	"math/cmplx"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// In a frame the pressure is that of what goes away alone; within what it is round it is that of the wave that comes, too. So a wave that
// comes is a load at the nodes between the two and by them: what the cells of the frame make of it at these nodes, and what its slope lets through.

// Arrives is that load by the angular frequency; nil if no wave comes.
func (k *Kernel) Arrives(g *couple.Group, at *fem.State) (func(omega float64) ([]int32, []complex128), error) {
	wave := k.problem.Arrives
	if wave == nil {
		return nil, nil
	}
	set := law.NewSet(wave.Pressure)
	set.Run([]fem.Point{{Swing: 1}, {}}, -1)
	size := complex(set.At(0, 0)-set.At(0, 1), 0)
	frames := map[int32]bool{}
	for b, body := range k.problem.Bodies {
		frames[b] = body.Shell != nil
	}
	// The nodes between, with what the slope of a wave there lets through, by axis.
	var sides []fem.Side
	for _, f := range wave.Facets {
		sides = append(sides, g.Side(f, frames[g.Mesh.Facets[f].Body]))
	}
	field := slices.IndexFunc(g.Fields, func(f couple.Field) bool { return f.Name == fieldName })
	place := map[int32][3]float64{}
	through := map[[2]int32][3]float64{} // ∫ N·N·n/ρ
	speed := 0.
	own := k.Fork().(*Kernel)
	err := g.System.EachSide(at, sides, func(_ int, points []fem.Point, weights []float64) error {
		if err := own.Prepare(-1, points); err != nil {
			return err
		}
		for q, w := range weights {
			p := &points[q]
			speed = own.now.At(soundSpeed, q)
			for i, v := range p.Nodes {
				if math.Abs(p.Functions[i]) < 1e-12 {
					continue
				}
				row := g.System.Equation(field, 0, v)
				place[row] = g.System.Grid.At(v)
				for j, o := range p.Nodes {
					col := g.System.Equation(field, 0, o)
					if math.Abs(p.Functions[j]) < 1e-12 {
						continue
					}
					sum := through[[2]int32{row, col}]
					for d, n := range p.Normal {
						sum[d] += w * p.Functions[i] * p.Functions[j] * n / own.now.At(density, q)
					}
					through[[2]int32{row, col}] = sum
				}
			}
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	// What the cells of the frame make of values at these nodes, by what counts with a factor.
	type share struct {
		rows   []int32
		cols   []int32
		data   []float64
		factor func(omega float64) complex128
	}
	var list []share
	take := func(of *Kernel, rates bool, factor func(omega float64) complex128) error {
		m := g.System.NewMatrix()
		state := fem.State{U: at.U, Rate: make([]float64, g.System.N), Time: at.Time, Given: at.Given, ByRates: rates}
		if rates {
			state.RateSlope = 1
		}
		if err := g.System.Assemble(within{of, frames}, &state, make([]float64, g.System.N), m); err != nil {
			return err
		}
		s := share{factor: factor}
		for r := range int32(g.System.N) {
			cols, data := m.Row(int(r))
			for i, c := range cols {
				if _, known := place[c]; known && data[i] != 0 {
					s.rows, s.cols, s.data = append(s.rows, r), append(s.cols, c), append(s.data, data[i])
				}
			}
		}
		list = append(list, s)
		return nil
	}
	if err := take(k.as(whole, 0), false, func(float64) complex128 { return 1 }); err != nil {
		return nil, err
	}
	if err := take(k.as(whole, 0), true, func(omega float64) complex128 { return complex(-omega*omega, 0) }); err != nil {
		return nil, err
	}
	for _, part := range k.Spectrum() {
		if err := take(part.Kernel.(*Kernel), false, part.Factor); err != nil {
			return nil, err
		}
	}
	number := map[int32]int{}
	var rows []int32
	note := func(r int32) {
		if _, known := number[r]; !known {
			number[r] = len(rows)
			rows = append(rows, r)
		}
	}
	pairs := make([][2]int32, 0, len(through))
	for pair := range through {
		pairs = append(pairs, pair)
	}
	slices.SortFunc(pairs, func(a, b [2]int32) int { return slices.Compare(a[:], b[:]) })
	for _, pair := range pairs {
		note(pair[0])
	}
	for _, s := range list {
		for _, r := range s.rows {
			note(r)
		}
	}
	return func(omega float64) ([]int32, []complex128) {
		out := make([]complex128, len(rows))
		wavenumber := omega / speed
		here := make(map[int32]complex128, len(place))
		for e, x := range place {
			way := 0.
			for d := range x {
				way += wave.Along[d] * x[d]
			}
			here[e] = size * cmplx.Exp(complex(0, -wavenumber*way))
		}
		for _, pair := range pairs {
			along := 0.
			for d, v := range through[pair] {
				along += v * wave.Along[d]
			}
			out[number[pair[0]]] += complex(0, -wavenumber*along) * here[pair[1]]
		}
		for _, s := range list {
			by := s.factor(omega)
			for i, r := range s.rows {
				out[number[r]] += by * complex(s.data[i], 0) * here[s.cols[i]]
			}
		}
		return rows, out
	}, nil
}
