package model

import (
	"slices"
	"strings"

	"saltkettle/core/sentence"
)

// usualPlate begins the ids of plates that nobody has made: those that physics declare, see
// [sentence.Usual], as long as nothing about them is changed.
const usualPlate = "usual-"

// IsUsual says that a plate of an id is one that nobody has made.
func (d *Document) IsUsual(id string) bool {
	return strings.HasPrefix(id, usualPlate) && !slices.ContainsFunc(d.Plates, func(p Plate) bool { return p.ID == id })
}

// usual is the plate that a field declares.
func usual(f *sentence.Field) Plate {
	p := Plate{ID: usualPlate + f.Name, Name: plateName(f), Field: f.Name, Unit: f.Units[0]}
	if f.Usual.Bent {
		p.Bent = Automatic
	}
	if f.Usual.Streams != "" {
		p.Streams, _ = appended(p.Streams, Streams{Field: f.Name, From: Everywhere, Count: f.Usual.Streams})
	}
	if f.Usual.Arrows != "" {
		p.Arrows, _ = appended(p.Arrows, Arrows{Field: f.Name, On: Inside, Count: f.Usual.Arrows})
	}
	return p
}

// AllPlates are those of the document and behind them the usual ones of the fields that a result has and
// no other plate shows. A document without plates has those that all begin with.
func (d *Document) AllPlates(cat *Catalog, has func(field string) bool) []Plate {
	cat = cat.For(d)
	list := slices.Clone(d.Plates)
	if len(list) == 0 {
		list = New("").Plates
	}
	for i := range cat.Fields {
		f := &cat.Fields[i]
		shown := slices.ContainsFunc(list, func(p Plate) bool { return p.Field == f.Name })
		if f.Usual != nil && !shown && has(f.Name) {
			list = append(list, usual(f))
		}
	}
	return list
}

// KeepUsual makes the usual plate of an id one of the document, so that it can be changed; of any other id
// it does nothing.
func (d *Document) KeepUsual(cat *Catalog, id string) {
	if !d.IsUsual(id) {
		return
	}
	if f, ok := cat.For(d).Field(strings.TrimPrefix(id, usualPlate)); ok && f.Usual != nil {
		if len(d.Plates) == 0 {
			d.Plates = New("").Plates
		}
		d.Plates = append(d.Plates, usual(&f))
	}
}
