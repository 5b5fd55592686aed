package solve

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/binary"
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
	"saltkettle/examples"
)

func demo(t *testing.T, key string) *model.Document {
	t.Helper()
	data, err := os.ReadFile(filepath.Join("..", "..", "examples", key+".kettle.json"))
	require.NoError(t, err)
	doc, err := model.Parse(data)
	require.NoError(t, err)
	if key == "pan-floor" {
		set(t, doc, "mesh/size", "3 mm", "mesh/across", "2") // quick
	}
	return doc
}

func set(t *testing.T, doc *model.Document, pairs ...string) {
	t.Helper()
	for i := 0; i < len(pairs); i += 2 {
		require.NoError(t, doc.Set(pairs[i], pairs[i+1]))
	}
}

func settle(t *testing.T, doc *model.Document) *Outcome {
	t.Helper()
	o, err := Run(t.Context(), doc, Options{Now: time.Now})
	require.NoError(t, err)
	require.Equal(t, result.Settled, o.Status, o.Reason)
	for _, b := range o.Balances {
		most := 1e-8
		switch {
		case strings.HasSuffix(b.Name, overTime):
			most = 5e-4 // what is stored may depend on the temperature
		case slices.ContainsFunc(doc.Conditions, func(s model.Sentence) bool { return slices.Contains(models, s.Kind) }):
			most = 1e-6 // it has settled where its readings are at rest
		}
		require.Less(t, b.Closure, most, b.Name)
	}
	return o
}

func value(t *testing.T, o *Outcome, key string) float64 {
	t.Helper()
	for _, q := range o.Readings {
		if q.Key == key {
			return q.Value
		}
	}
	t.Fatalf("there is no reading %s", key)
	return 0
}

// warned is what demos are warned of: three cells across its legs leave temperatures a little below that of what comes in, and
// the trials of its room say how near the sides of the yard are.
var warned = map[string][]string{
	"brine-block": {"below all that are said"}, "dosing-junction": {"below nothing"}, "sluice-rod": {"has no bound"},
	"yard-shade": {"overlaps the skirt", "too near", "in no layers"},
}

func TestExamplesSettle(t *testing.T) {
	for _, e := range examples.List {
		doc := demo(t, e.Key)
		bends := slices.ContainsFunc(doc.Conditions, func(s model.Sentence) bool { return s.Kind == "solid.bends" })
		flows := slices.ContainsFunc(doc.Conditions, func(s model.Sentence) bool { return s.Kind == "flow.flows" })
		switch e.Key {
		case "grate-bar":
			doc.Mesh.Size, doc.Parameters[0].Value = "20 mm", "1"
		case "rake-shoe":
			doc.Mesh.Size = "14 mm"
		}
		if short := os.Getenv("KETTLE_LONG") == ""; len(doc.Physics) == 0 && (flows || !bends) && (short || !e.Long) || flows && e.Long && short {
			// A shape whose physics is still to be said, a flow alone, which has tests and stories of its own, or one whose run is
			// long, which is run at night: it is meshed.
			r, _ := model.Resolve(doc, physics.Catalog())
			m, _, err := r.MeshOf(t.Context(), 0, nil)
			require.NoError(t, err, e.Key)
			angles := m.Angles()
			least := angles[m.Worst(angles, 1)[0]]
			assert.Greater(t, least, float32(15), "%s: the parts of the yard shade meet at sharp corners", e.Key)
			continue
		}
		o := settle(t, doc)
		assert.Len(t, o.Readings, len(o.Document.Readings), e.Key)
		assert.Len(t, o.Warnings, len(warned[e.Key]), e.Key)
		for _, known := range warned[e.Key] {
			assert.Contains(t, strings.Join(o.Warnings, "\n"), known, e.Key)
		}
		for _, stage := range Stages {
			if stage != "estimate" && (stage != "views" || o.Radiation != nil) {
				assert.Contains(t, o.Seconds, stage)
			}
		}
	}
}

// TestPanFloorIsPlausible compares the demo with what must hold whatever the
// mesh: all power leaves by convection, so that the mean of the top lies
// P/(hA) above the brine; the mass is that of the plate.
func TestPanFloorIsPlausible(t *testing.T) {
	o := settle(t, demo(t, "pan-floor"))
	assert.InEpsilon(t, 340, value(t, o, "r4"), 1e-8)
	assert.InEpsilon(t, 345.15+340/(850*0.104*0.072), value(t, o, "r3"), 1e-9)
	assert.InEpsilon(t, 0.104*0.072*0.005*7900, value(t, o, "r5"), 1e-9)
	assert.Greater(t, value(t, o, "r2"), value(t, o, "r3"))
	assert.Equal(t, "pan floor", o.Least.Part)
	assert.Contains(t, o.Greatest.Part, "heater rod ")
	shown := o.Readings[1].Shown
	assert.Equal(t, "°C", shown.Unit)
	assert.InDelta(t, value(t, o, "r2")-273.15, shown.Value, 1e-9)
}

