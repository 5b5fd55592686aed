package model

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/shape"
)

// eachText calls f with every formula of a fill, which may be nil.
func (l *Fill) eachText(place, words string, f func(place, words string, text *string)) {
	if l == nil {
		return
	}
	f(place+"/x", words+", filled from, x", &l.X)
	f(place+"/y", words+", filled from, y", &l.Y)
	f(place+"/z", words+", filled from, z", &l.Z)
	for i := range l.Caps {
		c := &l.Caps[i]
		at, what := place+"/caps/"+c.ID, fmt.Sprintf("%s, cap %d", words, i+1)
		f(at+"/from_x", what+", from x", &c.FromX)
		f(at+"/from_y", what+", from y", &c.FromY)
		f(at+"/to_x", what+", to x", &c.ToX)
		f(at+"/to_y", what+", to y", &c.ToY)
	}
}

// isAround says that the outline of a part follows from the other parts.
func (p *Part) isAround() bool {
	k, _ := outlineKind(p.Outline.Kind)
	return k.Around
}

// device is the box around the parts that are solved and do not follow from others.
func (r *resolver) device() (lo, hi [3]float64, ok bool) {
	lo, hi = [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for i, list := range r.bodies {
		p := r.out.Parts[i].Part
		if p.Role != Solved || p.isAround() || p.Fill != nil {
			continue
		}
		for _, b := range list {
			l, h := b.Outline.Box()
			for k, v := range [3][2]float64{{l.X, h.X}, {l.Y, h.Y}, {b.Z0, b.Z1}} {
				lo[k], hi[k] = min(lo[k], v[0]), max(hi[k], v[1])
			}
			ok = true
		}
	}
	return lo, hi, ok
}

// around makes an outline round the other parts, in place.
func (r *resolver) around(place, words string, o *Outline, value map[string]float64, depth int) (shape.Outline, bool) {
	if depth > 0 {
		r.find(Wrong, place+"/kind", "choose another outline", "the %s cannot follow from other parts: it is a hole", words)
		return shape.Outline{}, false
	}
	lo, hi, ok := r.device()
	if !ok {
		r.find(Missing, place+"/kind", "draw the device first", "the %s goes round other parts, and there is none yet", words)
		return shape.Outline{}, false
	}
	x, y := (lo[0]+hi[0])/2, (lo[1]+hi[1])/2
	var out shape.Outline
	var err error
	if o.Kind == "box-around" {
		wide, deep := hi[0]-lo[0]+value["left"]+value["right"], hi[1]-lo[1]+value["front"]+value["back"]
		x, y = x+(value["right"]-value["left"])/2, y+(value["back"]-value["front"])/2
		out, err = shape.Rectangle(wide, deep)
	} else {
		out, err = shape.Disc(math.Hypot(hi[0]-lo[0], hi[1]-lo[1]) + 2*value["margin"])
	}
	if err != nil {
		r.find(Wrong, place+"/kind", "give it more room", "the %s: %v", words, err)
		return out, false
	}
	r.span = [2]float64{lo[2] - value["below"], hi[2] + value["above"]}
	return out.Move(x, y, 0), true
}

// Extent is the largest side of the box around the device, m, 0 if there is none.
func (r *Resolved) Extent() float64 {
	lo, hi := [3]float64{math.Inf(1), math.Inf(1), math.Inf(1)}, [3]float64{math.Inf(-1), math.Inf(-1), math.Inf(-1)}
	for _, b := range r.Bodies {
		l, h := b.Outline.Box()
		for k, v := range [3][2]float64{{l.X, h.X}, {l.Y, h.Y}, {b.Z0, b.Z1}} {
			lo[k], hi[k] = min(lo[k], v[0]), max(hi[k], v[1])
		}
	}
	return max(0, hi[0]-lo[0], hi[1]-lo[1], hi[2]-lo[2])
}

// fill resolves what a part fills.
func (r *resolver) fill(place string, p *Part, out *ResolvedPart) bool {
	if p.Fill == nil {
		return true
	}
	good := true
	number := func(at, text, label string, optional bool) float64 {
		v, ok := r.value(place+"/fill/"+at, text, need{label: label + " of the " + p.Name, unit: "mm", optional: optional})
		good = good && ok
		return v
	}
	f := &mesh.Fill{}
	for _, text := range []string{p.Fill.X, p.Fill.Y, p.Fill.Z} {
		f.Reached = f.Reached || strings.TrimSpace(text) != ""
	}
	f.From = [3]float64{number("x", p.Fill.X, "place from which it fills, x,", true), number("y", p.Fill.Y, "place from which it fills, y,", true), number("z", p.Fill.Z, "place from which it fills, z,", true)}
	for i, c := range p.Fill.Caps {
		at := "caps/" + c.ID + "/"
		label := fmt.Sprintf("cap %d", i+1)
		if name := strings.TrimSpace(c.Name); name == "" || name == shape.Top || name == shape.Bottom || strings.ContainsAny(name, "|") {
			r.find(Wrong, place+"/fill/"+at+"name", "type a name such as inlet", "%s of the %s needs a name of its own", label, p.Name)
			good = false
		}
		f.Caps = append(f.Caps, mesh.Cap{Name: strings.TrimSpace(c.Name),
			A: mesh.Point{X: number(at+"from_x", c.FromX, label, false), Y: number(at+"from_y", c.FromY, label, false)},
			B: mesh.Point{X: number(at+"to_x", c.ToX, label, false), Y: number(at+"to_y", c.ToY, label, false)}})
	}
	if r.doc.Space.Flat() {
		f.From[2] = r.out.Size / 2
	}
	if good && !f.Reached && len(f.Caps) > 0 {
		r.find(Doubtful, place+"/fill/x", "say from where the part fills", "the caps of the %s close nothing: it fills from everywhere", p.Name)
	}
	out.Fill = f
	return good
}

// cuts resolves the planes at which the device is cut.
func (r *resolver) cuts() {
	for _, c := range r.doc.Space.Cuts {
		at := "space/cuts/" + c.ID
		axis := strings.Index("xyz", c.Across)
		if len(c.Across) != 1 || axis < 0 || axis == 2 && r.doc.Space.Flat() {
			choices := "choose x, y or z"
			if r.doc.Space.Flat() {
				choices = "choose x or y"
			}
			r.find(Wrong, at+"/across", choices, "nothing can be cut across %q in a %s space", c.Across, r.doc.Space.Kind)
			continue
		}
		if c.Keep != Greater && c.Keep != Less {
			r.find(Wrong, at+"/keep", "choose greater or less", "a cut keeps the greater or the lesser side, not %q", c.Keep)
			continue
		}
		if v, ok := r.value(at+"/at", c.At, need{label: "place of the cut", unit: "mm", optional: true}); ok {
			r.out.Cuts = append(r.out.Cuts, mesh.Cut{Axis: axis, At: v, Greater: c.Keep == Greater})
		}
	}
}

// near resolves the wishes for cells at patches.
func (r *resolver) near() {
	for _, n := range r.doc.Mesh.Near {
		at := "mesh/near/" + n.ID
		h, ok := r.value(at+"/size", n.Size, need{label: "cell size there", unit: "mm", positive: true})
		k := r.doc.Part(n.On.Part)
		switch {
		case n.On.Part == "":
			r.find(Missing, at+"/on", "choose a surface", "a wish for cells does not say where")
		case k < 0:
			r.find(Wrong, at+"/on", "choose another surface", "a wish for cells speaks of a part that is not there")
		case r.out.Parts[k].Outline == nil:
		case n.On.Side != "" && n.On.Side != WholeSurface && !slices.Contains(r.out.Sides(k), n.On.Side):
			r.find(Wrong, at+"/on", "choose one of "+strings.Join(r.out.Sides(k), ", "), "the %s has no side %q", r.out.Parts[k].Name, n.On.Side)
		case ok:
			side := n.On.Side
			if side == WholeSurface {
				side = ""
			}
			r.out.Parts[k].Near = append(r.out.Parts[k].Near, mesh.Near{Side: side, Size: h})
		}
	}
	for i := range r.doc.Mesh.Walls {
		r.wall(&r.doc.Mesh.Walls[i])
	}
	if text := strings.TrimSpace(r.doc.Mesh.Growth); text != "" {
		v, ok := r.value("mesh/growth", text, need{label: "growth of cells", positive: true})
		switch {
		case ok && (v <= 1 || v > 10):
			r.find(Wrong, "mesh/growth", "write for example 1.3", "cells can grow by a factor from just over 1 to 10, not %g", v)
		case ok:
			r.out.Growth = v - 1
		}
	}
	r.rounds()
	if text := strings.TrimSpace(r.doc.Mesh.Gaps); text != "" {
		if v, ok := r.value("mesh/gaps", text, need{label: "number of cells across gaps", whole: true}); ok && (v < 0 || v > 50) {
			r.find(Wrong, "mesh/gaps", "", "%g cells across gaps are not possible; at most 50 are", v)
		} else if ok {
			r.out.Gaps = int(v)
		}
	}
}

// usualFluxError is the part of the fluxes that may be wrong if nothing is said.
const usualFluxError = 0.05

// mostRounds is in how many rounds cells may be made finer.
const mostRounds = 8

// rounds resolves how runs make cells finer.
func (r *resolver) rounds() {
	r.out.FluxError = usualFluxError
	if text := strings.TrimSpace(r.doc.Mesh.Error); text != "" {
		if v, ok := r.value("mesh/error", text, need{label: "part of the fluxes that may be wrong", positive: true}); ok && v >= 1 {
			r.find(Wrong, "mesh/error", "write for example 5 %", "fluxes that are wrong by %g of themselves say nothing", v)
		} else if ok {
			r.out.FluxError = v
		}
	}
	if text := strings.TrimSpace(r.doc.Mesh.Change); text != "" {
		if v, ok := r.value("mesh/change", text, need{label: "part of itself by which a reading may change", positive: true}); ok && v >= 1 {
			r.find(Wrong, "mesh/change", "write for example 1 %", "readings that change by %g of themselves say nothing", v)
		} else if ok {
			r.out.Change = v
		}
	}
	text := strings.TrimSpace(r.doc.Mesh.Rounds)
	if text == "" {
		return
	}
	v, ok := r.value("mesh/rounds", text, need{label: "number of rounds", whole: true})
	switch {
	case !ok:
	case v < 0 || v > mostRounds:
		r.find(Wrong, "mesh/rounds", "", "%g rounds are not possible; at most %d are", v, mostRounds)
	case v > 0 && r.doc.Transient():
		r.find(Wrong, "mesh/rounds", "leave the rounds out, or let the run be steady", "cells are made finer by the fluxes of a steady run, and this one is in time")
	default:
		r.out.Rounds = int(v)
	}
}

// usualWallGrowth is how many times as thick as the one before a layer along a wall is.
const usualWallGrowth = 1.2

// maxLayers bounds the layers along a wall.
const maxLayers = 60

// wall resolves layers along a side.
func (r *resolver) wall(w *MeshWall) {
	at := "mesh/walls/" + w.ID
	first, ok1 := r.value(at+"/first", w.First, need{label: "thickness of the first layer", unit: "mm", positive: true})
	count, ok2 := r.value(at+"/count", w.Count, need{label: "number of layers", positive: true, whole: true})
	growth, ok3 := r.value(at+"/growth", w.Growth, need{label: "growth of layers", optional: true})
	if strings.TrimSpace(w.Growth) == "" {
		growth = usualWallGrowth
	}
	k := r.doc.Part(w.On.Part)
	switch {
	case w.On.Part == "":
		r.find(Missing, at+"/on", "choose a surface", "layers of cells do not say where")
		return
	case k < 0:
		r.find(Wrong, at+"/on", "choose another surface", "layers of cells speak of a part that is not there")
		return
	case !ok1 || !ok2 || !ok3 || r.out.Parts[k].Outline == nil:
		return
	case count > maxLayers:
		r.find(Wrong, at+"/count", "", "%g layers are too many; at most %d are possible", count, maxLayers)
		return
	case growth < 1 || growth > 3:
		r.find(Wrong, at+"/growth", "write for example 1.2", "layers grow by a factor from 1 to 3, not %g", growth)
		return
	}
	p := &r.out.Parts[k]
	side := w.On.Side
	if side != "" && side != WholeSurface && !slices.Contains(r.out.Sides(k), side) {
		r.find(Wrong, at+"/on", "choose one of "+strings.Join(r.out.Sides(k), ", "), "the %s has no side %q", p.Name, side)
		return
	}
	if side == WholeSurface {
		side = ""
	}
	if side == shape.Top || side == shape.Bottom {
		// Layers of the stack do what is wanted.
		p.Near = append(p.Near, mesh.Near{Side: side, Size: first})
		return
	}
	p.Walls = append(p.Walls, mesh.SideWall{Side: side, Within: p.fluid() || r.layersWithin(k), Wall: mesh.Wall{First: first, Growth: growth, Count: int(count)}})
}

// layersWithin says that a sentence wants the layers along the sides of a part within it.
func (r *resolver) layersWithin(part int) bool {
	return slices.ContainsFunc(r.doc.Conditions, func(s Sentence) bool {
		k, ok := r.cat.Kind(s.Kind)
		if !ok || !k.Within || s.Off {
			return false
		}
		added, _, _ := s.On.Terms()
		return slices.ContainsFunc(added, func(t Patch) bool { return slices.Contains(r.out.PartsNamed(t.Part), part) })
	})
}

// MeshOf meshes the solved bodies. owners are the numbers of the bodies among those of
// the model.
func (r *Resolved) MeshOf(ctx context.Context, maxCells int, told func(triangles int)) (m *mesh.Mesh, owners []int, err error) {
	var list []mesh.StackBody
	neighbours := r.Neighbours()
	for i, b := range r.Bodies {
		p := &r.Parts[b.Part]
		if p.Role != Solved || b.Line != nil {
			continue
		}
		across, gaps, near, walls := r.wishes(b.Part, neighbours)
		list = append(list, mesh.StackBody{Body: b, Size: p.Size, Across: across, Gaps: gaps, Near: near, Walls: walls, Fill: p.Fill})
		owners = append(owners, i)
	}
	if len(list) == 0 && r.Document.Space.Kind == Lines {
		m = &mesh.Mesh{Sides: []string{""}}
		owners, err = r.lines(ctx, m, owners, maxCells)
		return m, owners, err
	}
	m, err = mesh.NewStack(list, &mesh.StackSettings{MaxCells: maxCells, Flat: r.Document.Space.Flat(), Growth: r.Growth, Gaps: r.Gaps, Cuts: r.Cuts, Field: r.Field, Watch: func(n int) bool {
		if told != nil {
			told(n)
		}
		return ctx.Err() != nil
	}})
	if errors.Is(err, mesh.ErrStopped) {
		return nil, nil, context.Cause(ctx)
	}
	var unreached *mesh.UnreachedError
	if errors.As(err, &unreached) {
		p := &r.Parts[r.Bodies[owners[unreached.Body]].Part]
		return nil, nil, &PlaceError{Finding{Wrong, "parts/" + p.ID + "/fill/x", fmt.Sprintf("the place from which the %s fills is not empty, or lies outside of its outline", p.Name), "choose a place in the empty space", nil}}
	}
	if err != nil {
		return nil, nil, &PlaceError{Finding{Wrong, "mesh/size", fmt.Sprintf("the model cannot be meshed: %v", err), "", nil}}
	}
	owners, err = r.lines(ctx, m, owners, maxCells)
	return m, owners, err
}

// PlaceError is a fault that has a place in the document and shows only when the model
// is meshed.
type PlaceError struct{ Finding Finding }

func (e *PlaceError) Error() string { return e.Finding.Message }

// AddAround adds a part of air round all others, first of all, with room of half the
// device, and returns its id.
func (d *Document) AddAround(kind string, size float64) (string, error) {
	id, err := d.AddPart(kind)
	if err != nil {
		return "", err
	}
	i := d.Part(id)
	p := d.Parts[i]
	p.Name, p.Material, p.Span = "air", "air", Span{}
	for _, other := range d.Parts[:i] {
		if other.Name == p.Name {
			p.Name = "air round it"
		}
	}
	room := d.written(roundedUp(size / 2))
	o := &p.Outline
	for _, text := range []*string{&o.Left, &o.Right, &o.Front, &o.Back, &o.Below, &o.Above} {
		*text = room
	}
	if kind == "disc-around" {
		p.Outline = Outline{Kind: kind, Margin: room, Below: room, Above: room}
	}
	d.Parts = slices.Insert(slices.Delete(d.Parts, i, i+1), 0, p)
	d.carry(p.Material)
	return id, nil
}

// roundedUp is the next number with one figure.
func roundedUp(x float64) float64 {
	if !(x > 0) {
		return 0.01
	}
	step := math.Pow(10, math.Floor(math.Log10(x)))
	return math.Ceil(x/step-1e-9) * step
}

// SetFill lets a part take only what is empty, or be a part like others again.
func (d *Document) SetFill(id string, on bool) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	d.Parts[i].Fill = nil
	if on {
		d.Parts[i].Fill = &Fill{}
	}
	return nil
}

