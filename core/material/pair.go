package material

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"fmt"
	"sync"
)

// Pair is what two substances do with each other: how fast one diffuses through the other, or how
// much of it that takes up.
type Pair struct {
	Solute string `json:"solute"`
	In     string `json:"in"`
	Of     Key    `json:"property"`
	Property
}

//go:embed pairs.json
var pairsJSON []byte

var pairs = sync.OnceValues(func() ([]Pair, error) {
	dec := json.NewDecoder(bytes.NewReader(pairsJSON))
	dec.DisallowUnknownFields()
	var list []Pair
	if err := dec.Decode(&list); err != nil {
		return nil, fmt.Errorf("the pairs of substances cannot be read: %w", err)
	}
	return list, nil
})

// Pairs returns those that ship with the program. The slice must not be changed.
func Pairs() []Pair {
	list, err := pairs()
	if err != nil {
		panic("material: " + err.Error()) // the file is embedded and tested
	}
	return list
}

// Function reads the property of the pair.
func (p Pair) Function() (Function, error) {
	m := Material{Name: p.Solute + " in " + p.In, Properties: map[Key]Property{p.Of: p.Property}}
	return m.Function(p.Of, nil)
}
