package solve

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// fieldOf returns the values of a field.
func fieldOf(t *testing.T, o *Outcome, name string) []float64 {
	for _, f := range o.Fields.Values {
		if f.Name == name {
			return f.Values
		}
	}
	require.Fail(t, "no field", name)
	return nil
}

// TestDerivedFields: in a strip that a current heats, cooled at its ends, the power is
// the same everywhere and the heat flux grows straight from the middle. With elements of
// order 2 it is exact up to the ends, with order 1 near by in proportion to the cells.
func TestDerivedFields(t *testing.T) {
	for order, slack := range map[string]float64{"1": 0.06, "2": 1e-6} {
		doc := strip(t)
		set(t, doc, "mesh/order", order)
		o := settle(t, doc)
		power, flux := fieldOf(t, o, "joule_heat"), fieldOf(t, o, "heat_flux_x")
		size := fieldOf(t, o, "heat_flux")
		density := fieldOf(t, o, "current_density")
		most := 0.0
		for i := range power {
			x := o.Fields.Nodes[3*i]
			if math.IsNaN(power[i]) {
				assert.Greater(t, o.Fields.Nodes[3*i+2], 1e-3-1e-12, "only the pad carries no current")
				continue
			}
			assert.InEpsilon(t, stripPower, power[i], 1e-6)
			assert.InEpsilon(t, stripDensity, density[i], 1e-6)
			assert.InDelta(t, stripPower*x, flux[i], slack*stripPower*stripLength/2, "order %s at x = %g", order, x)
			assert.InDelta(t, math.Abs(flux[i]), size[i], slack*stripPower*stripLength/2)
			most = max(most, size[i])
		}
		f, ok := o.FieldNamed("heat_flux")
		require.True(t, ok)
		assert.True(t, f.Derived)
		assert.InEpsilon(t, most, f.Greatest.Value, 1e-12)
		assert.Equal(t, []string{"temperature", "potential", "heat_flux", "current_density", "joule_heat", "electric_field"}, names(o.Surface.Fields))
	}
}

func names(list []result.FieldName) (out []string) {
	for _, f := range list {
		out = append(out, f.Name)
	}
	return out
}

// A strip with 1 V/m along it, and a pad apart from it that carries no current.
const (
	stripLength  = 0.04 // m
	stripDensity = 1e6  // A/m²
	stripPower   = 1e6  // W/m³
)

func strip(t *testing.T) *model.Document {
	doc := model.New("strip")
	doc.Materials = []material.Material{{Name: "strip", Properties: map[material.Key]material.Property{
		material.Conductivity: {Value: "100 W/(m·K)"}, material.Density: {Value: "1000 kg/m³"}, material.Resistivity: {Value: "1e-6 Ω·m"}}}}
	for i, id := range []string{"strip", "pad"} {
		span := [][2]string{{"0 mm", "1 mm"}, {"2 mm", "3 mm"}}[i]
		doc.Parts = append(doc.Parts, model.Part{ID: id, Name: id, Material: "strip", Role: model.Solved,
			Outline: model.Outline{Kind: "rectangle", Width: "40 mm", Depth: "4 mm"}, Span: model.Span{From: span[0], To: span[1]}})
	}
	set(t, doc, "mesh/size", "2 mm")
	add(t, doc, "electric.flows", model.Patch{Part: "strip"})
	add(t, doc, "electric.heats", model.Patch{})
	add(t, doc, "electric.voltage", model.Patch{Part: "strip", Side: "left"}, "voltage", "0.04 V")
	add(t, doc, "electric.voltage", model.Patch{Part: "strip", Side: "right"}, "voltage", "0 V")
	for _, at := range []model.Patch{{Part: "strip", Side: "left"}, {Part: "strip", Side: "right"}, {Part: "pad", Side: "left"}} {
		add(t, doc, "heat.held", at, "temperature", "300 K")
	}
	return doc
}
