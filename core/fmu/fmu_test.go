package fmu

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
	"saltkettle/core/sample"
	"saltkettle/core/surface"
)

// function is three surfaces of two parameters, of which one is a temperature on a scale.
func function(t *testing.T) *Function {
	t.Helper()
	x := sample.Latin(20, 2)
	fit := func(kind surface.Kind, of func(u []float64) float64) surface.Source {
		y := make([]float64, len(x))
		for i := range x {
			y[i] = of(x[i])
		}
		s, err := surface.Fit(kind, x, y)
		require.NoError(t, err)
		return s.Source()
	}
	return &Function{Name: "Rib passage: h & more", About: "a test, of \"20\" trials",
		Inputs: []Input{{"gap", quantity.MustUnit("mm"), 2, 6, 3}, {"wall", quantity.MustUnit("°C"), 90, 60, 75}},
		Outputs: []Output{
			{"coefficient", "", quantity.MustUnit("W/(m²·K)"), false, fit(surface.Gaussian, func(u []float64) float64 { return 900 + 300*u[0] - 100*u[0]*u[1] })},
			{"hottest", "", quantity.MustUnit("°C"), false, fit(surface.Quadratic, func(u []float64) float64 { return 350 + 10*u[1] + u[0]*u[0] })},
			{"rise", "", quantity.MustUnit("°C"), true, fit(surface.Radial, func(u []float64) float64 { return 5 + u[1] - u[0]*u[1] })}}}
}

// TestUnits of what comes out, at points inside.
func TestAt(t *testing.T) {
	y := function(t).At([]float64{3, 75})
	assert.InDelta(t, 900+300*0.25-100*0.25*0.5, y[0], 0.5)
	assert.InDelta(t, 350+5+0.0625-273.15, y[1], 1e-9)
	assert.InDelta(t, 5+0.5-0.125, y[2], 0.02)
}

// TestUnitIsImported: a C program loads the unit as an importer does, sets, steps and gets, and calls what is wrong.
func TestUnitIsImported(t *testing.T) {
	f := function(t)
	var data bytes.Buffer
	require.NoError(t, f.Write(t.Context(), &data, time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)))
	z, err := zip.NewReader(bytes.NewReader(data.Bytes()), int64(data.Len()))
	require.NoError(t, err)
	dir := t.TempDir()
	for _, e := range z.File {
		in, err := e.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(in)
		require.NoError(t, err)
		path := filepath.Join(dir, e.Name)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, text, 0o600))
	}
	assert.Equal(t, "modelDescription.xml", z.File[0].Name)
	var d description
	text, err := os.ReadFile(filepath.Join(dir, "modelDescription.xml"))
	require.NoError(t, err)
	require.NoError(t, xml.Unmarshal(text, &d))
	assert.Equal(t, "Rib_passage_h_more", d.Simulation.Identifier)
	require.Len(t, d.Variables, 6)
	assert.Equal(t, "60", *d.Variables[2].Min, "the ends may be given the other way round")
	assert.Equal(t, "90", *d.Variables[2].Max)
	assert.Equal(t, "K", d.Variables[5].Unit, "a difference has no offset")
	assert.Equal(t, &base{M: 1, Factor: 1e-3}, d.Units[0].Base)
	assert.Equal(t, &base{K: 1, Factor: 1, Offset: 273.15}, d.Units[1].Base)
	assert.Equal(t, "1 2", d.Structure.Outputs[0].Dependencies)

	importer := filepath.Join(dir, "importer")
	out, err := exec.Command("cc", "-std=c99", "-Wall", "-Wno-unused-function", "-D_GNU_SOURCE", "-o", importer, "testdata/importer.c", "-ldl").CombinedOutput()
	require.NoError(t, err, string(out))
	x := []float64{2.5, 81}
	out, err = exec.Command(importer, filepath.Join(dir, "binaries/x86_64-linux/Rib_passage_h_more.so"), d.Token, "2", "3", "2.5", "81").CombinedOutput()
	require.NoError(t, err, string(out))
	var y []string
	for _, v := range f.At(x) {
		y = append(y, fmt.Sprintf("%.10g", v))
	}
	var lines, got []string
	for _, l := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		if v, ok := strings.CutPrefix(l, "y "); ok {
			n, err := strconv.ParseFloat(v, 64)
			require.NoError(t, err)
			got = append(got, fmt.Sprintf("%.10g", n))
		} else if !strings.HasPrefix(l, "log ") {
			lines = append(lines, l)
		}
	}
	assert.Equal(t, y, got)
	assert.Equal(t, []string{"version 3.0", "wrong token 0", "no name 0", "step too early 3", "leave too early 3", "enter 0", "enter again 3", "set 0", "set an output 3", "set too few 3", "leave 0",
		"step 0", "last 2.5 0 0 0", "step back 3", "get 0", "time 0 2.5", "get far 3", "get text 3", "depends 0 2", "beyond 1", "nan 3", "other 0 3", "terminate 0", "set after 3", "reset 0", "get start 0 3",
		"nobody 3", "said 13"}, lines)
}

