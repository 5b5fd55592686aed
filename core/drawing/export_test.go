package drawing

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/shape"
	"saltkettle/core/trace"
	"saltkettle/examples"
)

func resolvedExample(t *testing.T, key string) *model.Resolved {
	t.Helper()
	doc, err := examples.Load(key)
	require.NoError(t, err)
	r, _ := model.Resolve(doc, physics.Catalog())
	return r
}

// TestSTLClosesEverySolid: each solid of the file encloses the volume of its part.
func TestSTLClosesEverySolid(t *testing.T) {
	r := resolvedExample(t, "grate-bar")
	m, owners, err := r.MeshOf(t.Context(), 0, nil)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, WriteSTL(&b, r, m, owners))
	volume := make([]float64, len(r.Parts))
	for c, body := range m.Body {
		volume[r.Bodies[owners[body]].Part] += m.Size(int32(c))
	}
	solids := strings.Split(b.String(), "endsolid")
	found := 0
	for p := range r.Parts {
		name := "solid " + strings.Join(strings.Fields(r.Parts[p].Name), "_") + "\n"
		for _, text := range solids {
			if !strings.Contains(text, name) {
				continue
			}
			found++
			var corners [][3]float64
			for _, line := range strings.Split(text, "\n") {
				var x [3]float64
				if n, _ := fmt.Sscanf(line, "vertex %g %g %g", &x[0], &x[1], &x[2]); n == 3 {
					corners = append(corners, x)
				}
			}
			sum := 0.0
			for i := 0; i+2 < len(corners); i += 3 {
				a, u, v := corners[i], corners[i+1], corners[i+2]
				sum += (a[0]*(u[1]*v[2]-u[2]*v[1]) + a[1]*(u[2]*v[0]-u[0]*v[2]) + a[2]*(u[0]*v[1]-u[1]*v[0])) / 6
			}
			assert.InEpsilon(t, volume[p]*1e9, sum, 1e-6, r.Parts[p].Name)
		}
	}
	assert.GreaterOrEqual(t, found, 2)
}

// TestDXFComesBack: what is written is read again as the same outlines.
func TestDXFComesBack(t *testing.T) {
	r := resolvedExample(t, "grate-bar")
	// The bar with its slots alone: outlines of several parts within each other would be
	// read as holes.
	r.Bodies = slices.DeleteFunc(r.Bodies, func(b shape.Body) bool { return b.Part != 0 })
	require.Len(t, r.Bodies, 1)
	var b bytes.Buffer
	require.NoError(t, WriteDXF(&b, r))
	d, err := trace.Read("plan.dxf", b.Bytes(), "")
	require.NoError(t, err)
	var want, got float64
	for _, body := range r.Bodies {
		want += body.Outline.Area()
	}
	doc := model.New("back")
	_, err = doc.AddTraced("plan", d)
	require.NoError(t, err)
	back, _ := model.Resolve(func() *model.Document {
		for i := range doc.Parts {
			doc.Parts[i].Span = model.Span{From: "0 mm", To: "1 mm"}
		}
		return doc
	}(), physics.Catalog())
	for _, body := range back.Bodies {
		got += body.Outline.Area()
	}
	assert.Less(t, math.Abs(got/want-1), 1e-6)
}

func TestMeshLookShowsWhatACutLeaves(t *testing.T) {
	r := resolvedExample(t, "pan-floor")
	m, owners, err := r.MeshOf(t.Context(), 0, nil)
	require.NoError(t, err)
	whole, cut := NewMeshLook(r, physics.Catalog(), m, owners, Plane{Axis: -1}), NewMeshLook(r, physics.Catalog(), m, owners, Plane{Axis: 0, At: 0})
	assert.Equal(t, m.CellCount(), whole.Cells)
	assert.Len(t, whole.Worst, worstShown)
	assert.GreaterOrEqual(t, whole.Worst[0].Angle, 20.0)
	sum := 0
	for _, n := range whole.Angles {
		sum += n
	}
	assert.Equal(t, m.CellCount(), sum)
	assert.Less(t, len(cut.triangles), len(whole.triangles)+len(cut.angles)*3)
	for i := 0; i < len(cut.positions); i += 3 {
		assert.Less(t, cut.positions[i], float32(2e-3), "beyond the cut no cell has its middle")
	}
	assert.Equal(t, len(whole.Bytes())%4, 0)
}
