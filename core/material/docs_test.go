package material_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
)

// TestReferencesAreWrittenDown: the page of materials has the table of correlations as they are.
func TestReferencesAreWrittenDown(t *testing.T) {
	page, err := os.ReadFile("../../docs/materials.md")
	require.NoError(t, err)
	for _, r := range material.References {
		names := make([]string, len(r.Arguments))
		for i, v := range r.Arguments {
			names[i] = v.Name
		}
		row := fmt.Sprintf("| `%s(%s)` | %s | %s |\n", r.Name, strings.Join(names, ", "), r.Does, r.Source)
		assert.Contains(t, string(page), row)
	}
}