// TestFinerMesh: the corners where rods meet the floor slow convergence down,
// but halving the cells must not move the readings by more than a few percent.
func TestFinerMesh(t *testing.T) {
	doc := demo(t, "pan-floor")
	set(t, doc, "mesh/size", "2.5 mm", "mesh/across", "2")
	coarse := settle(t, doc)
	doc = demo(t, "pan-floor")
	set(t, doc, "mesh/size", "1.25 mm", "mesh/across", "4")
	fine := settle(t, doc)
	assert.Greater(t, fine.Mesh.Cells, 6*coarse.Mesh.Cells)
	assert.InEpsilon(t, value(t, fine, "r1"), value(t, coarse, "r1"), 0.05)
	assert.InDelta(t, value(t, fine, "r2"), value(t, coarse, "r2"), 1.5)
	assert.InEpsilon(t, value(t, fine, "r3"), value(t, coarse, "r3"), 1e-9)
}

// TestCopiesAndFacing: one rod heated alone; the heat that leaves it is read
// where it meets each neighbour and adds up.
func TestCopiesAndFacing(t *testing.T) {
	doc := demo(t, "pan-floor")
	set(t, doc, "conditions/c1/on", "rod||3", "readings/r4/on", "rod||3|floor")
	doc.Readings = append(doc.Readings[:5],
		model.Sentence{ID: "r6", Kind: "heat.through", On: model.Patch{Part: "rod", Copy: 3, Facing: "brick"}},
		model.Sentence{ID: "r7", Kind: "heat.through", On: model.Patch{Part: "rod", Side: "*", Facing: "outside"}},
		model.Sentence{ID: "r8", Kind: "heat.through", On: model.Patch{Part: "floor", Facing: "rod"}},
		model.Sentence{ID: "r9", Kind: "heat.through", On: model.Patch{Part: "rod", Side: "*"}})
	o := settle(t, doc)
	up, down := value(t, o, "r4"), value(t, o, "r6")
	assert.InEpsilon(t, 340, up+down, 1e-6, "all heat of the rod passes to its neighbours")
	assert.Greater(t, up, down)
	assert.InDelta(t, 0, value(t, o, "r7"), 1e-9, "free surfaces let nothing through")
	assert.InEpsilon(t, -340, value(t, o, "r8"), 1e-6, "the floor takes all in from the rods")
	assert.InEpsilon(t, 340, value(t, o, "r9"), 1e-6)
}

// TestLaterSentencesHold: a condition on the whole surface, then others on
// pieces of it.
func TestLaterSentencesHold(t *testing.T) {
	doc := demo(t, "pan-floor")
	on := func(side string) model.Patch { return model.Patch{Part: "floor", Side: side} }
	conv := map[string]string{"medium": "air", "temperature": "20 °C", "coefficient": "10 W/(m²·K)"}
	doc.Conditions = []model.Sentence{
		doc.Conditions[0],
		{ID: "c3", Kind: "heat.convection", On: on("*"), Values: conv},
		{ID: "c4", Kind: "heat.insulated", On: on("left")},
		doc.Conditions[1],
		{ID: "c5", Kind: "heat.flux-total", On: model.Patch{Part: "brick", Side: "bottom"}, Values: map[string]string{"power": "30 W"}},
	}
	entries := map[string]float64{}
	for _, e := range settle(t, doc).Balances[0].Entries {
		entries[e.Key] = e.Value
	}
	assert.InEpsilon(t, 340, entries["c1"], 1e-12)
	assert.InEpsilon(t, 30, entries["c5"], 1e-12)
	assert.InEpsilon(t, -370, entries["c2"]+entries["c3"], 1e-8)
	assert.Less(t, entries["c3"], 0.0)
	assert.Greater(t, entries["c3"], -10.0, "the top belongs to c2, which speaks later")
	doc.Conditions = append(doc.Conditions, model.Sentence{ID: "c6", Kind: "heat.insulated", On: on("*")},
		model.Sentence{ID: "c7", Kind: "heat.held", On: on("right"), Values: map[string]string{"temperature": "60 °C"}})
	o := settle(t, doc)
	assert.Contains(t, strings.Join(o.Warnings, "\n"), "c2 acts nowhere")
	doc.Conditions = append(doc.Conditions, model.Sentence{ID: "c8", Kind: "heat.insulated", On: model.Patch{Part: "brick", Side: "bottom"}})
	o = settle(t, doc)
	assert.Contains(t, strings.Join(o.Warnings, "\n"), "c5 acts nowhere")
	assert.InEpsilon(t, 340, o.Balances[0].Out, 1e-8, "the cancelled flux brings nothing in")
}

