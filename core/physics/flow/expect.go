package flow

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// Beyond these numbers what is solved for is not likely to be what happens: a flow becomes turbulent, by the hydraulic
// diameter (H. Schlichting and K. Gersten, Boundary-Layer Theory, 2017, chapter 15) or by the height over which heat moves
// it (F. P. Incropera and others, Fundamentals of Heat and Mass Transfer, 2007, chapter 9); a gas is compressed by its own
// speed; it slips along its walls.
const (
	mostLaminar   = 2300.
	mostBuoyant   = 1e9
	mostMach      = 0.3
	mostKnudsen   = 0.01
	airPressure   = 101325. // Pa
	specificHeats = 1.4     // ratio of those of a gas of two atoms
)

// Cells across what flows if nothing is said, and layers along its walls: as many as fill a boundary layer.
const (
	usualAcross  = 4
	layers       = 5
	layersGrowth = 1.3
	leastLayers  = 3 // of a turbulent flow, and most
	mostLayers   = 25
)

// buoyantSpeed is about how fast heat moves a fluid in an enclosure, over √(gβΔT·height).
const buoyantSpeed = 0.3

// driven is what moves the fluids of a model, by what is said with numbers.
type driven struct {
	volume      float64         // that comes in, m³/s
	speed       map[int]float64 // by part, of what comes in or of walls, m/s
	least, most float64         // pressures of openings, Pa
	pressed     bool
	gravity     [3]float64 // m/s²
	cold, warm  float64    // the least and the greatest temperature that is said, K
}

// drive finds what moves the fluids.
func drive(r *model.Resolving) driven {
	d := driven{speed: map[int]float64{}, cold: math.Inf(1), warm: math.Inf(-1), least: math.Inf(1), most: math.Inf(-1)}
	for i := range r.Conditions {
		c := &r.Conditions[i]
		for _, slot := range c.Definition.Slots {
			if l := c.Laws[slot.Name]; slot.Temperature && l != nil {
				if v, ok := l.Constant(); ok {
					d.cold, d.warm = min(d.cold, v), max(d.warm, v)
				}
			}
		}
		if model.Of(c.Kind) != key {
			continue
		}
		area, speed := 0.0, 0.0
		if enters(c.Kind) {
			area = r.Area(c)
		}
		switch c.Kind {
		case KeyInlet, KeyChannel:
			speed = said(c, "speed")
			d.volume += max(0, speed*area)
		case KeyThrough:
			flow := said(c, "flow")
			d.volume += max(0, flow)
			if area > 0 {
				speed = flow / area
			}
		case KeyOpening, KeyStill, KeyFan:
			p := said(c, "pressure")
			d.least, d.most = min(d.least, p), max(d.most, p)
			if c.Kind == KeyFan {
				d.least = min(d.least, 0)
			}
			d.pressed = true
		case KeyRepeats:
			d.least, d.most, d.pressed = 0, max(0, said(c, "pressure")), true
		case KeyCarries:
			d.volume += said(c, "flow")
			if area > 0 {
				speed = said(c, "flow") / area
			}
		case KeyWallMoves, KeyStream:
			speed = math.Hypot(math.Hypot(said(c, "x"), said(c, "y")), said(c, "z"))
		case KeyWallTurns:
			for _, p := range c.Parts {
				speed = max(speed, math.Abs(said(c, "rate"))*slices.Max(r.Parts[p].Extent[:])/2)
			}
		case KeyGravity:
			d.gravity = [3]float64{said(c, "x"), said(c, "y"), said(c, "z")}
		}
		for _, p := range c.Parts {
			d.speed[p] = max(d.speed[p], math.Abs(speed))
		}
	}
	return d
}

// estimate is what a flow in a part is expected to be.
type estimate struct {
	part                        *model.ResolvedPart
	density, viscosity          float64
	wide, long, across          float64 // hydraulic diameter, m, length, m, and mean area that is flowed through, m²
	speed, reynolds             float64
	rayleigh, height, knudsen   float64
	mach                        float64
	conductivity, heatCapacity  float64
	layer                       float64 // thickness of the boundary layers, m
	byHeat                      bool    // heat alone moves it
	temperature, colder, hotter float64
}

// beside says that a place is on an outline, to within a distance.
func beside(o *shape.Outline, x, y, within float64) bool {
	for _, loop := range o.Loops {
		for _, edge := range loop {
			dx, dy := edge.To.X-edge.From.X, edge.To.Y-edge.From.Y
			along := ((x-edge.From.X)*dx + (y-edge.From.Y)*dy) / (dx*dx + dy*dy)
			along = min(1, max(0, along))
			if !edge.Arc && math.Hypot(edge.From.X+along*dx-x, edge.From.Y+along*dy-y) <= within {
				return true
			}
		}
	}
	return false
}

