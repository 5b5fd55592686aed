// Package solve is the one door to the computation: a model document goes in, a
// result comes out.
package solve

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"saltkettle/core/couple"
	"saltkettle/core/fem"
	"saltkettle/core/frame"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
)

// Options of a run. The zero value works.
type Options struct {
	// Dir is the folder for the fields; empty keeps them in memory only.
	Dir string
	// Progress is told what happens. It may be nil, and it must return quickly.
	Progress func(Event)
	// Now is the clock for the times of stages; nil leaves them zero.
	Now func() time.Time
	// EstimateWithin is how long the runs on coarser meshes may take, by a prediction,
	// from which the mesh error of the readings is estimated; negative means any time,
	// 0 no estimate.
	EstimateWithin time.Duration
	// Checkpoints is after how long, at the earliest, a run in time writes another checkpoint
	// into the folder, which it also does when it is stopped; 0 means never. With Resume it
	// goes on from the one that is there, if one is. Without Now it is written at a stop alone.
	Checkpoints time.Duration
	Resume      bool
	// Earlier opens the result of an earlier run of the model, from which a run in time
	// may go on. It may be nil.
	Earlier func(number int) (*result.Earlier, error)
	// Near opens a result of a model like this one, with which steady flows begin; nil for none.
	Near func() (*result.Earlier, error)
	// Level is a value of what properties of materials depend on that is about right everywhere, from which a steady run begins; nil for none.
	Level *float64
	// Compared is the result of another run of the model, with which readings are compared.
	Compared func(number int) (*result.Result, error)
	// Lean leaves out the fields: nothing but the readings is asked for.
	Lean bool
	// from is a run of nearly the same model, on a mesh that hangs together in the same way, from whose solution this one begins; nil for none.
	from *run
	// Views is a folder in which view factors are kept for runs of the same shape; empty
	// keeps none.
	Views string
	// MaxCells bounds the mesh; 0 means 4,000,000.
	MaxCells int
	// Memory is how much the run may take by a forecast, bytes; 0 means any amount.
	Memory int64
	// MaxIterations bounds the linear solver; 0 lets it choose.
	MaxIterations int
}

// Event is a step of a run.
type Event struct {
	Stage string `json:"stage"`
	// Triangles of the plan so far, while the mesh is made.
	Triangles int     `json:"triangles,omitempty"`
	Nodes     int     `json:"nodes,omitempty"`
	Cells     int     `json:"cells,omitempty"`
	Iteration int     `json:"iteration,omitempty"`
	Residual  float64 `json:"residual,omitempty"`
	// Time that a transient run has reached, and its end, s.
	Time float64 `json:"time,omitempty"`
	End  float64 `json:"end,omitempty"`
	// Part of the view factors that is done.
	Part float64 `json:"part,omitempty"`
	// Readings as they are on the way, and how many glimpses of the field there have been.
	Readings []Told `json:"readings,omitempty"`
	Glimpse  int    `json:"glimpse,omitempty"`
}

// Stages are the names of the stages in their order.
var Stages = []string{"shape", "mesh", "assemble", "views", "solve", "read", "estimate", "save"}

// ModelError says that a model is incomplete or wrong.
type ModelError = frame.ModelError

func wrong(place, fix, format string, args ...any) *ModelError {
	return frame.Wrong(place, fix, format, args...)
}

// Outcome is a result with its fields.
type Outcome struct {
	*result.Result
	Fields  *result.Fields
	Surface *result.Surface
}

// run is the state of one run.
type run struct {
	near     float64 // the residual to which groups are solved in turns, 0 for as exactly as can be
	opt      Options
	model    *model.Resolved
	mesh     *mesh.Mesh
	bodies   []int // body of the mesh → body of the model
	owner    [][2]int
	posed    *posed
	states   states
	ctx      context.Context
	result   *result.Result
	stage    string
	began    time.Time
	spent    float64 // in the stages that have ended, s
	quiet    bool    // no moments are kept
	points   *fem.Points
	series   result.Series
	surface  *result.Surface
	stride   int // how many steps apart moments are, of a run that may end early
	steps    int // in time
	rays     int // which set of rays finds view factors
	signals  signals
	moment   float64  // the time that has been reached, s
	passing  bool     // readings are those of a moment on the way
	followed followed // readings over time
	passed   followed // readings over the steps to a steady flow
	account  account
	glimpses glimpses
	others   map[int]*result.Result // other runs, with which readings are compared
	checkpoints
	// lastAsked is what the condition that ends the run was last asked about.
	lastAsked []float64
}

