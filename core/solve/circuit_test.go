package solve

import (
	"fmt"
	"math"
	"math/cmplx"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// fed is the solenoid of [inSolenoid] with turns that a voltage feeds, and its inductance, H.
func fed(kind, volts, ohms string) (*model.Document, float64) {
	d := inSolenoid(kind, "nothing", "0 A")
	d.Conditions[0] = model.Sentence{ID: "c1", Kind: "magnetic.fed", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "50", "voltage": volts, "resistance": ohms}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "magnetic.current", On: model.Patch{Part: "coil"}, Unit: "A"},
		{ID: "r2", Kind: "magnetic.voltage", On: model.Patch{Part: "coil"}, Unit: "V"}}
	d.Enumerate()
	const inner, thick, high, turns = 0.01, 0.002, 0.02, 50.
	linked := math.Pi * (inner*inner + 2*inner*thick/3 + thick*thick/6)
	if kind == model.Plane {
		linked = 0.1 * (inner + thick/3)
	}
	return d, vacuum * turns * turns / high * linked
}

// TestCoilsThatAreFed: the current follows from resistance and inductance, steady, in time, as response and alternating.
func TestCoilsThatAreFed(t *testing.T) {
	for _, kind := range []string{model.Plane, model.Axial} {
		d, inductance := fed(kind, "6 V", "0.5 Ω")
		d.Readings = append(d.Readings, model.Sentence{ID: "r3", Kind: "magnetic.inductance", On: model.Patch{Part: "coil"}, Unit: "H"}, model.Sentence{ID: "r4", Kind: "magnetic.lost", On: model.Patch{Part: "coil"}, Unit: "W"})
		d.Enumerate()
		o := settle(t, d)
		assert.InEpsilon(t, 50*12, value(t, o, "r1"), 1e-9, "each turn is counted")
		assert.InEpsilon(t, 6, value(t, o, "r2"), 1e-9)
		assert.InEpsilon(t, inductance, value(t, o, "r3"), 2e-4)
		assert.InEpsilon(t, 0.5*12*12, value(t, o, "r4"), 1e-9)

		if kind == model.Axial {
			continue
		}
		// It rises towards that as slowly as inductance and resistance let it.
		tau := inductance / 0.5
		rising, _ := fed(kind, fmt.Sprintf("6 V*ramp(time, 0 s, %g s)", tau), "0.5 Ω")
		rising.Run = model.Run{Kind: model.Transient, End: fmt.Sprintf("%g s", 2*tau), Tolerance: "1e-4"}
		o = settle(t, rising)
		at := func(x float64) float64 { return x - 1 + math.Exp(-x) }
		assert.InEpsilon(t, 600*(at(2)-at(1)), value(t, o, "r1"), 1e-3)

		omega := 1 / tau
		want := 600 / cmplx.Abs(complex(1, 1))
		d, _ = fed(kind, "6 V", "0.5 Ω")
		d.Conditions = append(d.Conditions, model.Sentence{ID: "a", Kind: "magnetic.alternates", Values: map[string]string{"frequency": fmt.Sprintf("%g Hz", omega/(2*math.Pi))}})
		d.Enumerate()
		o = settle(t, d)
		assert.InEpsilon(t, want, value(t, o, "r1"), 2e-4)
		assert.InEpsilon(t, 6, value(t, o, "r2"), 1e-9)

		d, _ = fed(kind, "100 V + 6 V*swing", "0.5 Ω")
		d.Readings = append(d.Readings, model.Sentence{ID: "r4", Kind: "magnetic.lost", On: model.Patch{Part: "coil"}, Unit: "W"})
		hertz := fmt.Sprintf("%g Hz", omega/(2*math.Pi))
		d.Run = model.Run{Kind: model.Response, Lowest: hertz, Highest: hertz, Count: "1"}
		o = settle(t, d)
		assert.InEpsilon(t, want, value(t, o, "r1"), 2e-4, "of what swings the amplitude, without what is steady")
		assert.InEpsilon(t, 6, value(t, o, "r2"), 1e-9)
		assert.InEpsilon(t, 0.5*want*want/2500/2, value(t, o, "r4"), 4e-4)
	}
}

