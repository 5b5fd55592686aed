package material

import (
	"bytes"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLibraryIsSound reads every property of the library over its whole range
// and compares what the properties of one material have to do with each other.
func TestLibraryIsSound(t *testing.T) {
	list := Library()
	require.GreaterOrEqual(t, len(list), 120)
	seen := map[string]bool{}
	used := map[Key]int{}
	for _, m := range list {
		assert.False(t, seen[strings.ToLower(m.Name)], "%s stands twice", m.Name)
		seen[strings.ToLower(m.Name)] = true
		assert.NoError(t, CheckName(m.Name))
		assert.True(t, slices.Contains(Families, m.Family), "%s: family %q", m.Name, m.Family)
		at := func(k Key) float64 {
			f, err := m.Function(k, nil)
			require.NoError(t, err)
			d, _ := Define(k)
			v, _ := f.Typical(d)
			return v
		}
		for k, p := range m.Properties {
			d, known := Define(k)
			require.True(t, known, "%s: %s", m.Name, k)
			f, err := m.Function(k, nil)
			require.NoError(t, err)
			assert.NotEmpty(t, p.Source, "%s, %s", m.Name, d.Name)
			if _, constant := f.Constant(); !constant {
				assert.NotEmpty(t, p.From+p.To, "%s varies over no stated range in %s", d.Name, m.Name)
			} else {
				assert.True(t, p.At != "" || d.Over != nil || d.Alone, "%s of %s holds at no stated temperature", d.Name, m.Name)
			}
			used[k]++
		}
		// A diffusivity or an impedance outside what nature offers shows a slip.
		if m.Has(Conductivity) && m.Has(HeatCapacity) && m.Has(Density) {
			a := at(Conductivity) / (at(Density) * at(HeatCapacity))
			assert.Greater(t, a, 2e-8, m.Name)
			assert.Less(t, a, 2e-3, m.Name)
			if c := at(Density) * at(HeatCapacity); m.Family != "gas" && m.Family != "insulation" {
				assert.True(t, c > 6e5 && c < 5e6, "%s holds %g J/(m³·K)", m.Name, c)
			}
		}
		// Metals obey the law of Wiedemann and Franz within a factor; in cast iron
		// the graphite conducts most of the heat.
		if !strings.Contains(m.Name, "cast iron") && m.Has(Resistivity) && m.Has(Conductivity) && at(Resistivity) < 1e-6 && m.Has(YoungsModulus) {
			lorenz := at(Conductivity) * at(Resistivity) / 293.15
			assert.True(t, lorenz > 1.5e-8 && lorenz < 5.5e-8, "%s: %g V²/K²", m.Name, lorenz)
		}
		if m.Has(YoungsModulus) && m.Has(SoundSpeed) {
			assert.Greater(t, at(SoundSpeed), 0.9*math.Sqrt(at(YoungsModulus)/at(Density)), m.Name)
		}
	}
	for _, d := range Definitions {
		follows := slices.ContainsFunc(derivations, func(r derivation) bool { return r.key == d.Key })
		if d.Key != ConductivityY && !d.Pair && !follows {
			assert.NotZero(t, used[d.Key], "no material has a %s", d.Name)
		}
	}
}

func TestMagnetisationRises(t *testing.T) {
	for _, m := range Library() {
		if !m.Has(Magnetisation) {
			continue
		}
		f, err := m.Function(Magnetisation, nil)
		require.NoError(t, err)
		last := -1.0
		for h := 0.0; h <= f.To; h += f.To / 500 {
			b := f.At(h)
			assert.Greater(t, b, last, "%s at %g A/m", m.Name, h)
			last = b
		}
	}
}

func TestFunctionRefusesWhatDoesNotFit(t *testing.T) {
	m := Material{Name: "mud", Properties: map[Key]Property{
		Density: {Value: "1.8 kg"}, Conductivity: {Value: "-2 W/(m·K)"}, HeatCapacity: {Value: "much"}, Emissivity: {Value: "1.2"},
		Viscosity:   {Value: "1 Pa·s*(1 - ramp(temperature, 20 °C, 50 °C))", From: "0 °C", To: "60 °C"},
		Resistivity: {Value: "1 Ω·m", From: "10 m"}, Expansion: {Value: "1e-5/K", From: "50 °C", To: "10 °C"}}}
	for k, part := range map[Key]string{
		Density: "write it in kg/m³", Conductivity: "between 0 and 1e+07 W/(m·K); it is −2", HeatCapacity: `no parameter "much"`, Emissivity: "between 0 and 1; it is 1.200",
		Viscosity: "it is 0", Resistivity: "is a length, where a temperature is wanted", Expansion: "ends before it begins", Seebeck: "mud has no Seebeck coefficient"} {
		_, err := m.Function(k, nil)
		assert.ErrorContains(t, err, part)
	}
	steel, ok := Find(Library(), " Steel 304 ")
	require.True(t, ok)
	k, err := steel.Function(Conductivity, nil)
	require.NoError(t, err)
	assert.InDelta(t, 14.9, k.At(300), 1e-12)
	assert.InDelta(t, 18.2, k.At(500), 1e-12)
}

func TestFilesComeBack(t *testing.T) {
	for _, write := range []func(*bytes.Buffer) error{
		func(b *bytes.Buffer) error { return WriteJSON(b, Library()) },
		func(b *bytes.Buffer) error { return WriteCSV(b, Library()) },
	} {
		var b bytes.Buffer
		require.NoError(t, write(&b))
		back, err := Read(&b)
		require.NoError(t, err)
		assert.Equal(t, Library(), back)
	}
	for text, part := range map[string]string{
		"":                                       "empty",
		"[]":                                     "no material",
		"[\n{\"name\": \"a\",\n \"colour\": 1}]": "line 3",
		"material,property\na,density":           `"value" is missing`,
		"material,property,value,hue\na":         `no column "hue"`,
		"material,property,value\na,softness,1":  `line 2: there is no property "softness"`,
		"material,property,value\na,density,1 m": "write it in kg/m³",
		"material,property,value\na,density,1 kg/m³\na,density,2 kg/m³": "line 3: a has its density twice",
		"material,property,value\na/b,density,1 kg/m³":                  "without /",
	} {
		_, err := Read(strings.NewReader(text))
		assert.ErrorContains(t, err, part, text)
	}
}

func TestPastedRowsBecomeATable(t *testing.T) {
	d, _ := Define(Conductivity)
	text, ok := PasteTable(d, "20\t0.5\n40\t0.6\n")
	require.True(t, ok)
	assert.Equal(t, "table(temperature, 20 °C: 0.5 W/(m·K), 40: 0.6)", text)
	text, ok = PasteTable(d, "K; mW/(m·K)\n300; 25.9\n350; 29.3")
	require.True(t, ok)
	m := Material{Name: "n", Properties: map[Key]Property{Conductivity: {Value: text}}}
	f, err := m.Function(Conductivity, nil)
	require.NoError(t, err)
	assert.InDelta(t, 0.0276, f.At(325), 1e-12)
	for _, other := range []string{"16 W/(m·K)", "20 1 2\n30 1 2", "1 2", "s, W\n1, 2\n3, 4"} {
		_, ok := PasteTable(d, other)
		assert.False(t, ok, other)
	}
}

// FuzzRead: whatever a file of materials says, reading it ends in words, and what
// was read can be written and read again.
func FuzzRead(f *testing.F) {
	f.Add("material,property,value,at\na,density,\"1,5 kg/m³\",20 °C\n")
	f.Add(`[{"name":"a","properties":{"viscosity":{"value":"table(temperature, 0 °C: 1 Pa·s, 1: 2; refuse)","from":"1 °C"}}}]`)
	f.Add("K\tW/(m·K)\n1\t2\n3\t4")
	f.Fuzz(func(t *testing.T, text string) {
		d, _ := Define(Conductivity)
		PasteTable(d, text)
		list, err := Read(strings.NewReader(text))
		if err != nil {
			return
		}
		var b bytes.Buffer
		require.NoError(t, WriteJSON(&b, list))
		again, err := Read(&b)
		require.NoError(t, err)
		assert.Len(t, again, len(list))
	})
}
