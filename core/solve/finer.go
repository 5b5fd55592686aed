package solve

import (
	"context"
	"errors"
	"math"
	"slices"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/mesh"
	"saltkettle/core/result"
)

// Bounds of a round: how much shorter a cell may become, and how many times as many
// cells there may be.
const (
	shortest  = 0.2
	mostTimes = 4
)

// aim is the part of the error that is allowed that a round aims at, so that the last ones
// do not creep up to it.
const aim = 0.8

// refine solves the model again on meshes that are finer where the fluxes are least
// exact, in as many rounds as are asked for or until they are exact enough.
func (r *run) refine(ctx context.Context) error {
	if r.model.Rounds == 0 {
		return nil
	}
	for {
		fluxes, err := r.fluxErrors()
		if err != nil {
			return err
		}
		worst := 0.0
		for _, e := range fluxes {
			worst = max(worst, e.Relative())
		}
		r.result.Mesh.Rounds = append(r.result.Mesh.Rounds, result.Round{Cells: r.mesh.CellCount(), Error: worst, Readings: r.soFar()})
		if worst <= r.model.FluxError || r.rests() || len(r.result.Mesh.Rounds) > r.model.Rounds || !r.settled() {
			return nil
		}
		field := r.wishes(fluxes)
		r.enter("mesh")
		before := *r
		if r.stepwise() {
			found, err := r.reached()
			if err != nil {
				return err
			}
			r.opt.Near = func() (*result.Earlier, error) { return found, nil }
		}
		if err := r.meshBy(ctx, field); err != nil {
			*r = before
			var full *ModelError
			if !errors.As(err, &full) {
				return err
			}
			r.warn("cells were made no finer: %s", full.Findings[0].Message)
			return nil
		}
		r.enter("assemble")
		if err := r.pose(ctx); err != nil {
			return err
		}
		r.enter("solve")
		if err := r.solve(ctx); err != nil {
			return err
		}
		r.solvedSoFar()
	}
}

// soFar are the readings as they are on the mesh at hand.
func (r *run) soFar() map[string]float64 {
	values := map[string]float64{}
	for i := range r.model.Readings {
		if q := &r.model.Readings[i]; !q.InTime {
			if v, err := r.reading(q); err == nil {
				values[q.ID] = v.Value
			}
		}
	}
	return values
}

// rests says that no reading changed in the last round by more than is said to end them.
func (r *run) rests() bool {
	rounds := r.result.Mesh.Rounds
	if r.model.Change == 0 || len(rounds) < 2 {
		return false
	}
	before, now := rounds[len(rounds)-2].Readings, rounds[len(rounds)-1].Readings
	for key, v := range now {
		if was, known := before[key]; !known || math.Abs(v-was) > r.model.Change*math.Abs(v) {
			return false
		}
	}
	return len(now) > 0
}

// meshBy meshes the model by a field of lengths. Cells that grow from small ones to large
// ones may be many more than the field alone asks for: it is then made coarser.
func (r *run) meshBy(ctx context.Context, field *mesh.Field) error {
	dimension := r.model.Document.Space.Dimensions()
	most := mostTimes * float64(r.mesh.CellCount())
	finer := *r.model
	for range 4 {
		finer.Field = field
		r.model, r.owner, r.points = &finer, nil, nil
		if err := r.makeMesh(ctx); err != nil {
			return err
		}
		times := float64(r.mesh.CellCount()) / most
		if times <= excess {
			break
		}
		field = field.Scaled(math.Pow(times, 1/dimension))
	}
	return nil
}

// excess is by how much the most cells may be exceeded without another mesh.
const excess = 1.2

// fluxErrors estimates the errors of the fluxes that are solved for.
func (r *run) fluxErrors() ([]*fem.Estimate, error) {
	var list []*fem.Estimate
	for _, p := range r.posed.parts {
		if k, ok := p.kernel.(frame.Graded); ok {
			e, err := r.slopeErrors(p, k)
			if err != nil {
				return nil, err
			}
			list = append(list, e)
		}
		if p.Flux == "" {
			continue
		}
		s, err := r.solutionOf(p)
		if err != nil {
			return nil, err
		}
		x := slices.IndexFunc(p.Derived, func(v formula.Variable) bool { return v.Name == p.Flux+"_x" })
		e, err := s.System.FluxError(s.State, s.Fields[p.field].Bodies, func(core int) func([]fem.Point, [][]float64) error {
			kernel, all := couple.Forked(p.kernel, core), make([][]float64, len(p.Derived))
			return func(points []fem.Point, out [][]float64) error {
				for i := range all {
					all[i] = slices.Grow(all[i][:0], len(points))[:len(points)]
				}
				err := kernel.Derive(points, all)
				for d := range out {
					copy(out[d], all[x+d])
				}
				return err
			}
		})
		if err != nil {
			return nil, err
		}
		list = append(list, e)
	}
	return list, nil
}

// slopeErrors estimates the errors of all slopes of a vector as those of one flux.
func (r *run) slopeErrors(p *portion, k frame.Graded) (all *fem.Estimate, err error) {
	s, err := r.solutionOf(p)
	if err != nil {
		return nil, err
	}
	for i := range k.Graded() {
		e, err := s.System.FluxError(s.State, s.Fields[p.field].Bodies, func(core int) func([]fem.Point, [][]float64) error {
			own := couple.Forked(p.kernel, core).(frame.Graded)
			return func(points []fem.Point, out [][]float64) error { return own.Slopes(i, points, out) }
		})
		if err != nil {
			return nil, err
		}
		if all == nil {
			all = e
			continue
		}
		for b := range e.Cells {
			for c, v := range e.Cells[b] {
				for d := range v {
					all.Cells[b][c][d] += v[d]
				}
			}
		}
		all.Total, all.Norm = math.Hypot(all.Total, e.Total), math.Hypot(all.Norm, e.Norm)
	}
	return all, nil
}

