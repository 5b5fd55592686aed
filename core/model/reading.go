package model

import (
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/formula"
	"saltkettle/core/quantity"
	"saltkettle/core/shape"
)

// readingFormula checks the formula of a reading. before are the readings that
// it may use by their ids: those above it that are right.
func (r *resolver) readingFormula(place string, s *Sentence, res *ResolvedSentence, before []ResolvedSentence) bool {
	text := s.Values["formula"]
	if strings.TrimSpace(text) == "" {
		r.find(Missing, place, "write for example mean(temperature over part)", "%s has no formula", s.ID)
		return false
	}
	f, err := formula.Parse(text)
	if err != nil {
		r.find(Wrong, place, "", "the formula of %s cannot be read: %v", s.ID, err)
		return false
	}
	env := r.environment()
	env.Points = r.out.typed(r.cat.Quantities)
	for _, b := range before {
		v := formula.Variable{Name: b.ID, Dimension: b.Dimension, Temperature: b.Temperature}
		env.Variables = append(env.Variables, v)
		if !b.InTime {
			env.Moments, res.Followed = append(env.Moments, v), append(res.Followed, b.ID)
		}
	}
	if r.doc.Transient() {
		env.Variables, env.Moments = append(env.Variables, formula.Time), append(env.Moments, formula.Time)
	} else if r.doc.Swings() {
		env.Axis, env.Moments = formula.Frequency, append(env.Moments, formula.Frequency)
	} else {
		env.Moments = nil
	}
	elsewhere := env.Elsewhere
	env.Elsewhere = func(name string) string {
		if slices.ContainsFunc(r.doc.Readings, func(q Sentence) bool { return q.ID == name }) {
			return fmt.Sprintf("the reading %s does not stand above this one, or is not right yet", name)
		}
		for _, v := range r.cat.Quantities {
			if v.Name == name {
				return fmt.Sprintf("%s differs from place to place: say of what, as in mean(%s over part)", name, name)
			}
		}
		return elsewhere(name)
	}
	p, err := f.Compile(env)
	if err != nil {
		r.find(Wrong, place, "", "the formula of %s cannot be computed: %v", s.ID, err)
		return false
	}
	for _, region := range f.Regions() {
		patch, err := r.doc.RegionPatch(region)
		if err == nil {
			err = r.exists(patch)
		}
		if err != nil {
			r.find(Wrong, place, "", "the formula of %s: %v", s.ID, err)
			return false
		}
	}
	for i := range p.Reductions {
		d := &p.Reductions[i]
		res.InTime = res.InTime || d.InTime
		if why := r.moments(d); why != "" {
			r.find(Wrong, place, "give a time within the run", "the formula of %s %s", s.ID, why)
			return false
		}
		if len(d.Points) == 1 && !r.solvedAt(d.Points[0]) {
			r.find(Wrong, place, "give a point within a solved part, in the coordinates of the drawing", "the formula of %s reads %s at a point that lies in no solved part", s.ID, d.Quantity)
			return false
		}
	}
	res.Formula, res.Dimension, res.Temperature = p, p.Dimension, p.Affine
	return true
}

// moments says why times of a reduction over time do not fit the run, "" if they do.
func (r *resolver) moments(d *formula.Reduction) string {
	if !d.InTime || d.Kind == "crossing" || r.out.End == 0 {
		return ""
	}
	for _, m := range d.Moments {
		if m < 0 || m > r.out.End {
			return fmt.Sprintf("speaks of %s, and the run lasts from 0 s to %s", quantity.Show(m, "s", false, 4), quantity.Show(r.out.End, "s", false, 4))
		}
		if m == 0 && (d.Kind == "amplitude" || d.Kind == "phase") {
			return "speaks of a period of 0 s"
		}
	}
	return ""
}

// solvedAt says whether a point lies in a solved part, or next to one. Where a part follows
// from a surface or fills what is empty, its box counts.
func (r *resolver) solvedAt(p [3]float64) bool {
	for _, b := range r.out.Bodies {
		if r.out.Parts[b.Part].Role != Solved {
			continue
		}
		lo, hi := b.Outline.Box()
		near := 1e-4 * max(hi.X-lo.X, hi.Y-lo.Y)
		if !r.doc.Space.Flat() && (p[2] < b.Z0-near || p[2] > b.Z1+near) {
			continue
		}
		for _, step := range [][2]float64{{0, 0}, {-near, 0}, {near, 0}, {0, -near}, {0, near}} {
			at := shape.Point{X: p[0] + step[0], Y: p[1] + step[1]}
			inBox := at.X >= lo.X && at.X <= hi.X && at.Y >= lo.Y && at.Y <= hi.Y
			if b.Solid != nil && inBox || b.Outline.Contains(at) {
				return true
			}
		}
	}
	// A part that is not right yet may be where the point is.
	return slices.ContainsFunc(r.out.Parts, func(p ResolvedPart) bool { return p.Outline == nil })
}

// surfaceWord is how a formula names the whole surface of a part.
const surfaceWord = "surface"

// RegionPatch is the patch that a reduction in a formula runs over. Parts are
// given by their ids or, between quotation marks, by their names.
func (d *Document) RegionPatch(g formula.Region) (Patch, error) {
	part := func(name string, byName bool) (string, error) {
		if d.Part(name) >= 0 || several(name) {
			return name, nil
		}
		for _, p := range d.Parts {
			if strings.EqualFold(p.Name, name) && (byName || p.Name == name) {
				return p.ID, nil
			}
		}
		var ids []string
		for _, p := range d.Parts {
			ids = append(ids, p.ID)
		}
		return "", fmt.Errorf("there is no part %q; the parts are %s", name, strings.Join(ids, ", "))
	}
	id, err := part(g.Part, g.Quoted)
	if err != nil {
		return Patch{}, err
	}
	p := Patch{Part: id, Side: g.Side, Copy: g.Copy, Facing: g.Facing}
	if p.Side == surfaceWord {
		p.Side = WholeSurface
	}
	if p.Facing != "" && p.Facing != Outside {
		if p.Facing, err = part(p.Facing, true); err != nil {
			return Patch{}, err
		}
	}
	return p, nil
}

// exists checks that a patch speaks of a solved part, a side and a copy that are
// there.
func (r *resolver) exists(p Patch) error {
	i := r.doc.Part(p.Part)
	part := &r.out.Parts[i]
	if part.Role != Solved {
		return fmt.Errorf("the %s is %s, and has no result", part.Name, part.Role)
	}
	if part.Outline == nil {
		return nil // another finding says why
	}
	if p.Side != "" && p.Side != WholeSurface {
		if names := r.out.Sides(i); !slices.Contains(names, p.Side) {
			return fmt.Errorf("the %s has no side %q; its sides are %s and %s", part.Name, p.Side, strings.Join(names, ", "), surfaceWord)
		}
	}
	if p.Copy > part.Copies {
		return fmt.Errorf("the %s has %d copies, and number %d is spoken of", part.Name, part.Copies, p.Copy)
	}
	return nil
}
