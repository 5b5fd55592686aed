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

// struck is a thin bar of 60 mm, fixed at its left end or free, that is pulled at its right end
// from the first moment on; its sound runs along it in 60 mm/√(E/ρ).
func struck(fixed bool, times float64) (d *model.Document, passage float64) {
	d = rakeArm()
	d.Space.Kind, d.Space.Depth, d.Parts[0].Span = model.Plane, "10 mm", model.Span{}
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	d.Conditions[2].Values = map[string]string{"x": "1000 N"}
	d.Conditions = append(d.Conditions, model.Sentence{ID: "c4", Kind: "solid.inertia"}, model.Sentence{ID: "c5", Kind: "solid.thin"})
	if !fixed {
		d.Conditions = append(d.Conditions[:1], d.Conditions[2:]...)
	}
	d.Mesh.Size = "2.5 mm"
	passage = 0.06 / math.Sqrt(70e9/2700)
	d.Run = model.Run{Kind: model.Transient, End: fmt.Sprintf("%.9g s", times*passage), Longest: fmt.Sprintf("%.9g s", passage/10)}
	return d, passage
}

// TestStruckBar: the end of a bar that is pulled suddenly goes at an even speed to twice where it
// would rest and back, and what is given to it is what its fixed end takes and its mass has.
func TestStruckBar(t *testing.T) {
	d, passage := struck(true, 4)
	o := settle(t, d)
	rest := 1000 / 2e-4 / 70e9 * 0.06 * 1e6 // µm
	h := o.History
	for i, time := range h.Times {
		x := math.Mod(time/passage, 4) / 2
		want := 2 * rest * (1 - math.Abs(1-x))
		assert.InDelta(t, want, h.Readings["r3"][i], 0.08*rest, "after %.3g passages", 2*x)
	}
	b := o.Balances[0]
	assert.Equal(t, "force along x over the run", b.Name)
	assert.Equal(t, "N·s", b.Unit)
	assert.Less(t, b.Closure, 1e-6)
	assert.InEpsilon(t, 1000*4*passage, b.In, 1e-6)

	// Free, it goes away with its mass: in the mean by Ft²/2m.
	d, passage = struck(false, 4)
	d.Mesh.Size, d.Mesh.Order = "5 mm", "1"
	d.Readings[2].Values["formula"] = "mean(displacement_x over arm)"
	o = settle(t, d)
	assert.InEpsilon(t, 1000*16*passage*passage/2/(2700*0.06*2e-4)*1e6, o.Readings[2].Shown.Value, 1e-6)
	stored, counted := o.Balances[0].Stored()
	require.True(t, counted)
	assert.InEpsilon(t, 1000*4*passage, stored, 1e-6, "all of it is momentum")
}

// TestInertiaBesideHeat: what bends swings about where heat lets it be, in one march with the
// temperature, and goes on after an interruption as it would have.
func TestInertiaBesideHeat(t *testing.T) {
	d, passage := struck(true, 6)
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Conditions[2] = model.Sentence{ID: "c3", Kind: "solid.expands", On: model.Patch{Part: "arm"}, Values: map[string]string{"temperature": "20 °C"}}
	d.Conditions = append(d.Conditions, model.Sentence{ID: "c6", Kind: "heat.source", On: model.Patch{Part: "arm"}, Values: map[string]string{"power": "10 MW"}})
	d.Mesh.Size, d.Run.Start = "5 mm", "20 °C"
	o := settle(t, d)
	assert.Contains(t, o.Solver.Method, "steps in time")
	// Warmed evenly at a rate from rest, the mean follows twice the integral with its swing left
	// out: here it is held against the quasi-static growth at whole periods.
	rise := 10e6 / (2700 * 900 * 0.06 * 2e-4)
	period := 4 * passage
	h := o.History
	at := func(time float64) float64 {
		for i := range h.Times {
			if h.Times[i] >= time {
				f := (time - h.Times[i-1]) / (h.Times[i] - h.Times[i-1])
				return (1-f)*h.Readings["r3"][i-1] + f*h.Readings["r3"][i]
			}
		}
		return math.NaN()
	}
	assert.InEpsilon(t, 2e-5*rise*period*0.06*1e6, at(period), 0.02)

	dir := t.TempDir()
	again, pieces := inPieces(t, d, dir, 20)
	assert.Greater(t, pieces, 1)
	assert.Equal(t, value(t, o, "r3"), value(t, again, "r3"))
}

// TestInertiaThatCannotBe: it needs a density, and a run in time that nothing moves in is none.
func TestInertiaThatCannotBe(t *testing.T) {
	d, _ := struck(true, 1)
	delete(d.Materials[0].Properties, material.Density)
	_, err := Run(t.Context(), d, Options{})
	assert.ErrorContains(t, err, "density")
	d, _ = struck(true, 1)
	d.Conditions[3].Off = true
	_, err = Run(t.Context(), d, Options{})
	assert.ErrorContains(t, err, "say that what bends has inertia")
}
