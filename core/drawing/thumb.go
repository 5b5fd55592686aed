package drawing

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
)

// The corner view of small drawings: x runs to the lower right, y to the upper
// right, z up (an isometric projection).
var (
	viewX    = [2]float64{math.Cos(math.Pi / 6), math.Sin(math.Pi / 6)}
	viewY    = [2]float64{math.Cos(math.Pi / 6), -math.Sin(math.Pi / 6)}
	towardUs = [2]float64{1, -1} // of the plan directions, those that we see
)

// projected is a face ready to be painted.
type projected struct {
	points [][2]float64
	holes  [][][2]float64
	fill   string
	faint  bool
	depth  float64 // greater is nearer
}

// Thumbnail draws the scene from a corner as an SVG picture of the given size in
// pixels. Faces are painted from the back to the front; parts that are shown
// only are left out, as they would hide the rest.
func (s *Scene) Thumbnail(width, height int) string {
	var faces []projected
	type piece struct {
		part *Part
		body *Body
		z, d float64
	}
	var pieces []piece
	solid := slices.ContainsFunc(s.Parts, func(p Part) bool { return !p.Shown && !p.Clear })
	for i := range s.Parts {
		for k := range s.Parts[i].Copies {
			b := s.Parts[i].Copies[k].cut(s.Cuts)
			if b == nil || s.Parts[i].Shown || s.Parts[i].Clear && solid {
				continue
			}
			far := math.Inf(-1)
			for _, p := range b.Loops[0].Points {
				far = max(far, p[0]*towardUs[0]+p[1]*towardUs[1])
			}
			pieces = append(pieces, piece{&s.Parts[i], b, b.Z0, far})
		}
	}
	slices.SortStableFunc(pieces, func(a, b piece) int {
		// Lower ones first; on one level, the farther ones first.
		return cmp.Or(cmp.Compare(math.Round(a.z*1e9), math.Round(b.z*1e9)), cmp.Compare(a.d, b.d))
	})
	for _, p := range pieces {
		faces = append(faces, p.body.faces(p.part.Tones)...)
	}
	return paint(faces, width, height)
}

func project(x, y, z float64) [2]float64 {
	return [2]float64{x*viewX[0] + y*viewY[0], x*viewX[1] + y*viewY[1] - z}
}

// faces lists the sides of a body that are seen, and its top. On a curved side
// only its foot and its silhouette are drawn as lines.
func (b *Body) faces(tones [3]string) []projected {
	var list []projected
	if b.Solid != nil {
		return b.Solid.faces(tones)
	}
	var tops [][][2]float64
	for k, loop := range b.Loops {
		var top [][2]float64
		n := len(loop.Points)
		seen := func(i int) (facing, turn float64) {
			p, q := loop.Points[i%n], loop.Points[(i+1)%n]
			nx, ny := q[1]-p[1], p[0]-q[0] // outward
			l := math.Hypot(nx, ny)
			return (nx*towardUs[0] + ny*towardUs[1]) / l, (nx - ny*towardUs[1]) / l
		}
		for i, p := range loop.Points {
			top = append(top, project(p[0], p[1], b.Z1))
			facing, turn := seen(i)
			if facing <= 1e-9 {
				continue
			}
			q := loop.Points[(i+1)%n]
			depth := (p[0]+q[0])*towardUs[0] + (p[1]+q[1])*towardUs[1]
			if k > 0 {
				depth -= 1e6 // the walls of holes lie behind all outer ones
			}
			foot := [2][2]float64{project(p[0], p[1], b.Z0), project(q[0], q[1], b.Z0)}
			head := [2][2]float64{project(p[0], p[1], b.Z1), project(q[0], q[1], b.Z1)}
			face := projected{points: [][2]float64{foot[0], foot[1], head[1], head[0]}, fill: blend(tones[1], tones[2], (turn+1)/2), depth: depth}
			if loop.Corner[i] {
				list = append(list, face)
				continue
			}
			face.faint = true
			list = append(list, face, projected{points: foot[:], depth: depth})
			if before, _ := seen(i + n - 1); before <= 1e-9 {
				list = append(list, projected{points: [][2]float64{foot[0], head[0]}, depth: depth})
			}
			if after, _ := seen(i + 1); after <= 1e-9 {
				list = append(list, projected{points: [][2]float64{foot[1], head[1]}, depth: depth})
			}
		}
		tops = append(tops, top)
	}
	// Walls behind are painted before those in front, and the top, through whose
	// holes they show, last.
	slices.SortStableFunc(list, func(a, b projected) int { return cmp.Compare(a.depth, b.depth) })
	return append(list, projected{points: tops[0], holes: tops[1:], fill: tones[0]})
}

