package trial

import (
	"flag"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/sample"
)

var update = flag.Bool("update", false, "write the table of trials in docs/validation.md anew")

const (
	validationFile  = "../../docs/validation.md"
	validationBegin = "<!-- the table of trials is written by make docs -->\n"
	validationEnd   = "<!-- end of the table of trials -->\n"
)

// friedman of five parameters (J. H. Friedman, 1991).
func friedman(u []float64) map[string]float64 {
	return map[string]float64{"r1": 10*math.Sin(math.Pi*u[0]*u[1]) + 20*(u[2]-0.5)*(u[2]-0.5) + 10*u[3] + 5*u[4]}
}

// covered is the share of points that lie within the bands of 95 % of surfaces that are fitted to n of five designs.
func covered(t *testing.T, of func([]float64) map[string]float64, n, d int) float64 {
	inside, all := 0, 0
	for shift := range 5 {
		points := sample.Sobol(n*(shift+1), d)[n*shift:]
		s := cube(n, d, of)
		for j := range d {
			for i := range points {
				s.Axes[j].Values[i] = points[i][j]
			}
		}
		over(s, of)
		p := Predict(s)
		for _, x := range sample.Halton(200, d) {
			v, dev, err := p.At("r1", x)
			require.NoError(t, err)
			if e := v - of(x)["r1"]; e <= Within*dev && e >= -Within*dev {
				inside++
			}
			all++
		}
	}
	return float64(inside) / float64(all)
}

// TestTrialsTable: known optima, a known front, parts of a variance and how many points lie within the bands, as docs/validation.md says.
func TestTrialsTable(t *testing.T) {
	var b strings.Builder
	row := func(problem, what, reference, found, trials string) {
		fmt.Fprintf(&b, "| %s | %s | %s | %s | %s |\n", problem, what, reference, found, trials)
	}
	b.WriteString("\n| problem | compared | reference | found | trials |\n|---|---|---:|---:|---:|\n")
	least := []model.Aim{{Want: model.Least, Reading: "r1"}}
	for _, c := range []struct {
		name, method string
		first, d     int
		of           func([]float64) map[string]float64
		least, by    float64
	}{
		{"Branin, 2 parameters", "", 10, 2, branin, 0.397887, 0.01}, {"Branin, 2 parameters", model.Direct, 10, 2, branin, 0.397887, 0.01},
		{"Hartmann, 3 parameters", "", 20, 3, hartmann, -3.86278, 0.01},
	} {
		s := cube(c.first, c.d, c.of)
		s.Aims, s.Search.Method, s.Most, s.Within = least, c.method, 60, 1e-3
		s, made, _ := search(t, s, c.of)
		best, ok := s.Best()
		require.True(t, ok)
		assert.InDelta(t, c.least, best.Value, c.by, c.name)
		way := map[string]string{"": "by the surface", model.Direct: "directly"}[c.method]
		row(c.name, "least value, sought "+way, fmt.Sprintf("%.4g", c.least), fmt.Sprintf("%.4g", best.Value), fmt.Sprintf("%d + %d", c.first, len(made)))
	}
	for _, method := range []string{"", model.Evolution} {
		s := cube(24, 2, known)
		s.Aims, s.Search.Method, s.Most, s.Within = []model.Aim{{Want: model.Least, Reading: "r1"}, {Want: model.Least, Reading: "r2"}}, method, 48, 1e-9
		before := meanAbove(s)
		s, made, _ := search(t, s, known)
		after := meanAbove(s)
		assert.Less(t, after, 0.2*before)
		row("Fonseca and Fleming, 2 parameters", "mean distance of the front from the known one, sought "+map[string]string{"": "by the surface", model.Evolution: "by an evolution"}[method],
			"0", fmt.Sprintf("%.4f (%.3f before)", after, before), fmt.Sprintf("24 + %d", len(made)))
	}
	list, err := Predict(cube(200, 4, ishigami)).Sensitivities("r1")
	require.NoError(t, err)
	for j, want := range [][2]float64{{0.3139, 0.5576}, {0.4424, 0.4424}, {0, 0.2437}, {0, 0}} {
		s := &list[j]
		assert.InDelta(t, want[0], s.First, 0.03+2*s.FirstError)
		assert.InDelta(t, want[1], s.Total, 0.03+2*s.TotalError)
		row("Ishigami, 3 parameters and one that does nothing", fmt.Sprintf("part of the variance of parameter %d, alone; with others", j+1), fmt.Sprintf("%.3f; %.3f", want[0], want[1]),
			fmt.Sprintf("%.2f ± %.2f; %.2f ± %.2f", max(0, s.First), s.FirstError, s.Total, s.TotalError), "200")
	}
	for _, c := range []struct {
		name string
		of   func([]float64) map[string]float64
		n, d int
	}{{"Branin", branin, 20, 2}, {"Branin", branin, 40, 2}, {"Ishigami", ishigami, 120, 3}, {"Friedman", friedman, 60, 6}, {"Friedman", friedman, 120, 6}} {
		share := covered(t, c.of, c.n, c.d)
		assert.True(t, share > 0.9 && share < 0.98, "%s of %d: %.3f", c.name, c.n, share)
		row(fmt.Sprintf("%s, %d parameters", c.name, c.d), "share of other points within the band of 95 %, five designs", "0.90 to 0.98", fmt.Sprintf("%.2f", share), fmt.Sprint(c.n))
	}
	b.WriteString("\n")
	doc, err := os.ReadFile(validationFile)
	require.NoError(t, err)
	head, rest, found := strings.Cut(string(doc), validationBegin)
	require.True(t, found)
	kept, tail, found := strings.Cut(rest, validationEnd)
	require.True(t, found)
	if *update {
		require.NoError(t, os.WriteFile(validationFile, []byte(head+validationBegin+b.String()+validationEnd+tail), 0o644))
		return
	}
	assert.Equal(t, kept, b.String(), "docs/validation.md is out of date: run make docs")
}
