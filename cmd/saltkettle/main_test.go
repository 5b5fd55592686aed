package main

import (
	"encoding/json"
	"fmt"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/result"
	"saltkettle/examples"
)

// command runs a command line with its output caught.
func command(t *testing.T, args ...string) (code int, stdout, stderr string) {
	t.Helper()
	dir := t.TempDir()
	redirect := func(name string, target **os.File) func() string {
		f, err := os.Create(filepath.Join(dir, name))
		require.NoError(t, err)
		old := *target
		*target = f
		return func() string {
			*target = old
			require.NoError(t, f.Close())
			data, err := os.ReadFile(f.Name())
			require.NoError(t, err)
			return string(data)
		}
	}
	out, errs := redirect("out", &os.Stdout), redirect("err", &os.Stderr)
	code = run(t.Context(), args)
	return code, out(), errs()
}

const panFloor = "../../examples/pan-floor.kettle.json"

func TestSolveJSON(t *testing.T) {
	dir := t.TempDir()
	code, out, _ := command(t, "solve", panFloor, "--set", "power=170 W", "--set", "t = 6 mm", "--json", "--out", dir)
	require.Equal(t, exitSettled, code)
	var r struct {
		Status   string
		Readings []struct {
			Key, Name, Unit string
			Value           float64
			Shown           struct {
				Value float64
				Unit  string
			}
		}
		Balances []struct {
			Name             string
			In, Out, Closure float64
		}
		Mesh     struct{ Nodes, Cells, Unknowns int }
		Seconds  map[string]float64
		Warnings []string
	}
	require.NoError(t, json.Unmarshal([]byte(out), &r))
	assert.Equal(t, "settled", r.Status)
	require.Len(t, r.Readings, 6)
	assert.Equal(t, "r3", r.Readings[2].Key)
	assert.Equal(t, "K", r.Readings[2].Unit)
	assert.InDelta(t, r.Readings[2].Value-273.15, r.Readings[2].Shown.Value, 1e-9)
	assert.InEpsilon(t, 170, r.Balances[0].In, 1e-12)
	assert.Less(t, r.Balances[0].Closure, 1e-8)
	assert.Positive(t, r.Mesh.Unknowns)
	assert.Positive(t, r.Seconds["solve"])
	assert.NotNil(t, r.Warnings)
	for _, name := range []string{"result.json", "result.vtu", "nodes.csv", "temperature.f64"} {
		assert.FileExists(t, filepath.Join(dir, name))
	}
}

func TestSolvePrintsMeshErrors(t *testing.T) {
	for within, want := range map[string]bool{"-1s": true, "0": false} {
		code, out, _ := command(t, "solve", "../../examples/bittern-post.kettle.json", "--errors", within)
		require.Equal(t, exitSettled, code)
		assert.Equal(t, want, strings.Contains(out, "±"), "%s: %s", within, out)
	}
	code, _, stderr := command(t, "solve", panFloor, "--errors", "soon")
	assert.NotEqual(t, exitSettled, code)
	assert.Contains(t, stderr, "errors")
}

func TestExitCodes(t *testing.T) {
	dir := t.TempDir()
	file := func(name, content string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(content), 0o644))
		return path
	}
	data, err := os.ReadFile(panFloor)
	require.NoError(t, err)
	incomplete := file("incomplete.kettle.json", strings.Replace(strings.Replace(string(data), `"1.8 mm"`, `""`, 1), `"72 °C"`, `"72"`, 1))
	code, _, errs := command(t, "solve", incomplete)
	assert.Equal(t, exitModel, code)
	lines := strings.Split(strings.TrimSpace(errs), "\n")
	require.Len(t, lines, 2, "one line for each fault")
	assert.True(t, strings.HasPrefix(lines[0], "mesh/size: missing"), lines[0])
	assert.True(t, strings.HasPrefix(lines[1], "conditions/c2/values/temperature: wrong"), lines[1])

	code, _, errs = command(t, "solve", file("broken.json", "{"))
	assert.Equal(t, exitModel, code)
	assert.Contains(t, errs, "ends too early")
	code, _, errs = command(t, "solve", panFloor, "--set", "speed=3 m/s")
	assert.Equal(t, exitModel, code)
	assert.Contains(t, errs, "it has power, rods, pitch, t")
	code, _, errs = command(t, "solve", filepath.Join(dir, "nowhere.json"))
	assert.Equal(t, exitOther, code)
	assert.Contains(t, errs, "no such file")
	code, _, _ = command(t, "solve")
	assert.Equal(t, exitOther, code)

	code, out, _ := command(t, "check", panFloor)
	assert.Equal(t, exitSettled, code)
	assert.Contains(t, out, "Ready to run")
	code, out, _ = command(t, "check", incomplete)
	assert.Equal(t, exitModel, code)
	assert.Equal(t, 2, strings.Count(out, "\n"))
}

func TestDiff(t *testing.T) {
	data, err := os.ReadFile(panFloor)
	require.NoError(t, err)
	other := filepath.Join(t.TempDir(), "other.kettle.json")
	require.NoError(t, os.WriteFile(other, []byte(strings.Replace(string(data), `"5 mm"`, `"6 mm"`, 1)), 0o644))
	code, out, _ := command(t, "diff", panFloor, other)
	assert.Equal(t, exitSettled, code)
	assert.Equal(t, "t: 5 mm → 6 mm\n", out)
	_, out, _ = command(t, "diff", panFloor, panFloor)
	assert.Contains(t, out, "Nothing")
}

// TestCoreKnowsNothingOfTheApplication: dependencies point one way.
func TestCoreKnowsNothingOfTheApplication(t *testing.T) {
	forbidden := []string{"saltkettle/app", "saltkettle/cmd", "net/http", "html/template", "gorm.io", "database/sql"}
	files := 0
	err := filepath.WalkDir("../../core", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			for _, bad := range forbidden {
				assert.False(t, strings.HasPrefix(name, bad), "%s imports %s", path, name)
			}
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, files, 30)
}

// TestSolveKeepsMoments: a run in time leaves its fields at each of them, and a collection.
func TestSolveKeepsMoments(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "out")
	doc, err := examples.Load("bittern-post")
	require.NoError(t, err)
	doc.Run = model.Run{Kind: model.Transient, End: "100 s", Start: "20 °C"}
	path := filepath.Join(t.TempDir(), "in-time.kettle.json")
	require.NoError(t, os.WriteFile(path, doc.Bytes(), 0o600))
	code, _, stderr := command(t, "solve", path, "--errors", "0", "--out", dir)
	require.Equal(t, exitSettled, code, stderr)
	list, err := os.ReadFile(filepath.Join(dir, "moments", "moments.pvd"))
	require.NoError(t, err)
	count := strings.Count(string(list), "<DataSet")
	assert.Greater(t, count, 10)
	for i := range count {
		assert.FileExists(t, filepath.Join(dir, "moments", fmt.Sprintf("moment-%03d.vtu", i)))
	}
	r, err := result.Load(dir)
	require.NoError(t, err)
	first, err := result.LoadMoment(dir, r.Moments[0])
	require.NoError(t, err)
	last, err := result.LoadFields(dir, "temperature")
	require.NoError(t, err)
	end, err := result.LoadMoment(dir, r.Moments[len(r.Moments)-1])
	require.NoError(t, err)
	assert.Equal(t, last.Values[0].Values, end.Values[0].Values, "the last moment is the end")
	assert.NotEqual(t, first.Values[0].Values, end.Values[0].Values)
}
