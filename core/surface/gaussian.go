package surface

import (
	"fmt"
	"math"
	"slices"
	"sync"

	"gonum.org/v1/gonum/floats"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize"
)

// gaussian is a Gaussian process about a plane (about a constant if there are few points) with the covariance of Matérn with 5/2, of a length of its own
// along each axis (C. E. Rasmussen, C. K. I. Williams, Gaussian Processes for Machine Learning, 2006, chapters 2, 4 and 5): how mesh and tolerance
// let computed values jump is white noise on top. Lengths and noise are those of the greatest likelihood, with a faint pull of the lengths towards
// that of the range: without it, few points let an axis that does not matter run off. No length is shorter than what the points along its axis tell apart.
type gaussian struct {
	x       [][]float64
	flat    []float64 // x over the lengths by √5, n×d
	lengths []float64
	inverse []float64 // √5 over the lengths
	noise   float64   // its variance by that of the process
	sigma2  float64
	weights []float64    // R⁻¹(y − Fβ)
	lower   []float64    // the inverse of the Cholesky factor of R by rows, n(n + 1)/2
	powers  [][]int      // of the plane
	beta    []float64    // its factors
	z       *mat.Dense   // R⁻¹F, n×m
	inner   mat.Cholesky // of FᵀR⁻¹F
	q       []float64    // the diagonal of R⁻¹ − R⁻¹F(FᵀR⁻¹F)⁻¹FᵀR⁻¹
	y       []float64
}

// Bounds of the logarithms of hyperparameters, and the pull.
const (
	leastLength, mostLength = 0.05, 50.0
	leastNoise, mostNoise   = 1e-9, 1.0
	pullTo, pullWidth       = 0.7, 2.0
)

// manyPoints is from how many points on one search for the likelihood has to do.
const manyPoints = 150

// matern is the correlation over five times a squared distance.
func matern(s float64) float64 {
	r := math.Sqrt(s)
	return (1 + r + s*(1./3)) * fall(r)
}

// steps of the table of powers of two.
const steps = 64

// powersOfTwo are those by steps of 1/64, from 1 down.
var powersOfTwo = func() (p [steps]float64) {
	for i := range p {
		p[i] = math.Exp2(-float64(i) / steps)
	}
	return p
}()

// fall is e^(−r) of r ≥ 0 within 1e-13 of it: a surface takes it thousands of times for each point, and half of that is [math.Exp].
func fall(r float64) float64 {
	if r > 700 {
		return 0
	}
	k := int(r * (steps / math.Ln2))
	x := r - float64(k)*(math.Ln2/steps) // 0 to 0.011
	p := 1 - x*(1-x*(1./2)*(1-x*(1./3)*(1-x*(1./4)*(1-x*(1./5)))))
	return p * powersOfTwo[k%steps] * math.Float64frombits(uint64(1023-k/steps)<<52)
}

// told is the shortest length along each axis that points tell of: most of the way from one of their values to the next.
func told(x [][]float64) []float64 {
	least := make([]float64, len(x[0]))
	for j := range least {
		values := levels(x, j)
		least[j] = leastLength
		if n := len(values); n > 1 {
			least[j] = max(leastLength, 0.7*(values[n-1]-values[0])/float64(n-1))
		}
	}
	return least
}

// levels are the values that points have along an axis, ascending.
func levels(x [][]float64, j int) (values []float64) {
	for _, p := range x {
		values = append(values, p[j])
	}
	slices.Sort(values)
	return slices.CompactFunc(values, func(a, b float64) bool { return math.Abs(a-b) < 1e-9 })
}

// planeOf are the powers of the plane about which a process of points is: of a constant if they are few, or lie along one line or plane.
func planeOf(x [][]float64) [][]int {
	d := len(x[0])
	powers := powersUpTo(d, 1)
	if len(x) < 2*(d+1) {
		return powers[:1]
	}
	var qr mat.QR
	qr.Factorize(planeAt(x, powers))
	if qr.Cond() > 1e8 {
		return powers[:1]
	}
	return powers
}

