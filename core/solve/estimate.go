package solve

import (
	"context"
	"math"
	"time"

	"saltkettle/core/result"
)

// Coarser meshes that the mesh error is estimated from: factors of the cell size.
var coarser = [2]float64{1.6, 2.6}

// finer are the factors of finer meshes, where thin parts keep coarser ones from being
// coarser.
var finer = [2]float64{0.8, 0.6}

// UsualEstimate is how long the estimate of the mesh error may take without being
// asked for.
const UsualEstimate = 2 * time.Second

// coarserCost is about what the runs on them cost, as a part of the run itself.
const coarserCost = 0.35

// Parameters of the estimate, after I. Celik and others, J. Fluids Eng. 130 (2008)
// 078001.
const (
	safety      = 1.25 // where three meshes show an order of convergence
	doubtful    = 3.0  // where they do not, or there are but two
	leastOrder  = 0.5  // a smaller observed order is none
	trueOrder   = 2.0  // the order of the elements: no larger one is believed
	leastRatio  = 1.1  // of mean cell lengths for a mesh to count as coarser
	leastOfMesh = 1e-9 // of the value: below it the solver's tolerance counts
)

// sample is a reading on a mesh with a mean length of cells.
type sample struct{ length, value float64 }

// estimate runs the model on coarser meshes and gives each reading its mesh error.
// It does nothing where that would take longer than is allowed, or where no mesh is
// coarser.
func (r *run) estimate(ctx context.Context) {
	if r.result.Status != result.Settled || len(r.result.Readings) == 0 || r.opt.EstimateWithin == 0 {
		return
	}
	// Coarser meshes have as many patches, and need view factors of their own.
	views := float64(len(coarser)) * r.result.Seconds["views"]
	predicted := time.Duration((coarserCost*(r.spent-r.result.Seconds["views"]) + views) * float64(time.Second))
	if r.opt.EstimateWithin > 0 && predicted > r.opt.EstimateWithin {
		return
	}
	r.enter("estimate")
	length := func(cells int) float64 { return math.Cbrt(1 / float64(cells)) }
	if r.model.Document.Space.Flat() {
		length = func(cells int) float64 { return math.Sqrt(1 / float64(cells)) }
	}
	samples := map[string][]sample{}
	for _, q := range r.result.Readings {
		samples[q.Key] = []sample{{length(r.mesh.CellCount()), q.Value}}
	}
	last := length(r.mesh.CellCount())
	for _, factor := range coarser {
		c := r.remeshed(ctx, factor)
		if c == nil {
			return
		}
		l := length(c.mesh.CellCount())
		if l < leastRatio*last {
			continue
		}
		last = l
		for _, q := range c.result.Readings {
			samples[q.Key] = append(samples[q.Key], sample{l, q.Value})
		}
	}
	if last == length(r.mesh.CellCount()) {
		if r.opt.EstimateWithin < 0 {
			r.estimateByFiner(ctx, length)
		}
		return
	}
	for i := range r.result.Readings {
		q := &r.result.Readings[i]
		if e, ok := meshError(samples[q.Key]); ok {
			q.Error = &e
		}
	}
}

// estimateByFiner estimates the mesh error from finer meshes: what is left to the limit
// is as much as if the error fell with the length of the cells. The larger one of two
// counts: differences may vanish by chance.
func (r *run) estimateByFiner(ctx context.Context, length func(cells int) float64) {
	for _, factor := range finer {
		c := r.remeshed(ctx, factor)
		if c == nil {
			return
		}
		ratio := length(r.mesh.CellCount()) / length(c.mesh.CellCount())
		if ratio < leastRatio {
			continue
		}
		for i := range r.result.Readings {
			q := &r.result.Readings[i]
			for _, f := range c.result.Readings {
				if f.Key != q.Key {
					continue
				}
				e := max(leastOfMesh*math.Abs(q.Value), math.Abs(f.Value-q.Value)*ratio/(ratio-1))
				if q.Error != nil {
					e = max(e, *q.Error)
				}
				q.Error = &e
			}
		}
	}
}

// remeshed solves the model with cells of another size, nil if that does not succeed.
func (r *run) remeshed(ctx context.Context, factor float64) *run {
	model := *r.model
	model.Parts = append(model.Parts[:0:0], model.Parts...)
	for i := range model.Parts {
		model.Parts[i].Size *= factor
	}
	if model.Field != nil {
		model.Field = model.Field.Scaled(factor)
	}
	model.Across = max(1, int(math.Round(float64(model.Across)/factor)))
	if r.result.Ended != nil {
		model.End = r.result.Ended.At
	}
	model.Until = nil
	c := &run{quiet: true, opt: Options{Earlier: r.opt.Earlier, Views: r.opt.Views, MaxCells: r.opt.MaxCells, MaxIterations: r.opt.MaxIterations}, model: &model,
		result: &result.Result{Status: result.Settled, Seconds: map[string]float64{}, Document: r.result.Document}}
	if c.makeMesh() != nil || c.pose(ctx) != nil {
		return nil
	}
	if c.solve(ctx) != nil || !c.solution.Settled {
		return nil
	}
	if c.read() != nil {
		return nil
	}
	return c
}

// meshError estimates the error of the first of two or three values on meshes that
// are coarser one after the other.
func meshError(s []sample) (float64, bool) {
	if len(s) < 2 {
		return 0, false
	}
	r21 := s[1].length / s[0].length
	d21 := s[1].value - s[0].value
	floor := leastOfMesh * math.Abs(s[0].value)
	byOrder := func(p, factor float64) float64 { return factor * math.Abs(d21) / (math.Pow(r21, p) - 1) }
	if len(s) == 2 {
		return max(floor, byOrder(trueOrder, doubtful)), true
	}
	r32 := s[2].length / s[1].length
	d32 := s[2].value - s[1].value
	if math.Abs(d21) <= floor && math.Abs(d32) <= floor {
		return floor, true
	}
	p, ok := observedOrder(d21, d32, r21, r32)
	switch {
	case d21*d32 <= 0:
		// The values swing: what they swing by counts.
		return max(floor, math.Abs(d32), byOrder(trueOrder, doubtful)), true
	case !ok || p < leastOrder:
		return max(floor, byOrder(1, doubtful)), true
	}
	// An order beyond that of the elements is luck of one of the meshes.
	if p > trueOrder {
		return max(floor, byOrder(trueOrder, safety), byOrder(trueOrder, 1)+0.25*math.Abs(d21)), true
	}
	return max(floor, byOrder(p, safety)), true
}

// observedOrder solves for the order p at which differences between meshes of the
// given ratios of lengths fall.
func observedOrder(d21, d32, r21, r32 float64) (float64, bool) {
	if d21 == 0 || d32 == 0 {
		return 0, false
	}
	s := math.Copysign(1, d32/d21)
	p := trueOrder
	for range 100 {
		q := math.Log((math.Pow(r21, p) - s) / (math.Pow(r32, p) - s))
		next := math.Abs(math.Log(math.Abs(d32/d21))+q) / math.Log(r21)
		if math.IsNaN(next) || math.IsInf(next, 0) {
			return 0, false
		}
		if math.Abs(next-p) < 1e-6 {
			return next, true
		}
		p = (p + next) / 2
	}
	return p, true
}
