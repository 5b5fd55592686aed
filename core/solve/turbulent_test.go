package solve

import (
	"context"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// gale is the gutter with a fluid so runny that its flow is turbulent, one of many lengths that are alike.
func gale(kind string) *model.Document {
	d := gutter(kind)
	d.Materials[0].Properties[material.Viscosity] = material.Property{Value: "2e-4 Pa·s"}
	d.Materials[0].Properties[material.Conductivity] = material.Property{Value: "1.1 W/(m·K)"}
	d.Parts[0].Outline.Width, d.Parts[0].Place.X = "20 mm", "10 mm"
	d.Mesh = model.Mesh{Size: "2 mm", Across: "1"}
	for _, side := range []string{"front", "back"} {
		d.Mesh.Walls = append(d.Mesh.Walls, model.MeshWall{On: model.Patch{Part: "gut", Side: side}, First: "0.3 mm", Count: "6", Growth: "1.3"})
	}
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.repeats", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"x": "20 mm", "pressure": "5 Pa"}},
		{ID: "t", Kind: "flow.turbulent"}}
	d.Readings = []model.Sentence{d.Readings[0], d.Readings[4], {ID: "u", Kind: "formula", Values: map[string]string{"formula": "mean(wall_units over gut.front)"}}}
	return d
}

// models are the sentences that say that a flow is turbulent, each by a model of its own.
var models = []string{"flow.turbulent", "flow.turbulent-energy"}

// byModel lets a document say it by another sentence.
func byModel(d *model.Document, kind string) *model.Document {
	for i := range d.Conditions {
		if d.Conditions[i].ID == "t" {
			d.Conditions[i].Kind = kind
		}
	}
	return d
}

// TestTurbulentFlowBetweenWalls: in a section and in space it is as fast, what the walls hold is what drives it, and the note
// says how thick the first cells are.
func TestTurbulentFlowBetweenWalls(t *testing.T) {
	for i, kind := range models {
		betweenWalls(t, kind, []string{"Spalart and Allmaras", "k–ω"}[i])
	}
	d := gale(model.Plane)
	d.Conditions = append(d.Conditions, model.Sentence{ID: "e", Kind: models[1]})
	_, err := Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "in two ways")

	// First cells that are about 10 units of the wall thick are none for the energy of eddies.
	for i, kind := range models {
		d := byModel(gale(model.Plane), kind)
		for w := range d.Mesh.Walls {
			d.Mesh.Walls[w].First, d.Mesh.Walls[w].Count = "0.04 mm", "10"
		}
		warned := strings.Join(settle(t, d).Warnings, "\n")
		assert.Equal(t, i == 1, strings.Contains(warned, "between the layer that viscosity governs"), "%s: %s", kind, warned)
	}
}

func betweenWalls(t *testing.T, kind, named string) {
	flat := settle(t, byModel(gale(model.Plane), kind))
	assert.InEpsilon(t, 1.205, value(t, flat, "r1"), 0.04)
	assert.InEpsilon(t, 5*0.02/2, value(t, flat, "r5"), 0.01)
	d := byModel(gale(model.Solid), kind)
	d.Space.Depth = ""
	d.Parts[0].Span = model.Span{From: "0 mm", To: "10 mm"}
	d.Mesh.Across = "2"
	for _, side := range []string{"top", "bottom"} {
		d.Conditions = append(d.Conditions, model.Sentence{ID: "s" + side, Kind: "flow.slips", On: model.Patch{Part: "gut", Side: side}})
	}
	solid := settle(t, d)
	assert.InEpsilon(t, value(t, flat, "r1"), value(t, solid, "r1"), 5e-3)
	assert.InEpsilon(t, value(t, flat, "u"), value(t, solid, "u"), 5e-3)
	said := strings.Join(flat.Notes, "\n")
	assert.Contains(t, said, "units of the wall thick")
	assert.Contains(t, said, named)
}

// TestRoughWallsHoldMore than smooth ones, and cells without layers are warned of.
func TestRoughWallsHoldMore(t *testing.T) {
	for _, kind := range models {
		smooth := settle(t, byModel(gale(model.Plane), kind))
		d := byModel(gale(model.Plane), kind)
		d.Conditions = append(d.Conditions, model.Sentence{ID: "r", Kind: "flow.rough", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"height": "0.5 mm"}})
		rough := settle(t, d)
		assert.Less(t, value(t, rough, "r1"), 0.9*value(t, smooth, "r1"), kind)
		assert.Greater(t, value(t, rough, "r5"), 1.2*value(t, smooth, "r5"), "%s: its friction takes the greater part of what drives both", kind)
	}
	d := gale(model.Plane)
	d.Mesh.Walls = nil
	o := settle(t, d)
	assert.Contains(t, strings.Join(o.Warnings, "\n"), "are in no layers")
}

