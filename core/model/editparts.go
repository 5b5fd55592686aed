package model

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// AddPart adds a part of an outline kind on top of the last one and returns its
// id.
func (d *Document) AddPart(outline string) (string, error) {
	k, known := outlineKind(outline)
	if !known {
		return "", fmt.Errorf("there is no outline %q", outline)
	}
	p := Part{ID: d.freeID("p"), Role: Solved, Outline: Outline{Kind: outline}}
	if k.Points {
		p.Outline.Points = make([]Point, 3)
	}
	p.Name = "part " + strings.TrimPrefix(p.ID, "p")
	if n := len(d.Parts); n > 0 {
		p.Span.From = d.Parts[n-1].Span.To
	}
	d.Parts = append(d.Parts, p)
	return p.ID, nil
}

// DuplicatePart adds a copy of a part after it and returns its id.
func (d *Document) DuplicatePart(id string) (string, error) {
	i := d.Part(id)
	if i < 0 {
		return "", &GoneError{"parts/" + id}
	}
	p := d.Parts[i]
	p.ID = d.freeID("p")
	p.Name += " copy"
	p.Array = p.Array.clone()
	p.Outline.Points = slices.Clone(p.Outline.Points)
	p.Outline.Holes = slices.Clone(p.Outline.Holes)
	for k := range p.Outline.Holes {
		p.Outline.Holes[k].Points = slices.Clone(p.Outline.Holes[k].Points)
		p.Outline.Holes[k].Array = p.Outline.Holes[k].Array.clone()
	}
	if p.Fill != nil {
		f := *p.Fill
		f.Caps = slices.Clone(f.Caps)
		p.Fill = &f
	}
	d.Parts = slices.Insert(d.Parts, i+1, p)
	return p.ID, nil
}

// RemovePart removes a part. Sentences about it stay and become findings, so
// that nothing is lost that a new part could take over.
func (d *Document) RemovePart(id string) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	d.Parts = slices.Delete(d.Parts, i, i+1)
	return nil
}

// MovePart shifts a part by a number of places in the order of parts.
func (d *Document) MovePart(id string, by int) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	to := min(max(i+by, 0), len(d.Parts)-1)
	p := d.Parts[i]
	d.Parts = slices.Insert(slices.Delete(d.Parts, i, i+1), to, p)
	return nil
}

func (a *Array) clone() *Array {
	if a == nil {
		return nil
	}
	c := *a
	return &c
}

// AddHole adds a hole to the outline of a part.
func (d *Document) AddHole(id, kind string) (place string, err error) {
	i := d.Part(id)
	if i < 0 {
		return "", &GoneError{"parts/" + id}
	}
	k, known := outlineKind(kind)
	if !known {
		return "", fmt.Errorf("there is no outline %q", kind)
	}
	h := Hole{Outline: Outline{Kind: kind}}
	if k.Points {
		h.Points = make([]Point, 3)
	}
	o := &d.Parts[i].Outline
	o.Holes = append(o.Holes, h)
	return fmt.Sprintf("parts/%s/outline/holes/%d", id, len(o.Holes)), nil
}

// outlineAt finds the outline at a place such as parts/p1/outline or
// parts/p1/outline/holes/2; hole counts from 1 and is 0 for the part's own.
func (d *Document) outlineAt(place string) (o *Outline, part, hole int, err error) {
	path := strings.Split(place, "/")
	if len(path) >= 3 && path[0] == "parts" && path[2] == "outline" {
		if part = d.Part(path[1]); part >= 0 {
			o = &d.Parts[part].Outline
			if len(path) == 3 {
				return o, part, 0, nil
			}
			if n, err := strconv.Atoi(path[len(path)-1]); err == nil && len(path) == 5 && path[3] == "holes" && n >= 1 && n <= len(o.Holes) {
				return &o.Holes[n-1].Outline, part, n, nil
			}
		}
	}
	return nil, 0, 0, &GoneError{place}
}

// RemoveHole takes the hole at a place away.
func (d *Document) RemoveHole(place string) error {
	_, part, hole, err := d.outlineAt(place)
	if err != nil {
		return err
	}
	if hole == 0 {
		return fmt.Errorf("%s is no hole", place)
	}
	o := &d.Parts[part].Outline
	o.Holes = slices.Delete(o.Holes, hole-1, hole)
	return nil
}

// SetHoleArray makes the hole at a place an array, or a single one again.
func (d *Document) SetHoleArray(place string, on bool) error {
	_, part, hole, err := d.outlineAt(place)
	if err != nil || hole == 0 {
		return cmp.Or(err, error(&GoneError{place}))
	}
	h := &d.Parts[part].Outline.Holes[hole-1]
	h.Array = nil
	if on {
		h.Array = &Array{Count: "2", Along: "x", Centred: true}
	}
	return nil
}

// maxPoints bounds a path.
const maxPoints = 1000

// AddPoint adds a point behind the one with the number after, counted from 1, to
// the outline at a place.
func (d *Document) AddPoint(place string, after int) (string, error) {
	o, _, _, err := d.outlineAt(place)
	if err != nil {
		return "", err
	}
	if len(o.Points) >= maxPoints {
		return "", fmt.Errorf("a path may have %d points at most", maxPoints)
	}
	after = min(max(after, 0), len(o.Points))
	o.Points = slices.Insert(slices.Clone(o.Points), after, Point{})
	return fmt.Sprintf("%s/points/%d/x", place, after+1), nil
}

// RemovePoint takes a point, counted from 1, away from the outline at a place.
func (d *Document) RemovePoint(place string, n int) error {
	o, _, _, err := d.outlineAt(place)
	if err != nil {
		return err
	}
	if n < 1 || n > len(o.Points) {
		return &GoneError{fmt.Sprintf("%s/points/%d", place, n)}
	}
	o.Points = slices.Delete(slices.Clone(o.Points), n-1, n)
	return nil
}

// SetArray makes a part an array, or a single body again.
func (d *Document) SetArray(id string, on bool) error {
	i := d.Part(id)
	if i < 0 {
		return &GoneError{"parts/" + id}
	}
	d.Parts[i].Array = nil
	if on {
		d.Parts[i].Array = &Array{Count: "2", Along: "x", Centred: true}
	}
	return nil
}
