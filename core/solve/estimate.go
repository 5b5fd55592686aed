package solve

import (
	"context"
	"fmt"
	"math"
	"slices"
	"time"

	"saltkettle/core/model"
	"saltkettle/core/quantity"
	"saltkettle/core/result"
)

// Coarser meshes that the mesh error is estimated from: factors of the cell size.
var coarser = []float64{1.6, 2.6}

// finer are the factors of finer meshes, where thin parts keep coarser ones from being
// coarser.
var finer = []float64{0.8, 0.6}

// UsualEstimate is how long the estimate of the errors may take without being
// asked for.
const UsualEstimate = 2 * time.Second

// What the runs of an estimate cost, as parts of the run itself: those on coarser cells,
// on finer ones, with another tolerance of the steps in time, with other rays, with sides farther away.
const (
	coarserCost = 0.35
	finerCost   = 7
	loosenCost  = 0.6
	raysCost    = 1
	sidesCost   = 1.5
)

// loosened is by how much the tolerance of steps in time is larger in the run that tells
// their error, and stepOrder the power of it that the error at least falls with.
const (
	loosened  = 8
	stepOrder = 0.6
)

// Sources of errors.
const (
	ofCells = "cells"
	ofSteps = "time steps"
	ofRays  = "rays"
	ofSides = "sides" // that stand for what is far away
)

// estimates are the errors of the readings of a run by source, and why they are not known.
type estimates struct {
	parts map[string][]result.ErrorPart
	why   map[string]string
}

func (e *estimates) add(key, of string, value, order float64) {
	e.parts[key] = append(e.parts[key], result.ErrorPart{Of: of, Value: value, Order: order})
}

// lacks says why a part of the error of a reading is not known; the first reason counts.
func (e *estimates) lacks(key, why string) {
	if e.why[key] == "" {
		e.why[key] = why
	}
}

// estimate gives each reading its error, made of what cells, steps in time and rays have of
// it, or says why it is not known.
func (r *run) estimate(ctx context.Context) {
	e := &estimates{parts: map[string][]result.ErrorPart{}, why: map[string]string{}}
	open := r.unboundedEdges()
	r.unbounded(e, open)
	if why := r.unasked(); why != "" {
		for _, q := range r.result.Readings {
			e.lacks(q.Key, why+r.swung(&q))
		}
	} else {
		r.enter("estimate")
		edges := r.sharpEdges()
		r.byCells(ctx, e, r.trueOrder(edges, open))
		if r.model.Document.Transient() {
			r.bySteps(ctx, e)
		}
		if r.result.Radiation != nil {
			r.byRays(ctx, e)
		}
		if far := r.farAway(); len(far) > 0 {
			r.bySides(ctx, e, far)
		}
		r.singular(e, edges)
	}
	for i := range r.result.Readings {
		q := &r.result.Readings[i]
		if q.Missing != "" {
			continue
		}
		q.Errors, q.Unknown = e.parts[q.Key], e.why[q.Key]
		if q.Unknown != "" {
			continue
		}
		sum := 0.0
		for _, p := range q.Errors {
			sum += p.Value
		}
		q.Error = &sum
	}
}

// unasked says why no errors are to be estimated, "" if they are.
func (r *run) unasked() string {
	switch {
	case r.result.Status != result.Settled:
		return "the run is not settled"
	case r.opt.EstimateWithin == 0:
		return "it was not asked for"
	case r.opt.EstimateWithin < 0:
		return ""
	}
	// Coarser meshes have as many patches, and need view factors of their own.
	views := r.result.Seconds["views"]
	cost := coarserCost*(r.spent-views) + float64(len(coarser))*views
	if r.model.Document.Transient() {
		cost += loosenCost * (r.spent - views)
	}
	if r.result.Radiation != nil {
		cost += raysCost*(r.spent-views) + views
	}
	if len(r.farAway()) > 0 {
		cost += sidesCost * r.spent
	}
	if within := r.opt.EstimateWithin.Seconds(); cost > within {
		return fmt.Sprintf("that takes about %s s more, and no more than %s s were allowed", quantity.Figures(cost, 2), quantity.Figures(within, 2))
	}
	return ""
}

