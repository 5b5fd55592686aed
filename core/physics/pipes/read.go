package pipes

import (
	"cmp"
	"errors"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
)

// speed along a bar, m/s.
func (s *slice) speed() float64 { return s.mass / (s.Fluid.Density * s.Area) }

// reynolds number of what flows along it.
func (s *slice) reynolds() float64 {
	return s.Fluid.Density * math.Abs(s.speed()) * s.Diameter / s.set.viscosity
}

// dynamic pressure, Pa.
func (s *slice) dynamic() float64 { v := s.speed(); return s.Fluid.Density * v * v / 2 }

// Derive sets the derived quantities at points.
func (k *Kernel) Derive(points []fem.Point, out [][]float64) error {
	k.last.Bar = nil
	for q := range points {
		p := &points[q]
		s, ok := k.slice(p)
		if !ok {
			for i := range out {
				out[i][q] = math.NaN()
			}
			continue
		}
		v, total, weight := s.speed(), p.U[k.p], s.Fluid.Density*k.problem.Gravity
		static := total - s.dynamic()
		head, grade := math.NaN(), math.NaN()
		if weight > 0 {
			head, grade = total/weight+p.X[2], static/weight+p.X[2]
		}
		for i, value := range []float64{math.Abs(v), math.Abs(s.mass) / s.Fluid.Density, math.Abs(v), v * along(p, &s, 0), v * along(p, &s, 1), v * along(p, &s, 2),
			static, static + k.problem.Air, head, grade, s.reynolds()} {
			out[i][q] = value
		}
	}
	return nil
}

// place is where a reading is taken: a bar, and whether at its second end.
type place struct {
	bar    int
	second bool
}

// places are those of a patch: the pieces of pipe before, or else behind, its points.
func (k *Kernel) places(r *frame.Reading) (list []place) {
	for _, f := range r.Region.Facets {
		facet := &r.Mesh.Facets[f]
		i, ok := k.barOf(r.Mesh, facet.Cell)
		if !ok {
			continue
		}
		b := &k.problem.Bars[i]
		if b.Point >= 0 {
			list = append(list, place{b.Beside, b.Beside < i})
			continue
		}
		list = append(list, place{i, facet.Nodes[0] == b.Nodes[1]})
	}
	return list
}

// barOf is the number of the bar that a cell is.
func (k *Kernel) barOf(m *mesh.Mesh, cell int32) (int, bool) {
	corners := m.Cell(cell)
	i, ok := k.problem.of[[3]int32{m.Body[cell], corners[0], corners[1]}]
	return i, ok
}

// errNone says that nothing flows where a reading asks for it.
var errNone = errors.New("nothing flows there in a pipe")

// read evaluates a reading.
func read(r *frame.Reading) error {
	k := r.Kernel.(*Kernel).Fork().(*Kernel)
	switch r.Sentence.Kind {
	case KeyLost, KeyPower, KeyGivesOff:
		return k.sum(r)
	case KeyLevel:
		return k.level(r)
	}
	if r.Region.Facets != nil {
		list := k.places(r)
		if len(list) == 0 {
			return errNone
		}
		if len(list) > 1 {
			return errors.New("it is taken at one place, and the patch has several")
		}
		s := k.of(r.Solution, r.Field, list[0].bar)
		part := 0.0
		if list[0].second {
			part = 1
		}
		r.Value = k.reads(r, &s, part)
		return nil
	}
	// Of a whole pipe it is the mean along its length.
	var sum, long float64
	for i := range k.problem.Bars {
		if b := &k.problem.Bars[i]; r.Region.Bodies[b.Body] && b.Point < 0 {
			s := k.of(r.Solution, r.Field, i)
			sum, long = sum+b.Length*k.reads(r, &s, 0.5), long+b.Length
		}
	}
	if long == 0 {
		return errNone
	}
	r.Value = sum / long
	return nil
}

// reads is what a reading is of a bar, at a part of it.
func (k *Kernel) reads(r *frame.Reading, s *slice, part float64) float64 {
	total := s.from + part*(s.to-s.from)
	switch r.Sentence.Kind {
	case KeyFlow:
		return s.mass / s.Fluid.Density
	case KeyMass:
		return s.mass
	case KeySpeed:
		return s.speed()
	case KeyPressure:
		if strings.TrimSpace(r.Sentence.Values["scale"]) == "absolute" {
			total += k.problem.Air
		}
		return total - s.dynamic()
	case KeyTotal:
		return total
	case KeyReynolds:
		return s.reynolds()
	}
	return s.warm(part)
}

