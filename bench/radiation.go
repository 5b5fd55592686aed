package main

import (
	"context"
	"fmt"
	"os"
	"slices"
	"text/tabwriter"
	"time"

	"saltkettle/core/model"
	"saltkettle/core/solve"
	"saltkettle/examples"
)

// radiation compares runs of the drying cabinet with view factors that are known and
// without radiation.
func radiation(w *tabwriter.Writer) error {
	dir, err := os.MkdirTemp("", "views")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	const open = "22 mm"
	fmt.Fprintln(w, "\ndrying cabinet\tfacets\tcells\twithout s\twith s\tratio\tview factors s\t")
	for _, size := range []string{open, "16 mm"} {
		doc, err := examples.Load("drying-cabinet")
		if err != nil {
			return err
		}
		if err := doc.Set("mesh/size", size); err != nil {
			return err
		}
		if size == open {
			// Without the thin walls, few facets.
			for _, part := range []string{"side", "back", "foot"} {
				doc.Parts = slices.DeleteFunc(doc.Parts, func(p model.Part) bool { return p.ID == part })
			}
			doc.Conditions = slices.DeleteFunc(doc.Conditions, func(c model.Sentence) bool { return doc.Part(c.On.Part) < 0 && c.On.Part != "" })
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
		if err := doc.Set("conditions/c2/off", "true"); err != nil {
			return err
		}
		without, err := best(once)
		if err != nil {
			return err
		}
		fmt.Fprintf(w, "%s\t%d\t%d\t%.3f\t%.3f\t%.2f\t%.2f\t\n", size, facets, o.Mesh.Cells, without, with, with/without, views)
	}
	return nil
}