// TestAllOtherSurfaces: a condition on all other surfaces takes what no sentence
// speaks of, and neither surfaces between parts nor those that let no heat through.
func TestAllOtherSurfaces(t *testing.T) {
	doc := demo(t, "testdata/solid-post")
	set(t, doc, "mesh/size", "16 mm", "parts/slab/cells", "30 mm")
	only := func(id string) {
		doc.Conditions = append(doc.Conditions, model.Sentence{ID: id, Kind: "heat.elsewhere", Values: map[string]string{"medium": "air", "temperature": "24 °C", "coefficient": "8 W/(m²·K)"}})
	}
	only("c5")
	flows := func(o *Outcome) map[string]float64 {
		entries := map[string]float64{}
		for _, e := range o.Balances[0].Entries {
			entries[e.Key] = e.Value
		}
		return entries
	}
	some := flows(settle(t, doc))
	assert.Less(t, some["c5"], -0.1, "the pad, the cup and the sides of the slab lose heat")
	// The same on the surfaces one by one.
	doc.Conditions = doc.Conditions[:4]
	for i, on := range []model.Patch{{Part: "pad", Side: "*"}, {Part: "cup", Side: "rim"}, {Part: "cup", Side: "bottom"}, {Part: "post", Side: "top"},
		{Part: "slab", Side: "left"}, {Part: "slab", Side: "right"}, {Part: "slab", Side: "front"}, {Part: "slab", Side: "back"}} {
		doc.Conditions = append(doc.Conditions, model.Sentence{ID: fmt.Sprintf("c%d", 5+i), Kind: "heat.convection", On: on,
			Values: map[string]string{"medium": "air", "temperature": "24 °C", "coefficient": "8 W/(m²·K)"}})
	}
	doc.Conditions = slices.DeleteFunc(doc.Conditions, func(c model.Sentence) bool { return c.On.Part == "post" && c.On.Side == "top" })
	each := flows(settle(t, doc))
	sum := 0.0
	for id, q := range each {
		if len(id) > 2 || id > "c4" {
			sum += q
		}
	}
	assert.InEpsilon(t, sum, some["c5"], 1e-8)
	doc.Conditions = append(doc.Conditions[:4:4], model.Sentence{ID: "c6", Kind: "heat.insulated", On: model.Patch{Part: "cup", Side: "rim"}})
	only("c5")
	assert.Greater(t, flows(settle(t, doc))["c5"], some["c5"], "a surface that lets nothing through stays so")
}

func TestModelsThatCannotRun(t *testing.T) {
	cases := []struct {
		change func(*model.Document)
		place  string
		want   string
	}{
		{func(d *model.Document) { d.Mesh.Size = "" }, "mesh/size", "has not been given"},
		{func(d *model.Document) { d.Conditions = d.Conditions[:1] }, "conditions", "heat has no way out of the hearth brick, the heater rod, the pan floor"},
		{func(d *model.Document) { d.Parts[2].Span = model.Span{From: "15 mm", To: "20 mm"} }, "conditions", "heat has no way out of the hearth brick, the heater rod:"},
		{func(d *model.Document) {
			d.Conditions[1].On = model.Patch{Part: "floor", Side: "bottom", Facing: "brick"}
		}, "conditions/c2/on", "c2 acts nowhere"},
		{func(d *model.Document) { d.Mesh.Size = "0.01 mm" }, "mesh/size", "make the cells larger"},
	}
	for _, c := range cases {
		doc := demo(t, "pan-floor")
		c.change(doc)
		_, err := Run(t.Context(), doc, Options{})
		var wrong *ModelError
		require.ErrorAs(t, err, &wrong)
		assert.Equal(t, c.place, wrong.Findings[0].Place)
		assert.Contains(t, wrong.Findings[0].Message, c.want)
	}
}

