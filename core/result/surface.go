package result

import (
	"bufio"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"io"

	"saltkettle/core/mesh"
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
}

// half is a facet seen from one of its bodies.
type half struct {
	corners []int32
	side    int32
	flip    bool
}

// NewSurface collects the facets of a mesh. owner gives the part and the copy of
// each body.
func NewSurface(m *mesh.Mesh, points *Points, owner [][2]int) *Surface {
	s := &Surface{}
	outer, inner := make([][]half, len(owner)), make([][]half, len(owner))
	for i := range m.Faces {
		f := &m.Faces[i]
		outer[f.Body] = append(outer[f.Body], half{f.Corners(), f.Side, false})
	}
	for i := range m.Facets {
		f := &m.Facets[i]
		if f.Other < 0 {
			outer[f.Body] = append(outer[f.Body], half{f.Corners(), f.Side, false})
			continue
		}
		inner[f.Body] = append(inner[f.Body], half{f.Corners(), f.Side, false})
		inner[f.OtherBody] = append(inner[f.OtherBody], half{m.CornersFrom(int32(i), true), f.OtherSide, true})
	}
	vertex := make([]int32, m.NodeCount())
	for i := range vertex {
		vertex[i] = -1
	}
	at := make([]int32, m.NodeCount()) // the point of a node in the body at hand
	for b, o := range owner {
		for i := points.First[b]; i < points.First[b+1]; i++ {
			at[points.Node[i]] = i
		}
		var used []int32
		point := func(n int32) uint32 {
			if vertex[n] < 0 {
				vertex[n] = int32(len(s.positions) / 3)
				used = append(used, n)
				s.positions = append(s.positions, float32(m.Nodes[3*n]), float32(m.Nodes[3*n+1]), float32(m.Nodes[3*n+2]))
				s.point = append(s.point, at[n])
			}
			return uint32(vertex[n])
		}
		for k, halves := range [2][]half{outer[b], inner[b]} {
			if len(halves) > 0 {
				s.group(Group{Part: o[0], Copy: o[1], Inner: k == 1}, halves, point)
			}
		}
		for _, n := range used {
			vertex[n] = -1
		}
	}
	s.Counts.Vertices, s.Counts.Triangles = len(s.positions)/3, len(s.triangles)/3
	s.Counts.Outlines, s.Counts.Edges = len(s.outlines)/2, len(s.edges)/2
	return s
}

// group adds the triangles and lines of some facets. An outline is an edge at
// which the side changes or the facets end.
func (s *Surface) group(g Group, halves []half, point func(int32) uint32) {
	g.First = len(s.triangles) / 3
	g.Outlines[0], g.Edges[0] = len(s.outlines)/2, len(s.edges)/2
	type border struct {
		side  int32
		count int
		sharp bool
	}
	borders := map[[2]uint32]border{}
	for _, h := range halves {
		n := len(h.corners)
		v := make([]uint32, n)
		for i, c := range h.corners {
			if h.flip {
				v[n-1-i] = point(c)
			} else {
				v[i] = point(c)
			}
		}
		s.triangles = append(s.triangles, v[0], v[1], v[2])
		if n == 4 {
			s.triangles = append(s.triangles, v[0], v[2], v[3])
		}
		for i := range v {
			a, b := v[i], v[(i+1)%n]
			key := [2]uint32{min(a, b), max(a, b)}
			e, seen := borders[key]
			if !seen {
				s.edges = append(s.edges, key[0], key[1])
				e.side = h.side
			}
			e.count++
			e.sharp = e.sharp || e.side != h.side
			borders[key] = e
		}
	}
	for i := 2 * g.Edges[0]; i < len(s.edges); i += 2 {
		key := [2]uint32{s.edges[i], s.edges[i+1]}
		if e := borders[key]; e.sharp || e.count == 1 {
			s.outlines = append(s.outlines, key[0], key[1])
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
