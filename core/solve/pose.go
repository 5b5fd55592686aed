package solve

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
)

// pose turns the conditions of the model into a problem on the mesh. On one
// surface a later convection takes the place of an earlier one, given fluxes
// add, "lets no heat through" cancels both, and a held temperature holds over
// all others.
func (r *run) pose() error {
	r.problem = &heat.Problem{Mesh: r.mesh, Conductivity: make([]heat.Conductivity, len(r.owner))}
	for b, o := range r.owner {
		p := &r.model.Parts[o[0]]
		k := &r.problem.Conductivity[b]
		k.Turn = p.Turn
		for axis, f := range p.Conductivity {
			k.Along[axis] = f.Program
		}
	}
	var bad []model.Finding
	// The condition that governs convection on each facet, −1 if none does.
	convection := make([]int, len(r.mesh.Facets))
	flux := make([][]int, len(r.mesh.Facets))
	for i := range convection {
		convection[i] = -1
	}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		if c.Kind == heat.KeySource || c.Kind == heat.KeyDensity {
			r.problem.Sources = append(r.problem.Sources, heat.Source{Bodies: r.bodiesOf(c.On), Total: total(c), Volume: c.Laws["density"]})
			r.sourceKeys = append(r.sourceKeys, c.ID)
			continue
		}
		facets := r.facets(c.On, c.Definition.Exposed)
		if len(facets) == 0 {
			bad = append(bad, model.Finding{Severity: model.Wrong, Place: "conditions/" + c.ID + "/on",
				Message: fmt.Sprintf("%s acts nowhere: there is no %s%s", c.ID, r.model.Document.PatchWords(c.On), freeWords(c.Definition.Exposed)),
				Fix:     "choose another patch"})
			continue
		}
		for _, k := range facets {
			switch c.Kind {
			case heat.KeyConvection:
				convection[k] = i
			case heat.KeyFlux, heat.KeyFluxTotal:
				flux[k] = append(flux[k], i)
			case heat.KeyInsulated:
				convection[k], flux[k] = -1, nil
			}
		}
		if c.Kind == heat.KeyHeld {
			r.problem.Held = append(r.problem.Held, heat.Held{Facets: facets, Temperature: c.Laws["temperature"]})
			r.heldKeys = append(r.heldKeys, c.ID)
		}
	}
	if len(bad) > 0 {
		return &ModelError{bad}
	}
	for i := range r.model.Conditions {
		c := &r.model.Conditions[i]
		var on []int32
		for k := range r.mesh.Facets {
			if convection[k] == i || slices.Contains(flux[k], i) {
				on = append(on, int32(k))
			}
		}
		acts := c.Kind == heat.KeyConvection || c.Kind == heat.KeyFlux || c.Kind == heat.KeyFluxTotal
		switch {
		case acts && len(on) == 0:
			r.warn("%s acts nowhere: later sentences speak of all its surfaces", c.ID)
		case c.Kind == heat.KeyConvection:
			r.problem.Convections = append(r.problem.Convections, heat.Convection{Facets: on, Coefficient: c.Laws["coefficient"], Medium: c.Laws["temperature"]})
			r.convectionKeys = append(r.convectionKeys, c.ID)
		case acts:
			r.problem.Fluxes = append(r.problem.Fluxes, heat.Flux{Facets: on, Total: total(c), Area: c.Laws["flux"]})
			r.fluxKeys = append(r.fluxKeys, c.ID)
		}
	}
	return r.heatPaths()
}

// total is the power of a condition that is given for all it acts on, W.
func total(c *model.ResolvedSentence) float64 {
	law := c.Laws["power"]
	if law == nil {
		return 0
	}
	v, _ := law.Constant()
	return v
}

func freeWords(exposed bool) string {
	if exposed {
		return " with nothing solved beyond it"
	}
	return ""
}

// bodiesOf lists the bodies of the mesh that a patch names.
func (r *run) bodiesOf(p model.Patch) []int32 {
	part := r.model.Document.Part(p.Part)
	var list []int32
	for b, o := range r.owner {
		if o[0] == part && (p.Copy == 0 || p.Copy == o[1]+1) {
			list = append(list, int32(b))
		}
	}
	return list
}

// facets resolves a patch on the mesh. With exposed set only facets with nothing
// beyond them are taken.
func (r *run) facets(p model.Patch, exposed bool) []int32 {
	mine := map[int32]bool{}
	for _, b := range r.bodiesOf(p) {
		mine[b] = true
	}
	facing := -1
	if p.Facing != "" && p.Facing != model.Outside {
		facing = r.model.Document.Part(p.Facing)
	}
	matches := func(body, side, other int32) bool {
		switch {
		case !mine[body]:
			return false
		case p.Side != "" && p.Side != model.WholeSurface && r.mesh.Sides[side] != p.Side:
			return false
		case (exposed || p.Facing == model.Outside) && other >= 0:
			return false
		case facing >= 0 && (other < 0 || r.owner[other][0] != facing):
			return false
		}
		return true
	}
	var list []int32
	for k := range r.mesh.Facets {
		f := &r.mesh.Facets[k]
		if matches(f.Body, f.Side, f.OtherBody) || f.OtherBody >= 0 && matches(f.OtherBody, f.OtherSide, f.Body) {
			list = append(list, int32(k))
		}
	}
	return list
}

// heatPaths demands that every connected group of cells has something that fixes
// its temperature.
func (r *run) heatPaths() error {
	parent := make([]int32, r.mesh.NodeCount())
	for i := range parent {
		parent[i] = int32(i)
	}
	find := func(i int32) int32 {
		for parent[i] != i {
			parent[i] = parent[parent[i]]
			i = parent[i]
		}
		return i
	}
	for c := range r.mesh.CellCount() {
		nodes := r.mesh.Cells[mesh.WedgeNodes*c : mesh.WedgeNodes*c+mesh.WedgeNodes]
		root := find(nodes[0])
		for _, n := range nodes[1:] {
			parent[find(n)] = root
		}
	}
	anchored := map[int32]bool{}
	anchor := func(facets []int32) {
		for _, k := range facets {
			anchored[find(r.mesh.Facets[k].Nodes[0])] = true
		}
	}
	for _, c := range r.problem.Convections {
		anchor(c.Facets)
	}
	for _, h := range r.problem.Held {
		anchor(h.Facets)
	}
	loose := make([]bool, len(r.model.Parts))
	for c, b := range r.mesh.Body {
		if !anchored[find(r.mesh.Cells[mesh.WedgeNodes*c])] {
			loose[r.owner[b][0]] = true
		}
	}
	var names []string
	for i, is := range loose {
		if is {
			names = append(names, r.model.Parts[i].Name)
		}
	}
	if len(names) == 0 {
		return nil
	}
	return wrong("conditions", "let a surface give heat to a fluid, or hold its temperature",
		"heat has no way out of the %s: nothing fixes its temperature", strings.Join(names, ", the "))
}
