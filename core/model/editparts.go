package model

import (
	"cmp"
	"fmt"
	"path"
	"slices"
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
		p.Outline.Points = firstPoints()
		if k.Line {
			p.Outline.Points = p.Outline.Points[:2]
		}
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

// firstPoints are those that a new path begins with.
func firstPoints() []Point {
	list := make([]Point, 3)
	enumerate(list)
	return list
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
		h.Points = firstPoints()
	}
	o := &d.Parts[i].Outline
	var number string
	o.Holes, number = appended(o.Holes, h)
	return fmt.Sprintf("parts/%s/outline/holes/%s", id, number), nil
}

// outlineAt finds the outline at a place such as parts/p1/outline or parts/p1/outline/holes/2.
// The hole is nil if it is that of the part.
func (d *Document) outlineAt(place string) (*Outline, *Hole, error) {
	path := strings.Split(place, "/")
	gone := &GoneError{place}
	if len(path) < 3 || path[0] != "parts" || path[2] != "outline" {
		return nil, nil, gone
	}
	i := d.Part(path[1])
	if i < 0 {
		return nil, nil, gone
	}
	o := &d.Parts[i].Outline
	if len(path) == 3 {
		return o, nil, nil
	}
	if len(path) != 5 || path[3] != "holes" {
		return nil, nil, gone
	}
	k := find(o.Holes, path[4])
	if k < 0 {
		return nil, nil, gone
	}
	return &o.Holes[k].Outline, &o.Holes[k], nil
}

// RemoveItem takes an entry of a list away: a point, hole, cap, cut, wish for cells, layers or
// what varies, and what a plate shows, by its place, such as parts/p1/outline/points/3.
func (d *Document) RemoveItem(place string) error {
	at, id := path.Split(place)
	at = strings.TrimSuffix(at, "/")
	owner, list := path.Split(at)
	owner = strings.TrimSuffix(owner, "/")
	ok := false
	switch {
	case at == "space/cuts":
		d.Space.Cuts, ok = without(d.Space.Cuts, id)
	case at == "mesh/near":
		d.Mesh.Near, ok = without(d.Mesh.Near, id)
	case at == "mesh/walls":
		d.Mesh.Walls, ok = without(d.Mesh.Walls, id)
	case strings.HasPrefix(owner, "plates/"):
		if p, err := d.plate(strings.TrimPrefix(owner, "plates/")); err == nil {
			ok = p.removeItem(list, id)
		}
	case list == "vary":
		if t := d.trialSet(strings.TrimPrefix(owner, "trials/")); t != nil {
			t.Vary, ok = without(t.Vary, id)
		}
	case list == "goals":
		if t := d.trialSet(strings.TrimPrefix(owner, "trials/")); t != nil {
			t.Goals, ok = without(t.Goals, id)
		}
	case list == "limits":
		if t := d.trialSet(strings.TrimPrefix(owner, "trials/")); t != nil {
			t.Limits, ok = without(t.Limits, id)
		}
	case list == "caps":
		part, fills := strings.CutSuffix(strings.TrimPrefix(owner, "parts/"), "/fill")
		if i := d.Part(part); fills && i >= 0 && d.Parts[i].Fill != nil {
			f := *d.Parts[i].Fill
			f.Caps, ok = without(f.Caps, id)
			d.Parts[i].Fill = &f
		}
	case list == "holes" || list == "points":
		o, _, err := d.outlineAt(owner)
		if err != nil {
			return &GoneError{place}
		}
		if list == "holes" {
			o.Holes, ok = without(o.Holes, id)
		} else {
			o.Points, ok = without(o.Points, id)
		}
	}
	if !ok {
		return &GoneError{place}
	}
	return nil
}

// SetHoleArray makes the hole at a place an array, or a single one again.
func (d *Document) SetHoleArray(place string, on bool) error {
	_, h, err := d.outlineAt(place)
	if err != nil || h == nil {
		return cmp.Or(err, error(&GoneError{place}))
	}
	h.Array = nil
	if on {
		h.Array = &Array{Count: "2", Along: "x", Centred: true}
	}
	return nil
}

// maxPoints bounds a path.
const maxPoints = 1000

// AddPoint adds a point behind the one at a place such as parts/p1/outline/points/3.
func (d *Document) AddPoint(place string) (string, error) {
	at, id := path.Split(place)
	o, _, err := d.outlineAt(strings.TrimSuffix(at, "/points/"))
	if err != nil {
		return "", err
	}
	if len(o.Points) >= maxPoints {
		return "", fmt.Errorf("a path may have %d points at most", maxPoints)
	}
	i := find(o.Points, id)
	if i < 0 {
		return "", &GoneError{place}
	}
	var number string
	o.Points, number = inserted(o.Points, i+1, Point{})
	return at + number + "/x", nil
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
