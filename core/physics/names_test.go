package physics

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/formula"
)

// exceptions are the files outside of the folders of physics that know one by name, how many
// lines of them do, and why.
var exceptions = map[string]struct {
	lines int
	why   string
}{
	"core/law/law.go":        {1, "laws may depend on the temperature"},
	"core/couple/supply.go":  {1, "a quantity that is exchanged"},
	"core/model/document.go": {2, "what a new model begins with"},
	"core/result/folder.go":  {1, "results of older versions"},
	"core/result/result.go":  {1, "results of older versions"},
}

// named finds the key of a physics, of one of its sentences, or the name of one of its fields
// or of what follows from them, in quotes, and its folder. A
// key alone may be a word for something else too, as that of solids is for a space.
var named = sync.OnceValue(func() *regexp.Regexp {
	var keys, names []string
	for _, p := range All {
		keys = append(keys, p.Key)
		for _, f := range p.Plates {
			names = append(names, f.Name)
		}
		for _, v := range p.Derived {
			names = append(names, v.Name)
		}
	}
	k, n := strings.Join(keys, "|"), strings.Join(names, "|")
	return regexp.MustCompile(`"(` + k + `)\.|"(heat|electric)"|core/physics/(` + k + `)"|"(` + n + `)"`)
})

// TestPhysicsAreNamedInTheirFoldersAlone but for exceptions.
func TestPhysicsAreNamedInTheirFoldersAlone(t *testing.T) {
	root := filepath.Join("..", "..")
	found := map[string]int{}
	for _, tree := range []string{"core", "app", "cmd"} {
		err := filepath.WalkDir(filepath.Join(root, tree), func(path string, e fs.DirEntry, err error) error {
			if err != nil || e.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			name, err := filepath.Rel(root, path)
			if err != nil {
				return err
			}
			name = filepath.ToSlash(name)
			for _, own := range []string{"core/physics/", "core/validation/", "core/material/", "core/quantity/"} {
				if strings.HasPrefix(name, own) {
					return nil // cases and properties are about physics
				}
			}
			text, err := os.ReadFile(path)
			for line := range strings.Lines(string(text)) {
				if !strings.HasPrefix(strings.TrimSpace(line), "//") && named().MatchString(line) {
					found[name]++
				}
			}
			return err
		})
		require.NoError(t, err)
	}
	for name, n := range found {
		assert.LessOrEqual(t, n, exceptions[name].lines, "%s names a physics in %d lines", name, n)
	}
	for name, e := range exceptions {
		assert.Equal(t, e.lines, found[name], "%s names a physics in fewer lines now: say so here", name)
	}
}

// TestFieldsOfPlates are those that are solved for, then those that follow.
func TestFieldsOfPlates(t *testing.T) {
	derived := false
	for _, f := range Catalog().Fields {
		assert.NotEmpty(t, f.Units, f.Name)
		assert.True(t, f.Derived || !derived, "%s comes after what follows from it", f.Name)
		derived = f.Derived
	}
	f, ok := Catalog().Field("current_density")
	require.True(t, ok)
	assert.Equal(t, "current density", f.Words())
	_, ok = Catalog().Field("hue")
	assert.False(t, ok)
}

// TestFieldsAreWrittenDown: what a formula may use is in its documentation, and no parameter may
// be called so.
func TestFieldsAreWrittenDown(t *testing.T) {
	text, err := os.ReadFile(filepath.Join("..", "..", "docs", "formulas.md"))
	require.NoError(t, err)
	for _, v := range Quantities {
		assert.Contains(t, string(text), "`"+v.Name+"`")
		assert.True(t, formula.IsReserved(v.Name), v.Name)
	}
}
