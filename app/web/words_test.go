package web

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"saltkettle/app/jobs"
	"saltkettle/app/store"
	"saltkettle/core/model"
	"saltkettle/core/result"
)

func TestWordsForNumbers(t *testing.T) {
	assert.Equal(t, "1 minute", plural(1, "minute"))
	assert.Equal(t, "3 doubts", plural(3, "doubt"))
	assert.Equal(t, "0.3 s", seconds(0.26))
	assert.Equal(t, "45 s", seconds(45.2))
	assert.Equal(t, "3 min", seconds(200))
	for c, want := range map[float64]string{store.NoBalance: "–", 1e-15: "closed to round-off", 2e-8: "closed to 2·10⁻⁸", 0.03: "open by 3.0 %"} {
		words, good := closure(c)
		assert.Equal(t, want, words)
		assert.Equal(t, c >= 0 && c < 1e-6, good)
	}
	assert.Equal(t, "just now", ago(time.Now()))
	assert.Equal(t, "2 hours ago", ago(time.Now().Add(-150*time.Minute)))
	assert.Equal(t, "9 May 2020", ago(time.Date(2020, 5, 9, 0, 0, 0, 0, time.UTC)))
	assert.Equal(t, "−2.5", trim(-2.5))
	assert.Equal(t, "104", trim(104.0000001))
	assert.Equal(t, "1 missing, 2 wrong", outstandingWords([]model.Finding{{Severity: model.Missing}, {Severity: model.Wrong}, {Severity: model.Wrong}}))
}

func TestChangesOfReadings(t *testing.T) {
	assert.Equal(t, "+6.0", change(6.04, 430, "°C"), "a difference has no offset")
	assert.Equal(t, "−118", change(-0.118, 0.3, "g"))
	assert.Empty(t, change(0, 5, "W"))
	assert.Empty(t, change(1e-9, 340, "W"), "round-off is no change")
}

func TestSparkAndResiduals(t *testing.T) {
	h := history{readings: map[uint][]store.Reading{}}
	for i, v := range []float64{3, 2, 1} { // the newest first
		h.runs = append(h.runs, store.Run{ID: uint(i + 1)})
		h.readings[uint(i+1)] = []store.Reading{{Key: "r1", Value: v}}
	}
	assert.Contains(t, string(h.spark("r1")), `points="2.0,18.0 38.0,10.0 74.0,2.0 "`, "the oldest left, the greatest on top")
	assert.Empty(t, h.spark("r2"))
	h.readings[1][0].Value, h.readings[2][0].Value, h.readings[3][0].Value = 5, 5, 5
	assert.Contains(t, string(h.spark("r1")), "74.0,10.0", "what does not change is a line in the middle")
	assert.Empty(t, residualChart([]jobs.Point{{Iteration: 1, Residual: 1}}))
	assert.Contains(t, string(residualChart([]jobs.Point{{Iteration: 1, Residual: 1}, {Iteration: 10, Residual: 1e-12}})), "28.0,2.0 280.0,42.0 ")
}

func TestFieldsKeepTheirIDs(t *testing.T) {
	f := field{Place: "materials/steel 304/density", Prefix: "floor-"}
	assert.Equal(t, "v-floor-materials-steel_304-density", f.ID())
	assert.Equal(t, 1, f.Width())
	f.Hint = "value"
	assert.Equal(t, 5, f.Width())
	f = field{Value: "b", Names: []string{"a", "b"}, Texts: []string{"A", "B"}}
	assert.Equal(t, []option{{"a", "A", false}, {"b", "B", true}}, f.Options())
}

func TestWordsForErrors(t *testing.T) {
	half := 0.12
	known := result.Reading{Key: "r1", Value: 350, Error: &half, Errors: []result.ErrorPart{{Of: "cells", Value: 0.1}, {Of: "time steps", Value: 0.02}}, Shown: result.Shown{Unit: "K"}}
	unknown := result.Reading{Key: "r2", Unknown: "it was not asked for"}
	r := &result.Result{Status: result.Settled, Readings: []result.Reading{known, unknown}}
	assert.Contains(t, errorWords(r), "how far a reading may be from the exact one")
	assert.Contains(t, errorWords(r), "the error of r2 is not known: it was not asked for")
	r.Readings = r.Readings[1:]
	assert.True(t, strings.HasPrefix(errorWords(r), "The error of r2"), "a sentence of its own begins with a capital letter")
	assert.Equal(t, "±\u202f0.1 of cells, ±\u202f0.02 of time steps", known.Trust())
	assert.Equal(t, "Ärger", capital("ärger"))
	assert.Equal(t, "± is", capital("± is"))
	assert.Empty(t, capital(""))
	stored := result.Balance{In: 3, Out: 1, Unit: "J", Entries: []result.Entry{{Key: result.Stores, Value: -2}}}
	assert.Equal(t, "3.000 J in, 1.000 J out, 2.000 J stored", strings.ReplaceAll(balanceWords(stored), "\u00a0", " "))
	none := newReadingView(store.Reading{Key: "r3", Missing: "the point lies outside"})
	assert.Equal(t, "no value", none.Value)
	q := store.Reading{Value: 350, Unit: "°C", Error: &half}
	assert.Equal(t, "±\u202f0.2", newReadingView(q).Margin)
	q.Error = nil
	assert.Empty(t, newReadingView(q).Margin)
	assert.Equal(t, "K", differenceUnit("°C"))
	assert.Equal(t, "W", differenceUnit("W"))
}
