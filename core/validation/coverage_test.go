package validation

import (
	"fmt"
	"math"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/solve"
)

// class is cases of one kind of difficulty.
type class struct {
	name  string
	cases []Case
	// fewer takes the coarsest mesh of each case alone, for cases that take long.
	fewer bool
	// tolerances of steps in time, for runs in time.
	tolerances []string
}

func classes() []class {
	return []class{
		{name: "smooth", cases: slices.Concat(Heat(), Flat(), Laws())},
		{name: "singular", cases: Singular()},
		{name: "in time", cases: Time(), tolerances: []string{"", "0.1 %"}},
		{name: "coupled", cases: Electric()},
		{name: "radiation", cases: slices.Concat(Exchange(), Radiation()), fewer: true},
	}
}

// honesty is how often the true error of readings lies within the stated one.
type honesty struct {
	held, all int
	ratios    []float64 // stated over true
	missed    strings.Builder
}

const (
	coverageBegin = "<!-- the table of stated errors is written by make docs -->\n"
	coverageEnd   = "<!-- end of the table of stated errors -->\n"
)

// TestStatedErrorsAreHonest runs the cases whose answers are not contained in the elements on
// meshes of several sizes, and counts by class how often the true error lies within the
// stated one: in nine of ten readings at least. No reading may lack a stated error.
func TestStatedErrorsAreHonest(t *testing.T) {
	total := 0
	var table strings.Builder
	table.WriteString("\n| class | readings | true error within the stated one | median of stated over true |\n|---|---:|---:|---:|\n")
	for _, g := range classes() {
		var h honesty
		for i := range g.cases {
			g.measure(t, &g.cases[i], &h)
		}
		total += h.all
		slices.Sort(h.ratios)
		assert.GreaterOrEqual(t, float64(h.held), 0.9*float64(h.all), "%s: %d of %d\n%s", g.name, h.held, h.all, &h.missed)
		median := "the references are approximate"
		if len(h.ratios) > 0 {
			median = fmt.Sprintf("%.1f", h.ratios[len(h.ratios)/2])
		}
		fmt.Fprintf(&table, "| %s | %d | %d %% | %s |\n", g.name, h.all, 100*h.held/h.all, median)
		t.Logf("%s: %d of %d\n%s", g.name, h.held, h.all, &h.missed)
	}
	require.GreaterOrEqual(t, total, 200)
	table.WriteString("\n")
	data, err := os.ReadFile(page)
	require.NoError(t, err)
	head, rest, ok := strings.Cut(string(data), coverageBegin)
	require.True(t, ok, "the mark in %s is missing", page)
	old, tail, ok := strings.Cut(rest, coverageEnd)
	require.True(t, ok, "the mark in %s is missing", page)
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(head+coverageBegin+table.String()+coverageEnd+tail), 0o644))
		return
	}
	// The shares may differ by a reading or two where processors round differently.
	was, is := strings.Split(old, "\n"), strings.Split(table.String(), "\n")
	require.Len(t, is, len(was))
	for i := range is {
		a, b := strings.Split(was[i], "|"), strings.Split(is[i], "|")
		if len(b) != 6 || strings.HasPrefix(is[i], "|--") || strings.HasPrefix(is[i], "| class") {
			require.Equal(t, was[i], is[i])
			continue
		}
		require.Equal(t, a[:3], b[:3], "docs/validation.md is out of date: run make docs")
		require.InDelta(t, percent(t, a[3]), percent(t, b[3]), 4, "docs/validation.md is out of date: run make docs")
	}
}

func percent(t *testing.T, text string) float64 {
	v, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(text), "%")), 64)
	require.NoError(t, err)
	return v
}

// measure takes the readings of a case.
func (g *class) measure(t *testing.T, c *Case, h *honesty) {
	if c.Exact {
		return // that the error is round-off would count for nothing
	}
	sizes := c.Sizes
	if g.fewer {
		sizes = sizes[:1]
	}
	for _, size := range sizes {
		mm, unit, _ := strings.Cut(size, " ")
		length, err := strconv.ParseFloat(mm, 64)
		require.NoError(t, err)
		for _, factor := range []float64{1, 0.8, 1.3} {
			for _, tolerance := range g.steps() {
				g.take(t, c, fmt.Sprintf("%g %s", factor*length, unit), tolerance, h)
			}
		}
	}
}

func (g *class) steps() []string {
	if len(g.tolerances) == 0 {
		return []string{""}
	}
	return g.tolerances
}

func (g *class) take(t *testing.T, c *Case, size, tolerance string, h *honesty) {
	doc := c.Document(size)
	if doc.Transient() {
		doc.Run.Tolerance = tolerance
	}
	r, err := solve.Run(t.Context(), doc, solve.Options{EstimateWithin: -1})
	require.NoError(t, err)
	q := r.Readings[0]
	require.NotNil(t, q.Error, "%s, %s: %s", c.Name, size, q.Unknown)
	// Shown and SI values differ by a factor or a zero point only. An approximate reference
	// is itself off by as much as it is known to.
	truth := max(0, math.Abs(q.Shown.Value-c.Reference)-c.Within*math.Abs(c.Reference))
	stated := *q.Error * factor(q.Value, q.Shown.Value)
	h.all++
	if c.Within == 0 {
		h.ratios = append(h.ratios, stated/max(truth, 1e-12*math.Abs(c.Reference)))
	}
	if truth <= stated {
		h.held++
	} else {
		fmt.Fprintf(&h.missed, "%s, %s: error %.3g, stated %.3g (%+v)\n", c.Name, size, truth, stated, q.Errors)
	}
	assert.Less(t, stated, math.Abs(c.Reference), "an estimate that says nothing: %s, %s", c.Name, size)
}

// factor is the ratio of the unit shown to SI where it is not a shifted one.
func factor(si, shown float64) float64 {
	if si == 0 || math.Abs(shown-si) < 300 && math.Abs(si-shown-273.15) < 1e-6 {
		return 1
	}
	return math.Abs(shown / si)
}
