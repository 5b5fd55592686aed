package model

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/material"
	"saltkettle/core/mesh"
	"saltkettle/core/quantity"
	"saltkettle/core/sentence"
	"saltkettle/core/shape"
)

// Resolved is a model with all values evaluated, in SI units.
type Resolved struct {
	Document   *Document
	Parameters formula.Values
	// Definitions are the parameters that differ from place to place, or in time: formulas of quantities, which have no value of their own.
	Definitions map[string]Definition
	Parts       []ResolvedPart
	// Bodies are the copies of the parts that are not off, in order.
	Bodies     []shape.Body
	extents    []box // of the bodies
	Conditions []ResolvedSentence
	Readings   []ResolvedSentence
	// Size and Across are the wishes for the mesh.
	Size   float64
	Across int
	Order  int
	lives  map[string]map[int]bool // by physics: the parts that it is solved for in
	named  map[string]string       // by quantity: the name that a sentence gives it
	units  map[string]string       // by quantity: the unit that a sentence gives it
	// Of a transient run: how long it lasts, s, the field that changes at the start, SI, and
	// the tolerance of a step, and the longest one, s, 0 for none said.
	End, Start, Tolerance, Longest float64
	// Count is how many modes are found; Frequencies are those at which the response is, Hz.
	Count       int
	Frequencies []float64
	// Stepwise says that the run looks for a steady state step by step, so that it may go on from another one.
	Stepwise bool
	// From is the run that it goes on from, 0 for none; Until ends it, nil for nothing but
	// its End: true by the readings in their order and the time.
	From  int
	Until *formula.Program
	// Trials are the trial sets.
	Trials []ResolvedTrials
	// Depth of a plane space, m; 1 in an axial one, 0 in a solid one.
	Depth float64
	// Cuts leave a part of the device out; Growth and Gaps are more wishes for the mesh.
	Cuts   []mesh.Cut
	Growth float64
	Gaps   int
	// Rounds and FluxError are how often and until when a run makes cells finer; Field has
	// the lengths that such a round asks for, nil for none.
	Rounds    int
	FluxError float64
	// Change of readings from one round to the next that ends them, as a part; 0 for none.
	Change float64
	Field  *mesh.Field
	// LeftOpen says that the document leaves it open how many cells there are across its parts, and Expected is what
	// its physics expect there.
	LeftOpen bool
	Expected []Expected
	// Loose are the motions of the device as a whole that nothing which is said keeps it from, although something must.
	Loose []Motion
	// Overlaps are the places where two parts are at once that should not be.
	Overlaps []Overlap
}

// Sides lists the names of the sides of a part that can be drawn.
func (r *Resolved) Sides(part int) []string {
	if names := r.LineSides(part); names != nil {
		return names
	}
	names := r.Parts[part].Outline.Sides()
	if f := r.Parts[part].Fill; f != nil {
		for _, c := range f.Caps {
			names = append(names, c.Name)
		}
	}
	if len(r.Cuts) > 0 {
		names = append(names, mesh.CutSide)
	}
	if r.Document.Space.Flat() {
		return names
	}
	return append([]string{shape.Top, shape.Bottom}, names...)
}

// ResolvedPart is a part with its properties.
type ResolvedPart struct {
	*Part
	Material material.Material
	// Properties that the physics of the part need, and those that they want, whether the
	// material has them or not.
	Properties map[material.Key]material.Function
	Wanted     []material.Key
	Density    float64 // kg/m³, at 20 °C if it varies, 0 if the material has none
	Turn       float64 // rad
	// Extent of the outline along its own x and y, m.
	Extent [2]float64
	Size   float64 // of cells, m
	Copies int
	Near   []mesh.Near // wishes at its sides
	Walls  []mesh.SideWall
	Fill   *mesh.Fill // nil if it displaces others
	// Outline is the first copy's, in place; nil if a value is wrong.
	Outline *shape.Outline
	// Line is that of the first copy, nil if it is none.
	Line   *shape.Line
	Z0, Z1 float64
}

