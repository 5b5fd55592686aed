package result

import (
	"math"
	"slices"
)

// Summit is a greatest or least value of a field with its place, m, and the point of the cells that is
// next to it.
type Summit struct {
	Value float64
	At    [3]float64
	Point int32
}

// Extremes finds the least and the greatest value of a field, given at the points; ok is false if it is
// nowhere. Of elements of order 2 they may lie between the nodes.
func (f *Fields) Extremes(values []float64) (least, greatest Summit, ok bool) {
	greatest, ok = f.summit(values, 1)
	least, _ = f.summit(values, -1)
	return least, greatest, ok
}

// ExtremesOf is [Fields.Extremes] of one of the fields. The size of a vector is never below nothing, though what is laid
// through its sizes at nodes may be.
func (f *Fields) ExtremesOf(field *Field) (least, greatest Summit, ok bool) {
	least, greatest, ok = f.Extremes(field.Values)
	if least.Value < 0 && slices.ContainsFunc(f.Values, func(other Field) bool { return other.Name == field.Name+"_x" }) {
		least.Value = 0
	}
	return least, greatest, ok
}

// summit is the greatest value of a field times a sign.
func (f *Fields) summit(values []float64, sign float64) (best Summit, ok bool) {
	high := math.Inf(-1)
	for i, v := range values {
		if v = sign * v; v > high {
			high, best.Point, ok = v, int32(i), true
		}
	}
	if !ok {
		return best, false
	}
	best.At = [3]float64(f.Nodes[3*best.Point : 3*best.Point+3])
	for k := range f.Blocks {
		e := f.Blocks[k].Element
		if e.Order == 1 {
			continue
		}
		n := e.Count()
		own, shape, slopes := make([]float64, n), make([]float64, n), make([][3]float64, n)
		for cell := range f.Blocks[k].Count() {
			points := f.Blocks[k].Cells[n*cell : n*(cell+1)]
			hi, top := math.Inf(-1), points[0]
			for i, p := range points {
				own[i] = sign * values[p]
				if own[i] > hi {
					hi, top = own[i], p
				}
			}
			if !(e.Ceiling(own) > high) { // also where it is not
				continue
			}
			at, v := e.Peak(own)
			if !(v > high) {
				continue
			}
			high, best.Point, best.At = v, top, [3]float64{}
			e.Shape(at, shape, slopes)
			for i, p := range points {
				for d := range 3 {
					best.At[d] += shape[i] * f.Nodes[3*p+int32(d)]
				}
			}
		}
	}
	best.Value = sign * high
	return best, true
}
