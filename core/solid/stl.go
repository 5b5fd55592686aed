package solid

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// ReadSTL reads a text or binary STL file whose lengths are unit metres. Each solid of a
// text file, and each closed surface of a solid, becomes a body.
func ReadSTL(name string, data []byte, unit float64) (*Import, error) {
	if isBinary(data) {
		corners, err := readBinary(data)
		if err != nil {
			return nil, err
		}
		return build(name, scaled(corners, unit))
	}
	solids, err := readText(name, data)
	if err != nil {
		return nil, err
	}
	out := &Import{}
	for _, s := range solids {
		part, err := build(s.name, scaled(s.corners, unit))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", s.name, err)
		}
		out.Bodies = append(out.Bodies, part.Bodies...)
		for _, line := range part.Report {
			out.say("%s: %s", s.name, line)
		}
	}
	return out, nil
}

// isBinary says whether the length of a file is that of a binary one: 80 bytes, a count,
// and 50 bytes for each triangle.
func isBinary(data []byte) bool {
	if len(data) < 84 {
		return false
	}
	n := int64(binary.LittleEndian.Uint32(data[80:]))
	return int64(len(data)) == 84+50*n || !bytes.HasPrefix(bytes.TrimLeft(data, " \t\r\n"), []byte("solid"))
}

func readBinary(data []byte) ([][3]float64, error) {
	n := int(binary.LittleEndian.Uint32(data[80:]))
	if n > maxTriangles {
		return nil, fmt.Errorf("it has %d triangles; %d are read at most", n, maxTriangles)
	}
	if len(data) < 84+50*n {
		return nil, fmt.Errorf("the file ends after %d of %d triangles", (len(data)-84)/50, n)
	}
	corners := make([][3]float64, 0, 3*n)
	for i := range n {
		at := data[84+50*i+12:]
		for k := range 3 {
			var p [3]float64
			for d := range p {
				p[d] = float64(math.Float32frombits(binary.LittleEndian.Uint32(at[12*k+4*d:])))
			}
			corners = append(corners, p)
		}
	}
	return corners, nil
}

// textSolid is a solid of a text file.
type textSolid struct {
	name    string
	corners [][3]float64
}

func readText(name string, data []byte) ([]textSolid, error) {
	var list []textSolid
	in := bufio.NewScanner(bytes.NewReader(data))
	in.Buffer(make([]byte, 0, 1<<16), 1<<20)
	line := 0
	for in.Scan() {
		line++
		f := strings.Fields(in.Text())
		if len(f) == 0 {
			continue
		}
		switch strings.ToLower(f[0]) {
		case "solid":
			own := strings.ReplaceAll(strings.Join(f[1:], " "), "_", " ")
			if own == "" {
				own = name
			}
			list = append(list, textSolid{name: own})
		case "vertex":
			if len(f) != 4 || len(list) == 0 {
				return nil, fmt.Errorf("line %d is not a corner of a solid", line)
			}
			var p [3]float64
			for k := range p {
				v, err := strconv.ParseFloat(f[k+1], 64)
				if err != nil {
					return nil, fmt.Errorf("line %d: %q is no number", line, f[k+1])
				}
				p[k] = v
			}
			s := &list[len(list)-1]
			if s.corners = append(s.corners, p); len(s.corners) > 3*maxTriangles {
				return nil, fmt.Errorf("it has more than %d triangles", maxTriangles)
			}
		}
	}
	if err := in.Err(); err != nil {
		return nil, fmt.Errorf("line %d cannot be read: %w", line+1, err)
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("it is not an STL file: no solid begins in it")
	}
	for _, s := range list {
		if len(s.corners)%3 != 0 {
			return nil, fmt.Errorf("%s: a triangle has less than three corners", s.name)
		}
	}
	return list, nil
}

func scaled(corners [][3]float64, unit float64) [][3]float64 {
	for i := range corners {
		for k := range corners[i] {
			corners[i][k] *= unit
		}
	}
	return corners
}