// at is a property at the temperature at hand, false if it is not known.
func (e *estimate) at(key material.Key) (float64, bool) {
	f, ok := e.part.Properties[key]
	if !ok || f.Program == nil {
		return 0, false
	}
	v := f.At(min(max(e.temperature, f.From), f.To))
	return v, v > 0 && !math.IsInf(v, 0)
}

// measure finds the lengths of a part.
func (e *estimate) measure(r *model.Resolving) bool {
	p := e.part
	if p.Outline == nil || !(p.Outline.Width > 0) {
		return false
	}
	x, y, z := p.Extent[0], p.Extent[1], p.Z1-p.Z0
	narrow, broad := p.Outline.Width, max(x, y)
	area := math.Abs(p.Outline.Area())
	switch r.Document.Space.Kind {
	case model.Plane:
		e.wide, e.long, e.across = 2*narrow, broad, area/broad*r.Depth
	case model.Axial:
		e.wide, e.long, e.across = 2*narrow, broad, 2*math.Pi*math.Abs(p.Outline.MomentX())/broad
	default:
		if !(z > 0) {
			return false
		}
		e.long = max(broad, z)
		e.across = area * z / e.long
		e.wide = 2 * narrow * z / (narrow + z)
		if z == e.long {
			e.wide = 2 * narrow * broad / (narrow + broad)
		}
	}
	return e.wide > 0 && e.across > 0
}

// find fills in the numbers; false if nothing is known of how fast it flows.
func (e *estimate) find(r *model.Resolving, i int, d *driven) bool {
	e.temperature = law.UsualTemperature
	differs := d.warm > d.cold
	if differs {
		e.temperature, e.colder, e.hotter = (d.cold+d.warm)/2, d.cold, d.warm
	}
	var ok1, ok2 bool
	e.density, ok1 = e.at(material.Density)
	e.viscosity, ok2 = e.at(material.Viscosity)
	if !ok1 || !ok2 || !e.measure(r) {
		return false
	}
	e.speed = max(d.speed[i], d.volume/e.across)
	if drop := d.most - d.least; e.speed == 0 && d.pressed && drop > 0 {
		e.speed = min(math.Sqrt(2*drop/e.density), drop*e.wide*e.wide/(32*e.viscosity*e.long))
	}
	if r.Given(couple.Temperature) {
		e.conductivity, _ = e.at(material.Conductivity)
		e.heatCapacity, _ = e.at(material.HeatCapacity)
		if differs {
			e.lifted(r, d)
		}
	}
	if !(e.speed > 0) {
		return false
	}
	e.reynolds = e.density * e.speed * e.wide / e.viscosity
	if along := 5 * math.Sqrt(e.viscosity*e.long/(e.density*e.speed)); e.layer == 0 || along < e.layer {
		e.layer = along
	}
	if e.part.Material.Family == "gas" {
		e.mach, e.knudsen = gasNumbers(e.density, e.viscosity, e.speed, e.wide)
	}
	return true
}

// gasNumbers are the Mach and the Knudsen number of a gas under the pressure of the air, by its density, kg/m³, viscosity,
// Pa·s, and speed, m/s, and a width, m.
func gasNumbers(density, viscosity, speed, wide float64) (mach, knudsen float64) {
	thermal := math.Sqrt(airPressure / density)
	return speed / (math.Sqrt(specificHeats) * thermal), viscosity / airPressure * math.Sqrt(math.Pi/2) * thermal / wide
}

// said is the number that a slot has, 0 if it is empty or a formula.
func said(c *model.ResolvedSentence, slot string) float64 {
	if l := c.Laws[slot]; l != nil {
		if v, constant := l.Constant(); constant {
			return v
		}
	}
	return 0
}

// lifted finds how heat moves the fluid.
func (e *estimate) lifted(r *model.Resolving, d *driven) {
	lengths := [3]float64{e.part.Extent[0], e.part.Extent[1], e.part.Z1 - e.part.Z0}
	if r.Document.Space.Flat() {
		lengths[2] = 0
	}
	strength := 0.0
	for axis, g := range d.gravity {
		if math.Abs(g) > strength {
			strength, e.height = math.Abs(g), lengths[axis]
		}
	}
	warm, cold := *e, *e
	warm.temperature, cold.temperature = e.hotter, e.colder
	light, _ := warm.at(material.Density)
	heavy, _ := cold.at(material.Density)
	if strength == 0 || e.height == 0 || light == heavy || e.conductivity == 0 || e.heatCapacity == 0 {
		return
	}
	lift := strength * math.Abs(heavy-light) / e.density // m/s²
	e.rayleigh = lift * math.Pow(e.height, 3) * e.density * e.density * e.heatCapacity / (e.viscosity * e.conductivity)
	if by := buoyantSpeed * math.Sqrt(lift*e.height); by > e.speed {
		e.byHeat = e.speed == 0
		e.speed = by
	}
	e.layer = 3 * e.height / math.Pow(max(e.rayleigh, 1), 0.25)
}