func fitGaussian(x [][]float64, y []float64) (form, error) {
	n, d := len(x), len(x[0])
	if n < 3 {
		return nil, fmt.Errorf("a Gaussian process takes 3 trials or more that count, and there are %d", n)
	}
	least := told(x)
	l := newLikelihood(x, y, least)
	starts := make([][]float64, 0, 3)
	for _, length := range []float64{0.3, 1, 3} {
		p := make([]float64, d+1)
		for j := range d {
			p[j] = math.Log(max(length, 1.5*least[j]))
		}
		p[d] = math.Log(1e-5)
		starts = append(starts, p)
	}
	evaluations := 120
	if n > manyPoints { // from the best of the starts alone
		best, value := 0, math.Inf(1)
		for i, p := range starts {
			if v := l.at(p, nil); v < value {
				best, value = i, v
			}
		}
		starts, evaluations = starts[best:best+1], 40
	}
	type found struct {
		p []float64
		f float64
	}
	results := make([]found, len(starts))
	var wg sync.WaitGroup
	for i, p := range starts {
		wg.Go(func() {
			own := newLikelihood(x, y, least)
			results[i] = found{p, math.Inf(1)}
			problem := optimize.Problem{
				Func: func(p []float64) float64 { return own.at(p, nil) },
				Grad: func(g, p []float64) { own.at(p, g) },
			}
			res, err := optimize.Minimize(problem, p, &optimize.Settings{FuncEvaluations: evaluations, GradientThreshold: 1e-4,
				Converger: &optimize.FunctionConverge{Absolute: 1e-5, Iterations: 3}}, &optimize.BFGS{})
			// A line search that ends early has still found the best point so far.
			if res != nil && (err == nil || !math.IsNaN(res.F)) {
				results[i] = found{res.X, res.F}
			}
		})
	}
	wg.Wait()
	best := results[0]
	for _, r := range results[1:] {
		if r.f < best.f {
			best = r
		}
	}
	for j := range least {
		best.p[j] = max(best.p[j], math.Log(least[j]))
	}
	return newGaussian(x, y, best.p)
}

// likelihood is minus the logarithm of the likelihood by the logarithms of the lengths and of the noise.
type likelihood struct {
	y     []float64
	least []float64 // logarithms of the shortest lengths
	n, d  int
	r     *mat.SymDense
	plane *mat.Dense // F, n×m
	dist  []float64  // squared differences by axis of each pair
	last  []float64  // where it was evaluated last, with its gradient
	grad  []float64
	f     float64
}

func newLikelihood(x [][]float64, y, least []float64) *likelihood {
	n, d := len(x), len(x[0])
	l := &likelihood{y: y, n: n, d: d, r: mat.NewSymDense(n, nil), grad: make([]float64, d+1), plane: planeAt(x, planeOf(x))}
	for _, v := range least {
		l.least = append(l.least, math.Log(v))
	}
	for i := range n {
		for k := range i {
			for j := range d {
				v := x[i][j] - x[k][j]
				l.dist = append(l.dist, v*v)
			}
		}
	}
	return l
}

// planeAt are the products of a plane at points.
func planeAt(x [][]float64, powers [][]int) *mat.Dense {
	f := mat.NewDense(len(x), len(powers), nil)
	for i := range x {
		f.SetRow(i, products(powers, x[i]))
	}
	return f
}

// at is the value, and its gradient in g unless that is nil.
func (l *likelihood) at(p, g []float64) float64 {
	if l.last == nil || !floats.Equal(l.last, p) {
		l.evaluate(p)
		l.last = append(l.last[:0], p...)
	}
	if g != nil {
		copy(g, l.grad)
	}
	return l.f
}

// noFit is the value where the matrix cannot be factored.
const noFit = 1e10