// wishes are the lengths of cells with which the errors of fluxes would fall to what is
// allowed. Cells of a stack share their bases in plan with those above, and their
// heights with those beside: the errors along x and y of all cells of a column, and those
// along z of all cells of a layer, are what can be made smaller.
func (r *run) wishes(fluxes []*fem.Estimate) *mesh.Field {
	order := 1.0
	if r.model.Order == 2 {
		order = 2
	}
	allowed, list := 0.0, fluxes[:0:0]
	for _, e := range fluxes {
		if e.Relative() > r.model.FluxError {
			allowed += aim * aim * r.model.FluxError * r.model.FluxError
			list = append(list, e)
		}
	}
	if r.mesh.Grid != nil {
		return bricksBy(r.mesh.Slabs(), list, order, allowed)
	}
	columns := r.mesh.Columns()
	plan := &partition{order: order, dimension: 2, errors: make([]float64, len(columns.Plan))}
	up := &partition{order: order, dimension: 1, errors: make([]float64, len(columns.Up))}
	for _, e := range list {
		for c, v := range slices.Concat(e.Cells...) {
			plan.errors[columns.Base[c]] += (v[0] + v[1]) / (e.Norm * e.Norm)
			up.errors[columns.Layer[c]] += v[2] / (e.Norm * e.Norm)
		}
	}
	ratios := cheapest(allowed, plan, up)
	along, upward := ratios[0], ratios[1]
	for i := range along {
		along[i] *= columns.Plan[i]
	}
	for i := range upward {
		upward[i] *= columns.Up[i] * (1 + 1e-6)
	}
	return columns.Field(along, upward)
}

// bricksBy is wishes for bricks: all cells of a slab between two lines of the grid have its thickness,
// and the errors along its axis are what that decides.
func bricksBy(slabs *mesh.Slabs, fluxes []*fem.Estimate, order, allowed float64) *mesh.Field {
	var list []*partition
	for axis, thick := range slabs.Thick {
		p := &partition{order: order, dimension: 1, errors: make([]float64, len(thick))}
		for _, e := range fluxes {
			for c, v := range slices.Concat(e.Cells...) {
				p.errors[slabs.Of[axis][c]] += v[axis] / (e.Norm * e.Norm)
			}
		}
		list = append(list, p)
	}
	var wanted [3][]float64
	for axis, ratios := range cheapest(allowed, list...) {
		for i, q := range ratios {
			wanted[axis] = append(wanted[axis], q*slabs.Thick[axis][i]*(1+1e-6))
		}
	}
	return slabs.Field(wanted)
}

// partition is pieces, of columns or layers, with their squared errors.
type partition struct {
	errors           []float64
	order, dimension float64
}

// ratios are how many times as long as now the pieces should be for the least error with
// a number of them that falls with the measure m.
//
// The squared error of a piece goes with the power 2·order of its length, the number of
// pieces with −dimension. The sum of the errors is least, at a given sum of the numbers,
// where their ratio is the same in all.
func (p *partition) ratios(m float64) (ratios []float64, left, times float64) {
	ratios = make([]float64, len(p.errors))
	for i, e := range p.errors {
		ratios[i] = 1
		if e > 0 {
			ratios[i] = min(1, max(shortest, math.Pow(m/e, 1/(2*p.order+p.dimension))))
		}
		left += e * math.Pow(ratios[i], 2*p.order)
		times += math.Pow(ratios[i], -p.dimension)
	}
	return ratios, left, times / float64(len(p.errors))
}

// cheapest finds the ratios of the pieces of partitions, such as columns and layers, with which the
// squared error falls to what is allowed with the fewest cells, or as far as it can with as many as are
// allowed.
func cheapest(allowed float64, partitions ...*partition) [][]float64 {
	type choice struct {
		ratios      []float64
		left, times float64
	}
	all := make([][]choice, len(partitions))
	for i, p := range partitions {
		most := slices.Max(p.errors)
		for k := range 60 {
			var c choice
			c.ratios, c.left, c.times = p.ratios(most * math.Pow(0.7, float64(k)))
			all[i] = append(all[i], c)
			if c.times > mostTimes || most == 0 {
				break
			}
		}
	}
	best, bestLeft, bestTimes := make([]int, len(all)), math.Inf(1), math.Inf(1)
	at := make([]int, len(all))
	var try func(i int, left, times float64)
	try = func(i int, left, times float64) {
		if times > mostTimes {
			return
		}
		if i < len(all) {
			for k, c := range all[i] {
				at[i] = k
				try(i+1, left+c.left, times*c.times)
			}
			return
		}
		better := left < bestLeft
		if left <= allowed {
			better = bestLeft > allowed || times < bestTimes
		}
		if better {
			bestLeft, bestTimes = left, times
			copy(best, at)
		}
	}
	try(0, 0, 1)
	out := make([][]float64, len(all))
	for i, k := range best {
		out[i] = slices.Clone(all[i][k].ratios)
	}
	return out
}
