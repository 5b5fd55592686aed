package table

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestNoTextIsTakenForAFormula: what a sheet would work out is text, numbers stay numbers, and
// every text comes back.
func TestNoTextIsTakenForAFormula(t *testing.T) {
	for text, want := range map[string]string{
		"":                "",
		"Brass":           "Brass",
		"=1+1":            "'=1+1",
		`=HYPERLINK("x")`: `'=HYPERLINK("x")`,
		"+7 K":            "'+7 K",
		"-7 K":            "'-7 K",
		"@SUM(A1)":        "'@SUM(A1)",
		"\t=1":            "'\t=1",
		"\r=1":            "'\r=1",
		"'=1":             "''=1",
		"'quoted'":        "'quoted'",
		"'":               "'",
		"-7.5e-3":         "-7.5e-3",
		"+3":              "+3",
		"-Inf":            "-Inf",
		"a=b":             "a=b",
	} {
		assert.Equal(t, want, Plain(text), "%q", text)
		assert.Equal(t, text, Raw(Plain(text)), "%q", text)
	}
}

func TestWriter(t *testing.T) {
	var b strings.Builder
	w := NewWriter(&b)
	require.NoError(t, w.Write([]string{"name", "value, K"}))
	require.NoError(t, w.Write([]string{"=cmd|' /C x'!A0", "-3"}))
	require.NoError(t, w.Flush())
	assert.Equal(t, "name,\"value, K\"\n'=cmd|' /C x'!A0,-3\n", b.String())
	w = NewWriter(full{})
	_ = w.Write([]string{"a"})
	assert.Error(t, w.Flush(), "a writer that is full is told")
}

type full struct{}

func (full) Write([]byte) (int, error) { return 0, assert.AnError }

func FuzzPlain(f *testing.F) {
	f.Add("'=1")
	f.Fuzz(func(t *testing.T, text string) {
		assert.Equal(t, text, Raw(Plain(text)))
	})
}