// TestWideStream: in a box that nothing stands in, aslant, it is everywhere as it comes in; its coefficient is the force over
// what it is counted by.
func TestWideStream(t *testing.T) {
	d := gale(model.Plane)
	d.Mesh.Walls = nil
	all := model.Patch{Part: "gut", Side: "*"}
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.stream", On: all, Values: map[string]string{"x": "0.8 m/s", "y": "0.6 m/s"}}, {ID: "t", Kind: "flow.turbulent"}}
	d.Readings = []model.Sentence{d.Readings[0], {ID: "p", Kind: "formula", Values: map[string]string{"formula": "least(velocity over gut)"}, Unit: "m/s"}}
	for _, kind := range models {
		o := settle(t, byModel(d.Clone(), kind))
		assert.InEpsilon(t, 1, value(t, o, "r1"), 1e-6, kind)
		assert.InEpsilon(t, 1, value(t, o, "p"), 1e-6, kind)
	}

	// In space, along four sides that meet; the last digits of places are not those of a box.
	space := d.Clone()
	space.Space.Kind, space.Space.Depth, space.Readings = model.Solid, "", d.Readings[:1]
	space.Parts[0].Span, space.Parts[0].Place = model.Span{From: "-0.1 mm/0.3", To: "7 mm"}, model.Place{X: "1 mm/3", Y: "2 mm/7"}
	space.Conditions[1].Values = map[string]string{"x": "1 m/s"}
	assert.InEpsilon(t, 1, value(t, settle(t, space), "r1"), 1e-6)

	post := d.Parts[0]
	post.ID, post.Name, post.Material = "post", "post", "copper"
	post.Outline = model.Outline{Kind: "disc", Diameter: "4 mm"}
	post.Place = model.Place{X: "8 mm", Y: "10 mm"}
	d.Parts = append(d.Parts, post)
	d.Conditions[1].Values = map[string]string{"x": "0.5 m/s"}
	on := model.Patch{Part: "post", Facing: "gut"}
	turned := map[string]string{"axis": "x", "turn": "30 deg", "speed": "0.5 m/s", "area": "4 mm*1 m"}
	d.Readings = []model.Sentence{{ID: "x", Kind: "flow.force", On: on, Values: map[string]string{"axis": "x"}, Unit: "N"}, {ID: "y", Kind: "flow.force", On: on, Values: map[string]string{"axis": "y"}, Unit: "N"},
		{ID: "c", Kind: "flow.coefficient", On: on, Values: turned}}
	o := settle(t, d)
	x, y := value(t, o, "x"), value(t, o, "y")
	assert.Positive(t, x)
	assert.InEpsilon(t, (x*math.Cos(math.Pi/6)+y*math.Sin(math.Pi/6))/(1000./2*0.25*4e-3), value(t, o, "c"), 1e-9)
	assert.Contains(t, plain(strings.Join(o.Notes, " ")), "the extent of the walls of 4.0 mm", "a wide stream has no hydraulic diameter")
}

