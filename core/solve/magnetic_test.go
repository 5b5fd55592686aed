package solve

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

const vacuum = 4e-7 * math.Pi // H/m, to ten digits

// magnetic is a section with parts of these materials: as air, a linear iron of 1000, and a magnet of 1.2 T.
func magnetic(kind, size string, parts ...model.Part) *model.Document {
	d := model.New("magnetic")
	d.Space = model.Space{Kind: kind, Unit: "mm"}
	if kind == model.Plane {
		d.Space.Depth = "100 mm"
	}
	d.Physics = nil
	stuff := func(name string, properties map[material.Key]material.Property) {
		d.Materials = append(d.Materials, material.Material{Name: name, Family: "metal", Properties: properties})
	}
	stuff("nothing", map[material.Key]material.Property{material.Permeability: {Value: "1"}})
	stuff("iron", map[material.Key]material.Property{material.Permeability: {Value: "1000"}})
	stuff("magnet", map[material.Key]material.Property{material.Remanence: {Value: "1.2 T"}})
	d.Parts = parts
	d.Mesh = model.Mesh{Size: size, Across: "2", Order: "2"}
	return d
}

// box is a rectangle from a corner to another, mm.
func box(id, stuff string, x0, y0, x1, y1 float64) model.Part {
	mm := func(v float64) string { return fmt.Sprintf("%.10g mm", v) }
	return model.Part{ID: id, Name: id, Material: stuff, Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: mm(x1 - x0), Depth: mm(y1 - y0)}, Place: model.Place{X: mm((x0 + x1) / 2), Y: mm((y0 + y1) / 2)}}
}

// inSolenoid is what is within a piece of a long solenoid of 10 mm radius and 20 mm height with 50 turns, between planes that flux
// crosses.
func inSolenoid(kind, stuff, current string) *model.Document {
	d := magnetic(kind, "2 mm", box("core", stuff, 0, 0, 10, 20), box("coil", "nothing", 10, 0, 12, 20), box("out", "nothing", 12, 0, 30, 20))
	d.Materials = append(d.Materials, material.Material{Name: "copper", Family: "metal", Properties: map[material.Key]material.Property{
		material.Permeability: {Value: "1"}, material.Resistivity: {Value: "2e-8 Ω·m"}}})
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "50", "current": current}},
		{ID: "c2", Kind: "magnetic.crosses", On: model.Patch{Part: "out", Side: "right"}}}
	for _, part := range []string{"core", "coil", "out"} {
		for _, side := range []string{"front", "back"} {
			d.Conditions = append(d.Conditions, model.Sentence{ID: part + side, Kind: "magnetic.crosses", On: model.Patch{Part: part, Side: side}})
		}
	}
	return d
}

// TestALongSolenoid: within it the field is n·I, outside none, in a plane and round an axis; inductance and energy are exact, and
// energy is half of linkage times current.
func TestALongSolenoid(t *testing.T) {
	const turns, current, high, inner, thick = 50., 3., 0.02, 0.01, 0.002
	for _, kind := range []string{model.Plane, model.Axial} {
		sign, area, exact := 1., math.Pi*inner*inner, 2e-4       // 1/r² is no polynomial
		linked := area + math.Pi*(2*inner*thick/3+thick*thick/6) // the field falls evenly within the turns
		if kind == model.Plane {
			sign, area, exact = -1, 0.1*inner, 1e-8 // towards the viewer on the right of the core it makes a field along −y
			linked = 0.1 * (inner + thick/3)
		}
		d := inSolenoid(kind, "nothing", fmt.Sprintf("%g A", sign*current))
		d.Readings = []model.Sentence{
			{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 5 mm, 10 mm, 0 mm)"}},
			{ID: "r2", Kind: "magnetic.flux", On: model.Patch{Part: "core", Side: "back"}, Unit: "Wb"},
			{ID: "r3", Kind: "magnetic.linkage", On: model.Patch{Part: "coil"}, Unit: "Wb"},
			{ID: "r4", Kind: "magnetic.inductance", On: model.Patch{Part: "coil"}, Unit: "H"},
			{ID: "r5", Kind: "formula", Values: map[string]string{"formula": "total(field_energy over core) + total(field_energy over coil) + total(field_energy over out)"}},
			{ID: "r6", Kind: "magnetic.energy", On: model.Patch{Part: "out"}, Unit: "J"}}
		d.Enumerate()
		o := settle(t, d)
		b := vacuum * turns / high * current
		assert.InEpsilon(t, b, value(t, o, "r1"), exact, kind)
		assert.InEpsilon(t, b*area, value(t, o, "r2"), exact)
		assert.InEpsilon(t, sign*turns*b*linked, value(t, o, "r3"), exact)
		assert.InEpsilon(t, turns*b*linked/current, value(t, o, "r4"), exact)
		assert.InEpsilon(t, sign*current*value(t, o, "r3")/2, value(t, o, "r5"), 1e-8)
		assert.Less(t, value(t, o, "r6"), exact*value(t, o, "r5"))
	}
}

