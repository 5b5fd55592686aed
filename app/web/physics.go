package web

import (
	"fmt"
	"strings"

	"saltkettle/core/material"
	"saltkettle/core/model"
)

// physicsView is the section that says which physics live where, and whether time
// passes.
type physicsView struct {
	Heat    field
	Current string
	Run     field
	// Of a run in time.
	InTime                                      bool
	End, Start, Tolerance, Longest, From, Until field
}

// physics says which physics live where.
func (k *briefMaker) physics() physicsView {
	d := k.doc
	var solved, conducting []int
	for i, p := range d.Parts {
		if p.Role == model.Solved {
			solved = append(solved, i+1)
		}
		if k.resolved.Parts[i].Conducts {
			conducting = append(conducting, i+1)
		}
	}
	v := physicsView{
		Heat: k.choice("physics/heat", fmt.Sprint(d.Solves("heat")), "whether heat is solved for", []string{"true", "false"},
			[]string{"Heat is conducted in " + partsWords(solved, "the solved parts"), "Heat is left out"}),
		Current: "Current flows nowhere.",
		Run:     k.choice("run/kind", kindOf(d), "kind of run", []string{model.Steady, model.Transient}, []string{"steady", "in time"}),
		InTime:  d.Transient(),
	}
	if len(conducting) > 0 {
		v.Current = "Current flows in " + partsWords(conducting, "") + "."
		if k.resolved.Static {
			v.Current = "A field of charges fills " + partsWords(conducting, "") + "."
		}
	}
	v.Heat.Class = strings.TrimSpace(strings.Replace(v.Heat.Class, "varies", "", 1) + " patch")
	v.End = k.field("run/end", d.Run.End, "length of time", "10 min")
	v.Start = k.field("run/start", d.Run.Start, "temperature at the start", "20 °C")
	v.From = k.field("run/from", strings.TrimPrefix(d.Run.From, "#"), "run that this one goes on from", "none")
	v.Until = k.field("run/until", d.Run.Until, "condition that ends the run", "r1 > 60 °C")
	v.Tolerance = k.field("run/tolerance", d.Run.Tolerance, "tolerance of a step in time", "0.01 %")
	v.Longest = k.field("run/longest", d.Run.Longest, "longest step in time", "any length")
	return v
}

func kindOf(d *model.Document) string {
	if d.Transient() {
		return model.Transient
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
	list := []material.Key{material.Conductivity, material.Density}
	if k.doc.Transient() {
		list = append(list, material.HeatCapacity)
	}
	if p := &k.resolved.Parts[part]; p.Conducts {
		if k.resolved.Static {
			return append(list, material.Permittivity)
		}
		list = append(list, material.Resistivity)
		if p.Seebeck.Program != nil || p.Material.Has(material.Seebeck) {
			list = append(list, material.Seebeck)
		}
	}
	return list
}
