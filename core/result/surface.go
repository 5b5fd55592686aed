package result

import (
	"bufio"
	"cmp"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"saltkettle/core/fem"
)

// Surface is the surface of all bodies with values at each vertex, ready for
// drawing. Vertices of different bodies are not shared.
//
// Its file is a 32-bit length, a JSON header of that length (a multiple of four
// bytes), and then, as 32-bit little-endian numbers: positions (float, three per
// vertex, m), for each moment the values of each field (float, one per vertex, not a
// number where the field is not), triangles (three vertices each),
// outlines (two vertices per line) and cell edges (two vertices per line).
type Surface struct {
	Groups []Group `json:"groups"`
	// Fields are those with values, in their order.
	Fields []FieldName `json:"fields"`
	// Moments are the times, s, whose values follow each other, the last one last; empty
	// for a steady run. By mode they are frequencies, Hz, or rates, 1/s.
	Moments []float64 `json:"moments,omitempty"`
	// Axis is what values follow each other along, "" for time, and Shown which of them is that
	// of the readings: of a run in time the last one.
	Axis   string `json:"axis,omitempty"`
	Shown  int    `json:"shown,omitempty"`
	Counts struct {
		Vertices  int `json:"vertices"`
		Triangles int `json:"triangles"`
		Outlines  int `json:"outlines"`
		Edges     int `json:"edges"`
	} `json:"counts"`
	positions                  []float32
	values                     sequence
	triangles, outlines, edges []uint32
	point                      []int32 // of each vertex
}

// ByMode is the axis of shapes of modes.
const ByMode = "mode"

// Group is the facets of one body that are seen together.
type Group struct {
	Part int `json:"part"`
	Copy int `json:"copy"`
	// Inner marks facets that lie against another body: they are seen only when
	// that one is hidden.
	Inner bool `json:"inner"`
	// First triangle and number of triangles, and the same for lines.
	First    int    `json:"first"`
	Count    int    `json:"count"`
	Outlines [2]int `json:"outlines"` // first and number
	Edges    [2]int `json:"edges"`
	// Sides are what its triangles lie on, in their order; a result from before they were kept has
	// none.
	Sides []GroupSide `json:"sides,omitempty"`
}

// GroupSide is the triangles of a group on one side of its body.
type GroupSide struct {
	Name  string `json:"name"`
	First int    `json:"first"`
	Count int    `json:"count"`
}

// Face is a side of a cell that is seen, [fem.Itself] being the facet of cells of the plane.
type Face struct {
	fem.Side
	// Name is the number of the side of the body in the list of names; it changes at outlines.
	Name int32
	// Inner faces lie against another body.
	Inner bool
}

// NewSurface collects faces of a grid, whose sides have names. owner gives the part and the copy of each
// body. Faces of elements of order 2 are made of flat pieces between all their points.
//
// Bars are faces that are themselves, too: they are drawn as tubes of a radius, m, those of a body in their order.
func NewSurface(g *fem.Grid, points *fem.Points, faces []Face, names []string, owner [][2]int, radius float64) *Surface {
	s := &Surface{}
	sorted := make([][2][]Face, len(owner)) // outer and inner ones of each body
	for _, f := range faces {
		kind := 0
		if f.Inner {
			kind = 1
		}
		body := g.Blocks[f.Block].Part[f.Cell]
		sorted[body][kind] = append(sorted[body][kind], f)
	}
	vertex := make([]int32, len(points.Node)) // by point, from 1
	skins := map[[2]int]*fem.Skin{}
	seen := func(f *Face) (*fem.Skin, func(local int) uint32) {
		e := g.Blocks[f.Block].Element
		skin := skins[[2]int{f.Block, f.Facet}]
		if skin == nil {
			skin = e.Skin(f.Facet)
			skins[[2]int{f.Block, f.Facet}] = skin
		}
		own := points.Cells[f.Block][e.Count()*f.Cell:]
		return skin, func(local int) uint32 {
			p := own[local]
			if vertex[p] == 0 {
				s.point = append(s.point, p)
				vertex[p] = int32(len(s.point))
				for _, x := range points.At[3*p : 3*p+3] {
					s.positions = append(s.positions, float32(x))
				}
			}
			return uint32(vertex[p] - 1)
		}
	}
	for b, o := range owner {
		for kind, list := range sorted[b] {
			if len(list) > 0 {
				slices.SortStableFunc(list, func(f, g Face) int { return cmp.Compare(f.Name, g.Name) })
				if g.Blocks[list[0].Block].Element.Dimension == 1 {
					s.tube(Group{Part: o[0], Copy: o[1]}, list, g, points, radius)
					continue
				}
				s.group(Group{Part: o[0], Copy: o[1], Inner: kind == 1}, list, names, seen)
			}
		}
	}
	s.Counts.Vertices, s.Counts.Triangles = len(s.positions)/3, len(s.triangles)/3
	s.Counts.Outlines, s.Counts.Edges = len(s.outlines)/2, len(s.edges)/2
	return s
}

