package web

import (
	"strings"

	"saltkettle/core/model"
	"saltkettle/core/physics"
	"saltkettle/core/quantity"
)

// parameterView is a row of the parameters.
type parameterView struct {
	Name, Value, About field
	Unit, Least, Most  field
	Used               []model.Use
	Bounded            bool
	Faulty             bool
	Lower              bool   // its value can be put back
	Differs            string // what it is, of a formula that differs from place to place, or in time
}

// parameters are the rows of the parameters of the model.
func (k *briefMaker) parameters() (list []parameterView) {
	uses := k.doc.Uses(physics.Catalog())
	for _, p := range k.doc.Parameters {
		at := "parameters/" + p.Name
		v := k.field(at+"/value", p.Value, "value of "+p.Name, "value")
		if v.Class == "" {
			v.Class = "varies"
		}
		row := parameterView{
			Name: k.field(at+"/name", p.Name, "name of the parameter", "name"), Value: v,
			About: k.field(at+"/about", p.About, "what "+p.Name+" is", "what it is"), Used: uses[p.Name], Lower: strings.TrimSpace(p.Value) != "",
			Unit:  k.field(at+"/unit", p.Unit, "unit of "+p.Name, "unit"),
			Least: k.field(at+"/least", p.Least, "least value of "+p.Name, "any"), Most: k.field(at+"/most", p.Most, "greatest value of "+p.Name, "any"),
			Bounded: p.Unit != "" || p.Least != "" || p.Most != "", Faulty: k.faulty[at]}
		if d, is := k.resolved.Definitions[p.Name]; is {
			row.Differs = d.Dimension.Name() + ", by place or time"
			if p.Unit == "" && d.Dimension != quantity.None {
				row.Differs += ", in " + d.Dimension.Symbol()
			}
		}
		list = append(list, row)
	}
	return list
}
