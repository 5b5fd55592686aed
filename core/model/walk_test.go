package model

import (
	"fmt"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"

	"saltkettle/core/material"
)

// elsewhere are the texts of documents that a walk leaves out, by type and field: names by which things are
// known, what sentences are about, and what the page of materials edits.
var elsewhere = map[string]bool{
	"Sentence.Kind": true, "Patch.Part": true, "Patch.Side": true, "Patch.Copies": true, "Patch.Facing": true, "Patch.More": true, "Physics.Kind": true, "Parameter.Name": true, "Material.Name": true, "Material.Family": true, "Material.About": true,
	"Material.Temper": true, "Property.Source": true, "Property.At": true, "Property.From": true, "Property.To": true, "Property.Basis": true, "Property.Spread": true, "Property.Uncertainty": true,
	"Ask.Place": true, "Ask.Value": true, "Ask.Message": true, "Ask.Fix": true, "Surface.Content": true, "Material.Finish": true, "Finish.Name": true, "Finish.Emissivity": true, "Finish.Roughness": true, "Finish.Source": true,
}

// TestAWalkVisitsEveryText: a document in which every text is another one is walked through; what
// is added to a document and forgotten in the walk is found here.
func TestAWalkVisitsEveryText(t *testing.T) {
	d := &Document{}
	all := map[string]string{} // by text, where it is
	count := 0
	var fill func(v reflect.Value, depth int)
	fill = func(v reflect.Value, depth int) {
		if depth > 6 { // a hole has an outline, which has holes
			return
		}
		switch v.Kind() {
		case reflect.Pointer:
			v.Set(reflect.New(v.Type().Elem()))
			fill(v.Elem(), depth)
		case reflect.Slice:
			if v.Type().Elem().Kind() == reflect.Struct {
				v.Set(reflect.MakeSlice(v.Type(), 1, 1))
				fill(v.Index(0), depth+1)
			}
		case reflect.Map:
			e := reflect.New(v.Type().Elem()).Elem()
			key := reflect.ValueOf("something").Convert(v.Type().Key())
			if v.Type().Key() == reflect.TypeFor[material.Key]() {
				key = reflect.ValueOf(material.Conductivity)
			}
			if v.Type() == reflect.TypeFor[map[string]string]() && len(d.Materials) == 1 && len(d.Conditions) == 0 {
				key = reflect.ValueOf(material.States[0].Name)
			}
			fill(e, depth+1)
			v.Set(reflect.MakeMap(v.Type()))
			v.SetMapIndex(key, e)
			if e.Kind() == reflect.String {
				all[e.String()] = v.Type().String()
			}
		case reflect.Struct:
			for i := range v.NumField() {
				f := v.Type().Field(i)
				if !f.IsExported() {
					continue
				}
				fill(v.Field(i), depth+1)
				if name := v.Type().Name() + "." + f.Name; v.Field(i).Kind() == reflect.String && !elsewhere[name] && f.Name != "ID" {
					all[v.Field(i).String()] = name
				}
			}
		case reflect.String:
			count++
			v.SetString(fmt.Sprintf("t%d", count))
		}
	}
	fill(reflect.ValueOf(d).Elem(), 0)
	d.Enumerate()
	seen, places := map[string]bool{}, map[string]bool{}
	d.walk(func(v value) {
		seen[*v.text] = true
		assert.False(t, places[v.place], "%s is visited twice", v.place)
		places[v.place] = true
		if v.place != "materials/t1" && v.formula || v.decides {
			assert.NotEmpty(t, v.words, v.place)
		}
	})
	for text, where := range all {
		assert.True(t, seen[text], "%s is not walked", where)
	}
	assert.Greater(t, len(seen), 90)
}
