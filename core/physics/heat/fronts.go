package heat

import (
	"math"

	"saltkettle/core/couple"
	"saltkettle/core/quantity"
)

// littleBelow is the part of how far temperatures are apart by which one may fall below all that are said: cells that are
// coarse for how fast a stream carries heat leave so much.
const littleBelow = 0.02

// coldest is the lowest temperature that there can be in a steady state in which nothing takes heat away but what is at a
// temperature that is said, K; false if that is not known.
func (d *draft) coldest() (lowest float64, known bool) {
	lowest = math.Inf(1)
	for _, c := range d.conditions {
		for _, slot := range c.Definition.Slots {
			l := c.Laws[slot.Name]
			if l == nil {
				continue
			}
			v, constant := l.Constant()
			switch {
			case slot.Temperature && !constant:
				return 0, false
			case slot.Temperature:
				lowest = min(lowest, v)
			case c.Kind != KeySource && c.Kind != KeyDensity && c.Kind != KeyFlux && c.Kind != KeyFluxTotal:
			case !constant || v < 0:
				return 0, false
			}
		}
	}
	return lowest, !math.IsInf(lowest, 0)
}

// fronts warns of temperatures that a stream cannot have.
func (d *draft) fronts(s *couple.Solution, field int) {
	lowest, known := d.coldest()
	if !known || d.Transient {
		return
	}
	_, most := s.Extremes(field)
	least := s.Least(field)
	if below := lowest - least.Value; below > littleBelow*(most.Value-lowest) {
		d.Warn("the temperature of the %s falls to %s, below all that are said: a stream carries heat faster there than its cells can follow, so make them finer", d.BodyName(least.Body), quantity.Show(least.Value, "°C", false, 3))
	}
}
