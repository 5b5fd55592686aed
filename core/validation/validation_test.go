package validation

import (
	"cmp"
	"flag"
	"math"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the table in docs/validation.md anew")

const (
	page  = "../../docs/validation.md"
	begin = "<!-- the table below is written by make docs -->\n"
	long  = "<!-- the table below is written by make docs with KETTLE_LONG=1 -->\n"
)

// TestValidation runs every case and compares the table in the documentation
// with what was measured.
func TestValidation(t *testing.T) { validate(t, All(), begin, long) }

// TestLongValidation is that of cases that take minutes.
func TestLongValidation(t *testing.T) {
	if os.Getenv("KETTLE_LONG") == "" {
		t.Skip("it takes minutes: make nightly has it")
	}
	validate(t, Wide(), long, "")
}

// validate runs cases whose table stands between two marks in the documentation.
func validate(t *testing.T, cases []Case, after, before string) {
	var list []*Outcome
	for _, c := range cases {
		o, err := c.Run(t.Context())
		require.NoError(t, err)
		for _, r := range o.Rows {
			assert.True(t, r.Settled, c.Name)
			assert.Less(t, r.Closure, cmp.Or(c.Closes, 1e-8), c.Name)
			if c.Exact {
				assert.Less(t, r.Error, 1e-8, c.Name)
			}
		}
		finest := o.Rows[len(o.Rows)-1].Error
		switch {
		case c.Within > 0:
			assert.Less(t, finest, c.Within, c.Name)
		case !c.Exact:
			assert.GreaterOrEqual(t, o.Order, c.MinOrder, c.Name)
			most := c.Finest
			if most == 0 {
				most = 2e-3
			}
			assert.Less(t, finest, most, c.Name)
		}
		list = append(list, o)
	}
	require.NotEmpty(t, list)
	data, err := os.ReadFile(page)
	require.NoError(t, err)
	head, old, ok := strings.Cut(string(data), after)
	require.True(t, ok, "the mark in %s is missing", page)
	rest := ""
	if before != "" {
		old, rest, ok = strings.Cut(old, before)
		require.True(t, ok, "the mark in %s is missing", page)
		rest = before + rest
	}
	table := "\n" + Table(list)
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(head+after+table+rest), 0o644))
		return
	}
	compareTables(t, old, table)
}

// compareTables demands that two tables have the same words and about the same numbers:
// other processors round differently.
func compareTables(t *testing.T, old, now string) {
	t.Helper()
	was, is := strings.Fields(old), strings.Fields(now)
	require.Len(t, is, len(was), "docs/validation.md is out of date: run make docs")
	for i, text := range is {
		a, errA := strconv.ParseFloat(strings.TrimSuffix(was[i], "."), 64)
		b, errB := strconv.ParseFloat(strings.TrimSuffix(text, "."), 64)
		if errA != nil || errB != nil {
			require.Equal(t, was[i], text, "docs/validation.md is out of date: run make docs")
			continue
		}
		within := 1e-4 * max(math.Abs(a), math.Abs(b))
		if strings.HasSuffix(text, ".") {
			within = 0.1 // an order of convergence: the logarithm of a quotient of errors
		}
		if strings.Contains(text, "e-") || strings.Contains(was[i], "e-") {
			within = max(1e-8, 0.1*max(a, b)) // an error
		}
		require.InDelta(t, a, b, within, "%s in docs/validation.md is out of date: run make docs", strings.Join(was[max(0, i-6):i+1], " "))
	}
}

func TestTablesAreComparedAsNumbers(t *testing.T) {
	const table = "| 5 mm | 229.264 K | 1.0e-03 | order: 3.34."
	compareTables(t, table, "| 5 mm | 229.265 K | 1.05e-03 | order: 3.33.")
	for _, other := range []string{
		"| 5 mm | 229.364 K | 1.0e-03 | order: 3.34.", "| 5 mm | 229.264 K | 1.3e-03 | order: 3.34.",
		"| 5 mm | 229.264 W | 1.0e-03 | order: 3.34.", "| 5 mm | 229.264 K | 1.0e-03 | order: 3.14.", "| 5 mm |",
	} {
		failed := &testing.T{}
		done := make(chan bool)
		go func() {
			defer close(done)
			compareTables(failed, table, other)
		}()
		<-done
		assert.True(t, failed.Failed(), other)
	}
}
