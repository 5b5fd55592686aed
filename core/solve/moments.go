package solve

import (
	"saltkettle/core/fem"
	"saltkettle/core/mesh"
	"saltkettle/core/result"
)

// frames is how many moments of a run in time are kept as fields; of one that may end
// early there are up to twice as many, at steps.
const frames = 25

// drawing is the surface for drawing. That of a run in time with a folder keeps what its
// moments show there.
func (r *run) drawing() (*result.Surface, error) {
	if r.surface != nil {
		return r.surface, nil
	}
	r.numbered()
	r.surface = result.NewSurface(r.posed.ground.Grid(), r.points, r.faces(), r.mesh.Sides, r.owner, r.model.DrawnWidth()/2)
	if r.opt.Dir == "" || !r.model.Document.Dynamic() {
		return r.surface, nil
	}
	return r.surface, r.surface.KeepIn(r.opt.Dir)
}

// faces are the sides of cells that are seen: of the bodies in space, and the cells themselves
// in a plane.
func (r *run) faces() []result.Face {
	var list []result.Face
	if r.mesh.Flat() {
		r.mesh.EachCell(func(cell int32, _ mesh.Form, _ []int32) {
			block, number := r.mesh.Find(cell)
			list = append(list, result.Face{Side: fem.Side{Block: block, Cell: number, Facet: fem.Itself}})
		})
		return list
	}
	for k := range r.mesh.Facets {
		f := &r.mesh.Facets[k]
		if r.mesh.Piece(f.Cell) != nil {
			continue
		}
		inner := f.Other >= 0
		list = append(list, result.Face{Side: r.posed.ground.Side(int32(k), false), Name: f.Side, Inner: inner})
		if inner {
			list = append(list, result.Face{Side: r.posed.ground.Side(int32(k), true), Name: f.OtherSide, Inner: true})
		}
	}
	if l := r.mesh.Lines; l != nil {
		for i := range l.Pieces {
			block, number := r.mesh.Find(l.First + int32(i))
			list = append(list, result.Face{Side: fem.Side{Block: block, Cell: number, Facet: fem.Itself}})
		}
	}
	return list
}

// frame keeps the fields at the moments that the last step has passed. They are evenly
// spread over the time; in a run that may end early they are at steps.
func (r *run) frame(step *fem.Step) error {
	if r.model.Until != nil {
		return r.frameAtStep(step)
	}
	if step == nil {
		return r.keep(r.solution().State, 0)
	}
	for r.moments() < frames {
		at := r.model.End * float64(r.moments()) / (frames - 1)
		if at > step.To*(1+1e-9) {
			break
		}
		if err := r.keep(r.solution().Within(step, at), at); err != nil {
			return err
		}
	}
	return nil
}

// moments is how many there are so far.
func (r *run) moments() int {
	if r.surface == nil {
		return 0
	}
	return len(r.surface.Moments)
}

// frameAtStep keeps every step, and when these become too many every second one.
func (r *run) frameAtStep(step *fem.Step) error {
	r.stride = max(r.stride, 1)
	r.steps++
	if (r.steps-1)%r.stride != 0 {
		return nil
	}
	if r.moments() == 2*frames {
		r.surface.Thin()
		r.series.Thin()
		r.stride *= 2
		if (r.steps-1)%r.stride != 0 {
			return nil
		}
	}
	time := 0.0
	if step != nil {
		time = step.To
	}
	return r.keep(r.solution().State, time)
}

// keep keeps the fields of a state as those of a time.
func (r *run) keep(at *fem.State, time float64) error {
	return r.at(at, func() error {
		list, err := r.values()
		if err != nil {
			return err
		}
		return r.keepFields(time, list)
	})
}

// keepFields keeps fields as those of a time, or of what else an axis has.
func (r *run) keepFields(time float64, list []result.Field) error {
	surface, err := r.drawing()
	if err != nil {
		return err
	}
	if r.opt.Dir != "" {
		if err := r.series.Add(r.opt.Dir, time, list); err != nil {
			return err
		}
	}
	return surface.ShowAt(time, drawn(list))
}
