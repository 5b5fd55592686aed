package web

import (
	"fmt"
	"html/template"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/quantity"
)

// Size of the chart of a property, in the units of its drawing.
const (
	chartWidth, chartHeight = 300.0, 118.0
	chartLeft, chartBottom  = 52.0, 26.0
	chartTop, chartRight    = 17.0, 14.0
)

// familySize is how many curves are drawn of a property that depends on a state.
const familySize = 4

// family are the curves of a property in other states of a material.
func family(m material.Material, d material.Definition, scope formula.Scope) []familyCurve {
	states := m.DependsOn(d.Key)
	if len(states) == 0 {
		return nil
	}
	s := states[0]
	var list []familyCurve
	for i := range familySize + 1 {
		v := s.From + (s.To-s.From)*float64(i)/familySize
		if f, err := m.With(s.Name, fmt.Sprintf("%g %s", v, s.Dimension.Symbol())).Function(d.Key, scope); err == nil {
			u := quantity.MustUnit(s.Unit)
			list = append(list, familyCurve{f, tickText(u.From(v, true)) + "\u202f" + u.Text})
		}
	}
	return list
}

// familyCurve is a property in a state, in words.
type familyCurve struct {
	material.Function
	state string
}

// propertyChart draws a property over its range, and in other states.
func propertyChart(f material.Function, d material.Definition, others []familyCurve) template.HTML {
	x := slices.DeleteFunc(f.Ticks(d, 121), func(x float64) bool { return math.IsNaN(f.At(x)) })
	if len(x) < 2 {
		return ""
	}
	u := quantity.MustUnit(d.Unit)
	across := d.Across()
	of := func(f material.Function) []float64 {
		y := make([]float64, len(x))
		for i := range x {
			y[i] = u.From(f.At(x[i]), true)
		}
		return y
	}
	y := of(f)
	var lines []chartLine
	for _, o := range others {
		if line := of(o.Function); !slices.ContainsFunc(line, math.IsNaN) {
			lines = append(lines, chartLine{line, o.state})
		}
	}
	for i := range x {
		x[i] = across.From(x[i], false)
	}
	return lineChart(d.Name, x, y, across.Text, u.Text, lines...)
}

// chartLine is a curve beside another one, with its name.
type chartLine struct {
	y    []float64
	name string
}

// lineChart draws values over a variable that ascends, and beside them others over the same.
func lineChart(name string, x, y []float64, xUnit, yUnit string, others ...chartLine) template.HTML {
	all := y
	for _, o := range others {
		all = append(all[:len(all):len(all)], o.y...)
	}
	scale := newChartScale(x, all)
	yTicks, px, py := scale.ticks, scale.x, scale.y
	power, power10 := 1.0, ""
	if size := max(math.Abs(scale.lo), math.Abs(scale.hi)); size > 0 && (size < 1e-4 || size >= 1e7) {
		// Ticks have room for few figures: the power of ten stands with the unit.
		power = math.Pow(10, math.Floor(math.Log10(size)))
		power10 = strings.TrimPrefix(quantity.Figures(power, 1), "1·") + " "
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="curve" viewBox="0 0 %.0f %.0f" role="img" aria-label="%s from %s to %s">`, chartWidth, chartHeight,
		template.HTMLEscapeString(name), quantity.Figures(x[0], 4), quantity.Figures(x[len(x)-1], 4))
	for _, v := range yTicks {
		fmt.Fprintf(&b, `<line class="grid" x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f"/><text x="%.1f" y="%.1f" text-anchor="end">%s</text>`,
			chartLeft, py(v), chartWidth-chartRight, py(v), chartLeft-5, py(v)+3.5, tickText(v/power))
	}
	for _, v := range ticks(x[0], x[len(x)-1], 4) {
		if v < x[0] || v > x[len(x)-1] {
			continue
		}
		fmt.Fprintf(&b, `<line class="tick" x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f"/><text x="%.1f" y="%.1f" text-anchor="middle">%s</text>`,
			px(v), chartHeight-chartBottom, px(v), chartHeight-chartBottom+4, px(v), chartHeight-chartBottom+15, tickText(v))
	}
	for k, o := range others {
		b.WriteString(`<polyline class="beside" points="`)
		for i := range x {
			fmt.Fprintf(&b, "%.1f,%.1f ", px(x[i]), py(o.y[i]))
		}
		// The first and the last have their names, away from the lines between them.
		fmt.Fprintf(&b, `"><title>%s</title></polyline>`, template.HTMLEscapeString(o.name))
		if k == 0 || k == len(others)-1 {
			i, down := len(x)/2, -3.0
			if first, last := others[0].y[i], others[len(others)-1].y[i]; (o.y[i] < max(first, last)) && first != last {
				down = 9
			}
			fmt.Fprintf(&b, `<text class="beside" x="%.1f" y="%.1f" text-anchor="middle">%s</text>`, px(x[i]), py(o.y[i])+down, template.HTMLEscapeString(o.name))
		}
	}
	b.WriteString(`<polyline points="`)
	for i := range x {
		fmt.Fprintf(&b, "%.1f,%.1f ", px(x[i]), py(y[i]))
	}
	fmt.Fprintf(&b, `"/><text x="%.1f" y="%.1f" text-anchor="end">%s</text><text x="1" y="9">%s</text></svg>`, chartWidth-1, chartHeight-2,
		template.HTMLEscapeString(xUnit), template.HTMLEscapeString(power10+yUnit))
	return template.HTML(b.String()) // numbers and escaped words only
}