// TestCurrentInAll: a wire carries what is given, at a voltage and with a power by how it spreads; one with none in all closes its
// currents within.
func TestCurrentInAll(t *testing.T) {
	// A plate that goes round the axis: the current is as 1/r.
	d := inSolenoid(model.Axial, "nothing", "0 A")
	d.Parts[1].Material = "copper"
	d.Conditions[0] = model.Sentence{ID: "c1", Kind: "magnetic.total", On: model.Patch{Part: "coil"}, Values: map[string]string{"current": "40 A"}}
	d.Readings = []model.Sentence{
		{ID: "r1", Kind: "magnetic.current", On: model.Patch{Part: "coil"}, Unit: "A"},
		{ID: "r2", Kind: "magnetic.voltage", On: model.Patch{Part: "coil"}, Unit: "V"},
		{ID: "r3", Kind: "magnetic.lost", On: model.Patch{Part: "coil"}, Unit: "W"}}
	d.Enumerate()
	o := settle(t, d)
	volts := 40 * 2 * math.Pi * 2e-8 / (0.02 * math.Log(12./10))
	assert.InEpsilon(t, 40, value(t, o, "r1"), 1e-9)
	assert.InEpsilon(t, volts, value(t, o, "r2"), 1e-6)
	assert.InEpsilon(t, 40*volts, value(t, o, "r3"), 1e-6)

	// Skin in a round wire: impedance of a metre by Bessel functions. Within an outer circle that keeps the flux, there is the field outside, too.
	const radius, out, sigma, hertz = 0.002, 0.01, 1 / 2e-8, 30e3
	omega := 2 * math.Pi * hertz
	k := cmplx.Sqrt(complex(0, -omega*vacuum*sigma))
	j0, j1, term := complex(0, 0), complex(0, 0), complex(1, 0) // series in (ka/2)²
	x := k * radius / 2
	for n := range 60 {
		m := complex(float64(n), 0)
		j0 += term
		j1 += term * x / (m + 1)
		term *= -x * x / ((m + 1) * (m + 1))
	}
	z := k/(2*math.Pi*radius*sigma)*j0/j1 + complex(0, omega*vacuum/(2*math.Pi)*math.Log(out/radius))
	wire := magnetic(model.Plane, "1 mm", disc("out", "nothing", 0, 0, 10), disc("wire", "copper", 0, 0, 2))
	wire.Space.Depth = "1 m"
	wire.Materials = d.Materials
	wire.Mesh.Walls = []model.MeshWall{{On: model.Patch{Part: "wire", Side: "*"}, First: "0.05 mm", Count: "8", Growth: "1.2"}}
	wire.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "wire", Side: "*"}, Size: "0.4 mm"}}
	wire.Conditions = []model.Sentence{{ID: "c1", Kind: "magnetic.total", On: model.Patch{Part: "wire"}, Values: map[string]string{"current": "40 A"}},
		{ID: "a", Kind: "magnetic.alternates", Values: map[string]string{"frequency": "30 kHz"}}}
	wire.Readings = []model.Sentence{
		{ID: "r1", Kind: "magnetic.current", On: model.Patch{Part: "wire"}, Unit: "A"},
		{ID: "r2", Kind: "magnetic.voltage", On: model.Patch{Part: "wire"}, Unit: "V"},
		{ID: "r3", Kind: "magnetic.lost", On: model.Patch{Part: "wire"}, Unit: "W"}}
	wire.Enumerate()
	o = settle(t, wire)
	assert.InEpsilon(t, 40, value(t, o, "r1"), 1e-8)
	assert.InEpsilon(t, 40*cmplx.Abs(z), value(t, o, "r2"), 1e-3)
	assert.InEpsilon(t, 800*real(z), value(t, o, "r3"), 2e-3)

	// Where nothing is said of cells within, layers as thin as the depth needs lie along its side.
	open := wire.Clone()
	open.Mesh = model.Mesh{Size: "1 mm"}
	layered := settle(t, open)
	assert.InEpsilon(t, 40*cmplx.Abs(z), value(t, layered, "r2"), 1e-2)
	assert.InEpsilon(t, 800*real(z), value(t, layered, "r3"), 2e-2)
	assert.NotContains(t, strings.Join(layered.Warnings, " "), "are thicker than half")

	// As a response it is the same.
	swung := wire.Clone()
	swung.Conditions = swung.Conditions[:1]
	swung.Conditions[0].Values["current"] = "7 A + 40 A*swing"
	swung.Run = model.Run{Kind: model.Response, Lowest: "30 kHz", Highest: "30 kHz", Count: "1"}
	again := settle(t, swung)
	for _, r := range []string{"r1", "r2", "r3"} {
		assert.InEpsilon(t, value(t, o, r), value(t, again, r), 1e-6, r)
	}

	// Two wires that alternate: a third one between has none in all, though it has currents that are lost.
	pair := magnetic(model.Plane, "2 mm", disc("out", "nothing", 0, 0, 30), disc("go", "nothing", -6, 0, 2), box("strip", "copper", -2, -4, 2, 4))
	pair.Materials = d.Materials
	pair.Conditions = []model.Sentence{{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "go"}, Values: map[string]string{"turns": "1", "current": "100 A"}},
		{ID: "c2", Kind: "magnetic.total", On: model.Patch{Part: "strip"}, Values: map[string]string{"current": "0 A"}},
		{ID: "a", Kind: "magnetic.alternates", Values: map[string]string{"frequency": "1 kHz"}}}
	pair.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.current", On: model.Patch{Part: "strip"}, Unit: "A"}, {ID: "r3", Kind: "magnetic.lost", On: model.Patch{Part: "strip"}, Unit: "W"}}
	pair.Enumerate()
	o = settle(t, pair)
	none, closes := value(t, o, "r1"), value(t, o, "r3")
	assert.Less(t, math.Abs(none), 1e-6)
	pair.Conditions[1] = model.Sentence{ID: "c2", Kind: "magnetic.driven", On: model.Patch{Part: "strip"}}
	o = settle(t, pair)
	assert.Greater(t, value(t, o, "r1"), 10., "currents that close far away are more")
	assert.Greater(t, value(t, o, "r3"), closes)
}

