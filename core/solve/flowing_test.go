package solve

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// gutter is a straight channel 20 mm wide and 60 mm long, through which a thick fluid flows from the left to the
// right.
func gutter(kind string) *model.Document {
	d := model.New("gutter")
	d.Space = model.Space{Kind: kind, Unit: "mm", Depth: "1 m"}
	d.Physics = nil
	d.Materials = []material.Material{{Name: "thick", Family: "liquid", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1000 kg/m³"}, material.Viscosity: {Value: "0.02 Pa·s"}, material.HeatCapacity: {Value: "4000 J/(kg·K)"}, material.Conductivity: {Value: "0.6 W/(m·K)"}}}}
	d.Parts = []model.Part{{ID: "gut", Name: "gutter", Material: "thick", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "60 mm", Depth: "20 mm"}, Place: model.Place{X: "30 mm", Y: "10 mm"}}}
	d.Mesh = model.Mesh{Size: "5 mm", Across: "1", Order: "2"}
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "flow.flows", On: model.Patch{Part: "gut"}},
		{ID: "c2", Kind: "flow.channel", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"speed": "0.05 m/s"}},
		{ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "flow.speed", On: model.Patch{Part: "gut"}, Unit: "m/s"},
		{ID: "r2", Kind: "flow.mean-pressure", On: model.Patch{Part: "gut", Side: "left"}, Unit: "Pa"},
		{ID: "r3", Kind: "flow.volume-flow", On: model.Patch{Part: "gut", Side: "right"}, Unit: "m³/s"},
		{ID: "r4", Kind: "flow.mass-flow", On: model.Patch{Part: "gut", Side: "left"}, Unit: "kg/s"},
		{ID: "r5", Kind: "flow.force", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"axis": "x"}, Unit: "N"}}
	d.Enumerate()
	return d
}

// TestFlowBetweenPlates: the parabola of a channel and its pressure are exact.
func TestFlowBetweenPlates(t *testing.T) {
	o := settle(t, gutter("plane"))
	assert.InEpsilon(t, 0.075, value(t, o, "r1"), 1e-9, "half as fast again as the mean")
	assert.InEpsilon(t, 12*0.02*0.05*0.06/(0.02*0.02), value(t, o, "r2"), 1e-8)
	assert.InEpsilon(t, 0.05*0.02*1, value(t, o, "r3"), 1e-9)
	assert.InEpsilon(t, -1000*0.05*0.02, value(t, o, "r4"), 1e-9)
	// At the corner of the inlet the wall holds what the inlet does, too: there it is divided.
	assert.InEpsilon(t, 6*0.02*0.05*0.06/0.02, value(t, o, "r5"), 0.06, "the half of what the pressure pushes with")
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-8, b.Name)
	}
}

// TestFlowInAPipe: the same about an axis.
func TestFlowInAPipe(t *testing.T) {
	d := gutter("axial")
	d.Parts[0].Outline.Width, d.Parts[0].Outline.Depth = "20 mm", "60 mm"
	d.Parts[0].Place = model.Place{X: "10 mm", Y: "30 mm"}
	d.Space.Depth = ""
	for i, side := range map[int]string{1: "front", 2: "back"} {
		d.Conditions[i].On.Side = side
	}
	d.Readings[1].On.Side, d.Readings[2].On.Side, d.Readings[3].On.Side = "front", "back", "front"
	d.Readings = d.Readings[:4]
	o := settle(t, d)
	assert.InEpsilon(t, 0.1, value(t, o, "r1"), 1e-8, "twice the mean")
	assert.InEpsilon(t, 8*0.02*0.05*0.06/(0.02*0.02), value(t, o, "r2"), 1e-7)
	assert.InEpsilon(t, 0.05*math.Pi*0.02*0.02, value(t, o, "r3"), 1e-9)
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-8, b.Name)
	}
}

// TestFlowInSpace: the same parabola between plates that slip at the other sides.
func TestFlowInSpace(t *testing.T) {
	d := gutter("solid")
	d.Space.Depth = ""
	d.Parts[0].Span = model.Span{From: "0 mm", To: "10 mm"}
	d.Mesh.Size, d.Mesh.Across = "8 mm", "2"
	d.Conditions[1] = model.Sentence{ID: "c2", Kind: "flow.inlet", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"speed": "0.05 m/s*6*(y/20 mm)*(1 - y/20 mm)"}}
	for i, side := range []string{"top", "bottom"} {
		d.Conditions = append(d.Conditions, model.Sentence{ID: []string{"c4", "c5"}[i], Kind: "flow.slips", On: model.Patch{Part: "gut", Side: side}})
	}
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 0.075, value(t, o, "r1"), 1e-9)
	assert.InEpsilon(t, 12*0.02*0.05*0.06/(0.02*0.02), value(t, o, "r2"), 1e-8)
	assert.InEpsilon(t, 0.05*0.02*0.01, value(t, o, "r3"), 1e-9)
}

