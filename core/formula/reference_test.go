package formula

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/quantity"
)

var update = flag.Bool("update", false, "write the tables of docs/formulas.md anew")

const (
	page = "../../docs/formulas.md"
	mark = "<!-- what follows is written by make docs -->\n"
)

// tables lists the functions and the reductions.
func tables() string {
	var b strings.Builder
	b.WriteString("\n## Functions\n\n| function | what it gives |\n|---|---|\n")
	for _, name := range slices.Sorted(maps.Keys(functions)) {
		fmt.Fprintf(&b, "| `%s` | %s |\n", functions[name].use, functions[name].does)
	}
	b.WriteString("\n## Reductions\n\n| reduction | what it gives |\n|---|---|\n")
	for _, name := range slices.Sorted(maps.Keys(reductions)) {
		use := name + "(quantity over part)"
		if name == "at" {
			use = "at(quantity, x, y, z)"
		} else if timeReductions[name] != "" {
			use = name + "(reading over time, " + map[bool]string{true: "value", false: "period"}[name == "crossing"] + ")"
		}
		fmt.Fprintf(&b, "| `%s` | %s |\n", use, reductions[name])
	}
	return b.String()
}

// TestReference keeps the page of formulas up to date and tries its examples.
func TestReference(t *testing.T) {
	data, err := os.ReadFile(page)
	require.NoError(t, err)
	head, old, ok := strings.Cut(string(data), mark)
	require.True(t, ok)
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(head+mark+tables()), 0o644))
		old = tables()
	}
	assert.Equal(t, old, tables(), "docs/formulas.md is out of date: run make docs")
	count := 0
	points := append([]Variable{{Name: "heat_flux_z", Dimension: quantity.MustUnit("W/m²").Dimension}}, field...)
	for _, block := range regexp.MustCompile("(?s)```\n(.*?)```").FindAllStringSubmatch(head, -1) {
		for _, text := range strings.Split(strings.TrimSpace(block[1]), "\n") {
			f, err := Parse(text)
			require.NoError(t, err, text)
			_, err = f.Compile(Environment{Variables: field, Points: points, Moments: []Variable{field[0], Time}})
			if strings.Contains(text, "over time") {
				_, err = f.Compile(Environment{Moments: []Variable{{Name: "r1", Dimension: field[0].Dimension, Temperature: true}, Time}})
			}
			assert.NoError(t, err, text)
			count++
		}
	}
	assert.Greater(t, count, 14)
	for _, v := range append(slices.Clone(Coordinates), Time) {
		assert.Contains(t, head, "`"+v.Name+"`")
	}
	for _, name := range fields {
		assert.Contains(t, head, "`"+name+"`", "what a formula may use is written down")
	}
	for name, f := range functions {
		assert.True(t, strings.HasPrefix(f.use, name+"("), name)
		assert.NotEmpty(t, f.does, name)
	}
}
