package main

import (
	"context"
	"fmt"
	"runtime"
	"text/tabwriter"
	"time"

	"saltkettle/core/material"
	"saltkettle/core/model"
	"saltkettle/core/solve"
)

// solids solves a block that is bent, a strip that bends far, and finds twenty modes of it. Each is made once.
func solids(w *tabwriter.Writer) error {
	fmt.Fprintln(w, "\nsolids\tcells\tunknowns\tsolve s\ttotal s\tsteps\titerations\tpeak so far MB\t")
	far := strip("5 mm")
	far.Conditions = append(far.Conditions, model.Sentence{ID: "c3", Kind: "solid.large"}, model.Sentence{ID: "c4", Kind: "solid.force", On: model.Patch{Part: "bar", Side: "right"}, Values: map[string]string{"z": "15 kN"}})
	modes := strip("4 mm")
	modes.Run = model.Run{Kind: model.Modes, Count: "20"}
	for _, j := range []struct {
		name string
		doc  *model.Document
	}{
		{"strip that bends far", far}, {"twenty modes of it", modes},
		{"block, 4 mm", block("4 mm")}, {"block, 3 mm", block("3 mm")},
	} {
		runtime.GC()
		o, err := solve.Run(context.Background(), j.doc, solve.Options{Now: time.Now})
		if err != nil {
			return fmt.Errorf("%s: %w", j.name, err)
		}
		fmt.Fprintf(w, "%s\t%d\t%d\t%.1f\t%.1f\t%d\t%d\t%d\t\n", j.name, o.Mesh.Cells, o.Mesh.Unknowns, o.Seconds["solve"], o.Seconds["total"], len(o.Solver.Steps), o.Solver.Iterations, peakMemory()>>20)
		w.Flush()
	}
	return nil
}

// bar is a bar that is fixed at its left end, as long, wide and thick as is said, mm.
func bar(length, width, thick float64, size string) *model.Document {
	d := model.New("bar")
	d.Physics = nil
	d.Materials = []material.Material{{Name: "alloy", Family: "metal", Properties: map[material.Key]material.Property{
		material.YoungsModulus: {Value: "70 GPa"}, material.PoissonRatio: {Value: "0.33"}, material.Density: {Value: "2700 kg/m³"}}}}
	mm := func(x float64) string { return fmt.Sprintf("%g mm", x) }
	d.Parts = []model.Part{{ID: "bar", Name: "bar", Material: "alloy", Role: model.Solved, Outline: model.Outline{Kind: "rectangle", Width: mm(length), Depth: mm(width)},
		Span: model.Span{From: "0 mm", To: mm(thick)}, Place: model.Place{X: mm(length / 2)}}}
	d.Conditions = []model.Sentence{{ID: "c1", Kind: "solid.bends", On: model.Patch{Part: "bar"}}, {ID: "c2", Kind: "solid.fixed", On: model.Patch{Part: "bar", Side: "left"}}}
	d.Mesh = model.Mesh{Size: size, Across: "2"}
	d.Enumerate()
	return d
}

func strip(size string) *model.Document { return bar(400, 40, 10, size) }

// block is a stout bar that a force bends.
func block(size string) *model.Document {
	d := bar(100, 60, 40, size)
	d.Conditions = append(d.Conditions, model.Sentence{ID: "c3", Kind: "solid.force", On: model.Patch{Part: "bar", Side: "right"}, Values: map[string]string{"z": "-50 N"}})
	return d
}
