package model_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestWhatPlatesShowOfVectors: arrows, streams, probes and scales are evaluated; what is wrong with
// one is said at its place, leaves it out, and keeps no model from running.
func TestWhatPlatesShowOfVectors(t *testing.T) {
	doc, cat := trough(t), physics.Catalog()
	part := doc.Parts[1].ID
	id, err := doc.AddPlate(cat, "temperature")
	require.NoError(t, err)
	_, err = doc.AddLine(id, model.Line{ToX: "10 mm"})
	require.NoError(t, err)
	for _, s := range []model.Streams{{Field: "heat_flux", From: model.Everywhere, Count: "30"}, {Field: "heat_flux", From: "parts/" + part, Count: "30"}, {Field: "heat_flux", From: "lines/1", Count: "12"}} {
		_, err := doc.AddStreams(id, s)
		require.NoError(t, err)
	}
	_, err = doc.AddArrows(id, model.Arrows{Field: "heat_flux", On: model.OnSurface, Count: "200", Length: model.Equal})
	require.NoError(t, err)
	place, err := doc.AddArrows(id, model.Arrows{Field: "stress", On: model.Inside, Count: "2*50"})
	require.NoError(t, err)
	assert.Equal(t, "plates/"+id+"/arrows/2/count", place)
	_, err = doc.AddProbe(id, model.Probe{X: "1 mm", Z: "2 mm"})
	require.NoError(t, err)
	require.NoError(t, doc.Set("plates/"+id+"/bent", "automatic"))
	require.NoError(t, doc.Set("plates/"+id+"/bands", "8"))
	require.NoError(t, doc.Set("plates/"+id+"/map", "about zero"))

	find := func() map[string]string {
		r, findings := model.Resolve(doc, cat)
		require.NotNil(t, r)
		said := map[string]string{}
		for _, f := range findings {
			if len(f.Place) > 7 && f.Place[:7] == "plates/" {
				assert.Equal(t, model.Doubtful, f.Severity, f.Message)
				said[f.Place[len("plates/"+id)+1:]] = f.Message
			}
		}
		return said
	}
	assert.Empty(t, find())
	r, _ := model.Resolve(doc, cat)
	p := &doc.Plates[len(doc.Plates)-1]
	assert.Equal(t, []model.PlateArrows{{ID: "1", Field: "heat_flux", On: "surface", Count: 200, Equal: true}, {ID: "2", Field: "stress", On: "inside", Count: 100}}, r.PlateArrows(p, cat))
	streams := r.PlateStreams(p, cat)
	require.Len(t, streams, 3)
	assert.Equal(t, []int{-1, 1, -1}, []int{streams[0].Part, streams[1].Part, streams[2].Part})
	assert.Equal(t, &[6]float64{0, 0, 0, 0.01, 0, 0}, streams[2].Ways[0].Ends)
	assert.Equal(t, map[string][3]float64{"1": {0.001, 0, 0.002}}, r.PlateProbes(p))
	assert.Equal(t, model.PlateLook{Map: model.AboutZero, Bands: 8, Automatic: true}, r.PlateLook(p))

	at := "plates/" + id + "/"
	for _, c := range []struct{ place, value, says string }{
		{"arrows/1/field", "temperature", `"temperature" has no direction`},
		{"arrows/1/on", "nowhere", `where arrows stand cannot be "nowhere"`},
		{"arrows/2/count", "9000", "can be 5000 at most"},
		{"arrows/1/length", "long", "the length of arrows"},
		{"streams/1/field", "stress", `"stress" has no direction`},
		{"streams/1/from", "above", `streams cannot begin at "above"`},
		{"streams/2/from", "parts/nothing", "not there any more"},
		{"streams/3/from", "lines/7", "not there any more"},
		{"streams/1/count", "2.5", "whole number"},
		{"probes/1/y", "3 kg", "where a length is wanted"},
		{"bands", "100", "can be 40 at most"},
		{"map", "rainbow", "colours cannot be"},
		{"spacing", "logarithmic", "no middle at zero"},
		{"bent", "much", "much"},
	} {
		kept := *doc.Clone()
		require.NoError(t, doc.Set(at+c.place, c.value), c.place)
		assert.Contains(t, find()[c.place], c.says, c.place)
		*doc = kept
	}
	for _, list := range []string{"arrows/2", "streams/1", "probes/1"} {
		require.NoError(t, doc.RemoveItem(at+list))
		assert.Error(t, doc.RemoveItem(at+list), "it is gone")
	}
	for _, err := range []error{fails(doc.AddArrows("none", model.Arrows{})), fails(doc.AddStreams("none", model.Streams{})), fails(doc.AddProbe("none", model.Probe{}))} {
		var gone *model.GoneError
		assert.ErrorAs(t, err, &gone)
	}
}

