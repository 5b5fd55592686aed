package trial

import (
	"fmt"
	"math"
	"sync"

	"saltkettle/core/model"
	"saltkettle/core/surface"
)

// Prediction predicts the readings of a set between its trials, each by a surface that is fitted when it is first asked for. It may be used from
// several goroutines.
type Prediction struct {
	*Set
	fits *fits
}

// fits are the surfaces by reading.
type fits struct {
	mu sync.Mutex
	of map[string]*fit
}

// fit is a surface of a reading, or why there is none.
type fit struct {
	once    sync.Once
	surface *surface.Surface
	trials  []int // those that it was fitted to
	err     error
}

// Predict begins a prediction by the surface that the set asks for.
func Predict(s *Set) *Prediction { return &Prediction{Set: s, fits: &fits{of: map[string]*fit{}}} }

// Wanting is the prediction of the same trials where something else is wanted of them, by the same surfaces.
func (p *Prediction) Wanting(s *Set) *Prediction { return &Prediction{Set: s, fits: p.fits} }

// Surface of a reading, of scaled parameters, with the trials that it was fitted to.
func (p *Prediction) Surface(reading string) (*surface.Surface, []int, error) {
	p.fits.mu.Lock()
	f := p.fits.of[reading]
	if f == nil {
		f = &fit{}
		p.fits.of[reading] = f
	}
	p.fits.mu.Unlock()
	f.once.Do(func() { p.fit(f, reading) })
	return f.surface, f.trials, f.err
}

func (p *Prediction) fit(f *fit, reading string) {
	kind := map[string]surface.Kind{model.Quadratic: surface.Quadratic, model.Radial: surface.Radial}[p.ResolvedTrials.Surface]
	var x [][]float64
	var y []float64
	for i := range p.List {
		if v, ok := p.value(i, reading); ok {
			x, y, f.trials = append(x, p.Scaled(p.Values(i))), append(y, v), append(f.trials, i)
		}
	}
	if len(y) == 0 {
		f.err = fmt.Errorf("no trial that counts has this reading")
		return
	}
	stepped := make([]bool, len(p.Axes))
	for j := range stepped {
		stepped[j] = !p.Axes[j].Free()
	}
	f.surface, f.err = surface.FitStepped(kind, x, y, stepped)
}

// Varies says that a reading is not the same in all trials but for round-off.
func (s *Set) Varies(reading string) bool {
	lo, hi := s.Range(reading)
	return hi-lo > 1e-9*max(math.Abs(lo), math.Abs(hi))
}

// LeftOut says in words what was left out to find how far a surface of n trials is off.
func LeftOut(s *surface.Surface, n int) string {
	if s.ByLevels() {
		return "a whole value of a parameter left out"
	}
	return fmt.Sprintf("one of %d left out", n)
}

// Scaled are values of the parameters, SI, as places between the ends of the axes.
func (s *Set) Scaled(values []float64) []float64 {
	u := make([]float64, len(values))
	for i, v := range values {
		u[i] = s.Axes[i].Scaled(v)
	}
	return u
}

// Unscaled are the values, SI, at places between the ends of the axes, or those nearest that may be taken.
func (s *Set) Unscaled(u []float64) []float64 {
	values := make([]float64, len(u))
	for i, v := range u {
		values[i] = s.Axes[i].Unscaled(v)
	}
	return values
}

// At predicts a reading at values of the parameters, SI, and its standard deviation, NaN where it cannot tell.
func (p *Prediction) At(reading string, values []float64) (value, deviation float64, err error) {
	f, _, err := p.Surface(reading)
	if err != nil {
		return 0, 0, err
	}
	value, deviation = f.At(p.Scaled(values))
	return value, deviation, nil
}

// Within is how many standard deviations a band of 95 % is wide to each side.
const Within = 1.96

// known are the readings that goals and limits are about, all readings with a surface if there are none.
func (p *Prediction) known() (readings []string) {
	add := func(id string) {
		for _, r := range readings {
			if r == id {
				return
			}
		}
		readings = append(readings, id)
	}
	for i := range p.Aims {
		add(p.Aims[i].Reading)
	}
	for i := range p.Bounds {
		add(p.Bounds[i].Reading)
	}
	if len(readings) > 0 {
		return readings
	}
	for i := range p.Model.Readings {
		if _, _, err := p.Surface(p.Model.Readings[i].ID); err == nil {
			readings = append(readings, p.Model.Readings[i].ID)
		}
	}
	return readings
}

// Range of a reading over the trials that count.
func (s *Set) Range(reading string) (lo, hi float64) {
	lo, hi = math.Inf(1), math.Inf(-1)
	for i := range s.List {
		if v, ok := s.value(i, reading); ok {
			lo, hi = min(lo, v), max(hi, v)
		}
	}
	return lo, hi
}

// Estimate is what a surface predicts of a reading.
type Estimate struct {
	Value     float64 `json:"value"` // SI
	Deviation float64 `json:"deviation"`
}

// Estimates predicts all readings that goals and limits are about.
func (p *Prediction) Estimates(values []float64) (map[string]Estimate, error) {
	out := map[string]Estimate{}
	for _, key := range p.known() {
		v, d, err := p.At(key, values)
		if err != nil {
			return nil, err
		}
		if math.IsNaN(d) {
			d = 0 // has no place in JSON; the surface cannot tell
		}
		out[key] = Estimate{v, d}
	}
	return out, nil
}
