package fem

// tableau is a singly diagonally implicit Runge–Kutta method whose last stage is the
// step: K_i = f(t + c_i·h, u + h·Σ_j a_ij·K_j), u' = u + h·Σ b_i·K_i with b the last row
// of a, so that what is stored in a step is what its stages were given.
type tableau struct {
	c []float64
	a [][]float64
	// miss are the weights of the difference to a formula of one order less.
	miss []float64
	// explicit says that the first stage is the end of the step before.
	explicit bool
}

// diagonal is the root γ of 6γ³ − 18γ² + 9γ − 1 with which methods of three implicit
// stages are of order 3 and L-stable.
const diagonal = 0.43586652150845899941601945119356

// starter needs nothing from the past: it makes the steps after a start or a jump
// (R. Alexander, Diagonally implicit Runge–Kutta methods for stiff O.D.E.'s, SIAM J.
// Numer. Anal. 14, 1977, table 1). The formula of order 2 beside it is that of its first
// two stages.
var starter = func() *tableau {
	const g = diagonal
	c2 := (1 + g) / 2
	b1, b2 := -(6*g*g-16*g+1)/4, (6*g*g-20*g+5)/4
	// d₁ + d₂ = 1, d₁·γ + d₂·c₂ = 1/2.
	d2 := (0.5 - g) / (c2 - g)
	return &tableau{
		c: []float64{g, c2, 1}, a: [][]float64{{g}, {c2 - g, g}, {b1, b2, g}},
		miss: []float64{b1 - (1 - d2), b2 - d2, g},
	}
}()

// follower is the method ESDIRK3(2)4L[2]SA (C. A. Kennedy, M. H. Carpenter, Additive
// Runge–Kutta schemes for convection–diffusion–reaction equations, Appl. Numer. Math. 44,
// 2003, the implicit part of ARK3(2)4L[2]SA): order 3, stages of order 2, so that held
// values that change in time cost no order.
var follower = &tableau{
	explicit: true,
	c:        []float64{0, 2 * diagonal, 3. / 5, 1},
	a: [][]float64{
		{},
		{diagonal, diagonal},
		{2746238789719. / 10658868560708, -640167445237. / 6845629431997, diagonal},
		{1471266399579. / 7840856788654, -4482444167858. / 7529755066697, 11266239266428. / 11593286722821, diagonal},
	},
	miss: []float64{
		1471266399579./7840856788654 - 2756255671327./12835298489170,
		-4482444167858./7529755066697 + 10771552573575./22201958757719,
		11266239266428./11593286722821 - 9247589265047./10645013368117,
		diagonal - 2193209047091./5459859503100,
	},
}

// weights of the stages in the step.
func (m *tableau) weights() []float64 { return m.a[len(m.a)-1] }

func (m *tableau) stages() int { return len(m.c) }