// TestFunctionsInOtherLanguages: the Go and the C file give what the surfaces do.
func TestFunctionsInOtherLanguages(t *testing.T) {
	f := function(t)
	dir := t.TempDir()
	write := func(name, text string) {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	write("go.mod", "module surface\n\ngo 1.22\n")
	write("surface.go", f.Go())
	write("surface_test.go", "package surface\n\nimport (\"fmt\"; \"testing\")\n\nfunc TestPrint(t *testing.T) { for _, y := range Surface([]float64{2.5, 81}) { fmt.Printf(\"y %.10g\\n\", y) } }\n")
	cmd := exec.Command("go", "test", "-v", "-run", "TestPrint", ".")
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "GOFLAGS=", "GOTOOLCHAIN=local")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	write("surface.c", f.C())
	write("surface.h", "void surface(const double x[], double y[]);\n")
	write("main.c", "#include <stdio.h>\n#include \"surface.h\"\nint main(void) { double x[] = {2.5, 81}, y[3]; surface(x, y); for (int i = 0; i < 3; i++) printf(\"y %.10g\\n\", y[i]); return 0; }\n")
	cmd = exec.Command("cc", "-std=c99", "-Wall", "-Werror", "-o", "main", "main.c", "surface.c", "-lm")
	cmd.Dir = dir
	built, err := cmd.CombinedOutput()
	require.NoError(t, err, string(built))
	run, err := exec.Command(filepath.Join(dir, "main")).CombinedOutput()
	require.NoError(t, err)
	for i, v := range f.At([]float64{2.5, 81}) {
		want := fmt.Sprintf("y %.10g", v)
		assert.Contains(t, string(out), want)
		assert.Equal(t, want, strings.Split(string(run), "\n")[i])
	}
}

// TestTable has the whole grid, its last input fastest.
func TestTable(t *testing.T) {
	f := function(t)
	head, lines := f.Table()
	assert.Equal(t, []string{"gap (mm)", "wall (°C)", "coefficient (W/(m²·K))", "hottest (°C)", "rise (°C)"}, head)
	require.Len(t, lines, 41*41)
	assert.Equal(t, []float64{2, 90}, lines[0][:2])
	assert.Equal(t, []float64{6, 60}, lines[len(lines)-1][:2])
	assert.Equal(t, f.At(lines[77][:2]), lines[77][2:])
}

func TestIdentifier(t *testing.T) {
	for text, want := range map[string]string{"Rib passage": "Rib_passage", "3 ribs (new)": "ribs_new", "÷": "surface", "a__b": "a__b"} {
		assert.Equal(t, want, Identifier(text))
	}
}

// TestNamesStayInComments: what people call a model or a reading is no code.
func TestNamesStayInComments(t *testing.T) {
	f := function(t)
	f.Name, f.Outputs[0].Name = "pan\n#error broken out \\", "heat ??/\nint main = 3;"
	for _, text := range []string{f.C(), f.Go()} {
		for _, l := range strings.Split(text, "\n") {
			assert.False(t, strings.HasPrefix(l, "#error") || strings.HasPrefix(l, "int main"), l)
			if strings.HasPrefix(l, "//") {
				assert.False(t, strings.HasSuffix(l, "\\") || strings.Contains(l, "??/"), l)
			}
		}
	}
	var data bytes.Buffer
	assert.NoError(t, f.Write(t.Context(), &data, time.Now()))
}
