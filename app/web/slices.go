package web

import (
	"strings"

	"saltkettle/core/model"
)

// sliceView is a slice of a plate as fields.
type sliceView struct {
	Place            string
	Number           int
	Across, At, Keep field
}

// sliceConfig is a slice as the script needs it, m.
type sliceConfig struct {
	ID     string     `json:"id"`
	Normal [3]float64 `json:"normal"`
	At     float64    `json:"at"`
	Keep   int        `json:"keep"`
}

// slices lists those of a plate.
func (k *briefMaker) slices(p *model.Plate) []sliceView {
	var list []sliceView
	for i, s := range p.Slices {
		place := "plates/" + p.ID + "/slices/" + s.ID + "/"
		list = append(list, sliceView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, Across: k.field(place+"across", s.Across, "axis of the slice, or a direction such as 1, 1, 0", "x"), At: k.field(place+"at", s.At, "place of the slice", "0 mm"),
			Keep: k.choice(place+"keep", s.Keep, "what is seen", []string{model.Less, model.Greater, ""}, []string{"what is less", "what is greater", "both sides"})})
	}
	return list
}

// levelView is a level of the field of a plate.
type levelView struct {
	Place  string
	Number int
	At     field
}

// levels lists those of a plate.
func (k *briefMaker) levels(p *model.Plate) []levelView {
	var list []levelView
	for i, l := range p.Levels {
		place := "plates/" + p.ID + "/levels/" + l.ID
		list = append(list, levelView{place, i + 1, k.field(place+"/at", l.At, "value of the level", "value")})
	}
	return list
}