// disc is a circle, mm, in the axes of a section.
func disc(id, stuff string, x, y, radius float64) model.Part {
	p := box(id, stuff, x-radius, y-radius, x+radius, y+radius)
	p.Outline = model.Outline{Kind: "disc", Diameter: fmt.Sprintf("%g mm", 2*radius)}
	return p
}

// TestTwoWires with currents against each other push each other away by µ₀I²L/(2πd), where open space is five times as far off.
func TestTwoWires(t *testing.T) {
	d := magnetic(model.Plane, "20 mm", disc("out", "nothing", 0, 0, 100), disc("left", "nothing", -10, 0, 2), disc("right", "nothing", 10, 0, 2))
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "left"}, Values: map[string]string{"turns": "1", "current": "100 A"}},
		{ID: "c2", Kind: "magnetic.coil", On: model.Patch{Part: "right"}, Values: map[string]string{"turns": "1", "current": "-100 A"}},
		{ID: "c3", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "rim"}}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "right"}, Values: map[string]string{"axis": "x"}, Unit: "N"},
		{ID: "r2", Kind: "magnetic.force", On: model.Patch{Part: "left"}, Values: map[string]string{"axis": "x"}, Unit: "N"},
		{ID: "r3", Kind: "magnetic.torque", On: model.Patch{Part: "right"}, Values: map[string]string{"py": "10 mm"}, Unit: "N·m"}}
	d.Enumerate()
	o := settle(t, d)
	want := vacuum * 100 * 100 * 0.1 / (2 * math.Pi * 0.02)
	assert.InEpsilon(t, want, value(t, o, "r1"), 5e-3)
	assert.InEpsilon(t, -want, value(t, o, "r2"), 5e-3)
	assert.InEpsilon(t, want*0.01, value(t, o, "r3"), 1e-2, "a push along x below the line turns to the left")
}

// TestForceIsWhatTheEnergyLoses: a magnet and a plate of iron pull each other with what the energy of the field falls by for a little
// less of the gap between them, in a plane and round an axis.
func TestForceIsWhatTheEnergyLoses(t *testing.T) {
	for _, kind := range []string{model.Plane, model.Axial} {
		at := func(gap float64) (force, energy float64) {
			d := magnetic(kind, "4 mm", box("out", "nothing", 0, -40, 50, 60), box("magnet", "magnet", 0, 0, 10, 10), box("plate", "iron", 0, 10+gap, 14, 13+gap))
			d.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "plate", Side: "*"}, Size: "0.5 mm"}, {On: model.Patch{Part: "magnet", Side: "*"}, Size: "0.5 mm"}}
			d.Conditions = []model.Sentence{
				{ID: "c1", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"y": "1"}}}
			d.Readings = []model.Sentence{
				{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "plate"}, Values: map[string]string{"axis": "y"}, Unit: "N"},
				{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "total(field_energy over out) + total(field_energy over magnet) + total(field_energy over plate)"}},
				{ID: "r3", Kind: "magnetic.force", On: model.Patch{Part: "magnet"}, Values: map[string]string{"axis": "y"}, Unit: "N"}}
			d.Enumerate()
			o := settle(t, d)
			assert.InEpsilon(t, -value(t, o, "r1"), value(t, o, "r3"), 0.02, "what one feels the other does")
			require.NotNil(t, o.Readings[0].Again)
			assert.InEpsilon(t, value(t, o, "r1"), *o.Readings[0].Again, 0.03, "by the stress a cell farther out")
			assert.Contains(t, o.Readings[0].Trust(), "N by the stress of the field")
			return value(t, o, "r1"), value(t, o, "r2")
		}
		force, _ := at(2)
		_, less := at(1.8)
		_, more := at(2.2)
		assert.InEpsilon(t, -(more-less)/0.4e-3, force, 2e-3, kind)
	}
}