// Run solves a model. A *ModelError says that the document is wrong or
// incomplete. If ctx ends, a result with the status Stopped is returned.
func Run(ctx context.Context, doc *model.Document, opt Options) (*Outcome, error) {
	r := newRun(doc, opt)
	out, err := r.all(ctx, doc)
	r.enter("")
	if err == nil {
		return out, nil
	}
	if ctx.Err() != nil && errors.Is(err, ctx.Err()) {
		r.result.Status, r.result.Reason = result.Stopped, "stopped before there was a solution"
		return &Outcome{Result: r.result}, nil
	}
	return nil, err
}

func (r *run) all(ctx context.Context, doc *model.Document) (*Outcome, error) {
	r.glimpses.begun = r.now()
	r.enter("shape")
	resolved, findings := model.Resolve(doc, physics.Catalog())
	if blocking := model.Blocking(findings); len(blocking) > 0 {
		return nil, &ModelError{Findings: blocking}
	}
	for _, f := range findings {
		r.warn("%s", f.Message)
	}
	r.model = resolved
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	r.enter("mesh")
	if err := r.makeMesh(ctx); err != nil {
		return nil, err
	}
	if r.opt.from != nil {
		if err := r.alike(r.opt.from); err != nil {
			return nil, err
		}
	}
	if err := r.fits(); err != nil {
		return nil, err
	}
	r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount()})
	r.enter("assemble")
	if err := r.pose(ctx); err != nil {
		return nil, err
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	r.enter("solve")
	if err := r.solve(ctx); err != nil {
		return nil, r.lawFault(err)
	}
	r.solvedSoFar()
	if err := r.refine(ctx); err != nil {
		return nil, r.lawFault(err)
	}
	if err := r.judge(); err != nil {
		return nil, err
	}
	if err := r.ranges(); err != nil {
		return nil, err
	}
	r.enter("read")
	if err := r.read(); err != nil {
		return nil, err
	}
	r.taken()
	// Stopped here, the run has a result all the same.
	r.estimate(ctx)
	out := &Outcome{Result: r.result}
	if r.opt.Lean {
		r.enter("")
		return out, nil
	}
	r.enter("save")
	if err := r.fields(out); err != nil {
		return nil, err
	}
	if r.opt.Dir != "" {
		err := result.SaveFields(r.opt.Dir, out.Fields, out.Surface, &r.series)
		r.enter("") // the summary holds the time that the fields took
		if err == nil {
			err = result.SaveSummary(r.opt.Dir, r.result)
		}
		if err == nil && r.result.Status != result.Stopped {
			err = result.RemoveCheckpoint(r.opt.Dir)
		}
		if err == nil {
			err = result.RemoveGlimpse(r.opt.Dir)
		}
		if err != nil {
			return nil, fmt.Errorf("the result could not be saved: %w", err)
		}
	}
	return out, nil
}

// solve finds the fields, group by group.
func (r *run) solve(ctx context.Context) error {
	r.ctx, r.states, r.passed = ctx, states{}, followed{}
	last := time.Time{}
	progress := func(i int, residual float64) {
		if !r.soon(&last) {
			return
		}
		r.report(Event{Nodes: r.mesh.NodeCount(), Cells: r.mesh.CellCount(), Iteration: i, Residual: residual})
	}
	if r.model.Document.Transient() {
		for n := range r.posed.marching {
			if settled, err := r.solveNext(ctx, n, progress); err != nil || !settled {
				return errors.Join(err, r.unsolved(r.states.fresh))
			}
		}
		set := r.posed.groups[r.posed.marching].settings(r.model.Document.Space.Flat())
		set.MaxIterations, set.Progress, set.Given = r.opt.MaxIterations, progress, r.given(r.posed.marching)
		return r.march(ctx, set)
	}
	if r.model.Document.Modal() {
		return r.findModes(ctx)
	}
	for n := 0; n < len(r.posed.groups); n++ {
		if i := slices.IndexFunc(r.posed.turns, func(t [2]int) bool { return t[0] == n }); i >= 0 {
			settled, err := r.solveInTurn(ctx, r.posed.turns[i], progress)
			if err != nil || !settled {
				return errors.Join(err, r.unsolved(r.states.fresh))
			}
			n = r.posed.turns[i][1]
			continue
		}
		settled, err := r.solveNext(ctx, n, progress)
		if err != nil {
			return err
		}
		if !settled {
			// What follows from it would be of no use; it begins where it would.
			return r.unsolved(n + 1)
		}
	}
	if r.model.Document.Swings() {
		return r.findResponse(ctx)
	}
	return nil
}