// chartScale places values in the drawing of a chart.
type chartScale struct {
	from, to, lo, hi float64
	ticks            []float64
}

// even is the part of the size of values below which their range counts as none.
const even = 1e-9

func newChartScale(x, y []float64) *chartScale {
	lo, hi := slices.Min(y), slices.Max(y)
	if math.IsNaN(lo) || math.IsInf(lo, 0) || math.IsInf(hi, 0) {
		lo, hi = 0, 1
	}
	if lo > 0 && lo < 0.6*hi {
		lo = 0
	}
	if hi-lo <= even*max(math.Abs(hi), math.Abs(lo)) {
		around := max(0.1*math.Abs(hi), 1e-300)
		hi, lo = hi+around, lo-around
	}
	s := &chartScale{from: x[0], to: x[len(x)-1], ticks: ticks(lo, hi, 3)}
	s.lo, s.hi = min(lo, s.ticks[0]), max(hi, s.ticks[len(s.ticks)-1])
	return s
}

func (s *chartScale) x(v float64) float64 {
	return chartLeft + (v-s.from)/(s.to-s.from)*(chartWidth-chartLeft-chartRight)
}

func (s *chartScale) y(v float64) float64 {
	return chartHeight - chartBottom - (v-s.lo)/(s.hi-s.lo)*(chartHeight-chartBottom-chartTop)
}

func tickText(v float64) string {
	if v == 0 {
		return "0"
	}
	return trimFigures(quantity.Figures(v, 4))
}

// trimFigures drops the zeros behind a decimal point.
func trimFigures(text string) string {
	if !strings.Contains(text, ".") || strings.Contains(text, "·") {
		return text
	}
	return strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
}

// ticks returns round numbers, about n steps of them, that cover a range: the ends alone of
// one that is nothing beside its size, and none of what is no range.
func ticks(lo, hi float64, n int) []float64 {
	if math.IsNaN(lo) || math.IsNaN(hi) || math.IsInf(lo, 0) || math.IsInf(hi, 0) || math.IsInf(hi-lo, 0) {
		return []float64{0}
	}
	if !(hi-lo > even*max(math.Abs(lo), math.Abs(hi))) {
		return []float64{lo}
	}
	raw := (hi - lo) / float64(n)
	size := math.Pow(10, math.Floor(math.Log10(raw)))
	step := 10 * size
	for _, f := range []float64{1, 2, 5} {
		if raw <= f*size*1.0001 {
			step = f * size
			break
		}
	}
	var list []float64
	first := math.Floor(lo/step + 1e-9)
	if !(step > 0) || math.IsInf(step, 0) || math.IsInf(first, 0) || math.IsNaN(first) {
		return []float64{lo} // as small or as large as numbers are
	}
	for k := range 10 * n {
		v := (first + float64(k)) * step
		if !(v < hi+step*(1-1e-9)) {
			break
		}
		list = append(list, v)
	}
	return list
}
