package model_test

import (
	"bytes"
	"cmp"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strings"
	"testing"

	generate "github.com/invopop/jsonschema"
	validate "github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/physics/body"
	"saltkettle/core/result"
	"saltkettle/core/sentence"
	"saltkettle/core/solve"
)

var update = flag.Bool("update", false, "write docs/model.md and docs/model.schema.json anew")

const (
	referencePage = "../../docs/model.md"
	schemaFile    = "../../docs/model.schema.json"
	referenceMark = "<!-- what follows is written by make docs -->\n"
)

// schema is the JSON Schema of a model file, made from the types.
func schema(t *testing.T) []byte {
	t.Helper()
	r := &generate.Reflector{Anonymous: true, DoNotReference: false}
	r.Mapper = func(kind reflect.Type) *generate.Schema {
		if kind == reflect.TypeFor[model.Patch]() { // it writes itself
			return &generate.Schema{Ref: "#/$defs/PatchFile"}
		}
		return nil
	}
	s := r.Reflect(&model.Document{})
	own := r.Reflect(&model.PatchFile{})
	s.Definitions["PatchFile"], s.Definitions["Box"] = own.Definitions["PatchFile"], own.Definitions["Box"]
	s.Title = fmt.Sprintf("A model of Salt Kettle, version %d", model.Version)
	data, err := json.MarshalIndent(s, "", "  ")
	require.NoError(t, err)
	return append(data, '\n')
}

// reference writes the sentences of the catalogue as a table each.
func reference(cat *model.Catalog) string {
	var b strings.Builder
	for _, g := range []struct {
		group sentence.Group
		title string
	}{{sentence.Condition, "Conditions"}, {sentence.Reading, "Readings"}} {
		fmt.Fprintf(&b, "\n## %s\n", g.title)
		for _, k := range cat.Group(g.group) {
			fmt.Fprintf(&b, "\n### `%s`\n\n%s\n\n", k.Key, k.Title)
			fmt.Fprintf(&b, "> %s\n\n", k.Template)
			var on []string
			if k.Acts&sentence.Bodies != 0 {
				on = append(on, "whole parts")
			}
			if k.Acts&sentence.Surfaces != 0 {
				surfaces := "surfaces"
				if k.Exposed {
					surfaces += " with nothing solved beyond them"
				}
				on = append(on, surfaces)
			}
			if len(on) > 0 {
				fmt.Fprintf(&b, "Acts on %s.", strings.Join(on, " or on "))
			} else {
				b.WriteString("Has no `on`.")
			}
			if k.Group == sentence.Reading && k.Key != body.KeyFormula {
				fmt.Fprintf(&b, " Shown in %s unless `unit` says otherwise.", cmp.Or(k.Unit, "a plain number"))
			}
			b.WriteString("\n")
			if len(k.Slots) == 0 {
				continue
			}
			b.WriteString("\n| value | what it is | for example in | rules |\n|---|---|---|---|\n")
			for _, s := range k.Slots {
				unit, rules := s.Unit, ""
				if s.Kind == sentence.Text {
					unit, rules = "words", ""
				}
				if s.Temperature {
					rules = "a temperature on a scale or in K, above absolute zero"
				}
				if s.Positive {
					rules = "greater than zero"
				}
				if s.Within != nil {
					rules = fmt.Sprintf("from %g to %g", s.Within.Least, s.Within.Most)
				}
				if s.Without != "" {
					rules = "may be left out: " + s.Without
				}
				var may []string
				if s.May&sentence.Place != 0 {
					may = append(may, "differ from place to place")
				}
				if s.May&sentence.Fields != 0 {
					may = append(may, "depend on the temperature")
				}
				if s.May&sentence.Moment != 0 {
					may = append(may, "change in time")
				}
				if len(may) > 0 {
					rules += "; may " + strings.Join(may, ", ")
				}
				if s.Kind == sentence.Formula {
					unit, rules = "any", "reductions of the result and the readings above, see [formulas](formulas.md)"
				}
				rules = strings.TrimPrefix(rules, "; ")
				if s.Default != "" {
					rules = strings.TrimSpace(rules + " begins as “" + s.Default + "”")
				}
				fmt.Fprintf(&b, "| `%s` | %s | %s | %s |\n", s.Name, s.Label, unit, rules)
			}
		}
	}
	return b.String()
}

