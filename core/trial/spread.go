package trial

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"saltkettle/core/model"
)

// Spread is how a reading spreads as the parameters do.
type Spread struct {
	Reading         string
	Mean, Deviation float64 // SI
	// Low and High are those below which 5 and 95 % of the values are.
	Low, High float64
	// Trials is how many the surface was fitted to.
	Trials int
}

// spreadPoints is how many points a spread is taken from.
const spreadPoints = 4096

// drawnAt are values and deviations of a surface at points by the distributions of the parameters.
func (p *Prediction) drawnAt(reading string) (values, deviations []float64, err error) {
	s, _, err := p.Surface(reading)
	if err != nil {
		return nil, nil, err
	}
	points := spread(spreadPoints, len(p.Axes))
	values, deviations = make([]float64, len(points)), make([]float64, len(points))
	const parts = 8
	var wg sync.WaitGroup
	for k := range parts {
		wg.Go(func() {
			for i := k; i < len(points); i += parts {
				values[i], deviations[i] = s.At(p.drawn(points[i]))
				if math.IsNaN(deviations[i]) {
					deviations[i] = 0 // the surface cannot tell
				}
			}
		})
	}
	wg.Wait()
	return values, deviations, nil
}

// Spread of a reading; what the surface does not know widens it.
func (p *Prediction) Spread(reading string) (out Spread, err error) {
	values, deviations, err := p.drawnAt(reading)
	if err != nil {
		return out, err
	}
	_, trials, _ := p.Surface(reading)
	out = Spread{Reading: reading, Trials: len(trials), Mean: stat.Mean(values, nil)}
	n := float64(len(values))
	for i, v := range values {
		out.Deviation += ((v-out.Mean)*(v-out.Mean) + deviations[i]*deviations[i]) / n
	}
	out.Deviation = math.Sqrt(out.Deviation)
	// Each value as five of its own distribution that are as likely as each other.
	all := make([]float64, 0, 5*len(values))
	for i, v := range values {
		for k := range 5 {
			all = append(all, v+deviations[i]*distuv.UnitNormal.Quantile((float64(k)+0.5)/5))
		}
	}
	slices.Sort(all)
	out.Low, out.High = stat.Quantile(0.05, stat.Empirical, all, nil), stat.Quantile(0.95, stat.Empirical, all, nil)
	return out, nil
}

// Chance of breaking a limit.
type Chance struct {
	Bound model.Bound
	// Share is the chance by the surface; Low and High are it where the surface is wrong by its deviation everywhere to the one or the other side.
	Share, Low, High float64
	// Broken of Counted trials broke it, of a pattern whose trials are spread as the parameters are; 0 of 0 for others. Between CountedLow and
	// CountedHigh lies the chance that they speak for, with 95 % (E. B. Wilson, 1927).
	Broken, Counted         int
	CountedLow, CountedHigh float64
}

// Percent is a chance in words.
func Percent(share float64) string {
	switch {
	case share < 1e-5:
		return "less than 0.001 %"
	case share > 1-1e-5:
		return "more than 99.999 %"
	}
	return fmt.Sprintf("%.2g %%", 100*share)
}

// Chances of breaking each of the limits.
func (p *Prediction) Chances() (list []Chance, err error) {
	for _, b := range p.Bounds {
		values, deviations, err := p.drawnAt(b.Reading)
		if err != nil {
			return nil, err
		}
		c := Chance{Bound: b}
		n := float64(len(values))
		for i, v := range values {
			e, d := b.Excess(v), deviations[i]
			if d > 0 {
				c.Share += distuv.UnitNormal.CDF(e/d) / n
			} else if e > 0 {
				c.Share += 1 / n
			}
			if e-d > 0 {
				c.Low += 1 / n
			}
			if e+d > 0 {
				c.High += 1 / n
			}
		}
		if q, ok := p.Meeting(); ok && q.Spread {
			for i := range p.Planned() {
				if v, ok := p.value(i, b.Reading); ok {
					c.Counted++
					if b.Excess(v) > 0 {
						c.Broken++
					}
				}
			}
			c.CountedLow, c.CountedHigh = wilson(c.Broken, c.Counted)
		}
		list = append(list, c)
	}
	return list, nil
}

// wilson is the interval of 95 % of a share of which k of n were counted.
func wilson(k, n int) (lo, hi float64) {
	if n == 0 {
		return 0, 1
	}
	share, m := float64(k)/float64(n), float64(n)
	const z2 = Within * Within
	middle := (share + z2/(2*m)) / (1 + z2/m)
	half := Within / (1 + z2/m) * math.Sqrt(share*(1-share)/m+z2/(4*m*m))
	return max(0, middle-half), min(1, middle+half)
}