// ResolvedSentence is a condition or reading with its values.
type ResolvedSentence struct {
	*Sentence
	Definition *sentence.Kind
	// Laws are the values by slot, SI, of the variables of the catalogue.
	Laws map[string]*formula.Program
	// Parts are those that it is about, nil if it is about no part.
	Parts []int
	// Box holds the surfaces that it is about, m, nil for no box.
	Box *[3][2]float64
	// About says by slot which of the quantities that have names it is about.
	About map[string]int
	// Properties are those of the material that a sentence names, where it needs them.
	Properties map[material.Key]material.Function
	// Formula of a reading that is one; its inputs are the readings before it.
	Formula *formula.Program
	// InTime says that the formula takes numbers from the whole run; Followed are then the
	// readings that are the inputs of what it follows over time, before the time itself.
	InTime   bool
	Followed []string
	// Dimension of a reading, and whether it is a temperature on a scale.
	Dimension   quantity.Dimension
	Temperature bool
}

// maxCopies bounds an array.
const maxCopies = 2000

// resolver collects findings while a document is evaluated.
type resolver struct {
	doc      *Document
	cat      *Catalog
	out      *Resolved
	findings []Finding
	bodies   [][]shape.Body // of each part
	span     [2]float64     // of the last outline that follows from other parts
	// functions are the properties of materials that were asked for, by their places and
	// finishes.
	functions map[string]madeFunction
}

// madeFunction is a property of a material, or why there is none.
type madeFunction struct {
	material.Function
	err error
}

// function returns a property of a material, which many parts may be made of.
func (r *resolver) function(m material.Material, key material.Key) (material.Function, error) {
	place := propertyPlace(m, key)
	known := place + "|" + m.Finish
	f, ok := r.functions[known]
	if !ok {
		f.Function, f.err = m.Function(key, r.out.Parameters)
		if f.err == nil {
			d, _ := material.Define(key)
			if words := f.Unusual(d); words != "" {
				r.find(Doubtful, place, "check the value and its unit", "the %s of %s %s", d.Name, m.Name, words)
			}
		}
		if r.functions == nil {
			r.functions = map[string]madeFunction{}
		}
		r.functions[known] = f
	}
	return f.Function, f.err
}

// Resolve evaluates a document and lists what is missing, wrong or doubtful. The
// result is complete only if no finding blocks; the drawing uses what there is.
func Resolve(doc *Document, cat *Catalog) (*Resolved, []Finding) {
	cat = cat.For(doc)
	r := &resolver{doc: doc, cat: cat, out: &Resolved{Document: doc, Parameters: formula.Values{}}}
	r.out.named, r.out.units = doc.naming(cat)
	r.ids()
	r.space()
	r.asks()
	r.parameters()
	r.materials()
	r.mesh()
	r.physics()
	r.cuts()
	r.parts()
	r.near()
	r.overlaps()
	r.out.Conditions = r.sentences("conditions", sentence.Condition, doc.Conditions)
	r.resolvePhysics()
	r.run()
	r.out.Readings = r.sentences("readings", sentence.Reading, doc.Readings)
	r.until()
	r.slips()
	r.plates()
	r.trials()
	return r.out, r.findings
}

func (r *resolver) find(s Severity, place, fix, format string, args ...any) {
	r.findings = append(r.findings, Finding{s, place, fmt.Sprintf(format, args...), fix, nil})
}