// solveNext solves for the fields of the group after those that are solved.
func (r *run) solveNext(ctx context.Context, n int, progress func(int, float64)) (settled bool, err error) {
	s, err := r.solveGroup(ctx, n, progress)
	if err != nil {
		return false, err
	}
	r.states.of = append(r.states.of, s)
	r.states.fresh = n + 1
	return s.Settled, nil
}

// solveGroup solves for the fields of a group.
func (r *run) solveGroup(ctx context.Context, n int, progress func(int, float64)) (*couple.Solution, error) {
	g := r.posed.groups[n]
	if err := r.push(g); err != nil {
		return nil, err
	}
	set := g.settings(r.model.Document.Space.Flat())
	set.MaxIterations, set.Progress, set.Given = r.opt.MaxIterations, progress, r.given(n)
	set.Tolerance = r.near
	if n == len(r.posed.groups)-1 && len(r.posed.turns) == 0 && !r.quiet && !r.model.Document.Transient() {
		set.Watch = r.watch
	}
	if n < len(r.states.of) && r.states.of[n] != nil && (r.states.of[n].Settled || !set.Near) { // of what begins with ratios only what it came to is of use
		set.From, set.Near = r.states.of[n].State.U, false
	} else if from := r.opt.from; from != nil && n < len(from.states.of) && len(from.states.of[n].State.U) == g.System.N {
		set.From, set.Near = slices.Clone(from.states.of[n].State.U), false
	} else if g.parts[0].Stepwise && !r.model.Document.Dynamic() {
		u, err := r.beginsNear(g)
		if err != nil {
			return nil, err
		}
		set.From, set.Near = u, u != nil
	}
	if set.From == nil {
		set.From = r.beginsLevel(g, n, set.Given)
	}
	if len(r.states.of) > r.posed.marching && r.model.Document.Transient() {
		set.Time = r.solution().State.Time
	}
	if late := g.late(); len(late) > 0 && set.From == nil && set.MaxIterations == 0 {
		early := set
		early.Bold = set.Bold && !set.Near // from where ratios lead it may be far
		for _, p := range g.parts {        // those of other physics are found later, too
			for k := range p.Fields {
				if len(p.Late) > 0 && !slices.Contains(p.Late, k) {
					early.Only = append(early.Only, p.field+k)
				}
			}
		}
		early.From = g.Begun(g.kernel, set.Given).State.U
		s, err := g.Solve(ctx, g.kernel, &early)
		if err != nil || !s.Settled {
			return s, err
		}
		set.From, set.Near = s.State.U, false
	}
	solve := func() (*couple.Solution, error) { return g.Solve(ctx, g.kernel, &set) }
	if list := g.easedOf(); len(list) > 0 && set.MaxIterations == 0 && (set.Paced == nil || len(g.parts) == 1) {
		solve = func() (*couple.Solution, error) { return r.eased(ctx, g, &set, list) }
	}
	if k := g.ramp(); k != nil && set.MaxIterations == 0 {
		set.Direct = set.Direct || g.System.N <= bendsDirect
		solve = func() (*couple.Solution, error) { return r.ramped(ctx, g, &set, k) }
	}
	s, err := solve()
	if chords := slices.ContainsFunc(g.parts, func(p *portion) bool { return p.Chords }); chords && set.Bold && ctx.Err() == nil && (err != nil || !s.Settled) {
		set.Bold = false // whole steps led nowhere
		s, err = solve()
	}
	if set.Near && ctx.Err() == nil && (err != nil || !s.Settled) {
		set.From, set.Near, r.passed = nil, false, followed{} // what it began with was of no use
		s, err = solve()
	}
	if err == nil && s.Fault != nil && g.unstable() == "" {
		err = s.Fault
	}
	return s, err
}

