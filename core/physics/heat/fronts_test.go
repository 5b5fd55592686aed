package heat

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/model"
	"saltkettle/core/sentence"
)

// TestTheColdestThatThereCanBe is the least temperature that is said, if nothing takes heat away.
func TestTheColdestThatThereCanBe(t *testing.T) {
	kinds := map[string]*sentence.Kind{}
	for _, k := range Kinds() {
		kinds[k.Key] = &k
	}
	said := func(kind, slot string, value float64) *model.ResolvedSentence {
		return &model.ResolvedSentence{Sentence: &model.Sentence{Kind: kind}, Definition: kinds[kind], Laws: map[string]*formula.Program{slot: formula.Fixed(value)}}
	}
	coldest := func(list ...*model.ResolvedSentence) (float64, bool) {
		return (&draft{Posing: &frame.Posing{}, conditions: list}).coldest()
	}
	v, known := coldest(said(KeyHeld, "temperature", 310), said(KeyHeld, "temperature", 293), said(KeySource, "power", 5))
	assert.True(t, known)
	assert.Equal(t, 293., v)
	_, known = coldest(said(KeyHeld, "temperature", 310), said(KeySource, "power", -5))
	assert.False(t, known, "something takes heat away")
	_, known = coldest(said(KeySource, "power", 5))
	assert.False(t, known, "nothing is said")
}
