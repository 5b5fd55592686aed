package eddy

import "math"

// Constants of the model of F. R. Menter, M. Kuntz and R. Langtry, Turbulence, Heat and Mass Transfer 4 (2003) 625, which
// carries the energy of eddies k and the rate ω at which they decay. What is solved for is the logarithm of ω, w: it is
// positive then, and even along a wall, towards which ω grows without bounds (F. Ilinca and D. Pelletier, J. Thermophys. Heat
// Transfer 12 (1998) 351).
const (
	// Decay is how fast energy decays over that rate, β*.
	Decay    = 0.09
	a1       = 0.31
	sigmaK1  = 0.85
	sigmaK2  = 1.
	sigmaW1  = 0.5
	sigmaW2  = 0.856
	beta1    = 0.075
	beta2    = 0.0828
	gamma1   = 5. / 9
	gamma2   = 0.44
	mostMade = 10. // how much more energy may arise than decays
)

// Inputs is how many numbers the model depends on, by their places: k, w, the square of the shear rate S, ∇k·∇w, (∇w)² and
// (∇k)².
const (
	ByEnergy = iota
	ByRate
	ByShear
	ByCross
	BySteepRate
	BySteepEnergy
	Inputs
)

// State is what the model depends on at a point, with how far that is from the nearest wall, m, and the kinematic viscosity
// of the fluid, m²/s. Its numbers are those of [Inputs]: m²/s², the logarithm of 1/s, 1/s², m/s², 1/m², m²/s⁴.
type State struct {
	In           [Inputs]float64
	Distance, Nu float64
	// Settling says that derivatives have those of how the model blends what is near walls and far from them: far from a solution
	// they lead astray.
	Settling bool
}

// Value is a number with its derivatives by those of a state.
type Value struct {
	Value float64
	By    [Inputs]float64
}

func (x dual) value() Value { return Value{x.v, x.d} }

// Turning is what follows from a state: the viscosity of eddies, m²/s; of k and of w how fast they grow, m²/s³ and 1/s, with
// what viscosity they spread, m²/s, and what they spread as that is not even, per time.
type Turning struct {
	Viscosity                  Value
	EnergyGrows, RateGrows     Value
	EnergySpreads, RateSpreads Value
	EnergyBends, RateBends     Value
}

// What follows of an energy k that is next to none does not count: it is taken to be more by parts of ν²/d², with which eddies
// would be as slow as friction.
const (
	leastInRoot  = 1e-6
	leastInCross = 1.
	// leastExact is how much the viscosity of eddies is over that of the fluid for the blend to have derivatives, which are
	// steep without bounds where there are none.
	leastExact = 1e-3
)

// rules is what the viscosity of eddies needs: k, ω and the shear rate, the rate over which k is that viscosity, which is ω or what
// the shear is where that is more, and how near the point is to a wall by the energy and by the viscosity of the fluid.
func (s *State) rules() (k, omega, shear, rules, far, near dual) {
	k = of(s.In[ByEnergy], ByEnergy)
	omega = of(s.In[ByRate], ByRate)
	rate := math.Exp(omega.v)
	omega = omega.with(rate, rate)
	shear = of(max(s.In[ByShear], 1e-24), ByShear).root()
	d := s.Distance
	root := k.plus(fixed(s.slow() * leastInRoot)).root()
	far = root.over(omega).scaled(1 / (Decay * d))
	near = fixed(500 * s.Nu / (d * d)).over(omega)
	f2 := larger(far.scaled(2), near).square().tanh()
	return k, omega, shear, larger(omega, shear.times(f2).scaled(1/a1)), far, near
}

// slow is ν²/d², m²/s².
func (s *State) slow() float64 { return s.Nu * s.Nu / (s.Distance * s.Distance) }

// Viscosity is the kinematic viscosity of eddies, m²/s.
func (s *State) Viscosity() Value {
	k, _, _, rules, _, _ := s.rules()
	return k.over(rules).value()
}

// blend is 1 where the model is that near walls, and nothing where it is that far from them.
func (s *State) blend(k, omega, cross, far, near dual) dual {
	arg := larger(far, near)
	if cross.v > 0 {
		arg = smaller(arg, k.plus(fixed(s.slow()*leastInCross)).over(cross).scaled(2/(s.Distance*s.Distance)))
	}
	f1 := arg.square().square().tanh()
	if !s.Settling || k.v < leastExact*s.Nu*omega.v {
		return fixed(f1.v)
	}
	return f1
}

// Turning finds it.
func (s *State) Turning() Turning {
	k, omega, shear, rules, far, near := s.rules()
	cross := of(s.In[ByCross], ByCross)
	f1 := s.blend(k, omega, cross, far, near)
	moves := k.over(rules)
	square := shear.square()
	decays := k.times(omega).scaled(Decay)
	made := smaller(moves.times(square), decays.scaled(mostMade))
	strained := smaller(square, omega.times(rules).scaled(mostMade*Decay))
	steepW, steepK := of(s.In[BySteepRate], BySteepRate), of(s.In[BySteepEnergy], BySteepEnergy)
	sk, sw := mixed(f1, sigmaK1, sigmaK2), mixed(f1, sigmaW1, sigmaW2)
	nu := fixed(s.Nu)
	spreadK, spreadW := nu.plus(sk.times(moves)), nu.plus(sw.times(moves))
	grows := mixed(f1, gamma1, gamma2).times(strained).over(omega).less(mixed(f1, beta1, beta2).times(omega)).
		plus(spreadW.times(steepW)).
		plus(fixed(1).less(f1).times(cross).over(omega).scaled(2 * sigmaW2))
	// How the viscosity is steep: as the energy is, and, where eddies decay faster than they are sheared, against the rate.
	// In between by a power of ω over that rate, which is next to nothing soon.
	against := k.scaled(math.Pow(omega.v/rules.v, 64))
	alsoK, alsoW := steepK.less(against.times(cross)), cross.less(against.times(steepW))
	return Turning{
		Viscosity: moves.value(), EnergyGrows: made.less(decays).value(), RateGrows: grows.value(),
		EnergySpreads: spreadK.value(), RateSpreads: spreadW.value(),
		EnergyBends: sk.times(alsoK).over(rules).value(), RateBends: sw.times(alsoW).over(rules).value(),
	}
}
