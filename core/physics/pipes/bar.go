package pipes

import "math"

// settings of a bar at a moment: what its laws are then.
type setting struct {
	viscosity float64
	opening   float64 // of its valves
	speed     float64 // of its pumps
}

// thread is how much of a diameter of laminar flow what is at a point takes besides, so that little flow takes little pressure there.
const thread = 1e-4

// loss is the pressure that a bar takes from a mass flow, kg/s, along it, less what its pumps give, Pa.
func (b *Bar) loss(m float64, set *setting) float64 {
	rho, mu := b.Fluid.Density, set.viscosity
	v := m / (rho * b.Area)
	re := rho * math.Abs(v) * b.Diameter / mu
	laminar := b.Laminar * mu * v / (2 * b.Diameter) // pressure over the part of a diameter that it goes
	sum := laminar * thread
	if long := (b.Length + b.Like) / b.Diameter; long > 0 {
		if re < 1 { // where all relations agree
			sum = laminar * long
		} else {
			sum = b.Relation.Factor(re, b.Rough/b.Diameter, b.Laminar) * long * rho * v * math.Abs(v) / 2
		}
	}
	for _, item := range b.Items {
		sum += item.takes(b, v, re, set) * rho * v * math.Abs(v) / 2
		if item.Pump != nil {
			sum -= rho * gravity * item.Pump.lifts(m/rho, set.speed)
		}
	}
	return sum
}

// gravity is that for which heads of pumps are given, m/s².
const gravity = 9.80665

// takes is how much of the dynamic pressure an item takes.
func (i *Item) takes(b *Bar, v, re float64, set *setting) (sum float64) {
	sum = i.Forward
	if v < 0 {
		sum = i.Back
	}
	if i.Angle > 0 {
		sum += bendLoss(i.Angle, i.Radius, re)
	}
	if i.Opening != nil {
		sum += valveLoss(i.Valve, set.opening)
	}
	return sum
}

// lifts is the head of a pump at a volume flow, m³/s: with n of its speed n²·h(Q/n). Back through it flows little: each m³/s takes as much
// more as the curve falls where it is steepest.
func (p *Pump) lifts(flow, speed float64) float64 {
	head := p.Head * speed * speed
	if flow < 0 {
		return head - 4*p.Curve*flow*math.Abs(flow) + (p.Slope*speed+p.steep())*-flow
	}
	return head - p.Slope*speed*flow - p.Curve*flow*flow
}

// steep is a slope for flows back, so that the head goes on to fall with the flow.
func (p *Pump) steep() float64 { return 1e-3 * (p.Slope + math.Sqrt(p.Curve*math.Abs(p.Head))) }

// flow is the mass flow along a bar, kg/s, that takes a pressure, Pa, with how it grows by that. The pressure that a bar takes grows with
// the flow, so that there is one.
func (b *Bar) flow(pressure float64, set *setting) (m, slope float64) {
	rho := b.Fluid.Density
	f := func(m float64) float64 { return b.loss(m, set) - pressure }
	// Between nothing and as much as is needed lies a flow that is too small and one that is too large.
	sign := 1.0
	at0 := f(0)
	if at0 > 0 {
		sign = -1
	}
	var takes float64
	for _, item := range b.Items {
		takes += item.takes(b, sign, 1e5, set)
	}
	reach := rho * b.Area * math.Sqrt(2*math.Abs(at0)/rho/(takes+0.01*b.Length/b.Diameter+1e-3))
	lo, hi := 0.0, sign*max(reach, 1e-300)
	for range 200 {
		if sign*f(hi) >= 0 {
			break
		}
		lo, hi = hi, 2*hi
	}
	if sign < 0 {
		lo, hi = hi, lo
	}
	m = (lo + hi) / 2
	for range 100 {
		value := f(m)
		if value > 0 {
			hi = m
		} else {
			lo = m
		}
		next := m - value/b.grows(m, hi-lo, set)
		if !(next >= lo && next <= hi) {
			next = (lo + hi) / 2
		}
		done := math.Abs(next-m) <= 4e-16*math.Abs(m) || value == 0
		m = next
		if done {
			break
		}
	}
	return m, 1 / b.grows(m, 0, set)
}

// usualSpeed is about that in pipes, m/s.
const usualSpeed = 1.0

// about is a flow in proportion to the pressure that a bar takes: the right one at a usual speed.
func (b *Bar) about(pressure float64, set *setting) (m, slope float64) {
	usual := usualSpeed * b.Fluid.Density * b.Area
	still := b.loss(0, set)
	slope = usual / max(b.loss(usual, set)-still, 1e-300)
	return slope * (pressure - still), slope
}

// grows is by how much more pressure a bar takes for each kg/s more, by a difference.
func (b *Bar) grows(m, width float64, set *setting) float64 {
	h := max(1e-6*math.Abs(m), 1e-9*width, 1e-9*b.Fluid.Density*b.Area*set.viscosity/(b.Fluid.Density*b.Diameter))
	return (b.loss(m+h, set) - b.loss(m-h, set)) / (2 * h)
}

// warmth is what of the temperature above that around is left at the end of a bar, and what heat passes its wall for each kelvin that it is
// warmer than that at its beginning, W/K: for a mass flow and a coefficient.
func (b *Bar) warmth(m, coefficient float64) (left, passes float64) {
	c := math.Abs(m) * b.Fluid.Capacity
	whole := coefficient * b.Edge() * b.Length // W/K
	if whole == 0 {
		return 1, 0
	}
	if c*700 < whole {
		return 0, c
	}
	return math.Exp(-whole / c), -c * math.Expm1(-whole/c)
}
