// Package spoilt makes models that nobody would write, for tests: examples with any of their
// texts exchanged for any others.
package spoilt

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"saltkettle/core/model"
	"saltkettle/examples"
)

// Texts are some that are easily taken for what they are not.
var Texts = []string{"((1 m)^5)^5", "temperature/temperature", "1e308 m", "0 m", "table(x, 0: 0)", "parsec", "-1", "0/0", "mean(x over floor)", "é\x00<b>", "9e18", "t"}

// leaves are the texts in a document of JSON, as functions that set them, in one order.
func leaves(v any, list []func(string)) []func(string) {
	switch v := v.(type) {
	case map[string]any:
		for _, key := range slices.Sorted(maps.Keys(v)) {
			if _, ok := v[key].(string); ok {
				list = append(list, func(text string) { v[key] = text })
			} else {
				list = leaves(v[key], list)
			}
		}
	case []any:
		for i := range v {
			if _, ok := v[i].(string); ok {
				list = append(list, func(text string) { v[i] = text })
			} else {
				list = leaves(v[i], list)
			}
		}
	}
	return list
}

// Model is an example with two of its texts exchanged; ok is false if that cannot be imported.
func Model(example, first uint, value string, second uint, other string) (doc *model.Document, ok bool, err error) {
	doc, err = examples.Load(examples.List[example%uint(len(examples.List))].Key)
	if err != nil {
		return nil, false, err
	}
	var tree any
	if err := json.Unmarshal(doc.Bytes(), &tree); err != nil {
		return nil, false, fmt.Errorf("an example cannot be read back: %w", err)
	}
	list := leaves(tree, nil)
	list[first%uint(len(list))](value)
	list[second%uint(len(list))](other)
	data, err := json.Marshal(tree)
	if err != nil {
		return nil, false, err
	}
	changed, wrong := model.Parse(data)
	if wrong != nil || changed.CheckLabels() != nil {
		return nil, false, nil
	}
	return changed, true, nil
}