func (r *resolver) space() {
	switch s := &r.doc.Space; s.Kind {
	case Solid, Lines:
	case Axial:
		r.out.Depth = 1
	case Plane:
		r.out.Depth = 1
		if strings.TrimSpace(s.Depth) != "" {
			r.out.Depth, _ = r.value("space/depth", s.Depth, need{label: "depth", unit: "m", positive: true})
		}
	default:
		r.find(Wrong, "space/kind", `write "solid", "plane", "axial" or "lines"`, "there is no space %q", s.Kind)
	}
	if !slices.Contains(Units, r.doc.Space.Unit) {
		r.find(Wrong, "space/unit", "choose "+strings.Join(Units, ", "), "drawings are not made in %q", r.doc.Space.Unit)
	}
}

// parameters evaluates the parameters in the order in which they use each other.
func (r *resolver) parameters() {
	formulas := map[string]*formula.Formula{}
	places := map[string]string{}
	for i, p := range r.doc.Parameters {
		place := fmt.Sprintf("parameters/%s/value", p.Name)
		if what := nameFault(p.Name); what != "" {
			r.find(Wrong, fmt.Sprintf("parameters/%s/name", p.Name), "", "parameter %d: %s", i+1, what)
			continue
		}
		if _, ok := places[p.Name]; ok {
			r.find(Wrong, fmt.Sprintf("parameters/%s/name", p.Name), "rename one of them", "two parameters are called %s", p.Name)
			continue
		}
		places[p.Name] = place
		if strings.TrimSpace(p.Value) == "" {
			r.find(Missing, place, "type a value with its unit", "the parameter %s has no value", p.Name)
			continue
		}
		f, err := formula.Parse(p.Value)
		if err != nil {
			r.find(Wrong, place, "", "the parameter %s, %q, cannot be read: %v", p.Name, p.Value, err)
			continue
		}
		formulas[p.Name] = f
	}
	state := map[string]int{} // 1 being evaluated, 2 done
	var path []string
	var visit func(name string) bool
	visit = func(name string) bool {
		f, ok := formulas[name]
		if !ok || state[name] == 2 {
			return true
		}
		if state[name] == 1 {
			from := slices.Index(path, name)
			r.find(Wrong, places[name], "break the circle", "the parameters %s need each other", strings.Join(append(slices.Clone(path[from:]), name), " → "))
			return false
		}
		state[name] = 1
		path = append(path, name)
		ok = true
		for _, other := range f.Names() {
			ok = visit(other) && ok
		}
		path = path[:len(path)-1]
		state[name] = 2
		if !ok {
			return false
		}
		if slices.ContainsFunc(f.Names(), r.differs) {
			r.define(name, places[name], f)
			return true
		}
		v, err := f.Eval(r.out.Parameters)
		if err != nil {
			r.find(Wrong, places[name], "", "the parameter %s, %q, cannot be computed: %v", name, f, err)
			return true
		}
		r.out.Parameters[name] = v
		r.bounds(name, v)
		return true
	}
	for _, p := range r.doc.Parameters {
		visit(p.Name)
	}
}

// nameFault says what is wrong with the name of a parameter, "" if nothing is.
func nameFault(name string) string {
	f, err := formula.Parse(name)
	if err != nil || len(f.Names()) != 1 || f.Names()[0] != name {
		if formula.IsReserved(name) {
			return fmt.Sprintf("%q has a meaning of its own in formulas; choose another name", name)
		}
		return fmt.Sprintf("%q cannot be a name; use letters, digits and _, beginning with a letter", name)
	}
	if formula.IsReserved(name) {
		return fmt.Sprintf("%q has a meaning of its own in formulas; choose another name", name)
	}
	return ""
}

// materials checks what the model carries, apart from the values, which are
// checked where they are used.
func (r *resolver) materials() {
	seen := map[string]bool{}
	for i, m := range r.doc.Materials {
		place := "materials/" + m.Name
		if err := material.CheckName(m.Name); err != nil {
			r.find(Wrong, "materials", "", "material %d: %v", i+1, err)
		}
		if key := strings.ToLower(m.Name); seen[key] {
			r.find(Wrong, place, "rename one of them", "two materials are called %s", m.Name)
		} else {
			seen[key] = true
		}
		if m.Family != "" && !slices.Contains(material.Families, m.Family) {
			r.find(Doubtful, place+"/family", "choose one of "+strings.Join(material.Families, ", "), "%s belongs to a family %q that is not known", m.Name, m.Family)
		}
		for key := range m.Properties {
			if _, known := material.Define(key); !known {
				r.find(Wrong, place, "choose one of the properties on the page of the model file", "%s has a property %q that is not known", m.Name, key)
			}
		}
	}
}