// TestRoundsUntilTheForceRests: cells become finer where the flux density is least exact, until the pull changes by less than is said.
func TestRoundsUntilTheForceRests(t *testing.T) {
	d := magnetic(model.Axial, "6 mm", box("out", "nothing", 0, -40, 50, 60), box("magnet", "magnet", 0, 0, 10, 10), box("plate", "iron", 0, 11, 14, 14))
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"y": "1"}}}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "plate"}, Values: map[string]string{"axis": "y"}, Unit: "N"}}
	d.Enumerate()
	fine := d.Clone()
	fine.Mesh.Size, fine.Mesh.Growth = "2 mm", "1.2"
	fine.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "plate", Side: "*"}, Size: "0.1 mm"}, {On: model.Patch{Part: "magnet", Side: "*"}, Size: "0.1 mm"}}
	want := value(t, settle(t, fine), "r1")
	set(t, d, "mesh/rounds", "8", "mesh/error", "0.1 %", "mesh/change", "1 %")
	o := settle(t, d)
	rounds := o.Mesh.Rounds
	last := len(rounds) - 1
	require.Positive(t, last)
	require.Less(t, last, 8)
	assert.InEpsilon(t, rounds[last-1].Readings["r1"], rounds[last].Readings["r1"], 0.01)
	assert.Equal(t, value(t, o, "r1"), rounds[last].Readings["r1"])
	for i := 1; i < last; i++ {
		assert.Greater(t, math.Abs(rounds[i].Readings["r1"]/rounds[i-1].Readings["r1"]-1), 0.01, "it ends when it may")
	}
	assert.InEpsilon(t, want, value(t, o, "r1"), 0.01)
}

// TestAPathThatClosesBeyond: a magnet, a gap and iron between two planes that flux crosses carry the flux of a path that closes without
// loss, also where what keeps it within is in pieces, in all spaces alike.
func TestAPathThatClosesBeyond(t *testing.T) {
	const want = 1.2 * 10 / (10 + 2 + 10./1000)
	for _, kind := range []string{model.Plane, model.Axial, model.Solid} {
		d := magnetic(kind, "5 mm", box("magnet", "magnet", 0, 0, 20, 10), box("gap", "nothing", 0, 10, 20, 12), box("iron", "iron", 0, 12, 20, 22))
		north, low, high := "y", "front", "back"
		area := 0.1 * 0.02
		switch kind {
		case model.Axial:
			area = math.Pi * 0.02 * 0.02
		case model.Solid:
			north, low, high, area = "z", "bottom", "top", 0.02*0.02
			for i, span := range []model.Span{{From: "0 mm", To: "10 mm"}, {From: "10 mm", To: "12 mm"}, {From: "12 mm", To: "22 mm"}} {
				d.Parts[i].Span, d.Parts[i].Outline.Depth, d.Parts[i].Place.Y = span, "20 mm", "10 mm"
			}
		}
		d.Conditions = []model.Sentence{{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{north: "1"}},
			{ID: "l", Kind: "magnetic.crosses", On: model.Patch{Part: "magnet", Side: low}}, {ID: "h", Kind: "magnetic.crosses", On: model.Patch{Part: "iron", Side: high}}}
		d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "iron"}, Values: map[string]string{"axis": north}, Unit: "N"},
			{ID: "r2", Kind: "magnetic.flux", On: model.Patch{Part: "iron", Side: high}, Unit: "Wb"},
			{ID: "r3", Kind: "formula", Values: map[string]string{"formula": "greatest(opposing_field over magnet)"}},
			{ID: "r4", Kind: "formula", Values: map[string]string{"formula": "mean(permeability_at_work over iron)"}}}
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, want*area, value(t, o, "r2"), 1e-9, kind)
		assert.InEpsilon(t, -want*want*area/(2*vacuum), value(t, o, "r1"), 1e-9, kind)
		assert.InEpsilon(t, value(t, o, "r1"), *o.Readings[0].Again, 1e-9, kind)
		assert.InEpsilon(t, (1.2-want)/vacuum, value(t, o, "r3"), 1e-8, kind)
		assert.InEpsilon(t, 1000, value(t, o, "r4"), 1e-8, kind)
	}
}

