package material

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLibraryIsComplete(t *testing.T) {
	list := Library()
	require.GreaterOrEqual(t, len(list), 60)
	seen := map[string]bool{}
	for _, m := range list {
		assert.False(t, seen[m.Name], "%s stands twice", m.Name)
		seen[m.Name] = true
		assert.True(t, slices.Contains(Families, m.Family), "%s: family %q", m.Name, m.Family)
		for _, d := range Definitions {
			_, err := m.SI(d.Key)
			assert.NoError(t, err)
			assert.NotEmpty(t, m.Properties[d.Key].Source, "%s, %s", m.Name, d.Name)
		}
		// A solid or fluid whose diffusivity lies outside what nature offers has a
		// slip in one of its three values.
		k, _ := m.SI(Conductivity)
		rho, _ := m.SI(Density)
		c, _ := m.SI(HeatCapacity)
		diffusivity := k / (rho * c)
		assert.Greater(t, diffusivity, 2e-8, m.Name)
		assert.Less(t, diffusivity, 3e-4, m.Name)
	}
}

func TestSIRefusesWhatDoesNotFit(t *testing.T) {
	m := Material{Name: "mud", Properties: map[Key]Property{
		Density: {Value: "1.8 kg"}, Conductivity: {Value: "-2 W/(m·K)"}, HeatCapacity: {Value: "much"}}}
	for k, part := range map[Key]string{Density: "a mass", Conductivity: "greater than zero", HeatCapacity: "does not begin with a number"} {
		_, err := m.SI(k)
		assert.ErrorContains(t, err, part)
	}
	_, err := Material{Name: "mud"}.SI(Density)
	assert.ErrorContains(t, err, "mud has no density")
	steel, ok := Find(Library(), " Steel 304 ")
	require.True(t, ok)
	v, err := steel.SI(Conductivity)
	require.NoError(t, err)
	assert.Equal(t, 14.9, v)
}
