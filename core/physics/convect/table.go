package convect

import "math"

// Range and step of tabulated properties, K.
const (
	tableFrom = 50.0
	tableTo   = 2500.0
	tableStep = 1.0
)

// Tabulated samples a property every kelvin, so that it costs next to nothing at the
// many points of a surface. Between the samples it is straight.
func Tabulated(f func(t float64) float64) func(t float64) float64 {
	values := make([]float64, int((tableTo-tableFrom)/tableStep)+1)
	for i := range values {
		values[i] = f(tableFrom + tableStep*float64(i))
	}
	return func(t float64) float64 {
		x := (t - tableFrom) / tableStep
		if !(x >= 0 && x < float64(len(values)-1)) {
			return math.NaN()
		}
		i := int(x)
		part := x - float64(i)
		return (1-part)*values[i] + part*values[i+1]
	}
}