// TestIronRound a wire: the field strength is that of the wire whatever the iron does, and its flux density follows by its curve,
// also beyond the end of that, which is warned of.
func TestIronRoundAWire(t *testing.T) {
	for _, amperes := range []float64{2, 200, 20000} {
		d := magnetic(model.Plane, "3 mm", disc("out", "nothing", 0, 0, 40), disc("ring", "steel", 0, 0, 30), disc("hole", "nothing", 0, 0, 20), disc("wire", "nothing", 0, 0, 5))
		d.Materials = append(d.Materials, material.Material{Name: "steel", Family: "metal", Properties: map[material.Key]material.Property{
			material.Magnetisation: {Value: "pi*4e-7 T·m/A*field + 2 T*tanh(field/(500 A/m))", From: "0 A/m", To: "50 kA/m"}}})
		d.Conditions = []model.Sentence{{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "wire"}, Values: map[string]string{"turns": "1", "current": fmt.Sprintf("%g A", amperes)}}}
		d.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 25 mm, 0 mm, 0 mm)"}},
			{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 15 mm, 0 mm, 0 mm)"}},
			{ID: "r3", Kind: "formula", Values: map[string]string{"formula": "at(field_coenergy, 25 mm, 0 mm, 0 mm)"}}}
		d.Enumerate()
		o := settle(t, d)
		h := amperes / (2 * math.Pi * 0.025)
		want := vacuum*h + 2*math.Tanh(h/500)
		if last := 50e3; h > last {
			want = vacuum*h + 2*math.Tanh(last/500)
			assert.Contains(t, strings.Join(o.Warnings, " "), "beyond its curve")
		} else {
			assert.NotContains(t, strings.Join(o.Warnings, " "), "beyond its curve")
			assert.InEpsilon(t, vacuum*h*h/2+2*500*math.Log(math.Cosh(h/500)), value(t, o, "r3"), 0.02, "the area under its curve")
		}
		assert.InEpsilon(t, want, value(t, o, "r1"), 5e-3, "%g A", amperes)
		assert.InEpsilon(t, vacuum*amperes/(2*math.Pi*0.015), value(t, o, "r2"), 5e-3)
	}
}

