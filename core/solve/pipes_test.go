package solve

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics/pipes"
	"saltkettle/core/result"
)

// network makes models of lines filled with water.
type network struct{ *model.Document }

func newNetwork() network {
	d := model.New("network")
	d.Space = model.Space{Kind: model.Lines, Unit: "m"}
	d.Physics, d.Plates = nil, nil
	d.Mesh = model.Mesh{Size: "100 m"}
	n := network{d}
	n.say(pipes.KeyGravity, "", "", "strength", "9.80665 m/s²")
	n.say(pipes.KeyCarries, model.AllParts, "", "temperature", "20 °C")
	n.say(pipes.KeyRough, model.AllParts, "", "roughness", "0.05 mm")
	return n
}

// say adds a condition.
func (n network) say(kind, part, side string, values ...string) {
	s := model.Sentence{ID: fmt.Sprintf("c%d", len(n.Conditions)+1), Kind: kind, On: model.Patch{Part: part, Side: side}, Values: map[string]string{}}
	for i := 0; i < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	n.Conditions = append(n.Conditions, s)
}

// ask adds a reading.
func (n network) ask(kind, part, side string, values ...string) {
	n.say(kind, part, side, values...)
	last := len(n.Conditions) - 1
	s := n.Conditions[last]
	s.ID, s.Name = fmt.Sprintf("r%d", len(n.Readings)+1), kind
	n.Conditions, n.Readings = n.Conditions[:last], append(n.Readings, s)
}

// pipe adds a line through points, m.
func (n network) pipe(id, diameter string, points ...[3]float64) {
	p := model.Part{ID: id, Name: "pipe " + id, Material: "water", Role: model.Solved, Outline: model.Outline{Kind: model.LineOutline}}
	for i, x := range points {
		at := func(d int) string { return fmt.Sprintf("%.6g m", x[d]) }
		p.Outline.Points = append(p.Outline.Points, model.Point{ID: fmt.Sprint(i + 1), X: at(0), Y: at(1), Z: at(2)})
	}
	n.Parts = append(n.Parts, p)
	n.say(pipes.KeyRound, id, "", "diameter", diameter)
}

func (n network) solved(t *testing.T) *Outcome {
	t.Helper()
	n.Enumerate()
	out, err := Run(t.Context(), n.Document, Options{})
	require.NoError(t, err)
	require.Equal(t, result.Settled, out.Status, out.Reason)
	return out
}

// refused is what is wrong with it.
func (n network) refused(t *testing.T) string {
	t.Helper()
	n.Enumerate()
	_, err := Run(t.Context(), n.Document, Options{})
	require.Error(t, err)
	return err.Error()
}

// lattice has n pipes of random bores between places of random heights, with tanks at two corners, valves, and flows that are drawn off.
func lattice(n int, warm bool) network {
	random := rand.New(rand.NewSource(7))
	side := 2
	for 2*side*(side-1) < n {
		side++
	}
	d := newNetwork()
	if warm {
		d.say(pipes.KeyWarms, model.AllParts, "", "coefficient", "6 W/(m²·K)", "surroundings", "5 °C")
	}
	heights := make([]float64, side*side)
	for i := range heights {
		heights[i] = 5 * random.Float64()
	}
	at := func(i, j int) [3]float64 { return [3]float64{float64(20 * i), float64(20 * j), heights[i*side+j]} }
	pipe := func(a, b [3]float64) {
		if len(d.Parts) == n {
			return
		}
		id := fmt.Sprintf("p%d", len(d.Parts)+1)
		d.pipe(id, fmt.Sprintf("%.1f mm", 40+100*random.Float64()), a, b)
		switch x := random.Float64(); {
		case x < 0.1:
			d.say(pipes.KeyLeaves, id, "end", "flow", fmt.Sprintf("%.2f m³/h", 3*random.Float64()))
		case x < 0.2:
			d.say(pipes.KeyValve, id, "start", "kind", "gate", "opening", fmt.Sprintf("%.2f", 0.2+0.8*random.Float64()))
		}
	}
	for i := range side {
		for j := range side {
			if i+1 < side {
				pipe(at(i, j), at(i+1, j))
			}
			if j+1 < side {
				pipe(at(i, j), at(i, j+1))
			}
		}
	}
	d.say(pipes.KeyTank, "p1", "start", "level", "40 m", "temperature", "45 °C", "form", "sharp")
	d.say(pipes.KeyTank, d.Parts[len(d.Parts)-1].ID, "end", "level", "25 m", "temperature", "15 °C", "form", "sharp")
	return d
}

