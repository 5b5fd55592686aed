package result

import (
	"bufio"
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
)

// WriteVTU writes the elements and the fields as an unstructured grid in XML with inline
// binary data: the fields in SI units at the points, the number of the part at the
// cells. What elements of order 2 have between corners is kept.
func (f *Fields) WriteVTU(w io.Writer) error {
	b := bufio.NewWriter(w)
	cells := len(f.Part)
	var points, offsets []int32
	var types []uint8
	for _, block := range f.Blocks {
		number, order := block.Element.VTK()
		for c := range block.Count() {
			own := block.Cells[len(order)*c:]
			for _, i := range order {
				points = append(points, own[i])
			}
			offsets, types = append(offsets, int32(len(points))), append(types, number)
		}
	}
	parts := make([]int32, cells)
	for i, p := range f.Part {
		parts[i] = p + 1
	}
	fmt.Fprintf(b, `<?xml version="1.0"?>
<VTKFile type="UnstructuredGrid" version="1.0" byte_order="LittleEndian" header_type="UInt64">
<UnstructuredGrid><Piece NumberOfPoints="%d" NumberOfCells="%d">
`, len(f.Nodes)/3, cells)
	array := func(kind, name string, components int, data any) {
		fmt.Fprintf(b, `<DataArray type="%s" Name="%s" NumberOfComponents="%d" format="binary">`, kind, name, components)
		raw := binary.LittleEndian.AppendUint64(nil, uint64(binary.Size(data)))
		raw, _ = binary.Append(raw, binary.LittleEndian, data) // fixed-size numbers cannot fail
		enc := base64.NewEncoder(base64.StdEncoding, b)
		_, _ = enc.Write(raw) // b keeps the first error until Flush
		_ = enc.Close()
		fmt.Fprintln(b, `</DataArray>`)
	}
	first := slices.IndexFunc(f.Values, func(v Field) bool { return v.Of == "" && f.whole(v.Name) == nil })
	fmt.Fprintf(b, "<PointData Scalars=%q>\n", f.Values[max(first, 0)].Name)
	written := map[string]bool{}
	for _, v := range f.Values {
		if v.Of != "" {
			if all := f.whole(v.Of); !written[v.Of] {
				array("Float64", v.Of, len(all)/max(len(v.Values), 1), all)
			}
			written[v.Of] = true
			continue
		}
		if f.whole(v.Name) == nil { // not the size of a vector
			array("Float64", v.Name, 1, v.Values)
		}
	}
	fmt.Fprintln(b, `</PointData><CellData>`)
	array("Int32", "part", 1, parts)
	fmt.Fprintln(b, `</CellData><Points>`)
	array("Float64", "points", 3, f.Nodes)
	fmt.Fprintln(b, `</Points><Cells>`)
	array("Int32", "connectivity", 1, points)
	array("Int32", "offsets", 1, offsets)
	array("UInt8", "types", 1, types)
	fmt.Fprintln(b, `</Cells></Piece></UnstructuredGrid></VTKFile>`)
	return b.Flush()
}

// TensorComponents are those of a symmetric tensor, in the order in which VTU files have them.
var TensorComponents = []string{"xx", "yy", "zz", "xy", "yz", "zx"}

// whole joins the components of a vector, three for each point, or of a symmetric tensor, six; nil if
// there is none of the name. Those that are missing are zeros.
func (f *Fields) whole(name string) []float64 {
	var out []float64
	width := 0
	for _, v := range f.Values {
		if name == "" || v.Of != name {
			continue
		}
		component := v.Name[len(name)+1:]
		place := slices.Index(TensorComponents, component)
		if place < 0 {
			place = strings.Index("xyz", component)
		}
		if out == nil {
			width = map[bool]int{true: 3, false: 6}[len(component) == 1]
			out = make([]float64, width*len(v.Values))
		}
		for i, x := range v.Values {
			out[width*i+place] = x
		}
	}
	return out
}

// WriteCSV writes a row for each node: x, y, z in m and the fields; where a field is
// not its place is empty.
func (f *Fields) WriteCSV(w io.Writer) error {
	b := bufio.NewWriter(w)
	fmt.Fprint(b, "x (m),y (m),z (m)")
	for _, v := range f.Values {
		fmt.Fprintf(b, ",%s (%s)", v.Name, v.Unit)
	}
	fmt.Fprintln(b)
	var line []byte
	for i := range len(f.Nodes) / 3 {
		line = line[:0]
		for r, x := range f.Nodes[3*i : 3*i+3] {
			if r > 0 {
				line = append(line, ',')
			}
			line = strconv.AppendFloat(line, x, 'g', 10, 64)
		}
		for _, v := range f.Values {
			line = append(line, ',')
			if x := v.Values[i]; !math.IsNaN(x) {
				line = strconv.AppendFloat(line, x, 'g', 10, 64)
			}
		}
		line = append(line, '\n')
		if _, err := b.Write(line); err != nil {
			return err
		}
	}
	return b.Flush()
}

// ExportMoments writes the fields at each moment of a result of several as VTU, one file after
// the other, and a collection in which they follow each other by time, frequency or whatever
// the moments are of. create makes a file.
func ExportMoments(dir string, create func(name string) (io.Writer, error)) error {
	r, err := Load(dir)
	if err != nil {
		return err
	}
	var text bytes.Buffer
	text.WriteString("<?xml version=\"1.0\"?>\n<VTKFile type=\"Collection\" version=\"0.1\" byte_order=\"LittleEndian\">\n<Collection>\n")
	for i, m := range r.Moments {
		f, err := LoadMoment(dir, m)
		if err != nil {
			return err
		}
		name := fmt.Sprintf("moment-%03d.vtu", i)
		fmt.Fprintf(&text, "<DataSet timestep=\"%s\" part=\"0\" file=\"%s\"/>\n", strconv.FormatFloat(m.Time, 'g', -1, 64), name)
		w, err := create(name)
		if err != nil {
			return err
		}
		if err := f.WriteVTU(w); err != nil {
			return err
		}
	}
	text.WriteString("</Collection>\n</VTKFile>\n")
	w, err := create("moments.pvd")
	if err == nil {
		_, err = w.Write(text.Bytes())
	}
	return err
}