// TestCurrentsThatAFieldDrives: what they turn into heat while a field comes up is as the modes say by which it enters; over
// frequencies cells that are too thick for how deep they go are warned of; without them nothing moves, and nothing is lost.
func TestCurrentsThatAFieldDrives(t *testing.T) {
	d := inSolenoid(model.Axial, "copper", "3 A*ramp(time, 0 s, 1 ms)")
	d.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "core", Side: "right"}, Size: "0.3 mm"}}
	d.Conditions = append(d.Conditions, model.Sentence{ID: "e", Kind: "magnetic.driven", On: model.Patch{Part: "core"}})
	d.Run = model.Run{Kind: model.Transient, End: "12 ms"}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.lost", On: model.Patch{Part: "core"}, Unit: "W"},
		{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "total(r1 over time)"}},
		{ID: "r3", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 1 mm, 10 mm, 0 mm)"}}}
	d.Enumerate()
	o := settle(t, d)
	b, want := vacuum*50/0.02*3, 0.
	for n := range 200 { // what is missing of the field falls off by modes with the zeros j of J₀, each with 4/j² of it
		j := (float64(n) + 0.75) * math.Pi
		for range 5 {
			j += math.J0(j) / math.J1(j)
		}
		x := j * j / (vacuum / 2e-8 * 0.01 * 0.01) * 1e-3
		want += 4 / (j * j) * 2 * (x - 1 + math.Exp(-x)) / (x * x) * b * b / (2 * vacuum) * math.Pi * 0.01 * 0.01 * 0.02
	}
	assert.InEpsilon(t, b, value(t, o, "r3"), 1e-4)
	assert.InEpsilon(t, want, value(t, o, "r2"), 5e-3)
	// A run that goes on from the middle of that, with the current as it was then, loses what the other one still lost from there on.
	d.Run.End, d.Conditions[0].Values["current"] = "1 ms", "3 A*ramp(time, 0 s, 1 ms)"
	half, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	d.Run, d.Conditions[0].Values["current"] = model.Run{Kind: model.Transient, End: "11 ms", From: "1"}, "3 A"
	rest, err := Run(t.Context(), d, from(half))
	require.NoError(t, err)
	assert.InEpsilon(t, value(t, o, "r2"), value(t, half, "r2")+value(t, rest, "r2"), 5e-3)

	d.Run = model.Run{Kind: model.Response, Lowest: "50 Hz", Highest: "5 kHz", Count: "3"}
	d.Conditions[0].Values["current"] = "3 A*swing"
	d.Readings = d.Readings[:1]
	d.Mesh.Near = nil
	o = settle(t, d)
	assert.Contains(t, strings.Join(o.Notes, " "), "currents go 1.01\u00a0mm deep into the core")
	assert.Contains(t, strings.Join(o.Warnings, " "), "% of the surface of the core cells are thicker than")
	d.Mesh.Walls = []model.MeshWall{{On: model.Patch{Part: "core", Side: "right"}, First: "0.3 mm", Count: "5", Growth: "1.2"}}
	assert.Empty(t, settle(t, d).Warnings)

	// What is lost comes in through the coil, of which the flux is late by as much.
	d.Run.Lowest, d.Run.Highest, d.Run.Count = "5 kHz", "5 kHz", "1"
	d.Readings = append(d.Readings, model.Sentence{ID: "r2", Kind: "magnetic.linkage", On: model.Patch{Part: "coil"}, Unit: "Wb"},
		model.Sentence{ID: "r3", Kind: "body.phase", Values: map[string]string{"reading": "r2"}})
	o = settle(t, d)
	assert.InEpsilon(t, value(t, o, "r1"), -math.Pi*5e3*3*value(t, o, "r2")*math.Sin(value(t, o, "r3")), 1e-6)
	d.Readings = d.Readings[:1]

	d.Conditions = d.Conditions[:len(d.Conditions)-1]
	_, err = Run(t.Context(), d, Options{})
	assert.ErrorContains(t, err, "nothing in the model moves by itself")
	d.Run = model.Run{}
	d.Conditions[0].Values["current"] = "3 A"
	o, err = Run(t.Context(), d, Options{})
	require.NoError(t, err)
	assert.Contains(t, o.Readings[0].Missing, "nothing drives currents")
}

// TestWhatIsWrongWithAMagneticModel is said, with what mends it.
func TestWhatIsWrongWithAMagneticModel(t *testing.T) {
	says := func(change func(d *model.Document), words string) {
		t.Helper()
		d := inSolenoid(model.Plane, "magnet", "3 A")
		d.Conditions = append(d.Conditions, model.Sentence{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "core"}, Values: map[string]string{"y": "1"}})
		d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "core"}, Values: map[string]string{"axis": "y"}, Unit: "N"}}
		change(d)
		d.Enumerate()
		o, err := Run(t.Context(), d, Options{})
		if err == nil {
			assert.Contains(t, o.Readings[0].Missing, words)
			return
		}
		assert.ErrorContains(t, err, words)
	}
	says(func(*model.Document) {}, "something else than air at some of its surface")
	says(func(d *model.Document) { d.Readings[0].Values["axis"] = "z" }, "along x or y here, not along")
	says(func(d *model.Document) { delete(d.Conditions[len(d.Conditions)-1].Values, "y") }, "nothing says where the north of the magnet")
	says(func(d *model.Document) { d.Conditions[len(d.Conditions)-1].On.Part = "out" }, "remanence")
	says(func(d *model.Document) {
		d.Conditions = append(d.Conditions, model.Sentence{ID: "l", Kind: "magnetic.crosses", On: model.Patch{Part: "core", Side: "left"}})
	}, "nothing says where its potential is nothing")
}

