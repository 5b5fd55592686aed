package model

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"strings"

	"saltkettle/core/shape"
	"saltkettle/core/solid"
	"saltkettle/core/trace"
)

// surfaceKind is the kind of an outline that is a surface from a file.
const surfaceKind = "surface"

// surfaceSides are the sides of such a part.
var surfaceSides = []string{"front", "right", "back", "left"}

// surface makes the surface of a part, where it was read, with the box around it.
func (r *resolver) surface(place string, p *Part) (*shape.Surface, shape.Outline, bool) {
	switch {
	case p.Surface == nil || len(p.Surface.Triangles) == 0:
		r.find(Missing, place, "read an STL file, or choose an outline", "the %s is a surface from a file, and has none", p.Name)
		return nil, shape.Outline{}, false
	case r.doc.Space.Flat():
		r.find(Wrong, place, "draw its section", "the %s is a surface, which a %s space cannot have", p.Name, r.doc.Space.Kind)
		return nil, shape.Outline{}, false
	case len(p.Surface.Points)%3 != 0 || len(p.Surface.Triangles)%3 != 0 || len(p.Surface.Triangles) > 3*maxSurface ||
		slices.ContainsFunc(p.Surface.Triangles, func(v int32) bool { return v < 0 || int(v) >= len(p.Surface.Points)/3 }):
		r.find(Wrong, place, "read the file again", "the surface of the %s is not whole", p.Name)
		return nil, shape.Outline{}, false
	}
	scale := 1e-3
	if u, ok := metresOf[r.doc.Space.Unit]; ok {
		scale = u
	}
	s := &shape.Surface{}
	for i := 0; i < len(p.Surface.Points); i += 3 {
		s.Points = append(s.Points, [3]float64{p.Surface.Points[i] * scale, p.Surface.Points[i+1] * scale, p.Surface.Points[i+2] * scale})
	}
	for i := 0; i < len(p.Surface.Triangles); i += 3 {
		s.Triangles = append(s.Triangles, [3]int32(p.Surface.Triangles[i:i+3]))
	}
	if !(s.Volume() > 0) {
		r.find(Wrong, place, "read the file again", "the surface of the %s encloses nothing", p.Name)
		return nil, shape.Outline{}, false
	}
	return s, boxOf(s), true
}

// metresOf are the units of drawings.
var metresOf = map[string]float64{"mm": 1e-3, "cm": 1e-2, "m": 1, "µm": 1e-6, "in": 0.0254}

// unitOutline is a line along x from the origin, which shows where a place puts things.
var unitOutline = shape.Outline{Loops: []shape.Loop{{{From: shape.Point{}, To: shape.Point{X: 1}}}}}

// boxOf is the outline of the box around a surface.
func boxOf(s *shape.Surface) shape.Outline {
	lo, hi := s.Box()
	p := [4]shape.Point{{X: lo[0], Y: lo[1]}, {X: hi[0], Y: lo[1]}, {X: hi[0], Y: hi[1]}, {X: lo[0], Y: hi[1]}}
	loop := make(shape.Loop, 4)
	for i := range loop {
		loop[i] = shape.Edge{Name: surfaceSides[i], From: p[i], To: p[(i+1)%4]}
	}
	return shape.Outline{Loops: []shape.Loop{loop}, Width: min(hi[0]-lo[0], hi[1]-lo[1])}
}

// placed moves a surface to where a place has put the unit line, with its least height
// at z, and returns the box around it.
func placed(s *shape.Surface, unit shape.Outline, mirror bool, z float64) (*shape.Surface, shape.Outline) {
	e := unit.Loops[0][0]
	cos, sin := e.To.X-e.From.X, e.To.Y-e.From.Y
	lo, _ := s.Box()
	out := s.Moved(func(p [3]float64) [3]float64 {
		if mirror {
			p[0] = -p[0]
		}
		return [3]float64{e.From.X + p[0]*cos - p[1]*sin, e.From.Y + p[0]*sin + p[1]*cos, p[2] - lo[2] + z}
	})
	if mirror {
		out.Triangles = make([][3]int32, len(s.Triangles))
		for i, t := range s.Triangles {
			out.Triangles[i] = [3]int32{t[0], t[2], t[1]}
		}
	}
	return out, boxOf(out)
}

// maxSurface bounds the triangles that a model carries for one part.
const maxSurface = 60_000