// unsolved lets the groups from one on be what they begin with.
func (r *run) unsolved(from int) error {
	for n := from; n < len(r.posed.groups); n++ {
		g := r.posed.groups[n]
		r.states.of = append(r.states.of, g.Begun(g.kernel, r.given(n)))
		r.states.fresh = n + 1
	}
	return nil
}

// soon says whether it is time to report again: often enough for the eye, and no load on what
// is fast.
func (r *run) soon(last *time.Time) bool {
	if r.opt.Now == nil {
		return true
	}
	now := r.opt.Now()
	if now.Sub(*last) < 50*time.Millisecond {
		return false
	}
	*last = now
	return true
}

// enter begins a stage and notes how long the one before took.
func (r *run) enter(stage string) {
	r.clock()
	r.stage = stage
	if stage != "" {
		r.report(Event{})
	}
}

// clock notes how long the stage has taken since this was last noted.
func (r *run) clock() {
	if r.opt.Now == nil {
		return
	}
	now := r.opt.Now()
	if r.stage != "" {
		r.result.Seconds[r.stage] += now.Sub(r.began).Seconds()
		r.result.Seconds["total"] += now.Sub(r.began).Seconds()
		r.spent = r.result.Seconds["total"]
	}
	r.began = now
}

func (r *run) report(e Event) {
	if r.opt.Progress != nil {
		e.Stage = r.stage
		r.opt.Progress(e)
	}
}

func (r *run) warn(format string, args ...any) {
	// Meshes of one model give rise to the same ones.
	if text := fmt.Sprintf(format, args...); !slices.Contains(r.result.Warnings, text) {
		r.result.Warnings = append(r.result.Warnings, text)
	}
}

func (r *run) note(format string, args ...any) {
	r.result.Notes = append(r.result.Notes, fmt.Sprintf(format, args...))
}

// makeMesh meshes the solved bodies.
func (r *run) makeMesh(ctx context.Context) error {
	last := time.Time{}
	m, owners, err := r.model.MeshOf(ctx, r.opt.MaxCells, func(triangles int) {
		if r.soon(&last) {
			r.report(Event{Triangles: triangles})
		}
	})
	var fault *model.PlaceError
	if errors.As(err, &fault) {
		return &ModelError{Findings: []model.Finding{fault.Finding}}
	}
	if err != nil {
		return err
	}
	r.bodies = owners
	for _, i := range owners {
		b := &r.model.Bodies[i]
		r.owner = append(r.owner, [2]int{b.Part, b.Copy})
	}
	if n := m.Plan.Merged; n > 0 {
		r.warn("%d points of outlines nearly coincided and were joined", n)
	}
	r.mesh = m
	r.result.Mesh = result.Mesh{Nodes: m.NodeCount(), Cells: m.CellCount(), Unknowns: m.NodeCount(), Rounds: r.result.Mesh.Rounds}
	present := make([]bool, len(owners))
	for _, b := range m.Body {
		present[b] = true
	}
	for b, owner := range owners {
		body := &r.model.Bodies[owner]
		if body.Solid == nil || body.Line != nil {
			continue
		}
		if missed := m.Missed(int32(b), body.Solid.Volume()); missed > 0.05 || missed < -0.05 {
			r.warn("the %s is not resolved by its cells: %.0f %% of its volume is %s", r.bodyName(int32(b)), 100*max(missed, -missed), map[bool]string{true: "missing", false: "too much"}[missed > 0])
		}
	}
	for b, ok := range present {
		if !ok {
			r.warn("nothing is left of the %s: later parts cover it", r.bodyName(int32(b)))
		}
	}
	return nil
}

// site is the model on its mesh.
func (r *run) site() *frame.Site { return &frame.Site{Model: r.model, Mesh: r.mesh, Owner: r.owner} }

// bodyName is the name of the part of a body, with its number in an array.
func (r *run) bodyName(body int32) string { return r.site().BodyName(body) }
