package drawing

import (
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"

	"saltkettle/core/mesh"
	"saltkettle/core/model"
	"saltkettle/core/quantity"
)

// MeshLook is a mesh ready for drawing: the sides of its cells that are seen, each with
// the least angle of its cell.
//
// Its file is a 32-bit length, a JSON header of that length (a multiple of four bytes),
// and then, as 32-bit little-endian numbers: positions (float, three per vertex, m),
// triangles (three vertices each), the least angle of each triangle's cell (float,
// degrees), the part of each triangle (number from 0) and edges (two vertices each).
type MeshLook struct {
	Cells    int    `json:"cells"`
	Nodes    int    `json:"nodes"`
	Unknowns int    `json:"unknowns"`
	Words    string `json:"words"` // what a run is likely to take
	// Angles counts cells by their least angle in steps of 5° up to 60°.
	Angles [12]int `json:"angles"`
	Worst  []Place `json:"worst"`
	// Notes say what looks doubtful: walls that cells do not resolve.
	Notes  []Note `json:"notes"`
	Counts struct {
		Vertices  int `json:"vertices"`
		Triangles int `json:"triangles"`
		Edges     int `json:"edges"`
	} `json:"counts"`
	positions        []float32
	triangles, edges []uint32
	angles           []float32
	parts            []uint32
}

// Place is a cell with its least angle.
type Place struct {
	At    [3]float64 `json:"at"` // m
	Angle float64    `json:"angle"`
	Part  string     `json:"part"` // id
	Words string     `json:"words"`
}

// Note is a doubt about how a part is meshed.
type Note struct {
	Part  string `json:"part"` // id
	Words string `json:"words"`
	// At is a place that shows it, m; nil if there is none.
	At *[3]float64 `json:"at,omitempty"`
}

// Plane cuts a mesh open: of cells whose middle lies beyond At along Axis, toward the
// corner from which one looks, nothing is seen. Axis −1 cuts nothing.
type Plane struct {
	Axis int
	At   float64
}

// keeps says whether a cell with its middle at x is seen.
func (p Plane) keeps(x [3]float64) bool {
	switch p.Axis {
	case 0, 2:
		return x[p.Axis] <= p.At
	case 1:
		return x[1] >= p.At
	}
	return true
}

// worstShown is how many of the worst cells are named.
const worstShown = 5

// NewMeshLook collects what is seen of a mesh; owners are its bodies among those of the
// model.
func NewMeshLook(r *model.Resolved, cat *model.Catalog, m *mesh.Mesh, owners []int, cut Plane) *MeshLook {
	l := &MeshLook{Cells: m.CellCount(), Nodes: m.NodeCount(), Notes: []Note{}}
	perNode := 1.0
	if r.Order == 2 {
		perNode = 7.5 // nodes of wedges of order 2 for each corner
	}
	l.Unknowns = int(float64(m.NodeCount()) * perNode * float64(max(r.Unknowns(cat), 1)))
	l.Words = likely(l.Unknowns, r.Order)
	if r.Rounds > 0 {
		l.Words += " before it makes cells finer"
	}
	part := func(body int32) int { return r.Bodies[owners[body]].Part }
	angles := m.Angles()
	for _, a := range angles {
		l.Angles[min(int(a/5), 11)]++
	}
	for _, c := range m.Worst(angles, worstShown) {
		at := m.Centre(c)
		p := &r.Parts[part(m.Body[c])]
		l.Worst = append(l.Worst, Place{at, float64(angles[c]), p.ID, fmt.Sprintf("%s° in the %s at %s", quantity.Figures(float64(angles[c]), 2), p.Name, l.where(r, at))})
	}
	l.thin(r, m, owners, part)
	vertex := make([]int32, m.NodeCount())
	for i := range vertex {
		vertex[i] = -1
	}
	point := func(n int32) uint32 {
		if vertex[n] < 0 {
			vertex[n] = int32(len(l.positions) / 3)
			l.positions = append(l.positions, float32(m.Nodes[3*n]), float32(m.Nodes[3*n+1]), float32(m.Nodes[3*n+2]))
		}
		return uint32(vertex[n])
	}
	if m.Lines != nil {
		for i := range m.Lines.Pieces {
			if cell := m.Lines.First + int32(i); cut.keeps(m.Centre(cell)) {
				l.edges = append(l.edges, point(m.Cell(cell)[0]), point(m.Cell(cell)[1]))
			}
		}
	}
	seen := map[[2]uint32]bool{}
	for _, f := range m.Exposed(func(c int32) bool { return cut.keeps(m.Centre(c)) }) {
		var v []uint32
		for _, n := range f.Corners() {
			v = append(v, point(n))
		}
		for k := 2; k < len(v); k++ {
			l.triangles = append(l.triangles, v[0], v[k-1], v[k])
			l.angles, l.parts = append(l.angles, angles[f.Cell]), append(l.parts, uint32(part(f.Body)))
		}
		for i := range v {
			a, b := v[i], v[(i+1)%len(v)]
			if key := [2]uint32{min(a, b), max(a, b)}; !seen[key] {
				seen[key] = true
				l.edges = append(l.edges, key[0], key[1])
			}
		}
	}
	l.Counts.Vertices, l.Counts.Triangles, l.Counts.Edges = len(l.positions)/3, len(l.triangles)/3, len(l.edges)/2
	return l
}

