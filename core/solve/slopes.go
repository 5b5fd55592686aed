package solve

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/result"
)

// Slope is how the readings of a run change with a parameter.
type Slope struct {
	Parameter string `json:"parameter"`
	// Of is the derivative of each reading by the parameter, SI by id; readings without a value have none.
	Of map[string]float64 `json:"of,omitempty"`
	// Missing says why there is none, "" if there is.
	Missing string `json:"missing,omitempty"`
}

// slopeStep is by how much of its value a parameter is changed to either side: small enough for the curvature, large against what is left of equations.
const slopeStep = 1e-3

// Slopes runs a steady model and finds how its readings change with parameters. For each the equations are solved twice more, with a little more and a
// little less of it, from the solution at hand and on the same mesh, whose nodes may move with it: that takes a step or two of Newton's method each, no
// noise of another mesh comes in, and it is as good for all readings at once. An adjoint, one solve for each reading, would be no less for
// the few parameters and the several readings of a device, and would ask every reading for its derivative by every unknown.
func Slopes(ctx context.Context, doc *model.Document, parameters []string, opt Options) (*Outcome, []Slope, error) {
	base := newRun(doc, opt)
	out, err := base.all(ctx, doc)
	base.enter("")
	if err != nil {
		return nil, nil, err
	}
	list := make([]Slope, len(parameters))
	for i, name := range parameters {
		list[i] = Slope{Parameter: name}
		switch {
		case doc.Dynamic():
			list[i].Missing = "slopes are those of steady runs"
		case base.model.Rounds > 0:
			list[i].Missing = "slopes are not found where the run makes cells finer by itself"
		case base.result.Status != result.Settled:
			list[i].Missing = "the run has not settled"
		default:
			if list[i].Of, err = base.slope(ctx, doc, name); err != nil {
				if ctx.Err() != nil {
					return nil, nil, ctx.Err()
				}
				list[i].Missing = err.Error()
				if fault := (*ModelError)(nil); errors.As(err, &fault) {
					list[i].Missing = fault.Findings[0].Message
				}
			}
		}
	}
	return out, list, nil
}

// slope is the derivative of the readings of a run by a parameter. Where the cells hang together in another way with a little of it, less is tried.
func (r *run) slope(ctx context.Context, doc *model.Document, name string) (of map[string]float64, err error) {
	now, known := r.model.Parameters[name]
	switch {
	case !known:
		return nil, fmt.Errorf("the model has no parameter %q with a value", name)
	case now.SI == 0:
		return nil, fmt.Errorf("%s is 0: nothing tells how much a little of it is", name)
	}
	for _, part := range []float64{slopeStep, slopeStep / 10, slopeStep / 100} {
		if of, err = r.difference(ctx, doc, name, part*math.Abs(now.SI)); !errors.Is(err, errOtherMesh) {
			return of, err
		}
	}
	return nil, err
}

// difference is the derivative by a parameter from what it comes to with so much more and less of it.
func (r *run) difference(ctx context.Context, doc *model.Document, name string, h float64) (map[string]float64, error) {
	now := r.model.Parameters[name]
	var sides [2]*result.Result
	for k, sign := range []float64{-1, 1} {
		d := *doc
		d.Parameters = slices.Clone(doc.Parameters)
		if err := d.SetParameter(name, fmt.Sprintf("%.15g %s", now.SI+sign*h, now.Dimension.Symbol())); err != nil {
			return nil, err
		}
		o := r.quietly()
		o.Lean, o.from = true, r
		other := newRun(&d, o)
		other.quiet = true
		if _, err := other.all(ctx, &d); err != nil {
			return nil, err
		}
		if other.result.Status != result.Settled {
			return nil, fmt.Errorf("with a little other %s the run does not settle: %s", name, other.result.Reason)
		}
		sides[k] = other.result
	}
	of := map[string]float64{}
	for i, q := range sides[1].Readings {
		p := sides[0].Readings[i]
		if q.Missing != "" || p.Missing != "" {
			continue
		}
		of[q.Key] = (q.Value - p.Value) / (2 * h)
		if math.Abs(q.Value-p.Value) < slopeNoise*math.Abs(q.Value) {
			of[q.Key] = 0
		}
	}
	return of, nil
}

// slopeNoise is how much two values differ that are the same but for what is left of the equations.
const slopeNoise = 1e-10

// errOtherMesh says that a little other parameter leads to cells that hang together in another way.
var errOtherMesh = errors.New("the cells hang together in another way with a little more or less of it: take the difference of two trials")

// alike checks that a mesh is that of another run but for where its nodes are.
func (r *run) alike(from *run) error {
	if r.mesh.NodeCount() != from.mesh.NodeCount() || !r.mesh.HangsLike(from.mesh) {
		return errOtherMesh
	}
	return nil
}

// newRun is one that has not begun.
func newRun(doc *model.Document, opt Options) *run {
	return &run{opt: opt, result: &result.Result{Status: result.Settled, Seconds: map[string]float64{}, Warnings: []string{}, Readings: []result.Reading{}, Balances: []result.Balance{}, Document: doc}}
}
