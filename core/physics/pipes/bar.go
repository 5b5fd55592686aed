package pipes

import "math"

// settings of a bar at a moment: what its laws are then.
type setting struct {
	viscosity float64
	opening   float64 // of its valves
	speed     float64 // of its pumps
}

// What is at a point takes as much as thread diameters of laminar flow besides, and a creeping one as much as creep diameters, up to a Reynolds number
// of about creeping: else next to no pressure would drive a flow there, and rounding of pressures would.
const (
	thread   = 1e-4
	creep    = 0.05
	creeping = 100.0
)

// loss is the pressure that a bar takes from a mass flow, kg/s, along it, less what its pumps give, Pa, and by how much more it is for each kg/s.
func (b *Bar) loss(m float64, set *setting) (sum, slope float64) {
	rho, mu := b.Fluid.Density, set.viscosity
	v := m / (rho * b.Area)
	re := rho * math.Abs(v) * b.Diameter / mu
	laminar := b.Laminar * mu / (2 * b.Diameter) // pressure over speed and the part of a diameter that it goes
	fourth := math.Pow(re/creeping, 4)
	sum, slope = laminar*v*(thread+creep/(1+fourth)), laminar*(thread+creep*(1-3*fourth)/((1+fourth)*(1+fourth)))
	dynamic := rho * v * math.Abs(v) / 2
	if long := (b.Length + b.Like) / b.Diameter; long > 0 {
		if re < 1 { // where all relations agree
			sum, slope = laminar*long*v, laminar*long
		} else {
			f, bySpeed := b.Relation.factor(re, b.Rough/b.Diameter, b.Laminar)
			sum = f * long * dynamic
			slope = long * rho * math.Abs(v) * (f + re*bySpeed/2)
		}
	}
	for _, item := range b.Items {
		takes := item.takes(v, re, set)
		sum += takes * dynamic
		slope += takes * rho * math.Abs(v)
		if item.Pump != nil {
			lift, falls := item.Pump.lifts(m/rho, set.speed)
			sum -= rho * gravity * lift
			slope -= rho * gravity * falls * b.Area
		}
	}
	return sum, slope / (rho * b.Area)
}

// gravity is that for which heads of pumps are given, m/s².
const gravity = 9.80665

// takes is how much of the dynamic pressure an item takes.
func (i *Item) takes(v, re float64, set *setting) (sum float64) {
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

// lifts is the head of a pump at a volume flow, m³/s, and how that changes with the flow: with n of its speed n²·h(Q/n). Back through it flows
// little: the head goes on to rise.
func (p *Pump) lifts(flow, speed float64) (head, slope float64) {
	head = p.Head * speed * speed
	if flow < 0 {
		steep := p.Slope*speed + 1e-3*(p.Slope+math.Sqrt(p.Curve*math.Abs(p.Head)))
		return head - steep*flow + 4*p.Curve*flow*flow, -steep + 8*p.Curve*flow
	}
	return head - p.Slope*speed*flow - p.Curve*flow*flow, -p.Slope*speed - 2*p.Curve*flow
}

// flow is the mass flow along a bar, kg/s, that takes a pressure, Pa, with how it grows by that. The pressure that a bar takes grows with
// the flow, so that there is one. It is looked for by Newton's method between one that is too small and one that is too large.
func (b *Bar) flow(pressure float64, set *setting) (m, slope float64) {
	rho := b.Fluid.Density
	still, _ := b.loss(0, set)
	sign, left := 1.0, pressure-still
	if left < 0 {
		sign, left = -1, -left
	}
	takes := 0.02 * (b.Length + b.Like) / b.Diameter
	for _, item := range b.Items {
		takes += item.takes(sign, 1e5, set)
	}
	v := math.Sqrt(2 * left / rho / (takes + 1e-6))
	if long := (b.Length + b.Like) / b.Diameter; long > 0 { // that of laminar flow, if it is less
		v = min(v, left/(b.Laminar*set.viscosity/(2*b.Diameter)*long))
	}
	m = sign * v * rho * b.Area
	lo, hi := math.Inf(-1), math.Inf(1)
	for range 200 {
		value, grows := b.loss(m, set)
		value -= pressure
		slope = 1 / grows
		if value == 0 {
			break
		}
		if value > 0 {
			hi = m
		} else {
			lo = m
		}
		next := m - value/grows
		if math.Abs(next-m) <= 1e-15*math.Abs(m) {
			break
		}
		if !(next > lo && next < hi) {
			switch {
			case math.IsInf(lo, 0):
				next = 2*m - rho*b.Area*1e-3
			case math.IsInf(hi, 0):
				next = 2*m + rho*b.Area*1e-3
			default:
				next = (lo + hi) / 2
			}
		}
		if m = next; hi-lo <= 4e-16*math.Abs(m) {
			break
		}
	}
	return m, slope
}

// usualSpeed is about that in pipes, m/s.
const usualSpeed = 1.0

// about is a flow in proportion to the pressure that a bar takes: the right one at a usual speed.
func (b *Bar) about(pressure float64, set *setting) (m, slope float64) {
	usual := usualSpeed * b.Fluid.Density * b.Area
	still, _ := b.loss(0, set)
	then, _ := b.loss(usual, set)
	slope = usual / max(then-still, 1e-300)
	return slope * (pressure - still), slope
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
