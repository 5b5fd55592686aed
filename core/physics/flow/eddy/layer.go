package eddy

import (
	"math"
	"sort"
	"sync"
)

// layer is the solution of the model that carries energy and rate along a smooth wall where the friction is the same at all
// distances, all in wall units, by the distance y: at nodes that are even in ln(1 + y/layerBend).
type layer struct {
	y, energy, rate, moves, speed []float64 // rate is the logarithm
	// smooth is the roughness at which a wall holds as much more than a smooth one as ln 2 over κ.
	smooth float64
}

const (
	layerBend  = 3.
	layerStep  = 0.01
	layerNodes = 1300
	// viscousUntil is up to where the rate is that of a layer that viscosity governs.
	viscousUntil = 0.5
	// settled is how little the energy and the rate change in the last iteration.
	settled     = 1e-10
	layerRounds = 2000
)

// kappaOf is the constant of von Kármán that the constants of the model come to.
var kappaOf = math.Sqrt((beta1/Decay - gamma1) * math.Sqrt(Decay) / sigmaW1)

// viscousRate is the rate where viscosity governs, 6/(β₁y²) (D. C. Wilcox, AIAA J. 26 (1988) 1299).
func viscousRate(y float64) float64 { return 6 / (beta1 * y * y) }

// along is that layer, found by iterations once.
var along = sync.OnceValue(func() *layer {
	n := layerNodes
	l := &layer{y: make([]float64, n), energy: make([]float64, n), rate: make([]float64, n), moves: make([]float64, n), speed: make([]float64, n)}
	omega, makes, decays := make([]float64, n), make([]float64, n), make([]float64, n)
	far := func(y float64) float64 { return 1 / (math.Sqrt(Decay) * kappaOf * y) }
	for i := range n {
		l.y[i] = layerBend * math.Expm1(layerStep*float64(i))
		d := max(l.y[i], layerBend*layerStep/2)
		omega[i] = math.Hypot(viscousRate(d), far(d))
		l.energy[i] = min(1, d*d/200) / math.Sqrt(Decay)
	}
	for range layerRounds {
		for i := range n {
			moves := l.energy[i] / omega[i]
			if a := a1 * l.energy[i]; a < 1 { // the shear follows: it is 1 over 1 and that viscosity
				moves = min(moves, a/(1-a))
			}
			l.moves[i] += (moves - l.moves[i]) / 2
		}
		for i, m := range l.moves {
			makes[i], decays[i] = min(m/((1+m)*(1+m)), mostMade*Decay*l.energy[i]*omega[i]), Decay*omega[i]
		}
		change := l.diffuse(l.energy, sigmaK1, makes, decays, func(y float64) (float64, bool) { return 0, y == 0 }, 1/math.Sqrt(Decay))
		for i, m := range l.moves {
			shear := 1 / (1 + m)
			makes[i] = gamma1 * min(shear*shear, mostMade*Decay*omega[i]*max(omega[i], shear/a1))
			decays[i] = beta1 * omega[i]
		}
		viscous := func(y float64) (float64, bool) { return viscousRate(max(y, layerBend*layerStep/2)), y < viscousUntil }
		change = max(change, l.diffuse(omega, sigmaW1, makes, decays, viscous, far(l.y[n-1])))
		if change < settled {
			break
		}
	}
	for i, w := range omega {
		if l.rate[i] = math.Log(w); i > 0 {
			l.speed[i] = l.speed[i-1] + (l.y[i]-l.y[i-1])/2*(1/(1+l.moves[i])+1/(1+l.moves[i-1]))
		}
	}
	beyond := l.speed[n-1] - math.Log(l.y[n-1])/kappaOf // what the logarithm of the speed has added to it far out
	l.smooth = math.Exp(kappaOf * (nikuradse - beyond))
	return l
})

// diffuse brings v nearer to where (1 + σν⁺)v′ changes by what decays times v less what is made, with v as it is held near the
// wall and at the far end, and returns by how much it changed, relative to it.
func (l *layer) diffuse(v []float64, sigma float64, makes, decays []float64, held func(y float64) (float64, bool), end float64) (change float64) {
	n := len(v)
	above, right := make([]float64, n), make([]float64, n)
	for i, y := range l.y {
		below, middle, next, value := 0., 1., 0., end
		if near, is := held(y); is {
			value = near
		} else if i < n-1 {
			before := (1 + sigma*(l.moves[i]+l.moves[i-1])/2) / (y - l.y[i-1])
			after := (1 + sigma*(l.moves[i]+l.moves[i+1])/2) / (l.y[i+1] - y)
			h := (l.y[i+1] - l.y[i-1]) / 2
			below, middle, next, value = -before, before+after+decays[i]*h, -after, makes[i]*h
		}
		if i > 0 {
			middle -= below * above[i-1]
			value -= below * right[i-1]
		}
		above[i], right[i] = next/middle, value/middle
	}
	last := 0.0
	for i := n - 1; i >= 0; i-- {
		last = right[i] - above[i]*last
		by := 0.3 * (last - v[i])
		change = max(change, math.Abs(by)/max(math.Abs(v[i]), 1e-12))
		v[i] += by
	}
	return change
}