func TestStoppingAndLimits(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	o, err := Run(ctx, demo(t, "pan-floor"), Options{Progress: func(e Event) {
		if e.Iteration > 5 {
			cancel()
		}
	}})
	require.NoError(t, err)
	assert.Equal(t, result.Stopped, o.Status)
	assert.Contains(t, o.Reason, "stopped after")
	o, err = Run(ctx, demo(t, "pan-floor"), Options{})
	require.NoError(t, err)
	assert.Equal(t, result.Stopped, o.Status)
	assert.Nil(t, o.Fields)
	o, err = Run(t.Context(), demo(t, "pan-floor"), Options{MaxIterations: 4})
	require.NoError(t, err)
	assert.Equal(t, result.NotSettled, o.Status)
	assert.Contains(t, o.Reason, "iteration limit reached")
}

func TestSameBitsAgain(t *testing.T) {
	a, b := settle(t, demo(t, "pan-floor")), settle(t, demo(t, "pan-floor"))
	assert.Equal(t, a.Fields.Values, b.Fields.Values)
}

func TestResultFolderAndExports(t *testing.T) {
	dir := t.TempDir()
	o, err := Run(t.Context(), demo(t, "testdata/solid-post"), Options{Dir: dir, Now: time.Now, EstimateWithin: -1})
	require.NoError(t, err)
	r, err := result.Load(dir)
	require.NoError(t, err)
	total := 0.0
	for _, stage := range Stages {
		if stage == "views" {
			continue // nothing radiates
		}
		assert.Positive(t, r.Seconds[stage], stage)
		total += r.Seconds[stage]
	}
	assert.InEpsilon(t, total, r.Seconds["total"], 1e-9, "the stages make up the whole")
	assert.Equal(t, o.Readings, r.Readings)
	assert.Equal(t, o.Document, r.Document)
	f, err := result.LoadFields(dir)
	require.NoError(t, err)
	assert.Equal(t, o.Fields, f)

	var table bytes.Buffer
	require.NoError(t, f.WriteCSV(&table))
	rows, err := csv.NewReader(&table).ReadAll()
	require.NoError(t, err)
	assert.Len(t, rows, len(f.Values[0].Values)+1)

	var vtu bytes.Buffer
	require.NoError(t, f.WriteVTU(&vtu))
	var file struct {
		Grid struct {
			Piece struct {
				Points int `xml:"NumberOfPoints,attr"`
				Cells  int `xml:"NumberOfCells,attr"`
				Data   struct {
					Arrays []struct {
						Text string `xml:",chardata"`
					} `xml:"DataArray"`
				} `xml:"PointData"`
			} `xml:"Piece"`
		} `xml:"UnstructuredGrid"`
	}
	require.NoError(t, xml.Unmarshal(vtu.Bytes(), &file))
	require.Len(t, file.Grid.Piece.Data.Arrays, 2, "temperature and heat flux, a vector")
	assert.Equal(t, len(f.Values[0].Values), file.Grid.Piece.Points)
	assert.Equal(t, len(f.Part), file.Grid.Piece.Cells)
	raw, err := base64.StdEncoding.DecodeString(strings.TrimSpace(file.Grid.Piece.Data.Arrays[0].Text))
	require.NoError(t, err)
	require.Equal(t, uint64(8*len(f.Values[0].Values)), binary.LittleEndian.Uint64(raw))
	last := math.Float64frombits(binary.LittleEndian.Uint64(raw[len(raw)-8:]))
	assert.Equal(t, f.Values[0].Values[len(f.Values[0].Values)-1], last)
}

// drawnBytes is the file of the surface.
func drawnBytes(t *testing.T, o *Outcome) []byte {
	t.Helper()
	var b bytes.Buffer
	n, err := o.Surface.WriteTo(&b)
	require.NoError(t, err)
	require.EqualValues(t, b.Len(), n)
	return b.Bytes()
}