// properties writes the table of the properties of materials.
func properties() string {
	var b strings.Builder
	b.WriteString("| key | property | unit |\n|---|---|---|\n")
	for _, d := range material.Definitions {
		unit := d.Unit
		if unit == "" {
			unit = "plain number"
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", d.Key, d.Name, unit)
	}
	return b.String() + "\n"
}

const propertiesMark = "<!-- properties -->\n"

// outlines writes the table of the outlines.
func outlines() string {
	var b strings.Builder
	b.WriteString("| kind | uses | how it lies, and its sides |\n|---|---|---|\n")
	for _, k := range model.OutlineKinds {
		var uses []string
		for _, d := range k.Dimensions() {
			text := "`" + d.Name + "`"
			if d.Optional {
				text += " (may be missing)"
			}
			uses = append(uses, text)
		}
		if k.Points {
			uses = append(uses, "`points`")
		}
		if k.Key == "path" {
			uses = append(uses, "`smooth`")
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s |\n", k.Key, strings.Join(uses, ", "), k.About)
	}
	return b.String() + "\n"
}

const outlinesMark = "<!-- outlines -->\n"

// filled puts the generated tables behind their marks.
func filled(t *testing.T, head string) string {
	for _, table := range []struct{ mark, text, next string }{
		{outlinesMark, outlines(), "`points` are"}, {propertiesMark, properties(), "`conductivity_y` and"}} {
		before, after, ok := strings.Cut(head, table.mark)
		require.True(t, ok)
		_, rest, ok := strings.Cut(after, table.next)
		require.True(t, ok)
		head = before + table.mark + table.text + table.next + rest
	}
	return head
}

// TestFieldsAreWrittenDown: the page names every field of the file.
func TestFieldsAreWrittenDown(t *testing.T) {
	data, err := os.ReadFile(referencePage)
	require.NoError(t, err)
	head, _, ok := strings.Cut(string(data), referenceMark)
	require.True(t, ok)
	seen, count := map[reflect.Type]bool{}, 0
	var look func(kind reflect.Type)
	look = func(kind reflect.Type) {
		for kind.Kind() == reflect.Pointer || kind.Kind() == reflect.Slice || kind.Kind() == reflect.Map {
			kind = kind.Elem()
		}
		if kind.Kind() != reflect.Struct || seen[kind] {
			return
		}
		seen[kind] = true
		for i := range kind.NumField() {
			f := kind.Field(i)
			if name, _, _ := strings.Cut(f.Tag.Get("json"), ","); name != "" && name != "-" {
				count++
				word := regexp.MustCompile("[`.]" + name + "[`.]")
				assert.True(t, word.MatchString(head), "%s.%s is not written down", kind.Name(), name)
			}
			look(f.Type)
		}
	}
	look(reflect.TypeFor[model.Document]())
	assert.Greater(t, count, 80)
}

// TestTheExampleOfThePageSettles: a model written from the page alone solves.
func TestTheExampleOfThePageSettles(t *testing.T) {
	data, err := os.ReadFile(referencePage)
	require.NoError(t, err)
	_, text, ok := strings.Cut(string(data), "```json\n")
	require.True(t, ok)
	text, _, _ = strings.Cut(text, "```")
	doc, err := model.Parse([]byte(text))
	require.NoError(t, err)
	_, findings := model.Resolve(doc, physics.Catalog())
	assert.Empty(t, findings)
	o, err := solve.Run(t.Context(), doc, solve.Options{})
	require.NoError(t, err)
	assert.Equal(t, result.Settled, o.Status)
	require.Len(t, o.Readings, 1)
	assert.Equal(t, "°C", o.Readings[0].Shown.Unit)
}

func TestReferenceAndSchema(t *testing.T) {
	text := reference(physics.Catalog())
	data, err := os.ReadFile(referencePage)
	require.NoError(t, err)
	head, old, ok := strings.Cut(string(data), referenceMark)
	require.True(t, ok)
	if *update {
		require.NoError(t, os.WriteFile(referencePage, []byte(filled(t, head)+referenceMark+text), 0o644))
		require.NoError(t, os.WriteFile(schemaFile, schema(t), 0o644))
		return
	}
	assert.Equal(t, head, filled(t, head), "docs/model.md is out of date: run make docs")
	assert.Equal(t, old, text, "docs/model.md is out of date: run make docs")
	kept, err := os.ReadFile(schemaFile)
	require.NoError(t, err)
	assert.Equal(t, string(kept), string(schema(t)), "docs/model.schema.json is out of date: run make docs")
}

func TestExamplesFitTheSchema(t *testing.T) {
	c := validate.NewCompiler()
	parsed, err := validate.UnmarshalJSON(bytes.NewReader(schema(t)))
	require.NoError(t, err)
	require.NoError(t, c.AddResource("model.schema.json", parsed))
	s, err := c.Compile("model.schema.json")
	require.NoError(t, err)
	files, err := filepath.Glob("../../examples/*.kettle.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		data, err := os.ReadFile(name)
		require.NoError(t, err)
		doc, err := validate.UnmarshalJSON(bytes.NewReader(data))
		require.NoError(t, err)
		assert.NoError(t, s.Validate(doc), name)
		wrong, err := validate.UnmarshalJSON(strings.NewReader(strings.Replace(string(data), `"aim"`, `"goal"`, 1)))
		require.NoError(t, err)
		assert.Error(t, s.Validate(wrong), "an unknown field")
	}
}