// at is the energy, the logarithm of the rate and the viscosity of eddies at a distance, with their derivatives by it.
func (l *layer) at(y float64) (value, slope [3]float64) {
	s := math.Log1p(y/layerBend) / layerStep
	i := min(int(s), layerNodes-2)
	x, by := s-float64(i), 1/(layerStep*(y+layerBend))
	for k, list := range [3][]float64{l.energy, l.rate, l.moves} {
		rise := list[i+1] - list[i]
		value[k], slope[k] = list[i]+x*rise, rise*by
	}
	if x > 1 { // beyond the end
		end := l.y[layerNodes-1]
		value[0], slope[0] = l.energy[layerNodes-1], 0
		value[1], slope[1] = l.rate[layerNodes-1]-math.Log(y/end), -1/y
		value[2], slope[2] = l.moves[layerNodes-1]*y/end, l.moves[layerNodes-1]/end
	}
	if y < viscousUntil {
		value[1], slope[1] = math.Log(viscousRate(y)), -2/y
	}
	return value, slope
}

// behind is how much farther from a rough wall all is as if it were smooth, in wall units, with its derivative by the
// roughness: so much that the speed far out is less by what Colebrook's law has, ln(1 + k⁺/k₀)/κ.
func (l *layer) behind(rough float64) (value, slope float64) {
	if rough <= 0 {
		return 0, 0
	}
	slower := math.Log1p(rough/l.smooth) / kappaOf
	i := max(1, min(layerNodes-1, sort.SearchFloat64s(l.speed, slower)))
	value = l.y[i-1] + (slower-l.speed[i-1])/(l.speed[i]-l.speed[i-1])*(l.y[i]-l.y[i-1])
	return value, (l.y[i] - l.y[i-1]) / (l.speed[i] - l.speed[i-1]) / (kappaOf * (l.smooth + rough))
}

// nikuradse is what the logarithm of the distance over the roughness has added to it where roughness alone counts (J.
// Nikuradse, VDI Forschungsheft 361, 1933).
const nikuradse = 8.5

// Energetic is the law of the wall of the model that carries energy and rate.
var Energetic = newLaw(func(y, rough float64) float64 {
	l := along()
	more, _ := l.behind(rough)
	value, _ := l.at(y + more)
	return value[2]
})

// Beside is what the model has along a wall: the energy of eddies, m²/s², the logarithm of the rate at which they decay, in 1/s,
// and the viscosity with which energy spreads, m²/s, with their derivatives by the speed of friction.
type Beside struct{ Energy, Rate, Spreads, EnergyBy, RateBy, SpreadsBy float64 }

// BesideWall finds it where the speed of friction, m/s, is the same at all distances, at one of them, m, from a wall of a
// roughness, m, in a fluid of a kinematic viscosity, m²/s.
func BesideWall(friction, nu, distance, rough float64) (b Beside) {
	u := max(friction, 1e-100)
	l := along()
	more, by := l.behind(rough * u / nu)
	value, slope := l.at(distance*u/nu + more)
	far := distance/nu + by*rough/nu // of the distance in wall units, by the friction
	b.Energy, b.EnergyBy = value[0]*u*u, 2*value[0]*u+u*u*slope[0]*far
	b.Rate, b.RateBy = value[1]+math.Log(u*u/nu), 2/u+slope[1]*far
	b.Spreads, b.SpreadsBy = nu*(1+sigmaK1*value[2]), nu*sigmaK1*slope[2]*far
	return b
}

// FrictionOf is the speed of friction with which eddies along a wall decay, m/s, by that of the friction there and by their energy,
// m²/s², with its derivatives by both: that of the friction, or where there is more energy than by it, that of the energy.
func FrictionOf(friction, energy float64) (value, byFriction, byEnergy float64) {
	a, b := friction*friction, math.Sqrt(Decay)*energy
	edge := math.Sqrt((a-b)*(a-b) + 4*frictionRounds*frictionRounds*a*b)
	square := (a + b + edge) / 2
	value = math.Sqrt(square)
	byA := (1 + (a-b+2*frictionRounds*frictionRounds*b)/edge) / 2
	byB := (1 + (b-a+2*frictionRounds*frictionRounds*a)/edge) / 2
	return value, byA * friction / value, byB * math.Sqrt(Decay) / (2 * value)
}

// frictionRounds is how wide the edge between both is, over them.
const frictionRounds = 0.05
