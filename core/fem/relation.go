package fem

import (
	"fmt"
	"math"
	"slices"

	"saltkettle/core/parallel"
	"saltkettle/core/sparse"
)

// Relation is a linear constraint by which one unknown follows from others,
//
//	u[Of] = Σ Factors[i]·u[By[i]] + Value,
//
// such as that nothing passes a slanted wall, that a patch moves as one body, that two sides are
// alike but for an offset, or that a mean is given.
type Relation struct {
	Of      int32
	By      []int32
	Factors []float64
	Value   float64
}

// elimination takes the unknowns of relations out of equations, by r̂ = Tᵀ·r and K̂ = Tᵀ·K·T
// with u = T·û + g. What is taken out keeps its place, with the equation û = 0.
type elimination struct {
	relations []Relation // of what is taken out, by what is not
	out       []int32    // by unknown: its relation, −1 if it stays
	// The pattern of K̂; direct is for each element of K where it goes as it is, −1 if it does
	// not, and spread what the others are spread to.
	rows, cols []int32
	direct     []int32
	spread     []spreadTo
	diagonal   []int32 // places of those of what is taken out
}

// spreadTo is a part of an element of K that goes to one of K̂.
type spreadTo struct {
	from, to int32
	factor   float64
}

// newElimination solves relations for unknowns that are not fixed and finds the pattern that is
// left; nil if there are none.
func (s *System) newElimination(c *Constraints) (*elimination, error) {
	if len(c.Relations) == 0 {
		return nil, nil
	}
	e := &elimination{out: make([]int32, s.N)}
	for i := range e.out {
		e.out[i] = -1
	}
	for _, r := range c.Relations {
		if err := e.take(r, c); err != nil {
			return nil, err
		}
	}
	e.pattern(s)
	return e, nil
}

// take adds a relation, in which what is taken out already is replaced.
func (e *elimination) take(r Relation, c *Constraints) error {
	terms := map[int32]float64{r.Of: -1}
	value := r.Value
	add := func(i int32, f float64) {
		if k := e.out[i]; k >= 0 {
			known := &e.relations[k]
			value += f * known.Value
			for m, j := range known.By {
				terms[j] += f * known.Factors[m]
			}
			return
		}
		terms[i] += f
	}
	if e.out[r.Of] >= 0 {
		delete(terms, r.Of)
		add(r.Of, -1)
	}
	for m, j := range r.By {
		add(j, r.Factors[m])
	}
	// 0 = Σ terms·u + value: it is solved for the unknown with the largest factor, or for the
	// one that it is given for if that is about as large.
	names := make([]int32, 0, len(terms))
	for i := range terms {
		names = append(names, i)
	}
	slices.Sort(names)
	best, largest := int32(-1), 0.0
	for _, i := range names {
		if f := math.Abs(terms[i]); !c.Fixed[i] && f > largest {
			best, largest = i, f
		}
	}
	if f, ok := terms[r.Of]; ok && !c.Fixed[r.Of] && math.Abs(f) >= 0.3*largest {
		best = r.Of
	}
	if best < 0 || largest < 1e-14 {
		rest := value
		for _, i := range names {
			rest += terms[i] * c.Value[i]
		}
		if math.Abs(rest) > 1e-9*(1+math.Abs(value)) {
			return fmt.Errorf("fem: what is held contradicts the relation of unknown %d", r.Of)
		}
		return nil // it holds already
	}
	made := Relation{Of: best, Value: -value / terms[best]}
	for _, i := range names {
		if f := -terms[i] / terms[best]; i != best && f != 0 {
			made.By, made.Factors = append(made.By, i), append(made.Factors, f)
		}
	}
	// Those before it may be by the one that is taken out now.
	for k := range e.relations {
		if m := slices.Index(e.relations[k].By, best); m >= 0 {
			e.relations[k] = e.relations[k].with(m, &made)
		}
	}
	e.out[best] = int32(len(e.relations))
	e.relations = append(e.relations, made)
	return nil
}

// with is a relation whose m-th unknown is replaced by what it follows from.
func (r *Relation) with(m int, by *Relation) Relation {
	f := r.Factors[m]
	out := Relation{Of: r.Of, By: slices.Delete(slices.Clone(r.By), m, m+1), Factors: slices.Delete(slices.Clone(r.Factors), m, m+1), Value: r.Value + f*by.Value}
	for n, j := range by.By {
		if at := slices.Index(out.By, j); at >= 0 {
			out.Factors[at] += f * by.Factors[n]
			continue
		}
		out.By, out.Factors = append(out.By, j), append(out.Factors, f*by.Factors[n])
	}
	return out
}

// stays are the unknowns that one stands for, with their factors.
func (e *elimination) stays(i int32, one *[1]int32) ([]int32, []float64) {
	if k := e.out[i]; k >= 0 {
		return e.relations[k].By, e.relations[k].Factors
	}
	one[0] = i
	return one[:], unit
}

