package web

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/physics"
)

// physicsView is the section that says which physics live where, and whether time
// passes.
type physicsView struct {
	// Asked are choices, each with the words before it; Words say where others are solved for.
	Asked []field
	Words string
	// Expected is what is expected of a run, before it.
	Expected []string
	Run      field
	// Banded says that frequencies are the middles of bands, OneByOne that they are given so.
	Banded, OneByOne bool
	// Of a run in time: Starting is what the field that changes is called when it begins.
	InTime, Modal, Swings, Stepwise             bool
	Count, Lowest, Highest, Spread, Listed      field
	Starting                                    string
	End, Start, Tolerance, Longest, From, Until field
}

// physics says which physics live where.
func (k *briefMaker) physics() physicsView {
	d := k.doc
	v := physicsView{
		Run:    k.choice("run/kind", kindOf(d), "kind of run", []string{model.Steady, model.Transient, model.Modes, model.Response}, []string{"steady", "in time", "one that finds modes", "one that finds the response to what swings"}),
		InTime: d.Transient(), Modal: d.Modal(), Swings: d.Swings(), Stepwise: k.resolved.Stepwise,
	}
	var words, nowhere []string
	for _, p := range physics.Catalog().Physics {
		var parts []int
		for i, part := range d.Parts {
			if k.resolved.Lives(p.Key, i) || p.Asked && part.Role == model.Solved {
				parts = append(parts, i+1)
			}
		}
		lives := strings.ReplaceAll(p.Lives(k.resolved), "{}", partsWords(parts, "the solved parts"))
		if p.Changes {
			v.Starting = p.Start.Label
		}
		switch {
		case p.Asked:
			f := k.choice("physics/"+p.Key, fmt.Sprint(d.Solves(p.Key)), "whether "+p.Name+" is solved for", []string{"true", "false"}, []string{lives, p.Nowhere})
			f.Class = strings.TrimSpace(strings.Replace(f.Class, "varies", "", 1) + " patch")
			v.Asked = append(v.Asked, f)
		case len(parts) > 0:
			words = append(words, lives+".")
		default:
			nowhere = append(nowhere, p.Nowhere+".")
		}
	}
	v.Words = strings.Join(append(words, nowhere...), " ")
	for _, e := range k.resolved.Expected {
		if e.Words != "" {
			v.Expected = append(v.Expected, e.Words)
		}
	}
	v.Count = k.field("run/count", d.Run.Count, "number of modes", "6")
	if v.Swings {
		v.Count = k.field("run/count", d.Run.Count, "number of frequencies", "40")
	}
	v.Lowest = k.field("run/lowest", d.Run.Lowest, "lowest frequency", "10 Hz")
	v.Highest = k.field("run/highest", d.Run.Highest, "highest frequency", "1 kHz")
	v.Spread = k.choice("run/spread", cmp.Or(d.Run.Spread, model.ByRatio), "spread of frequencies", []string{model.ByRatio, model.Evenly, model.Octaves, model.ThirdOctaves, model.Listed},
		[]string{"spread by their ratio", "spread evenly", "middles of octaves", "middles of third octaves", "given one by one"})
	v.Banded, v.OneByOne = d.Run.Spread == model.Octaves || d.Run.Spread == model.ThirdOctaves, d.Run.Spread == model.Listed
	v.Listed = k.field("run/listed", d.Run.Listed, "frequencies", "100 Hz, 250 Hz, 1 kHz")
	v.End = k.field("run/end", d.Run.End, "length of time", "10 min")
	v.Start = k.field("run/start", d.Run.Start, v.Starting, "20 °C")
	v.From = k.field("run/from", strings.TrimPrefix(d.Run.From, "#"), "run that this one goes on from", "none")
	v.Until = k.field("run/until", d.Run.Until, "condition that ends the run", "r1 > 60 °C")
	v.Tolerance = k.field("run/tolerance", d.Run.Tolerance, "tolerance of a step in time", "0.01 %")
	v.Longest = k.field("run/longest", d.Run.Longest, "longest step in time", "any length")
	return v
}

func kindOf(d *model.Document) string {
	if d.Dynamic() {
		return d.Run.Kind
	}
	return model.Steady
}

// partsWords names parts by their numbers.
func partsWords(numbers []int, none string) string {
	switch {
	case len(numbers) == 0:
		return none
	case len(numbers) == 1:
		return fmt.Sprintf("part %d", numbers[0])
	case numbers[len(numbers)-1]-numbers[0] == len(numbers)-1 && len(numbers) > 2:
		return fmt.Sprintf("parts %d–%d", numbers[0], numbers[len(numbers)-1])
	}
	words := make([]string, len(numbers))
	for i, n := range numbers {
		words[i] = fmt.Sprint(n)
	}
	return "parts " + strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

// needed lists the properties that the physics of a part use.
func (k *briefMaker) needed(part int) []material.Key {
	p := &k.resolved.Parts[part]
	list := slices.Clone(p.Wanted)
	if !slices.Contains(list, material.Density) {
		list = append(list, material.Density)
	}
	for _, key := range list {
		if key == material.Resistivity && p.Material.Has(material.Seebeck) && !slices.Contains(list, material.Seebeck) {
			list = append(list, material.Seebeck)
		}
	}
	order := func(key material.Key) int {
		return slices.IndexFunc(material.Definitions, func(d material.Definition) bool { return d.Key == key })
	}
	slices.SortFunc(list, func(a, b material.Key) int { return order(a) - order(b) })
	return list
}