// words say the numbers.
func (e *estimate) words(r *model.Resolving, i int) string {
	list := []string{fmt.Sprintf("Reynolds number %s by a hydraulic diameter of %s", about(e.reynolds), lengthWords(e.wide))}
	if e.conductivity > 0 && e.heatCapacity > 0 {
		list = append(list, fmt.Sprintf("Péclet number %s of heat", about(e.density*e.heatCapacity*e.speed*e.wide/e.conductivity)))
	}
	for k := range r.Conditions {
		c := &r.Conditions[k]
		l := c.Laws["diffusivity"]
		if l == nil || !slices.Contains(c.Parts, i) {
			continue
		}
		if by, ok := l.Constant(); ok && by > 0 {
			list = append(list, fmt.Sprintf("Péclet number %s of %s", about(e.speed*e.wide/by), c.Values["species"]))
		}
	}
	if e.rayleigh > 0 {
		list = append(list, fmt.Sprintf("Rayleigh number %s by a height of %s", about(e.rayleigh), lengthWords(e.height)))
	}
	if e.mach > 0 {
		list = append(list, fmt.Sprintf("Mach number %s, Knudsen number %s", about(e.mach), about(e.knudsen)))
	}
	how := "What flows in the %s is expected to do so at about %s: %s."
	if e.byHeat {
		how = "What fills the %s is expected to be moved by heat at about %s: %s."
	}
	return fmt.Sprintf(how, e.part.Name, speedWords(e.speed), strings.Join(list, ", "))
}

// about shows a number with two figures that count.
func about(v float64) string {
	if v == 0 {
		return "0"
	}
	unit := math.Pow(10, math.Floor(math.Log10(math.Abs(v)))-1)
	return quantity.Figures(math.Round(v/unit)*unit, 2)
}

// speedWords and lengthWords show a speed, m/s, and a length, m, in units of their size.
func speedWords(v float64) string {
	if v < 0.5 {
		return quantity.Show(v, "mm/s", false, 2)
	}
	return quantity.Show(v, "m/s", false, 2)
}

func lengthWords(v float64) string {
	if v < 1 {
		return quantity.Show(v, "mm", false, 2)
	}
	return quantity.Show(v, "m", false, 2)
}

// ask asks where what is solved for is not likely to be what happens.
func (e *estimate) ask(r *model.Resolving) {
	at := "parts/" + e.part.ID
	turbulent := isTurbulent(r)
	if e.reynolds > mostLaminar && !turbulent {
		r.Find(model.Doubtful, at, "say that the flow is turbulent, let it flow more slowly, or take the result for one without turbulence", "the flow in the %s is likely to be turbulent: its Reynolds number is about %s, and above about %g it mostly is", e.part.Name, about(e.reynolds), mostLaminar)
	}
	if e.rayleigh > mostBuoyant && !turbulent {
		r.Find(model.Doubtful, at, "say that the flow is turbulent, or take the result for one without turbulence", "the flow in the %s is likely to be turbulent: its Rayleigh number is about %s, and above about 10⁹ it mostly is", e.part.Name, about(e.rayleigh))
	}
	if e.reynolds > 0 && e.reynolds < mostLaminar && e.rayleigh < mostBuoyant && turbulent {
		r.Find(model.Doubtful, at, "leave out that it is turbulent", "the flow in the %s is not likely to be turbulent: its Reynolds number is about %s, and below about %g it mostly is not", e.part.Name, about(e.reynolds), mostLaminar)
	}
	if e.mach > mostMach {
		r.Find(model.Doubtful, at, "let it flow more slowly", "the %s is expected to flow at about %s, %s of the speed of sound: it would be compressed, which is not solved for", e.part.Name, speedWords(e.speed), quantity.Figures(100*e.mach, 2)+" %")
	}
	if e.knudsen > mostKnudsen {
		r.Find(model.Doubtful, at, "make it wider", "the %s is so thin a gas for its width that it slips along its walls, which is not solved for: its Knudsen number is about %s", e.part.Name, about(e.knudsen))
	}
}