func fails(_ string, err error) error { return err }

// TestPlatesOfFormulas: a field is found by what people call it; what is no field is a formula, which is
// evaluated from the quantities and the place, has its own unit, and is said to be wrong at its place.
func TestPlatesOfFormulas(t *testing.T) {
	cat := physics.Catalog()
	for text, want := range map[string]string{"temperature": "temperature", "Heat flux": "heat_flux", "heat flow density": "heat_flux", "von mises": "von_mises", "equivalent": "von_mises", "σᵥ": "von_mises", "deflection": "displacement",
		"principal": "=principal", "heat_flux_z": "=heat_flux_z", "= 2*x": "= 2*x", "temperature - 20 °C": "=temperature - 20 °C", "": ""} {
		assert.Equal(t, want, cat.FieldCalled(text), text)
	}
	doc := trough(t)
	doc.Parameters = append(doc.Parameters, model.Parameter{Name: "middle", Value: "10 mm"})
	id, err := doc.AddPlate(cat, "temperature")
	require.NoError(t, err)
	at := "plates/" + id + "/field"
	p := &doc.Plates[len(doc.Plates)-1]
	said := func(field string) string {
		require.NoError(t, doc.ShowOn(cat, id, field))
		p = &doc.Plates[len(doc.Plates)-1]
		_, findings := model.Resolve(doc, cat)
		for _, f := range findings {
			if f.Place == at {
				return f.Message
			}
		}
		return ""
	}
	assert.Empty(t, said("=heat_flux_z*(x - middle)"))
	r, _ := model.Resolve(doc, cat)
	shows, unit := r.Shows(p, cat)
	assert.Equal(t, "W/m", unit.Dimension.Symbol())
	assert.Equal(t, "heat_flux_z*(x - middle)", shows.Words())
	assert.Equal(t, "Heat_flux_z*(x - middle)", p.Name, "a name that nobody gave follows")
	require.NoError(t, doc.Set("plates/"+id+"/name", "mine"))
	require.NoError(t, doc.ShowOn(cat, id, "heat flux"))
	require.NoError(t, doc.Set("plates/"+id+"/low", "2 W/m²"))
	require.NoError(t, doc.ShowOn(cat, id, "heat flux"))
	assert.Equal(t, []string{"mine", "2 W/m²", "W/m²"}, []string{doc.Plates[len(doc.Plates)-1].Name, doc.Plates[len(doc.Plates)-1].Low, doc.Plates[len(doc.Plates)-1].Unit})
	values, err := r.PlateValues("heat_flux_z*(x - middle)", cat, []float64{0.02, 0, 0, 0.01, 0, 0}, func(q string) ([]float64, error) {
		assert.Equal(t, "heat_flux_z", q)
		return []float64{500, 700}, nil
	})
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{5, 0}, values, 1e-12)
	values, err = r.PlateValues("r + 1 m*theta/(90 deg)", cat, []float64{0, 2, 5}, nil)
	require.NoError(t, err)
	assert.InDeltaSlice(t, []float64{3}, values, 1e-12)
	assert.Empty(t, said("=temperature"))
	r, _ = model.Resolve(doc, cat)
	shows, _ = r.Shows(p, cat)
	assert.True(t, shows.Temperature)
	assert.Contains(t, said("=temperature +"), `a plate cannot show "temperature +"`)
	assert.Contains(t, said("=speed*2"), "speed")
	assert.Contains(t, said("haste"), `a plate cannot show "haste"`)
	_, err = r.PlateValues("time", cat, []float64{0, 0, 0}, nil)
	assert.ErrorContains(t, err, "cannot depend on time")
	_, err = r.PlateValues("heat_flux", cat, []float64{0, 0, 0}, func(string) ([]float64, error) { return nil, assert.AnError })
	assert.ErrorIs(t, err, assert.AnError)
}
