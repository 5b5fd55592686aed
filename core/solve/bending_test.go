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
	"saltkettle/core/quantity"
)

// say adds conditions of the deformation of a document.
func say(d *model.Document, kind, part, side string, values ...string) {
	s := model.Sentence{ID: fmt.Sprintf("c%d", len(d.Conditions)+1), Kind: "solid." + kind, Values: map[string]string{}}
	if part != "" {
		s.On = model.Patch{Part: part, Side: side}
	}
	for i := 0; i < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	d.Conditions = append(d.Conditions, s)
}

// inquire replaces the readings of a document by formulas, and others that have a kind before a colon.
func inquire(d *model.Document, list ...string) {
	d.Readings = nil
	for i, text := range list {
		q := model.Sentence{ID: fmt.Sprintf("r%d", i+1), Kind: "formula", Values: map[string]string{"formula": text}}
		if kind, rest, ok := strings.Cut(text, ": "); ok {
			q = model.Sentence{ID: q.ID, Kind: "solid." + kind, Values: map[string]string{}}
			for n, word := range strings.Fields(rest) {
				if key, v, is := strings.Cut(word, "="); is {
					q.Values[key] = strings.ReplaceAll(v, "_", " ")
				} else if part, side, _ := strings.Cut(word, "."); n == 0 {
					q.On = model.Patch{Part: part, Side: side}
				}
			}
		}
		d.Readings = append(d.Readings, q)
	}
}

// arm is the bar of rakeArm, 60 × 20 × 10 mm, without forces and readings, its left end fixed if it is to be.
func arm(fixed bool) *model.Document {
	d := rakeArm()
	d.Conditions = d.Conditions[:1]
	if fixed {
		say(d, "fixed", "arm", "left")
	}
	return d
}

// TestSpringsHold: a bar on springs moves as these give, and they are told apart by direction; what they pull with is read.
func TestSpringsHold(t *testing.T) {
	d := arm(false)
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	say(d, "springs", "arm", "left", "x", "2 kN/mm", "y", "1 kN/mm", "z", "1 kN/mm")
	say(d, "bed", "arm", "right", "y", "1 N/mm³", "z", "2 N/mm³", "x", "0.001 N/mm³")
	say(d, "force", "arm", "right", "x", "100 N")
	inquire(d, "mean(displacement_x over arm.left)", "mean(displacement_x over arm.right)", "reaction: arm.left axis=_x_", "reaction: arm.right axis=x")
	o := settle(t, d)
	assert.InEpsilon(t, 100, -value(t, o, "r3")-value(t, o, "r4"), 1e-9)
	pulled := value(t, o, "r3")
	assert.InEpsilon(t, pulled, -2e6*value(t, o, "r1"), 1e-9)
	assert.InEpsilon(t, value(t, o, "r1")-pulled*0.06/(70e9*2e-4), value(t, o, "r2"), 1e-6)
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-9)
	}
}

// TestTorqueTwistsAndBends: what a torque does is what a pair of forces would, and what holds the other end takes it up.
func TestTorqueTwistsAndBends(t *testing.T) {
	d := arm(true)
	say(d, "torque", "arm", "right", "x", "3 N·m", "y", "2 N·m", "z", "-1 N·m")
	inquire(d, "reaction-torque: arm.left axis=x px=7_mm", "reaction-torque: arm.left axis=y", "reaction-torque: arm.left axis=z", "reaction: arm.left axis=y",
		"mean(displacement_z over arm.right)", "mean(displacement_y over arm.right)")
	o := settle(t, d)
	// About the middle of the arm as its own axis goes through y = 0, z = 5 mm: pure torques have no place.
	for i, want := range []float64{-3, -2, 1, 0} {
		assert.InDelta(t, want, value(t, o, fmt.Sprintf("r%d", i+1)), 1e-8)
	}
	bend := func(m, thick, wide float64) float64 {
		return m * 0.06 * 0.06 / (2 * 70e9 * wide * thick * thick * thick / 12)
	}
	assert.InEpsilon(t, -bend(2, 0.01, 0.02), value(t, o, "r5"), 0.03)
	assert.InEpsilon(t, bend(-1, 0.02, 0.01), value(t, o, "r6"), 0.03)
}

