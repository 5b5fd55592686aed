package solve

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// cells are the ways in which models come by cells of each form, with the forms that are expected.
var cells = []struct {
	name  string
	space string
	made  func(d *model.Document)
	want  []string
}{
	{"a plane of triangles", model.Plane, func(*model.Document) {}, []string{"triangle"}},
	{"a plane with layers", model.Plane, layered, []string{"triangle", "quadrilateral"}},
	{"an axial space with layers", model.Axial, layered, []string{"triangle", "quadrilateral"}},
	{"a stack", model.Solid, func(*model.Document) {}, []string{"wedge"}},
	{"a stack with layers", model.Solid, layered, []string{"wedge", "hexahedron"}},
	{"bricks", model.Solid, func(d *model.Document) {
		s := &model.Surface{}
		for v := range 8 {
			s.Points = append(s.Points, 20*float64(v&1), 12*float64(v>>1&1), 8*float64(v>>2&1))
		}
		for _, q := range [][4]int32{{0, 2, 3, 1}, {4, 5, 7, 6}, {0, 1, 5, 4}, {1, 3, 7, 5}, {3, 2, 6, 7}, {2, 0, 4, 6}} {
			s.Triangles = append(s.Triangles, q[0], q[1], q[2], q[0], q[2], q[3])
		}
		d.Parts[0].Outline, d.Parts[0].Surface = model.Outline{Kind: "surface"}, s
		d.Parts[0].Place, d.Parts[0].Span = model.Place{}, model.Span{}
	}, []string{"hexahedron"}},
}

func layered(d *model.Document) {
	d.Mesh.Walls = []model.MeshWall{{ID: "w1", On: model.Patch{Part: "block", Side: "front"}, First: "0.4 mm", Count: "3"}}
}

// brewBlock is a block of 20 × 12 × 8 mm, or its section, of a liquid at rest that is held at a
// temperature all round.
func brewBlock(space, size, order, temperature string) *model.Document {
	d := model.New("brew block")
	d.Space.Kind = space
	if space == model.Plane {
		d.Space.Depth = "8 mm"
	}
	d.Parts = []model.Part{{ID: "block", Name: "block", Material: "brew", Role: model.Solved,
		Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "12 mm"}, Span: model.Span{From: "0 mm", To: "8 mm"}, Place: model.Place{X: "10 mm", Y: "6 mm"}}}
	d.Materials = []material.Material{{Name: "brew", Family: "liquid", Properties: map[material.Key]material.Property{material.Conductivity: {Value: "2 W/(m·K)"}}}}
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "heat.held", On: model.Patch{Part: "block", Side: model.WholeSurface}, Values: map[string]string{"temperature": temperature}}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "formula", Values: map[string]string{"formula": fmt.Sprintf("sqrt(mean((temperature - (%s))^2 over block))", temperature)}, Unit: "K"},
	}
	d.Mesh = model.Mesh{Size: size, Across: "1", Order: order}
	d.Enumerate()
	return d
}

// TestCellsOfEveryForm: from a document to its readings, cells of every form keep what their
// functions can say exactly, and errors of what they cannot fall with the order that they should.
func TestCellsOfEveryForm(t *testing.T) {
	exact := map[string]string{ // by space and order
		model.Plane + "1": "300 K + 2 K/mm*x - 1 K/mm*y", model.Solid + "1": "300 K + 2 K/mm*x - 1 K/mm*y + 3 K/mm*z", model.Axial + "1": "300 K + 2 K/mm*y",
		model.Plane + "2": "300 K + 0.2 K/mm^2*(x^2 - y^2)", model.Solid + "2": "300 K + 0.2 K/mm^2*(x^2 - 2*y^2 + z^2)", model.Axial + "2": "300 K + 0.2 K/mm^2*(r^2 - 2*y^2)",
	}
	// Solutions that no functions of these orders are.
	other := map[string]string{
		model.Plane: "300 K + 10 K*exp(x/8 mm)*cos(y/8 mm*1 rad)",
		model.Solid: "300 K + 10 K*exp(x/8 mm)*cos(0.6*y/8 mm*1 rad)*cos(0.8*z/8 mm*1 rad)",
		model.Axial: "300 K + 0.02 K/mm^3*(y^3 - 1.5*y*r^2)",
	}
	for _, c := range cells {
		for order := 1; order <= 2; order++ {
			run := func(size, temperature string) *Outcome {
				d := brewBlock(c.space, size, fmt.Sprint(order), temperature)
				c.made(d)
				o := settle(t, d)
				var forms []string
				for _, b := range o.Mesh.Blocks {
					forms = append(forms, b.Form)
					assert.Equal(t, order, b.Order, c.name)
				}
				require.Equal(t, c.want, forms, c.name)
				return o
			}
			patch := value(t, run("4 mm", exact[c.space+fmt.Sprint(order)]), "r1")
			assert.Less(t, math.Abs(patch), 1e-7, "%s of order %d", c.name, order)
			coarse, fine := value(t, run("3 mm", other[c.space]), "r1"), value(t, run("1.5 mm", other[c.space]), "r1")
			rate := math.Log2(coarse / fine)
			assert.Greater(t, rate, float64(order)+0.8, "%s of order %d: %.3g K, %.3g K", c.name, order, coarse, fine)
		}
	}
}

// TestBarsOfEveryForm: a bar that slides on three of its sides and is pulled lengthens as it
// should, evenly, in cells of every form.
func TestBarsOfEveryForm(t *testing.T) {
	for _, c := range cells {
		for _, order := range []string{"1", "2"} {
			if c.space == model.Axial {
				continue // no axis there
			}
			d := brewBlock(c.space, "4 mm", order, "300 K")
			d.Physics = nil
			// It is a liquid by its family alone, in which layers along walls are made.
			d.Materials[0].Properties[material.YoungsModulus] = material.Property{Value: "5 GPa"}
			d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0.3"}
			d.Conditions = []model.Sentence{{ID: "c1", Kind: "solid.bends", On: model.Patch{Part: "block"}}}
			sides := []string{"left", "front", "bottom"}
			if c.space == model.Plane {
				sides = sides[:2]
				d.Conditions = append(d.Conditions, model.Sentence{ID: "c8", Kind: "solid.thin"})
			}
			for i, side := range sides {
				d.Conditions = append(d.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", i+2), Kind: "solid.slides", On: model.Patch{Part: "block", Side: side}})
			}
			d.Conditions = append(d.Conditions, model.Sentence{ID: "c9", Kind: "solid.force", On: model.Patch{Part: "block", Side: "right"}, Values: map[string]string{"x": "1000 N"}})
			d.Readings = []model.Sentence{
				{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "greatest(displacement_x over block)"}, Unit: "µm"},
				{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "greatest(stress_xx over block) - least(stress_xx over block)"}, Unit: "Pa"},
			}
			d.Enumerate()
			c.made(d)
			o := settle(t, d)
			stress := 1000 / (0.012 * 0.008)
			assert.InEpsilon(t, stress/5e9*0.02, value(t, o, "r1"), 1e-8, "%s of order %s", c.name, order)
			assert.Less(t, value(t, o, "r2"), 1e-6*stress, "%s of order %s", c.name, order)
		}
	}
}
