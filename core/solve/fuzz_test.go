package solve_test

import (
	"context"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/result"
	"saltkettle/core/solve"
	"saltkettle/examples/spoilt"
)

// FuzzRun: whatever the parser accepts is refused in words, stopped, or solved; what reads as
// settled has numbers that are numbers.
func FuzzRun(f *testing.F) {
	for i, value := range spoilt.Texts {
		for leaf := range uint(24) {
			if leaf%12 == uint(i) {
				f.Add(leaf%7, 5*leaf, value, leaf*3, "1")
			}
		}
	}
	f.Add(uint(5), uint(347), "1e308 m", uint(120), "2") // outlines of such sizes never ended to be compared
	f.Fuzz(func(t *testing.T, example, first uint, value string, second uint, other string) {
		doc, ok, err := spoilt.Model(example, first, value, second, other)
		require.NoError(t, err)
		if !ok {
			return
		}
		if _, findings := model.Resolve(doc, physics.Catalog()); len(model.Blocking(findings)) > 0 {
			return
		}
		ctx, cancel := context.WithTimeout(t.Context(), 2*time.Second)
		defer cancel()
		o, err := solve.Run(ctx, doc, solve.Options{MaxCells: 3000})
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		if o.Status != result.Settled {
			require.NotEmpty(t, o.Reason)
			return
		}
		for _, q := range o.Readings {
			require.True(t, q.Missing != "" || !math.IsNaN(q.Value) && !math.IsInf(q.Value, 0), q.Key)
		}
	})
}
