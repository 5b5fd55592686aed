package web

import (
	"fmt"
	"html/template"
	"math"
	"strings"
)

// trialChart draws trials as points.
type trialChart struct {
	x, y  variable
	shade *variable   // colours the points, nil for none
	line  bool        // joins the points in their order
	best  int         // trial, −1 for none
	end   *[2]float64 // of the parabola through the best one
}

// Size of the chart in the units of its drawing.
const (
	trialWidth, trialHeight = 812.0, 450.0
	trialLeft, trialBottom  = 66.0, 46.0
	trialTop, trialRight    = 22.0, 24.0
)

// shadeSteps is how many classes of colour the style sheet has.
const shadeSteps = 7

func (c *trialChart) draw(o *outcomes) template.HTML {
	type point struct {
		x, y, shade float64
		place       int
		counts      bool
	}
	var list []point
	lo, hi := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for place := range o.list {
		if !o.list[place].Done {
			continue
		}
		x, okX := c.x.of(place)
		y, okY := c.y.of(place)
		if !okX || !okY || math.IsNaN(x+y) {
			continue
		}
		p := point{x: x, y: y, place: place, counts: o.list[place].Counts}
		if c.shade != nil {
			p.shade, _ = c.shade.of(place)
		}
		for k, v := range [3]float64{p.x, p.y, p.shade} {
			lo[k], hi[k] = min(lo[k], v), max(hi[k], v)
		}
		list = append(list, p)
	}
	if len(list) == 0 {
		return ""
	}
	for k := range 2 {
		if hi[k]-lo[k] <= 1e-9*math.Abs(hi[k]) {
			pad := 0.1*math.Abs(hi[k]) + 1e-300
			lo[k], hi[k] = lo[k]-pad, hi[k]+pad
		}
	}
	xTicks, yTicks := ticks(lo[0], hi[0], 6), ticks(lo[1], hi[1], 5)
	for k, t := range [2][]float64{xTicks, yTicks} {
		lo[k], hi[k] = min(lo[k], t[0]), max(hi[k], t[len(t)-1])
	}
	px := func(v float64) float64 { return trialLeft + (v-lo[0])/(hi[0]-lo[0])*(trialWidth-trialLeft-trialRight) }
	py := func(v float64) float64 {
		return trialHeight - trialBottom - (v-lo[1])/(hi[1]-lo[1])*(trialHeight-trialBottom-trialTop)
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="scatter" viewBox="0 0 %.0f %.0f" role="img" aria-label="%s over %s, %d trials">`, trialWidth, trialHeight,
		template.HTMLEscapeString(c.y.name), template.HTMLEscapeString(c.x.name), len(list))
	for _, v := range yTicks {
		fmt.Fprintf(&b, `<line class="grid" x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f"/><text x="%.1f" y="%.1f" text-anchor="end">%s</text>`,
			trialLeft, py(v), trialWidth-trialRight, py(v), trialLeft-7, py(v)+4, tickText(v))
	}
	for _, v := range xTicks {
		fmt.Fprintf(&b, `<line class="tick" x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f"/><text x="%.1f" y="%.1f" text-anchor="middle">%s</text>`,
			px(v), trialHeight-trialBottom, px(v), trialHeight-trialBottom+5, px(v), trialHeight-trialBottom+18, tickText(v))
	}
	fmt.Fprintf(&b, `<line class="tick" x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f"/>`, trialLeft, trialHeight-trialBottom, trialWidth-trialRight, trialHeight-trialBottom)
	if c.line {
		b.WriteString(`<polyline points="`)
		for _, p := range list {
			fmt.Fprintf(&b, "%.1f,%.1f ", px(p.x), py(p.y))
		}
		b.WriteString(`"/>`)
	}
	for _, p := range list {
		class := "point"
		if c.shade != nil {
			t := 0.5
			if hi[2] > lo[2] {
				t = (p.shade - lo[2]) / (hi[2] - lo[2])
			}
			class += fmt.Sprintf(" shade-%d", int(math.Round(t*(shadeSteps-1))))
		}
		if !p.counts {
			class += " out"
		}
		fmt.Fprintf(&b, `<circle class="%s" data-trial="%d" cx="%.1f" cy="%.1f" r="5"><title>trial %d: %s %s, %s %s</title></circle>`, class, p.place, px(p.x), py(p.y),
			p.place+1, tickText(p.x), template.HTMLEscapeString(c.x.unit), tickText(p.y), template.HTMLEscapeString(c.y.unit))
		if p.place == c.best {
			fmt.Fprintf(&b, `<circle class="best" cx="%.1f" cy="%.1f" r="9"/>`, px(p.x), py(p.y))
		}
	}
	if c.end != nil {
		fmt.Fprintf(&b, `<path class="end" d="M%.1f %.1fv12m-6-6h12"/>`, px(c.end[0]), py(c.end[1])-6)
	}
	fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" text-anchor="middle">%s</text><text class="up" x="0" y="0" transform="translate(14 %.1f) rotate(-90)" text-anchor="middle">%s</text></svg>`,
		(trialLeft+trialWidth-trialRight)/2, trialHeight-6, axisTitle(c.x), (trialTop+trialHeight-trialBottom)/2, axisTitle(c.y))
	return template.HTML(b.String()) // numbers and escaped words only
}

// axisTitle is the name of a variable with its unit.
func axisTitle(v variable) string {
	text := v.name
	if v.unit != "" {
		text += ", " + v.unit
	}
	return template.HTMLEscapeString(text)
}
