package result

import (
	"fmt"

	"saltkettle/core/fem"
	"saltkettle/core/mesh"
)

// Field is a field at the points of [Fields], not a number where it is not.
type Field struct {
	FieldName
	Values []float64
}

// Fields are the elements and the solution as arrays. Where bodies meet, each has points of
// its own.
type Fields struct {
	// Nodes are x, y, z of each point, m.
	Nodes  []float64
	Blocks []Block
	// Part is the number of the part of each cell, from 0, block by block.
	Part   []int32
	Values []Field
}

// Block is cells of one element, with the points of each.
type Block struct {
	Element *fem.Element
	Cells   []int32
}

// Count is the number of cells.
func (b *Block) Count() int { return len(b.Cells) / b.Element.Count() }

// Cells says of which form and order a number of cells is.
type Cells struct {
	Form  string `json:"form"`
	Order int    `json:"order"`
	Count int    `json:"count"`
}

// NewFields makes fields, without values yet, of a grid with its points; part is the number of
// the part of each of its bodies.
func NewFields(g *fem.Grid, p *fem.Points, part func(body int32) int) *Fields {
	f := &Fields{Nodes: p.At}
	for i := range g.Blocks {
		b := &g.Blocks[i]
		f.Blocks = append(f.Blocks, Block{b.Element, p.Cells[i]})
		for _, body := range b.Part {
			f.Part = append(f.Part, int32(part(body)))
		}
	}
	return f
}

// Cells says what cells there are.
func (f *Fields) Cells() []Cells {
	var list []Cells
	for _, b := range f.Blocks {
		list = append(list, Cells{b.Element.Form.String(), b.Element.Order, b.Count()})
	}
	return list
}

// divide makes blocks of the points of all cells, one block after another.
func (f *Fields) divide(cells []Cells, points []int32) error {
	if cells == nil { // a result from before there were others
		cells = []Cells{{mesh.Wedge.String(), 1, len(points) / mesh.Wedge.Corners()}}
	}
	for _, c := range cells {
		form, ok := mesh.FormNamed(c.Form)
		if !ok || c.Order < 1 || c.Order > 2 {
			return fmt.Errorf("cells of the form %q and order %d are not known", c.Form, c.Order)
		}
		e := fem.NewElement(form, c.Order)
		n := e.Count() * c.Count
		if n > len(points) {
			return fmt.Errorf("%d points are too few for %d cells of the form %s", len(points), c.Count, c.Form)
		}
		f.Blocks = append(f.Blocks, Block{e, points[:n:n]})
		points = points[n:]
	}
	if len(points) > 0 {
		return fmt.Errorf("%d points are of no cell", len(points))
	}
	return nil
}

// fit says whether the arrays fit each other.
func (f *Fields) fit() bool {
	count := 0
	for _, b := range f.Blocks {
		count += b.Count()
		for _, p := range b.Cells {
			if p < 0 || 3*int(p) >= len(f.Nodes) {
				return false
			}
		}
	}
	for _, v := range f.Values {
		if len(f.Nodes) != 3*len(v.Values) {
			return false
		}
	}
	return count == len(f.Part)
}
