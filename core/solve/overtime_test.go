package solve

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// TestReadingsOverTime: a bath that receives 1 kW·sin(2πt/20 s) + 1 kW rises by 1 K/s·t
// + (1 − cos(2πt/20 s))·20 s/2π·1 K/s, which has all its reductions in closed form.
func TestReadingsOverTime(t *testing.T) {
	doc := bath(t, "60 s", [2]string{"heat.source", "1 kW*(1 + sin(2*pi*time/20 s))"})
	amplitude := 20 / (2 * math.Pi)
	rise := func(time float64) float64 { return time + amplitude*(1-math.Cos(2*math.Pi*time/20)) }
	want := map[string]float64{
		"at(r1 over time, 25 s) - 20 °C":                   rise(25),
		"mean(r1 over time) - 20 °C":                       30 + amplitude,
		"mean(r1 over time, 10 s, 30 s) - 20 °C":           20 + amplitude,
		"greatest(r1 - 20 °C over time)":                   60,
		"greatest(r1 - 20 °C - 1 K/s*time over time)":      2 * amplitude,
		"least(r1 - 20 °C - 1 K/s*time over time)":         0,
		"total(r1 - 20 °C over time)/1 s":                  1800 + 60*amplitude,
		"crossing(r1 over time, 50 °C)*1 K/s":              0,
		"amplitude(r1 - 1 K/s*time over time, 20 s)":       amplitude,
		"phase(r1 - 1 K/s*time over time, 20 s)*1 K/1 rad": -math.Pi / 2,
		"time*1 K/s": 60,
	}
	lo, hi := 20.0, 30.0
	for range 60 {
		if mid := (lo + hi) / 2; rise(mid) < 30 {
			lo = mid
		} else {
			hi = mid
		}
	}
	want["crossing(r1 over time, 50 °C)*1 K/s"] = lo
	keys := map[string]string{}
	for text := range want {
		keys[ask(t, doc, text)[0]] = text
	}
	doc.Run.Longest = "1 s"
	o := settle(t, doc)
	for key, text := range keys {
		assert.InDelta(t, want[text], value(t, o, key), 6e-3, text)
	}
	// Readings over time are no curves themselves, and have errors like the others.
	assert.Contains(t, o.History.Readings, "r1")
	for key, text := range keys {
		if text != "time*1 K/s" {
			assert.NotContains(t, o.History.Readings, key, text)
		}
	}
	o, err := Run(t.Context(), doc, Options{EstimateWithin: -1})
	require.NoError(t, err)
	for _, q := range o.Readings {
		require.NotNil(t, q.Error, "%s: %s", q.Words, q.Unknown)
	}
}

// TestReadingsOverTimeThatCannotBe: each says why.
func TestReadingsOverTimeThatCannotBe(t *testing.T) {
	for text, words := range map[string]string{
		"at(r1 over time, 70 s)":         "the run lasts from 0 s to 60",
		"at(r1 over time)":               "takes a moment",
		"mean(r1 over time, 10 s)":       "nothing, or the beginning and the end of a span",
		"mean(r1 over time, 30 s, 10 s)": "ends before it begins",
		"crossing(r1 over time, 5 s)":    "must be the same everywhere, and a temperature",
		"amplitude(r1 over time, 5 mm)":  "must be the same everywhere, and a time",
		"crossing(r1, 50 °C)":            "is of what changes in time",
		"mean(temperature over time)":    "temperature differs from place to place",
	} {
		doc := bath(t, "60 s", [2]string{"heat.source", "1 kW"})
		ask(t, doc, text)
		_, findings := model.Resolve(doc, physics.Catalog())
		blocking := model.Blocking(findings)
		require.Len(t, blocking, 1, text)
		assert.Contains(t, blocking[0].Message, words, text)
	}
	doc := bath(t, "60 s", [2]string{"heat.source", "1 kW"})
	ask(t, doc, "crossing(r1 over time, 500 °C)")
	o, err := Run(t.Context(), doc, Options{})
	require.NoError(t, err)
	assert.Equal(t, "that value is not reached", o.Readings[1].Missing)
	doc.Run.Until = "r2 > 3 s"
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "known at its end only")
	doc.Run = model.Run{}
	_, err = Run(t.Context(), doc, Options{})
	assert.ErrorContains(t, err, "readings of runs in time only")
}
