package fem

import "slices"

// half is one side of a joint in assembly.
type half struct {
	eq     []int32
	span   [][2]int
	shapes [][]float64
	u      []float64
	rate   []float64
}

// keep copies what the assembler holds of the side at hand.
func (a *assembler) keep(h *half) {
	h.eq = append(h.eq[:0], a.eq...)
	h.span = append(h.span[:0], a.span...)
	h.shapes = h.shapes[:0]
	for _, n := range a.shapes {
		h.shapes = append(h.shapes, slices.Clone(n))
	}
	h.u = append(h.u[:0], a.point.U...)
	h.rate = append(h.rate[:0], a.point.Rate...)
}

func (a *assembler) runJoints(k JointKernel) error {
	terms := NewJointTerms(a.Components)
	return a.eachJoint(func(number int, mine, other *half, weight float64) error {
		terms.reset()
		if err := k.Joint(number, &a.point, other.u, terms); err != nil {
			return err
		}
		a.addJoint(mine, other, weight, terms)
		return nil
	})
}

// eachJoint calls f at the points of joints that touch our rows; the point of side A
// is then loaded.
func (a *assembler) eachJoint(f func(number int, mine, other *half, weight float64) error) error {
	cache := sideCache{}
	var mine, other half
	for number, j := range a.joints {
		ba, bb := &a.Grid.Blocks[j.A.Block], &a.Grid.Blocks[j.B.Block]
		fa, fb := a.side(cache, j.A), a.side(cache, j.B)
		if !a.takes(a.linearJoint(number)) || !a.touches(ba.Nodes(j.A.Cell)) && !a.touches(bb.Nodes(j.B.Cell)) {
			continue
		}
		for q := range fa.rule.Points {
			fa.load(a.Grid, ba.Nodes(j.A.Cell)) // both sides may share the work memory
			if err := fa.set(q); err != nil {
				return err
			}
			weight, normal, x := fa.weight, fa.normal, fa.x
			// The point of side B at the same place.
			if err := a.loadAt(bb, j.B.Cell, fb, x); err != nil {
				return err
			}
			a.keep(&other)
			fa.load(a.Grid, ba.Nodes(j.A.Cell))
			if err := fa.set(q); err != nil {
				return err
			}
			a.fetch(ba, j.A.Cell, nil)
			a.fields(ba.Element, fa.cell, q)
			a.keep(&mine)
			a.point.Part, a.point.X, a.point.Normal, a.point.Beyond = ba.Part[j.A.Cell], x, normal, other.rate
			if err := f(number, &mine, &other, weight); err != nil {
				return err
			}
		}
	}
	return nil
}

// EachJoint calls f at the points of all joints, with the values on side B and the
// area that the point stands for.
func (s *System) EachJoint(at *State, f func(number int, p *Point, other []float64, weight float64) error) error {
	a := newAssembler(s, nil, at, nil, nil, 0, int32(s.N))
	return a.eachJoint(func(number int, _, other *half, weight float64) error { return f(number, &a.point, other.u, weight) })
}

// loadAt loads a cell and computes its fields at the point of a side nearest to x,
// found among the points of its rule.
func (a *assembler) loadAt(b *Block, cell int, s *side, x [3]float64) error {
	s.load(a.Grid, b.Nodes(cell))
	best, least := 0, -1.0
	for q := range s.rule.Points {
		if err := s.set(q); err != nil {
			return err
		}
		var d float64
		for i := range x {
			d += (s.x[i] - x[i]) * (s.x[i] - x[i])
		}
		if least < 0 || d < least {
			best, least = q, d
		}
	}
	if err := s.set(best); err != nil {
		return err
	}
	a.fetch(b, cell, nil)
	a.fields(b.Element, s.cell, best)
	return nil
}

// addJoint adds the terms at a point of a joint to the rows of both sides.
func (a *assembler) addJoint(mine, other *half, w float64, t *JointTerms) {
	n := a.Components
	for _, row := range []struct {
		*half
		sign float64
	}{{mine, 1}, {other, -1}} {
		for r := range n {
			for i, eq := range row.eq[row.span[r][0]:row.span[r][1]] {
				if eq < a.lo || eq >= a.hi {
					continue
				}
				v := w * row.shapes[r][i]
				a.residual[eq] += v * (row.sign*t.Source[r] + t.Both[r])
				if a.tangent == nil || v == 0 {
					continue
				}
				cols, data := a.tangent.Row(int(eq))
				for c := range n {
					rc := r*n + c
					here, there := row.sign*t.SourceU[rc]+t.BothU[rc], row.sign*t.SourceOther[rc]+t.BothOther[rc]
					if a.at.ByRates {
						here, there = 0, 0
					}
					mine.spread(cols, data, c, v*(here+a.rateSlopes[c]*t.BothRate[rc]))
					other.spread(cols, data, c, v*(there+a.rateSlopes[c]*t.BothRateOther[rc]))
				}
			}
		}
	}
}

// spread adds a multiple of the functions of component c to a row of the tangent.
func (h *half) spread(cols []int32, data []float64, c int, by float64) {
	if by == 0 {
		return
	}
	for j, e := range h.eq[h.span[c][0]:h.span[c][1]] {
		at, _ := slices.BinarySearch(cols, e)
		data[at] += by * h.shapes[c][j]
	}
}
