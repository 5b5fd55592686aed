package solve

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// TestAnEquationOnASurface: on the top of a block of 2:1 an unknown flows along the surface and is held at its edges: the middle is what the series says,
// and the error falls with the cells; where it is held at one end alone, by the side that it meets there, it is a parabola.
func TestAnEquationOnASurface(t *testing.T) {
	block := func(size string) *model.Document {
		d := magnetic(model.Solid, size)
		d.Space.Depth = ""
		d.Parts = []model.Part{{ID: "block", Name: "block", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "200 mm", Depth: "100 mm"}, Span: model.Span{From: "0 mm", To: "30 mm"}}}
		condition(d, "own.along", "block", "top", "unknown", "height", "unit", "mm", "spread", "2 N/m")
		condition(d, "own.arises", "block", "top", "unknown", "height", "rate", "300 Pa")
		return d
	}
	var errs []float64
	for _, size := range []string{"20 mm", "10 mm"} {
		d := block(size)
		condition(d, "own.edges", "block", "top", "unknown", "height", "value", "0 mm")
		most := wish(d, "formula", "", "", "mm", "formula", "greatest(height over block.top)")
		d.Enumerate()
		o := settle(t, d)
		want := 0.0
		const a, b = 0.2, 0.1
		for m := 1; m < 60; m += 2 {
			for n := 1; n < 60; n += 2 {
				k := math.Pow(float64(m)*math.Pi/a, 2) + math.Pow(float64(n)*math.Pi/b, 2)
				want += 16 / (math.Pi * math.Pi * float64(m*n)) * math.Sin(float64(m)*math.Pi/2) * math.Sin(float64(n)*math.Pi/2) / k * 300 / 2
			}
		}
		errs = append(errs, math.Abs(value(t, o, most)/want-1))
	}
	assert.Less(t, errs[1], 1e-3)
	assert.Less(t, errs[1], errs[0]/3)

	d := block("20 mm")
	condition(d, "own.held", "block", "left", "unknown", "height", "value", "1 mm")
	end := wish(d, "formula", "", "", "mm", "formula", "greatest(height over block.top)")
	elsewhere := wish(d, "formula", "", "", "mm", "formula", "mean(height over block.right)")
	wish(d, "formula", "", "", "mm", "formula", "at(height, 0 mm, 0 mm, 30 mm)")
	d.Enumerate()
	o, err := Run(t.Context(), d, Options{Now: time.Now})
	require.NoError(t, err)
	assert.InEpsilon(t, 1e-3+300/2.*0.2*0.2/2, value(t, o, end), 1e-9)
	assert.Contains(t, o.Readings[1].Missing, "not on all of this one", elsewhere)
	assert.Contains(t, o.Readings[2].Missing, "say on which", "a point lies in a part")
}

// TestWhatFlowsInAtAnEdge of a surface goes down its slope to where it is held; a flow of another dimension is refused.
func TestWhatFlowsInAtAnEdge(t *testing.T) {
	d := magnetic(model.Solid, "20 mm")
	d.Space.Depth = ""
	d.Parts = []model.Part{{ID: "block", Name: "block", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "200 mm", Depth: "100 mm"}, Span: model.Span{From: "0 mm", To: "30 mm"}}}
	condition(d, "own.along", "block", "top", "unknown", "height", "unit", "mm", "spread", "2 N/m")
	condition(d, "own.held", "block", "right", "unknown", "height", "value", "1 mm")
	condition(d, "own.fed", "block", "left", "unknown", "height", "flow", "5 N/m")
	most := wish(d, "formula", "", "", "mm", "formula", "greatest(height over block.top)")
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 1e-3+5*0.2/2, value(t, o, most), 1e-9)
	assert.InEpsilon(t, 5*0.1, o.Balances[0].In, 1e-9)
	d.Conditions[len(d.Conditions)-1].Values["flow"] = "5 N"
	_, err := Run(t.Context(), d, Options{})
	require.ErrorContains(t, err, "write it in")
}

