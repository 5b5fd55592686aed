package solve

import (
	"math"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// TestWavesInADuct: a wave that comes into a duct which goes on runs through it with the power of a plane wave; one before a hard wall stands;
// what a wall, a lining or an absorber takes up is what the wave loses, and enters are balanced by what leaves to round-off.
func TestWavesInADuct(t *testing.T) {
	const long, high, depth = 0.5, 0.1, 0.1
	duct := func() *model.Document {
		d := sounding(model.Plane, "50 mm", box("duct", "gas", 0, 0, 500, 100))
		condition(d, "acoustic.duct", "duct", "left", "pressure", "2 Pa*swing")
		over(d, 100, 1000, 12)
		return d
	}
	wave := 2 * 2 / (2 * gasDensity * gasSpeed) * high * depth // W

	d := duct()
	condition(d, "acoustic.duct", "duct", "right")
	in, out, mean, met := wish(d, "acoustic.coming", "duct", "left", "W"), wish(d, "acoustic.power", "duct", "right", "W"), wish(d, "acoustic.mean", "duct", "", "Pa"), wish(d, "acoustic.met", "duct", "right", "Pa·s/m")
	level := wish(d, "acoustic.level", "duct", "right", "", "reference", "20 µPa", "weighting", "none")
	over := wish(d, "formula", "", "", "", "formula", "mean(r1 over frequency)/least(r2 over frequency, 200 Hz, 800 Hz)")
	d.Enumerate()
	o := settle(t, d)
	assert.InEpsilon(t, 1, value(t, o, over), 1e-5)
	for i := range o.History.Times {
		at := func(key string) float64 { return o.History.Readings[key][i] }
		assert.InEpsilon(t, wave, at(in), 1e-5)
		assert.InEpsilon(t, wave, at(out), 1e-5)
		assert.InEpsilon(t, math.Sqrt2, at(mean), 1e-3)
		assert.InEpsilon(t, gasDensity*gasSpeed, at(met), 1e-3)
		assert.InDelta(t, 20*math.Log10(math.Sqrt2/20e-6), at(level), 1e-3)
	}

	d = duct()
	condition(d, "acoustic.impedance", "duct", "right", "resistance", "800 Pa·s/m + 2 Pa·s²/m*swing_frequency", "reactance", "-3e5 Pa/m/swing_frequency")
	taken, lost, enters := wish(d, "acoustic.taken", "duct", "right", "1"), wish(d, "acoustic.power", "duct", "right", "W"), wish(d, "acoustic.power", "duct", "left", "W")
	d.Enumerate()
	o = settle(t, d)
	for i, f := range o.History.Times {
		z := complex(800+2*f, -3e5/f)
		back := (z - gasDensity*gasSpeed) / (z + gasDensity*gasSpeed)
		part := 1 - real(back)*real(back) - imag(back)*imag(back)
		assert.InEpsilon(t, part, o.History.Readings[taken][i], 5e-4)
		assert.InEpsilon(t, part*wave, o.History.Readings[lost][i], 5e-4)
		assert.InEpsilon(t, -o.History.Readings[enters][i], o.History.Readings[lost][i], 1e-6)
	}
}

// TestAWideningOfADuct: what a chamber lets through is what plane waves say, long before its first cross mode.
func TestAWideningOfADuct(t *testing.T) {
	const long, ratio = 0.4, 6.
	d := sounding(model.Plane, "20 mm", box("in", "gas", -200, -10, 0, 10), box("chamber", "gas", 0, -60, 1e3*long, 60), box("out", "gas", 1e3*long, -10, 1e3*long+200, 10))
	condition(d, "acoustic.duct", "in", "left", "pressure", "1 Pa*swing")
	condition(d, "acoustic.duct", "out", "right")
	over(d, 50, 500, 30)
	comes, leaves := wish(d, "acoustic.coming", "in", "left", "W"), wish(d, "acoustic.power", "out", "right", "W")
	d.Enumerate()
	o := settle(t, d)
	for i, f := range o.History.Times {
		k := 2 * math.Pi * f / gasSpeed
		want := 10 * math.Log10(1+0.25*math.Pow(ratio-1/ratio, 2)*math.Pow(math.Sin(k*long), 2))
		assert.InDelta(t, want, 10*math.Log10(o.History.Readings[comes][i]/o.History.Readings[leaves][i]), 0.6, "%g Hz", f)
	}
	assert.Contains(t, strings.Join(o.Notes, " "), "were solved at")
}

// TestInsertionLoss: what a chamber in a duct takes off is what it takes off a plain one in another run, at its frequencies and at those between; where that
// has nothing it is said.
func TestInsertionLoss(t *testing.T) {
	device := func(count int, wide float64) *model.Document {
		d := sounding(model.Plane, "20 mm", box("in", "gas", -200, -10, 0, 10), box("chamber", "gas", 0, -wide, 400, wide), box("out", "gas", 400, -10, 600, 10))
		condition(d, "acoustic.duct", "in", "left", "pressure", "1 Pa*swing")
		condition(d, "acoustic.impedance", "out", "right", "resistance", "4000 Pa·s/m")
		over(d, 50, 500, count)
		wish(d, "acoustic.power", "out", "right", "µW")
		wish(d, "acoustic.mean", "out", "right", "mPa")
		for _, name := range []string{"r1", "r2"} {
			wish(d, "body.less", "", "", "", "reading", name, "run", "3")
		}
		d.Enumerate()
		return d
	}
	plain, err := Run(t.Context(), device(5, 10), Options{Now: time.Now})
	require.NoError(t, err)
	assert.Contains(t, plain.Readings[2].Missing, "the result of run 3 is not at hand")
	o, err := Run(t.Context(), device(9, 60), Options{Now: time.Now, Compared: func(number int) (*result.Result, error) {
		assert.Equal(t, 3, number)
		return plain.Result, nil
	}})
	require.NoError(t, err)
	own, there := o.History, plain.History
	for i := range own.Times {
		before := there.Readings["r1"][i/2]
		if i%2 == 1 {
			before = (before + there.Readings["r1"][i/2+1]) / 2
		}
		want := 10 * math.Log10(before/own.Readings["r1"][i])
		assert.InDelta(t, want, own.Readings["r3"][i], 1e-6)
		if i%2 == 0 {
			assert.InDelta(t, want, own.Readings["r4"][i], 1e-6, "power goes with the square")
		}
	}
	assert.Greater(t, o.Readings[2].Value, 3.0)
	short := device(5, 60)
	short.Run.Highest = "600 Hz"
	o, err = Run(t.Context(), short, Options{Now: time.Now, Compared: func(int) (*result.Result, error) { return plain.Result, nil }})
	require.NoError(t, err)
	assert.Contains(t, o.Readings[2].Missing, "it has none at 600.0")
}

// TestHigherWavesOfDucts: one that comes along a duct leaves at its other end with all its power, and through it the pressure is that of the exact
// wave, in a plane and in a round duct; below where it travels it is refused; a chamber lets the same through however near to it its ducts end.
func TestHigherWavesOfDucts(t *testing.T) {
	const long, high, depth = 0.4, 0.4, 0.1
	gamma := math.Pi / high
	d := sounding(model.Plane, "40 mm", box("duct", "gas", 0, 0, 400, 400))
	condition(d, "acoustic.duct", "duct", "left", "pressure", "2 Pa*swing", "order", "1")
	condition(d, "acoustic.duct", "duct", "right")
	over(d, 450, 1000, 12)
	in, out, plane := wish(d, "acoustic.coming", "duct", "left", "W"), wish(d, "acoustic.sent", "duct", "right", "W", "order", "1"), wish(d, "acoustic.sent", "duct", "right", "W")
	mean, all := wish(d, "acoustic.mean", "duct", "", "Pa"), wish(d, "acoustic.power", "duct", "right", "W")
	d.Enumerate()
	o := settle(t, d)
	for i, f := range o.History.Times {
		at := func(key string) float64 { return o.History.Readings[key][i] }
		k := 2 * math.Pi * f / gasSpeed
		want := 2 * 2 / 4. * high * depth * math.Sqrt(k*k-gamma*gamma) / (2 * math.Pi * f * gasDensity)
		assert.InEpsilon(t, want, at(in), 2e-3, "%g Hz", f)
		assert.InEpsilon(t, at(in), at(out), 1e-5, "%g Hz", f)
		assert.InEpsilon(t, at(out), at(all), 1e-6)
		assert.InDelta(t, 0, at(plane), 1e-6*want)
		assert.InEpsilon(t, 1, at(mean), 1e-3, "a wave that stood would not be even")
	}

	d = sounding(model.Axial, "20 mm", box("duct", "gas", 0, 0, 200, 300))
	condition(d, "acoustic.duct", "duct", "front", "pressure", "1 Pa*swing", "order", "1")
	condition(d, "acoustic.duct", "duct", "back")
	over(d, 1100, 1500, 3) // the first round wave of 3.8317/R travels from 1037 Hz on
	in, out = wish(d, "acoustic.coming", "duct", "front", "W"), wish(d, "acoustic.power", "duct", "back", "W")
	d.Enumerate()
	o = settle(t, d)
	for i, f := range o.History.Times {
		k, gamma := 2*math.Pi*f/gasSpeed, 3.8317059702/0.2
		want := math.Pi * 0.04 * 0.1622125 * math.Sqrt(k*k-gamma*gamma) / (2 * 2 * math.Pi * f * gasDensity) // ∫J₀(γr)² is πR²·J₀(3.83)²
		assert.InEpsilon(t, want, o.History.Readings[in][i], 2e-3, "%g Hz", f)
		assert.InEpsilon(t, want, o.History.Readings[out][i], 2e-3, "%g Hz", f)
	}

	d = sounding(model.Plane, "100 mm", box("duct", "gas", 0, 0, 400, 400))
	condition(d, "acoustic.duct", "duct", "left", "pressure", "2 Pa*swing", "order", "1")
	over(d, 100, 300, 2)
	_, err := Run(t.Context(), d, Options{Now: time.Now})
	assert.ErrorContains(t, err, "no such wave travels in the duct")

	let := func(end float64) (list []float64) {
		d := sounding(model.Plane, "12 mm", box("in", "gas", -end, -100, 0, 100), box("chamber", "gas", 0, -200, 300, 150), box("out", "gas", 300, -100, 300+end, 100))
		condition(d, "acoustic.duct", "in", "left", "pressure", "1 Pa*swing")
		condition(d, "acoustic.duct", "out", "right")
		over(d, 300, 1200, 5) // the first cross wave of the ducts travels from 850 Hz on
		comes, leaves := wish(d, "acoustic.coming", "in", "left", "W"), wish(d, "acoustic.power", "out", "right", "W")
		d.Enumerate()
		o := settle(t, d)
		for i := range o.History.Times {
			list = append(list, o.History.Readings[leaves][i]/o.History.Readings[comes][i])
		}
		return list
	}
	far, near := let(300), let(20)
	assert.InEpsilonSlice(t, far, near, 5e-3)
	assert.Less(t, far[4], 1.0)
}
