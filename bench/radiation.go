package main

import (
	"context"
	"fmt"
	"os"
	"slices"
	"text/tabwriter"
	"time"

	"saltkettle/core/model"
	"saltkettle/core/physics/heat"
	"saltkettle/core/solve"
	"saltkettle/examples"
)

// radiation compares runs with view factors that are known and runs without radiation:
// the drying cabinet, which is nearly all surface, and the floor of a pan, which is not.
func radiation(w *tabwriter.Writer) error {
	dir, err := os.MkdirTemp("", "views")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	fmt.Fprintln(w, "\nradiation\tsize\tfacets\tcells\twithout s\twith s\tratio\tview factors s\t")
	for _, c := range []struct {
		name, size, across string
		open               bool // without the thin walls, few facets
	}{{"drying-cabinet", "22 mm", "", true}, {"drying-cabinet", "16 mm", "", false}, {"pan-floor", "6 mm", "1", false}, {"pan-floor", "3 mm", "2", false}, {"pan-floor", "5 mm", "3", false}} {
		doc, err := examples.Load(c.name)
		if err != nil {
			return err
		}
		if err := doc.Set("mesh/size", c.size); err != nil {
			return err
		}
		if c.across != "" {
			if err := doc.Set("mesh/across", c.across); err != nil {
				return err
			}
		}
		if c.open {
			for _, part := range []string{"side", "back", "foot"} {
				doc.Parts = slices.DeleteFunc(doc.Parts, func(p model.Part) bool { return p.ID == part })
			}
			doc.Conditions = slices.DeleteFunc(doc.Conditions, func(c model.Sentence) bool { return doc.Part(c.On.Part) < 0 && c.On.Part != "" })
		}
		exchange := slices.IndexFunc(doc.Conditions, func(c model.Sentence) bool { return c.Kind == heat.KeyEnclosure })
		if exchange < 0 {
			exchange = len(doc.Conditions)
			doc.Conditions = append(doc.Conditions, model.Sentence{ID: "radiation", Kind: heat.KeyEnclosure, Values: map[string]string{"temperature": "20 °C"}})
		}
		var o *solve.Outcome
		once := func() (err error) {
			o, err = solve.Run(context.Background(), doc, solve.Options{Now: time.Now, Views: dir})
			return err
		}
		if err := once(); err != nil {
			return err
		}
		views, facets := o.Seconds["views"], o.Radiation.Facets
		with, err := best(once)
		if err != nil {
			return err
		}
		doc.Conditions[exchange].Off = true
		without, err := best(once)
		if err != nil {
			return err
		}
		fmt.Fprintf(w, "%s\t%s\t%d\t%d\t%.3f\t%.3f\t%.2f\t%.2f\t\n", c.name, c.size, facets, o.Mesh.Cells, without, with, with/without, views)
	}
	return nil
}
