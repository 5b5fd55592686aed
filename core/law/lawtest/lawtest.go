// Package lawtest makes laws for tests.
package lawtest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"saltkettle/core/formula"
	"saltkettle/core/law"
)

// Of is the law of a text.
func Of(t *testing.T, text string) law.Law {
	t.Helper()
	f, err := formula.Parse(text)
	require.NoError(t, err)
	p, err := f.Compile(formula.Environment{Variables: law.Variables})
	require.NoError(t, err)
	return p
}