// TestNetworkOfAThousandPipes closes the accounts of mass and heat to 1e-10.
func TestNetworkOfAThousandPipes(t *testing.T) {
	for _, warm := range []bool{false, true} {
		out := lattice(1000, warm).solved(t)
		require.NotEmpty(t, out.Balances)
		for _, b := range out.Balances {
			assert.Less(t, b.Closure, 1e-10, b.Name)
		}
		assert.Contains(t, strings.Join(out.Warnings, "; "), "neither laminar nor turbulent")
	}
}

// TestTanksThatEven: two tanks fill and empty through a pipe until their levels meet; what one loses the other gains.
func TestTanksThatEven(t *testing.T) {
	n := newNetwork()
	n.pipe("a", "60 mm", [3]float64{0, 0, 0}, [3]float64{8, 0, 0})
	n.say(pipes.KeyTank, "a", "start", "level", "3 m", "area", "1 m²", "form", "rounded")
	n.say(pipes.KeyTank, "a", "end", "level", "1 m", "area", "3 m²", "form", "rounded")
	n.ask(pipes.KeyLevel, "a", "start")
	n.ask(pipes.KeyLevel, "a", "end")
	n.Run = model.Run{Kind: model.Transient, End: "2 h", Tolerance: "1e-6"}
	out := n.solved(t)
	first, second := out.Readings[0].Value, out.Readings[1].Value
	assert.InDelta(t, 1.5, first, 2e-4)
	assert.InDelta(t, 3+3*1, first+3*second, 1e-6)
	list := out.History.Readings["r1"]
	assert.InDelta(t, 3, list[0], 1e-9, "it begins full")
	for i := 1; i < len(list); i++ {
		assert.LessOrEqual(t, list[i], list[i-1]+1e-4)
	}
}

// TestWhatValvesAndChecksDo: a valve that closes in time, a check valve that holds, a fitting like some pipe.
func TestWhatValvesAndChecksDo(t *testing.T) {
	flow := func(more func(n network)) float64 {
		n := newNetwork()
		n.pipe("a", "50 mm", [3]float64{0, 0, 0}, [3]float64{10, 0, 0}, [3]float64{20, 0, 0})
		n.say(pipes.KeyTank, "a", "start", "level", "4 m", "form", "sharp")
		n.say(pipes.KeyTank, "a", "end", "level", "1 m", "form", "sharp")
		n.ask(pipes.KeyFlow, "a", "")
		more(n)
		return n.solved(t).Readings[0].Value
	}
	open := flow(func(network) {})
	assert.InDelta(t, open, flow(func(n network) { n.say(pipes.KeyLike, "a", "point 2", "length", "1 mm") }), 1e-4*open)
	longer := flow(func(n network) { n.say(pipes.KeyLike, "a", "point 2", "length", "20 m") })
	assert.InDelta(t, open*0.72, longer, 0.03*open, "as if the pipe were twice as long")
	assert.InDelta(t, 0, flow(func(n network) { n.say(pipes.KeyValve, "a", "point 2", "kind", "gate", "opening", "0") }), 1e-4*open)
	assert.Less(t, flow(func(n network) { n.say(pipes.KeyValve, "a", "point 2", "kind", "globe", "opening", "50 %") }), 0.6*open)
	assert.InDelta(t, 0, flow(func(n network) {
		n.Conditions[5].Values["level"] = "9 m"
		n.say(pipes.KeyCheck, "a", "point 2", "loss", "2")
	}), 1e-4*open, "it would flow back")
}

