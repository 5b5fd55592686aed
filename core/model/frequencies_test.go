package model_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestFrequenciesOfAResponse are spread by ratio, evenly, in the middles of bands, or given one by one.
func TestFrequenciesOfAResponse(t *testing.T) {
	for _, c := range []struct {
		run  model.Run
		want []float64
		says string
	}{
		{model.Run{Lowest: "10 Hz", Highest: "1 kHz", Count: "3"}, []float64{10, 100, 1000}, ""},
		{model.Run{Lowest: "10 Hz", Highest: "50 Hz", Count: "3", Spread: model.Evenly}, []float64{10, 30, 50}, ""},
		{model.Run{Lowest: "125 Hz", Highest: "2 kHz", Spread: model.Octaves}, []float64{125.89, 251.19, 501.19, 1000, 1995.26}, ""},
		{model.Run{Lowest: "31.5 Hz", Highest: "63 Hz", Spread: model.ThirdOctaves}, []float64{31.62, 39.81, 50.12, 63.1}, ""},
		{model.Run{Listed: "1 kHz, 50 Hz; 50 Hz", Spread: model.Listed}, []float64{50, 1000}, ""},
		{model.Run{Listed: " ", Spread: model.Listed}, nil, "at which frequencies"},
		{model.Run{Listed: "50 mm", Spread: model.Listed}, nil, "Hz"},
		{model.Run{Lowest: "1100 Hz", Highest: "1200 Hz", Spread: model.Octaves}, nil, "no middle of a band"},
		{model.Run{Lowest: "10 Hz", Highest: "50 Hz", Spread: "wide"}, nil, "spread"},
	} {
		d := model.New("bands")
		c.run.Kind = model.Response
		d.Run = c.run
		resolved, findings := model.Resolve(d, physics.Catalog())
		if c.says != "" {
			said := ""
			for _, f := range findings {
				said += f.String() + "\n"
			}
			assert.Contains(t, said, c.says)
			continue
		}
		assert.InDeltaSlice(t, c.want, resolved.Frequencies, 0.01)
	}
}