func (r *resolver) mesh() {
	if v, ok := r.value("mesh/size", r.doc.Mesh.Size, need{label: "cell size", unit: "mm", positive: true}); ok {
		r.out.Size = v
	}
	r.across()
	switch strings.TrimSpace(r.doc.Mesh.Order) {
	case "", "1":
		r.out.Order = 1
	case "2":
		r.out.Order = 2
	default:
		r.find(Wrong, "mesh/order", "choose 1 or 2", "cells are of order 1 or 2, not %q", r.doc.Mesh.Order)
	}
}

// sentences resolves the sentences of one section.
func (r *resolver) sentences(section string, group sentence.Group, list []Sentence) []ResolvedSentence {
	var out []ResolvedSentence
	for i := range list {
		s := &list[i]
		place := section + "/" + s.ID
		if s.Off {
			continue
		}
		k, ok := r.cat.Kind(s.Kind)
		if !ok || k.Group != group {
			r.find(Wrong, place, "choose one of "+r.cat.Keys(group), "there is no %s of the kind %q", group, s.Kind)
			continue
		}
		if k.Transient && !r.doc.Transient() {
			continue // it waits for a run in time
		}
		res := ResolvedSentence{Sentence: s, Definition: k, Laws: map[string]*formula.Program{}}
		good := k.Acts == 0 || r.patch(place+"/on", s, k, &res)
		for j := range k.Slots {
			slot := &k.Slots[j]
			at := place + "/values/" + slot.Name
			if slot.Kind == sentence.Text {
				if strings.TrimSpace(s.Values[slot.Name]) == "" {
					r.find(Missing, at, "type a name", "%s does not name the %s", s.ID, slot.Label)
					good = false
				} else if slot.Fluid {
					keys := []material.Key{material.Conductivity, material.Density, material.HeatCapacity, material.Viscosity}
					if slot.Buoyant {
						keys = append(keys, material.VolumetricExpansion)
					}
					good = r.named(at, s.Values[slot.Name], "fluid", &res, keys...) && good
				} else if name := strings.TrimSpace(s.Values[slot.Name]); slot.Names != nil {
					good = r.giveName(at, name, slot, &res) && good
				} else if slot.Among != nil {
					good = r.refer(at, name, slot, &res) && good
				} else if slot.UnitOf {
					if _, err := quantity.ParseUnit(name); err != nil {
						r.find(Wrong, at, "write for example mol/m³", "the %s in %s: %v", slot.Label, s.ID, err)
						good = false
					}
				} else if slot.Choices != nil && !slices.Contains(slot.Choices, name) {
					r.find(Wrong, at, "choose "+strings.Join(slot.Choices, ", "), "%s says %q of the %s, which is none of those that are known", s.ID, name, slot.Label)
					good = false
				} else if slot.Rough {
					good = r.named(at, name, "material", &res, material.Roughness) && good
				} else if slot.Layer {
					good = r.named(at, s.Values[slot.Name], "material", &res, material.Conductivity) && good
				}
				continue
			}
			if slot.Kind == sentence.Formula {
				good = r.readingFormula(at, s, &res, out) && good
				continue
			}
			law, ok := r.law(at, s.Values[slot.Name], need{label: slot.Label + " in " + s.ID, unit: slot.Unit, temperature: slot.Temperature, positive: slot.Positive, whole: slot.Whole, within: slot.Within, optional: slot.Without != "", any: slot.AnyUnit}, slot.May)
			good = good && ok
			res.Laws[slot.Name] = law
			if !ok || law == nil || slot.Usual == nil {
				continue
			}
			lo, hi, what := slot.Usual(s.Values)
			if v, constant := law.Constant(); constant && (v < lo || v > hi) {
				unit := quantity.MustUnit(slot.Unit)
				r.find(Doubtful, at, "check the value and its unit", "the %s in %s lies outside what %s can have, %s … %s", slot.Label, s.ID, what,
					quantity.Figures(unit.From(lo, false), 2), quantity.Show(hi, slot.Unit, false, 2))
			}
		}
		for name := range s.Values {
			if _, ok := k.Slot(name); !ok {
				r.find(Wrong, place, "remove it", "%s has a value %q that its sentence does not use", s.ID, name)
			}
		}
		if group == sentence.Reading && res.Formula == nil {
			u := quantity.MustUnit(k.Unit)
			res.Dimension, res.Temperature = u.Dimension, u.Affine() && !k.Difference
		}
		if group == sentence.Reading && s.Unit != "" && good {
			if u, err := quantity.ParseUnit(s.Unit); err != nil || u.Dimension != res.Dimension {
				r.find(Wrong, place+"/unit", "write for example "+res.UsualUnit(), "the reading %s cannot be shown in %q", s.ID, s.Unit)
				good = false
			}
		}
		if good {
			out = append(out, res)
		}
	}
	return out
}