// TestDrivenCavity: a lid drags a fluid round in a box. Ghia, Ghia and Shin, J. Comput. Phys. 48 (1982) 387, for
// where it is fastest on the middle lines; Botella and Peyret, Comput. Fluids 27 (1998) 421, for how fast at 1000.
func TestDrivenCavity(t *testing.T) {
	d := gutter("plane")
	d.Parts[0].Outline = model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"}
	d.Parts[0].Place = model.Place{X: "0.5 m", Y: "0.5 m"}
	d.Space.Unit = "m"
	d.Mesh.Size = "0.03 m"
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.wall-moves", On: model.Patch{Part: "gut", Side: "back"}, Values: map[string]string{"x": "1 m/s"}}}
	for _, c := range []struct {
		viscosity string
		ux, uy    float64
		y, x      string
		within    float64
	}{
		{"10 Pa·s", -0.21404, 0.17957, "0.4531 m", "0.2344 m", 0.004},
		{"2.5 Pa·s", -0.32873, 0.30404, "0.2813 m", "0.2266 m", 0.004},
		{"1 Pa·s", -0.38857, 0.37694, "0.1717 m", "0.1578 m", 0.004},
	} {
		d.Readings = []model.Sentence{
			{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(velocity_x, 0.5 m, " + c.y + ", 0 m)"}, Unit: "m/s"},
			{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "at(velocity_y, " + c.x + ", 0.5 m, 0 m)"}, Unit: "m/s"}}
		d.Materials[0].Properties[material.Viscosity] = material.Property{Value: c.viscosity}
		d.Enumerate()
		o := settle(t, d)
		assert.InDelta(t, c.ux, value(t, o, "r1"), c.within)
		assert.InDelta(t, c.uy, value(t, o, "r2"), c.within)
	}
}

// warmGutter is a long gutter with walls that give heat to what flows.
func warmGutter() *model.Document {
	d := gutter("plane")
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Parts[0].Outline.Depth, d.Parts[0].Place.Y = "4 mm", "2 mm"
	d.Mesh.Size = "1 mm"
	d.Materials[0].Properties[material.Conductivity] = material.Property{Value: "20 W/(m·K)"}
	d.Conditions[1].Values["speed"] = "0.01 m/s"
	d.Conditions = append(d.Conditions,
		model.Sentence{ID: "c4", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"temperature": "300 K"}},
		model.Sentence{ID: "c5", Kind: "heat.flux", On: model.Patch{Part: "gut", Side: "front"}, Values: map[string]string{"flux": "5 kW/m²"}},
		model.Sentence{ID: "c6", Kind: "heat.flux", On: model.Patch{Part: "gut", Side: "back"}, Values: map[string]string{"flux": "5 kW/m²"}})
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(temperature, 48 mm, 0 mm, 0 mm) - at(temperature, 48 mm, 2 mm, 0 mm)"}, Unit: "K"},
		{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "(at(temperature, 48 mm, 2 mm, 0 mm) - at(temperature, 40 mm, 2 mm, 0 mm))/8 mm"}, Unit: "K/mm"}}
	d.Enumerate()
	return d
}

// TestHeatThatAFlowTakesAlong: where the walls of a channel give heat evenly the temperature rises along it as the
// stream takes the heat, and lies across it as the parabola of the speed says: the wall is above the middle by
// 5/8·q·H/k, H being half the width (W. M. Kays and M. E. Crawford, Convective Heat and Mass Transfer, 1993).
func TestHeatThatAFlowTakesAlong(t *testing.T) {
	o := settle(t, warmGutter())
	assert.InEpsilon(t, 5./8*5e3*0.002/20, value(t, o, "r1"), 2e-3)
	assert.InEpsilon(t, 2*5e3/(1000*4000*0.01*0.004), value(t, o, "r2"), 2e-3)
}

// TestAHeatedBox: what is warm rises at one side of a box and comes down at the other. G. de Vahl Davis, Int. J.
// Numer. Methods Fluids 3 (1983) 249: by how many times more heat passes than at rest.
func TestAHeatedBox(t *testing.T) {
	d := gutter("plane")
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Space.Unit = "m"
	d.Parts[0].Outline = model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"}
	d.Parts[0].Place = model.Place{X: "0.5 m", Y: "0.5 m"}
	d.Mesh.Size = "0.04 m"
	p := d.Materials[0].Properties
	p[material.Density] = material.Property{Value: "1 kg/m³*(1 - 0.001 1/K*(temperature - 300 K))"}
	p[material.Viscosity], p[material.HeatCapacity] = material.Property{Value: "0.71 Pa·s"}, material.Property{Value: "1 J/(kg·K)"}
	p[material.Conductivity] = material.Property{Value: "1 W/(m·K)"}
	d.Conditions = []model.Sentence{d.Conditions[0],
		{ID: "c2", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"temperature": "300.5 K"}},
		{ID: "c3", Kind: "heat.held", On: model.Patch{Part: "gut", Side: "right"}, Values: map[string]string{"temperature": "299.5 K"}},
		{ID: "c4", Kind: "flow.gravity", Values: map[string]string{"temperature": "300 K"}}}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "heat.through", On: model.Patch{Part: "gut", Side: "right"}, Unit: "W"}}
	for _, c := range []struct {
		gravity string
		nusselt float64
	}{{"-7.1e5 m/s²", 1.118}, {"-7.1e6 m/s²", 2.243}, {"-7.1e7 m/s²", 4.519}} {
		d.Conditions[3].Values["y"] = c.gravity
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, c.nusselt, value(t, o, "r1"), 4e-3, c.gravity)
	}
}