// AddSolids adds the bodies of a file as parts: stacks of extrusions as outlines with
// spans, other bodies as surfaces. It returns their ids and what became of them.
func (d *Document) AddSolids(name string, in *solid.Import) (ids, report []string, err error) {
	report = slices.Clone(in.Report)
	for k := range in.Bodies {
		b := &in.Bodies[k]
		title := strings.TrimSpace(b.Name)
		if title == "" {
			title = name
		}
		if layers, ok := b.Stack(); ok && len(layers) <= maxTraced {
			added, err := d.addLayers(title, layers)
			if err == nil {
				ids = append(ids, added...)
				if len(layers) > 1 {
					report = append(report, fmt.Sprintf("%s is a stack of %d outlines", title, len(layers)))
				}
				if slices.ContainsFunc(layers, solid.Layer.Round) {
					report = append(report, "short edges of "+title+" that lie on circles became arcs")
				}
				continue
			}
			report = append(report, err.Error())
		}
		if n := len(b.Triangles); n > maxSurface {
			return nil, nil, fmt.Errorf("%s has %d triangles; a model carries %d for one part: make it coarser where it was made", title, n, maxSurface)
		}
		p := Part{ID: d.freeID("p"), Name: title, Role: Solved, Outline: Outline{Kind: surfaceKind}, Surface: &Surface{}}
		scale := metresOf["mm"]
		if u, ok := metresOf[d.Space.Unit]; ok {
			scale = u
		}
		for _, q := range b.Points {
			for _, x := range q {
				p.Surface.Points = append(p.Surface.Points, math.Round(x/scale*1e6)/1e6)
			}
		}
		for _, t := range b.Triangles {
			p.Surface.Triangles = append(p.Surface.Triangles, t[:]...)
		}
		d.Parts = append(d.Parts, p)
		ids = append(ids, p.ID)
		report = append(report, title+" is no stack of extrusions: it is meshed in bricks, and with it the whole model")
	}
	return ids, report, nil
}

// addLayers adds a part for each layer of a stack.
func (d *Document) addLayers(name string, layers []solid.Layer) ([]string, error) {
	var ids []string
	for _, l := range layers {
		o := l.Outline
		o.Name = name
		added, err := d.AddTraced(name, &trace.Drawing{Outlines: []trace.Outline{o}})
		if err != nil {
			return nil, err
		}
		p := &d.Parts[d.Part(added[0])]
		if len(layers) > 1 {
			p.Name = fmt.Sprintf("%s %d", name, len(ids)+1)
		}
		p.Span = Span{From: d.written(l.Z0), To: d.written(l.Z1)}
		ids = append(ids, added...)
	}
	return ids, nil
}

// Data is a surface in bytes: the number of its coordinates, these, and the points of its
// triangles, little endian.
func (s *Surface) Data() []byte {
	b := binary.LittleEndian.AppendUint64(nil, uint64(len(s.Points)))
	for _, x := range s.Points {
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(x))
	}
	for _, v := range s.Triangles {
		b = binary.LittleEndian.AppendUint32(b, uint32(v))
	}
	return b
}

// SurfaceOf is the surface that content names, from its bytes.
func SurfaceOf(content string, data []byte) (*Surface, error) {
	damaged := fmt.Errorf("the surface %s is damaged where it is stored", content)
	if sum := sha256.Sum256(data); hex.EncodeToString(sum[:]) != content || len(data) < 8 {
		return nil, damaged
	}
	n := binary.LittleEndian.Uint64(data)
	data = data[8:]
	if n > uint64(len(data)/8) || (len(data)-8*int(n))%4 != 0 {
		return nil, damaged
	}
	s := &Surface{Content: content, Points: make([]float64, n), Triangles: make([]int32, (len(data)-8*int(n))/4)}
	for i := range s.Points {
		s.Points[i] = math.Float64frombits(binary.LittleEndian.Uint64(data[8*i:]))
	}
	data = data[8*n:]
	for i := range s.Triangles {
		s.Triangles[i] = int32(binary.LittleEndian.Uint32(data[4*i:]))
	}
	return s, nil
}

// named returns the surface with its content, a hash of its data.
func (s *Surface) named() *Surface {
	if s.Content != "" {
		return s
	}
	sum := sha256.Sum256(s.Data())
	return &Surface{Content: hex.EncodeToString(sum[:]), Points: s.Points, Triangles: s.Triangles}
}

// WithoutSurfaces returns the document with its surfaces apart from it, by their content.
func (d *Document) WithoutSurfaces() (*Document, map[string]*Surface) {
	surfaces := map[string]*Surface{}
	bare := d.mapSurfaces(func(s *Surface) *Surface {
		s = s.named()
		surfaces[s.Content] = s
		return &Surface{Content: s.Content}
	})
	return bare, surfaces
}

// AttachSurfaces is the reverse of WithoutSurfaces.
func (d *Document) AttachSurfaces(of func(content string) (*Surface, error)) error {
	for i := range d.Parts {
		s := d.Parts[i].Surface
		if s == nil || s.Content == "" || len(s.Points) > 0 {
			continue
		}
		full, err := of(s.Content)
		if err != nil {
			return fmt.Errorf("the %s: %w", d.Parts[i].Name, err)
		}
		d.Parts[i].Surface = full
	}
	return nil
}

// mapSurfaces returns the document with other surfaces.
func (d *Document) mapSurfaces(f func(*Surface) *Surface) *Document {
	if !slices.ContainsFunc(d.Parts, func(p Part) bool { return p.Surface != nil }) {
		return d
	}
	out := *d
	out.Parts = slices.Clone(d.Parts)
	for i := range out.Parts {
		if s := out.Parts[i].Surface; s != nil {
			out.Parts[i].Surface = f(s)
		}
	}
	return &out
}
