package sparse

import "saltkettle/core/dense"

func asScalar[T dense.Scalar](z complex128) T {
	var out T
	switch p := any(&out).(type) {
	case *float64:
		*p = real(z)
	case *complex128:
		*p = z
	}
	return out
}

func asComplex[T dense.Scalar](x T) complex128 {
	switch v := any(x).(type) {
	case float64:
		return complex(v, 0)
	case complex128:
		return v
	}
	return 0
}

// times scales an element.
func times[T dense.Scalar](x T, by float64) T {
	switch p := any(&x).(type) {
	case *float64:
		*p *= by
	case *complex128:
		*p = complex(real(*p)*by, imag(*p)*by)
	}
	return x
}
