package couple

import "slices"

// Pushed is what a sentence lets act from outside on a vector, N, with the sum of it and of the sizes by component.
type Pushed struct {
	Key       string
	Field     int
	Sum, Size [3]float64
}

// PushOn lets what holds a vector of the solution on facets push a field of another group there: at every node that both
// have acts what the first one takes up, so that the forces and the torques of the two are the same to round-off.
func (s *Solution) PushOn(g *Group, field int, to *Pushed, facets []int32) error {
	residual, err := s.residual()
	if err != nil {
		return err
	}
	if g.Push == nil {
		g.Push = map[int32]float64{}
	}
	nodes := nodesOf(s.grid, s.sides, facets)
	slices.Sort(nodes)
	for _, v := range slices.Compact(nodes) {
		for c := range min(s.Fields[field].Components, g.Fields[to.Field].Components) {
			from, at := s.System.Equation(field, c, v), g.System.Equation(to.Field, c, v)
			if from < 0 || at < 0 {
				continue
			}
			g.Push[at] -= residual[from]
			to.Sum[c] -= residual[from]
			if residual[from] > 0 {
				to.Size[c] += residual[from]
			} else {
				to.Size[c] -= residual[from]
			}
		}
	}
	return nil
}

// Holding calls f with what held values of a vector take up at the nodes of facets, with the place of each.
func (s *Solution) Holding(field int, facets []int32, f func(x, force [3]float64)) error {
	residual, err := s.residual()
	if err != nil {
		return err
	}
	s.unjoined(residual)
	fixed := s.fixed()
	slid := map[int32]bool{} // nodes
	for i := range s.slides {
		if s.slides[i].field == field {
			for v := range s.slides[i].normals {
				slid[v] = true
			}
		}
	}
	nodes := nodesOf(s.grid, s.sides, facets)
	slices.Sort(nodes)
	for _, v := range slices.Compact(nodes) {
		var force [3]float64
		for c := range s.Fields[field].Components {
			if e := s.System.Equation(field, c, v); e >= 0 && (fixed[e] || slid[v]) {
				force[c] = residual[e]
			}
		}
		if force != [3]float64{} {
			f(s.grid.At(v), force)
		}
	}
	return nil
}
