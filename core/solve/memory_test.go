package solve

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
)

// TestMemoryOfFlows is forecast to within 40 % of what was measured: a box whose lid moves took 1.07 GB with 179,912 unknowns
// in a section.
func TestMemoryOfFlows(t *testing.T) {
	d := gutter("plane")
	d.Space.Unit = "m"
	d.Parts[0].Outline, d.Parts[0].Place = model.Outline{Kind: "rectangle", Width: "1 m", Depth: "1 m"}, model.Place{}
	d.Conditions = []model.Sentence{d.Conditions[0], {ID: "c2", Kind: "flow.wall-moves", On: model.Patch{Part: "gut", Side: "back"}, Values: map[string]string{"x": "1 m/s"}}}
	d.Mesh.Size, d.Readings = "0.0075 m", nil
	_, err := Run(t.Context(), d, Options{Memory: 1})
	var full *MemoryError
	require.True(t, errors.As(err, &full), err)
	assert.InEpsilon(t, 1.07*(1<<30), float64(full.Need), 0.4)
}