// TestSidesThatAreNear change a force by as much as a run with twice the room between says, and half of that is left there.
func TestSidesThatAreNear(t *testing.T) {
	d := gutter(model.Plane)
	d.Parts[0].Outline, d.Parts[0].Place = model.Outline{Kind: "box-around", Left: "20 mm", Right: "30 mm", Front: "20 mm", Back: "20 mm"}, model.Place{}
	d.Parts = append(d.Parts, model.Part{ID: "post", Name: "post", Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "disc", Diameter: "10 mm"}})
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.stream", On: model.Patch{Part: "gut", Side: "*"}, Values: map[string]string{"x": "0.02 m/s"}}}
	d.Readings = []model.Sentence{{ID: "x", Kind: "flow.force", On: model.Patch{Part: "post", Facing: "gut"}, Values: map[string]string{"axis": "x"}, Unit: "N"}}
	d.Mesh = model.Mesh{Size: "12 mm", Order: "2", Across: "1", Near: []model.MeshNear{{On: model.Patch{Part: "post", Side: "*"}, Size: "2 mm"}}}
	near, err := Run(t.Context(), d, Options{EstimateWithin: -1})
	require.NoError(t, err)
	require.Equal(t, result.Settled, near.Status, near.Reason)
	part := func(o *Outcome) float64 {
		for _, e := range o.Readings[0].Errors {
			if e.Of == ofSides {
				return e.Value
			}
		}
		require.Fail(t, "no error of sides", o.Readings[0].Unknown)
		return 0
	}
	wide := d.Clone()
	wide.Parts[0].Outline = model.Outline{Kind: "box-around", Left: "40 mm", Right: "60 mm", Front: "40 mm", Back: "40 mm"}
	far, err := Run(t.Context(), wide, Options{EstimateWithin: -1})
	require.NoError(t, err)
	x, farX := value(t, near, "x"), value(t, far, "x")
	assert.Greater(t, x, farX, "between sides fluid is faster")
	assert.InEpsilon(t, 2*(x-farX), part(near), 1e-6)
	// What it is on the way to is within both.
	wide.Parts[0].Outline = model.Outline{Kind: "box-around", Left: "320 mm", Right: "480 mm", Front: "320 mm", Back: "320 mm"}
	open := value(t, settle(t, wide), "x")
	assert.Less(t, math.Abs(x-open), part(near))
	assert.Less(t, math.Abs(farX-open), part(far))
	// A box whose sides are walls is one.
	wide.Conditions = []model.Sentence{wide.Conditions[0], {ID: "c2", Kind: "flow.inlet", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"speed": "0.02 m/s"}}, {ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}}}
	wide.Parts[0].Outline = d.Parts[0].Outline
	o, err := Run(t.Context(), wide, Options{EstimateWithin: -1})
	require.NoError(t, err)
	for _, e := range o.Readings[0].Errors {
		assert.NotEqual(t, ofSides, e.Of)
	}
}

// TestTurbulentFlowThroughAMatrix: on the mean it is as fast as P. Forchheimer's law says, G = µ/K·u + βρu², whatever eddies do.
func TestTurbulentFlowThroughAMatrix(t *testing.T) {
	d := gale(model.Plane)
	d.Conditions[1].Values["pressure"] = "50 Pa"
	d.Conditions = append(d.Conditions, model.Sentence{ID: "m", Kind: "flow.matrix", On: model.Patch{Part: "gut"}, Values: map[string]string{"permeability": "1e-8 m²", "inertia": "10 1/m"}})
	d.Readings[0] = model.Sentence{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "mean(velocity_x over gut)"}, Unit: "m/s"}
	o := settle(t, d)
	const falls, held, inertia = 2500., 2e-4 / 1e-8, 1e4
	assert.InEpsilon(t, (math.Sqrt(held*held+4*inertia*falls)-held)/(2*inertia), value(t, o, "r1"), 2e-2, "walls hold little of it")
}

// TestTurbulentFlowOfWhichNoSpeedIsSaid is found as one that is driven by a number, but for the few eddies that come in.
func TestTurbulentFlowOfWhichNoSpeedIsSaid(t *testing.T) {
	for _, kind := range models {
		speed := func(pressure string) float64 {
			d := byModel(gale(model.Plane), kind)
			d.Conditions[1] = model.Sentence{ID: "c2", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"pressure": pressure}}
			d.Conditions = append(d.Conditions, model.Sentence{ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}})
			return value(t, settle(t, d), "r1")
		}
		assert.InEpsilon(t, speed("50 Pa"), speed("50 Pa + 1 Pa/m*(y - y)"), 1e-3, kind)
	}
}

// TestTurbulentFlowBeginsToMove: pushed from rest, it is as fast at last as the steady one.
func TestTurbulentFlowBeginsToMove(t *testing.T) {
	for _, kind := range models {
		d := byModel(gale(model.Plane), kind)
		still := value(t, settle(t, d), "r1")
		d.Run = model.Run{Kind: model.Transient, End: "20 s", Tolerance: "1e-2"}
		o := settle(t, d)
		assert.InEpsilon(t, still, value(t, o, "r1"), 1e-2, kind)
		speeds := o.History.Readings["r1"]
		assert.Less(t, speeds[len(speeds)/8], 0.7*still, kind)
	}
}

