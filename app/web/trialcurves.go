package web

import (
	"fmt"
	"math"
	"net/http"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/trial"
)

// chartJSON is a chart of what is predicted.
type chartJSON struct {
	Show   string         `json:"show"`
	X      *chartAxis     `json:"x,omitempty"`
	Y      *chartAxis     `json:"y,omitempty"`
	Z      *chartAxis     `json:"z,omitempty"`
	Low    []float64      `json:"low,omitempty"`
	High   []float64      `json:"high,omitempty"`
	Series []chartSeries  `json:"series,omitempty"`
	Points []predictPoint `json:"points,omitempty"`
	Words  string         `json:"words,omitempty"`
}

type chartAxis struct {
	Label  string       `json:"label"`
	Unit   string       `json:"unit"`
	Values []float64    `json:"values"`
	Limits []trialLimit `json:"limits,omitempty"`
}

type chartSeries struct {
	Label  string    `json:"label"`
	Values []float64 `json:"values"`
}

type predictPoint struct {
	Trial int     `json:"trial"`
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	Z     float64 `json:"z"`
	Band  float64 `json:"band"`
}

func (s *trialsPage) chart(w http.ResponseWriter, r *http.Request) {
	in, err := s.insightOf(r.Context(), r)
	var c *chartJSON
	if err == nil {
		c, err = in.chart(r)
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	answerJSON(w, c)
}

func (in *insight) chart(r *http.Request) (*chartJSON, error) {
	key := r.FormValue("of")
	if !slices.Contains(in.keys, key) {
		return nil, &userError{fmt.Errorf("the trials have no reading %q", key)}
	}
	c := &chartJSON{Show: r.FormValue("show")}
	f, trials, err := in.p.Surface(key)
	if err != nil {
		c.Words = capital(err.Error())
		return c, nil
	}
	q := in.reading(key)
	axis := in.axis(q)
	values, err := in.valuesAt(r.FormValue("at"))
	if err != nil {
		return nil, err
	}
	axisOf := func(name string) (int, error) {
		j := slices.IndexFunc(in.set.Axes, func(a model.Axis) bool { return a.Parameter == name })
		if j < 0 {
			return 0, &userError{fmt.Errorf("%q does not vary", name)}
		}
		return j, nil
	}
	difference := func(d float64) float64 { return q.shown(d) - q.shown(0) }
	switch c.Show {
	case showFit:
		c.X, c.Y = &chartAxis{Label: q.name + ", computed", Unit: q.unit}, &chartAxis{Label: "predicted from the others", Unit: q.unit}
		at := map[string]int{} // a surface joins trials that coincide
		for _, t := range trials {
			at[fmt.Sprintf("%.9f", in.Scaled(in.set.Values(t)))] = t
		}
		for i := range f.Y {
			c.Points = append(c.Points, predictPoint{Trial: at[fmt.Sprintf("%.9f", f.X[i])], X: q.shown(f.Y[i]), Y: q.shown(f.Left[i]), Band: finite(difference(trial.Within * f.LeftDeviation[i]))})
		}
		size, share := f.Error()
		c.Words = fmt.Sprintf("Each trial as the others predict it: off by %s, %s %% of how it varies.", in.difference(key, size), quantity.Figures(100*share, 2))
	case showCurve:
		j, err := axisOf(r.FormValue("by"))
		if err != nil {
			return nil, err
		}
		line, err := in.p.Section(key, j, values)
		if err != nil {
			return nil, err
		}
		a := &in.set.Axes[j]
		c.X, c.Y = &chartAxis{Label: a.Parameter, Unit: a.Unit.Text}, &chartAxis{Label: q.name, Unit: q.unit, Limits: axis.Limits}
		for i := range line.X {
			c.X.Values, c.Y.Values = append(c.X.Values, a.Unit.From(line.X[i], false)), append(c.Y.Values, q.shown(line.Y[i]))
			c.Low, c.High = append(c.Low, q.shown(line.Y[i]-finite(line.Band[i]))), append(c.High, q.shown(line.Y[i]+finite(line.Band[i])))
		}
		c.Words = "The others as the sliders say; the band holds 95 %."
	case showEffects:
		c.X, c.Y = &chartAxis{Label: "each parameter from its first end to its other", Unit: ""}, &chartAxis{Label: q.name + ", mean over the others", Unit: q.unit, Limits: axis.Limits}
		for j := range in.set.Axes {
			line, err := in.p.MainEffect(key, j)
			if err != nil {
				return nil, err
			}
			s := chartSeries{Label: in.set.Axes[j].Parameter}
			for _, y := range line.Y {
				s.Values = append(s.Values, q.shown(y))
			}
			c.Series = append(c.Series, s)
			if j == 0 {
				for i := range line.X {
					c.X.Values = append(c.X.Values, float64(i)/float64(len(line.X)-1))
				}
			}
		}
	case showSurface:
		return in.surfaceChart(c, key, r.FormValue("by"), r.FormValue("and"), values, axisOf)
	default:
		return nil, &userError{fmt.Errorf("there is no chart %q", c.Show)}
	}
	return c, nil
}

// surfaceAcross is how many points a surface has along each side.
const surfaceAcross = 33

// surfaceChart is a reading over two parameters, the others at values.
func (in *insight) surfaceChart(c *chartJSON, key, by, and string, values []float64, axisOf func(string) (int, error)) (*chartJSON, error) {
	j, err := axisOf(by)
	if err != nil {
		return nil, err
	}
	k, err := axisOf(and)
	if err != nil {
		return nil, err
	}
	if j == k {
		return nil, &userError{fmt.Errorf("a surface is over two different parameters")}
	}
	f, trials, err := in.p.Surface(key)
	if err != nil {
		return nil, err
	}
	q, a, b := in.reading(key), &in.set.Axes[j], &in.set.Axes[k]
	c.X, c.Y, c.Z = &chartAxis{Label: a.Parameter, Unit: a.Unit.Text}, &chartAxis{Label: b.Parameter, Unit: b.Unit.Text}, &chartAxis{Label: q.name, Unit: q.unit, Limits: in.axis(q).Limits}
	var points [][]float64
	at := in.Scaled(values)
	for i := range surfaceAcross {
		u := float64(i) / (surfaceAcross - 1)
		c.X.Values = append(c.X.Values, a.Unit.From((1-u)*a.From+u*a.To, false))
		c.Y.Values = append(c.Y.Values, b.Unit.From((1-u)*b.From+u*b.To, false))
		for n := range surfaceAcross {
			x := slices.Clone(at)
			x[j], x[k] = u, float64(n)/(surfaceAcross-1)
			points = append(points, x)
		}
	}
	for _, v := range f.Values(points) {
		c.Z.Values = append(c.Z.Values, q.shown(v))
	}
	for _, t := range trials {
		x := in.set.Values(t)
		if z, ok := q.of(t); ok && in.beside(in.Scaled(x), at, j, k) {
			c.Points = append(c.Points, predictPoint{Trial: t, X: a.Unit.From(x[j], false), Y: b.Unit.From(x[k], false), Z: z})
		}
	}
	if len(in.set.Axes) > 2 {
		c.Words = "The others as the sliders say, and the trials that are near them."
	}
	return c, nil
}

// beside says that a point has nearly the same values as another but for two axes.
func (in *insight) beside(x, at []float64, j, k int) bool {
	for i := range x {
		if i != j && i != k && math.Abs(x[i]-at[i]) > 0.08 {
			return false
		}
	}
	return true
}

// finite is a number, or 0 for one that is none, which has no place in JSON.
func finite(x float64) float64 {
	if math.IsNaN(x) || math.IsInf(x, 0) {
		return 0
	}
	return x
}
