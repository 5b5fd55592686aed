package heat

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
)

// melting is a capacity of 900 J/(kg·K) with a peak from 330 K to 334 K that holds 120 kJ/kg more.
const melting = "table(temperature, 300 K: 900 J/(kg·K), 330: 900, 332: 60900, 334: 900, 400: 900)"

// TestContentIsTheIntegralOfTheCapacity: constant, straight, cubic, with a peak, and beyond what
// is tabulated; backwards it is given up again, and parts add up to the whole.
func TestContentIsTheIntegralOfTheCapacity(t *testing.T) {
	const density = 2000.
	peak := func(from, to float64) float64 { // with the peak between them
		return density * (900*(to-from) + 120e3)
	}
	for name, c := range map[string]struct {
		capacity string
		from, to float64
		want     float64
	}{
		"constant":                {"900 J/(kg·K)", 290, 310, density * 900 * 20},
		"straight":                {"3 J/(kg·K²)*temperature", 280, 420, density * 1.5 * (420*420 - 280*280)},
		"cubic":                   {"1e-4 J/(kg·K⁴)*temperature^3", 280, 420, density * 2.5e-5 * (math.Pow(420, 4) - math.Pow(280, 4))},
		"over a peak":             {melting, 310, 350, peak(310, 350)},
		"up to its middle":        {melting, 329, 332, density * (900*3 + 60e3)},
		"within one side of it":   {melting, 331, 331.5, density * (900*0.5 + 3e4*(2.25-1)/2)},
		"within a step":           {melting, 390.1, 390.2, density * 900 * 0.1},
		"below what is solid":     {"3 J/(kg·K²)*temperature", 0.25, 0.75, density * 3 * 1 * 0.5},
		"hotter than tabulated":   {"900 J/(kg·K) + 0 J/(kg·K²)*temperature", 5990, 6100, density * 900 * 110},
		"where it is not defined": {"900 J/(kg·K)*sqrt((temperature - 320 K)/(1 K))*0 + table(temperature, 300 K: 900 J/(kg·K), 301: 900)", 330, 340, density * 900 * 10},
	} {
		b := &Body{Density: fix(density), Capacity: lawOf("%s", c.capacity)}
		content := newContent(b)
		assert.Equal(t, name == "constant", content.constant, name)
		assert.InEpsilon(t, c.want, content.between(c.from, c.to), 1e-7, name)
		assert.InEpsilon(t, -c.want, content.between(c.to, c.from), 1e-7, name)
		mid := c.from + 0.37*(c.to-c.from)
		assert.InEpsilon(t, c.want, content.between(c.from, mid)+content.between(mid, c.to), 1e-7, name)
		assert.Zero(t, content.between(mid, mid), name)
	}
}

// stores is a group of two slabs, of which one melts, without conditions.
func stores(t *testing.T, order int, p *Problem) (*couple.Group, *Kernel) {
	t.Helper()
	m := slabs(t, 0.01, 0.02, 0.04)
	p.Transient = true
	p.Bodies = []Body{Isotropic(fix(4e5)), Isotropic(fix(4e5))}
	p.Bodies[0].Density, p.Bodies[0].Capacity = fix(2000), lawOf(melting)
	p.Bodies[1].Density, p.Bodies[1].Capacity = lawOf("5 kg/(m³·K)*temperature"), fix(500)
	left := facets(m, 0, "left", -1)
	if len(p.Fluxes) > 0 {
		p.Fluxes[0].Facets = left
	}
	g, err := couple.New(m, 2, []couple.Field{{Name: "temperature", Start: 300, Changes: true}}, &couple.Settings{Order: order, Facets: left})
	require.NoError(t, err)
	k, err := NewKernel(g, p, 0)
	require.NoError(t, err)
	return g, k
}

// TestWhatBodiesStore: between two states all bodies take up what their contents say, however
// many degrees lie between them; at rates they store ρc times these.
func TestWhatBodiesStore(t *testing.T) {
	first, second := 0.02*0.02*0.01, 0.04*0.02*0.01 // volumes
	for order := 1; order <= 2; order++ {
		g, k := stores(t, order, &Problem{})
		assert.False(t, k.StoresEvenly())
		even := func(v float64) []float64 {
			u := make([]float64, g.System.N)
			for i := range u {
				u[i] = v
			}
			return u
		}
		s := g.Begun(k, nil)
		taken, err := k.Taken(s, even(310), even(350))
		require.NoError(t, err)
		assert.InEpsilon(t, first*2000*(900*40+120e3)+second*2.5*500*(350*350-310*310), taken, 1e-7)
		back, err := k.Taken(s, even(350), even(310))
		require.NoError(t, err)
		assert.InEpsilon(t, -taken, back, 1e-12)
		s.State = &fem.State{U: even(340), Rate: even(0.25)}
		stored, err := k.Stored(s)
		require.NoError(t, err)
		assert.InEpsilon(t, 0.25*(first*2000*900+second*5*340*500), stored, 1e-9)
	}
	p := &Problem{Bodies: []Body{{Density: fix(1), Capacity: fix(2)}}}
	assert.True(t, (&Kernel{problem: p}).StoresEvenly())
}

// TestMeltingTakesWhatEnters: a pair of slabs that conducts well is heated at one side through the
// peak of one of them; what has entered is what they hold, and the temperature at the end is that
// at which they hold so much.
func TestMeltingTakesWhatEnters(t *testing.T) {
	const power, end = 40., 50.
	g, k := stores(t, 1, &Problem{Fluxes: []Flux{{Total: fix(power)}}})
	var entered, brought float64
	start := func(_, _ int, _ int32, _ [][3]float64, out []float64) error {
		for i := range out {
			out[i] = 325
		}
		return nil
	}
	var before []float64
	set := &couple.MarchSettings{SolveSettings: couple.SolveSettings{Symmetric: k.Symmetric()}, End: end, Tolerance: 1e-3, Start: start}
	// What a step brings is what it stores, or it is made again in smaller ones.
	set.Missed = func(s *couple.Solution, step *fem.Step) (float64, error) {
		brought = 0
		err := s.EachStage(step, func(at *couple.Solution, weight float64) error {
			in, err := at.Entering(k)
			brought += weight * in[0]
			return err
		})
		if err != nil {
			return 0, err
		}
		taken, err := k.Taken(s, step.Before, step.After)
		return math.Abs(brought-taken) / (1e-3 * max(entered, brought)), err
	}
	set.Moment = func(s *couple.Solution, step *fem.Step) bool {
		if step == nil {
			before = append(before, s.State.U...)
		}
		entered += brought
		return false
	}
	s, err := g.March(t.Context(), k, set)
	require.NoError(t, err)
	require.True(t, s.Settled)
	assert.InEpsilon(t, power*end, entered, 1e-9)
	taken, err := k.Taken(s, before, s.State.U)
	require.NoError(t, err)
	assert.InEpsilon(t, power*end, taken, 2e-3, "the peak is passed in steps")
	// Nearly even: the mean is where the contents are so large.
	hold := func(at float64) float64 {
		return 0.02*0.02*0.01*newContent(&k.problem.Bodies[0]).between(325, at) + 0.04*0.02*0.01*newContent(&k.problem.Bodies[1]).between(325, at)
	}
	lo, hi := 325., 400.
	for range 60 {
		if mid := (lo + hi) / 2; hold(mid) < power*end {
			lo = mid
		} else {
			hi = mid
		}
	}
	var mean float64
	for _, v := range s.State.U {
		mean += v / float64(len(s.State.U))
	}
	assert.InDelta(t, lo, mean, 0.5)
}