// TestSurfaceThatStaysAsItIs: the end of an arm that is bent moves as one, and the forces and the torque on it arrive where it
// is held.
func TestSurfaceThatStaysAsItIs(t *testing.T) {
	d := arm(true)
	say(d, "rigid", "arm", "right")
	say(d, "force", "arm", "right", "z", "-50 N", "x", "20 N")
	say(d, "torque", "arm", "right", "x", "3 N·m")
	inquire(d, "greatest(displacement_x - 0.001*z over arm.right)", "at(displacement_z, 59.9999999 mm, -9.9 mm, 9.9 mm)", "at(displacement_z, 59.9999999 mm, 0 mm, 5 mm)", "at(displacement_z, 59.9999999 mm, 9.9 mm, 0.1 mm)",
		"reaction: arm.left axis=z", "reaction: arm.left axis=x", "reaction-torque: arm.left axis=x pz=5_mm", "reaction-torque: arm.left axis=y pz=5_mm")
	o := settle(t, d)
	assert.InDelta(t, value(t, o, "r3"), (value(t, o, "r2")+value(t, o, "r4"))/2, 1e-12, "it turns as one")
	assert.InEpsilon(t, 50, value(t, o, "r5"), 1e-8)
	assert.InEpsilon(t, -20, value(t, o, "r6"), 1e-8)
	assert.InEpsilon(t, -3, value(t, o, "r7"), 1e-7)
	assert.InEpsilon(t, -50*0.06, value(t, o, "r8"), 1e-7)
	for _, b := range o.Balances {
		assert.Less(t, b.Closure, 1e-8)
	}
	large := arm(true)
	say(large, "rigid", "arm", "right")
	say(large, "large", "", "")
	assertWrong(t, large, "can turn by small angles only")
}

