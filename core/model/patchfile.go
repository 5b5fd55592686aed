package model

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// PatchFile is a patch in a file, where what is added, what is taken away and the box are lists.
type PatchFile struct {
	Part   string      `json:"part"`
	Side   string      `json:"side,omitempty"`
	Copy   int         `json:"copy,omitempty"`
	Copies string      `json:"copies,omitempty"`
	Facing string      `json:"facing,omitempty"`
	Also   []PatchFile `json:"also,omitempty"`
	But    []PatchFile `json:"but,omitempty"`
	// Within are the ends along x, y and z; empty means no end.
	Within *Box `json:"within,omitempty"`
}

func (p Patch) file() PatchFile {
	return PatchFile{Part: p.Part, Side: p.Side, Copy: p.Copy, Copies: p.Copies, Facing: p.Facing}
}

func (f PatchFile) patch() Patch {
	return Patch{Part: f.Part, Side: f.Side, Copy: f.Copy, Copies: f.Copies, Facing: f.Facing}
}

// MarshalJSON writes the patch as files have it.
func (p Patch) MarshalJSON() ([]byte, error) {
	added, taken, box := p.Terms()
	f := added[0].file()
	for _, t := range added[1:] {
		f.Also = append(f.Also, t.file())
	}
	for _, t := range taken {
		f.But = append(f.But, t.file())
	}
	f.Within = box
	return json.Marshal(f)
}

// UnmarshalJSON reads what MarshalJSON writes.
func (p *Patch) UnmarshalJSON(data []byte) error {
	var f PatchFile
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&f); err != nil {
		return err
	}
	added, taken := []Patch{f.patch()}, []Patch(nil)
	for _, list := range []struct {
		from []PatchFile
		to   *[]Patch
	}{{f.Also, &added}, {f.But, &taken}} {
		for _, t := range list.from {
			term, err := t.further()
			if err != nil {
				return err
			}
			*list.to = append(*list.to, term)
		}
	}
	if f.Within != nil {
		for _, ends := range f.Within {
			if marked(ends[:]...) {
				return fmt.Errorf("a box from %q to %q has a sign in it that no formula has; take | and %s out", ends[0], ends[1], between)
			}
		}
	}
	*p = of(added, taken, f.Within)
	return nil
}

// further reads a patch that is added or taken away, which has none of these itself.
func (f PatchFile) further() (Patch, error) {
	if len(f.Also) > 0 || len(f.But) > 0 || f.Within != nil {
		return Patch{}, fmt.Errorf("the patch of the part %q, which is added or taken away, cannot have also, but or within itself; say them of the first patch", f.Part)
	}
	if marked(f.Part, f.Side, f.Copies, f.Facing) {
		return Patch{}, fmt.Errorf("the patch of the part %q has a sign in it that no name has; take | and %s out", f.Part, between)
	}
	return parseTerm(f.patch().term())
}

// marked says that texts hold what parts the terms of a patch.
func marked(texts ...string) bool {
	return slices.ContainsFunc(texts, func(t string) bool { return strings.ContainsAny(t, "|"+between) })
}