// TestSurface: the surface for drawing covers every body: its triangles, outer
// and inner, have the area of the bodies' sides, and turn outward.
func TestSurface(t *testing.T) {
	doc := demo(t, "pan-floor")
	set(t, doc, "parameters/rods/value", "1")
	o := settle(t, doc)
	data := drawnBytes(t, o)
	header := int(binary.LittleEndian.Uint32(data))
	c := o.Surface.Counts
	body := data[4+header:]
	columns := 3 + len(o.Surface.Fields)
	require.Len(t, body, 4*(columns*c.Vertices+3*c.Triangles+2*c.Outlines+2*c.Edges))
	float := func(i int) float64 { return float64(math.Float32frombits(binary.LittleEndian.Uint32(body[4*i:]))) }
	area, volume := map[int]float64{}, map[int]float64{}
	for _, g := range o.Surface.Groups {
		for k := g.First; k < g.First+g.Count; k++ {
			var p [3][3]float64
			for i := range p {
				v := int(binary.LittleEndian.Uint32(body[4*(columns*c.Vertices+3*k+i):]))
				require.Less(t, v, c.Vertices)
				p[i] = [3]float64{float(3 * v), float(3*v + 1), float(3*v + 2)}
			}
			u := [3]float64{p[1][0] - p[0][0], p[1][1] - p[0][1], p[1][2] - p[0][2]}
			w := [3]float64{p[2][0] - p[0][0], p[2][1] - p[0][1], p[2][2] - p[0][2]}
			n := [3]float64{u[1]*w[2] - u[2]*w[1], u[2]*w[0] - u[0]*w[2], u[0]*w[1] - u[1]*w[0]}
			area[g.Part] += math.Sqrt(n[0]*n[0]+n[1]*n[1]+n[2]*n[2]) / 2
			volume[g.Part] += (n[0]*p[0][0] + n[1]*p[0][1] + n[2]*p[0][2]) / 6
		}
	}
	box := func(a, b, c float64) (float64, float64) { return 2 * (a*b + b*c + c*a), a * b * c }
	for part, size := range [][3]float64{{0.104, 0.072, 0.010}, {0.120, 0.006, 0.004}, {0.104, 0.072, 0.005}} {
		a, v := box(size[0], size[1], size[2])
		assert.InEpsilon(t, a, area[part], 1e-5)
		assert.InEpsilon(t, v, volume[part], 1e-4, "by the divergence theorem")
	}
}

// TestFluidsBeyondTheirRange: a coefficient that is taken from a fluid outside of where it is known
// says so, and one of a liquid whose expansion is not known is refused.
func TestFluidsBeyondTheirRange(t *testing.T) {
	plate := func(medium, temperature string) *model.Document {
		doc := model.New("plate")
		doc.Parts = []model.Part{{ID: "plate", Name: "plate", Material: "copper", Role: model.Solved,
			Outline: model.Outline{Kind: "rectangle", Width: "40 mm", Depth: "40 mm"}, Span: model.Span{From: "0 mm", To: "5 mm"}}}
		set(t, doc, "mesh/size", "10 mm")
		add(t, doc, "heat.source", model.Patch{Part: "plate"}, "power", "5 W")
		add(t, doc, "heat.vertical-plate", model.Patch{Part: "plate", Side: "top"}, "medium", medium, "temperature", temperature, "length", "40 mm")
		add(t, doc, "heat.mean", model.Patch{Part: "plate"})
		return doc
	}
	o := settle(t, plate("water", "20 °C"))
	assert.Empty(t, o.Warnings)
	h := 5 / (0.04 * 0.04 * (value(t, o, "r1") - 293.15))
	assert.True(t, h > 350 && h < 700, "water takes %g W/(m²·K)", h)
	o = settle(t, plate("water", "118 °C"))
	assert.Contains(t, strings.Join(o.Warnings, "; "), "the viscosity of the water of c2 is known −20 °C to 110 °C")
	for _, fluid := range []string{"brine 20 %", "sea water", "olive oil", "propylene glycol", "glycerin", "carbon dioxide", "air"} {
		o = settle(t, plate(fluid, "40 °C"))
		assert.Empty(t, o.Warnings, fluid)
		h := 5 / (0.04 * 0.04 * (value(t, o, "r1") - 313.15))
		assert.Greater(t, h, 3., fluid)
	}
	o = settle(t, plate("humid air", "40 °C"))
	assert.Contains(t, strings.Join(o.Warnings, "; "), "the density of the humid air of c2 is known 0.01 °C to 95 °C")
	doc := plate("slip", "20 °C")
	doc.Materials = append(doc.Materials, material.Material{Name: "slip", Family: "liquid", Properties: map[material.Key]material.Property{
		material.Density: {Value: "1800 kg/m³"}, material.HeatCapacity: {Value: "2000 J/(kg·K)"}, material.Conductivity: {Value: "1 W/(m·K)"}, material.Viscosity: {Value: "0.1 Pa·s"}}})
	_, err := Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "slip has no volumetric expansion")
}
