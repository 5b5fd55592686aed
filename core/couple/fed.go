package couple

import (
	"maps"
	"math"

	"saltkettle/core/fem"
	"saltkettle/core/law"
)

// Fed is what flows into a field that lives on facets at those of its edges where they meet other facets, with the key of the sentence
// behind it.
type Fed struct {
	Meets []int32
	// Flow by length, of the place and the time.
	Flow law.Law
	Key  string

	field  int
	places []fedAt
}

// fedAt is a node that is fed, with the length that it stands for, m.
type fedAt struct {
	node   int32
	length float64
}

// fedOf finds the nodes that are fed.
func (g *Ground) fedOf(f *Field, fed *Fed) {
	edges := map[[2]int32]bool{}
	mine := map[int32]bool{}
	for _, k := range f.Facets {
		mine[k] = true
	}
	between := func(ends [2]int32) [2]int32 { return [2]int32{min(ends[0], ends[1]), max(ends[0], ends[1])} }
	for _, k := range fed.Meets {
		if !mine[k] {
			for _, ends := range g.Mesh.Facets[k].Edges() {
				edges[between(ends)] = true
			}
		}
	}
	for _, k := range f.Facets {
		for _, ends := range g.Mesh.Facets[k].Edges() {
			if !edges[between(ends)] {
				continue
			}
			a, b := g.grid.At(ends[0]), g.grid.At(ends[1])
			if ends[0] == ends[1] { // of a section: it stands for the line across it
				length := 1.0
				if g.grid.Measure != nil {
					length = g.grid.Measure(a)
				}
				fed.places = append(fed.places, fedAt{ends[0], length})
				continue
			}
			long := math.Sqrt((a[0]-b[0])*(a[0]-b[0]) + (a[1]-b[1])*(a[1]-b[1]) + (a[2]-b[2])*(a[2]-b[2]))
			if v, is := g.grid.Between(g.sides[k], ends[0], ends[1]); is && f.Order != 1 { // by the rule of Simpson
				fed.places = append(fed.places, fedAt{ends[0], long / 6}, fedAt{v, 4 * long / 6}, fedAt{ends[1], long / 6})
				continue
			}
			fed.places = append(fed.places, fedAt{ends[0], long / 2}, fedAt{ends[1], long / 2})
		}
	}
}

// feeds calls f with what flows in at each node that is fed.
func (g *Group) feeds(fed *Fed, time, swing float64, f func(node int32, flow float64)) error {
	points := make([]fem.Point, len(fed.places))
	for i, at := range fed.places {
		points[i] = fem.Point{X: g.System.Grid.At(at.node), Time: time, Swing: swing}
	}
	set := law.NewSet(fed.Flow)
	set.Run(points, -1)
	if err := set.Check(0, -1, "flow at an edge", law.NoBound, false); err != nil {
		return err
	}
	for i, at := range fed.places {
		f(at.node, at.length*set.At(0, i))
	}
	return nil
}

// load is what acts on unknowns from outside at a time: what others push with, and what flows in at edges.
func (g *Group) load(time, swing float64) (map[int32]float64, error) {
	if len(g.fed) == 0 {
		return g.Push, nil
	}
	load := maps.Clone(g.Push)
	if load == nil {
		load = map[int32]float64{}
	}
	for i := range g.fed {
		err := g.feeds(&g.fed[i], time, swing, func(node int32, flow float64) {
			if e := g.System.Equation(g.fed[i].field, 0, node); e >= 0 {
				load[e] += flow
			}
		})
		if err != nil {
			return nil, err
		}
	}
	return load, nil
}
