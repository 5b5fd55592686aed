package fem

// Sum is the kernel whose terms are those of several kernels together.
func Sum(kernels ...Kernel) Kernel {
	if len(kernels) == 1 {
		return kernels[0]
	}
	return sum(kernels)
}

type sum []Kernel

// Each lists the kernels that a kernel is the sum of.
func Each(k Kernel) []Kernel {
	if s, ok := k.(sum); ok {
		return s
	}
	return []Kernel{k}
}

// Bound is a kernel that takes from others of the same sum. A fork takes from theirs: of
// returns the fork of a kernel.
type Bound interface {
	Kernel
	Bind(of func(k Kernel) Kernel)
}

func (s sum) Fork() Kernel {
	out := make(sum, len(s))
	for i, k := range s {
		out[i] = k
		if f, ok := k.(Forker); ok {
			out[i] = f.Fork()
		}
	}
	of := func(k Kernel) Kernel {
		for i := range s {
			if inner(s[i]) == k {
				return inner(out[i])
			}
		}
		return k
	}
	for _, k := range out {
		if b, ok := k.(Bound); ok {
			b.Bind(of)
		}
	}
	return out
}

// Quiet is a kernel that is prepared for points, so that others can take from it, and has no
// terms.
func Quiet(k Kernel) Kernel { return quiet{k} }

type quiet struct{ of Kernel }

// inner is the kernel that a quiet one is of, or the kernel itself.
func inner(k Kernel) Kernel {
	if q, ok := k.(quiet); ok {
		return q.of
	}
	return k
}

func (q quiet) Fork() Kernel {
	if f, ok := q.of.(Forker); ok {
		return quiet{f.Fork()}
	}
	return q
}

func (q quiet) Prepare(side int, points []Point) error {
	if p, ok := q.of.(Preparer); ok && side < 0 {
		return p.Prepare(side, points)
	}
	return nil
}

// Survey lets what is quiet look on.
func (q quiet) Survey(s *System, at *State) error {
	if o, ok := q.of.(Onlooker); ok {
		return o.Onlook(s, at)
	}
	return nil
}

func (q quiet) Cell(*Point, *Terms) error      { return nil }
func (q quiet) Side(int, *Point, *Terms) error { return nil }
func (q quiet) ByValues() bool                 { return true }
func (q quiet) LinearCells(int32) bool         { return true }
func (q quiet) LinearSide(int) bool            { return true }
func (q quiet) LinearJoint(int) bool           { return true }

func (s sum) Survey(sys *System, at *State) error {
	for _, k := range s {
		if err := sys.survey(k, at); err != nil {
			return err
		}
	}
	return nil
}

func (s sum) Prepare(side int, points []Point) error {
	for _, k := range s {
		if p, ok := k.(Preparer); ok {
			if err := p.Prepare(side, points); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s sum) Cell(p *Point, t *Terms) error {
	for _, k := range s {
		if err := k.Cell(p, t); err != nil {
			return err
		}
	}
	return nil
}

func (s sum) Side(number int, p *Point, t *Terms) error {
	for _, k := range s {
		if k, ok := k.(SideKernel); ok {
			if err := k.Side(number, p, t); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s sum) Joint(number int, p *Point, other []float64, t *JointTerms) error {
	for _, k := range s {
		if k, ok := k.(JointKernel); ok {
			if err := k.Joint(number, p, other, t); err != nil {
				return err
			}
		}
	}
	return nil
}

// every says whether all kernels are of a kind and hold to something.
func every[K any](s sum, holds func(k K) bool) bool {
	for _, k := range s {
		if k, ok := k.(K); !ok || !holds(k) {
			return false
		}
	}
	return true
}

func (s sum) ByValues() bool { return every(s, FaceKernel.ByValues) }

func (s sum) LinearCells(part int32) bool {
	return every(s, func(k LinearKernel) bool { return k.LinearCells(part) })
}

func (s sum) LinearSide(number int) bool {
	return every(s, func(k LinearKernel) bool { return k.LinearSide(number) })
}

func (s sum) LinearJoint(number int) bool {
	return every(s, func(k LinearKernel) bool { return k.LinearJoint(number) })
}