// TestCurrentsInAllWarm: what conductors and turns lose in time is what their surroundings take up.
func TestCurrentsInAllWarm(t *testing.T) {
	d := inSolenoid(model.Axial, "copper", "0 A")
	d.Parts[2].Material = "copper"
	for i := range d.Materials {
		d.Materials[i].Properties[material.Conductivity] = material.Property{Value: "400 W/(m·K)"}
		d.Materials[i].Properties[material.HeatCapacity] = material.Property{Value: "400 J/(kg·K)"}
		d.Materials[i].Properties[material.Density] = material.Property{Value: "9000 kg/m³"}
	}
	d.Physics = []model.Physics{{Kind: "heat"}}
	d.Mesh.Order = "1"
	d.Run = model.Run{Kind: model.Transient, End: "10 ms", Start: "20 °C", Tolerance: "1e-3"}
	d.Conditions[0] = model.Sentence{ID: "c1", Kind: "magnetic.fed", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "50", "voltage": "6 V*ramp(time, 0 s, 1 ms)", "resistance": "0.5 Ω"}}
	d.Conditions = append(d.Conditions, model.Sentence{ID: "c9", Kind: "magnetic.total", On: model.Patch{Part: "out"}, Values: map[string]string{"current": "400 A"}}, model.Sentence{ID: "e", Kind: "magnetic.driven", On: model.Patch{Part: "core"}})
	for i, part := range []string{"core", "coil", "out"} {
		d.Readings = append(d.Readings, model.Sentence{ID: fmt.Sprintf("r%d", i), Kind: "magnetic.lost", On: model.Patch{Part: part}, Unit: "W"}, model.Sentence{ID: "over" + part, Kind: "formula", Values: map[string]string{"formula": fmt.Sprintf("total(r%d over time)", i)}})
	}
	d.Readings = append(d.Readings, model.Sentence{ID: "heat", Kind: "formula", Values: map[string]string{"formula": "total(temperature - 20 °C over core) + total(temperature - 20 °C over coil) + total(temperature - 20 °C over out)"}})
	d.Enumerate()
	o := settle(t, d)
	sum := 0.
	for _, part := range []string{"core", "coil", "out"} {
		of := value(t, o, "over"+part)
		assert.Positive(t, of, part)
		sum += of
	}
	assert.InEpsilon(t, sum, 9000*400*value(t, o, "heat"), 1e-2)

	d.Conditions = append(d.Conditions, model.Sentence{ID: "again", Kind: "magnetic.coil", On: model.Patch{Part: "coil"}, Values: map[string]string{"turns": "1", "current": "1 A"}})
	d.Enumerate()
	_, err := Run(t.Context(), d, Options{})
	require.ErrorContains(t, err, "both say what current the coil carries")
}

