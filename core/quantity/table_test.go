package quantity

import (
	"flag"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write docs/units.md anew")

// unitsPage is the documentation of every unit, written from the table.
func unitsPage() string {
	var b strings.Builder
	b.WriteString(`# Units

Every unit that is read, from the one table of the program. Those with prefixes take
the prefixes of the SI: `)
	for i, p := range slices.Sorted(maps.Keys(prefixes)) {
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "%s (%g)", p, prefixes[p])
	}
	b.WriteString(". Units are joined as in `W/(m²·K)`, `W/m^2/K` or `W m-2 K-1`.\n\n| unit | name | in SI | prefixes |\n|---|---|---|---|\n")
	for _, name := range slices.SortedFunc(maps.Keys(symbols), func(x, y string) int {
		return strings.Compare(strings.ToLower(x)+x, strings.ToLower(y)+y)
	}) {
		s := symbols[name]
		si := fmt.Sprintf("%.9g %s", s.factor, s.dim)
		if s.dim == None {
			si = fmt.Sprintf("%.9g", s.factor)
		}
		if s.offset != 0 {
			si += fmt.Sprintf(", 0 %s is %.9g K", name, s.offset)
		}
		prefix := ""
		if s.prefixed {
			prefix = "yes"
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s |\n", name, s.about, si, prefix)
	}
	return b.String()
}

func TestReferenceOfUnits(t *testing.T) {
	const path = "../../docs/units.md"
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(unitsPage()), 0o644))
	}
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, string(data), unitsPage(), "docs/units.md is out of date: run make docs")
}