// TestCoilsActOnEachOtherAlike: the flux that one holds of the other does not depend on which of them has the current, with iron by
// them.
func TestCoilsActOnEachOtherAlike(t *testing.T) {
	linked := func(from, to string) float64 {
		d := magnetic(model.Axial, "4 mm", box("out", "nothing", 0, -40, 50, 60), box("one", "nothing", 5, 0, 8, 10), box("two", "nothing", 12, 15, 14, 20), box("yoke", "iron", 0, -5, 4, 18))
		d.Conditions = []model.Sentence{{ID: "c0", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "right"}}}
		for i, part := range []string{"one", "two"} {
			current := "0 A"
			if part == from {
				current = "2 A"
			}
			d.Conditions = append(d.Conditions, model.Sentence{ID: part, Kind: "magnetic.coil", On: model.Patch{Part: part}, Values: map[string]string{"turns": []string{"30", "100"}[i], "current": current}})
		}
		d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.linkage", On: model.Patch{Part: to}, Unit: "Wb"}}
		d.Enumerate()
		return value(t, settle(t, d), "r1")
	}
	assert.InEpsilon(t, linked("one", "two"), linked("two", "one"), 1e-9)
}

// TestMagnetsInSpace: what a section says of the pull of a magnet, a solid space says too, from the other side.
func TestMagnetsInSpace(t *testing.T) {
	flat := magnetic(model.Axial, "3 mm", box("out", "nothing", 0, -20, 25, 30), box("magnet", "magnet", 0, 0, 8, 6), box("plate", "iron", 0, 8, 10, 10))
	flat.Conditions = []model.Sentence{{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"y": "1"}},
		{ID: "o", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "*"}}}
	flat.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "plate", Side: "*"}, Size: "0.6 mm"}}
	flat.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "plate"}, Values: map[string]string{"axis": "y"}, Unit: "N"}}
	flat.Enumerate()
	solid := magnetic(model.Solid, "3 mm", disc("out", "nothing", 0, 0, 25), disc("magnet", "magnet", 0, 0, 8), disc("plate", "iron", 0, 0, 10))
	for i, span := range []model.Span{{From: "-20 mm", To: "30 mm"}, {From: "0 mm", To: "6 mm"}, {From: "8 mm", To: "10 mm"}} {
		solid.Parts[i].Span = span
	}
	solid.Space.Cuts = []model.Cut{{Across: "x", At: "0 mm", Keep: "greater"}, {Across: "y", At: "0 mm", Keep: "greater"}}
	solid.Conditions = []model.Sentence{{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "magnet"}, Values: map[string]string{"z": "1"}},
		{ID: "o", Kind: "magnetic.open", On: model.Patch{Part: "out", Side: "*"}}}
	solid.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "plate", Side: "*"}, Size: "1.2 mm"}}
	solid.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "plate"}, Values: map[string]string{"axis": "z"}, Unit: "N"}}
	solid.Enumerate()
	want := value(t, settle(t, flat), "r1")
	assert.InEpsilon(t, want, 4*value(t, settle(t, solid), "r1"), 0.02)
}