// edge is a mean length of the cells of a mesh, relative.
func (r *run) edge(cells int) float64 {
	return math.Pow(1/float64(cells), 1/r.model.Document.Space.Dimensions())
}

// byCells estimates the errors of the cells from runs on coarser meshes, or on finer ones
// where none is coarser.
func (r *run) byCells(ctx context.Context, e *estimates, order float64) {
	samples := map[string][]sample{}
	for _, q := range r.result.Readings {
		samples[q.Key] = []sample{{r.edge(r.mesh.CellCount()), q.Value}}
	}
	last, failed := r.edge(r.mesh.CellCount()), false
	first := last
	for _, factor := range coarser {
		c := r.remeshed(ctx, factor)
		if c == nil {
			failed = true
			continue
		}
		l := r.edge(c.mesh.CellCount())
		if l < leastRatio*last {
			continue
		}
		last = l
		for _, q := range c.result.Readings {
			if q.Missing == "" {
				samples[q.Key] = append(samples[q.Key], sample{l, q.Value})
			}
		}
	}
	if last == first {
		r.byFinerCells(ctx, e, failed)
		return
	}
	for _, q := range r.result.Readings {
		list := samples[q.Key]
		if len(list) < 2 {
			e.lacks(q.Key, "on coarser cells it could not be read")
			continue
		}
		if q.At != nil && grows(list) {
			e.lacks(q.Key, growsWords(list))
		}
		value, observed := meshError(list, order)
		e.add(q.Key, ofCells, value, observed)
	}
}

// trueOrder is the order at which readings can be expected to converge: that of elements of
// order 1, or less where an edge is sharp.
func (r *run) trueOrder(edges []edge, open map[*portion][]edge) float64 {
	order := smoothOrder
	if len(edges) > 0 {
		order = min(order, 2*edges[0].lambda())
	}
	for p, list := range open {
		for _, e := range list {
			order = min(order, 2*p.Unbounded(e.angle, e.held))
		}
	}
	return order
}

// byFinerCells estimates the errors of the cells from finer meshes: what is left to the limit
// is as much as if the error fell with the length of the cells. The larger one of two
// counts: differences may vanish by chance.
func (r *run) byFinerCells(ctx context.Context, e *estimates, failed bool) {
	why := "coarser cells hardly change this mesh"
	if failed {
		why = "the run on coarser cells did not come to an end"
	}
	if within := r.opt.EstimateWithin.Seconds(); within > 0 && finerCost*r.spent > within {
		for _, q := range r.result.Readings {
			e.lacks(q.Key, fmt.Sprintf("%s, and finer ones would take about %s s more", why, quantity.Figures(finerCost*r.spent, 2)))
		}
		return
	}
	errors := map[string]float64{}
	for _, factor := range finer {
		c := r.remeshed(ctx, factor)
		if c == nil {
			break
		}
		ratio := r.edge(r.mesh.CellCount()) / r.edge(c.mesh.CellCount())
		if ratio < leastRatio {
			continue
		}
		for _, q := range r.result.Readings {
			if v, ok := c.valueOf(q.Key); ok {
				errors[q.Key] = max(errors[q.Key], leastOfMesh*math.Abs(q.Value), math.Abs(v-q.Value)*ratio/(ratio-1))
			}
		}
	}
	for _, q := range r.result.Readings {
		if v, ok := errors[q.Key]; ok {
			e.add(q.Key, ofCells, v, 0)
		} else {
			e.lacks(q.Key, why+", and finer ones could not be solved")
		}
	}
}

// valueOf is the value of a reading.
func (r *run) valueOf(key string) (float64, bool) {
	for _, q := range r.result.Readings {
		if q.Key == key && q.Missing == "" {
			return q.Value, true
		}
	}
	return 0, false
}

