package solve

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// doser is a channel into which two species come that make a third.
func doser() *model.Document {
	d := gutter("plane")
	said := func(id, kind, side string, values ...string) model.Sentence {
		s := model.Sentence{ID: id, Kind: kind, On: model.Patch{Part: "gut", Side: side}, Values: map[string]string{}}
		for i := 0; i < len(values); i += 2 {
			s.Values[values[i]] = values[i+1]
		}
		return s
	}
	for i, name := range []string{"acid", "lime", "salt"} {
		n := string(rune('a' + i))
		d.Conditions = append(d.Conditions, said("d"+n, "species.dissolved", "", "species", name, "diffusivity", "2e-4 m²/s"),
			said("h"+n, "species.held", "left", "species", name, "concentration", []string{"30 mol/m³", "20 mol/m³", "0 mol/m³"}[i]),
			said("s"+n, "species.arises", "", "species", name, "rate", []string{"-0.5 m³/(mol·s)*acid*lime", "-0.5 m³/(mol·s)*acid*lime", "0.5 m³/(mol·s)*acid*lime"}[i]))
	}
	d.Readings = []model.Sentence{
		said("r1", "species.mixed", "right", "species", "acid"), said("r2", "species.mixed", "right", "species", "lime"), said("r3", "species.mixed", "right", "species", "salt"),
		said("r4", "species.through", "right", "species", "salt"), said("r5", "species.amount", "", "species", "lime"),
		{ID: "r6", Kind: "formula", Values: map[string]string{"formula": "total(0.5 m³/(mol·s)*acid*lime over gut)"}, Unit: "mol/s"},
		said("r7", "species.through", "left", "species", "salt")}
	d.Mesh.Size = "2.5 mm"
	return d
}

// TestWhatReactsIsKept: two species make a third; what leaves of it is what arises, none is lost but in the reaction,
// and the balance of each is closed.
func TestWhatReactsIsKept(t *testing.T) {
	o := settle(t, doser())
	// Of two that vanish together and spread alike the difference is carried along as it came.
	assert.InEpsilon(t, 10, value(t, o, "r1")-value(t, o, "r2"), 1e-6)
	assert.InEpsilon(t, 20, value(t, o, "r2")+value(t, o, "r3"), 1e-6)
	assert.Greater(t, value(t, o, "r3"), 5.)
	assert.InEpsilon(t, value(t, o, "r6"), value(t, o, "r4")+value(t, o, "r7"), 1e-6, "what arises leaves at the end, or spreads back into the inlet")
	found := 0
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-8, b.Name)
		if b.Name == "acid" || b.Name == "salt" {
			found++
			assert.Equal(t, "mol/s", b.Unit)
		}
	}
	assert.Equal(t, 2, found)
	assert.Contains(t, o.SolvedFor(), "concentration of lime")
}

// TestSpeciesInTime: what a channel has taken up is what came in less what left, also where the concentration of
// what comes in jumps.
func TestSpeciesInTime(t *testing.T) {
	d := doser()
	d.Conditions = d.Conditions[:5]
	d.Conditions[4].Values["concentration"] = "if(time < 0.5 s, 10 mol/m³, 30 mol/m³)"
	d.Conditions = append(d.Conditions, model.Sentence{ID: "x", Kind: "flow.ahead"},
		model.Sentence{ID: "y", Kind: "species.start", On: model.Patch{Part: "gut"}, Values: map[string]string{"species": "acid", "concentration": "2 mol/m³*(1 + x/60 mm)"}})
	d.Readings = []model.Sentence{{ID: "r1", Kind: "species.amount", On: model.Patch{Part: "gut"}, Values: map[string]string{"species": "acid"}}}
	d.Run = model.Run{Kind: model.Transient, End: "2 s"}
	o := settle(t, d)
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-8, b.Name)
		if b.Name == "acid over the run" {
			stored, _ := b.Stored()
			assert.InEpsilon(t, value(t, o, "r1")-o.History.Readings["r1"][0], stored, 1e-6)
			assert.Equal(t, "mol", b.Unit)
		}
	}
	assert.Contains(t, o.Solver.Method, "velocity and pressure")
}

// TestGoesOnFromASteadyFlow: a flow in time that begins with a steady one stays as it is.
func TestGoesOnFromASteadyFlow(t *testing.T) {
	d := gutter("plane")
	first := settle(t, d)
	d.Run = model.Run{Kind: model.Transient, End: "2 s", From: "1"}
	o, err := Run(t.Context(), d, Options{Earlier: func(int) (*result.Earlier, error) { return result.NewEarlier(first.Result, first.Fields), nil }})
	require.NoError(t, err)
	for i, v := range o.History.Readings["r1"] {
		require.InEpsilon(t, 0.075, v, 1e-6, "%g s", o.History.Times[i])
	}
}

// TestNamesOfWhatIsDissolved: they are used as they were given, and what is wrong with one is said.
func TestNamesOfWhatIsDissolved(t *testing.T) {
	faults := func(change func(d *model.Document)) string {
		d := doser()
		change(d)
		_, findings := model.Resolve(d, physics.Catalog())
		text := ""
		for _, f := range findings {
			if f.Severity != model.Doubtful {
				text += f.String() + "\n"
			}
		}
		return text
	}
	assert.Empty(t, faults(func(*model.Document) {}))
	assert.Contains(t, faults(func(d *model.Document) { d.Conditions[4].Values["species"] = "ash" }), `there is no dissolved species "ash" — write acid or lime or salt`)
	assert.Contains(t, faults(func(d *model.Document) { d.Conditions[3].Values["species"] = "temperature" }), "has a meaning of its own")
	assert.Contains(t, faults(func(d *model.Document) {
		d.Parameters = append(d.Parameters, model.Parameter{Name: "acid", Value: "3"})
	}), `a parameter is called "acid" too`)
	assert.Contains(t, faults(func(d *model.Document) { d.Conditions[3].Off = true }), "dissolved nowhere")
	assert.Contains(t, faults(func(d *model.Document) { d.Conditions[1].Values["speed"] = "0.05 m/s*acid/(1 mol/m³)" }), "cannot depend on acid")

	// In a steady run something must say how much there is.
	d := doser()
	d.Conditions, d.Readings = d.Conditions[:4], nil
	_, err := Run(context.Background(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "nothing fixes how much of acid there is")
}
