package surface

import (
	"fmt"
	"math"
	"sync"

	"gonum.org/v1/gonum/floats"
	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize"
)

// gaussian is a Gaussian process with a constant mean and the covariance of Matérn with 5/2, of a length of its own along each axis (C. E.
// Rasmussen, C. K. I. Williams, Gaussian Processes for Machine Learning, 2006, chapters 2, 4 and 5): how mesh and tolerance let computed values
// jump is white noise on top. Lengths and noise are those of the greatest likelihood, with a faint pull of the lengths towards that of the range:
// without it, few points let an axis that does not matter run off.
type gaussian struct {
	x       [][]float64
	flat    []float64 // x over the lengths by √5, n×d
	lengths []float64
	inverse []float64 // √5 over the lengths
	noise   float64   // its variance by that of the process
	mu      float64
	sigma2  float64
	weights []float64 // R⁻¹(y − μ)
	q       *mat.SymDense
	lower   []float64     // the inverse of the Cholesky factor by rows, n(n + 1)/2
	ones    *mat.VecDense // R⁻¹·1
	oneSum  float64
	y       []float64
}

// Bounds of the logarithms of hyperparameters, and the pull.
const (
	leastLength, mostLength = 0.02, 50.0
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

// powers of two by steps of 1/64, from 1 down.
var powers = func() (p [steps]float64) {
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
	return p * powers[k%steps] * math.Float64frombits(uint64(1023-k/steps)<<52)
}

func fitGaussian(x [][]float64, y []float64) (form, error) {
	n, d := len(x), len(x[0])
	if n < 3 {
		return nil, fmt.Errorf("a Gaussian process takes 3 trials or more that count, and there are %d", n)
	}
	l := newLikelihood(x, y)
	starts := make([][]float64, 0, 3)
	for _, length := range []float64{0.3, 1, 3} {
		p := make([]float64, d+1)
		for j := range d {
			p[j] = math.Log(length)
		}
		p[d] = math.Log(1e-5)
		starts = append(starts, p)
	}
	evaluations := 120
	if n > manyPoints { // from the best of the starts alone
		best, least := 0, math.Inf(1)
		for i, p := range starts {
			if v := l.at(p, nil); v < least {
				best, least = i, v
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
			own := newLikelihood(x, y)
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
	return newGaussian(x, y, best.p)
}

// likelihood is minus the logarithm of the likelihood by the logarithms of the lengths and of the noise.
type likelihood struct {
	x, y []float64 // x n×d
	n, d int
	r    *mat.SymDense
	dist []float64 // squared differences by axis of each pair
	last []float64 // where it was evaluated last, with its gradient
	grad []float64
	f    float64
}

func newLikelihood(x [][]float64, y []float64) *likelihood {
	n, d := len(x), len(x[0])
	l := &likelihood{y: y, n: n, d: d, r: mat.NewSymDense(n, nil), grad: make([]float64, d+1)}
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

func (l *likelihood) evaluate(p []float64) {
	n, d := l.n, l.d
	clear(l.grad)
	l.f = 0
	in := make([]float64, d)
	for j := range d {
		// Beyond their bounds, a wall that grows.
		l.wall(j, p[j], math.Log(leastLength), math.Log(mostLength))
		in[j] = math.Exp(-2 * clamp(p[j], math.Log(leastLength), math.Log(mostLength)))
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
	var chol mat.Cholesky
	if !chol.Factorize(l.r) {
		l.f = 1e10
		return
	}
	var q mat.SymDense
	if chol.InverseTo(&q) != nil {
		l.f = 1e10
		return
	}
	ones, ys := 0.0, 0.0
	sums := make([]float64, n)
	qy := make([]float64, n)
	for i := range n {
		for k := range n {
			v := q.At(i, k)
			sums[i] += v
			qy[i] += v * l.y[k]
		}
		ones += sums[i]
		ys += qy[i]
	}
	mu := ys / ones
	sigma2 := 0.0
	w := qy
	for i := range n {
		w[i] -= mu * sums[i]
	}
	for i := range n {
		sigma2 += w[i] * (l.y[i] - mu)
	}
	sigma2 = max(sigma2/float64(n), 1e-300)
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
			c := (q.At(i, k) - w[i]*w[k]/sigma2) * 5 / 3 * (1 + r) * math.Exp(-r)
			for j := range d {
				l.grad[j] += c * l.dist[at+j] * in[j]
			}
			at += d
		}
		noiseSum += q.At(i, i) - w[i]*w[i]/sigma2
	}
	l.grad[d] += noise * noiseSum / 2
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
	n, d := len(x), len(x[0])
	g := &gaussian{x: x, y: y, noise: math.Exp(clamp(p[d], math.Log(leastNoise), math.Log(mostNoise)))}
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
	if !chol.Factorize(r) {
		return nil, fmt.Errorf("the trials lie too close together for a Gaussian process")
	}
	one := mat.NewVecDense(n, nil)
	for i := range n {
		one.SetVec(i, 1)
	}
	g.ones = mat.NewVecDense(n, nil)
	if err := chol.SolveVecTo(g.ones, one); err != nil {
		return nil, fmt.Errorf("the trials lie too close together for a Gaussian process")
	}
	g.oneSum = mat.Sum(g.ones)
	g.mu = mat.Dot(g.ones, mat.NewVecDense(n, y)) / g.oneSum
	rest := mat.NewVecDense(n, nil)
	for i := range n {
		rest.SetVec(i, y[i]-g.mu)
	}
	w := mat.NewVecDense(n, nil)
	if err := chol.SolveVecTo(w, rest); err != nil {
		return nil, fmt.Errorf("the trials lie too close together for a Gaussian process")
	}
	g.weights = w.RawVector().Data
	g.sigma2 = mat.Dot(w, rest) / float64(max(1, n-1))
	g.q = &mat.SymDense{}
	if err := chol.InverseTo(g.q); err != nil {
		return nil, fmt.Errorf("the trials lie too close together for a Gaussian process")
	}
	var lower, inverse mat.TriDense
	chol.LTo(&lower)
	if err := inverse.InverseTri(&lower); err != nil {
		return nil, fmt.Errorf("the trials lie too close together for a Gaussian process")
	}
	for i := range n {
		for k := range i + 1 {
			g.lower = append(g.lower, inverse.At(i, k))
		}
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
	if f := sum / max(1, n-float64(len(g.lengths))-1); f > 0 && !math.IsInf(f, 0) {
		g.sigma2 *= f
	}
}

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
	if !with {
		d := len(x)
		var near [16]float64
		scaled := near[:0]
		for j := range x {
			scaled = append(scaled, x[j]*g.inverse[j])
		}
		value = g.mu
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
	value = g.mu + floats.Dot(r, g.weights)
	known, at := 0.0, 0
	for i := range r {
		v := floats.Dot(g.lower[at:at+i+1], r[:i+1])
		known += v * v
		at += i + 1
	}
	short := 1 - floats.Dot(g.ones.RawVector().Data, r)
	return value, math.Sqrt(max(0, g.sigma2*(1-known+short*short/g.oneSum)))
}

// left predicts by what O. Dubrule (Math. Geol. 15 (1983) 687) found of the inverse.
func (g *gaussian) left() (values, deviations []float64) {
	for i := range g.y {
		qii := g.q.At(i, i) - g.ones.AtVec(i)*g.ones.AtVec(i)/g.oneSum
		values = append(values, g.y[i]-g.weights[i]/qii)
		deviations = append(deviations, math.Sqrt(g.sigma2/qii))
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
	return Source{Points: g.x, Weights: g.weights, Lengths: g.lengths, Terms: []float64{g.mu}, Powers: [][]int{make([]int, len(g.lengths))}}
}
