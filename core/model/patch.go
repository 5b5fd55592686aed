package model

import (
	"fmt"
	"strconv"
	"strings"
)

// String writes a patch in one line, as forms carry it: part|side|copy|facing.
func (p Patch) String() string {
	if p == (Patch{}) {
		return ""
	}
	n := ""
	if p.Copy > 0 {
		n = strconv.Itoa(p.Copy)
	}
	return strings.TrimRight(strings.Join([]string{p.Part, p.Side, n, p.Facing}, "|"), "|")
}

// ParsePatch reads what String writes.
func ParsePatch(text string) (Patch, error) {
	if text == "" {
		return Patch{}, nil
	}
	f := strings.Split(text, "|")
	if len(f) > 4 {
		return Patch{}, fmt.Errorf("%q is not a patch", text)
	}
	f = append(f, "", "", "")
	p := Patch{Part: f[0], Side: f[1], Facing: f[3]}
	if f[2] != "" {
		n, err := strconv.Atoi(f[2])
		if err != nil || n < 1 {
			return Patch{}, fmt.Errorf("%q is not the number of a copy", f[2])
		}
		p.Copy = n
	}
	return p, nil
}

// PatchWords says what a patch is: "top of the pan floor". Unknown parts are
// given by their id.
func (d *Document) PatchWords(p Patch) string {
	if p.Part == "" {
		return "…"
	}
	name := d.partName(p.Part)
	if p.Copy > 0 {
		name += fmt.Sprintf(" %d", p.Copy)
	}
	var text string
	switch p.Side {
	case "":
		text = name
	case WholeSurface:
		text = "surface of the " + name
	case "left", "right", "front", "back":
		text = p.Side + " side of the " + name
	default:
		side := p.Side
		if strings.HasPrefix(side, "hole ") {
			side = "wall of " + side
		} else if strings.HasPrefix(side, "e") && strings.Trim(side[1:], "0123456789") == "" && len(side) > 1 {
			side = "edge " + side
		}
		text = side + " of the " + name
	}
	switch p.Facing {
	case "":
	case Outside:
		text += ", where it is free,"
	default:
		text += ", where it meets the " + d.partName(p.Facing) + ","
	}
	return text
}

func (d *Document) partName(id string) string {
	if i := d.Part(id); i >= 0 {
		if name := strings.TrimSpace(d.Parts[i].Name); name != "" {
			return name
		}
		return "part " + strconv.Itoa(i+1)
	}
	return id
}

// Words writes a sentence of the model.
func (d *Document) Words(cat *Catalog, s *Sentence) string {
	k, ok := cat.Kind(s.Kind)
	if !ok {
		return s.Kind
	}
	on := d.PatchWords(s.On)
	text := k.Words(on, s.Values)
	// A clause that closes with a comma needs none before the full stop.
	return strings.NewReplacer(",.", ".", ", ,", ",").Replace(text)
}