// TestAWallBeginsToMove: the fluid between two walls follows one that begins to move as the series says.
func TestAWallBeginsToMove(t *testing.T) {
	d := gutter("plane")
	d.Mesh.Size = "4 mm"
	d.Conditions = []model.Sentence{d.Conditions[0],
		{ID: "c2", Kind: "flow.wall-moves", On: model.Patch{Part: "gut", Side: "back"}, Values: map[string]string{"x": "5e-6 m/s"}},
		{ID: "c3", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "left"}},
		{ID: "c4", Kind: "flow.opening", On: model.Patch{Part: "gut", Side: "right"}}}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(velocity_x, 30 mm, 10 mm, 0 mm)"}, Unit: "m/s"}}
	d.Run = model.Run{Kind: model.Transient, End: "4 s", Tolerance: "1e-4"}
	d.Enumerate()
	o := settle(t, d)
	exact := 0.5
	for n := 1.0; n < 60; n++ {
		exact += 2 / (n * math.Pi) * math.Cos(n*math.Pi) * math.Sin(n*math.Pi/2) * math.Exp(-n*n*math.Pi*math.Pi*2e-5*4/4e-4)
	}
	assert.InDelta(t, 5e-6*exact, value(t, o, "r1"), 2e-4*5e-6)
}

// TestFluidsThatTouch: what one does to the other is refused in words.
func TestFluidsThatTouch(t *testing.T) {
	d := gutter("plane")
	d.Materials = append(d.Materials, material.Material{Name: "thin", Family: "liquid", Properties: map[material.Key]material.Property{material.Density: {Value: "900 kg/m³"}, material.Viscosity: {Value: "0.001 Pa·s"}}})
	d.Parts = append(d.Parts, model.Part{ID: "on", Name: "upper", Material: "thin", Role: model.Solved, Outline: d.Parts[0].Outline, Place: model.Place{X: "30 mm", Y: "30 mm"}})
	d.Conditions = append(d.Conditions, model.Sentence{ID: "u", Kind: "flow.flows", On: model.Patch{Part: "on"}})
	_, err := Run(t.Context(), d, Options{})
	require.Error(t, err)
	assert.Contains(t, err.Error(), "thick in the gutter and thin in the upper touch and both flow")
	d.Parts[1].Material = "thick"
	d.Conditions = append(d.Conditions, model.Sentence{ID: "v", Kind: "flow.channel", On: model.Patch{Part: "on", Side: "left"}, Values: map[string]string{"speed": "0.05 m/s"}}, model.Sentence{ID: "w", Kind: "flow.opening", On: model.Patch{Part: "on", Side: "right"}})
	settle(t, d)
}

// TestCellsWithAllCornersAtWalls are warned of: nothing flows through them.
func TestCellsWithAllCornersAtWalls(t *testing.T) {
	d := trough()
	d.Mesh.Size, d.Mesh.Across = "30 mm", "1"
	d.Conditions[1] = model.Sentence{ID: "c2", Kind: "flow.still", On: model.Patch{Part: "gut", Side: "left"}, Values: map[string]string{"pressure": "1 Pa"}}
	o, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(o.Warnings, " "), "have all their corners at walls")
}

// TestTheRodBehindTheGate is pushed, and bends.
func TestTheRodBehindTheGate(t *testing.T) {
	d := demo(t, "sluice-rod")
	o := settle(t, d)
	assert.InEpsilon(t, 743e-6, value(t, o, "r1"), 0.1)
	assert.InEpsilon(t, 1250e-6, value(t, o, "r2"), 0.1)
	assert.InEpsilon(t, 7.3e-6, value(t, o, "r3"), 0.2)
	// What holds the foot of the rod takes up all that the brine pushes it with: the force along the stream, to what the
	// corner of the foot shares with the bed of the channel, and its torque.
	held := o.Balances[3]
	assert.Equal(t, "force along x", held.Name)
	assert.InEpsilon(t, value(t, o, "r1"), held.In, 5e-3)
	assert.Less(t, held.Closure, 1e-8)
	assert.Greater(t, value(t, o, "r5"), 0.3*0.11*held.In)
	assert.Less(t, value(t, o, "r5"), 0.11*held.In)
	assert.Contains(t, strings.Join(o.Notes, " "), "Reynolds number 1100")
}

// TestTheRodAlone: without the brine nothing pushes the rod, which is asked about, and it stands.
func TestTheRodAlone(t *testing.T) {
	d := demo(t, "sluice-rod")
	for _, id := range []string{"c1", "c2", "c3", "c4"} {
		off(t, d, id)
	}
	d.Readings = d.Readings[2:3]
	o := settle(t, d)
	assert.Zero(t, o.Readings[0].Value)
	assert.Contains(t, strings.Join(o.Warnings, " "), "nothing flows that could push in c7")
}
