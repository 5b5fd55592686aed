package pipes

import (
	"fmt"
	"testing"
)

func TestZZ(t *testing.T) {
	f := &Fluid{Density: 1130, viscosity: 1e-3}
	b := &Bar{Section: Round(0.063), Fluid: f, Point: 1, Items: []*Item{{Valve: 0, Opening: nil}}}
	set := &setting{viscosity: 1e-3, opening: 0.6, speed: 1}
	for _, p := range []float64{0, 1e-9, 1, -1, 1e5} {
		m, s := b.flow(p, set)
		fmt.Println(p, m, s)
	}
	b.Items = []*Item{{Valve: -1, Pump: &Pump{Head: 14, Curve: 4 / (10. / 3600) / (10. / 3600)}}}
	for _, p := range []float64{0, 1e-9, 1, -1, 1e5, -1e5, -2e5} {
		m, s := b.flow(p, set)
		fmt.Println(p, m, s)
	}
}