// TestCurrentsThatAlternate: a steady run finds what the response has at their frequency, and what they lose warms their conductor in
// time, by as much as it takes up.
func TestCurrentsThatAlternate(t *testing.T) {
	for _, kind := range []string{model.Plane, model.Axial} {
		d := inSolenoid(kind, "copper", "3 A*swing")
		d.Mesh.Walls = []model.MeshWall{{On: model.Patch{Part: "core", Side: "right"}, First: "0.2 mm", Count: "6", Growth: "1.2"}}
		d.Conditions = append(d.Conditions, model.Sentence{ID: "e", Kind: "magnetic.driven", On: model.Patch{Part: "core"}})
		d.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.lost", On: model.Patch{Part: "core"}, Unit: "W"},
			{ID: "r2", Kind: "magnetic.inductance", On: model.Patch{Part: "coil"}, Unit: "H"}, {ID: "r3", Kind: "magnetic.linkage", On: model.Patch{Part: "coil"}, Unit: "Wb"},
			{ID: "r5", Kind: "magnetic.flux", On: model.Patch{Part: "core", Side: "back"}, Unit: "Wb"}, {ID: "r6", Kind: "magnetic.energy", On: model.Patch{Part: "core"}, Unit: "J"}}
		d.Run = model.Run{Kind: model.Response, Lowest: "5 kHz", Highest: "5 kHz", Count: "1"}
		d.Enumerate()
		want, err := Run(t.Context(), d, Options{})
		require.NoError(t, err)
		assert.Contains(t, want.Readings[4].Missing, "what swings")
		d.Run = model.Run{}
		d.Conditions[0].Values["current"] = "3 A"
		d.Conditions = append(d.Conditions, model.Sentence{ID: "a", Kind: "magnetic.alternates", Values: map[string]string{"frequency": "5 kHz"}})
		got := settle(t, d)
		for _, id := range []string{"r1", "r2", "r3", "r5"} {
			assert.InEpsilon(t, value(t, want, id), value(t, got, id), 1e-9, id)
		}

		for i := range d.Materials {
			d.Materials[i].Properties[material.Conductivity] = material.Property{Value: "400 W/(m·K)"}
			d.Materials[i].Properties[material.HeatCapacity] = material.Property{Value: "400 J/(kg·K)"}
			d.Materials[i].Properties[material.Density] = material.Property{Value: "9000 kg/m³"}
		}
		d.Physics = []model.Physics{{Kind: "heat"}}
		d.Run = model.Run{Kind: model.Transient, End: "5 s", Start: "20 °C"}
		d.Readings = append(d.Readings, model.Sentence{ID: "r4", Kind: "formula", Values: map[string]string{"formula": "total(temperature - 20 °C over core) + total(temperature - 20 °C over coil) + total(temperature - 20 °C over out)"}})
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, value(t, got, "r1"), value(t, o, "r1"), 1e-6, "nothing depends on the temperature")
		assert.InEpsilon(t, 5*value(t, got, "r1"), 9000*400*value(t, o, "r4"), 1e-3)
	}
}

// TestWarmMagnets lose remanence by the slope of their material, also where the heat in them changes in time, and beside currents that a
// field drives.
func TestWarmMagnets(t *testing.T) {
	d := inSolenoid(model.Axial, "magnet", "0 A")
	d.Materials[2].Properties[material.RemanenceSlope] = material.Property{Value: "-0.2 %/K"}
	d.Parts[2].Material = "copper"
	for i := range d.Materials {
		d.Materials[i].Properties[material.Conductivity] = material.Property{Value: "400 W/(m·K)"}
		d.Materials[i].Properties[material.HeatCapacity] = material.Property{Value: "400 J/(kg·K)"}
		d.Materials[i].Properties[material.Density] = material.Property{Value: "9000 kg/m³"}
	}
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Conditions = append(d.Conditions, model.Sentence{ID: "m", Kind: "magnetic.magnet", On: model.Patch{Part: "core"}, Values: map[string]string{"y": "1"}},
		model.Sentence{ID: "h", Kind: "heat.held", On: model.Patch{Part: "out", Side: "right"}, Values: map[string]string{"temperature": "70 °C"}})
	d.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(flux_density_y, 5 mm, 10 mm, 0 mm)"}},
		{ID: "r2", Kind: "formula", Values: map[string]string{"formula": "mean(temperature over core) - 20 °C"}}}
	d.Enumerate()
	// Between planes that flux crosses nothing opposes a magnet.
	o := settle(t, d)
	assert.InEpsilon(t, 50, value(t, o, "r2"), 1e-9)
	assert.InEpsilon(t, 1.2*(1-0.002*50), value(t, o, "r1"), 1e-4)
	d.Run = model.Run{Kind: model.Transient, End: "100 s", Start: "20 °C"}
	for _, driven := range []bool{false, true} {
		if driven {
			d.Conditions = append(d.Conditions, model.Sentence{ID: "e", Kind: "magnetic.driven", On: model.Patch{Part: "out"}})
		}
		o = settle(t, d)
		assert.InEpsilon(t, 50, value(t, o, "r2"), 1e-2)
		assert.InEpsilon(t, 1.2*(1-0.002*value(t, o, "r2")), value(t, o, "r1"), 1e-4, "driven: %v", driven)
	}
}
