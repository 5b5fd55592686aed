package model

import (
	"math"
	"slices"
	"strings"

	"saltkettle/core/mesh"
)

// Expected is what a physics expects in a part before a run, by what is said.
type Expected struct {
	Part int
	// Words say it, empty for nothing.
	Words string
	// Across is the least number of cells across the part, and Walls and Near are layers along its walls: for a model
	// that leaves the number of cells across its parts open. Around are walls of the parts that it surrounds.
	Across int
	Walls  []mesh.SideWall
	Near   []mesh.Near
	Around *mesh.Wall
	// Layers say in words what Walls, Near and Around are.
	Layers string
}

// Cells across a part if nothing is said.
const usualAcross = 2

// across resolves the least number of cells across a part; empty leaves it to the physics.
func (r *resolver) across() {
	if r.out.LeftOpen = strings.TrimSpace(r.doc.Mesh.Across) == ""; r.out.LeftOpen {
		r.out.Across = usualAcross
		return
	}
	v, ok := r.value("mesh/across", r.doc.Mesh.Across, need{label: "least number of cells across a part", positive: true, whole: true})
	switch {
	case !ok:
	case v > 50:
		r.find(Wrong, "mesh/across", "", "more than 50 cells across every part would be too many")
	default:
		r.out.Across = int(v)
	}
}

// Area of the surfaces that a sentence is about, m², 0 if that is not known.
func (r *Resolved) Area(s *ResolvedSentence) (sum float64) {
	added, taken, box := s.On.Terms()
	if len(taken) > 0 || box != nil {
		return 0
	}
	for _, t := range added {
		for _, i := range r.PartsNamed(t.Part) {
			for c := range max(1, r.Parts[i].Copies) {
				if t.Copy > 0 && c != t.Copy-1 {
					continue
				}
				m, _, ok := r.sideOf(Patch{Part: r.Parts[i].ID, Side: t.Side, Copy: c + 1})
				if !ok {
					return 0
				}
				sum += m.Area
			}
		}
	}
	return sum
}

// Scaled is what is expected for cells of another size.
func (e Expected) Scaled(factor float64) Expected {
	e.Across = max(1, int(math.Round(float64(e.Across)/factor)))
	e.Walls, e.Near = slices.Clone(e.Walls), slices.Clone(e.Near)
	for i := range e.Walls {
		e.Walls[i].First *= factor
	}
	for i := range e.Near {
		e.Near[i].Size *= factor
	}
	if e.Around != nil {
		around := *e.Around
		around.First *= factor
		e.Around = &around
	}
	return e
}

// wishes are the cells that a part is meshed with: those that the document wants, and where it leaves that open those that
// are expected to be needed; neighbours are those of each part.
func (r *Resolved) wishes(part int, neighbours [][]int) (across, gaps int, near []mesh.Near, walls []mesh.SideWall) {
	p := &r.Parts[part]
	across, near, walls = r.Across, p.Near, p.Walls
	if !r.LeftOpen {
		return across, gaps, near, walls
	}
	for i := range r.Expected {
		e := &r.Expected[i]
		if e.Part != part {
			if e.Around != nil && len(p.Walls) == 0 && !p.fluid() && slices.Contains(neighbours[e.Part], part) {
				walls = append(walls, mesh.SideWall{Wall: *e.Around})
			}
			continue
		}
		across, gaps = max(across, e.Across), max(gaps, e.Across)
		walls, near = append(walls, e.Walls...), append(near, e.Near...)
	}
	return across, gaps, near, walls
}