// patch checks what a sentence is about.
func (r *resolver) patch(place string, s *Sentence, k *sentence.Kind, res *ResolvedSentence) bool {
	if s.On.Part == "" {
		r.find(Missing, place, "click the part or the surface on the drawing, or choose it in the sentence", "%s does not say where it acts", s.ID)
		return false
	}
	added, taken, box := s.On.Terms()
	whole := false
	for i, t := range added {
		if !r.term(place, s, k, t) {
			return false
		}
		if bodies := t.Side == "" && t.Facing == ""; i == 0 {
			whole = bodies
		} else if bodies != whole {
			r.find(Wrong, place, "write two sentences", "%s speaks of parts as a whole and of surfaces", s.ID)
			return false
		}
	}
	for _, t := range taken {
		for _, i := range r.out.PartsNamed(t.Part) {
			if side := t.Side; side != "" && side != WholeSurface && !several(t.Part) && r.out.Parts[i].Outline != nil && !slices.Contains(r.out.Sides(i), side) {
				r.find(Wrong, place, "choose one of "+strings.Join(r.out.Sides(i), ", "), "the %s has no side %q", r.doc.Parts[i].Name, side)
				return false
			}
		}
		if len(r.out.PartsNamed(t.Part)) == 0 && !several(t.Part) {
			r.find(Wrong, place, "choose another part", "%s leaves out a part %q that is not there", s.ID, t.Part)
			return false
		}
	}
	if box != nil && !r.box(place, s, whole, box, res) {
		return false
	}
	if res.Parts = r.out.PartsOf(s.On); len(res.Parts) == 0 {
		r.find(Wrong, place, "choose other parts", "%s leaves out all that it speaks of: the %s", s.ID, strings.TrimSuffix(r.doc.PatchWords(s.On), ","))
		return false
	}
	return true
}

// box reads the ends of the box in which what a sentence is about lies.
func (r *resolver) box(place string, s *Sentence, whole bool, box *Box, res *ResolvedSentence) bool {
	if whole {
		r.find(Wrong, place, "choose surfaces, or leave the box out", "%s speaks of parts as a whole, which no box limits", s.ID)
		return false
	}
	res.Box = &[3][2]float64{}
	good := true
	for axis := range box {
		ends := [2]float64{math.Inf(-1), math.Inf(1)}
		for i, text := range box[axis] {
			if strings.TrimSpace(text) == "" {
				continue
			}
			v, ok := r.value(place, text, need{label: "end of the box along " + "xyz"[axis:axis+1], unit: lengthUnit})
			good = good && ok
			ends[i] = v
		}
		if good && ends[0] > ends[1] {
			r.find(Wrong, place, "", "the box of %s ends along %s before it begins", s.ID, "xyz"[axis:axis+1])
			good = false
		}
		res.Box[axis] = ends
	}
	return good
}

