package formula_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/formula"
)

// TestMentions: whatever a formula uses it mentions.
func TestMentions(t *testing.T) {
	for text, names := range map[string][]string{"2*pitch + 1 mm": {"pitch"}, "α_1/3": {"α_1"}, "a1": {"a1"}, "min(t, 2*t2)": {"t", "t2"}, "3 mm": nil, "": nil, "1e5*x": {"x"}} {
		for _, n := range []string{"pitch", "α_1", "a1", "t", "t2", "x", "a"} {
			got := formula.Mentions(text, func(word string) bool { return word == n })
			want := false
			for _, m := range names {
				want = want || m == n
			}
			assert.Equal(t, want, got, "%s in %s", n, text)
			if f, err := formula.Parse(text); err == nil {
				for _, used := range f.Names() {
					assert.True(t, formula.Mentions(text, func(word string) bool { return word == used }))
				}
			}
		}
	}
}
