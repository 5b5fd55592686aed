package solve

import (
	"context"
	"math"
	"slices"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// What goes on for ever is solved for as far as sides that stand for the rest of it. What they change is found from a run
// with twice the room between them and the device.

// sidesSafety is how many times the difference of the two counts: what sides change falls at least with their distance, so
// that half of it is left when that is doubled.
const sidesSafety = 2

// farAway are the parts, by number, with a side that stands for what is far away, and room round the others that may be more.
func (r *run) farAway() (list []int) {
	doc := r.model.Document
	for i := range doc.Parts {
		p := &doc.Parts[i]
		far := func(c model.ResolvedSentence) bool { return c.Definition.Far && c.On.Part == p.ID }
		if p.Outline.Around() && slices.ContainsFunc(r.model.Conditions, far) {
			list = append(list, i)
		}
	}
	return list
}

// bySides estimates what the sides of parts that stand for what is far away change.
func (r *run) bySides(ctx context.Context, e *estimates, far []int) {
	c := r.roomier(ctx, far)
	for _, q := range r.result.Readings {
		v, ok := math.NaN(), false
		if c != nil {
			v, ok = c.valueOf(q.Key)
		}
		if !ok {
			e.lacks(q.Key, "the run with sides farther away did not come to an end")
			continue
		}
		e.add(q.Key, ofSides, sidesSafety*math.Abs(v-q.Value), 0)
	}
}

// roomier solves the model with more room, nil if that does not succeed.
func (r *run) roomier(ctx context.Context, far []int) *run {
	doc := r.model.Document.Clone()
	for _, i := range far {
		doc.Parts[i].Outline.Roomier()
	}
	resolved, findings := model.Resolve(doc, physics.Catalog())
	if len(model.Blocking(findings)) > 0 {
		return nil
	}
	resolved.Field = r.model.Field // the cells of rounds, so that sides alone are other ones
	return r.beside(ctx, resolved, r.rays)
}
