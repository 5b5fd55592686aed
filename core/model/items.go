package model

import (
	"slices"
	"strconv"
)

// Entries of lists that have no name of their own, such as points, holes and cuts, are known by
// numbers that they keep: places and names of sides stay theirs whatever is put before them or
// taken away.

// item is such an entry.
type item[T any] interface {
	*T
	key() *string
}

func (p *Point) key() *string    { return &p.ID }
func (h *Hole) key() *string     { return &h.ID }
func (c *Cap) key() *string      { return &c.ID }
func (c *Cut) key() *string      { return &c.ID }
func (n *MeshNear) key() *string { return &n.ID }
func (w *MeshWall) key() *string { return &w.ID }
func (v *Vary) key() *string     { return &v.ID }
func (g *Goal) key() *string     { return &g.ID }
func (l *Limit) key() *string    { return &l.ID }
func (s *Slice) key() *string    { return &s.ID }
func (l *Line) key() *string     { return &l.ID }
func (l *Level) key() *string    { return &l.ID }
func (a *Arrows) key() *string   { return &a.ID }
func (s *Streams) key() *string  { return &s.ID }
func (p *Probe) key() *string    { return &p.ID }

// find returns the index of the entry that a place calls id, −1 if there is none.
func find[T any, P item[T]](list []T, id string) int {
	for i := range list {
		if *P(&list[i]).key() == id {
			return i
		}
	}
	return -1
}

// enumerate gives numbers to the entries that have none of their own: 1, 2, 3 in order in a list
// that has none at all, numbers above all others elsewhere.
func enumerate[T any, P item[T]](list []T) {
	highest := 0
	seen := map[string]bool{}
	for i := range list {
		id := P(&list[i]).key()
		n, err := strconv.Atoi(*id)
		if err != nil || n < 1 || n > 1e9 || strconv.Itoa(n) != *id || seen[*id] {
			*id = ""
			continue
		}
		seen[*id] = true
		highest = max(highest, n)
	}
	for i := range list {
		if id := P(&list[i]).key(); *id == "" {
			highest++
			*id = strconv.Itoa(highest)
		}
	}
}

// appended returns a list with another entry, and the number that this got.
func appended[T any, P item[T]](list []T, entry T) ([]T, string) {
	return inserted[T, P](list, len(list), entry)
}

// inserted is appended in the middle of a list, which stays as it was.
func inserted[T any, P item[T]](list []T, at int, entry T) ([]T, string) {
	list = slices.Insert(slices.Clone(list), at, entry)
	enumerate[T, P](list)
	return list, *P(&list[at]).key()
}

// without returns a list without the entry that a place calls id; ok is false if there is none.
func without[T any, P item[T]](list []T, id string) (rest []T, ok bool) {
	i := find[T, P](list, id)
	if i < 0 {
		return list, false
	}
	return slices.Delete(slices.Clone(list), i, i+1), true
}

// Enumerate numbers the entries of all lists, as reading a file does. Whoever puts a document together calls it
func (d *Document) Enumerate() {
	enumerate(d.Space.Cuts)
	enumerate(d.Mesh.Near)
	enumerate(d.Mesh.Walls)
	for i := range d.Parts {
		p := &d.Parts[i]
		p.Outline.enumerate()
		if p.Fill != nil {
			enumerate(p.Fill.Caps)
		}
	}
	for i := range d.Trials {
		enumerate(d.Trials[i].Vary)
		enumerate(d.Trials[i].Goals)
		enumerate(d.Trials[i].Limits)
	}
	for i := range d.Plates {
		enumerate(d.Plates[i].Slices)
		enumerate(d.Plates[i].Lines)
		enumerate(d.Plates[i].Levels)
		enumerate(d.Plates[i].Arrows)
		enumerate(d.Plates[i].Streams)
		enumerate(d.Plates[i].Probes)
	}
}

// enumerate numbers the points and holes of an outline.
func (o *Outline) enumerate() {
	enumerate(o.Points)
	enumerate(o.Holes)
	for i := range o.Holes {
		o.Holes[i].enumerate()
	}
}

// side names the edge behind a point.
func (p *Point) side() string {
	if p.Name != "" {
		return p.Name
	}
	return "e" + p.ID
}

// side names all edges of a hole.
func (h *Hole) side() string { return "hole " + h.ID }
