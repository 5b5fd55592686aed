package frame_test

import (
	"errors"
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/couple"
	"saltkettle/core/formula"
	"saltkettle/core/frame"
	"saltkettle/core/law"
	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// stack is two slabs, one on the other, the upper one twice beside each other, on its mesh.
func stack(t *testing.T, conditions ...model.Sentence) *frame.Posing {
	t.Helper()
	d := model.New("stack")
	slab := func(id string, from, to string) model.Part {
		return model.Part{ID: id, Name: id, Material: "copper", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: "20 mm", Depth: "10 mm"}, Span: model.Span{From: from, To: to}}
	}
	lower, upper := slab("lower", "0 mm", "5 mm"), slab("upper", "5 mm", "8 mm")
	lower.Outline.Width = "60 mm"
	upper.Array = &model.Array{Count: "2", Pitch: "30 mm", Along: "x"}
	d.Parts = []model.Part{lower, upper}
	d.CarryAll()
	d.Conditions = conditions
	d.Mesh = model.Mesh{Size: "10 mm", Across: "1"}
	d.Enumerate()
	resolved, findings := model.Resolve(d, physics.Catalog())
	require.Empty(t, model.Blocking(findings))
	m, owners, err := resolved.MeshOf(t.Context(), 0, nil)
	require.NoError(t, err)
	site := &frame.Site{Model: resolved, Mesh: m}
	for _, i := range owners {
		site.Owner = append(site.Owner, [2]int{resolved.Bodies[i].Part, resolved.Bodies[i].Copy})
	}
	return &frame.Posing{Site: site, Context: t.Context()}
}

// TestPatchesOnAMesh: by part and copy, by side, by what they face, and exposed.
func TestPatchesOnAMesh(t *testing.T) {
	p := stack(t)
	assert.Len(t, p.BodiesOf(model.Patch{Part: "upper"}), 2)
	assert.Len(t, p.BodiesOf(model.Patch{Part: "upper", Copy: 2}), 1)
	assert.Equal(t, "upper 2", p.BodyName(p.BodiesOf(model.Patch{Part: "upper", Copy: 2})[0]))
	all := p.Facets(model.Patch{Part: "lower", Side: "top"}, false)
	free := p.Facets(model.Patch{Part: "lower", Side: "top"}, true)
	facing := p.Facets(model.Patch{Part: "lower", Facing: "upper"}, false)
	assert.Len(t, all, len(free)+len(facing))
	assert.NotEmpty(t, facing)
	assert.Equal(t, free, p.Facets(model.Patch{Part: "lower", Side: "top", Facing: model.Outside}, false))
	for _, k := range free {
		assert.True(t, p.Surface(k))
	}
	_, err := p.Region(model.Patch{Part: "upper", Side: "top", Facing: "lower"}, nil)
	assert.ErrorContains(t, err, "there is no")
	g, err := p.Region(model.Patch{Part: "lower"}, nil)
	require.NoError(t, err)
	assert.Nil(t, g.Facets)
}

// TestConditionsThatActNowhere are collected, each once, and said with their place.
func TestConditionsThatActNowhere(t *testing.T) {
	held := model.Sentence{ID: "c1", Kind: "heat.held", On: model.Patch{Part: "lower", Side: "bottom"}, Values: map[string]string{"temperature": "20 °C"}}
	lost := model.Sentence{ID: "c2", Kind: "heat.flux", On: model.Patch{Part: "upper", Side: "bottom", Facing: "lower"}, Values: map[string]string{"flux": "1 W/m²"}}
	p := stack(t, held, lost)
	list := p.Conditions("heat")
	require.Len(t, list, 2)
	assert.NotEmpty(t, p.On(list[0]))
	require.NoError(t, p.Err())
	assert.Empty(t, p.On(list[1]), "it lets heat in where nothing is solved beyond, and there is no such place")
	p.On(list[1])
	var bad *frame.ModelError
	require.ErrorAs(t, p.Err(), &bad)
	require.Len(t, bad.Findings, 1)
	assert.Equal(t, "conditions/c2/on", bad.Findings[0].Place)
	assert.Empty(t, p.Conditions("electric"))
}

func TestLevelsAndLooseParts(t *testing.T) {
	var l frame.Levels
	assert.Equal(t, 7., l.Mean(7))
	l.Add(formula.Fixed(300))
	l.Add(formula.Fixed(400))
	f, err := formula.Parse("300 K + 1 K*time/1 s")
	require.NoError(t, err)
	varies, err := f.Compile(formula.Environment{Variables: law.Variables})
	require.NoError(t, err)
	l.Add(varies)
	assert.Equal(t, 350., l.Mean(7), "what varies is no level")

	p := stack(t)
	err = p.Loose(&couple.LooseError{Bodies: []int32{2, 0, 1}}, "%s is loose", "fix it")
	assert.ErrorContains(t, err, "lower, the upper is loose")
	other := errors.New("other")
	assert.Equal(t, other, p.Loose(other, "%s", ""))
	assert.NoError(t, p.Loose(nil, "%s", ""))
}

func TestBeyondARange(t *testing.T) {
	f := &material.Function{From: 300, To: 400}
	assert.Empty(t, frame.Beyond(material.Conductivity, f, "clay", "it reaches", 300, 400))
	words := frame.Beyond(material.Conductivity, f, "clay", "it reaches", 300, 450)
	assert.Contains(t, words, "the conductivity of clay is known")
	assert.Contains(t, words, "it reaches")
	f.From = math.Inf(-1)
	assert.Contains(t, fmt.Sprint(frame.Beyond(material.Conductivity, f, "clay", "it reaches", 300, 450)), "up to")
}
