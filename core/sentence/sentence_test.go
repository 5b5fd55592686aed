package sentence

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func kind(template string) Kind {
	return Kind{Key: "x", Group: Condition, Template: template, Slots: []Slot{{Name: "power", Unit: "W"}, {Name: "fluid", Kind: Text}}}
}

func TestWordsAndFragments(t *testing.T) {
	k := kind("The {on} gives {power} to {fluid}.")
	f := k.Fragments()
	require.Len(t, f, 7)
	assert.True(t, f[1].On)
	assert.Equal(t, "power", f[3].Slot.Name)
	assert.Equal(t, "The lid gives 3 W to ….", k.Words("lid", map[string]string{"power": " 3 W "}))
	_, ok := k.Slot("speed")
	assert.False(t, ok)
}

func TestMistakesInDefinitionsPanic(t *testing.T) {
	for _, template := range []string{"The {on", "The {speed}."} {
		assert.Panics(t, func() { NewCatalog([]Kind{kind(template)}) }, template)
	}
	assert.Panics(t, func() { NewCatalog([]Kind{kind("a")}, []Kind{kind("b")}) }, "two of one key")
	bad := kind("a {power}")
	bad.Slots[0].Unit = "wat"
	assert.Panics(t, func() { NewCatalog([]Kind{bad}) })
	c := NewCatalog([]Kind{kind("a")})
	assert.Len(t, c.Group(Condition), 1)
	assert.Empty(t, c.Group(Reading))
	assert.Equal(t, `"x"`, c.Keys(Condition))
}