// AddCap adds a cap to a part that fills, and returns its place.
func (d *Document) AddCap(id string) (string, error) {
	i := d.Part(id)
	if i < 0 || d.Parts[i].Fill == nil {
		return "", &GoneError{"parts/" + id + "/fill"}
	}
	f := *d.Parts[i].Fill
	var number string
	f.Caps, number = appended(f.Caps, Cap{Name: fmt.Sprintf("opening %d", len(f.Caps)+1)})
	d.Parts[i].Fill = &f
	return fmt.Sprintf("parts/%s/fill/caps/%s/name", id, number), nil
}

// AddCut cuts the device across an axis.
func (d *Document) AddCut() string {
	var number string
	d.Space.Cuts, number = appended(d.Space.Cuts, Cut{Across: "x", At: "0 " + d.Space.Unit, Keep: Greater})
	return "space/cuts/" + number + "/at"
}

// AddNear adds a wish for cells at a patch and returns its place.
func (d *Document) AddNear(on Patch) string {
	var number string
	d.Mesh.Near, number = appended(d.Mesh.Near, MeshNear{On: on})
	return "mesh/near/" + number + "/size"
}

// AddWall adds layers along a patch and returns their place.
func (d *Document) AddWall(on Patch) string {
	var number string
	d.Mesh.Walls, number = appended(d.Mesh.Walls, MeshWall{On: on, Count: "5"})
	return "mesh/walls/" + number + "/first"
}