func (l *likelihood) evaluate(p []float64) {
	n, d := l.n, l.d
	clear(l.grad)
	l.f = 0
	in := make([]float64, d)
	for j := range d {
		// Beyond their bounds, a wall that grows.
		l.wall(j, p[j], l.least[j], math.Log(mostLength))
		in[j] = math.Exp(-2 * clamp(p[j], l.least[j], math.Log(mostLength)))
		pull := (p[j] - math.Log(pullTo)) / pullWidth
		l.f += pull * pull / 2
		l.grad[j] += pull / pullWidth
	}
	l.wall(d, p[d], math.Log(leastNoise), math.Log(mostNoise))
	noise := math.Exp(clamp(p[d], math.Log(leastNoise), math.Log(mostNoise)))
	at := 0
	for i := range n {
		for k := range i {
			s := 0.0
			for j := range d {
				s += l.dist[at+j] * in[j]
			}
			at += d
			l.r.SetSym(i, k, matern(5*s))
		}
		l.r.SetSym(i, i, 1+noise)
	}
	var chol, inner mat.Cholesky
	var q mat.SymDense
	if !chol.Factorize(l.r) || chol.InverseTo(&q) != nil {
		l.f = noFit
		return
	}
	// The plane is that of the greatest likelihood for each.
	var z, a, beta, w mat.Dense
	z.Mul(&q, l.plane)
	a.Mul(l.plane.T(), &z)
	if !inner.Factorize(symmetric(&a)) {
		l.f = noFit
		return
	}
	y := mat.NewDense(n, 1, l.y)
	beta.Mul(z.T(), y)
	if inner.SolveTo(&beta, &beta) != nil {
		l.f = noFit
		return
	}
	rest := mat.NewDense(n, 1, nil)
	rest.Mul(l.plane, &beta)
	rest.Sub(y, rest)
	w.Mul(&q, rest)
	ws := w.RawMatrix().Data
	sigma2 := max(floats.Dot(ws, rest.RawMatrix().Data)/float64(n), 1e-300)
	l.f += float64(n)/2*math.Log(sigma2) + chol.LogDet()/2
	at = 0
	noiseSum := 0.0
	for i := range n {
		for k := range i {
			s := 0.0
			for j := range d {
				s += l.dist[at+j] * in[j]
			}
			r := math.Sqrt(5 * s)
			// dR/d(ln length) = 5/3·(1 + √5r)·e^(−√5r)·(Δ/length)², of both halves of the matrix.
			c := (q.At(i, k) - ws[i]*ws[k]/sigma2) * 5 / 3 * (1 + r) * fall(r)
			for j := range d {
				l.grad[j] += c * l.dist[at+j] * in[j]
			}
			at += d
		}
		noiseSum += q.At(i, i) - ws[i]*ws[i]/sigma2
	}
	l.grad[d] += noise * noiseSum / 2
}

// symmetric is a matrix that is symmetric but for round-off as such.
func symmetric(a *mat.Dense) *mat.SymDense {
	n, _ := a.Dims()
	s := mat.NewSymDense(n, nil)
	for i := range n {
		for k := range i + 1 {
			s.SetSym(i, k, (a.At(i, k)+a.At(k, i))/2)
		}
	}
	return s
}

// wall keeps a hyperparameter between its bounds.
func (l *likelihood) wall(j int, p, lo, hi float64) {
	out := p - clamp(p, lo, hi)
	l.f += 5 * out * out
	l.grad[j] += 10 * out
}

func clamp(v, lo, hi float64) float64 { return min(max(v, lo), hi) }

// newGaussian makes a process of known hyperparameters.
func newGaussian(x [][]float64, y []float64, p []float64) (form, error) {
	close := fmt.Errorf("the trials lie too close together for a Gaussian process")
	n, d := len(x), len(x[0])
	g := &gaussian{x: x, y: y, powers: planeOf(x), noise: math.Exp(clamp(p[d], math.Log(leastNoise), math.Log(mostNoise)))}
	for j := range d {
		g.lengths = append(g.lengths, math.Exp(clamp(p[j], math.Log(leastLength), math.Log(mostLength))))
		g.inverse = append(g.inverse, math.Sqrt(5)/g.lengths[j])
	}
	for i := range n {
		for j := range d {
			g.flat = append(g.flat, x[i][j]*g.inverse[j])
		}
	}
	r := mat.NewSymDense(n, nil)
	row := make([]float64, n)
	for i := range n {
		g.correlations(x[i], row)
		for k := range i {
			r.SetSym(i, k, row[k])
		}
		r.SetSym(i, i, 1+g.noise)
	}
	var chol mat.Cholesky
	var whole mat.SymDense
	var lower, inverse mat.TriDense
	if !chol.Factorize(r) || chol.InverseTo(&whole) != nil {
		return nil, close
	}
	chol.LTo(&lower)
	if inverse.InverseTri(&lower) != nil {
		return nil, close
	}
	for i := range n {
		for k := range i + 1 {
			g.lower = append(g.lower, inverse.At(i, k))
		}
	}
	plane := planeAt(x, g.powers)
	var a, beta, w, right mat.Dense
	g.z = &mat.Dense{}
	if chol.SolveTo(g.z, plane) != nil {
		return nil, close
	}
	a.Mul(plane.T(), g.z)
	if !g.inner.Factorize(symmetric(&a)) {
		return nil, close
	}
	ys := mat.NewDense(n, 1, y)
	beta.Mul(g.z.T(), ys)
	if g.inner.SolveTo(&beta, &beta) != nil {
		return nil, close
	}
	g.beta = mat.Col(nil, 0, &beta)
	rest := mat.NewDense(n, 1, nil)
	rest.Mul(plane, &beta)
	rest.Sub(ys, rest)
	if chol.SolveTo(&w, rest) != nil {
		return nil, close
	}
	g.weights = mat.Col(nil, 0, &w)
	g.sigma2 = floats.Dot(g.weights, rest.RawMatrix().Data) / float64(max(1, n-len(g.powers)))
	if g.inner.SolveTo(&right, g.z.T()) != nil {
		return nil, close
	}
	for i := range n {
		v := whole.At(i, i)
		for k := range g.powers {
			v -= g.z.At(i, k) * right.At(k, i)
		}
		g.q = append(g.q, max(v, 1e-300))
	}
	g.calibrate()
	return g, nil
}

