package formula

import (
	"math"

	"saltkettle/core/quantity"
)

// sort says how a temperature counts in sums.
type sort uint8

const (
	// plain is every other quantity, and a difference of temperatures.
	plain sort = iota
	// scale is a point on a scale with an offset (°C, °F).
	scale
	// absolute is a temperature above absolute zero, as fields are: it may be
	// taken as a point or as a size.
	absolute
)

// kindOf is what is known of a value before it has been computed.
type kindOf struct {
	dim  quantity.Dimension
	sort sort
}

var (
	pure  = kindOf{}
	angle = kindOf{dim: quantity.MustUnit("rad").Dimension}
)

func kindOfValue(v quantity.Value) kindOf {
	if v.Affine {
		return kindOf{v.Dimension, scale}
	}
	return kindOf{dim: v.Dimension}
}

const notOnScale = "a temperature on a scale (°C, °F) cannot be %s; write it in K"

// sumKind is the kind of a + b or a − b.
func sumKind(a, b kindOf, op string) (kindOf, string) {
	k := kindOf{dim: a.dim}
	if op == "+" {
		switch {
		case a.sort == scale && b.sort != plain || b.sort == scale && a.sort != plain:
			return k, "two temperatures on a scale cannot be added; write the difference in K"
		default:
			k.sort = max(a.sort, b.sort)
			if a.sort == scale || b.sort == scale {
				k.sort = scale
			}
		}
		return k, ""
	}
	switch {
	case b.sort == scale && a.sort == plain:
		return k, "a temperature on a scale cannot be taken from a difference"
	case b.sort == plain:
		k.sort = a.sort
	}
	return k, ""
}

// powerKind is the kind of a raised to a fixed power.
func powerKind(a kindOf, exponent float64) (kindOf, string) {
	if a.dim == quantity.None {
		return pure, ""
	}
	num := math.Round(exponent * 60)
	if math.Abs(exponent*60-num) > 1e-9 || math.Abs(num) > 60*12 {
		return a, a.dim.Name() + " cannot be raised to this power"
	}
	d, err := a.dim.Power(int(num), 60)
	if err != nil {
		return a, err.Error()
	}
	return kindOf{dim: d}, ""
}