// group adds the triangles and lines of some faces. An outline is an edge at
// which the side changes or the faces end.
func (s *Surface) group(g Group, faces []Face, names []string, seen func(*Face) (*fem.Skin, func(local int) uint32)) {
	g.First = len(s.triangles) / 3
	g.Outlines[0], g.Edges[0] = len(s.outlines)/2, len(s.edges)/2
	type border struct {
		side  int32
		count int
		sharp bool
	}
	borders := map[[2]uint32]border{} // by ends
	var lines [][]uint32
	ends := func(line []uint32) [2]uint32 {
		a, b := line[0], line[len(line)-1]
		return [2]uint32{min(a, b), max(a, b)}
	}
	add := func(list []uint32, line []uint32) []uint32 {
		for i := 1; i < len(line); i++ {
			list = append(list, line[i-1], line[i])
		}
		return list
	}
	for i := range faces {
		f := &faces[i]
		skin, point := seen(f)
		if i == 0 || f.Name != faces[i-1].Name {
			g.Sides = append(g.Sides, GroupSide{Name: names[f.Name], First: len(s.triangles) / 3})
		}
		g.Sides[len(g.Sides)-1].Count += len(skin.Triangles)
		for _, t := range skin.Triangles {
			s.triangles = append(s.triangles, point(t[0]), point(t[1]), point(t[2]))
		}
		for _, edge := range skin.Edges {
			line := make([]uint32, len(edge))
			for k, local := range edge {
				line[k] = point(local)
			}
			e, known := borders[ends(line)]
			if !known {
				lines = append(lines, line)
				e.side = f.Name
			}
			e.count++
			e.sharp = e.sharp || e.side != f.Name
			borders[ends(line)] = e
		}
	}
	for _, line := range lines {
		s.edges = add(s.edges, line)
		if e := borders[ends(line)]; e.sharp || e.count == 1 {
			s.outlines = add(s.outlines, line)
		}
	}
	g.Count = len(s.triangles)/3 - g.First
	g.Outlines[1], g.Edges[1] = len(s.outlines)/2-g.Outlines[0], len(s.edges)/2-g.Edges[0]
	s.Groups = append(s.Groups, g)
}

// Show gives the surface the values of fields at the points.
func (s *Surface) Show(fields []Field) error {
	s.Fields = s.Fields[:0]
	values := make([]float32, 0, len(fields)*len(s.point))
	for _, f := range fields {
		s.Fields = append(s.Fields, f.FieldName)
		for _, i := range s.point {
			values = append(values, float32(f.Values[i]))
		}
	}
	return s.values.add(values)
}

// ShowAt gives it those of a time, s, which come after those that it has.
func (s *Surface) ShowAt(time float64, fields []Field) error {
	s.Moments = append(s.Moments, time)
	return s.Show(fields)
}

