package flow

import (
	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/quantity"
)

// Above a Reynolds number of mostLaminar, by the hydraulic diameter and the mean speed, a flow through a channel is
// likely to be turbulent (H. Schlichting and K. Gersten, Boundary-Layer Theory, 2017, chapter 15); above fastest,
// about a third of the speed of sound in air, a gas is compressed by its own speed.
const (
	mostLaminar = 2300
	fastest     = 100 // m/s
)

// regime warns of a flow that may not be as it was computed: without turbulence, and not compressed.
func (d *draft) regime(s *couple.Solution) {
	number, most, err := d.reynolds(s)
	if err != nil {
		return // what failed fails elsewhere too
	}
	if number > mostLaminar {
		d.Warn("the Reynolds number of the flow is about %s by its mean speed and hydraulic diameter: above about %d a flow through a channel is likely to be turbulent, and this one was computed without", quantity.Figures(number, 2), mostLaminar)
	}
	if most > fastest {
		for b := range d.problem.Bodies {
			if d.Part(b).Material.Family == "gas" {
				d.Warn("the %s flows at up to %s: it would be compressed", d.Part(b).Name, quantity.Show(most, "m/s", false, 3))
				return
			}
		}
	}
}

// reynolds is the Reynolds number by the mean speed and by four times the volume over the surface of the walls,
// and the greatest speed, m/s.
func (d *draft) reynolds(s *couple.Solution) (number, most float64, err error) {
	field := -1
	for f := range s.Fields {
		if s.Fields[f].Name == d.posed.Fields[0].Name {
			field = f
		}
	}
	k := NewKernel(s.Group, &d.problem, s.System.First[field], -1, false)
	var volume, speeds, thickness float64
	err = s.System.EachCell(s.State, d.fluid, func(points []fem.Point, weights []float64) error {
		if err := k.Prepare(-1, points); err != nil || k.now == nil {
			return err
		}
		for q, w := range weights {
			var v [3]float64
			for i := range k.n {
				v[i] = points[q].U[k.u+i]
			}
			u := size(v)
			most = max(most, u)
			volume, speeds, thickness = volume+w, speeds+w*u, thickness+w*k.now.At(viscosity, q)/k.here.Reference
		}
		return nil
	})
	walls := d.area(d.wet)
	if err != nil || volume == 0 || walls == 0 {
		return 0, most, err
	}
	return (speeds / volume) * (4 * volume / walls) / (thickness / volume), most, nil
}