// warm is the temperature at a part of a bar, K: that at its ends, and between them their mean by the part.
func (s *slice) warm(part float64) float64 { return s.a + part*(s.b-s.a) }

// sum reads what adds up: head that is lost, m, power of pumps, W, or heat that walls give off, W.
func (k *Kernel) sum(r *frame.Reading) error {
	at := map[int]bool{} // the bars that are meant
	for _, f := range r.Region.Facets {
		if i, ok := k.barOf(r.Mesh, r.Mesh.Facets[f].Cell); ok && k.problem.Bars[i].Point >= 0 {
			at[i] = true
		}
	}
	if r.Region.Facets == nil {
		for i := range k.problem.Bars {
			if r.Region.Bodies[k.problem.Bars[i].Body] {
				at[i] = true
			}
		}
	}
	pumps := false
	for i := range k.problem.Bars {
		if !at[i] {
			continue
		}
		s := k.of(r.Solution, r.Field, i)
		lift := 0.0 // m
		for _, item := range s.Items {
			if item.Pump != nil {
				pumps = true
				h, _ := item.Pump.lifts(s.mass/s.Fluid.Density, s.set.speed)
				lift += h
			}
		}
		switch r.Sentence.Kind {
		case KeyLost:
			r.Value += math.Abs(s.taken/(s.Fluid.Density*gravity) + lift)
		case KeyPower:
			r.Value += s.mass * gravity * lift
		case KeyGivesOff:
			r.Value += k.passes(&s, &fem.Point{X: r.Mesh.At(s.Nodes[0]), Time: r.Solution.State.Time})
		}
	}
	switch {
	case len(at) == 0 && r.Region.Facets != nil:
		return errors.New("nothing is there that takes any head")
	case len(at) == 0:
		return errNone
	case r.Sentence.Kind == KeyPower && !pumps:
		return errors.New("there is no pump there")
	}
	return nil
}

// level of the tank at a point, m.
func (k *Kernel) level(r *frame.Reading) error {
	for _, f := range r.Region.Facets {
		for i := range r.Model.Conditions {
			c := &r.Model.Conditions[i]
			if c.Kind != KeyTank || !slices.ContainsFunc(r.Facets(c.On, false), func(g int32) bool { return r.Mesh.Facets[g].Nodes[0] == r.Mesh.Facets[f].Nodes[0] }) {
				continue
			}
			node := r.Mesh.Facets[f].Nodes[0]
			over := constant(c, "pressure")
			weight := k.problem.Fluids[r.Mesh.Facets[f].Body].Density * k.problem.Gravity
			r.Value = r.Mesh.At(node)[2] + (r.Solution.State.U[r.Solution.System.Equation(r.Field, 0, node)]-over)/weight
			return nil
		}
	}
	return errors.New("there is no tank there")
}