// faces lists the triangles of a surface that are seen, the farthest first.
func (s *Solid) faces(tones [3]string) []projected {
	var list []projected
	toward := [3]float64{1, -1, math.Sqrt(2) * math.Tan(math.Pi/6)}
	for _, t := range s.Triangles {
		a, b, c := s.Points[t[0]], s.Points[t[1]], s.Points[t[2]]
		n := normal(a, b, c)
		if n[0]*toward[0]+n[1]*toward[1]+n[2]*toward[2] <= 0 {
			continue
		}
		f := projected{fill: blend(blend(tones[1], tones[2], (n[0]+n[1]+1)/2), tones[0], n[2]), faint: true}
		for _, p := range [][3]float64{a, b, c} {
			f.points = append(f.points, project(p[0], p[1], p[2]))
			f.depth += p[0]*toward[0] + p[1]*toward[1] + p[2]*toward[2]
		}
		list = append(list, f)
	}
	slices.SortStableFunc(list, func(a, b projected) int { return cmp.Compare(a.depth, b.depth) })
	return list
}

// blend mixes two colours written as #rrggbb.
func blend(a, b string, t float64) string {
	t = min(max(t, 0), 1)
	out := "#"
	for i := 1; i < 7; i += 2 {
		var x, y int
		_, _ = fmt.Sscanf(a[i:i+2], "%02x", &x) // the colours are constants
		_, _ = fmt.Sscanf(b[i:i+2], "%02x", &y)
		out += fmt.Sprintf("%02x", int(math.Round(float64(x)+t*float64(y-x))))
	}
	return out
}

// paint scales the faces into the picture.
func paint(faces []projected, width, height int) string {
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for _, f := range faces {
		for _, p := range f.points {
			for k := range 2 {
				lo[k], hi[k] = min(lo[k], p[k]), max(hi[k], p[k])
			}
		}
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" role="img" aria-hidden="true">`, width, height)
	const margin = 10
	if len(faces) > 0 {
		w, h := max(hi[0]-lo[0], 1e-12), max(hi[1]-lo[1], 1e-12)
		scale := min(float64(width-2*margin)/w, float64(height-2*margin)/h)
		ox, oy := (float64(width)-scale*w)/2, (float64(height)-scale*h)/2
		for _, f := range faces {
			b.WriteString(`<path d="`)
			for _, loop := range append([][][2]float64{f.points}, f.holes...) {
				for i, p := range loop {
					letter := "L"
					if i == 0 {
						letter = "M"
					}
					fmt.Fprintf(&b, "%s%.1f %.1f", letter, ox+(p[0]-lo[0])*scale, oy+(p[1]-lo[1])*scale)
				}
				if len(loop) > 2 {
					b.WriteString("Z")
				}
			}
			stroke, fill := "#23292d", f.fill
			if f.faint {
				stroke = f.fill
			}
			if fill == "" {
				fill = "none"
			}
			fmt.Fprintf(&b, `" fill="%s" stroke="%s" stroke-width="0.8" stroke-linejoin="round" fill-rule="evenodd"/>`, fill, stroke)
		}
	}
	b.WriteString(`</svg>`)
	return b.String()
}
