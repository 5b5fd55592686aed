package solve

import (
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// expected is what is expected of a document, and what is doubted.
func expected(d *model.Document) (r *model.Resolved, words string, doubts []string) {
	r, findings := model.Resolve(d, physics.Catalog())
	for _, e := range r.Expected {
		words += plain(e.Words)
	}
	for _, f := range findings {
		if f.Severity == model.Doubtful {
			doubts = append(doubts, plain(f.Message))
		}
	}
	return r, words, doubts
}

// plain has ordinary spaces between numbers and units.
func plain(text string) string {
	return strings.NewReplacer("\u00a0", " ", "\u202f", " ").Replace(text)
}

// gaps between numbers in order.
func gaps(list []float64) (out []float64) {
	for i := range list[1:] {
		out = append(out, list[i+1]-list[i])
	}
	return out
}

// TestNumbersBeforeARun: what a flow will be is known to about as much as what is said.
func TestNumbersBeforeARun(t *testing.T) {
	_, words, doubts := expected(gutter("plane"))
	assert.Equal(t, "What flows in the gutter is expected to do so at about 50 mm/s: Reynolds number 100 by a hydraulic diameter of 40 mm.", words)
	assert.Empty(t, doubts)
	assert.Contains(t, plain(settle(t, gutter("plane")).Notes[0]), "Reynolds number 100 by the mean speed of 50 mm/s and the hydraulic diameter of 40 mm")

	fast := gutter("plane")
	fast.Conditions[1].Values["speed"] = "5 m/s"
	_, _, doubts = expected(fast)
	require.NotEmpty(t, doubts)
	assert.Contains(t, doubts[0], "likely to be turbulent: its Reynolds number is about 1")

	// A pressure moves as much as friction lets it: 12µlu/h², here of a tube between plates.
	pressed := gutter("plane")
	pressed.Conditions[1] = model.Sentence{ID: "c2", Kind: "flow.still", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"pressure": "1 Pa"}}
	_, words, _ = expected(pressed)
	assert.Contains(t, words, "about 42 mm/s")

	gas := gutter("plane")
	gas.Materials[0].Family = "gas"
	gas.Materials[0].Properties[material.Density] = material.Property{Value: "1.2 kg/m³"}
	gas.Materials[0].Properties[material.Viscosity] = material.Property{Value: "1.8e-5 Pa·s"}
	gas.Conditions[1].Values["speed"] = "200 m/s"
	_, words, doubts = expected(gas)
	assert.Contains(t, words, "Mach number 0.58")
	assert.Len(t, doubts, 3, "turbulent, compressed, and faster than speeds that are said mostly are")
	gas.Parts[0].Outline.Depth, gas.Conditions[1].Values["speed"] = "1 µm", "1 mm/s"
	_, _, doubts = expected(gas)
	require.Len(t, doubts, 1)
	assert.Contains(t, doubts[0], "slips along its walls")
}

// TestNumbersOfWhatHeatMoves: the Rayleigh number is that of the temperatures that are said.
func TestNumbersOfWhatHeatMoves(t *testing.T) {
	d := gutter("plane")
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Materials[0].Properties[material.Density] = material.Property{Value: "1000 kg/m³*(1 - 0.001 1/K*(temperature - 300 K))"}
	d.Conditions = []model.Sentence{
		d.Conditions[0],
		{ID: "g", Kind: "flow.gravity", Values: map[string]string{"y": "-10 m/s²", "temperature": "20 °C"}},
		{ID: "h", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"temperature": "40 °C"}},
		{ID: "k", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "back"}, Values: map[string]string{"temperature": "20 °C"}}}
	d.Readings = nil
	d.Enumerate()
	_, words, doubts := expected(d)
	// g·β·ΔT·h³·ρ·c/(ν·k) with h of 20 mm.
	rayleigh := 10 * 0.001 * 20 * math.Pow(0.02, 3) * 1000 * 4000 / (0.02 / 1000 * 0.6)
	assert.InEpsilon(t, 5.3e5, rayleigh, 0.01)
	assert.Contains(t, words, "Rayleigh number 530 000 by a height of 20 mm")
	assert.Contains(t, words, "moved by heat at about")
	assert.Empty(t, doubts)
}

// TestCellsThatNobodyAskedFor: what flows has four cells across, and layers along its walls where it is fast, unless the
// document says how many cells there are.
func TestCellsThatNobodyAskedFor(t *testing.T) {
	heights := func(d *model.Document, x float64) (list []float64) {
		r, _, _ := expected(d)
		m, _, err := r.MeshOf(t.Context(), 0, nil)
		require.NoError(t, err)
		for v := range m.NodeCount() {
			if at := m.At(int32(v)); math.Abs(at[0]-x) < 1e-9 {
				list = append(list, at[1])
			}
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	slow := gutter("plane")
	slow.Mesh.Size = "50 mm"
	assert.Len(t, heights(slow, 0.06), 2, "one cell, as it says")
	slow.Mesh.Across = ""
	assert.Less(t, slices.Max(gaps(heights(slow, 0.06))), 0.0051, "four cells")

	fast := gutter("plane")
	fast.Mesh.Across = ""
	fast.Conditions[1].Values["speed"] = "0.5 m/s"
	fast.Materials[0].Properties[material.Viscosity] = material.Property{Value: "0.001 Pa·s"}
	layer := 5 * math.Sqrt(1e-6*0.06/0.5)
	at := heights(fast, 0.03)
	assert.InEpsilon(t, layer/9.043, at[1], 1e-3, "the first of five layers that grow by 1.3")
	assert.InEpsilon(t, layer, at[5], 1e-3)
	r, _, _ := expected(fast)
	assert.Equal(t, "5 layers along the walls of the gutter, the first 0.19 mm thick, as boundary layers of about 1.7 mm are expected", plain(r.Expected[0].Layers))
	for _, w := range r.Expected[0].Walls {
		assert.Contains(t, []string{"front", "back"}, w.Side, "none where it comes in and leaves")
	}

	// What the document wants is not doubled, and not said to be.
	fast.Mesh.Walls = []model.MeshWall{{On: model.Patch{Part: "gut", Side: "front"}, First: "1 mm", Count: "2"}}
	r, _, _ = expected(fast)
	assert.Empty(t, r.Expected[0].Layers)
	assert.InEpsilon(t, 1e-3, heights(fast, 0.03)[1], 1e-3)
}