// check says where what was found is doubtful, and where flow is laminar.
func (d *draft) check(s *couple.Solution) {
	var kernel *Kernel
	for _, k := range fem.Each(s.Kernel) {
		if p, ok := k.(*Kernel); ok {
			kernel = p.Fork().(*Kernel)
		}
	}
	field := slices.IndexFunc(s.Fields, func(f couple.Field) bool { return f.Name == "pipe_total" })
	if kernel == nil || field < 0 {
		return
	}
	list := map[string][]string{}
	note := func(what string, body int32) {
		if name := d.BodyName(body); !slices.Contains(list[what], name) {
			list[what] = append(list[what], name)
		}
	}
	for i := range d.problem.Bars {
		b := kernel.of(s, field, i)
		if re := b.reynolds(); b.Point < 0 && re > LaminarTo && re < TurbulentFrom && b.Relation != Churchill {
			note("between", b.Body)
		} else if b.Point < 0 && re <= LaminarTo && math.Abs(b.mass) > 0 {
			note("laminar", b.Body)
		}
		if max(math.Abs(b.a-b.Fluid.Temperature), math.Abs(b.b-b.Fluid.Temperature)) > farOff {
			note("far", b.Body)
		}
		if in := b.mass > 0; b.Point >= 0 && b.Fluid.liquid && math.Abs(b.speed()) > slow && (in && d.problem.Open[b.Nodes[0]] || !in && d.problem.Open[b.Nodes[1]]) {
			note("air", b.Body)
		}
		if !b.Fluid.liquid {
			if v := math.Abs(b.speed()); b.Point < 0 && v > fastGas {
				note("fast", b.Body)
			}
			continue
		}
		if b.Fluid.Vapour == nil {
			continue
		}
		vapour := kernel.value(b.Fluid.Vapour, &fem.Point{}, (b.a+b.b)/2)
		if b.Point < 0 && min(b.from, b.to)-b.dynamic()+d.problem.Air < vapour {
			note("boils", b.Body)
		}
		before := b.from
		if b.mass < 0 {
			before = b.to
		}
		for _, item := range b.Items {
			if item.Opening == nil {
				continue
			}
			takes := item.takes(b.speed(), b.reynolds(), &b.set) * b.dynamic()
			// IEC 60534-2-1, with 0.96 for the critical pressure that is hardly ever near.
			if takes > valves[item.Valve].Recovery*(before-b.dynamic()+d.problem.Air-0.96*vapour) {
				note("chokes", b.Body)
			}
		}
	}
	d.losses(kernel, s, field)
	names := func(what string) string { return strings.Join(list[what], ", the ") }
	if n := list["laminar"]; n != nil {
		d.Note("the flow in the %s is laminar", names("laminar"))
	}
	if list["between"] != nil {
		d.Warn("the flow in the %s is neither laminar nor turbulent for certain: its Reynolds number is between %.0f and %.0f, where friction may be either", names("between"), LaminarTo, TurbulentFrom)
	}
	if list["boils"] != nil {
		d.Warn("the pressure in the %s is below that at which it boils: there will be bubbles, of which nothing is known here", names("boils"))
	}
	if list["far"] != nil {
		d.Warn("what flows in the %s is more than %.0f K warmer or colder than was said of it: its viscosity there is not followed; say another temperature", names("far"), farOff)
	}
	if list["air"] != nil {
		d.Warn("flow goes in at the open end of the %s: air would come in there, and not what fills the pipe", names("air"))
	}
	if list["chokes"] != nil {
		d.Warn("a valve in the %s takes so much pressure that what flows boils in it: less will pass than is said here", names("chokes"))
	}
	if list["fast"] != nil {
		d.Warn("gas flows faster than %s in the %s, where its density changes along the pipe, which is not taken into account", quantity.Show(fastGas, "m/s", false, 2), names("fast"))
	}
}

// mostLosses is of how many losses a run tells.
const mostLosses = 6

// losses tells where most of the head is lost: along pipes, and at their points.
func (d *draft) losses(k *Kernel, s *couple.Solution, field int) {
	type loss struct {
		words string
		head  float64
	}
	along := map[int32]float64{}
	var list []loss
	for i := range d.problem.Bars {
		b := k.of(s, field, i)
		head := math.Abs(b.taken) / (b.Fluid.Density * gravity)
		if b.Point < 0 {
			along[b.Body] += head
			continue
		}
		for _, item := range b.Items {
			if item.Pump != nil {
				head = 0 // it is a gain
			}
		}
		list = append(list, loss{"at the " + d.Mesh.Lines.Line[b.Body].Points[b.Point].Name + " of the " + d.BodyName(b.Body), head})
	}
	for body, head := range along {
		list = append(list, loss{"along the " + d.BodyName(body), head})
	}
	slices.SortFunc(list, func(a, b loss) int { return cmp.Or(cmp.Compare(b.head, a.head), strings.Compare(a.words, b.words)) })
	var words []string
	for _, l := range list[:min(len(list), mostLosses)] {
		if l.head > 1e-4*list[0].head {
			words = append(words, quantity.Show(l.head, "m", false, 3)+" "+l.words)
		}
	}
	if len(words) > 0 {
		d.Note("most head is lost in these places: %s", strings.Join(words, ", "))
	}
}

// slow is a speed that counts as none, m/s.
const slow = 1e-6

// fastGas is about three tenths of the speed of sound in air, m/s.
const fastGas = 100

// little is the part of the flow at a usual speed in the widest pipe below which nothing to speak of flows.
const little = 1e-2

// Scale is what goes through the network, kg/s, or what is little in it.
func (k *Kernel) Scale(s *couple.Solution) (most float64, err error) {
	for i := range k.problem.Bars {
		b := k.of(s, s.System.FieldAt(k.p), i)
		most = max(most, math.Abs(b.mass), little*usualSpeed*b.Fluid.Density*b.Area)
	}
	return most, nil
}