// TestConductorsThatMove: a plate that moves across the field of turns beside it drags that along, as exp(µσv·x); round an axis a long
// tube that moves along a field drives nothing, and one that moves through that of a ring of turns is held back.
func TestConductorsThatMove(t *testing.T) {
	const long, speed = 0.02, 2.
	d := magnetic(model.Plane, "2 mm", box("plate", "copper", 0, 0, 20, 10), box("turns", "nothing", 20, 0, 22, 10))
	d.Materials = append(d.Materials, material.Material{Name: "copper", Family: "metal", Properties: map[material.Key]material.Property{
		material.Permeability: {Value: "1"}, material.Resistivity: {Value: "2e-8 Ω·m"}}})
	d.Conditions = []model.Sentence{
		{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "turns"}, Values: map[string]string{"turns": "100", "current": "2 A"}},
		{ID: "c2", Kind: "magnetic.moves", On: model.Patch{Part: "plate"}, Values: map[string]string{"x": fmt.Sprintf("%g m/s", speed)}},
		{ID: "c3", Kind: "magnetic.crosses", On: model.Patch{Part: "turns", Side: "right"}}}
	for _, part := range []string{"plate", "turns"} {
		for _, side := range []string{"front", "back"} {
			d.Conditions = append(d.Conditions, model.Sentence{ID: part + side, Kind: "magnetic.crosses", On: model.Patch{Part: part, Side: side}})
		}
	}
	d.Readings = []model.Sentence{{ID: "r1", Kind: "formula", Values: map[string]string{"formula": "at(field_strength_y, 10 mm, 5 mm, 0 mm)"}},
		{ID: "r2", Kind: "magnetic.current", On: model.Patch{Part: "plate"}, Unit: "A"},
		{ID: "r3", Kind: "magnetic.lost", On: model.Patch{Part: "plate"}, Unit: "W"}}
	d.Enumerate()
	o := settle(t, d)
	by := vacuum / 2e-8 * speed
	h := -100 * 2 / 0.01
	assert.InEpsilon(t, h*math.Exp(-by*long/2), value(t, o, "r1"), 1e-3)
	assert.InEpsilon(t, h*(1-math.Exp(-by*long))*0.01, value(t, o, "r2"), 1e-3)
	lost := 0.1 * 0.01 * 2e-8 * h * h * by / 2 * (1 - math.Exp(-2*by*long))
	assert.InEpsilon(t, lost, value(t, o, "r3"), 1e-3)
	assert.Empty(t, o.Warnings)
	swung := d.Clone()
	swung.Run = model.Run{Kind: model.Response, Lowest: "0.001 Hz", Highest: "0.001 Hz", Count: "1"}
	swung.Conditions[1].Values["x"] = "2 m/s + 0.1 m/s*swing"
	_, err := Run(t.Context(), swung, Options{})
	require.ErrorContains(t, err, "not in the velocity of c2")
	d.Conditions[1].Values["x"] = "500 m/s"
	fast, err := Run(t.Context(), d, Options{})
	require.NoError(t, err)
	assert.Contains(t, fast.Warnings[0], "moves so fast that the field in it may swing")

	ring := magnetic(model.Axial, "3 mm", box("out", "nothing", 0, -90, 60, 90), box("turns", "nothing", 16, -3, 20, 3), box("tube", "copper", 8, -90, 12, 90))
	ring.Materials = d.Materials
	ring.Conditions = []model.Sentence{
		{ID: "c1", Kind: "magnetic.coil", On: model.Patch{Part: "turns"}, Values: map[string]string{"turns": "100", "current": "20 A"}},
		{ID: "c2", Kind: "magnetic.moves", On: model.Patch{Part: "tube"}, Values: map[string]string{"y": "3 m/s"}}}
	ring.Readings = []model.Sentence{{ID: "r1", Kind: "magnetic.force", On: model.Patch{Part: "turns"}, Values: map[string]string{"axis": "y"}, Unit: "N"},
		{ID: "r2", Kind: "magnetic.lost", On: model.Patch{Part: "tube"}, Unit: "W"}}
	ring.Mesh.Near = []model.MeshNear{{On: model.Patch{Part: "turns", Side: "*"}, Size: "0.5 mm"}}
	ring.Enumerate()
	o = settle(t, ring)
	assert.Positive(t, value(t, o, "r1"), "it drags the turns along")
	assert.InEpsilon(t, 3*value(t, o, "r1"), value(t, o, "r2"), 1e-2, "what pulling takes is lost")
	ring.Conditions[1].Values["x"] = "1 m/s"
	_, err = Run(t.Context(), ring, Options{})
	require.ErrorContains(t, err, "moves along y alone")
}
