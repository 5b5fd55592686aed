package frame

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/couple"
	"saltkettle/core/law"
	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

// Posing is a run in which a physics is posed.
type Posing struct {
	*Site
	Context context.Context
	// Transient says that it is a run in time, Modal that it finds modes, and Swings that it
	// finds the response to what swings.
	Transient, Modal, Swings bool
	// Views is a folder in which view factors are kept, "" for none, and Rays which set of rays
	// finds them.
	Views string
	Rays  int
	// Aside does something in a stage of its own, which is told its progress.
	Aside func(stage string, do func(progress func(part float64)) error) error
	// Warn warns of something in the result.
	Warn func(format string, args ...any)
	// Note says something of the result that is good to know.
	Note func(format string, args ...any)
	// Given says that the run solves for what laws may depend on, by its name.
	Given func(name string) bool
	// Supplied are the bodies in which another physics is solved for that supplies a quantity.
	Supplied func(quantity string) map[int32]bool
	// found has the facets of conditions that were asked for, and bad those that act nowhere.
	found map[string][]int32
	bad   []model.Finding
}

// ModelError says that a model is incomplete or wrong.
type ModelError struct{ Findings []model.Finding }

func (e *ModelError) Error() string {
	lines := make([]string, len(e.Findings))
	for i, f := range e.Findings {
		lines[i] = f.String()
	}
	return strings.Join(lines, "\n")
}

// Wrong is a *ModelError with one finding.
func Wrong(place, fix, format string, args ...any) *ModelError {
	return &ModelError{[]model.Finding{{Severity: model.Wrong, Place: place, Message: fmt.Sprintf(format, args...), Fix: fix}}}
}

// Conditions lists the conditions of a physics, in their order.
func (p *Posing) Conditions(key string) []*model.ResolvedSentence {
	var list []*model.ResolvedSentence
	for i := range p.Model.Conditions {
		if c := &p.Model.Conditions[i]; model.Of(c.Kind) == key {
			list = append(list, c)
		}
	}
	return list
}

// On lists the facets on which a condition acts. That it acts nowhere is noted; [Posing.Err]
// tells.
func (p *Posing) On(c *model.ResolvedSentence) []int32 {
	if list, ok := p.found[c.ID]; ok {
		return list
	}
	list := p.Within(c.Box, p.Facets(c.On, c.Definition.Exposed))
	if c.Definition.Inner {
		list = slices.DeleteFunc(list, func(k int32) bool { return p.Mesh.Facets[k].Other < 0 })
	}
	if len(list) == 0 {
		p.bad = append(p.bad, model.Finding{Severity: model.Wrong, Place: "conditions/" + c.ID + "/on",
			Message: fmt.Sprintf("%s acts nowhere: there is no %s%s", c.ID, p.Model.Document.PatchWords(c.On), freeWords(c.Definition.Exposed)),
			Fix:     "choose another patch"})
	}
	if p.found == nil {
		p.found = map[string][]int32{}
	}
	p.found[c.ID] = list
	return list
}

// Refuse notes that a condition cannot act as it says.
func (p *Posing) Refuse(place, fix, format string, args ...any) {
	p.bad = append(p.bad, model.Finding{Severity: model.Wrong, Place: place, Message: fmt.Sprintf(format, args...), Fix: fix})
}

// Err is a *[ModelError] if conditions act nowhere.
func (p *Posing) Err() error {
	if len(p.bad) > 0 {
		return &ModelError{p.bad}
	}
	return nil
}

func freeWords(exposed bool) string {
	if exposed {
		return " with nothing solved beyond it"
	}
	return ""
}

// Continues are the facets beyond which the device goes on, as conditions of any physics say.
func (p *Posing) Continues() map[int32]bool {
	set := map[int32]bool{}
	for i := range p.Model.Conditions {
		if c := &p.Model.Conditions[i]; c.Definition.Continues && p.Model.Solves(model.Of(c.Kind)) {
			for _, k := range p.On(c) {
				set[k] = true
			}
		}
	}
	return set
}

// Surface says that a facet is one of the device, with nothing beyond it, no plane of
// symmetry and no end of a line.
func (p *Posing) Surface(k int32) bool {
	f := &p.Mesh.Facets[k]
	return f.Other < 0 && p.Mesh.Sides[f.Side] != mesh.CutSide && p.Mesh.Piece(f.Cell) == nil
}

// GoesOn are the facets at which the device does not end: planes at which it is cut, and the axis of an axial space.
func (p *Posing) GoesOn() (list []int32) {
	for k := range p.Mesh.Facets {
		f := &p.Mesh.Facets[k]
		if f.Other >= 0 || p.Mesh.Piece(f.Cell) != nil {
			continue
		}
		axis := p.Model.Document.Space.Kind == model.Axial
		for _, v := range f.Corners() {
			axis = axis && math.Abs(p.Mesh.At(v)[0]) < onAxis
		}
		if axis || !p.Surface(int32(k)) {
			list = append(list, int32(k))
		}
	}
	return list
}

// onAxis is how near to the axis of an axial space a place lies on it, m.
const onAxis = 1e-12

// Loose says in words which parts have nothing that fixes a field, if that is what an error
// says.
func (p *Posing) Loose(err error, words, fix string) error {
	var l *couple.LooseError
	if !errors.As(err, &l) {
		return err
	}
	var names []string
	slices.Sort(l.Bodies) // in the order of the parts
	for _, b := range l.Bodies {
		if name := p.Part(b).Name; !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return Wrong("conditions", fix, words, strings.Join(names, ", the "))
}

// Levels are values that a solution may begin with.
type Levels []float64

// Add notes a law, if it is constant.
func (l *Levels) Add(value law.Law) {
	if v, ok := value.Constant(); ok {
		*l = append(*l, v)
	}
}

// Mean is the mean of the levels, or another value if there is none.
func (l Levels) Mean(otherwise float64) float64 {
	if len(l) == 0 {
		return otherwise
	}
	var sum float64
	for _, v := range l {
		sum += v
	}
	return sum / float64(len(l))
}

// Reading is a reading that is to be taken.
type Reading struct {
	*Site
	Sentence *model.ResolvedSentence
	Region   Region
	// Solution is that of the group of the physics, with the number of its field.
	Solution *couple.Solution
	Field    int
	Kernel   Kernel
	// Modes are those of a run that finds them.
	Modes []result.Mode
	// Buckling is the least factor by which what acts may grow until the group of the physics gives way.
	Buckling func() (float64, error)
	// Changed is by how much the unknowns of the group change for a small load on them.
	Changed func(load []float64) ([]float64, error)
	// Measure measures a quantity, given by its name, over a region.
	Measure func(name string, g Region) (*couple.Measure, error)
	// Value is what was found, with the place of an extreme.
	Value float64
	At    *[3]float64
	// Again is the same found in another way, which AgainBy says in words; nil if there is none.
	Again   *float64
	AgainBy string
}

// Through is what of the conserved quantity of the field leaves through the patch.
func (r *Reading) Through() (float64, error) {
	if r.Solution.Swing != nil {
		return 0, errors.New("how much of what leaves swings is not known")
	}
	return r.Solution.Through(r.Field, r.Region.Facets, r.Region.Bodies, r.Solution.Kernel)
}