// Thin leaves every second moment out.
func (s *Surface) Thin() {
	n := (len(s.Moments) + 1) / 2
	for i := range n {
		s.Moments[i] = s.Moments[2*i]
	}
	s.Moments = s.Moments[:n]
	s.values.thin()
}

// KeepIn keeps values in a file of a folder as they come, not in memory, until the surface
// itself is saved.
func (s *Surface) KeepIn(dir string) error { return s.values.keepIn(dir) }

// Close ends the use of that file.
func (s *Surface) Close() error { return s.values.close() }

// MomentsSoFar says which moments the file of a folder has.
type MomentsSoFar struct {
	Times  []float64
	Fields []FieldName
	Slots  []int
	Size   int64
	Next   int
}

// SoFar returns what [Surface.Resume] takes up, when the file outlives a loss of power.
func (s *Surface) SoFar() (MomentsSoFar, error) {
	v := &s.values
	return MomentsSoFar{append([]float64(nil), s.Moments...), s.Fields, append([]int(nil), v.slots...), v.size, v.next}, v.sync()
}

// Resume takes up moments that the file of the folder of [Surface.KeepIn] has.
func (s *Surface) Resume(m MomentsSoFar) error {
	info, err := s.values.file.Stat()
	if err != nil {
		return err
	}
	if size := int64(4 * len(m.Fields) * len(s.point)); m.Size != size || info.Size() < int64(m.Next)*size || len(m.Slots) != len(m.Times) {
		return fmt.Errorf("%s has %d bytes and not the %d moments that were kept in it", momentsFile, info.Size(), m.Next)
	}
	s.Moments, s.Fields = m.Times, m.Fields
	s.values.slots, s.values.size, s.values.next = m.Slots, m.Size, m.Next
	return nil
}

// WriteTo writes the file of the surface.
func (s *Surface) WriteTo(w io.Writer) (int64, error) {
	header, err := json.Marshal(s)
	if err != nil {
		return 0, err
	}
	for len(header)%4 != 0 {
		header = append(header, ' ')
	}
	counted := &counter{w: w}
	out := bufio.NewWriterSize(counted, 1<<16)
	// What goes wrong in writing is said at the end.
	_ = binary.Write(out, binary.LittleEndian, uint32(len(header)))
	_, _ = out.Write(header)
	_ = binary.Write(out, binary.LittleEndian, s.positions)
	if err := s.values.writeTo(out); err != nil {
		return counted.n, err
	}
	for _, list := range [][]uint32{s.triangles, s.outlines, s.edges} {
		_ = binary.Write(out, binary.LittleEndian, list)
	}
	return counted.n, out.Flush()
}

// glimpseFile is what a run that is under way shows in its folder, see [Surface.Glimpse].
const glimpseFile = "glimpse.bin"

// Glimpse writes the surface with values of fields into a folder, in place of what was there, for whoever
// waits for the run.
func (s *Surface) Glimpse(dir string, fields []Field) error {
	shown := *s
	shown.Fields, shown.Moments, shown.Axis, shown.values = nil, nil, "", sequence{}
	if err := shown.Show(fields); err != nil {
		return err
	}
	temp, err := os.CreateTemp(dir, glimpseFile+".*")
	if err != nil {
		return err
	}
	_, err = shown.WriteTo(temp)
	if err = errors.Join(err, temp.Close()); err == nil {
		err = os.Rename(temp.Name(), filepath.Join(dir, glimpseFile))
	}
	if err != nil {
		return errors.Join(err, os.Remove(temp.Name()))
	}
	return nil
}

// RemoveGlimpse takes away what a run showed while it was under way.
func RemoveGlimpse(dir string) error {
	if err := os.Remove(filepath.Join(dir, glimpseFile)); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// counter counts what is written.
type counter struct {
	w io.Writer
	n int64
}

func (c *counter) Write(p []byte) (int, error) {
	n, err := c.w.Write(p)
	c.n += int64(n)
	return n, err
}