// where is a place in words.
func (l *MeshLook) where(r *model.Resolved, at [3]float64) string {
	unit, scale := Scale(r.Document.Space.Unit)
	words := quantity.Figures(at[0]*scale, 3) + ", " + quantity.Figures(at[1]*scale, 3)
	if !r.Document.Space.Flat() {
		words += ", " + quantity.Figures(at[2]*scale, 3)
	}
	return words + " " + unit
}

// thin notes the solid parts that have but one cell across, or of which cells miss a
// part because they are thinner than these.
func (l *MeshLook) thin(r *model.Resolved, m *mesh.Mesh, owners []int, part func(body int32) int) {
	layers := map[int]int{}
	for i := range m.Levels[1:] {
		mid := (m.Levels[i] + m.Levels[i+1]) / 2
		for p := range r.Parts {
			if rp := &r.Parts[p]; rp.Outline != nil && rp.Z0 < mid && mid < rp.Z1 {
				layers[p]++
			}
		}
	}
	present := map[int]bool{}
	for _, b := range m.Body {
		present[part(b)] = true
	}
	for p := range r.Parts {
		rp := &r.Parts[p]
		if rp.Part == nil || rp.Role != model.Solved || rp.Outline == nil || rp.Fill != nil {
			continue
		}
		for i, owner := range owners {
			b := &r.Bodies[owner]
			if b.Part != p || b.Solid == nil || b.Line != nil {
				continue
			}
			if missed := m.Missed(int32(i), b.Solid.Volume()); math.Abs(missed) > missedTooMuch {
				note := Note{Part: rp.ID, Words: MissedWords(rp.Name, missed)}
				if leak, found := m.Leak(b.Solid); found && missed > 0 {
					note.At = &leak.At
					note.Words += " Its wall, " + quantity.Show(leak.Thickness, "m", false, 2) + " thick there, is missed at " + l.where(r, leak.At) + "."
				}
				l.Notes = append(l.Notes, note)
			}
		}
		switch {
		case !present[p]:
			l.Notes = append(l.Notes, Note{Part: rp.ID, Words: "Nothing is left of the " + rp.Name + ": other parts or cuts take it all."})
		case layers[p] == 1 && !r.Document.Space.Flat():
			l.Notes = append(l.Notes, Note{Part: rp.ID, Words: "The " + rp.Name + " is one cell thick."})
		}
	}
}

// missedTooMuch is the part of the volume of a body that bricks may miss or add.
const missedTooMuch = 0.05

// MissedWords says that bricks do not resolve a part.
func MissedWords(name string, missed float64) string {
	if missed > 0 {
		return fmt.Sprintf("The %s is thinner than its cells in places: %s %% of its volume is missing, and what it holds may leak. Make its cells smaller.", name, quantity.Figures(100*missed, 2))
	}
	return fmt.Sprintf("The %s is smaller than its cells in places: it has %s %% too much volume. Make its cells smaller.", name, quantity.Figures(-100*missed, 2))
}

// likely says what a run with so many unknowns takes: seconds and memory of the
// multigrid iterations, as measured on the demo models.
func likely(unknowns, order int) string {
	each, bytes := 4e-5, 1600.0
	if order == 2 {
		each, bytes = 6e-5, 2800
	}
	return fmt.Sprintf("a steady run may take %s and %s MB", quantity.Show(max(each*float64(unknowns), 0.1), "s", false, 1), quantity.Figures(math.Max(bytes*float64(unknowns)/1e6, 10), 2))
}

// Bytes returns the file of the look.
func (l *MeshLook) Bytes() []byte {
	header, err := json.Marshal(l)
	if err != nil {
		panic("drawing: the header of a mesh cannot be written: " + err.Error())
	}
	for len(header)%4 != 0 {
		header = append(header, ' ')
	}
	buf := binary.LittleEndian.AppendUint32(nil, uint32(len(header)))
	buf = append(buf, header...)
	floats := func(list []float32) {
		for _, x := range list {
			buf = binary.LittleEndian.AppendUint32(buf, math.Float32bits(x))
		}
	}
	words := func(list []uint32) {
		for _, x := range list {
			buf = binary.LittleEndian.AppendUint32(buf, x)
		}
	}
	floats(l.positions)
	words(l.triangles)
	floats(l.angles)
	words(l.parts)
	words(l.edges)
	return buf
}
