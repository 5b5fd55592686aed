package web

import (
	"fmt"
	"strings"

	"saltkettle/core/model"
)

// fillOf says what a part fills, nil if it displaces others.
func (k *briefMaker) fillOf(at string, p *model.Part) *fillView {
	f := p.Fill
	if f == nil {
		return nil
	}
	v := &fillView{X: k.field(at+"fill/x", f.X, "place from which it fills, x", "anywhere"), Y: k.field(at+"fill/y", f.Y, "place from which it fills, y", "0"), Z: k.field(at+"fill/z", f.Z, "place from which it fills, z", "0")}
	for i, c := range f.Caps {
		place := at + "fill/caps/" + c.ID + "/"
		what := fmt.Sprintf(" of cap %d", i+1)
		v.Caps = append(v.Caps, capView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, Name: k.field(place+"name", c.Name, "name"+what, "name"),
			FromX: k.field(place+"from_x", c.FromX, "beginning"+what+", x", "x"), FromY: k.field(place+"from_y", c.FromY, "beginning"+what+", y", "y"),
			ToX: k.field(place+"to_x", c.ToX, "end"+what+", x", "x"), ToY: k.field(place+"to_y", c.ToY, "end"+what+", y", "y")})
	}
	return v
}

// nears lists the wishes for cells at patches.
func (k *briefMaker) nears() []nearView {
	var list []nearView
	for i, n := range k.doc.Mesh.Near {
		place := "mesh/near/" + n.ID + "/"
		list = append(list, nearView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, On: k.patchField(place+"on", n.On, fmt.Sprintf("where wish %d for cells is", i+1)), Size: k.field(place+"size", n.Size, "cell size there", "size")})
	}
	return list
}

// walls lists the layers along patches.
func (k *briefMaker) walls() []wallView {
	var list []wallView
	for i, w := range k.doc.Mesh.Walls {
		place, what := "mesh/walls/"+w.ID+"/", fmt.Sprintf(" of layers %d", i+1)
		list = append(list, wallView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, On: k.patchField(place+"on", w.On, "place"+what), First: k.field(place+"first", w.First, "thickness of the first"+what, "thickness"),
			Count: k.field(place+"count", w.Count, "number"+what, "5"), Growth: k.field(place+"growth", w.Growth, "growth"+what, "1.2")})
	}
	return list
}

// cuts lists the planes of symmetry.
func (k *briefMaker) cuts() []cutView {
	var list []cutView
	axes := k.doc.Space.Axes()
	for i, c := range k.doc.Space.Cuts {
		place := "space/cuts/" + c.ID + "/"
		list = append(list, cutView{Place: strings.TrimSuffix(place, "/"), Number: i + 1, Across: k.choice(place+"across", c.Across, "axis of the cut", axes, axes), At: k.field(place+"at", c.At, "place of the cut", "0"),
			Keep: k.choice(place+"keep", c.Keep, "what stays", []string{model.Greater, model.Less}, []string{"greater", "lesser"})})
	}
	return list
}
