package solve

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// bath is a closed block with ρcV = 1 kJ/K at 20 °C when time begins.
func bath(t *testing.T, end string, sentences ...[2]string) *model.Document {
	doc := model.New("bath")
	doc.Materials = []material.Material{{Name: "brew", Properties: map[material.Key]material.Property{
		material.Conductivity: {Value: "100 W/(m·K)"}, material.Density: {Value: "1000 kg/m³"}, material.HeatCapacity: {Value: "1000 J/(kg·K)"}}}}
	doc.Parts = []model.Part{{ID: "bath", Name: "bath", Material: "brew", Role: model.Solved,
		Outline: model.Outline{Kind: "rectangle", Width: "100 mm", Depth: "100 mm"}, Span: model.Span{From: "0 mm", To: "100 mm"}}}
	doc.Run = model.Run{Kind: model.Transient, Start: "20 °C", End: end}
	set(t, doc, "mesh/size", "50 mm")
	for _, s := range sentences {
		add(t, doc, s[0], model.Patch{Part: "bath"}, map[string]string{"heat.source": "power", "heat.source-density": "density"}[s[0]], s[1])
	}
	add(t, doc, "heat.mean", model.Patch{Part: "bath"})
	return doc
}

func entry(b result.Balance, key string) float64 {
	for _, e := range b.Entries {
		if e.Key == key {
			return e.Value
		}
	}
	return math.NaN()
}

// TestNothingGivenIsMissed: whatever a signal gives arrives, however short it is and at any
// tolerance, and the account of the run says how much it was.
func TestNothingGivenIsMissed(t *testing.T) {
	second := math.Sqrt(math.Pi) // of exp(−(t/s)²)
	for signal, want := range map[string]float64{
		"10 kW*pulse(time, 40 s, 41 s)":                10,
		"10 kW*pulse(time, 40 s, 43 s, 2 s)":           30,
		"10 kW*pulse(time, 40.123 s, 40.124 s)":        0.01,
		"1 kW*square(time, 7 s, 0.1)":                  0.7*8 + 0.7,
		"10 kW*exp(-((time - 40 s)/1 s)^2)":            10 * second,
		"10 kW*exp(-((time - 40 s)/100 ms)^2)":         second,
		"table(time, 0 s: 0 W, 50: 0, 51: 4e3, 52: 0)": 4,
		"if(time > 30 s and time < 30.5 s, 2 kW, 0 W)": 1,
		"1 kW*(1 + sin(30/s*time))":                    60 + (1-math.Cos(1800))/30,
		"5 kW*ramp(time, 59 s, 61 s)":                  1.25,
	} {
		for _, tolerance := range []string{"", "5 %"} {
			doc := bath(t, "60 s", [2]string{"heat.source", signal})
			doc.Run.Tolerance = tolerance
			o := settle(t, doc)
			close := 2e-4
			if tolerance == "5 %" {
				close = 2e-2
			}
			assert.InEpsilon(t, want, value(t, o, "r1")-293.15, close, "%s at %q: %s", signal, tolerance, o.Solver.Method)
			account := o.Balances[0]
			assert.Equal(t, "heat over the run", account.Name)
			assert.Equal(t, "J", account.Unit)
			assert.InEpsilon(t, 1000*want, entry(account, "c1"), close, signal)
			assert.InEpsilon(t, -1000*want, entry(account, result.Stores), close, signal)
		}
	}
	// One that depends on the place, too: a source that travels through.
	doc := bath(t, "60 s", [2]string{"heat.source-density", "1 MW/m³*exp(-((x - 20 mm/s*(time - 30 s))/20 mm)^2)"})
	set(t, doc, "mesh/size", "25 mm")
	o := settle(t, doc)
	assert.InEpsilon(t, second, value(t, o, "r1")-293.15, 2e-3, "20 mm at 20 mm/s at every place")
}

// TestStepsAsLongAsSaid: the longest step is kept to.
func TestStepsAsLongAsSaid(t *testing.T) {
	doc := bath(t, "60 s", [2]string{"heat.source", "1 W"})
	doc.Run.Longest = "1 s"
	o := settle(t, doc)
	assert.GreaterOrEqual(t, stepsOf(t, o), 60)
	doc.Run.Longest = ""
	assert.Less(t, stepsOf(t, settle(t, doc)), 20)
	doc.Run.Longest = "1 mm"
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "longest step in time")
}

func stepsOf(t *testing.T, o *Outcome) int {
	var n int
	_, err := fmt.Sscanf(o.Solver.Method, "%d steps in time", &n)
	require.NoError(t, err)
	return n
}

// TestSignalsThatChangeTooOften: they are refused in words.
func TestSignalsThatChangeTooOften(t *testing.T) {
	_, err := Run(t.Context(), bath(t, "1 h", [2]string{"heat.source", "1 kW*square(time, 1 ms)"}), Options{})
	assert.ErrorContains(t, err, "the power in c1 cannot be followed through")
}

// TestHeldTemperatureThatJumps: what a held temperature brings in at a jump is in the
// account, which closes.
func TestHeldTemperatureThatJumps(t *testing.T) {
	doc := bath(t, "60 s")
	add(t, doc, "heat.held", model.Patch{Part: "bath", Side: "left"}, "temperature", "20 °C + 30 K*square(time, 20 s)")
	o := settle(t, doc)
	assert.Less(t, o.Balances[0].Closure, 1e-10)
	// Steps land on the jumps.
	for _, at := range []float64{10, 20, 30, 40, 50} {
		assert.True(t, slices.ContainsFunc(o.History.Times, func(time float64) bool { return math.Abs(time-at) < 1e-9 }), at)
	}
}

// TestHeatStoredInANarrowRange: where the heat stored for a kelvin has a peak, as where
// something melts, none of it is jumped over.
func TestHeatStoredInANarrowRange(t *testing.T) {
	doc := bath(t, "100 s", [2]string{"heat.source", "1 kW"})
	doc.Materials[0].Properties[material.HeatCapacity] = material.Property{Value: "table(temperature, 300 K: 1000 J/(kg·K), 309.9: 1000, 310: 21000, 312: 21000, 312.1: 1000)"}
	o := settle(t, doc)
	// 100 kJ: 16.75 kJ to 309.9 K, then 1.1 kJ, then 21 kJ/K.
	want := 310 + (100-(309.9-293.15)-1.1)/21 // beyond 312 K if that is more
	if want > 312 {
		want = 312.1 + (100 - (309.9 - 293.15) - 1.1 - 42 - 1.1)
	}
	assert.InDelta(t, want, value(t, o, "r1"), 0.05, o.Solver.Method)
}