// two is an arm of two halves one on the other, each 5 mm thick, pressed at its end.
func two(more ...string) *model.Document {
	d := arm(false)
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	d.Parts[0].Span.To = "5 mm"
	upper := d.Parts[0]
	upper.ID, upper.Name, upper.Span = "upper", "upper arm", model.Span{From: "5 mm", To: "10 mm"}
	d.Parts = append(d.Parts, upper)
	say(d, "bends", "upper", "")
	say(d, "fixed", "arm", "left")
	say(d, "fixed", "upper", "left")
	say(d, "force", "upper", "right", "z", "-50 N")
	for _, kind := range more {
		d.Conditions = append(d.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", len(d.Conditions)+1), Kind: "solid." + kind, On: model.Patch{Part: "upper", Facing: "arm"}})
	}
	inquire(d, "mean(displacement_z over arm.right)", "mean(displacement_z over upper.right)", "mean(displacement_x over upper.right) - mean(displacement_x over arm.right)",
		"reaction: arm.left axis=z", "reaction: upper.left axis=z")
	return d
}

// TestPartsThatTouch are joined, slide along each other without parting, or are parted: two leaves that slide bend four times
// as far as one of their thickness together, and one of them alone eight times.
func TestPartsThatTouch(t *testing.T) {
	bend := func(thick float64) float64 {
		return 50*0.06*0.06*0.06/(3*70e9*0.02*thick*thick*thick/12) + 50*0.06/(5./6*35e9*0.02*thick)
	}
	joined := settle(t, two())
	assert.InEpsilon(t, -bend(0.01), value(t, joined, "r2"), 0.02)
	assert.InEpsilon(t, value(t, joined, "r1"), value(t, joined, "r2"), 1e-2)
	slid := settle(t, two("glides"))
	assert.InEpsilon(t, -bend(0.005)/2, value(t, slid, "r2"), 0.02)
	assert.InEpsilon(t, value(t, slid, "r1"), value(t, slid, "r2"), 1e-2, "they stay on each other")
	assert.InEpsilon(t, 50, value(t, slid, "r4")+value(t, slid, "r5"), 1e-8)
	assert.InEpsilon(t, 25, value(t, slid, "r4"), 0.1, "they share the force")
	parted := settle(t, two("parted"))
	assert.InEpsilon(t, -bend(0.005), value(t, parted, "r2"), 0.02)
	assert.InDelta(t, 0, value(t, parted, "r1"), 1e-12)
	for _, o := range []struct{ b float64 }{{joined.Balances[2].Closure}, {slid.Balances[2].Closure}, {parted.Balances[2].Closure}} {
		assert.Less(t, o.b, 1e-8)
	}
	// What is held by a leaf on which it slides alone could slide away.
	loose := two("glides")
	loose.Conditions = append(loose.Conditions[:3], loose.Conditions[4:]...)
	assertWrong(t, loose, "nothing holds the upper arm in all directions")
}

// TestWhatIsFreeIsSaid: the motions that nothing keeps a device from are named, with their axes.
func TestWhatIsFreeIsSaid(t *testing.T) {
	d := arm(false)
	say(d, "moved", "arm", "bottom", "z", "0 mm")
	say(d, "force", "arm", "right", "x", "1 N")
	e := assertWrong(t, d, "it could move along x, move along y, turn about z as a whole")
	require.Len(t, e.Findings[0].Motions, 3)
	assert.InDelta(t, 1, e.Findings[0].Motions[2].Turn[2], 1e-9)
	assert.InDelta(t, 0.03, e.Findings[0].Motions[2].Through[0], 1e-3)
	d = arm(false)
	say(d, "moved-slanted", "arm", "left", "x", "0 mm", "y", "0 mm", "z", "0 mm", "turn", "30 deg", "axis", "z")
	say(d, "weight", "arm", "", "z", "-9.81 m/s²")
	settle(t, d)
}

// TestSlantedAndRoundMotion: moved along axes that are turned, and away from an axis, a block goes where these say.
func TestSlantedAndRoundMotion(t *testing.T) {
	d := arm(false)
	say(d, "moved-slanted", "arm", "left", "x", "1 µm", "y", "2 µm", "z", "3 µm", "turn", "30 deg", "axis", "z")
	inquire(d, "mean(displacement_x over arm)", "mean(displacement_y over arm)", "mean(displacement_z over arm)", "greatest(von_mises over arm)")
	o := settle(t, d)
	c, s := math.Cos(math.Pi/6), 0.5
	assert.InDelta(t, 1e-6*(c-2*s), value(t, o, "r1"), 1e-15)
	assert.InDelta(t, 1e-6*(s+2*c), value(t, o, "r2"), 1e-15)
	assert.InDelta(t, 3e-6, value(t, o, "r3"), 1e-15)
	assert.Less(t, value(t, o, "r4"), 1.0)
	// A turn by a small angle about an axis through a corner.
	d = arm(false)
	angle := 1e-4
	say(d, "moved-round", "arm", "left", "x", "0 mm", "y", fmt.Sprintf("%g*hypot(x + 10 mm, y)", angle), "z", "0 mm", "axis", "z", "px", "-10 mm")
	inquire(d, "mean(displacement_y over arm.right)", "mean(displacement_x over arm.back)", "greatest(von_mises over arm)")
	o = settle(t, d)
	assert.InEpsilon(t, angle*0.07, value(t, o, "r1"), 1e-6)
	assert.InEpsilon(t, -angle*0.01, value(t, o, "r2"), 1e-6)
	assert.Less(t, value(t, o, "r3"), 1e-6*70e9*angle)
}

// TestTurnMakesNoStress: a block whose whole surface is turned by a quarter far from its shape has no stress.
func TestTurnMakesNoStress(t *testing.T) {
	d := arm(false)
	say(d, "large", "", "")
	say(d, "moved", "arm", model.WholeSurface, "x", "-x - y", "y", "x - y", "z", "0 mm")
	inquire(d, "greatest(von_mises over arm)", "greatest(strain_1 over arm)", "mean(displacement_y over arm.right)")
	o := settle(t, d)
	assert.Less(t, value(t, o, "r1"), 1e-9*70e9)
	assert.Less(t, math.Abs(value(t, o, "r2")), 1e-12)
	assert.InEpsilon(t, 0.06, value(t, o, "r3"), 1e-9)
}

// TestForcesThatTurn: a force that turns with the end of a strip rolls it up; one that does not leaves it straightened.
func TestForcesThatTurn(t *testing.T) {
	d := arm(true)
	d.Space.Kind, d.Space.Depth = model.Plane, "10 mm"
	d.Parts[0].Outline.Width, d.Parts[0].Outline.Depth, d.Parts[0].Place.X, d.Parts[0].Span = "100 mm", "1 mm", "50 mm", model.Span{}
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	d.Materials[0].Properties[material.YoungsModulus] = material.Property{Value: "12 GPa"}
	d.Mesh = model.Mesh{Size: "5 mm", Across: "1"}
	say(d, "thin", "", "")
	say(d, "large", "", "")
	say(d, "force", "arm", "right", "y", "3 N")
	inquire(d, "mean(displacement_y over arm.right)", "mean(displacement_x over arm.right)", "reaction: arm.left axis=x", "reaction: arm.left axis=y")
	still := settle(t, d)
	say(d, "follows", "arm", "right")
	turns := settle(t, d)
	assert.InDelta(t, 0, value(t, still, "r3"), 1e-8)
	assert.InEpsilon(t, -3, value(t, still, "r4"), 1e-8)
	// It is as large and stands across the end, which has turned by more than a right angle or so.
	x, y := value(t, turns, "r3"), value(t, turns, "r4")
	assert.InEpsilon(t, 3, math.Hypot(x, y), 1e-8)
	assert.Greater(t, x, 2.0)
	assert.Greater(t, -value(t, turns, "r2"), -value(t, still, "r2"))
}

// TestFallKeepsEnergy: what falls from rest goes gt²/2 in t, and the mass that is attached to it goes along.
func TestFallKeepsEnergy(t *testing.T) {
	d := arm(false)
	d.Run = model.Run{Kind: model.Transient, End: "0.1 s"}
	say(d, "inertia", "", "")
	say(d, "weight", "arm", "", "z", "-9.81 m/s²")
	say(d, "mass", "arm", "top", "mass", "1 kg")
	inquire(d, "mean(displacement_z over arm)", "greatest(von_mises over arm)")
	o := settle(t, d)
	assert.InEpsilon(t, -9.81*0.01/2, value(t, o, "r1"), 1e-6)
	assert.Less(t, value(t, o, "r2"), 1e3, "nothing strains what falls")
}

// TestInitialStress: a bar that begins with a stress along it, free to shorten, ends without it and shorter.
func TestInitialStress(t *testing.T) {
	d := arm(false)
	for side, axis := range map[string]string{"left": "x", "front": "y", "bottom": "z"} {
		say(d, "moved", "arm", side, axis, "0 mm")
	}
	say(d, "initial", "arm", "", "xx", "70 MPa")
	inquire(d, "mean(displacement_x over arm.right)", "greatest(von_mises over arm)", "energy: arm")
	o := settle(t, d)
	assert.InEpsilon(t, -1e-3*0.06, value(t, o, "r1"), 1e-9)
	assert.Less(t, value(t, o, "r2"), 10.0)
}

// TestWhatIsDoubted: deformation that is not small, stress beyond what the material bears, and a force where the surface is held
// are said.
func TestWhatIsDoubted(t *testing.T) {
	d := arm(true)
	d.Materials[0].Properties[material.YieldStrength] = material.Property{Value: "100 MPa"}
	say(d, "force", "arm", "right", "z", "-15 kN")
	say(d, "force", "arm", "left", "z", "1 N")
	inquire(d, "safety: arm", "safety: arm strength=200_MPa", "mises: arm", "stress-along: arm.top x=1 y=0 z=0")
	o := settle(t, d)
	words := strings.Join(o.Result.Warnings, "\n")
	assert.Contains(t, words, "the device turns by up to")
	assert.Contains(t, words, "times its yield strength")
	assert.Contains(t, words, "c4 pushes along z on a surface that c2 holds along z")
	assert.InEpsilon(t, 100e6/value(t, o, "r3"), value(t, o, "r1"), 1e-9)
	assert.InEpsilon(t, 2*value(t, o, "r1"), value(t, o, "r2"), 1e-9)
	assert.Greater(t, value(t, o, "r4"), 0.5*value(t, o, "r3"))
}

// assertWrong demands that a document is refused with some words.
func assertWrong(t *testing.T, d *model.Document, words string) *ModelError {
	t.Helper()
	_, err := Run(t.Context(), d, Options{})
	var wrong *ModelError
	require.ErrorAs(t, err, &wrong)
	assert.Contains(t, wrong.Error(), words)
	return wrong
}

// TestResponseOfASpring: a block on springs, with damping by its mass, swings as a mass on a spring does: how far, how late
// and where most.
func TestResponseOfASpring(t *testing.T) {
	d := arm(false)
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	d.Mesh = model.Mesh{Size: "20 mm", Across: "1"}
	mass := 2700*0.06*0.02*0.01 + 1
	stiff, damp := mass*math.Pow(2*math.Pi*50, 2), 0.1*2*math.Pi*50 // a tenth of the circular frequency, of its own mass alone
	say(d, "springs", "arm", "bottom", "z", fmt.Sprintf("%.12g N/m", stiff), "x", "1 MN/m", "y", "1 MN/m")
	say(d, "mass", "arm", "top", "mass", "1 kg")
	say(d, "damping", "arm", "", "mass", fmt.Sprintf("%.12g 1/s", damp*mass/(mass-1)))
	say(d, "force", "arm", "top", "z", "10 N*swing")
	d.Run = model.Run{Kind: model.Response, Lowest: "40 Hz", Highest: "60 Hz", Count: "21"}
	inquire(d, "mean(displacement_z over arm.top)")
	d.Readings = append(d.Readings, model.Sentence{ID: "r2", Kind: "body.phase", Values: map[string]string{"reading": "r1"}}, model.Sentence{ID: "r3", Kind: "body.peak", Values: map[string]string{"reading": "r1"}})
	o := settle(t, d)
	at := func(f float64) (size, phase float64) {
		w := 2 * math.Pi * f
		re, im := stiff-mass*w*w, damp*mass*w
		return 10 / math.Hypot(re, im), -math.Atan2(im, re)
	}
	for i, f := range o.History.Times {
		size, phase := at(f)
		assert.InEpsilon(t, size, o.History.Readings["r1"][i], 1e-3, "%g Hz", f)
		assert.InDelta(t, phase*180/math.Pi, o.History.Readings["r2"][i], 0.3, "%g Hz", f)
	}
	assert.InDelta(t, 50*math.Sqrt(1-0.01/2), value(t, o, "r3"), 0.1)
}

// TestSwingsDieAway: a bar that is pulled at once swings about its new length, by a part of its stiffness ever less.
func TestSwingsDieAway(t *testing.T) {
	d := arm(true)
	d.Materials[0].Properties[material.PoissonRatio] = material.Property{Value: "0"}
	d.Mesh = model.Mesh{Size: "10 mm", Across: "1"}
	tone := math.Sqrt(70e9/2700) / (4 * 0.06) // Hz
	damp := 0.05
	say(d, "inertia", "", "")
	say(d, "damping", "arm", "", "stiffness", fmt.Sprintf("%g s", 2*damp/(2*math.Pi*tone)))
	say(d, "force", "arm", "right", "x", "1 kN")
	d.Run = model.Run{Kind: model.Transient, End: fmt.Sprintf("%g s", 4/tone), Tolerance: "0.001 %"}
	inquire(d, "mean(displacement_x over arm.right)", "reaction: arm.left axis=x")
	o := settle(t, d)
	// What holds it takes up what makes swings die away, too: the reading and the balance of the last moment agree.
	held, found := 0.0, false
	for _, b := range o.Balances {
		for _, e := range b.Entries {
			if b.Name == "force along x" && e.Key == "c2" {
				held, found = e.Value, true
			}
		}
	}
	require.True(t, found)
	assert.InEpsilon(t, held, value(t, o, "r2"), 1e-9)
	rest := 1e3 * 0.06 / (70e9 * 2e-4)
	peak := func(from, to float64) (most float64) {
		for i, time := range o.History.Times {
			if time*tone >= from && time*tone < to {
				most = max(most, o.History.Readings["r1"][i]/quantity.MustUnit("m").SI(1)-rest)
			}
		}
		return most
	}
	// From the second to the fourth swing by e^(−2π·2·ζ); higher tones are gone by then.
	assert.InEpsilon(t, math.Exp(-2*math.Pi*2*damp), peak(3, 4)/peak(1, 2), 0.05)
}

// TestModesOfLoadedDevices: what is pulled sounds higher and what is pressed lower, and a spinning arm higher as well; a strut
// pressed by more than it bears has none.
func TestModesOfLoadedDevices(t *testing.T) {
	tone := func(more func(d *model.Document)) float64 {
		d := tine(1)
		more(d)
		return settle(t, d).Modes[0].Frequency
	}
	free := tone(func(*model.Document) {})
	euler := math.Pi * math.Pi * 70e9 * 8e-3 * 64e-9 / 12 / (4 * 0.04)
	pressed := tone(func(d *model.Document) { say(d, "force", "arm", "right", "x", fmt.Sprintf("%g N", -euler/2)) })
	assert.InEpsilon(t, math.Sqrt(0.5), pressed/free, 0.02)
	hot := tone(func(d *model.Document) { say(d, "force", "arm", "right", "x", "200 N") })
	assert.Greater(t, hot, 1.3*free)
	// Out of the plane of its spin: f² = f₀² + 1.19·n² (R. V. Southwell, F. Gough, 1921, of a beam from its axis on).
	n := free
	spun := tone(func(d *model.Document) { say(d, "spin", "arm", "", "speed", fmt.Sprintf("%g rpm", 60*n), "axis", "z") })
	assert.InEpsilon(t, free*math.Sqrt(1+1.193), spun, 0.01)
	d := tine(1)
	say(d, "force", "arm", "right", "x", fmt.Sprintf("%g N", -1.5*euler))
	assertWrong(t, d, "would buckle")
}

// TestStressWithoutBound: where a fixed end meets a free side, and in an inner corner, the greatest stress is said to have no
// bound; in a corner that is rounded it has one.
func TestStressWithoutBound(t *testing.T) {
	ell := func(round string) *model.Document {
		d := arm(false)
		d.Space.Kind, d.Space.Depth = model.Plane, "10 mm"
		d.Parts[0].Span, d.Parts[0].Place = model.Span{}, model.Place{}
		d.Parts[0].Outline = model.Outline{Kind: "path", Points: []model.Point{{X: "0 mm", Y: "0 mm"}, {X: "40 mm", Y: "0 mm"}, {X: "40 mm", Y: "20 mm"}, {X: "20 mm", Y: "20 mm", Round: round}, {X: "20 mm", Y: "80 mm"}, {X: "0 mm", Y: "80 mm"}}}
		d.Mesh = model.Mesh{Size: "4 mm"}
		d.Enumerate()
		say(d, "fixed", "arm", "e2")
		say(d, "force", "arm", "e5", "x", "100 N")
		inquire(d, "mises: arm", "displacement: arm")
		return d
	}
	run := func(d *model.Document) *Outcome {
		o, err := Run(t.Context(), d, Options{EstimateWithin: -1})
		require.NoError(t, err)
		return o
	}
	o := run(ell(""))
	assert.Contains(t, o.Readings[0].Unknown, "it has no bound at (20.00, 20.00) mm, in the inner corner")
	assert.Contains(t, strings.Join(o.Warnings, "\n"), "r1 has no bound")
	assert.Nil(t, o.Readings[0].Error)
	require.NotNil(t, o.Readings[1].Error, "the displacement has one")
	assert.Less(t, *o.Readings[1].Error, 0.05*o.Readings[1].Value)
	fine := ell("")
	fine.Mesh.Size = "0.7 mm"
	exact := run(fine).Readings[1].Value
	assert.Less(t, math.Abs(o.Readings[1].Value-exact), *o.Readings[1].Error, "the ± of the displacement is true beside a corner without bound, too")
	o = run(ell("8 mm"))
	assert.Empty(t, o.Readings[0].Unknown)
	require.NotNil(t, o.Readings[0].Error)
	// Beside a fixed end.
	d := arm(true)
	say(d, "force", "arm", "right", "z", "-50 N")
	inquire(d, "mises: arm")
	o = run(d)
	assert.Contains(t, o.Readings[0].Unknown, "where the left side of the arm is held")
}