// calibrate makes the variance such that points left out lie from their predictions as far as it says, and wider by as many numbers as were
// taken from the points: the likelihood of few points trusts its lengths too much, that of many smooth ones too little.
func (g *gaussian) calibrate() {
	values, deviations := g.left()
	n := float64(len(values))
	sum := 0.0
	for i := range values {
		z := (values[i] - g.y[i]) / deviations[i]
		sum += z * z
	}
	if f := sum / max(1, n-float64(len(g.lengths))-float64(len(g.powers))); f > 0 && !math.IsInf(f, 0) {
		g.sigma2 *= f
	}
}

// widen makes all deviations wider by a factor.
func (g *gaussian) widen(by float64) { g.sigma2 *= by * by }

// correlations of a point with those that are known.
func (g *gaussian) correlations(x, out []float64) {
	d := len(x)
	var near [16]float64
	scaled := near[:0]
	for j := range x {
		scaled = append(scaled, x[j]*g.inverse[j])
	}
	for i := range out {
		s := 0.0
		for j, v := range g.flat[i*d : i*d+d] {
			t := scaled[j] - v
			s += t * t
		}
		out[i] = matern(s)
	}
}

func (g *gaussian) at(x []float64, with bool) (value, deviation float64) {
	f := products(g.powers, x)
	value = floats.Dot(f, g.beta)
	if !with {
		d := len(x)
		var near [16]float64
		scaled := near[:0]
		for j := range x {
			scaled = append(scaled, x[j]*g.inverse[j])
		}
		for i, w := range g.weights {
			s := 0.0
			for j, v := range g.flat[i*d : i*d+d] {
				t := scaled[j] - v
				s += t * t
			}
			value += w * matern(s)
		}
		return value, 0
	}
	r := make([]float64, len(g.weights))
	g.correlations(x, r)
	value += floats.Dot(r, g.weights)
	known, at := 0.0, 0
	for i := range r {
		v := floats.Dot(g.lower[at:at+i+1], r[:i+1])
		known += v * v
		at += i + 1
	}
	// What the plane is not known by.
	short := mat.NewVecDense(len(f), f)
	var seen, solved mat.VecDense
	seen.MulVec(g.z.T(), mat.NewVecDense(len(r), r))
	short.SubVec(short, &seen)
	if g.inner.SolveVecTo(&solved, short) != nil {
		return value, math.NaN()
	}
	return value, math.Sqrt(max(0, g.sigma2*(1-known+mat.Dot(short, &solved))))
}

// left predicts by what O. Dubrule (Math. Geol. 15 (1983) 687) found of the inverse.
func (g *gaussian) left() (values, deviations []float64) {
	for i := range g.y {
		values = append(values, g.y[i]-g.weights[i]/g.q[i])
		deviations = append(deviations, math.Sqrt(g.sigma2/g.q[i]))
	}
	return values, deviations
}

func (g *gaussian) again(x [][]float64, y []float64) (form, error) {
	p := make([]float64, len(g.lengths)+1)
	for j, l := range g.lengths {
		p[j] = math.Log(l)
	}
	p[len(g.lengths)] = math.Log(g.noise)
	return newGaussian(x, y, p)
}

func (g *gaussian) source() Source {
	return Source{Points: g.x, Weights: g.weights, Lengths: g.lengths, Terms: g.beta, Powers: g.powers}
}