// TestNothingFollowsFromASurfaceElsewhere: what depends on an unknown on a surface acts there alone.
func TestNothingFollowsFromASurfaceElsewhere(t *testing.T) {
	d := magnetic(model.Plane, "5 mm")
	d.Parts = []model.Part{{ID: "board", Name: "board", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "4 mm"}}}
	d.Physics = []model.Physics{{Kind: "heat"}}
	condition(d, "own.along", "board", "front", "unknown", "dew", "unit", "kg/m²", "spread", "1e-9 m²/s")
	condition(d, "own.edges", "board", "front", "unknown", "dew", "value", "1 kg/m²")
	condition(d, "heat.held", "board", "back", "temperature", "300 K")
	condition(d, "heat.flux", "board", "front", "flux", "50 W/kg*dew")
	_, err := Run(t.Context(), d, Options{Now: time.Now})
	require.NoError(t, err)
	d.Conditions[3].On.Side = "left"
	_, err = Run(t.Context(), d, Options{Now: time.Now})
	assert.ErrorContains(t, err, "which is on a surface, and it acts elsewhere")
}

// TestMoistureIntoABoard: an unknown that is stored and spreads enters a board from both faces as the series says; its own spread by a formula of itself
// follows the exact steady profile; carried along it is that of the exponential, without swings in cells that are coarse.
func TestMoistureIntoABoard(t *testing.T) {
	board := func(spread string) *model.Document {
		d := magnetic(model.Plane, "2 mm")
		d.Parts = []model.Part{{ID: "board", Name: "board", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "4 mm"}}}
		condition(d, "own.in", "board", "", "unknown", "moisture", "unit", "kg/m³", "spread", spread)
		return d
	}
	d := board("1e-9 m²/s")
	condition(d, "own.stored", "board", "", "unknown", "moisture", "capacity", "1")
	condition(d, "own.start", "board", "", "unknown", "moisture", "value", "50 kg/m³")
	for _, side := range []string{"left", "right"} {
		condition(d, "own.held", "board", side, "unknown", "moisture", "value", "90 kg/m³")
	}
	d.Run = model.Run{Kind: model.Transient, End: "6 h"}
	mean := wish(d, "formula", "", "", "kg/m³", "formula", "mean(moisture over board)")
	d.Enumerate()
	o := settle(t, d)
	left := 0.0
	for n := 1; n < 99; n += 2 {
		left += 8 / math.Pow(float64(n)*math.Pi, 2) * math.Exp(-1e-9*math.Pow(float64(n)*math.Pi/0.02, 2)*6*3600)
	}
	assert.InEpsilon(t, 90-40*left, value(t, o, mean), 1e-3)

	d = board("1e-9 m²/s*(1 + moisture/(20 kg/m³))")
	condition(d, "own.held", "board", "left", "unknown", "moisture", "value", "0 kg/m³")
	condition(d, "own.held", "board", "right", "unknown", "moisture", "value", "80 kg/m³")
	middle := wish(d, "formula", "", "", "kg/m³", "formula", "at(moisture, 0 mm, 0 mm, 0 mm)")
	d.Enumerate()
	o = settle(t, d)
	// u + u²/40 goes straight from 0 to 240.
	assert.InEpsilon(t, 20*(math.Sqrt(1+4*120/40.)-1), value(t, o, middle), 1e-4)

	d = board("1e-9 m²/s")
	condition(d, "own.carried", "board", "", "unknown", "moisture", "x", "1e-5 m/s")
	condition(d, "own.held", "board", "left", "unknown", "moisture", "value", "0 kg/m³")
	condition(d, "own.held", "board", "right", "unknown", "moisture", "value", "80 kg/m³")
	most, least := wish(d, "formula", "", "", "kg/m³", "formula", "at(moisture, 5 mm, 0 mm, 0 mm)"), wish(d, "formula", "", "", "kg/m³", "formula", "least(moisture over board)")
	d.Enumerate()
	o = settle(t, d)
	assert.InDelta(t, 0, value(t, o, most), 1, "the layer is 0.1 mm thick")
	assert.Greater(t, value(t, o, least), -8.)
}