var unit = []float64{1}

// pattern finds where the elements of K go.
func (e *elimination) pattern(s *System) {
	s.pattern()
	extra := make([]map[int32]bool, s.N) // columns of a row that K does not have there
	note := func(row, col int32) {
		if _, ok := slices.BinarySearch(s.cols[s.rows[row]:s.rows[row+1]], col); !ok {
			if extra[row] == nil {
				extra[row] = map[int32]bool{}
			}
			extra[row][col] = true
		}
	}
	var a, b [1]int32
	for i := range int32(s.N) {
		rows, _ := e.stays(i, &a)
		for _, j := range s.cols[s.rows[i]:s.rows[i+1]] {
			if e.out[i] < 0 && e.out[j] < 0 {
				continue
			}
			cols, _ := e.stays(j, &b)
			for _, row := range rows {
				for _, col := range cols {
					note(row, col)
				}
			}
		}
	}
	e.rows = make([]int32, s.N+1)
	for i := range int32(s.N) {
		if e.out[i] >= 0 {
			e.diagonal = append(e.diagonal, int32(len(e.cols)))
			e.cols = append(e.cols, i)
		} else {
			first := len(e.cols)
			for _, j := range s.cols[s.rows[i]:s.rows[i+1]] {
				if e.out[j] < 0 {
					e.cols = append(e.cols, j)
				}
			}
			for j := range extra[i] {
				e.cols = append(e.cols, j)
			}
			slices.Sort(e.cols[first:])
		}
		e.rows[i+1] = int32(len(e.cols))
	}
	e.direct = make([]int32, len(s.cols))
	place := func(row, col int32) int32 {
		at, _ := slices.BinarySearch(e.cols[e.rows[row]:e.rows[row+1]], col)
		return e.rows[row] + int32(at)
	}
	for i := range int32(s.N) {
		rows, by := e.stays(i, &a)
		for k := s.rows[i]; k < s.rows[i+1]; k++ {
			j := s.cols[k]
			if e.out[i] < 0 && e.out[j] < 0 {
				e.direct[k] = place(i, j)
				continue
			}
			e.direct[k] = -1
			cols, to := e.stays(j, &b)
			for m, row := range rows {
				for n, col := range cols {
					e.spread = append(e.spread, spreadTo{k, place(row, col), by[m] * to[n]})
				}
			}
		}
	}
}

// matrix returns a matrix of zeros for K̂.
func (e *elimination) matrix() *sparse.CSR {
	return &sparse.CSR{Rows: e.rows, Cols: e.cols, Data: make([]float64, len(e.cols))}
}

// tangent turns K to K̂.
func (e *elimination) tangent(to, from *sparse.CSR) {
	clear(to.Data)
	parallel.For(from.N(), 4096, func(_, lo, hi int) {
		for k := from.Rows[lo]; k < from.Rows[hi]; k++ {
			if at := e.direct[k]; at >= 0 {
				to.Data[at] = from.Data[k]
			}
		}
	})
	for _, p := range e.spread {
		to.Data[p.to] += p.factor * from.Data[p.from]
	}
	for _, at := range e.diagonal {
		to.Data[at] = 1
	}
}

// left is what relations leave of a matrix; without relations it is the matrix.
func (e *elimination) left(a *sparse.CSR) *sparse.CSR {
	if e == nil {
		return a
	}
	out := e.matrix()
	e.tangent(out, a)
	return out
}

// free holds what is taken out at zero besides what is held, for increments.
func (e *elimination) free(c *Constraints) *Constraints {
	if e == nil {
		return c
	}
	out := &Constraints{Fixed: slices.Clone(c.Fixed), Value: slices.Clone(c.Value)}
	for _, q := range e.relations {
		out.Fixed[q.Of], out.Value[q.Of] = true, 0
	}
	return out
}

// residual turns r to r̂.
func (e *elimination) residual(r []float64) {
	for k := range e.relations {
		q := &e.relations[k]
		for m, j := range q.By {
			r[j] += q.Factors[m] * r[q.Of]
		}
		r[q.Of] = 0
	}
}

// step completes a change of the unknowns that stay.
func (e *elimination) step(d []float64) {
	for k := range e.relations {
		q := &e.relations[k]
		sum := 0.0
		for m, j := range q.By {
			sum += q.Factors[m] * d[j]
		}
		d[q.Of] = sum
	}
}

// inParts does something to the real and the imaginary part of a vector.
func inParts(x []complex128, do func(part []float64)) {
	re, im := make([]float64, len(x)), make([]float64, len(x))
	for i, v := range x {
		re[i], im[i] = real(v), imag(v)
	}
	do(re)
	do(im)
	for i := range x {
		x[i] = complex(re[i], im[i])
	}
}

// complete completes the unknowns themselves.
func (e *elimination) complete(u []float64) {
	e.step(u)
	for k := range e.relations {
		u[e.relations[k].Of] += e.relations[k].Value
	}
}