// bySteps estimates the errors of the steps in time from a run with a larger tolerance.
func (r *run) bySteps(ctx context.Context, e *estimates) {
	model := *r.model
	model.Tolerance *= loosened
	if r.result.Ended != nil {
		model.End = r.result.Ended.At
	}
	model.Until = nil
	c := *r
	c.model, c.quiet, c.opt = &model, true, r.quietly()
	c.result = &result.Result{Status: result.Settled, Seconds: map[string]float64{}, Document: r.result.Document}
	again := c.solve(ctx) == nil && c.settled() && c.read() == nil
	for _, q := range r.result.Readings {
		v, ok := c.valueOf(q.Key)
		if !again || !ok {
			e.lacks(q.Key, "the run with another tolerance of its steps did not come to an end")
			continue
		}
		// Differences may vanish by chance: an error is not smaller than what the steps aim
		// at.
		floor := stepFloor * r.model.Tolerance * r.reach(&q)
		e.add(q.Key, ofSteps, max(floor, math.Abs(v-q.Value)/(math.Pow(loosened, stepOrder)-1)), 0)
	}
}

// stepFloor is the least error in time, as a part of the tolerance of how far a reading has
// gone.
const stepFloor = 0.5

// reach is how far apart the values of a reading have been in a run in time, SI.
func (r *run) reach(q *result.Reading) float64 {
	if r.result.History == nil {
		return 0
	}
	list := r.result.History.Readings[q.Key]
	if len(list) == 0 {
		return 0
	}
	u := quantity.MustUnit(q.Shown.Unit)
	return math.Abs(u.SI(slices.Max(list)) - u.SI(slices.Min(list)))
}

// byRays estimates the errors of the view factors from a run with other rays, which are as
// good.
func (r *run) byRays(ctx context.Context, e *estimates) {
	c := r.again(ctx, 1, 1)
	for _, q := range r.result.Readings {
		if c == nil {
			e.lacks(q.Key, "the run with other rays did not come to an end")
		} else if v, ok := c.valueOf(q.Key); ok {
			e.add(q.Key, ofRays, raysSafety*math.Abs(v-q.Value), 0)
		}
	}
}

// raysSafety is how many times the difference of two runs with different rays counts: each is
// off by about as much over the root of two.
const raysSafety = 2

// quietly are the options of a run for an estimate. Steady flows begin in it with what this one found.
func (r *run) quietly() Options {
	o := Options{Earlier: r.opt.Earlier, Compared: r.opt.Compared, Views: r.opt.Views, MaxCells: r.opt.MaxCells, MaxIterations: r.opt.MaxIterations}
	if r.stepwise() {
		o.Near = r.reached
	}
	return o
}

// remeshed solves the model with cells of another size, nil if that does not succeed.
func (r *run) remeshed(ctx context.Context, factor float64) *run { return r.again(ctx, factor, r.rays) }

// again solves the model with cells of another size and some set of rays.
func (r *run) again(ctx context.Context, factor float64, rays int) *run {
	model := *r.model
	model.Parts = append(model.Parts[:0:0], model.Parts...)
	for i := range model.Parts {
		p := &model.Parts[i]
		p.Size *= factor
		p.Near = slices.Clone(p.Near)
		for k := range p.Near {
			p.Near[k].Size *= factor
		}
		p.Walls = slices.Clone(p.Walls)
		for k := range p.Walls {
			p.Walls[k].First *= factor
		}
	}
	model.Expected = slices.Clone(model.Expected)
	for i, e := range model.Expected {
		model.Expected[i] = e.Scaled(factor)
	}
	if model.Field != nil && factor != 1 {
		model.Field = model.Field.Scaled(factor)
	}
	model.Across = max(1, int(math.Round(float64(model.Across)/factor)))
	return r.beside(ctx, &model, rays)
}

// beside solves a model like this one, up to where this one ended, nil if that does not succeed.
func (r *run) beside(ctx context.Context, model *model.Resolved, rays int) *run {
	if r.result.Ended != nil {
		model.End = r.result.Ended.At
	}
	model.Until = nil
	c := &run{quiet: true, rays: rays, opt: r.quietly(), model: model,
		result: &result.Result{Status: result.Settled, Seconds: map[string]float64{}, Document: model.Document}}
	if c.makeMesh(ctx) != nil || c.pose(ctx) != nil || c.solve(ctx) != nil || !c.settled() || c.read() != nil {
		return nil
	}
	return c
}