// TestTermsOfOneDimension: terms that do not fit, unknowns that are nowhere and units that are none are refused, with what would fit.
func TestTermsOfOneDimension(t *testing.T) {
	for words, change := range map[string]func(d *model.Document){
		"write it in m⁻³·kg·s⁻¹": func(d *model.Document) {
			condition(d, "own.arises", "board", "", "unknown", "moisture", "rate", "3 kg/m³")
		},
		"write it in kg/m³": func(d *model.Document) {
			condition(d, "own.held", "board", "left", "unknown", "moisture", "value", "3 %")
		},
		"there is no unknown \"damp\"": func(d *model.Document) {
			condition(d, "own.arises", "board", "", "unknown", "damp", "rate", "3 kg/(m³·s)")
		},
		"is not a unit that is known here": func(d *model.Document) { d.Conditions[0].Values["unit"] = "splash" },
		"nothing fixes how large moisture is": func(d *model.Document) {
			d.Conditions = d.Conditions[:1]
		},
		"cannot be said of moisture": func(d *model.Document) {
			condition(d, "own.edges", "board", "left", "unknown", "moisture", "value", "3 kg/m³")
		},
	} {
		d := magnetic(model.Plane, "2 mm")
		d.Parts = []model.Part{{ID: "board", Name: "board", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "4 mm"}}}
		condition(d, "own.in", "board", "", "unknown", "moisture", "unit", "kg/m³", "spread", "1e-9 m²/s")
		condition(d, "own.held", "board", "right", "unknown", "moisture", "value", "80 kg/m³")
		change(d)
		_, err := Run(t.Context(), d, Options{Now: time.Now})
		assert.ErrorContains(t, err, words)
	}
}

// TestOthersFollowFromAnUnknown: heat that arises by an unknown follows it; and an unknown that spreads by the temperature which it makes is found in
// turns with it.
func TestOthersFollowFromAnUnknown(t *testing.T) {
	for _, both := range []bool{false, true} {
		d := magnetic(model.Plane, "2 mm")
		d.Parts = []model.Part{{ID: "board", Name: "board", Material: "oak", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "4 mm"}}}
		d.Physics = []model.Physics{{Kind: "heat"}}
		spread := "1e-9 m²/s"
		if both {
			spread += "*(1 + (temperature - 300 K)/(50 K))"
		}
		condition(d, "own.in", "board", "", "unknown", "moisture", "unit", "kg/m³", "spread", spread)
		condition(d, "own.arises", "board", "", "unknown", "moisture", "rate", "8e-4 kg/(m³·s)")
		for _, side := range []string{"left", "right"} {
			condition(d, "own.held", "board", side, "unknown", "moisture", "value", "0 kg/m³")
			condition(d, "heat.held", "board", side, "temperature", "300 K")
		}
		condition(d, "heat.source-density", "board", "", "density", "2e3 W/kg*moisture")
		top := wish(d, "formula", "", "", "kg/m³", "formula", "greatest(moisture over board)")
		hot := wish(d, "formula", "", "", "K", "formula", "greatest(temperature over board)")
		d.Enumerate()
		o := settle(t, d)
		if both {
			assert.Less(t, value(t, o, top), 38.0)
			assert.Contains(t, o.Solver.Method, "turns")
		} else {
			assert.InEpsilon(t, 8e-4/1e-9*1e-4/2, value(t, o, top), 1e-6)
			assert.NotContains(t, o.Solver.Method, "turns")
			assert.InEpsilon(t, 300+2e3*40*1e-4*5/12/0.17, value(t, o, hot), 1e-6)
		}
	}
}