// TestReadingsOfPipes: what is lost adds up to the difference of the levels, pressures follow from heights, power from flow and head.
func TestReadingsOfPipes(t *testing.T) {
	n := newNetwork()
	n.pipe("a", "80 mm", [3]float64{0, 0, 0}, [3]float64{5, 0, 0}, [3]float64{5, 10, 3})
	n.say(pipes.KeyTank, "a", "start", "level", "2 m", "form", "sharp", "pressure", "20 kPa")
	n.say(pipes.KeyTank, "a", "end", "level", "6 m", "form", "sharp")
	n.say(pipes.KeyPump, "a", "point 2", "head0", "15 m", "head1", "9 m", "flow1", "40 m³/h", "speed", "90 %")
	n.say(pipes.KeyAir, "", "", "pressure", "98 kPa")
	n.ask(pipes.KeyLost, "a", "")
	n.ask(pipes.KeyPower, "a", "point 2")
	n.ask(pipes.KeyMass, "a", "")
	n.ask(pipes.KeySpeed, "a", "end")
	n.ask(pipes.KeyPressure, "a", "start", "scale", "absolute")
	n.ask(pipes.KeyTotal, "a", "start")
	n.ask(pipes.KeyReynolds, "a", "")
	n.ask(pipes.KeyLost, "a", "end")
	out := n.solved(t)
	assert.Regexp(t, `most head is lost in these places: .* along the pipe a, .* at the end of the pipe a`, strings.Join(out.Notes, "; "))
	value := func(i int) float64 { return out.Readings[i-1].Value }
	const g, rho = 9.80665, 998.2
	lift := value(2) / (value(3) * g)
	assert.InDelta(t, 4-20e3/(rho*g), lift-value(1), 1e-3, "what the pump lifts and what is lost make the difference of the levels")
	v := value(4)
	assert.InDelta(t, v*v/(2*g), value(8), 1e-6, "what flows into a tank loses its speed")
	assert.InDelta(t, value(5)-98e3, value(6)-rho*v*v/2, 5)
	assert.InDelta(t, 20e3+2*rho*g-0.5*rho*v*v/2, value(6), 20, "behind the opening of the tank")
	assert.InDelta(t, rho*v*0.08/1.0016e-3, value(7), 0.01*value(7))
}

// TestWhatIsWrongWithPipes is said with what to do.
func TestWhatIsWrongWithPipes(t *testing.T) {
	one := func() network {
		n := newNetwork()
		n.pipe("a", "50 mm", [3]float64{0, 0, 0}, [3]float64{10, 0, 0})
		return n
	}
	n := one()
	assert.Contains(t, n.refused(t), "nothing fixes the pressure in the pipes")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.pipe("b", "50 mm", [3]float64{0, 5, 0}, [3]float64{10, 5, 0})
	assert.Contains(t, n.refused(t), "nothing fixes the pressure in the pipe b")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.pipe("b", "50 mm", [3]float64{10, 0, 0}, [3]float64{10, 5, 0})
	n.Parts[1].Material = "ethanol"
	assert.Contains(t, n.refused(t), "different fluids")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.say(pipes.KeyTank, "a", "end", "level", "1 m", "form", "sharp")
	assert.Contains(t, n.refused(t), "both say what the pressure is")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.say(pipes.KeyPump, "a", "start", "head0", "10 m", "head1", "12 m", "flow1", "4 m³/h", "speed", "100 %")
	assert.Contains(t, n.refused(t), "does not fall as more flows")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.say(pipes.KeyValve, "a", "start", "kind", "lock", "opening", "1")
	assert.Contains(t, n.refused(t), "none of those that are known")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.Conditions = n.Conditions[1:]
	n.say(pipes.KeyTank, "a", "start", "level", "1 m", "form", "sharp")
	assert.Contains(t, n.refused(t), "nothing pulls down what is in them")
	n = one()
	n.say(pipes.KeyOpen, "a", "end")
	n.Parts[0].Outline.Points[1].X = "0 m"
	assert.Contains(t, n.refused(t), "at the same place")
	n = one()
	n.Space.Kind, n.Space.Depth = model.Plane, "1 m"
	assert.Contains(t, n.refused(t), "a plane space cannot have")
}

