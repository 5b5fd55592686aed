package validation

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the table in docs/validation.md anew")

const (
	page  = "../../docs/validation.md"
	begin = "<!-- the table below is written by make docs -->\n"
)

// TestValidation runs every case and compares the table in the documentation
// with what was measured.
func TestValidation(t *testing.T) {
	var list []*Outcome
	for _, c := range All() {
		o, err := c.Run(t.Context())
		require.NoError(t, err)
		for _, r := range o.Rows {
			assert.True(t, r.Settled, c.Name)
			assert.Less(t, r.Closure, 1e-8, c.Name)
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
			assert.Less(t, finest, 2e-3, c.Name)
		}
		list = append(list, o)
	}
	require.NotEmpty(t, list)
	data, err := os.ReadFile(page)
	require.NoError(t, err)
	head, old, ok := strings.Cut(string(data), begin)
	require.True(t, ok, "the mark in %s is missing", page)
	table := "\n" + Table(list)
	if *update {
		require.NoError(t, os.WriteFile(page, []byte(head+begin+table), 0o644))
		return
	}
	assert.Equal(t, old, table, "docs/validation.md is out of date: run make docs")
}
