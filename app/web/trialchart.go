package web

import (
	"encoding/json"
	"math"
)

// trialChart is trials as points of a chart, which a script draws.
type trialChart struct {
	x, y  variable
	shade *variable   // colours the points, nil for none
	line  bool        // joins the points in their order
	best  int         // trial, −1 for none
	end   *[2]float64 // of the parabola through the best one
}

// trialPoint is a trial in the chart.
type trialPoint struct {
	Trial int     `json:"trial"` // its place in the set
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
	// Shade is from 0 to 1.
	Shade  float64 `json:"shade"`
	Counts bool    `json:"counts"`
}

// trialAxis is what an axis of the chart has.
type trialAxis struct {
	Label string `json:"label"`
	Unit  string `json:"unit"`
}

// data is the chart as JSON, "" if there is no point.
func (c *trialChart) data(o *outcomes) string {
	var list []trialPoint
	lo, hi := math.Inf(1), math.Inf(-1)
	for place := range o.list {
		if !o.list[place].Done {
			continue
		}
		x, okX := c.x.of(place)
		y, okY := c.y.of(place)
		if !okX || !okY || math.IsNaN(x+y) || math.IsInf(x+y, 0) {
			continue
		}
		p := trialPoint{Trial: place, X: x, Y: y, Counts: o.list[place].Counts}
		if c.shade != nil {
			p.Shade, _ = c.shade.of(place)
			lo, hi = min(lo, p.Shade), max(hi, p.Shade)
		}
		list = append(list, p)
	}
	if len(list) == 0 {
		return ""
	}
	for i := range list {
		if c.shade != nil && hi > lo {
			list[i].Shade = (list[i].Shade - lo) / (hi - lo)
		} else {
			list[i].Shade = 0.5
		}
	}
	data, err := json.Marshal(struct {
		X      trialAxis    `json:"x"`
		Y      trialAxis    `json:"y"`
		Points []trialPoint `json:"points"`
		Shaded bool         `json:"shaded"`
		Line   bool         `json:"line"`
		Best   int          `json:"best"`
		End    *[2]float64  `json:"end"`
	}{trialAxis{c.x.name, c.x.unit}, trialAxis{c.y.name, c.y.unit}, list, c.shade != nil, c.line, c.best, c.end})
	if err != nil {
		return "" // a number that is none has no place
	}
	return string(data)
}