// TestPipesThatAreDoubtful: a pressure below that at which water boils, and gas that flows fast.
func TestPipesThatAreDoubtful(t *testing.T) {
	n := newNetwork()
	n.pipe("a", "50 mm", [3]float64{0, 0, 0}, [3]float64{0, 0, 14}, [3]float64{1, 0, 14}, [3]float64{1, 0, -5})
	n.say(pipes.KeyTank, "a", "start", "level", "1 m", "form", "sharp")
	n.say(pipes.KeyOpen, "a", "end")
	assert.Contains(t, strings.Join(n.solved(t).Warnings, "; "), "below that at which it boils")
	n = newNetwork()
	n.pipe("a", "50 mm", [3]float64{0, 0, 0}, [3]float64{5, 0, 3})
	n.say(pipes.KeyTank, "a", "start", "level", "1 m", "form", "sharp")
	n.say(pipes.KeyOpen, "a", "end")
	assert.Contains(t, strings.Join(n.solved(t).Warnings, "; "), "air would come in")
	n = newNetwork()
	n.pipe("a", "50 mm", [3]float64{0, 0, 0}, [3]float64{1, 0, 0})
	n.Parts[0].Material = "air"
	n.say(pipes.KeyBeyond, "a", "start", "pressure", "30 kPa")
	n.say(pipes.KeyOpen, "a", "end")
	assert.Contains(t, strings.Join(n.solved(t).Warnings, "; "), "gas flows faster than")
}

// TestPipeInABlock gives it as much heat as it loses, on cells of either order, and is refused where its wall reaches beyond it.
func TestPipeInABlock(t *testing.T) {
	block := func(order string) network {
		n := newNetwork()
		n.Space.Kind, n.Physics = model.Solid, []model.Physics{{Kind: "heat"}}
		n.pipe("a", "10 mm", [3]float64{-0.1, 0, 0.02}, [3]float64{0.1, 0, 0.02})
		n.Conditions[1].On.Part, n.Conditions[2].On.Part = "a", "a"
		n.Parts = append(n.Parts, model.Part{ID: "block", Name: "block", Material: "aluminium", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "200 mm", Depth: "40 mm"}, Span: model.Span{From: "0 mm", To: "40 mm"}})
		n.Mesh = model.Mesh{Size: "8 mm", Across: "1", Order: order}
		n.say(pipes.KeyInside, "a", "")
		n.say(pipes.KeyEnters, "a", "start", "flow", "0.2 m³/h", "temperature", "60 °C")
		n.say(pipes.KeyOpen, "a", "end")
		n.say("heat.convection", "block", "bottom", "coefficient", "900 W/(m²·K)", "medium", "water", "temperature", "10 °C")
		n.ask(pipes.KeyTemperature, "a", "end")
		n.ask(pipes.KeyGivesOff, "a", "")
		n.ask("heat.through", "block", "bottom")
		return n
	}
	var ends []float64
	for _, order := range []string{"1", "2"} {
		out := block(order).solved(t)
		end, gives, leaves := out.Readings[0].Value, out.Readings[1].Value, out.Readings[2].Value
		assert.InEpsilon(t, gives, leaves, 1e-6, "what the pipe gives leaves the block")
		assert.InEpsilon(t, 998.2*0.2/3600*4182*(333.15-end), gives, 2e-3)
		ends = append(ends, end)
		for _, b := range out.Balances {
			assert.Less(t, b.Closure, 1e-7, b.Name)
		}
	}
	assert.InDelta(t, ends[0], ends[1], 0.5)
	n := block("1")
	n.Parts[0].Outline.Points[0].Z, n.Parts[0].Outline.Points[1].Z = "3 mm", "3 mm"
	assert.Contains(t, n.refused(t), "reaches beyond the parts in which it lies")
	n = block("1")
	n.Physics = nil
	assert.Contains(t, n.refused(t), "speaks of heat that goes into parts")
}
