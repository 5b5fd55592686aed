package solve

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// TestReadingsOfAFlow of a parabola between plates: the friction on a wall, the power that it takes, what leaves with
// its temperature, and the total pressure.
func TestReadingsOfAFlow(t *testing.T) {
	const mu, u, h, l = 0.02, 0.05, 0.02, 0.06
	d := gutter("plane")
	d.Mesh.Size = "2.5 mm"
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Conditions = append(d.Conditions,
		model.Sentence{ID: "t1", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"temperature": "300 K"}},
		model.Sentence{ID: "t2", Kind: "heat.flux", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"flux": "4 kW/m²"}})
	reading := func(id, kind string, on model.Patch, values ...string) {
		q := model.Sentence{ID: id, Kind: kind, On: on, Values: map[string]string{}}
		for i := 0; i < len(values); i += 2 {
			q.Values[values[i]] = values[i+1]
		}
		d.Readings = append(d.Readings, q)
	}
	side := func(s string) model.Patch { return model.Patch{Part: "gut", Side: s} }
	d.Readings = nil
	reading("r1", "formula", model.Patch{}, "formula", "mean(wall_shear_x over gut.front)")
	reading("r2", "flow.power-lost", model.Patch{Part: "gut"})
	reading("r3", "flow.mixed-temperature", side("right"))
	reading("r4", "formula", model.Patch{}, "formula", "mean(leaving_speed over gut.right)")
	reading("r5", "formula", model.Patch{}, "formula", "at(total_pressure, 30 mm, 10 mm, 0 mm) - at(pressure, 30 mm, 10 mm, 0 mm)")
	reading("r6", "heat.coefficient", side("front"), "temperature", "300 K")
	d.Readings[2].Unit = "K"
	o := settle(t, d)
	assert.InEpsilon(t, 6*mu*u/h, value(t, o, "r1"), 1e-6)
	assert.InEpsilon(t, 12*mu*u*l/(h*h)*u*h, value(t, o, "r2"), 1e-6, "the pressure that is lost, times what flows")
	assert.InEpsilon(t, 4e3*l/(1000*4000*u*h), value(t, o, "r3")-300, 0.02, "but for what the held corner of the inlet takes")
	assert.InEpsilon(t, u, value(t, o, "r4"), 1e-9)
	assert.InEpsilon(t, 1000*0.075*0.075/2, value(t, o, "r5"), 1e-6)
	assert.Less(t, value(t, o, "r6"), 0., "heat enters there")
}

// TestTorqueOfAFluid: a rod that turns in a ring needs what friction takes.
func TestTorqueOfAFluid(t *testing.T) {
	const inner, outer, rate, mu = 0.01, 0.03, 2., 0.02
	d := gutter("plane")
	d.Parts[0].Outline = model.Outline{Kind: "ring", Diameter: "60 mm", Inner: "20 mm"}
	d.Parts[0].Place = model.Place{X: "5 mm", Y: "0 mm"}
	d.Mesh.Size = "2 mm"
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.wall-turns", On: model.Patch{Part: "gut", Side: "bore"}, Values: map[string]string{"rate": "2 rad/s", "x": "5 mm"}}}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "flow.torque", On: model.Patch{Part: "gut", Side: "bore"}, Values: map[string]string{"x": "5 mm"}},
		{ID: "r2", Kind: "flow.power-lost", On: model.Patch{Part: "gut"}}}
	o := settle(t, d)
	torque := 4 * 3.14159265358979 * mu * rate / (1/(inner*inner) - 1/(outer*outer))
	assert.InEpsilon(t, -torque, value(t, o, "r1"), 2e-3)
	assert.InEpsilon(t, torque*rate, value(t, o, "r2"), 2e-3)
}

// TestWhatAStreamCannotHave: temperatures below all that are said are warned of.
func TestWhatAStreamCannotHave(t *testing.T) {
	d := warmGutter()
	d.Materials[0].Properties[material.Conductivity] = material.Property{Value: "0.01 W/(m·K)"}
	d.Conditions[1].Values["speed"] = "50 mm/s"
	d.Conditions = append(d.Conditions[:4], model.Sentence{ID: "c5", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"temperature": "350 K"}})
	d.Readings = nil
	d.Enumerate()
	o := settle(t, d)
	assert.Contains(t, strings.Join(o.Warnings, " "), "below all that are said")
	assert.NotContains(t, strings.Join(settle(t, warmGutter()).Warnings, " "), "below all that are said")
}
