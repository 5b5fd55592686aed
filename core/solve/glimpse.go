package solve

import (
	"time"

	"saltkettle/core/mesh"
	"saltkettle/core/result"
)

// Told is a reading as it is on the way.
type Told struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
}

// A run shows its field for the first time when it has taken glimpseAfter, and then as often that this
// costs a part of its time: one in glimpseShare.
const (
	glimpseAfter = 5 * time.Second
	glimpseShare = 20
)

// glimpses is what a run has shown of itself while it is under way.
type glimpses struct {
	begun   time.Time // of the run
	next    time.Time // when the field may be shown again
	count   int
	of      *mesh.Mesh // of the surface
	surface *result.Surface
}

// glimpse tells whoever waits how far the run has come: readings, and after a while the field. Nothing
// depends on it: what goes wrong with it is left out.
func (r *run) glimpse(e Event, readings []result.Reading) {
	if r.opt.Progress == nil || r.quiet {
		return
	}
	for _, q := range readings {
		if q.Missing == "" && q.Shown.Value == q.Shown.Value {
			e.Readings = append(e.Readings, Told{q.Name, q.Shown.Value, q.Shown.Unit})
		}
	}
	if now := r.now(); r.opt.Dir != "" && !now.IsZero() && now.Sub(r.glimpses.begun) >= glimpseAfter && !now.Before(r.glimpses.next) {
		if r.showField() == nil {
			r.glimpses.count++
		}
		after := r.now()
		r.glimpses.next = after.Add(glimpseShare * after.Sub(now))
	}
	e.Nodes, e.Cells, e.Glimpse = r.mesh.NodeCount(), r.mesh.CellCount(), r.glimpses.count
	r.report(e)
}

// now is the time, nothing if the run is to know of none.
func (r *run) now() time.Time {
	if r.opt.Now == nil {
		return time.Time{}
	}
	return r.opt.Now()
}

// showField writes the fields as they are.
func (r *run) showField() error {
	list, err := r.values()
	if err != nil {
		return err
	}
	g := &r.glimpses
	if g.of != r.mesh {
		g.of, g.surface = r.mesh, result.NewSurface(r.posed.ground.Grid(), r.points, r.faces(), r.mesh.Sides, r.owner, r.model.DrawnWidth()/2)
	}
	return g.surface.Glimpse(r.opt.Dir, drawn(list))
}

// solvedSoFar tells of the solution of a run that is not in time, before its error is estimated: that takes
// longer than all before.
func (r *run) solvedSoFar() {
	if r.opt.Progress == nil || r.quiet || r.model.Document.Dynamic() {
		return
	}
	var list []result.Reading
	if r.aside(func() { list = append(list, r.result.Readings...) }) != nil {
		return // the reading proper says why
	}
	r.glimpse(Event{}, list)
}
