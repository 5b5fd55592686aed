package solve

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// Tests of what must be the same, whatever the numbers are: laws of physics that hold for
// every model and that no reference value is needed for.

// warmer is two bars with a salt cake on one and a thin gap of air between, that lose heat
// to air and through their foot; nothing in it depends on the temperature. by scales all
// lengths.
func warmer(t *testing.T, by float64, order string) *model.Document {
	t.Helper()
	mm := func(v float64) string { return fmt.Sprintf("%.12g mm", v*by) }
	doc := model.New("warmer")
	stuff := func(name, k string) material.Material {
		return material.Material{Name: name, Family: "metal", Properties: map[material.Key]material.Property{
			material.Conductivity: {Value: k}, material.Resistivity: {Value: "2e-6 Ω·m"}, material.Density: {Value: "2000 kg/m³"}, material.HeatCapacity: {Value: "900 J/(kg·K)"}}}
	}
	doc.Materials = []material.Material{stuff("bar stuff", "20 W/(m·K)"), stuff("cake stuff", "0.9 W/(m·K)")}
	part := func(id, stuff string, w, d, x, y, z0, z1 float64) model.Part {
		return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: mm(w), Depth: mm(d)},
			Place: model.Place{X: mm(x), Y: mm(y)}, Span: model.Span{From: mm(z0), To: mm(z1)}}
	}
	doc.Parts = []model.Part{
		part("left", "bar stuff", 30, 20, -15, 0, 0, 8), part("right", "bar stuff", 30, 20, 15, 0, 0, 8), part("cake", "cake stuff", 18, 12, 14, 1, 8, 13),
	}
	doc.Conditions, doc.Readings = nil, nil
	set(t, doc, "mesh/size", mm(4), "mesh/order", order)
	add(t, doc, "heat.source", model.Patch{Part: "left"}, "power", "0 W")
	add(t, doc, "heat.source", model.Patch{Part: "cake"}, "power", "0 W")
	add(t, doc, "heat.convection", model.Patch{Part: "left", Side: "bottom"}, "medium", "air", "temperature", "300 K", "coefficient", fmt.Sprintf("%.12g W/(m²·K)", 40/by))
	add(t, doc, "heat.convection", model.Patch{Part: "cake", Side: "top"}, "medium", "air", "temperature", "300 K", "coefficient", fmt.Sprintf("%.12g W/(m²·K)", 15/by))
	add(t, doc, "heat.contact", model.Patch{Part: "left", Facing: "right"}, "resistance", fmt.Sprintf("%.12g m²·K/W", 1e-3*by))
	for i, of := range []string{"left", "cake", "right"} {
		doc.Readings = append(doc.Readings, model.Sentence{ID: fmt.Sprintf("r%d", i+1), Kind: "heat.mean", On: model.Patch{Part: of}})
	}
	return doc
}

// rises are the mean temperatures of the parts above that of the air.
func rises(t *testing.T, doc *model.Document, left, cake float64) (out [3]float64) {
	t.Helper()
	set(t, doc, "conditions/c1/values/power", fmt.Sprintf("%.12g W", left), "conditions/c2/values/power", fmt.Sprintf("%.12g W", cake))
	o := settle(t, doc)
	for i := range out {
		out[i] = value(t, o, fmt.Sprintf("r%d", i+1)) - 300
	}
	return out
}

// TestHeatIsReciprocalAndAddsUp: what one watt in a part does to another, one watt in that
// does to the first; and two sources do together what they do apart.
func TestHeatIsReciprocalAndAddsUp(t *testing.T) {
	for _, order := range []string{"1", "2"} {
		doc := warmer(t, 1, order)
		left, cake := rises(t, doc, 5, 0), rises(t, doc, 0, 5)
		assert.Greater(t, left[1], 1.0)
		assert.InEpsilon(t, left[1], cake[0], 1e-8, "order %s", order)
		both := rises(t, doc, 5, 10)
		for i := range both {
			assert.InEpsilon(t, left[i]+2*cake[i], both[i], 1e-8, "order %s", order)
		}
	}
}

