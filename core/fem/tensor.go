package fem

import "errors"

// ErrInverted is returned for a cell whose volume is not positive somewhere.
var ErrInverted = errors.New("a cell of the mesh is inverted")

// Tensor is a symmetric coefficient that is turned about z at most.
type Tensor struct{ XX, XY, YY, ZZ float64 }

// Turned returns the tensor with the values k along axes that are turned by the
// angle whose cosine and sine are given.
func Turned(k [3]float64, cos, sin float64) Tensor {
	return Tensor{k[0]*cos*cos + k[1]*sin*sin, (k[0] - k[1]) * cos * sin, k[0]*sin*sin + k[1]*cos*cos, k[2]}
}

// Times returns the product with a vector.
func (t *Tensor) Times(v [3]float64) [3]float64 {
	return [3]float64{t.XX*v[0] + t.XY*v[1], t.XY*v[0] + t.YY*v[1], t.ZZ * v[2]}
}