// expect estimates the flows of a model from what is said.
func expect(r *model.Resolving) (list []model.Expected) {
	d := drive(r)
	some := slices.ContainsFunc(r.LivesIn(key), func(i int) bool { return d.speed[i] > 0 })
	fastest, worst := -1, estimate{}
	for _, i := range r.LivesIn(key) {
		if r.Parts[i].Part == nil {
			continue
		}
		e := estimate{part: &r.Parts[i]}
		x := model.Expected{Part: i, Across: usualAcross}
		// How what comes in elsewhere is shared between parts is not known yet.
		if e.find(r, i, &d) && (d.speed[i] > 0 || !some || e.rayleigh > 0) {
			e.line(r, i, &x)
			if fastest < 0 || e.reynolds > worst.reynolds {
				fastest, worst = len(list), e
			}
		}
		list = append(list, x)
	}
	if fastest >= 0 {
		worst.ask(r)
		list[fastest].Words = worst.words(r, list[fastest].Part)
	}
	return list
}

// line asks for layers along the walls of a part if its boundary layers are thinner than a quarter of its width, and
// thinner than cells would be.
func (e *estimate) line(r *model.Resolving, i int, x *model.Expected) {
	p := e.part
	thick := (math.Pow(layersGrowth, layers) - 1) / (layersGrowth - 1) // of all, over the first
	wall := mesh.Wall{First: e.layer / thick, Growth: layersGrowth, Count: layers}
	cells := min(p.Size, e.wide/2/usualAcross)
	if isTurbulent(r) {
		wall = e.turbulentWall(cells)
	}
	if (e.layer > e.wide/8 || wall.First > cells/2) && !isTurbulent(r) {
		return
	}
	open := e.openSides(r, i)
	for _, side := range r.Sides(i) {
		switch {
		case open[side]:
		case side == shape.Top || side == shape.Bottom:
			if !r.Document.Space.Flat() {
				x.Near = append(x.Near, mesh.Near{Side: side, Size: wall.First})
			}
		default:
			x.Walls = append(x.Walls, mesh.SideWall{Side: side, Within: true, Wall: wall})
		}
	}
	if p.Fill != nil {
		x.Around = &wall
	}
	if len(x.Walls)+len(x.Near) > 0 || x.Around != nil {
		why := "boundary layers of about " + lengthWords(e.layer) + " are expected"
		if isTurbulent(r) {
			why = fmt.Sprintf("it is to be up to %g units of the wall (y⁺), where the law of the wall is good", usualUnits)
		}
		x.Layers = fmt.Sprintf("%d layers along the walls of the %s, the first %s thick, as %s", wall.Count, p.Name, lengthWords(wall.First), why)
	}
}

// usualUnits is how thick the first cells along the walls of a turbulent flow are, in units of the wall, if nothing is said:
// as thick as the law of the wall is good for.
const usualUnits = 40.

// turbulentWall is the layers along the walls of a turbulent flow, up to as thick as the other cells are or the boundary layer
// is. The friction is that of a smooth pipe (H. Blasius).
func (e *estimate) turbulentWall(cells float64) mesh.Wall {
	friction := e.speed * math.Sqrt(0.0396*math.Pow(max(e.reynolds, 1), -0.25))
	w := mesh.Wall{First: min(usualUnits*e.viscosity/e.density/friction, cells/3), Growth: layersGrowth}
	along := 0.37 * e.long * math.Pow(e.density*e.speed*e.long/e.viscosity, -0.2)
	all := min(along, e.wide/8)
	for h, sum := w.First, 0.; w.Count < mostLayers && (w.Count < leastLayers || sum < all && h < 2*cells/3); w.Count++ {
		sum += h
		h *= layersGrowth
	}
	return w
}

// openSides are the sides of a part that are no walls: through which fluid passes, along which it slips, or beyond which
// other fluid is.
func (e *estimate) openSides(r *model.Resolving, i int) map[string]bool {
	open := map[string]bool{}
	for k := range r.Conditions {
		c := &r.Conditions[k]
		if !enters(c.Kind) && c.Kind != KeySlips {
			continue
		}
		added, _, _ := c.On.Terms()
		for _, t := range added {
			if slices.Contains(r.PartsNamed(t.Part), i) {
				open[t.Side] = true
			}
		}
	}
	for _, j := range r.LivesIn(key) {
		if j == i || r.Parts[j].Outline == nil {
			continue
		}
		for _, loop := range e.part.Outline.Loops {
			for _, edge := range loop {
				x, y := (edge.From.X+edge.To.X)/2, (edge.From.Y+edge.To.Y)/2
				if !edge.Arc && beside(r.Parts[j].Outline, x, y, 1e-6*e.part.Outline.Width) {
					open[edge.Name] = true
				}
			}
		}
	}
	return open
}