// term checks one of the patches that a sentence is about.
func (r *resolver) term(place string, s *Sentence, k *sentence.Kind, t Patch) bool {
	switch {
	case k.Inner && (t.Facing == "" || t.Facing == Outside):
		r.find(Missing, place, "choose a side, and the part that it faces", "%s acts where two parts meet, and names one only", s.ID)
		return false
	case t.Side == "" && t.Facing == "" && k.Acts&sentence.Bodies == 0:
		r.find(Missing, place, "choose a side, or the whole surface", "%s acts on surfaces, and names the %s as a whole", s.ID, r.doc.partName(t.Part))
		return false
	case (t.Side != "" || t.Facing != "") && k.Acts&sentence.Surfaces == 0:
		r.find(Wrong, place, "choose the part as a whole", "%s acts on whole parts, not on the %s", s.ID, r.doc.PatchWords(t))
		return false
	}
	parts := r.out.PartsNamed(t.Part)
	if len(parts) == 0 && several(t.Part) {
		r.find(Wrong, place, "choose other parts, or make some of these solved", "%s speaks of %s, and there are none that are solved", s.ID, r.doc.partName(t.Part))
		return false
	}
	if len(parts) == 0 {
		r.find(Wrong, place, "choose another part or remove the sentence", "%s speaks of a part %q that is not there", s.ID, t.Part)
		return false
	}
	if f := t.Facing; f != "" && f != Outside && len(r.out.PartsNamed(f)) == 0 {
		r.find(Wrong, place, "choose another part", "%s speaks of where the %s meets %q, which is not there", s.ID, r.doc.partName(t.Part), f)
		return false
	}
	if several(t.Part) {
		has := func(i int) bool { return slices.Contains(r.out.Sides(i), t.Side) }
		if t.Side != "" && t.Side != WholeSurface && !slices.ContainsFunc(parts, has) {
			r.find(Wrong, place, "choose another side", "none of the parts that %s speaks of has a side %q", s.ID, t.Side)
			return false
		}
		return true
	}
	i := parts[0]
	p, part := &r.doc.Parts[i], &r.out.Parts[i]
	if p.Role == Off || p.Role == Shown && !strings.HasPrefix(k.Key, "body.") {
		r.find(Wrong, place, "make the part solved, or choose another", "%s acts on the %s, which is %s", s.ID, p.Name, p.Role)
		return false
	}
	if part.Outline == nil {
		return true
	}
	if side := t.Side; side != "" && side != WholeSurface {
		if names := r.out.Sides(i); !slices.Contains(names, side) {
			r.find(Wrong, place, "choose one of "+strings.Join(names, ", "), "the %s has no side %q", p.Name, side)
			return false
		}
	}
	last := t.Copy
	if t.Copies != "" {
		ranges, err := copiesIn(t.Copies)
		if err != nil {
			r.find(Wrong, place, "", "%v", err)
			return false
		}
		for _, c := range ranges {
			last = max(last, c[1])
		}
	}
	if last > part.Copies {
		r.find(Wrong, place, "choose another copy", "the %s has %d copies, and %s speaks of number %d", p.Name, part.Copies, s.ID, last)
		return false
	}
	return true
}

// Names says that a sentence names a part by itself, not as one of several.
func (s *ResolvedSentence) Names(d *Document, part int) bool {
	added, _, _ := s.On.Terms()
	return slices.ContainsFunc(added, func(t Patch) bool { return d.Part(t.Part) == part })
}