// TestSimilarDevicesAreAlike: with all lengths doubled, twice the power and half the
// coefficients give the same temperatures.
func TestSimilarDevicesAreAlike(t *testing.T) {
	small, large := rises(t, warmer(t, 1, "1"), 5, 2), rises(t, warmer(t, 2, "1"), 10, 4)
	for i := range small {
		assert.InEpsilon(t, small[i], large[i], 1e-8)
	}
}

// TestPlacesAndNamesDoNotMatter: a device that is moved, turned or mirrored, drawn in inches,
// with its parts in another order, or its coefficients as formulas, is the same device.
func TestPlacesAndNamesDoNotMatter(t *testing.T) {
	want := rises(t, warmer(t, 1, "2"), 5, 2)
	for name, c := range map[string]struct {
		change func(doc *model.Document)
		within float64
	}{
		"moved": {func(doc *model.Document) {
			for i := range doc.Parts {
				p := &doc.Parts[i]
				p.Place.X, p.Place.Y = p.Place.X+" + 70 mm", p.Place.Y+" - 33 mm"
				p.Span.From, p.Span.To = p.Span.From+" + 11 mm", p.Span.To+" + 11 mm"
			}
		}, 1e-7},
		"turned": {func(doc *model.Document) {
			for i := range doc.Parts {
				p := &doc.Parts[i]
				p.Place = model.Place{X: "-(" + p.Place.Y + ")", Y: p.Place.X, Turn: "90 deg"}
			}
		}, 1e-4},
		"mirrored": {func(doc *model.Document) {
			for i := range doc.Parts {
				p := &doc.Parts[i]
				p.Place.X, p.Place.Mirror = "-("+p.Place.X+")", true
			}
		}, 1e-4},
		"in inches":     {func(doc *model.Document) { doc.Space.Unit = "in" }, 1e-12},
		"another order": {func(doc *model.Document) { doc.Parts[0], doc.Parts[1] = doc.Parts[1], doc.Parts[0] }, 1e-4},
		"formulas": {func(doc *model.Document) {
			set(t, doc, "conditions/c3/values/coefficient", "40 W/(m²·K) + 0 W/(m²·K)*sin(x/1 mm)", "conditions/c5/values/resistance", "1e-3 m²·K/W*(1 + 0*temperature/1 K)")
		}, 1e-7},
	} {
		doc := warmer(t, 1, "2")
		c.change(doc)
		got := rises(t, doc, 5, 2)
		for i := range want {
			assert.InEpsilon(t, want[i], got[i], c.within, "%s: reading %d", name, i+1)
		}
	}
}

// TestCurrentIsReciprocal: the voltage that a current between two terminals makes between two
// others is the one that the same current between these makes between the first.
func TestCurrentIsReciprocal(t *testing.T) {
	terminals := [4]model.Patch{{Part: "left", Side: "left"}, {Part: "right", Side: "right"}, {Part: "cake", Side: "left"}, {Part: "cake", Side: "right"}}
	voltage := func(from, to, plus, minus int) float64 {
		doc := warmer(t, 1, "1")
		doc.Conditions, doc.Readings = nil, nil
		set(t, doc, "physics/heat", "false")
		for _, p := range doc.Parts {
			add(t, doc, "electric.flows", model.Patch{Part: p.ID})
		}
		add(t, doc, "electric.current", terminals[from], "current", "2 A")
		add(t, doc, "electric.voltage", terminals[to], "voltage", "0 V")
		// Terminals that carry nothing are as good as not there but for being even.
		add(t, doc, "electric.current", terminals[plus], "current", "0 A")
		add(t, doc, "electric.current", terminals[minus], "current", "0 A")
		for _, k := range [2]int{plus, minus} {
			_, err := doc.AddSentence(physics.Catalog(), "electric.potential", terminals[k])
			require.NoError(t, err)
		}
		o := settle(t, doc)
		require.Len(t, o.Readings, 2)
		require.Equal(t, quantity.MustUnit("V").Dimension, quantity.MustUnit(o.Readings[0].Unit).Dimension)
		return o.Readings[0].Value - o.Readings[1].Value
	}
	there, back := voltage(0, 1, 2, 3), voltage(2, 3, 0, 1)
	assert.NotZero(t, there)
	assert.InEpsilon(t, there, back, 1e-7)
}
