package main

import (
	"encoding/csv"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/examples"
)

// coarseFloor is a file of the pan floor with cells of 8 mm and a trial set of its own.
func coarseFloor(t *testing.T, set model.TrialSet) string {
	t.Helper()
	doc, err := examples.Load("pan-floor")
	require.NoError(t, err)
	require.NoError(t, doc.Set("mesh/size", "8 mm"))
	doc.Trials = []model.TrialSet{set}
	path := filepath.Join(t.TempDir(), "floor.json")
	require.NoError(t, os.WriteFile(path, doc.Bytes(), 0o600))
	return path
}

// TestSweep makes the trials of a set in their order, chooses further ones until the goal is met, tells what the surfaces do and writes them.
func TestSweep(t *testing.T) {
	set := model.TrialSet{ID: "t1", Name: "floor", Pattern: model.Latin, Runs: "6", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "8 mm"}, {ID: "2", Parameter: "pitch", From: "11 mm", To: "13 mm"}},
		Goals: []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}}, Limits: []model.Limit{{ID: "1", Reading: "r1", Side: model.Under, Value: "20 K"}}, Search: model.Search{Most: "4"}}
	unit := filepath.Join(t.TempDir(), "floor.fmu")
	code, out, errs := command(t, "sweep", coarseFloor(t, set), "--search", "--tell", "--surface", unit)
	require.Equal(t, exitSettled, code, errs)
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"trial", "t (mm)", "pitch (mm)", "unevenness of floor (K)"}, rows[0][:4])
	assert.Greater(t, len(rows), 7, "further trials")
	for i, r := range rows[1:] {
		assert.Equal(t, []string{"1", "2", "3", "4", "5", "6", "7", "8", "9", "10"}[i], r[0])
		assert.Equal(t, "settled", r[len(r)-1])
	}
	for _, words := range []string{"best: trial", "left out is off by", "makes up", "spreads about", "breaks its limit", "with a chance of", "best by the surfaces: t ", "heat into brine: the same in all trials"} {
		assert.Contains(t, errs, words)
	}
	data, err := os.ReadFile(unit)
	require.NoError(t, err)
	assert.Contains(t, string(data[:200]), "modelDescription.xml")

	code, _, errs = command(t, "sweep", coarseFloor(t, set), "--surface", "floor.xls")
	assert.NotEqual(t, exitSettled, code)
	assert.Contains(t, errs, ".fmu, .csv, .go or .c")
	set.Limits[0].Value = "3 kg"
	code, _, errs = command(t, "sweep", coarseFloor(t, set))
	assert.Equal(t, exitModel, code)
	assert.Contains(t, errs, "limit of r1")
}

// TestSweepOfAFront names the trials that none beats.
func TestSweepOfAFront(t *testing.T) {
	file := coarseFloor(t, model.TrialSet{ID: "t1", Name: "floor", Vary: []model.Vary{{ID: "1", Parameter: "t", From: "4 mm", To: "8 mm", Count: "3"}},
		Goals: []model.Goal{{ID: "1", Want: model.Least, Reading: "r5"}, {ID: "2", Want: model.Least, Reading: "r1"}}})
	table := filepath.Join(t.TempDir(), "floor.csv")
	code, _, errs := command(t, "sweep", file, "--surface", table)
	require.Equal(t, exitSettled, code, errs)
	assert.Contains(t, errs, "front: trials 1, 2, 3")
	data, err := os.ReadFile(table)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(data), "t (mm),unevenness of floor (K)"))
	assert.Equal(t, 1+41, strings.Count(string(data), "\n"))
}

// TestSlopesOnTheCommandLine are told for one per cent of each parameter, and why one has none.
func TestSlopesOnTheCommandLine(t *testing.T) {
	file := coarseFloor(t, model.TrialSet{ID: "t1", Name: "none"})
	code, out, errs := command(t, "slopes", file, "--by", "power,rods")
	require.Equal(t, exitSettled, code, errs)
	assert.Contains(t, out, "heat into brine              3.4000")
	assert.Contains(t, out, "rods: ")
	assert.Contains(t, out, "whole number")
}