// TestReadingsOfAFlowThatIsNotFound: one that is stopped on its way tells between what its readings were in the last steps.
func TestReadingsOfAFlowThatIsNotFound(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	near := 0
	o, err := Run(ctx, gale(model.Plane), Options{Progress: func(e Event) {
		if e.Iteration > 0 && e.Residual < 1e-4 {
			if near++; near == 3 {
				cancel()
			}
		}
	}})
	require.NoError(t, err)
	assert.Equal(t, result.Stopped, o.Status)
	for _, q := range o.Readings {
		require.Contains(t, q.Unknown, "in the last ", q.Key)
		var numbers []float64
		_, after, _ := strings.Cut(q.Unknown, "in the last ")
		for _, word := range strings.Fields(strings.ReplaceAll(after, ",", "")) {
			if v, err := strconv.ParseFloat(word, 64); err == nil {
				numbers = append(numbers, v)
			}
		}
		require.Len(t, numbers, 4, after)
		least, most, mean := numbers[1], numbers[2], numbers[3]
		assert.GreaterOrEqual(t, numbers[0], 4.)
		assert.InEpsilon(t, q.Shown.Value, most, 0.2)
		assert.LessOrEqual(t, least, mean)
		assert.LessOrEqual(t, mean, most)
	}
}

// TestEddiesCarryHeatAndWhatIsDissolved: much more of both reaches the far wall of a channel than without them.
func TestEddiesCarryHeatAndWhatIsDissolved(t *testing.T) {
	d := gale(model.Plane)
	d.Parts[0].Outline.Width, d.Parts[0].Place.X = "60 mm", "30 mm"
	d.Mesh.Size = "3 mm"
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "t", Kind: "flow.turbulent"},
		{ID: "c2", Kind: "flow.channel", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"speed": "1 m/s"}},
		{ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}},
		{ID: "s", Kind: "species.dissolved", On: model.Patch{Part: "gut"}, Values: map[string]string{"species": "potash", "diffusivity": "2e-9 m²/s"}},
		{ID: "s1", Kind: "species.held", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"species": "potash", "concentration": "if(y > 10 mm, 1, 0)*1 mol/m³"}},
		{ID: "h1", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"temperature": "20 °C"}},
		{ID: "h2", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"temperature": "60 °C"}}}
	d.Physics = []model.Physics{{Kind: "heat"}, {Kind: "species"}}
	d.Readings = []model.Sentence{{ID: "q", Kind: "heat.through", On: model.Patch{Part: "gut", Side: "front"}, Unit: "W"},
		{ID: "m", Kind: "formula", Values: map[string]string{"formula": "total(if(y < 8 mm, concentration_1, 0 mol/m³)*leaving_speed over gut.right)"}}}
	still := *d
	still.Conditions = append([]model.Sentence{}, d.Conditions...)
	still.Conditions[2].Values = map[string]string{"speed": "0 m/s"}
	_, err := Run(t.Context(), &still, Options{})
	require.NoError(t, err, "what stands still is one of many inlets")
	for _, kind := range models {
		o := settle(t, byModel(d, kind))
		// Without eddies a plate of 60 mm in a stream of 1 m/s takes 0.664·λ·√(Re·Pr^⅔)·ΔT: 0.664·1.1·549·0.9·40 W.
		assert.Greater(t, -value(t, o, "q"), 1.9*0.664*1.1*549*0.9*40, kind)
		assert.Greater(t, value(t, o, "m"), 1e-5, "%s: some of it has been stirred far down", kind)
		for _, b := range o.Balances {
			assert.Less(t, b.Closure, 1e-7, "%s: %s", kind, b.Name)
		}
	}
}

// TestTurbulentFlowsAskForCellsOfOrderOne, and what is not likely to be turbulent is said.
func TestTurbulentFlowsAskForCellsOfOrderOne(t *testing.T) {
	d := gale(model.Plane)
	d.Mesh.Order = "2"
	_, err := Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "order 1 in its cells")
	d = gale(model.Plane)
	d.Conditions[1] = model.Sentence{ID: "c2", Kind: "flow.repeats-with", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"x": "20 mm", "flow": "1e-5 m³/s"}}
	o, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(o.Warnings, "\n"), "is not likely to be turbulent")
	d = gale(model.Plane)
	d.Conditions = append(d.Conditions, model.Sentence{ID: "n", Kind: "flow.thins", On: model.Patch{Part: "gut"}, Values: map[string]string{"time": "1 s", "exponent": "0.5"}})
	_, err = Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "is not solved for with turbulence")
	d = gale(model.Plane)
	d.Conditions = append(d.Conditions[:2:2], model.Sentence{ID: "r", Kind: "flow.rough", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"height": "1 mm"}})
	_, err = Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "not said to be turbulent")
	d = gale(model.Plane)
	d.Conditions = append(d.Conditions, model.Sentence{ID: "b", Kind: "flow.brings-ratio", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"ratio": "10"}})
	_, err = Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "nothing comes in there")
}
