package physics

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// exceptions are the files outside of the folders of physics that know one by name, and how many
// lines of them do. They become fewer: what a file needs of a physics the physics says of itself.
var exceptions = map[string]int{
	"app/web/brief.go":        1,
	"app/web/fields.go":       3,
	"app/web/physics.go":      1,
	"core/formula/compile.go": 2,
	"core/model/current.go":   21,
	"core/model/diff.go":      2,
	"core/model/document.go":  2,
	"core/model/edit.go":      2,
	"core/model/parts.go":     2,
	"core/model/resolve.go":   5,
	"core/model/use.go":       1,
	"core/result/folder.go":   1,
	"core/result/result.go":   1,
	"core/solve/account.go":   5,
	"core/solve/enclosure.go": 6,
	"core/solve/formula.go":   1,
	"core/solve/judge.go":     6,
	"core/solve/march.go":     3,
	"core/solve/memory.go":    2,
	"core/solve/pose.go":      64,
	"core/solve/ranges.go":    2,
	"core/solve/read.go":      16,
	"core/solve/terminal.go":  1,
}

// named finds the key of a physics, of one of its sentences, or the name of one of its fields.
var named = regexp.MustCompile(`"(heat|electric)[".]|\b(heat|electric)\.[A-Z]|"(temperature|potential|heat_flux|current_density|joule_heat|electric_field)"|r\.(out|model)\.(Heat|Electric|Static)\b`)

// TestPhysicsAreNamedInTheirFoldersAlone but for exceptions, which may not grow.
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
				if !strings.HasPrefix(strings.TrimSpace(line), "//") && named.MatchString(line) {
					found[name]++
				}
			}
			return err
		})
		require.NoError(t, err)
	}
	for name, n := range found {
		assert.LessOrEqual(t, n, exceptions[name], "%s names a physics in %d lines", name, n)
	}
	for name, n := range exceptions {
		assert.Equal(t, n, found[name], "%s names a physics in fewer lines now: say so here", name)
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
